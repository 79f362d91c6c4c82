"""What a question is about, made into a measure; what its second thing can be; whether it fits.

Long for its many kinds, each a few lines.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from functools import lru_cache
from typing import Literal

from anakinema.authoring.asking_wish import ANY, AskingWish, Choice
from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import Way, spec_of
from anakinema.document.measured import measured_as
from anakinema.document.resolve import Resolved
from anakinema.expression_functions import Quantity
from anakinema.expressions import evaluate, parse
from anakinema.units import ANGLE, NUMBER

Maker = Callable[[Resolved, AskingWish], model.Measure | None]


def joint_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about joint."""
    return model.JointMeasure(kind="joint", joint=wish.first)


def reserve_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about reserve."""
    return model.ReserveMeasure(kind="reserve", joint=wish.first)


def transmission_measure(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    """The measure of a question about transmission."""
    joint = model.next_by_id(resolved.document.joints, wish.first)
    one, two = (_farthest(resolved, side) for side in (joint.first, joint.second))
    if one is None or two is None:
        return None
    return model.TransmissionMeasure(
        kind="transmission", joint=joint.id, first_place=one, second_place=two
    )


def _farthest(resolved: Resolved, side: model.Side) -> str | None:
    """The place of a body that is joined somewhere and farthest from a side of it; else any."""
    body = model.next_by_id(resolved.document.bodies, side.body)
    places = resolved.part_of(body).places
    joined = _joined_places(resolved)[side.body]
    x, y, _ = places[side.place]
    away = {
        name: (name in joined, abs(complex(px - x, py - y)))
        for name, (px, py, _) in places.items()
        if abs(complex(px - x, py - y)) > 0
    }
    return max(away, key=lambda name: away[name], default=None)


@lru_cache(maxsize=2)
def _joined_places(resolved: Resolved) -> dict[str, set[str]]:
    """Of every body the places by which it is joined; asked of every joint of the newest."""
    found: dict[str, set[str]] = defaultdict(set)
    for joint in resolved.document.joints:
        for side in (joint.first, joint.second):
            found[side.body].add(side.place)
    return found


def gap_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about gap."""
    return model.GapMeasure(kind="gap", first=wish.first or None, second=wish.second or None)


