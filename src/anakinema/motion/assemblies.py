"""The other ways a closed loop can be assembled, for the same values of what drives it.

Found by starting from many turned positions of the bodies in the loop and closing from each;
nothing promises that all are found, but a loop of a few bars shows both of its two.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.dyads import decompose
from anakinema.mechanism.frames import frames
from anakinema.mechanism.solve import null_space
from anakinema.mechanism.system import System
from anakinema.motion.assemble import close
from anakinema.wanted import still_wanted

TELLING = 0.05
"""Sine of the angle in a group of two bodies below which its sides are too near to tell."""
STARTS = 36
DISTINCT = 1e-3
"""Share of the size that two assemblies differ by at least."""


def other_assemblies(
    mechanism: Mechanism, poses: Floats, bodies: tuple[int, ...], most: int = 1
) -> list[Floats]:
    """Assembled poses (B, 3) other than ``poses``, nearest first.

    ``bodies`` are those of the loop. What freedom the mechanism has is kept where it is: values
    of joints on fixed bodies first, so that a crank stays where it stands.
    """
    drivers = kept_values(mechanism, poses)
    system = System(mechanism, drivers)
    targets = system.targets(mechanism.values(poses)[list(drivers)], poses)
    moving = [b for b in bodies if not mechanism.fixed[b]]
    found: list[tuple[float, Floats]] = []
    scale = np.array([1.0, 1.0, mechanism.size])
    for start in itertools.islice(_starts(poses, moving, mechanism), STARTS):
        still_wanted()
        closure = close(system, start, targets)
        if not closure.is_closed:
            continue
        turned = closure.poses.copy()
        turns = np.round((turned[:, 2] - poses[:, 2]) / (2 * math.pi))
        turned[:, 2] -= 2 * math.pi * turns
        known = [poses, *(other for _, other in found)]
        if any(
            float(np.abs((turned - k) * scale).max()) < DISTINCT * mechanism.size for k in known
        ):
            continue
        found.append((float(np.linalg.norm((turned - poses) * scale)), turned))
        if len(found) > most:
            break
    return [poses for _, poses in sorted(found, key=lambda entry: entry[0])[:most]]


def turned_over(mechanism: Mechanism, before: Floats, after: Floats) -> tuple[int, ...]:
    """Bodies of those groups that are assembled on the other side at ``after`` (B, 3).

    Both are poses of the same mechanism; groups whose two sides are too near to tell are left
    out, and mechanisms that do not fall into groups of two bodies are not judged.
    """
    dyads = decompose(System(mechanism, kept_values(mechanism, before)))
    if dyads is None or not dyads.steps:
        return ()
    one, two = dyads.sines(before[None])[0], dyads.sines(after[None])[0]
    clear = (np.abs(one) > TELLING) & (np.abs(two) > TELLING)
    flipped = np.flatnonzero(clear & (one * two < 0))
    return tuple(body for k in flipped for body in dyads.steps[k].bodies)


def _starts(poses: Floats, moving: list[int], mechanism: Mechanism) -> Iterator[Floats]:
    """Starting poses: the loop's bodies mirrored about lines between pivots on fixed bodies, then
    turned and strewn at random, ever the same way."""
    if not moving:
        return
    for one, two in itertools.combinations(_anchors(mechanism, poses), 2):
        if float(np.hypot(*(two - one))) > 1e-9:
            yield _mirrored(poses, moving, one, two)
    middle = poses[moving, :2].mean(axis=0)
    random = np.random.default_rng(len(moving))
    while True:
        start = poses.copy()
        start[moving, 2] += random.uniform(-math.pi, math.pi, len(moving))
        start[moving, :2] = middle + random.normal(0.0, mechanism.size, (len(moving), 2))
        yield start


def _anchors(mechanism: Mechanism, poses: Floats) -> list[Floats]:
    """Places of joints on fixed bodies, in the plane."""
    table, at = mechanism.table, frames(mechanism.table, poses)
    first = poses[table.first, :2] + at.first_arm
    second = poses[table.second, :2] + at.second_arm
    out = [first[k] for k in np.flatnonzero(mechanism.fixed[table.first])]
    return out + [second[k] for k in np.flatnonzero(mechanism.fixed[table.second])]


def _mirrored(poses: Floats, moving: list[int], one: Floats, two: Floats) -> Floats:
    """Poses with some bodies' origins mirrored about a line, and turned as the image is."""
    angle = math.atan2(two[1] - one[1], two[0] - one[0])
    out = poses.copy()
    away = poses[moving, :2] - one
    c, s = math.cos(2 * angle), math.sin(2 * angle)
    out[moving, 0] = one[0] + c * away[:, 0] + s * away[:, 1]
    out[moving, 1] = one[1] + s * away[:, 0] - c * away[:, 1]
    out[moving, 2] = 2 * angle - poses[moving, 2]
    return out


def kept_values(mechanism: Mechanism, poses: Floats) -> tuple[int, ...]:
    """Joints whose values, kept, leave no freedom: drivers, then joints on fixed bodies."""
    joints = range(len(mechanism.zero))
    table, fixed = mechanism.table, mechanism.fixed
    driven = mechanism.resolved.program.joints
    kinds = [joint.kind for joint in mechanism.resolved.document.joints]

    def order(joint: int) -> tuple[int, int]:
        grounded = bool(fixed[table.first[joint]] or fixed[table.second[joint]])
        return (0 if joint in driven else 1 if grounded else 2), joint

    chosen: list[int] = []
    system = System(mechanism)
    rows = system.residual_jacobian(poses, system.at_rest)[1]
    left = null_space(rows).shape[1]
    for joint in sorted(joints, key=order):
        if left == 0:
            break
        if not spec_of(kinds[joint]).moves:
            continue
        trial = System(mechanism, (*chosen, joint))
        targets = np.zeros(trial.rows)
        now = null_space(trial.residual_jacobian(poses, targets)[1]).shape[1]
        if now < left:
            chosen.append(joint)
            left = now
    return tuple(chosen)
