"""The motion program: drivers and stages."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from anakinema.document.model.fields import (
    Identifier,
    JointName,
    JointRate,
    JointValue,
    Model,
    PositiveCount,
    Time,
)
from anakinema.geometry.laws import MotionLaw


class Driver(Model):
    """A joint that the program moves, from ``start``, at ``rate`` (per second, or rpm)."""

    id: Identifier
    joint: JointName
    start: JointValue
    rate: JointRate

    @property
    def title(self) -> str:
        """Name for people."""
        return self.id.replace("_", " ")


class Move(Model):
    """A driver goes to a value."""

    driver: Identifier
    to: JointValue


class Stage(Model):
    """Moves made together; stages follow one another.

    ``step`` is the step of the first move's driver; otherwise ``count`` equal steps are made.
    ``law`` spreads the way over the time, ``lasts`` says how long it takes in place of the drivers'
    rates, ``pause`` how long all stands still at its end (s).
    """

    moves: Annotated[tuple[Move, ...], Field(min_length=1, max_length=64)]
    step: JointValue | None = None
    count: PositiveCount = 180
    law: MotionLaw = "constant"
    lasts: Time | None = None
    pause: Time = 0.0


class Program(Model):
    """The motion program: drivers, and the stages that move them."""

    drivers: Annotated[tuple[Driver, ...], Field(max_length=64)] = ()
    stages: Annotated[tuple[Stage, ...], Field(max_length=200)] = ()
    there_and_back: bool = False
    past_limits: bool = False
