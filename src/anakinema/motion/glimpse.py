"""A first look at a changed mechanism: the poses of the motion before, closed anew.

No path is followed, so nothing is promised of the branch; the exact motion follows.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.solve import apply, pseudo_inverses
from anakinema.mechanism.system import System
from anakinema.motion.events import STOPPING
from anakinema.motion.motion import Leg, Motion, States, joined
from anakinema.motion.trail import End

LOOKS = 36
ITERATIONS = 6
CLOSED = 1e-6


def glimpse(mechanism: Mechanism, earlier: Motion) -> Motion | None:
    """Samples of a motion near an earlier one; None if the two have not the same shape.

    None too where bodies touch. Samples that do not close are left out; None if many do not.
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
    if not same or not earlier.legs or mechanism.facings or mechanism.yields:
        return None
    stride = max(1, len(earlier.progress) // LOOKS)
    rows = np.unique(
        np.append(np.arange(0, len(earlier.progress), stride), len(earlier.progress) - 1)
    )
    parts = [
        _closed(mechanism, earlier, leg, rows[(at >= leg.first) & (at <= leg.last)])
        for leg in earlier.legs
        for at in [earlier.progress[rows] - leg.stage]
    ]
    samples = joined([part for part in parts if len(part.progress)] or parts[:1])
    if len(samples.progress) < 0.7 * len(rows):
        return None
    order = np.unique(samples.progress, return_index=True)[1]
    return replace(
        earlier,
        mechanism=mechanism,
        legs=(),
        samples=samples.taken(order),
        reach=np.zeros(len(order)),
        events=(),
        end=End.COMPLETE if earlier.end in STOPPING.values() else earlier.end,
    )


def _closed(mechanism: Mechanism, earlier: Motion, leg: Leg, rows: np.ndarray) -> States:
    system = System(mechanism, earlier.driver_joints, leg.trail.path.system.holds)
    progress, poses = earlier.progress[rows], earlier.poses[rows]
    start, end = _stage_values(mechanism, leg.stage)
    share = (progress - leg.stage)[:, None]
    shift = earlier.shift[list(earlier.driver_joints)]
    targets = system.targets(start + share * (end - start) - shift, earlier.poses[0])
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
