"""What is measured of a mechanism, and what it must do."""

from __future__ import annotations

from typing import Annotated, Any, Literal, get_args

from pydantic import BeforeValidator, Field, model_validator

from anakinema.document.model.earlier import measure_today, requirement_today
from anakinema.document.model.fields import (
    Angle,
    BodyName,
    Identifier,
    JointName,
    JointValue,
    Length,
    Model,
    RequiredValue,
    Titled,
    Words,
)
from anakinema.document.model.joint import Side
from anakinema.expressions import evaluate, parse

Order = Literal[1, 2]
"""Of a rate by time."""


class JointMeasure(Model):
    """The value of a joint."""

    kind: Literal["joint"]
    joint: JointName


class ReserveMeasure(Model):
    """What of a joint's permitted range is left, to the nearer limit."""

    kind: Literal["reserve"]
    joint: JointName


class TransmissionMeasure(Model):
    """The transmission angle at a revolute joint, folded into 0 to 90 degrees.

    It lies between the lines from the joint to ``first_place`` on its first body and to
    ``second_place`` on its second.
    """

    kind: Literal["transmission"]
    joint: JointName
    first_place: Identifier
    second_place: Identifier


class GapMeasure(Model):
    """The gap between two bodies, or between one body (or any) and all others."""

    kind: Literal["gap"]
    first: BodyName | None = None
    second: BodyName | None = None


class DistanceMeasure(Model):
    """The distance of two places."""

    kind: Literal["distance"]
    first: Side
    second: Side


class WayMeasure(Model):
    """How far a place has come along a direction of the plane, from the origin."""

    kind: Literal["way"]
    place: Side
    along: Angle = 0.0


class UsedMeasure(Model):
    """A joint's value as a share of its permitted range, 0 at its least and 1 at its greatest."""

    kind: Literal["used"]
    joint: JointName


class JointRateMeasure(Model):
    """How fast the value of a joint changes in time; ``order`` 2: its acceleration."""

    kind: Literal["joint_rate"]
    joint: JointName
    order: Order = 1


class PlaceRateMeasure(Model):
    """The size of a place's speed in its plane, or as the body ``against`` sees it; ``order`` 2: of
    its acceleration."""

    kind: Literal["place_rate"]
    place: Side
    order: Order = 1
    against: BodyName | None = None


class PathMeasure(Model):
    """The length of the path that a place has travelled in its plane, or as the body ``against``
    sees it."""

    kind: Literal["path"]
    place: Side
    against: BodyName | None = None


class StraightMeasure(Model):
    """How far a place is off the middle of the narrowest strip that holds its path."""

    kind: Literal["straight"]
    place: Side


class RoundMeasure(Model):
    """How far a place is from the centre of the narrowest ring that holds its path."""

    kind: Literal["round"]
    place: Side


class DwellMeasure(Model):
    """The time that a joint stays within a band as wide as ``band``, wherever that lies."""

    kind: Literal["dwell"]
    joint: JointName
    band: JointValue


class AngleMeasure(Model):
    """The angle from the direction of one place to that of another."""

    kind: Literal["angle"]
    first: Side
    second: Side


class FreedomsMeasure(Model):
    """How many freedoms the mechanism has, assembled."""

    kind: Literal["freedoms"]


class PhaseMeasure(Model):
    """The longest time between an extreme of a joint and the nearest one of another."""

    kind: Literal["phase"]
    joint: JointName
    other: JointName


class PressureMeasure(Model):
    """The pressure angle of the pin or roller of a joint on a curve or in a slot."""

    kind: Literal["pressure"]
    joint: JointName


class GuidedMeasure(Model):
    """The length over which the block or rod of a slide is guided."""

    kind: Literal["guided"]
    joint: JointName


class OverhangMeasure(Model):
    """How far the block of a slide stands out of its guide."""

    kind: Literal["overhang"]
    joint: JointName


class DriverShareMeasure(Model):
    """A driver's rate as a share of the greatest rate of all joints: 0 at its dead point."""

    kind: Literal["driver_share"]
    joint: JointName


