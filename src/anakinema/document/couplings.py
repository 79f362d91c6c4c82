"""The sizes of couplings in numbers, and what they may be."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.body_graph import body_graph, steps_from
from anakinema.document.coupling_kinds import Sizes, coupling_spec
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.reading import Reader
from anakinema.errors import ValueOutOfRangeError
from anakinema.units import Dimension

LEAST_TEETH = 4
"""Fewer are no wheel; 6 is the least that is made in practice (common practice, no source)."""
MOST_ANGLE = math.radians(60)
"""Between shafts that one universal joint couples; beyond 45° they are made for hand use only
(common practice, no source)."""


@dataclass(frozen=True, slots=True)
class BeltValues:
    """A loop in numbers, mm: radii of its wheels, below zero where its back runs; its length, None
    for as drawn; how thick it is, 0 if that is not stated."""

    radii: tuple[float, ...]
    length: float | None
    thickness: float


def belt_values(document: model.Document, belt: model.Belt, reader: Reader) -> BeltValues:
    """The sizes of a loop in numbers; raises an `AnakinemaError` that names it."""
    where = f"belt '{belt.title}'"
    radii = []
    for k, wheel in enumerate(belt.wheels):
        joint = document.joint(wheel.joint)
        if joint.kind != "revolute":
            raise ValueOutOfRangeError(
                f"joint '{joint.title}' turns no wheel.",
                where=where,
                remedy="Choose revolute joints.",
            )
        radius = reader.field(wheel, "radius", f"{where}, wheel {k + 1}")
        if radius <= 0:
            raise ValueOutOfRangeError(
                f"the radius of wheel {k + 1} is not above zero.",
                where=where,
                remedy="Give it a size above zero; its back is told apart.",
            )
        radii.append(-radius if wheel.back else radius)
    thickness = reader.optional(belt, "thickness", where) or 0.0
    if not 0 <= thickness < 2 * min(abs(radius) for radius in radii):
        raise ValueOutOfRangeError(
            f"a thickness of {thickness:g} mm does not go round its smallest wheel.",
            where=where,
            remedy="Give it zero or more, and less than twice the smallest radius.",
        )
    length = reader.optional(belt, "length", where)
    return BeltValues(tuple(radii), length, thickness)


@dataclass(frozen=True, slots=True)
class CouplingValues:
    """Sizes of a coupling: teeth, mm, or what the two joints move by (mm or rad)."""

    first: float
    second: float


def common_carrier(
    bodies: Iterable[model.Body], first: model.Joint, second: model.Joint
) -> str | None:
    """The body that two joints share, or a fixed one where both hang on fixed bodies."""
    fixed = {body.id for body in bodies if body.fixed}
    one, two = ((j.first.body, j.second.body) for j in (first, second))
    shared = [body for body in one if body in two]
    if shared:
        return shared[0]
    return next((body for body in one if body in fixed), None) if fixed & set(two) else None


def wheels_of(
    bodies: Iterable[model.Body], joints: Iterable[model.Joint], coupling: model.Coupling
) -> tuple[str, str]:
    """Bodies that a coupling moves: of each joint the one farther from the carrier by joints.

    Whichever way round a joint was made; all fixed bodies count as one.
    """
    bodies, joints = tuple(bodies), tuple(joints)
    first, second = (model.next_by_id(joints, each) for each in (coupling.first, coupling.second))
    carrier = coupling.carrier or common_carrier(bodies, first, second) or first.first.body
    away = steps_from(body_graph(bodies, joints), [carrier])

    def far(joint: model.Joint) -> str:
        one, two = (away.get(side.body, 0) for side in (joint.first, joint.second))
        return joint.first.body if one > two else joint.second.body

    return far(first), far(second)


def coupling_dimensions(
    kinds: Mapping[str, model.JointKind], coupling: model.Coupling
) -> tuple[Dimension, Dimension | None]:
    """What the two sizes of a coupling measure, given the kinds of joints; None for no size."""
    spec = coupling_spec(coupling.kind)
    return spec.dimensions(kinds[coupling.first], kinds[coupling.second])


def coupling_values(
    document: model.Document, coupling: model.Coupling, reader: Reader
) -> CouplingValues:
    """The sizes in numbers; raises an `AnakinemaError` that names the coupling."""
    where = f"coupling '{coupling.title}'"
    _check_joints(document, coupling, where)
    dimensions = coupling_dimensions(joint_kinds(document), coupling)
    one = reader.read(coupling.first_size, dimensions[0], where, "first size")
    two = 1.0
    if dimensions[1] is not None:
        if coupling.second_size is None:
            raise ValueOutOfRangeError(
                "its second size is missing.", where=where, remedy="Give both sizes."
            )
        two = reader.read(coupling.second_size, dimensions[1], where, "second size")
    spec = coupling_spec(coupling.kind)
    _CHECKS[spec.sizes](one, two, where)
    if spec.ring and one >= two:
        raise ValueOutOfRangeError(
            f"a pinion of {one:g} teeth does not fit into a ring of {two:g}.",
            where=where,
            remedy="Give the ring more teeth than the pinion; the ring is the second.",
        )
    return CouplingValues(one, two)


def _check_joints(document: model.Document, coupling: model.Coupling, where: str) -> None:
    first, second = (document.joint(name) for name in (coupling.first, coupling.second))
    spec = coupling_spec(coupling.kind)
    for joint, kind in zip((first, second), spec.joints or (None, None), strict=True):
        if not spec_of(joint.kind).moves:
            raise ValueOutOfRangeError(
                f"joint '{joint.title}' does not move.", where=where, remedy="Choose another joint."
            )
        if kind is not None and joint.kind != kind:
            raise ValueOutOfRangeError(
                f"joint '{joint.title}' is not {kind}.",
                where=where,
                remedy="Choose another joint, or another kind of coupling.",
            )
    apart = coupling.carrier is None and common_carrier(document.bodies, first, second) is None
    if apart and spec.has_carrier:
        raise ValueOutOfRangeError(
            "its two joints hang on two bodies.",
            where=where,
            remedy="Name the body that carries both wheels.",
        )


def _check_teeth(one: float, two: float, where: str) -> None:
    for teeth in (one, two):
        if abs(teeth - round(teeth)) > 1e-9 or teeth < LEAST_TEETH:
            raise ValueOutOfRangeError(
                f"{teeth:g} is no number of teeth.",
                where=where,
                remedy=f"Give a whole number of {LEAST_TEETH} or more.",
            )


def _check_radii(one: float, two: float, where: str) -> None:
    if not (one > 0 and two > 0):
        raise ValueOutOfRangeError(
            "a radius is not above zero.", where=where, remedy="Give a size above zero."
        )


def _check_ways(one: float, two: float, where: str) -> None:
    if one == 0 or two == 0:
        raise ValueOutOfRangeError(
            "one of its joints would not move at all.", where=where, remedy="Give it a size."
        )


def _check_angle(one: float, two: float, where: str) -> None:
    if not abs(one) <= MOST_ANGLE:
        raise ValueOutOfRangeError(
            f"shafts at {math.degrees(one):.4g}° cannot turn by one universal joint.",
            where=where,
            remedy=f"Give an angle up to {math.degrees(MOST_ANGLE):.0f}°.",
        )


_CHECKS: Mapping[Sizes, Callable[[float, float, str], None]] = {
    Sizes.TEETH: _check_teeth,
    Sizes.RADII: _check_radii,
    Sizes.RIM: _check_radii,
    Sizes.WAYS: _check_ways,
    Sizes.ANGLE: _check_angle,
}