def kept_as(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about kept as."""
    return next(each.measure for each in resolved.document.measures if each.id == wish.first)


def has_limits(resolved: Resolved, joint: str) -> bool:
    """Whether a joint has a limit."""
    values = resolved.joint_values(joint)
    return values.least is not None or values.greatest is not None


def has_both_limits(resolved: Resolved, joint: str) -> bool:
    """Whether a joint has limits on both sides."""
    values = resolved.joint_values(joint)
    return values.least is not None and values.greatest is not None


def is_pin(resolved: Resolved, joint: str) -> bool:
    """Whether a transmission angle can be asked at a joint."""
    kind = model.next_by_id(resolved.document.joints, joint).kind
    return kind == "revolute" and transmission_measure(resolved, AskingWish("", joint)) is not None


def used_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about used."""
    return model.UsedMeasure(kind="used", joint=wish.first)


def joint_rate_measure(order: Literal[1, 2]) -> Maker:
    """The measure of a question about joint rate."""
    return lambda resolved, wish: model.JointRateMeasure(
        kind="joint_rate", joint=wish.first, order=order
    )


def place_rate_measure(order: Literal[1, 2]) -> Maker:
    """The measure of a question about place rate."""
    return lambda resolved, wish: model.PlaceRateMeasure(
        kind="place_rate", place=place_side(wish.first), order=order, against=wish.second or None
    )


def path_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about path."""
    return model.PathMeasure(kind="path", place=place_side(wish.first), against=wish.second or None)


def straight_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about straight."""
    return model.StraightMeasure(kind="straight", place=place_side(wish.first))


def round_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about round."""
    return model.RoundMeasure(kind="round", place=place_side(wish.first))


def distance_measure(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    """The measure of a question about distance."""
    if not wish.second:
        return None
    return model.DistanceMeasure(
        kind="distance", first=place_side(wish.first), second=place_side(wish.second)
    )


def angle_measure(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    """The measure of a question about angle."""
    if not wish.second:
        return None
    return model.AngleMeasure(
        kind="angle", first=place_side(wish.first), second=place_side(wish.second)
    )


def way_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about way."""
    along = "90 deg" if wish.second == "y" else 0.0
    return model.WayMeasure(kind="way", place=place_side(wish.first), along=along)


def dwell_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about dwell."""
    band = wish.second or bands(resolved, wish)[0][0]
    return model.DwellMeasure(kind="dwell", joint=wish.first, band=band)


def freedoms_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about freedoms."""
    return model.FreedomsMeasure(kind="freedoms")


def other_joint(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """All other joints that move."""
    joints = resolved.document.joints
    moving = [each for each in joints if spec_of(each.kind).moves and each.id != wish.first]
    return tuple((each.id, each.title) for each in moving)


def phase_measure(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    """The measure of a question about phase."""
    if not wish.second:
        return None
    return model.PhaseMeasure(kind="phase", joint=wish.first, other=wish.second)


def pressure_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about pressure."""
    return model.PressureMeasure(kind="pressure", joint=wish.first)


def guided_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about guided."""
    return model.GuidedMeasure(kind="guided", joint=wish.first)


def overhang_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about overhang."""
    return model.OverhangMeasure(kind="overhang", joint=wish.first)


def share_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about share."""
    return model.DriverShareMeasure(kind="driver_share", joint=wish.first)


def housing_measure(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    """The measure of a question about housing."""
    if not wish.second:
        return None
    return model.HousingMeasure(kind="housing", housing=wish.second, body=wish.first or None)


def pinch_measure(what: Literal["closings", "speed"]) -> Maker:
    """The measure of a question about pinch."""
    return lambda resolved, wish: model.PinchMeasure(
        kind="pinch", what=what, size=wish.second or SIZES[0][0], first=wish.first or None
    )


def faces_measure(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    """The measure of a question about faces."""
    if not wish.first or not wish.second:
        return None
    return model.FacesMeasure(kind="faces", first=wish.first, second=wish.second)


def rubbing_measure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    """The measure of a question about rubbing."""
    return model.RubbingMeasure(kind="rubbing", body=wish.first or None)


def wall_measure(across: bool) -> Maker:
    """The measure of a question about wall."""

    def make(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
        if not wish.first:
            return None
        return model.WallMeasure(kind="wall", body=wish.first, across=across)

    return make


def formula_measure(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    """A typed formula; what unit it gives follows from what it names."""
    if not wish.second.strip():
        return None
    kinds = joint_kinds(resolved.document)
    names = dict(resolved.names)
    for kept in resolved.document.measures:
        dimension = measured_as(kept.measure).dimension(kept.measure, kinds)
        names[kept.id] = Quantity(1.0, dimension)
    gives = evaluate(parse(wish.second), names).dimension
    unit = resolved.units.name(gives) if gives != NUMBER else ""
    return model.FormulaMeasure(kind="formula", text=wish.second.strip(), gives=unit)


def formulas(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """Some to begin with: each kept measure alone, and what two of one kind differ by."""
    kinds = joint_kinds(resolved.document)
    kept = [
        (each.id, measured_as(each.measure).dimension(each.measure, kinds))
        for each in resolved.document.measures
    ]
    texts = [name for name, _ in kept]
    texts += [f"{a} - {b}" for a, of in kept for b, also in kept if a != b and of == also]
    if wish.second and wish.second not in texts:
        texts.insert(0, wish.second)
    return tuple((text, text) for text in texts)


SIZES: tuple[Choice, ...] = (
    ("25 mm", "25 mm, a finger"),
    ("100 mm", "100 mm, a hand"),
    ("120 mm", "120 mm, an arm or foot"),
    ("50 mm", "50 mm, toes"),
    ("180 mm", "180 mm, a leg"),
    ("300 mm", "300 mm, a head"),
    ("500 mm", "500 mm, a body"),
)
"""Sizes of ISO 13854, from memory."""


def sizes(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """Sizes of parts of the body."""
    return SIZES


def named_bodies(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """All other bodies."""
    bodies = resolved.document.bodies
    # What is fixed stands first: housings and frames are.
    ordered = sorted(bodies, key=lambda body: not body.fixed)
    return tuple((body.id, body.title) for body in ordered if body.id != wish.first)


def rides(resolved: Resolved, joint: str) -> bool:
    """Whether a joint is a pin on a curve or in a slot."""
    spec = spec_of(model.next_by_id(resolved.document.joints, joint).kind)
    return spec.is_pin and spec.way is not Way.POINT


def slides(resolved: Resolved, joint: str) -> bool:
    """Whether a joint is a block or rod that slides."""
    spec = spec_of(model.next_by_id(resolved.document.joints, joint).kind)
    return spec.is_straight and not spec.is_pin


def is_driven(resolved: Resolved, joint: str) -> bool:
    """Whether the program moves a joint."""
    return any(driver.joint == joint for driver in resolved.document.program.drivers)


def place_side(key: str) -> model.Side:
    """A place of a body by its key, ``body.place``."""
    body, _, place = key.partition(".")
    return model.Side(body=body, place=place)


def other_bodies(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """What a gap can be to."""
    if not wish.first:
        return ((ANY, "any other"),)
    bodies = resolved.document.bodies
    return (*((b.id, b.title) for b in bodies if b.id != wish.first), (ANY, "all others"))


def other_places(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """Places of other bodies."""
    body = wish.first.partition(".")[0]
    # What is fixed stands first here: targets are.
    fixed = {each.id for each in resolved.document.bodies if each.fixed}
    found = [each for each in places(resolved) if each[0].partition(".")[0] != body]
    return tuple(sorted(found, key=lambda each: each[0].partition(".")[0] not in fixed))


def observers(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """From where a place is seen: its plane, or a body of another one."""
    document = resolved.document
    own = next((b.plane for b in document.bodies if b.id == wish.first.partition(".")[0]), None)
    others = [body for body in document.bodies if body.plane != own]
    if not others or own is None:
        return ()
    # What is fixed stands first: that is what space is seen from.
    ordered = sorted(others, key=lambda body: not body.fixed)
    return ((ANY, "its plane"), *((body.id, body.title) for body in ordered))


def axes(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """Directions of the plane."""
    return (("x", "along x"), ("y", "along y"))


def bands(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """Widths of bands for a joint's dwell."""
    joint = next((j for j in resolved.document.joints if j.id == wish.first), None)
    angular = joint is not None and spec_of(joint.kind).dimension == ANGLE
    unit = "deg" if angular else "mm"
    sizes = ("0.5", "1", "2", "5") if angular else ("0.1", "0.2", "0.5", "1", "2")
    return tuple((f"{size} {unit}", f"{size} {unit}") for size in sizes)


def places(resolved: Resolved) -> tuple[Choice, ...]:
    """All places of all bodies, those of moving bodies first."""
    document = resolved.document
    return tuple(
        (f"{body.id}.{place}", f"{body.title}, {place.replace('_', ' ')}")
        for body in sorted(document.bodies, key=lambda each: each.fixed)
        for place in resolved.part_of(body).places
    )
