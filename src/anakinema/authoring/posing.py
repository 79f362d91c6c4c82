"""Poses kept under a name: how the mechanism stands in one now, and the way there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.edits.base import fresh_id
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.mechanism.system import System
from anakinema.motion.assemble import close
from anakinema.motion.assemblies import kept_values
from anakinema.motion.motion import Motion
from anakinema.units import ANGLE, LENGTH

DIGITS = 12
"""Behind the point, in the document's units."""
SAME = 1e-6
"""Share of the size by which two poses may differ and be one."""
FINER, ROUNDS = 13, 6
"""Looks between two samples for the place where a motion passes a pose, each round a sixth of the
one before."""
BEYOND = 1e-9
"""mm or rad that a value may be past a limit."""


@dataclass(frozen=True, slots=True, eq=False)
class Stood:
    """How a mechanism stands in a kept pose: poses (B, 3), the values that make it so as (joint,
    value) for people, and why it is not as it was kept, '' if it is."""

    poses: Floats
    values: tuple[tuple[str, str], ...]
    reason: str


def kept_pose(scene: Scene, poses: Floats, name: str, taken: Iterable[str]) -> model.KeptPose:
    """What is kept of poses (B, 3) of a scene, all that moves."""
    units = scene.resolved.units
    length, angle = units.factor(LENGTH), units.factor(ANGLE)
    return model.KeptPose(
        id=fresh_id(name, taken),
        name=name,
        placements=tuple(
            model.KeptPlacement(
                body=body.id,
                pose=model.Pose(
                    x=round(x / length, DIGITS),
                    y=round(y / length, DIGITS),
                    angle=round(turn / angle, DIGITS),
                ),
            )
            for body, (x, y, turn) in zip(
                scene.resolved.document.bodies, poses.tolist(), strict=True
            )
            if not body.fixed
        ),
    )


def stood(resolved: Resolved, pose: model.KeptPose) -> Stood:
    """A kept pose of a mechanism as it is now.

    Its drivers, and what else it takes to settle it, stand as they were kept, the rest follows.
    Where that cannot be, the nearest pose that closes.
    """
    mechanism, guess = compile_mechanism(resolved), _as_kept(resolved, pose)
    chosen = kept_values(mechanism, guess)
    wanted = mechanism.values(guess)[list(chosen)]
    system = System(mechanism, chosen)
    closure = close(system, guess, system.targets(wanted, guess))
    reason = ""
    if not closure.is_closed:
        free = System(mechanism)
        closure = close(free, closure.poses, free.at_rest)
        now = mechanism.values(closure.poses)[list(chosen)]
        scale = np.where(mechanism.angular[list(chosen)], mechanism.size, 1.0)
        reason = "Its loops do not close any more."
        if closure.is_closed and len(chosen):
            worst = int(np.argmax(np.abs(now - wanted) * scale))
            joint = chosen[worst]
            far, nearest = (_words(resolved, joint, each[worst]) for each in (wanted, now))
            title = resolved.document.joints[joint].title
            reason = f"{title} cannot be at {far} any more: the nearest is {nearest}."
    values = mechanism.values(closure.poses)
    return Stood(
        closure.poses,
        tuple(
            (resolved.document.joints[joint].title, _words(resolved, joint, values[joint]))
            for joint in chosen
        ),
        reason or _past_limit(resolved, mechanism, values),
    )


def poses_to_draw(evaluation: Evaluation, shown: Floats) -> Floats:
    """(B, 3) the kept pose that sheets are drawn at, as far as it can be reached; ``shown`` where
    none is chosen, or it is kept no more."""
    wanted = evaluation.source.sheets.pose
    kept = [pose for pose in evaluation.source.poses if pose.id == wanted]
    return stood(evaluation.resolved, kept[0]).poses if kept else shown


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


def _past_limit(resolved: Resolved, mechanism: Mechanism, values: Floats) -> str:
    """Which joint stands beyond its limits, in words."""
    turn = 2 * np.pi
    for k, limits in enumerate(resolved.joints):
        low = -np.inf if limits.least is None else limits.least
        high = np.inf if limits.greatest is None else limits.greatest
        ways = values[k] + turn * np.arange(-2, 3) if mechanism.angular[k] else values[k : k + 1]
        if not ((ways >= low - BEYOND) & (ways <= high + BEYOND)).any():
            joint = resolved.document.joints[k]
            return f"{joint.title} is beyond its limits there."
    return ""


def _words(resolved: Resolved, joint: int, value: float) -> str:
    dimension = spec_of(resolved.document.joints[joint].kind).dimension
    if dimension == ANGLE:
        value = float((value + np.pi) % (2 * np.pi) - np.pi)
    return resolved.units.format(float(value), dimension)


def passes(motion: Motion, poses: Floats) -> float | None:
    """The progress at which a motion stands in poses (B, 3); None if it never does."""
    size = motion.mechanism.size
    if not motion.segments or motion.poses.shape[1:] != poses.shape:
        return None

    def away(some: Floats) -> Floats:
        apart = some - poses
        apart[..., 2] = np.remainder(apart[..., 2] + np.pi, 2 * np.pi) - np.pi
        return np.asarray(np.abs(apart * np.array([1.0, 1.0, size])).max(axis=(1, 2)))

    samples = motion.progress
    k = int(np.argmin(away(motion.poses)))
    low, high = float(samples[max(k - 1, 0)]), float(samples[min(k + 1, len(samples) - 1)])
    best = float(samples[k])
    for _ in range(ROUNDS):
        looks = np.linspace(low, high, FINER)
        far = away(motion.poses_at(looks))
        n = int(np.argmin(far))
        best = float(looks[n])
        low, high = float(looks[max(n - 1, 0)]), float(looks[min(n + 1, FINER - 1)])
    return best if float(away(motion.poses_at(np.array([best])))[0]) <= SAME * size else None


def way_to(resolved: Resolved, here: Floats, there: Floats, frames: int) -> list[Floats]:
    """Poses (B, 3) from one to the next, closed all along where that can be, the last ``there``.

    What settles the pose goes evenly, and by the shorter way round.
    """
    mechanism = compile_mechanism(resolved)
    chosen = list(kept_values(mechanism, there))
    system = System(mechanism, tuple(chosen))
    start, end = mechanism.values(here)[chosen], mechanism.values(there)[chosen]
    change = end - start
    around = mechanism.angular[chosen] if chosen else np.zeros(0, dtype=bool)
    change = np.where(around, np.remainder(change + np.pi, 2 * np.pi) - np.pi, change)
    found, poses = [], here
    for k in range(1, frames):
        share = k / frames
        ease = share * share * (3 - 2 * share)
        closure = close(system, poses, system.targets(start + ease * change, poses))
        if not closure.is_closed:
            break
        poses = closure.poses
        found.append(poses)
    return [*found, there]
