"""What is particular to a kind of measure in a document: its dimension, and what it must name.

How it is measured stands in `anakinema.measures`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from anakinema.document import model
from anakinema.document.kinds import Way, spec_of
from anakinema.document.model.earlier import MADE_OF
from anakinema.document.references import joints_named
from anakinema.errors import ValueOutOfRangeError
from anakinema.expressions import evaluate, parse
from anakinema.units import ANGLE, LENGTH, NUMBER, TIME, Dimension

Kinds = Mapping[str, model.JointKind]
Joints = Mapping[str, model.Joint]
ALL: frozenset[model.Reduce] = frozenset(("least", "greatest", "range", "size", "time_ratio"))
LEAST: frozenset[model.Reduce] = frozenset(("least",))
RANGE: frozenset[model.Reduce] = frozenset(("range",))
GREATEST: frozenset[model.Reduce] = frozenset(("greatest",))
VALUES: frozenset[model.Reduce] = frozenset(("least", "greatest", "range", "size"))


@dataclass(frozen=True, slots=True)
class MeasureSpec:
    """What a document must know of a kind of measure.

    reductions : what can be made of it.
    dimension : of its value, given the kinds of joints.
    sides : places that it names besides those in its own fields, given its joint.
    turned : the same where the sides of its joint have changed places.
    refuse : raises a `ValueOutOfRangeError` at a place, given the joints it may name.
    """

    reductions: frozenset[model.Reduce]
    dimension: Callable[[Any, Kinds], Dimension]
    sides: Callable[[Any, model.Joint], tuple[model.Side, ...]] = lambda measure, joint: ()
    turned: Callable[[Any], Any] = lambda measure: measure
    refuse: Callable[[Any, Joints, str], None] = lambda measure, joints, where: None


def _of_joint(measure: Any, kinds: Kinds) -> Dimension:
    return spec_of(kinds[measure.joint]).dimension


def _rate_of_joint(measure: model.JointRateMeasure, kinds: Kinds) -> Dimension:
    length, angle, _, _ = _of_joint(measure, kinds)
    return (length, angle, -measure.order, 0)


def _rate_of_place(measure: model.PlaceRateMeasure, kinds: Kinds) -> Dimension:
    return (1, 0, -measure.order, 0)


def _closings(measure: model.PinchMeasure, kinds: Kinds) -> Dimension:
    return NUMBER if measure.what == "closings" else (1, 0, -1, 0)


def _stated(measure: model.FormulaMeasure, kinds: Kinds) -> Dimension:
    return evaluate(parse(f"1 {measure.gives}"), {}).dimension


def _length(measure: Any, kinds: Kinds) -> Dimension:
    return LENGTH


def _number(measure: Any, kinds: Kinds) -> Dimension:
    return NUMBER


def _beside(measure: model.TransmissionMeasure, joint: model.Joint) -> tuple[model.Side, ...]:
    return (
        model.Side(body=joint.first.body, place=measure.first_place),
        model.Side(body=joint.second.body, place=measure.second_place),
    )


def _turned(measure: model.TransmissionMeasure) -> model.TransmissionMeasure:
    places = {"first_place": measure.second_place, "second_place": measure.first_place}
    return measure.model_copy(update=places)


def _needs_a_pin(measure: model.TransmissionMeasure, joints: Joints, where: str) -> None:
    joint = joints[measure.joint]
    if joint.kind != "revolute":
        raise ValueOutOfRangeError(
            "a transmission angle needs a revolute joint.",
            where=where,
            remedy="Choose a revolute joint.",
        )
    for side, other in zip((joint.first, joint.second), _beside(measure, joint), strict=True):
        if side.place == other.place:
            raise ValueOutOfRangeError(
                f"its line from '{side.place}' needs another place to go to.",
                where=where,
                remedy="Choose another place of the same body.",
            )


def _needs_a_rider(measure: model.PressureMeasure, joints: Joints, where: str) -> None:
    spec = spec_of(joints[measure.joint].kind)
    if not spec.is_pin or spec.way is Way.POINT:
        raise ValueOutOfRangeError(
            "a pressure angle needs a pin on a curve or in a slot.",
            where=where,
            remedy="Choose such a joint.",
        )


def _needs_a_slide(measure: Any, joints: Joints, where: str) -> None:
    spec = spec_of(joints[measure.joint].kind)
    if not spec.is_straight or spec.is_pin:
        raise ValueOutOfRangeError(
            "only a block or rod that slides along is guided.",
            where=where,
            remedy="Choose a prismatic joint or a cylinder.",
        )


def _needs_another(measure: model.PhaseMeasure, joints: Joints, where: str) -> None:
    if measure.joint == measure.other:
        raise ValueOutOfRangeError(
            "a joint is always in phase with itself.", where=where, remedy="Choose another joint."
        )


def _two_named(measure: Any, joints: Joints, where: str) -> None:
    _needs_two_bodies(measure.first, measure.second, where)


def _needs_two_bodies(one: str | None, other: str | None, where: str) -> None:
    if one is not None and one == other:
        raise ValueOutOfRangeError(
            "it compares a body with itself.", where=where, remedy="Choose another body."
        )


_SPECS: Mapping[type[model.Model], MeasureSpec] = {
    model.JointMeasure: MeasureSpec(ALL, _of_joint),
    model.ReserveMeasure: MeasureSpec(LEAST, _of_joint),
    model.TransmissionMeasure: MeasureSpec(
        ALL, lambda measure, kinds: ANGLE, _beside, _turned, _needs_a_pin
    ),
    model.GapMeasure: MeasureSpec(LEAST, _length, refuse=_two_named),
    model.DistanceMeasure: MeasureSpec(ALL, _length),
    model.WayMeasure: MeasureSpec(ALL, _length),
    model.UsedMeasure: MeasureSpec(VALUES, _number),
    model.JointRateMeasure: MeasureSpec(VALUES, _rate_of_joint),
    model.PlaceRateMeasure: MeasureSpec(VALUES, _rate_of_place),
    model.AngleMeasure: MeasureSpec(ALL, lambda measure, kinds: ANGLE),
    model.PathMeasure: MeasureSpec(RANGE, _length),
    model.StraightMeasure: MeasureSpec(RANGE, _length),
    model.RoundMeasure: MeasureSpec(RANGE, _length),
    model.DwellMeasure: MeasureSpec(GREATEST, lambda measure, kinds: TIME),
    model.FreedomsMeasure: MeasureSpec(GREATEST | LEAST, _number),
    model.PhaseMeasure: MeasureSpec(GREATEST, lambda measure, kinds: TIME, refuse=_needs_another),
    model.PressureMeasure: MeasureSpec(VALUES, lambda measure, kinds: ANGLE, refuse=_needs_a_rider),
    model.GuidedMeasure: MeasureSpec(VALUES, _length, refuse=_needs_a_slide),
    model.OverhangMeasure: MeasureSpec(VALUES, _length, refuse=_needs_a_slide),
    model.DriverShareMeasure: MeasureSpec(LEAST, _number),
    model.HousingMeasure: MeasureSpec(
        LEAST, _length, refuse=lambda m, joints, where: _needs_two_bodies(m.housing, m.body, where)
    ),
    model.PinchMeasure: MeasureSpec(GREATEST, _closings, refuse=_two_named),
    model.FacesMeasure: MeasureSpec(LEAST | GREATEST, _length, refuse=_two_named),
    model.RubbingMeasure: MeasureSpec(GREATEST, _number),
    model.WallMeasure: MeasureSpec(LEAST, _length),
    model.FormulaMeasure: MeasureSpec(VALUES, _stated),
}


_KINDS = {made_of: kind for kind, made_of in MADE_OF.items()}
"""Those that have a name of their own in the trade."""


def measured_as(measure: model.Measure) -> MeasureSpec:
    """What is particular to a measure."""
    return _SPECS[type(measure)]


def requirement_dimension(kinds: Kinds, requirement: model.Requirement) -> Dimension:
    """Dimension of what a requirement asks, given the kinds of joints."""
    if requirement.reduce == "time_ratio":
        return NUMBER
    return measured_as(requirement.measure).dimension(requirement.measure, kinds)


def sides_of(measure: model.Measure, joints: Joints) -> tuple[model.Side, ...]:
    """All places of bodies that a measure names, by way of its joints only those that are there."""
    own = [getattr(measure, field) for field in type(measure).model_fields]
    named = [joints[name] for name in joints_named(measure) if name in joints]
    return (
        *(side for side in own if isinstance(side, model.Side)),
        *(side for joint in named for side in measured_as(measure).sides(measure, joint)),
    )


def kind_of(requirement: model.Requirement) -> str:
    """What a requirement is called for machines: 'travel', 'gap', or measure and reduction."""
    made_of = (requirement.measure.kind, requirement.reduce)
    return _KINDS.get(made_of, "_".join(made_of))


def check_measure(measure: model.Measure, joints: Joints, where: str) -> None:
    """Raise an error at a place if a measure cannot be made of what it names, which exists."""
    for name in joints_named(measure):
        if not spec_of(joints[name].kind).moves:
            raise ValueOutOfRangeError(
                "a rigid joint has no motion to judge.", where=where, remedy="Choose another joint."
            )
    measured_as(measure).refuse(measure, joints, where)


def check_requirement(requirement: model.Requirement, joints: Joints, where: str) -> None:
    """Raise an error at a place if a requirement asks what cannot be made of its measure."""
    check_measure(requirement.measure, joints, where)
    if requirement.reduce not in measured_as(requirement.measure).reductions:
        can = " or ".join(sorted(measured_as(requirement.measure).reductions))
        raise ValueOutOfRangeError(
            f"no {requirement.reduce.replace('_', ' ')} is made of a {requirement.measure.kind}.",
            where=where,
            remedy=f"Ask for its {can.replace('_', ' ')}.",
        )
    if requirement.at is not None:
        _check_moment(requirement, requirement.at, joints, where)


def _check_moment(
    requirement: model.Requirement, at: model.Moment, joints: Joints, where: str
) -> None:
    if not spec_of(joints[at.joint].kind).moves:
        raise ValueOutOfRangeError(
            "a rigid joint is nowhere.", where=where, remedy="Choose another joint."
        )
    values = measured_as(requirement.measure).reductions >= VALUES
    if not values or requirement.reduce not in ("least", "greatest", "size"):
        raise ValueOutOfRangeError(
            "it has no value at one pose.", where=where, remedy="Ask for it over the whole motion."
        )
