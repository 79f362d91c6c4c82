"""What a mechanism must do, and what is measured of it."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field

from anakinema.document.model.fields import Identifier, Model, RequiredValue, Titled, Words
from anakinema.document.model.joint import Side


class TravelRequirement(Model):
    """The travel (greatest less least value) of a joint over the program."""

    kind: Literal["travel"]
    id: Identifier
    name: Words = ""
    joint: Identifier
    least: RequiredValue | None = None
    greatest: RequiredValue | None = None
    comfort: RequiredValue | None = None


class GapRequirement(Model):
    """The smallest gap between two bodies, or between one body (or any) and all others."""

    kind: Literal["gap"]
    id: Identifier
    name: Words = ""
    first: Identifier | None = None
    second: Identifier | None = None
    least: RequiredValue
    comfort: RequiredValue | None = None


class TransmissionRequirement(Model):
    """The transmission angle at a revolute joint, folded into 0 to 90 degrees.

    It lies between the lines from the joint to ``first_place`` on its first body and to
    ``second_place`` on its second.
    """

    kind: Literal["transmission"]
    id: Identifier
    name: Words = ""
    joint: Identifier
    first_place: Identifier
    second_place: Identifier
    least: RequiredValue
    comfort: RequiredValue | None = None


class TimeRatioRequirement(Model):
    """Time of the slower stroke of a joint over that of the quicker one."""

    kind: Literal["time_ratio"]
    id: Identifier
    name: Words = ""
    joint: Identifier
    least: RequiredValue | None = None
    greatest: RequiredValue | None = None


class ReserveRequirement(Model):
    """How much of a joint's permitted range is left unused at both ends."""

    kind: Literal["reserve"]
    id: Identifier
    name: Words = ""
    joint: Identifier
    least: RequiredValue
    comfort: RequiredValue | None = None


Requirement = Annotated[
    TravelRequirement
    | GapRequirement
    | TransmissionRequirement
    | TimeRatioRequirement
    | ReserveRequirement,
    Field(discriminator="kind"),
]
REQUIREMENTS: tuple[type[Model], ...] = get_args(get_args(Requirement)[0])


class Measure(Titled, Model):
    """A distance kept on show, as a dimension on the stage and a lane of the strip."""

    id: Identifier
    name: Words = ""
    first: Side
    second: Side