class HousingMeasure(Model):
    """The distance of a body, or of all that moves, from inside to a housing's outline."""

    kind: Literal["housing"]
    housing: BodyName
    body: BodyName | None = None


class PinchMeasure(Model):
    """How often a gap that was open further closes through ``size``, or how fast it then does."""

    kind: Literal["pinch"]
    what: Literal["closings", "speed"]
    size: Length
    first: BodyName | None = None
    second: BodyName | None = None


class FacesMeasure(Model):
    """The distance of the nearest faces of two bodies along the pins."""

    kind: Literal["faces"]
    first: BodyName
    second: BodyName


class RubbingMeasure(Model):
    """How many pairs of bodies have faces that lie on one another and move against each other."""

    kind: Literal["rubbing"]
    body: BodyName | None = None


class WallMeasure(Model):
    """The thinnest wall of a body between outlines of a slab; ``across``: between its faces."""

    kind: Literal["wall"]
    body: BodyName
    across: bool = False


def _parses(text: object) -> object:
    if not isinstance(text, str):
        raise ValueError("a formula in quotes is needed")
    parse(text)
    return text


def _is_unit(text: object) -> object:
    if not isinstance(text, str):
        raise ValueError("a unit in quotes is needed")
    evaluate(parse(f"1 {text}"), {})
    return text


class FormulaMeasure(Model):
    """A formula of kept measures, parameters and numbers; ``gives``: the unit of its value."""

    kind: Literal["formula"]
    text: Annotated[str, BeforeValidator(_parses)]
    gives: Annotated[str, BeforeValidator(_is_unit)] = ""


Measure = Annotated[
    JointMeasure
    | ReserveMeasure
    | UsedMeasure
    | JointRateMeasure
    | TransmissionMeasure
    | GapMeasure
    | DistanceMeasure
    | AngleMeasure
    | WayMeasure
    | PlaceRateMeasure
    | PathMeasure
    | StraightMeasure
    | RoundMeasure
    | DwellMeasure
    | FreedomsMeasure
    | PhaseMeasure
    | PressureMeasure
    | GuidedMeasure
    | OverhangMeasure
    | DriverShareMeasure
    | HousingMeasure
    | PinchMeasure
    | FacesMeasure
    | RubbingMeasure
    | WallMeasure
    | FormulaMeasure,
    Field(discriminator="kind"),
]
MEASURES: tuple[type[Model], ...] = get_args(get_args(Measure)[0])
Reduce = Literal["least", "greatest", "range", "size", "time_ratio"]
"""What makes one answer of a measure over the motion: ``size`` is its greatest whatever its sign;
a time ratio is that of the two strokes between its extremes, the slower over the quicker."""


class Moment(Model):
    """Wherever a joint is at a value."""

    joint: JointName
    value: JointValue


class Between(Model):
    """From where the motion passes one kept pose to where it passes another."""

    first: Identifier
    last: Identifier


class Requirement(Titled, Model):
    """What is asked: one answer made of a measure, within bounds.

    ``at``: only where a joint is at a value, not over the whole motion; ``between``: only from one
    kept pose to another. Beyond ``comfort`` it
    passes, but is not comfortable. ``off``: not asked for the moment.
    """

    id: Identifier
    name: Words = ""
    measure: Measure
    reduce: Reduce
    at: Moment | None = None
    between: Between | None = None
    least: RequiredValue | None = None
    greatest: RequiredValue | None = None
    comfort: RequiredValue | None = None
    off: bool = False

    @model_validator(mode="before")
    @classmethod
    def _of_version_1(cls, data: Any) -> Any:
        return requirement_today(data)


class KeptMeasure(Titled, Model):
    """A measure kept on show: a lane of the strip; a distance is drawn as a dimension too."""

    id: Identifier
    name: Words = ""
    measure: Measure

    @model_validator(mode="before")
    @classmethod
    def _of_version_1(cls, data: Any) -> Any:
        return measure_today(data)
