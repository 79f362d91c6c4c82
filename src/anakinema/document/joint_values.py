"""Joints in numbers: what they state, their limits, and where their guides end."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from anakinema.document import model
from anakinema.document.guides import Guide, guide_ends
from anakinema.document.kinds import Rider, spec_of
from anakinema.document.names import missing
from anakinema.document.reading import Reader
from anakinema.document.rods import RodValues, rod_of
from anakinema.document.solids import SolidPart
from anakinema.document.strokes import Stroke, stroke_of
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import relative_poses
from anakinema.wanted import still_wanted

Bound = Literal["limit", "stop", "leaves"]
"""What bounds a joint: a limit that was stated, the end of its slot or stroke, the open end of its
guide."""


@dataclass(frozen=True, slots=True)
class JointValues:
    """The numbers of a joint in mm or rad; limits are shown values, None where there is none.

    Limits are those stated, or where the joint's guide ends if that comes first: ``least_by`` and
    ``greatest_by`` say which. ``exits`` are values at which it leaves its guide, as it may.
    """

    twist: float
    offset: float
    zero: float
    radius: float
    least: float | None
    greatest: float | None
    rest: float | None
    least_by: Bound = "limit"
    greatest_by: Bound = "limit"
    stroke: Stroke | None = None
    rod: RodValues | None = None
    exits: tuple[tuple[float, int], ...] = ()
    """Values, and the side (-1 below, 1 above) that lies outside the guide."""


def joint_values(joint: model.Joint, carrier: SolidPart, reader: Reader) -> JointValues:
    """A joint in numbers, without where its guide ends; raises an `AnakinemaError` naming it."""
    where = f"joint '{joint.title}'"
    dimension = spec_of(joint.kind).dimension
    least = reader.maybe(joint.limits.least, dimension, where, "least value")
    greatest = reader.maybe(joint.limits.greatest, dimension, where, "greatest value")
    if least is not None and greatest is not None and least > greatest:
        shown = [reader.units.format(v, dimension) for v in (least, greatest)]
        raise ValueOutOfRangeError(
            f"the least value {shown[0]} is above the greatest value {shown[1]}.",
            where=f"limits of {where}",
            remedy="Swap the two values.",
        )
    zero = reader.read(joint.zero, dimension, where, "zero")
    if joint.yields in ("spring", "gravity") and joint.limits.rest is None:
        raise ValueOutOfRangeError(
            "it yields, but has no rest value to return to.",
            where=where,
            remedy="Give it a rest value, or take the pose on show.",
        )
    spec = spec_of(joint.kind)
    if spec.has_curve:
        _check_curve(joint, carrier)
    stroke = stroke_of(joint, reader, where) if spec.telescopes else None
    values = JointValues(
        twist=reader.field(joint, "twist", where),
        offset=reader.field(joint, "offset", where),
        zero=zero,
        radius=_arc_radius(joint, reader, where),
        least=least,
        greatest=greatest,
        rest=reader.maybe(joint.limits.rest, dimension, where, "rest"),
        stroke=stroke,
        rod=rod_of(joint, reader, where) if spec.is_rod else None,
    )
    return values if stroke is None else _over_stroke(values, stroke)


def _over_stroke(values: JointValues, stroke: Stroke) -> JointValues:
    """Counted from the dead length, within the stroke."""
    ends = 0.0 - values.zero, stroke.stroke - values.zero
    values = replace(values, zero=values.zero + stroke.dead_length)
    if values.least is None or values.least < ends[0]:
        values = replace(values, least=ends[0], least_by="stop")
    if values.greatest is None or values.greatest > ends[1]:
        values = replace(values, greatest=ends[1], greatest_by="stop")
    return values


def _check_curve(joint: model.Joint, carrier: SolidPart) -> None:
    if joint.curve is None or joint.curve not in carrier.curves:
        raise missing(f"curve '{joint.curve}'", f"joint '{joint.title}'", carrier.curves)
    curve = carrier.curves[joint.curve]
    is_round = curve.is_closed and curve.least_curvature > 0
    if spec_of(joint.kind).rider is Rider.FACE and not is_round:
        raise ValueOutOfRangeError(
            "a face needs a closed curve that is round all over.",
            where=f"joint '{joint.title}'",
            remedy="Choose another curve or kind of joint.",
        )


def within_guide(
    joint: model.Joint,
    values: JointValues,
    parts: tuple[SolidPart, SolidPart],
    bodies: tuple[int, int],
    poses: Floats,
    heights: Floats,
) -> JointValues:
    """The values of a joint with the ends of its slot, fork, groove or curve as bounds."""
    still_wanted()
    curve = parts[0].curves[joint.curve] if joint.curve is not None else None
    is_open = curve is not None and not curve.is_closed
    spec, is_stated = spec_of(joint.kind), bool(joint.first.pieces and joint.second.pieces)
    if not spec.is_guided or not (is_open or is_stated):
        return values
    places = parts[0].places[joint.first.place], parts[1].places[joint.second.place]
    guide = Guide(
        spec, *places, values.twist, values.offset, values.radius, curve if spec.has_curve else None
    )
    drawn = guide.drawn(relative_poses(poses[None, bodies[0]], poses[None, bodies[1]])[0])
    own = float(heights[bodies[0]]), float(heights[bodies[1]])
    low, high = guide_ends(joint, guide, parts, own, drawn)
    exits = []
    for end, side in ((low, -1), (high, 1)):
        if end is None:
            continue
        shown = end.value - values.zero
        if end.leaves and joint.may_leave:
            exits.append((shown, side))
            continue
        by: Bound = "leaves" if end.leaves else "stop"
        if side < 0 and (values.least is None or shown > values.least):
            values = replace(values, least=shown, least_by=by)
        if side > 0 and (values.greatest is None or shown < values.greatest):
            values = replace(values, greatest=shown, greatest_by=by)
    return replace(values, exits=tuple(exits))


def _arc_radius(joint: model.Joint, reader: Reader, where: str) -> float:
    if not spec_of(joint.kind).has_radius:
        return 1.0
    if joint.radius is None:
        raise ValueOutOfRangeError(
            "the arc it runs on has no radius.", where=where, remedy="Give the radius of the arc."
        )
    radius = reader.field(joint, "radius", where)
    if not radius > 0:
        raise ValueOutOfRangeError(
            "the radius of its arc is not above zero.", where=where, remedy="For instance 40 mm."
        )
    return radius
