"""Make a pose the start, where bodies stand and drivers begin, or where the program ends."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together
from anakinema.edits.program import SetDriver, SetStages, SetStageTarget
from anakinema.edits.structure import SetPoses
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import compile_mechanism

LABEL = "Keep the pose"
TURN = 2 * math.pi
SAME = 1e-9
"""mm or rad below which a value has not changed."""
NEAR = 1e-6
"""mm or rad within which a target is where it starts."""
WHOLE = 1e-7
"""Turns by which full turns may be off, since starts are written with nine digits."""


def started_at(resolved: Resolved, poses: Floats) -> Edit:
    """The edit that makes ``poses`` (B, 3) the start.

    A driver through full turns goes on making them, so its targets move along. One whose first
    target is where it now starts goes back to where it started before, and so on in turn.
    """
    bodies = resolved.document.bodies
    moved = np.flatnonzero(np.abs(poses - resolved.poses).max(axis=1) > 1e-12)
    rows = [(bodies[index].id, *poses[index].tolist()) for index in moved]
    return Together(LABEL, (SetPoses(tuple(rows), LABEL), *_drivers(resolved, poses)))


def stage_to(resolved: Resolved, poses: Floats) -> Edit | None:
    """The edit that adds a stage which ends at ``poses`` (B, 3), of all drivers that are elsewhere
    at the end of the program; None if none is."""
    mechanism = compile_mechanism(resolved)
    values, program, source = mechanism.values(poses), resolved.program, resolved.source.program
    ends = list(program.starts)
    for stage in program.stages[: len(source.stages)]:
        for which, target in stage.moves:
            ends[which] = target
    moves = []
    for d, driver in enumerate(source.drivers):
        angular = bool(mechanism.angular[program.joints[d]])
        value = float(values[program.joints[d]])
        if angular:
            value += TURN * round((ends[d] - value) / TURN)
        if abs(value - ends[d]) > NEAR:
            moves.append(model.Move(driver=driver.id, to=_said(value, angular)))
    if not moves:
        return None
    return SetStages((*source.stages, model.Stage(moves=tuple(moves))))


def _drivers(resolved: Resolved, poses: Floats) -> Iterator[Edit]:
    mechanism = compile_mechanism(resolved)
    values, program = mechanism.values(poses), resolved.program
    source = resolved.source.program
    for d, driver in enumerate(source.drivers):
        joint, start = program.joints[d], program.starts[d]
        angular = bool(mechanism.angular[joint])
        value = float(values[joint])
        if angular:
            value += TURN * round((start - value) / TURN)
        if abs(value - start) < SAME:
            continue
        yield SetDriver(driver.id, "start", _said(value, angular))
        targets = [
            (k, target)
            for k, stage in enumerate(program.stages[: len(source.stages)])
            for which, target in stage.moves
            if which == d
        ]
        if not targets:
            continue
        turns = (targets[-1][1] - start) / TURN
        if angular and round(turns) != 0 and abs(turns - round(turns)) < WHOLE:
            for k, target in targets:
                yield SetStageTarget(k, driver.id, _said(target + value - start, angular))
        elif abs(targets[0][1] - value) < NEAR:
            # It goes the same ways the other way round.
            for k, target in targets:
                for one, other in ((value, start), (start, value)):
                    if abs(target - one) < NEAR:
                        yield SetStageTarget(k, driver.id, _said(other, angular))


def _said(value: float, angular: bool) -> str:
    return f"{math.degrees(value):.9g} deg" if angular else f"{value:.9g} mm"
