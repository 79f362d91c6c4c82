"""Kinds of question that can be asked of a mechanism, in words, and what each can be about."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.measured import measured_as
from anakinema.document.resolve import Resolved
from anakinema.units import ANGLE

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
        for key, kind in KINDS.items():
            if kind.reduce != requirement.reduce:
                continue
            for first, _ in subjects(resolved, key):
                tried = AskingWish(key, first, _first_other(resolved, key, first))
                if type(kind.measure(resolved, tried)) is not type(requirement.measure):
                    break
                for second, _ in others(resolved, AskingWish(key, first)) or ((ANY, ""),):
                    wish = AskingWish(key, first, second, bound, text)
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
        joiner="and", others=_other_bodies,
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


def joiner(kind: str) -> str:
    """The word between the two things of a kind of question."""
    return KINDS[kind].joiner
