"""A first look at a changed mechanism: the poses of the motion before, closed anew.

No path is followed, so nothing is promised of the branch; the exact motion follows.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.contacts import Facing
from anakinema.mechanism.solve import apply, pseudo_inverses
from anakinema.mechanism.system import System
from anakinema.mechanism.touch import Touch
from anakinema.motion.branch_path import End
from anakinema.motion.events import STOPPING
from anakinema.motion.motion import Motion, Segment, States, joined

LOOKS = 36
ITERATIONS = 6
CLOSED = 1e-6
RESTED = 1e-6
"""mm or rad from its rest at which a yielding joint rests."""


def preview(mechanism: Mechanism, earlier: Motion) -> Motion | None:
    """Samples of a motion near an earlier one; None if the two have not the same shape.

    What touches in a stretch touches there as well, by the same features as they are now; None
    where something rolls. Samples that do not close are left out; None if many do not.
    """
    before = earlier.mechanism
    program, old = mechanism.resolved.program, before.resolved.program
    same = (
        len(mechanism.fixed) == len(before.fixed)
        and (mechanism.fixed == before.fixed).all()
        and np.array_equal(mechanism.row_kernel, before.row_kernel)
        and np.array_equal(mechanism.row_joint, before.row_joint)
        and program.joints == old.joints
        and len(program.stages) == len(old.stages)
    )
    if not same or not earlier.segments or not _face_alike(mechanism, before):
        return None
    stride = max(1, len(earlier.progress) // LOOKS)
    rows = np.unique(
        np.append(np.arange(0, len(earlier.progress), stride), len(earlier.progress) - 1)
    )
    parts = []
    for segment in earlier.segments:
        at = earlier.progress[rows] - segment.stage
        within = rows[(at >= segment.first) & (at <= segment.last)]
        touches = touches_again(mechanism, before, segment.branch_path.path.system.touches)
        if touches is None:
            return None
        if len(within):
            parts.append(_closed(mechanism, earlier, segment, within, touches))
    if not parts:
        return None
    samples = joined([part for part in parts if len(part.progress)] or parts[:1])
    if len(samples.progress) < 0.7 * len(rows):
        return None
    order = np.unique(samples.progress, return_index=True)[1]
    return replace(
        earlier,
        mechanism=mechanism,
        segments=(),
        samples=samples.taken(order),
        reach=np.zeros(len(order)),
        events=(),
        end=End.COMPLETE if earlier.end in STOPPING.values() else earlier.end,
    )


def _face_alike(one: Mechanism, other: Mechanism) -> bool:
    """Whether the same features can touch, whatever their sizes."""

    def shape(facing: Facing) -> tuple[object, ...]:
        pairs = facing.pairs
        return facing.bodies, pairs.first.kind.tobytes(), pairs.second.kind.tobytes()

    return len(one.facings) == len(other.facings) and all(
        shape(a) == shape(b)
        and np.array_equal(a.pairs.one, b.pairs.one)
        and np.array_equal(a.pairs.two, b.pairs.two)
        for a, b in zip(one.facings, other.facings, strict=True)
    )


def touches_again(
    mechanism: Mechanism, before: Mechanism, touches: tuple[Touch, ...]
) -> tuple[Touch, ...] | None:
    """The touches of a mechanism before, by the same features of this one; None if one rolls."""
    found = []
    for touch in touches:
        if touch.terms:
            return None
        again = next(
            (
                mechanism.facings[f].touch(pair)
                for f, facing in enumerate(before.facings)
                for pair in _pairs_at(facing, touch)
                if facing.touch(pair) == touch
            ),
            None,
        )
        if again is None:
            return None
        found.append(again)
    return tuple(found)


def _pairs_at(facing: Facing, touch: Touch) -> list[int]:
    """Pairs of a facing whose features are told by the same points as a touch."""
    if {touch.first, touch.second} != set(facing.bodies):
        return []
    points = touch.first_point, touch.second_point
    if touch.first != facing.first_body:
        points = points[::-1]
    one = facing.pairs.first.point[facing.pairs.one] == points[0]
    two = facing.pairs.second.point[facing.pairs.two] == points[1]
    pairs: list[int] = np.flatnonzero((one & two).all(axis=1)).tolist()
    return pairs


def _held_at(
    mechanism: Mechanism, earlier: Motion, system: System, rows: np.ndarray
) -> np.ndarray | None:
    """(N, H) values less their zero that held joints have now.

    What rested before is at its present rest, what was held elsewhere stays there.
    """
    held = system.held_joints
    if not held:
        return None
    before = earlier.mechanism
    values = before.values(earlier.poses[rows])[:, held]
    shown = earlier.values[rows][:, held]
    for k, joint in enumerate(held):
        old, new = before.resolved.joints[joint], mechanism.resolved.joints[joint]
        is_rested = np.zeros(len(rows), dtype=bool)
        if old.rest is not None and new.rest is not None:
            is_rested = np.abs(shown[:, k] - old.rest) < RESTED
            values[is_rested, k] += new.rest - old.rest
        values[~is_rested, k] += old.zero - new.zero
    return values


def _closed(
    mechanism: Mechanism,
    earlier: Motion,
    segment: Segment,
    rows: np.ndarray,
    touches: tuple[Touch, ...],
) -> States:
    system = System(
        mechanism, earlier.driver_joints, segment.branch_path.path.system.holds, touches
    )
    progress, poses = earlier.progress[rows], earlier.poses[rows]
    start, end = _stage_values(mechanism, segment.stage)
    share = (progress - segment.stage)[:, None]
    shift = earlier.shift[list(earlier.driver_joints)]
    driven = start + share * (end - start) - shift
    kept = _held_at(mechanism, earlier, system, rows)
    targets = system.targets(driven, poses if kept is not None else earlier.poses[0], kept)
    residual, jacobian = system.residual_jacobian(poses, targets)
    inverses = pseudo_inverses(jacobian)
    size = mechanism.size
    for _ in range(ITERATIONS):
        with np.errstate(invalid="ignore", over="ignore"):
            poses = system.moved(poses, -apply(inverses, residual))
            residual = system.residual(poses, targets)
        open_by = np.abs(residual).max(axis=-1, initial=0.0)
        if not (open_by > CLOSED * size).any():
            break
    good = open_by <= CLOSED * size
    poses = poses[good]
    values = mechanism.values(poses) + earlier.shift
    nothing, none = np.full_like(poses, np.nan), np.full_like(values, np.nan)
    return States(
        progress[good],
        poses,
        nothing,
        nothing,
        values,
        none,
        none,
        nothing,
        float(open_by[good].max(initial=0.0)),
    )


def _stage_values(mechanism: Mechanism, stage: int) -> tuple[np.ndarray, np.ndarray]:
    """Shown driver values (D,) at both ends of a stage."""
    program = mechanism.resolved.program
    values = np.array(program.starts)
    for k, each in enumerate(program.stages):
        start = values.copy()
        for driver, target in each.moves:
            values[driver] = target
        if k == stage:
            break
    return start, values
