"""The motion program in numbers."""

from __future__ import annotations

import math
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.names import check_unique, missing
from anakinema.document.reading import Reader
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.laws import MotionLaw
from anakinema.units import ANGLE, ANGULAR_SPEED, SPEED

MOST_STEPS = 200_000


@dataclass(frozen=True, slots=True)
class StageValues:
    """A stage in numbers: driver index and target of each move, number of steps, law and s."""

    moves: tuple[tuple[int, float], ...]
    count: int
    law: MotionLaw = "constant"
    lasts: float | None = None
    pause: float = 0.0
    asked: float | None = None
    """The step asked for, where that does not divide the way of the first driver."""


@dataclass(frozen=True, slots=True)
class ProgramValues:
    """The program in numbers: joint index, start (rad or mm) and rate (per s) of each driver."""

    joints: tuple[int, ...]
    starts: tuple[float, ...]
    rates: tuple[float, ...]
    stages: tuple[StageValues, ...]


def program_values(document: model.Document, reader: Reader) -> ProgramValues:
    """The program in numbers; raises an `AnakinemaError` that names the place."""
    program = document.program
    index = {joint.id: i for i, joint in enumerate(document.joints)}
    drivers = {driver.id: i for i, driver in enumerate(program.drivers)}
    joints, starts, rates, dimensions = [], [], [], []
    for driver in program.drivers:
        where = f"driver '{driver.title}'"
        joint = document.joint(driver.joint)
        dimension = spec_of(joint.kind).dimension
        rate = reader.read(
            driver.rate, ANGULAR_SPEED if dimension == ANGLE else SPEED, where, "rate"
        )
        if not rate > 0:
            raise ValueOutOfRangeError(
                "its rate is not above zero.", where=where, remedy="For instance 30 rpm."
            )
        joints.append(index[joint.id])
        starts.append(reader.read(driver.start, dimension, where, "start"))
        rates.append(rate)
        dimensions.append(dimension)
    values = list(starts)
    stages: list[StageValues] = []
    for k, stage in enumerate(program.stages):
        where = f"program, stage {k + 1}"
        check_unique((move.driver for move in stage.moves), where)
        moves: list[tuple[int, float]] = []
        leader = 0.0
        for move in stage.moves:
            if move.driver not in drivers:
                raise missing(f"driver '{move.driver}'", where, drivers)
            d = drivers[move.driver]
            target = reader.read(move.to, dimensions[d], where, f"target of '{move.driver}'")
            if not moves:
                leader = abs(target - values[d])
            moves.append((d, target))
        if all(target == values[d] for d, target in moves):
            raise ValueOutOfRangeError(
                "nothing moves in it.", where=where, remedy="Give a target other than the start."
            )
        count, step, uneven = stage.count, 0.0, False
        if stage.step is not None:
            dimension = dimensions[moves[0][0]]
            step = reader.read(stage.step, dimension, where, "step")
            if not step > 0 or leader / step > MOST_STEPS:
                raise ValueOutOfRangeError(
                    "its step is not above zero, or far too small.",
                    where=where,
                    remedy=f"At most {MOST_STEPS} steps are made.",
                )
            count = max(2, math.ceil(leader / step - 1e-9))
            uneven = abs(leader / step - count) > 1e-6
        for d, target in moves:
            values[d] = target
        lasts, pause = _times(stage, reader, where)
        asked = step if uneven else None
        stages.append(StageValues(tuple(moves), count, stage.law, lasts, pause, asked))
    if program.there_and_back and stages:
        stages += _backwards(starts, stages)
    return ProgramValues(tuple(joints), tuple(starts), tuple(rates), tuple(stages))


def _times(stage: model.Stage, reader: Reader, where: str) -> tuple[float | None, float]:
    lasts = reader.optional(stage, "lasts", where)
    if lasts is not None and not lasts > 0:
        raise ValueOutOfRangeError(
            "it lasts no time.",
            where=where,
            remedy="Give a time above zero, or none to go by the rates.",
        )
    pause = reader.field(stage, "pause", where)
    if pause < 0:
        raise ValueOutOfRangeError(
            "its pause is below zero.", where=where, remedy="Give zero or more seconds."
        )
    return lasts, pause


def _backwards(starts: list[float], stages: list[StageValues]) -> list[StageValues]:
    values = list(starts)
    befores: list[StageValues] = []
    pause = 0.0
    for stage in stages:
        back = tuple((d, values[d]) for d, _ in stage.moves)
        befores.append(StageValues(back, stage.count, stage.law, stage.lasts, pause))
        pause = stage.pause
        for d, target in stage.moves:
            values[d] = target
    return befores[::-1]
