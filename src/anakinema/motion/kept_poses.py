"""Kept poses of a mechanism: how it stands in one now, and where a motion passes it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import compile_mechanism
from anakinema.mechanism.system import System
from anakinema.motion.assemble import close
from anakinema.motion.assemblies import kept_values
from anakinema.motion.branch_path import End
from anakinema.motion.motion import Motion, joined
from anakinema.units import ANGLE, LENGTH

SAME = 1e-6
"""Share of the size by which two poses may differ and be one."""
FINER, ROUNDS = 13, 6
"""Looks between two samples for the place where a motion passes a pose, each round a sixth of the
one before."""


@dataclass(frozen=True, slots=True, eq=False)
class Standing:
    """Poses (B, 3) as near to those kept as can be. ``chosen`` joints settle them, at the values
    ``wanted`` (C,) if it ``is_held``; ``closes``: the loops do."""

    poses: Floats
    chosen: tuple[int, ...]
    wanted: Floats
    is_held: bool
    closes: bool


def standing_in(resolved: Resolved, pose: model.KeptPose) -> Standing:
    """A kept pose of a mechanism as it is now.

    Its drivers, and what else it takes to settle it, stand as they were kept, the rest follows.
    Where that cannot be, the nearest pose that closes.
    """
    mechanism, guess = compile_mechanism(resolved), _as_kept(resolved, pose)
    chosen = kept_values(mechanism, guess)
    wanted = mechanism.values(guess)[list(chosen)]
    system = System(mechanism, chosen)
    closure = close(system, guess, system.targets(wanted, guess))
    if closure.is_closed:
        return Standing(closure.poses, chosen, wanted, True, True)
    free = System(mechanism)
    closure = close(free, closure.poses, free.at_rest)
    # Without a joint that settles it there is nothing that could be otherwise.
    return Standing(closure.poses, chosen, wanted, not chosen, closure.is_closed)


def _as_kept(resolved: Resolved, pose: model.KeptPose) -> Floats:
    """(B, 3): bodies where they were kept, those that were not where they are drawn."""
    poses = resolved.poses.copy()
    length, angle = resolved.units.factor(LENGTH), resolved.units.factor(ANGLE)
    scale = np.array([length, length, angle])
    kept = {each.body: each.pose for each in pose.placements}
    for k, body in enumerate(resolved.document.bodies):
        if body.id in kept and not body.fixed:
            at = kept[body.id]
            poses[k] = np.array([_plain(each) for each in (at.x, at.y, at.angle)]) * scale
    return poses


def _plain(value: model.Quantity) -> float:
    """A kept number; nobody writes expressions into a kept pose, but a file may have one."""
    return float(value) if not isinstance(value, str) else 0.0


def passes(motion: Motion, poses: Floats) -> float | None:
    """The progress at which a motion stands in poses (B, 3); None if it never does."""
    size = motion.mechanism.size
    if motion.poses.shape[1:] != poses.shape:
        return None

    def away(some: Floats) -> Floats:
        apart = some - poses
        apart[..., 2] = np.remainder(apart[..., 2] + np.pi, 2 * np.pi) - np.pi
        return np.asarray(np.abs(apart * np.array([1.0, 1.0, size])).max(axis=(1, 2)))

    samples = motion.progress
    k = int(np.argmin(away(motion.poses)))
    if not motion.segments:
        # A preview knows its samples only.
        return float(samples[k])
    low, high = float(samples[max(k - 1, 0)]), float(samples[min(k + 1, len(samples) - 1)])
    best = float(samples[k])
    for _ in range(ROUNDS):
        looks = np.linspace(low, high, FINER)
        far = away(motion.poses_at(looks))
        n = int(np.argmin(far))
        best = float(looks[n])
        low, high = float(looks[max(n - 1, 0)]), float(looks[min(n + 1, FINER - 1)])
    return best if float(away(motion.poses_at(np.array([best])))[0]) <= SAME * size else None


def between(motion: Motion, first: float, last: float) -> Motion:
    """The same motion from one progress to another, with samples at both."""
    inside = (motion.progress > first) & (motion.progress < last)
    if not motion.segments:
        inside = (motion.progress >= first) & (motion.progress <= last)
        return replace(
            motion, samples=motion.samples.taken(inside), reach=motion.reach[inside], events=()
        )
    ends = np.array([first, last])
    beside = np.append(motion.progress[inside], ends[::-1])
    # What lies between an end and the next sample is bounded from the end.
    reach = np.abs(np.array([beside[0], beside[np.count_nonzero(inside) - 1]]) - ends)
    if not inside.any():
        reach = np.full(2, last - first)
    states = [motion.at(ends[:1]), motion.samples.taken(inside), motion.at(ends[1:])]
    return replace(
        motion,
        samples=joined(states),
        reach=np.concatenate([reach[:1], motion.reach[inside], reach[1:]]),
        events=tuple(e for e in motion.events if first <= e.progress <= last),
        end=End.COMPLETE,
    )
