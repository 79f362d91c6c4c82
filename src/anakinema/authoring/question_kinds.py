"""Kinds of question that can be asked of a mechanism, in words, and what each can be about."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import Way, spec_of
from anakinema.document.measured import measured_as
from anakinema.document.resolve import Resolved
from anakinema.expression_functions import Quantity
from anakinema.expressions import evaluate, parse
from anakinema.units import ANGLE, NUMBER

Choice = tuple[str, str]
"""An id, and the words for it."""
ANY = ""
"""In the place of a body: whatever there is."""
WHOLE = "mechanism"
"""In the place of what a question is about: all of it."""


@dataclass(frozen=True, slots=True)
class AskingWish:
    """A question as it stands in the sentence: kind, what it is about, and its bound.

    ``first`` and ``second`` are ids of bodies, joints, kept measures, or places as ``body.place``;
    for a few kinds the second is a direction or a band.
    """

    kind: str
    first: str = ""
    second: str = ""
    bound: str = "least"
    value: str = ""
    joint: str = ""
    """Where it is asked only at a value of a joint: that joint, and ``at`` the value."""
    at: str = ""

    @staticmethod
    def usual_bound(kind: str) -> str:
        """The bound that a kind of question asks for if nothing else is said."""
        return KINDS[kind].bound

    @staticmethod
    def of(resolved: Resolved, requirement: model.Requirement) -> AskingWish | None:
        """The sentence of a requirement; None if the line has no words for it."""
        bound = "least" if requirement.least is not None else "greatest"
        value = requirement.least if bound == "least" else requirement.greatest
        text = value if isinstance(value, str) else f"{value:.10g}"
        moment = requirement.at
        where = ("", "")
        if moment is not None:
            at = moment.value if isinstance(moment.value, str) else f"{moment.value:.10g}"
            where = (moment.joint, at)
        if isinstance(requirement.measure, model.FormulaMeasure):
            found = [k for k, kind in KINDS.items() if kind.is_formula]
            fits = [k for k in found if KINDS[k].reduce == requirement.reduce]
            formula = requirement.measure.text
            return AskingWish(fits[0], WHOLE, formula, bound, text, *where) if fits else None
        for key, kind in KINDS.items():
            if kind.reduce != requirement.reduce:
                continue
            for first, _ in subjects(resolved, key):
                tried = AskingWish(key, first, _first_other(resolved, key, first))
                if type(kind.measure(resolved, tried)) is not type(requirement.measure):
                    break
                for second, _ in others(resolved, AskingWish(key, first)) or ((ANY, ""),):
                    wish = AskingWish(key, first, second, bound, text, *where)
                    if kind.measure(resolved, wish) == requirement.measure:
                        return wish
        return None


def _first_other(resolved: Resolved, kind: str, first: str) -> str:
    found = others(resolved, AskingWish(kind, first))
    return found[0][0] if found else ANY


_Maker = Callable[["Resolved", AskingWish], "model.Measure | None"]


@dataclass(frozen=True, slots=True)
class _Kind:
    """A kind of question: its words, what it is about, what is made of which measure.

    name : of the requirement that is made of it. shown : of the curve, where that is another
    than the name. suits : whether it can be asked of a thing.
    joiner, others : the word before the second thing, and what that can be.
    """

    words: str
    about: str
    reduce: model.Reduce
    measure: _Maker
    name: str
    shown: str = ""
    suits: Callable[[Resolved, str], bool] = lambda resolved, first: True
    bound: str = "least"
    joiner: str = ""
    is_interval: bool = False
    """Whether its answer is an interval that a search found."""
    is_formula: bool = False
    """Whether its second part is typed: a formula of kept measures."""
    others: Callable[[Resolved, AskingWish], tuple[Choice, ...]] = lambda resolved, wish: ()


def _joint(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.JointMeasure(kind="joint", joint=wish.first)


def _reserve(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.ReserveMeasure(kind="reserve", joint=wish.first)


def _transmission(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
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
    joined = {
        each.place
        for joint in resolved.document.joints
        for each in (joint.first, joint.second)
        if each.body == side.body
    }
    x, y, _ = places[side.place]
    away = {
        name: (name in joined, abs(complex(px - x, py - y)))
        for name, (px, py, _) in places.items()
        if abs(complex(px - x, py - y)) > 0
    }
    return max(away, key=lambda name: away[name], default=None)


def _gap(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.GapMeasure(kind="gap", first=wish.first or None, second=wish.second or None)


def _kept(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return next(each.measure for each in resolved.document.measures if each.id == wish.first)


def _has_limits(resolved: Resolved, joint: str) -> bool:
    values = resolved.joint_values(joint)
    return values.least is not None or values.greatest is not None


def _has_both_limits(resolved: Resolved, joint: str) -> bool:
    values = resolved.joint_values(joint)
    return values.least is not None and values.greatest is not None


def _is_pin(resolved: Resolved, joint: str) -> bool:
    kind = model.next_by_id(resolved.document.joints, joint).kind
    return kind == "revolute" and _transmission(resolved, AskingWish("", joint)) is not None


def _used(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.UsedMeasure(kind="used", joint=wish.first)


def _joint_rate(order: Literal[1, 2]) -> _Maker:
    return lambda resolved, wish: model.JointRateMeasure(
        kind="joint_rate", joint=wish.first, order=order
    )


def _place_rate(order: Literal[1, 2]) -> _Maker:
    return lambda resolved, wish: model.PlaceRateMeasure(
        kind="place_rate", place=place_side(wish.first), order=order
    )


def _path(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.PathMeasure(kind="path", place=place_side(wish.first))


def _straight(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.StraightMeasure(kind="straight", place=place_side(wish.first))


def _round(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.RoundMeasure(kind="round", place=place_side(wish.first))


def _distance(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    if not wish.second:
        return None
    return model.DistanceMeasure(
        kind="distance", first=place_side(wish.first), second=place_side(wish.second)
    )


def _angle(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    if not wish.second:
        return None
    return model.AngleMeasure(
        kind="angle", first=place_side(wish.first), second=place_side(wish.second)
    )


def _way(resolved: Resolved, wish: AskingWish) -> model.Measure:
    along = "90 deg" if wish.second == "y" else 0.0
    return model.WayMeasure(kind="way", place=place_side(wish.first), along=along)


def _dwell(resolved: Resolved, wish: AskingWish) -> model.Measure:
    band = wish.second or _bands(resolved, wish)[0][0]
    return model.DwellMeasure(kind="dwell", joint=wish.first, band=band)


def _freedoms(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.FreedomsMeasure(kind="freedoms")


def _other_joint(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    joints = resolved.document.joints
    moving = [each for each in joints if spec_of(each.kind).moves and each.id != wish.first]
    return tuple((each.id, each.title) for each in moving)


def _phase(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    if not wish.second:
        return None
    return model.PhaseMeasure(kind="phase", joint=wish.first, other=wish.second)


def _pressure(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.PressureMeasure(kind="pressure", joint=wish.first)


def _guided(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.GuidedMeasure(kind="guided", joint=wish.first)


def _overhang(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.OverhangMeasure(kind="overhang", joint=wish.first)


def _share(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.DriverShareMeasure(kind="driver_share", joint=wish.first)


def _housing(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    if not wish.second:
        return None
    return model.HousingMeasure(kind="housing", housing=wish.second, body=wish.first or None)


def _pinch(what: Literal["closings", "speed"]) -> _Maker:
    return lambda resolved, wish: model.PinchMeasure(
        kind="pinch", what=what, size=wish.second or SIZES[0][0], first=wish.first or None
    )


def _faces(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
    if not wish.first or not wish.second:
        return None
    return model.FacesMeasure(kind="faces", first=wish.first, second=wish.second)


def _rubbing(resolved: Resolved, wish: AskingWish) -> model.Measure:
    return model.RubbingMeasure(kind="rubbing", body=wish.first or None)


def _wall(across: bool) -> _Maker:
    def make(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
        if not wish.first:
            return None
        return model.WallMeasure(kind="wall", body=wish.first, across=across)

    return make


def _formula(resolved: Resolved, wish: AskingWish) -> model.Measure | None:
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


def _formulas(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
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


def _sizes(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    return SIZES


def _named_bodies(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    bodies = resolved.document.bodies
    # What is fixed stands first: housings and frames are.
    ordered = sorted(bodies, key=lambda body: not body.fixed)
    return tuple((body.id, body.title) for body in ordered if body.id != wish.first)


def _rides(resolved: Resolved, joint: str) -> bool:
    spec = spec_of(model.next_by_id(resolved.document.joints, joint).kind)
    return spec.is_pin and spec.way is not Way.POINT


def _slides(resolved: Resolved, joint: str) -> bool:
    spec = spec_of(model.next_by_id(resolved.document.joints, joint).kind)
    return spec.is_straight and not spec.is_pin


def _is_driven(resolved: Resolved, joint: str) -> bool:
    return any(driver.joint == joint for driver in resolved.document.program.drivers)


def place_side(key: str) -> model.Side:
    """A place of a body by its key, ``body.place``."""
    body, _, place = key.partition(".")
    return model.Side(body=body, place=place)


def _other_bodies(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    if not wish.first:
        return ((ANY, "any other"),)
    bodies = resolved.document.bodies
    return (*((b.id, b.title) for b in bodies if b.id != wish.first), (ANY, "all others"))


def _other_places(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    body = wish.first.partition(".")[0]
    # What is fixed stands first here: targets are.
    fixed = {each.id for each in resolved.document.bodies if each.fixed}
    found = [each for each in places(resolved) if each[0].partition(".")[0] != body]
    return tuple(sorted(found, key=lambda each: each[0].partition(".")[0] not in fixed))


def _axes(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    return (("x", "along x"), ("y", "along y"))


def _bands(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    joint = next((j for j in resolved.document.joints if j.id == wish.first), None)
    angular = joint is not None and spec_of(joint.kind).dimension == ANGLE
    unit = "deg" if angular else "mm"
    sizes = ("0.5", "1", "2", "5") if angular else ("0.1", "0.2", "0.5", "1", "2")
    return tuple((f"{size} {unit}", f"{size} {unit}") for size in sizes)


KINDS: Mapping[str, _Kind] = {
    "gap": _Kind(
        "the gap between", "bodies", "least", _gap, "Gap {first} to {second}",
        joiner="and", others=_other_bodies, is_interval=True,
    ),
    "travel": _Kind("the travel of", "joint", "range", _joint, "Travel of {first}", "{first}"),
    "lowest": _Kind("the least value of", "joint", "least", _joint, "Least {first}", "{first}"),
    "highest": _Kind(
        "the greatest value of", "joint", "greatest", _joint, "Greatest {first}", "{first}",
        bound="greatest",
    ),
    "reserve": _Kind(
        "what is left of the limits of", "joint", "least", _reserve, "Reserve of {first}",
        suits=_has_limits,
    ),
    "used": _Kind(
        "the share used of the limits of", "joint", "range", _used, "Used of {first}",
        suits=_has_both_limits, bound="greatest",
    ),
    "transmission": _Kind(
        "the transmission angle at", "joint", "least", _transmission,
        "Transmission angle at {first}", suits=_is_pin,
    ),
    "time_ratio": _Kind(
        "the time ratio of", "joint", "time_ratio", _joint, "Time ratio of {first}", "{first}"
    ),
    "dwell": _Kind(
        "the dwell of", "joint", "greatest", _dwell, "Dwell of {first}", "{first}",
        joiner="within", others=_bands,
    ),
    "speed": _Kind(
        "the speed of", "joint", "size", _joint_rate(1), "Speed of {first}", bound="greatest"
    ),
    "acceleration": _Kind(
        "the acceleration of", "joint", "size", _joint_rate(2), "Acceleration of {first}",
        bound="greatest",
    ),
    "place_way": _Kind(
        "the travel of the point", "place", "range", _way, "Travel of {first} {second}",
        joiner="", others=_axes,
    ),
    "path": _Kind("the path length of", "place", "range", _path, "Path of {first}"),
    "near": _Kind(
        "the least distance of", "place", "least", _distance, "Distance {first} to {second}",
        joiner="from", others=_other_places, bound="greatest",
    ),
    "far": _Kind(
        "the greatest distance of", "place", "greatest", _distance,
        "Distance {first} to {second}", joiner="from", others=_other_places, bound="greatest",
    ),
    "swing": _Kind(
        "the turn of", "place", "range", _angle, "Turn of {first} against {second}",
        joiner="against", others=_other_places,
    ),
    "place_speed": _Kind(
        "the speed of the point", "place", "greatest", _place_rate(1), "Speed of {first}",
        bound="greatest",
    ),
    "place_acceleration": _Kind(
        "the acceleration of the point", "place", "greatest", _place_rate(2),
        "Acceleration of {first}", bound="greatest",
    ),
    "straight": _Kind(
        "the straightness of the path of", "place", "range", _straight,
        "Straightness of {first}", bound="greatest",
    ),
    "round": _Kind(
        "the roundness of the path of", "place", "range", _round, "Roundness of {first}",
        bound="greatest",
    ),
    "freedoms": _Kind(
        "the freedoms of", "all", "greatest", _freedoms, "Freedoms", bound="greatest"
    ),
    "touches": _Kind(
        "the closest approach of", "bodies", "least", _gap, "{first} comes to {second}",
        bound="greatest", joiner="to", others=_other_bodies, is_interval=True,
    ),
    "housing": _Kind(
        "the room left around", "bodies", "least", _housing, "{first} inside {second}",
        joiner="inside", others=_named_bodies, is_interval=True,
    ),
    "pressure": _Kind(
        "the pressure angle at", "joint", "greatest", _pressure, "Pressure angle at {first}",
        suits=_rides, bound="greatest",
    ),
    "guided": _Kind(
        "the guided length of", "joint", "least", _guided, "Guided length of {first}",
        suits=_slides,
    ),
    "overhang": _Kind(
        "the overhang of", "joint", "greatest", _overhang, "Overhang of {first}",
        suits=_slides, bound="greatest",
    ),
    "phase": _Kind(
        "the time out of phase of", "joint", "greatest", _phase, "Phase of {first} and {second}",
        bound="greatest", joiner="with", others=_other_joint,
    ),
    "driver_share": _Kind(
        "the way from a dead point of", "joint", "least", _share, "Dead point of {first}",
        suits=_is_driven,
    ),
    "pinch": _Kind(
        "how often gaps close at", "bodies", "greatest", _pinch("closings"),
        "Closing gaps at {first}", bound="greatest", joiner="through", others=_sizes,
    ),
    "pinch_speed": _Kind(
        "the closing speed at", "bodies", "greatest", _pinch("speed"),
        "Closing speed at {first}", bound="greatest", joiner="through", others=_sizes,
    ),
    "faces": _Kind(
        "the distance along the pin of", "body", "least", _faces,
        "Faces of {first} and {second}", joiner="from", others=_named_bodies,
    ),
    "rubbing": _Kind(
        "the faces that rub on", "bodies", "greatest", _rubbing, "Faces that rub on {first}",
        bound="greatest",
    ),
    "wall": _Kind("the least wall of", "body", "least", _wall(False), "Wall of {first}"),
    "thickness": _Kind(
        "the least thickness of", "body", "least", _wall(True), "Thickness of {first}"
    ),
    "formula": _Kind(
        "the least of", "formula", "least", _formula, "Least {second}", "{second}",
        is_formula=True, others=_formulas,
    ),
    "formula_most": _Kind(
        "the greatest of", "formula", "greatest", _formula, "Greatest {second}", "{second}",
        bound="greatest", is_formula=True, others=_formulas,
    ),
    "measure": _Kind("the least of", "measure", "least", _kept, "Least {first}", "{first}"),
    "measure_most": _Kind(
        "the greatest of", "measure", "greatest", _kept, "Greatest {first}", "{first}",
        bound="greatest",
    ),
    "measure_range": _Kind(
        "the change of", "measure", "range", _kept, "Change of {first}", "{first}"
    ),
}  # fmt: skip


def questions(resolved: Resolved) -> tuple[Choice, ...]:
    """Kinds of question that can be asked of what there is."""
    return tuple((key, kind.words) for key, kind in KINDS.items() if subjects(resolved, key))


def subjects(resolved: Resolved, kind: str) -> tuple[Choice, ...]:
    """What a kind of question can be about."""
    document, asked = resolved.document, KINDS[kind]
    if asked.about == "all":
        return ((WHOLE, "the mechanism"),) if document.joints else ()
    if asked.about == "bodies":
        bodies = tuple((body.id, body.title) for body in document.bodies)
        return (*bodies, (ANY, "any body")) if len(bodies) > 1 else ()
    if asked.about == "body":
        return tuple((body.id, body.title) for body in document.bodies)
    if asked.about == "formula":
        return ((WHOLE, "a formula:"),) if document.measures else ()
    if asked.about == "measure":
        made = ((kept, measured_as(kept.measure).reductions) for kept in document.measures)
        return tuple((kept.id, kept.title) for kept, can in made if asked.reduce in can)
    if asked.about == "place":
        return places(resolved) if document.joints else ()
    return tuple(
        (joint.id, joint.title)
        for joint in document.joints
        if spec_of(joint.kind).moves and asked.suits(resolved, joint.id)
    )


def places(resolved: Resolved) -> tuple[Choice, ...]:
    """All places of all bodies, those of moving bodies first."""
    document = resolved.document
    return tuple(
        (f"{body.id}.{place}", f"{body.title}, {place.replace('_', ' ')}")
        for body in sorted(document.bodies, key=lambda each: each.fixed)
        for place in resolved.part_of(body).places
    )


def others(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """What stands behind 'and', 'from', 'within'; nothing where a question is about one thing."""
    return KINDS[wish.kind].others(resolved, wish)


def at_values(resolved: Resolved, kind: str) -> tuple[Choice, ...]:
    """Joints at whose value a kind of question can be asked, drivers first; () if at none."""
    made_once = KINDS[kind].reduce in ("least", "greatest", "size")
    if not made_once or KINDS[kind].about not in ("joint", "place", "measure", "formula"):
        return ()
    driven = {driver.joint for driver in resolved.document.program.drivers}
    joints = [each for each in resolved.document.joints if spec_of(each.kind).moves]
    return tuple(
        (each.id, each.title) for each in sorted(joints, key=lambda each: each.id not in driven)
    )


def is_typed(kind: str) -> bool:
    """Whether the second part of a kind of question is typed."""
    return KINDS[kind].is_formula


def joiner(kind: str) -> str:
    """The word between the two things of a kind of question."""
    return KINDS[kind].joiner
