"""What can be asked of a mechanism, in a sentence that what is selected fills."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from anakinema.analysis.splitting import TOLERANCE
from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.measured import kind_of, measured_as, requirement_dimension
from anakinema.document.reading import Reader
from anakinema.document.resolve import Resolved
from anakinema.edits.base import fresh_id
from anakinema.edits.structure import Add
from anakinema.errors import ValueOutOfRangeError
from anakinema.expressions import completed
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.wording import UNANSWERED, amount_words
from anakinema.measures import Answer, Subject, Unanswered, answered
from anakinema.units import ANGLE, Dimension

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


def first_wish(resolved: Resolved) -> AskingWish:
    """What is worth asking first: the travel of a joint that is moved but not driven."""
    driven = {driver.joint for driver in resolved.document.program.drivers}
    fixed = {body.id for body in resolved.document.bodies if body.fixed}
    moved = [key for key, _ in subjects(resolved, "travel") if key not in driven]
    joints = {joint.id: joint for joint in resolved.document.joints}
    hung = [k for k in moved if {joints[k].first.body, joints[k].second.body} & fixed]
    chosen = (hung or moved)[-1:]
    return AskingWish("travel", chosen[0]) if chosen else AskingWish("gap")


def filled(
    resolved: Resolved, wish: AskingWish, bodies: tuple[str, ...], joint: str, measure: str = ""
) -> AskingWish:
    """A question about what is selected: two bodies, a joint, a kept measure."""
    if measure and any(kept.id == measure for kept in resolved.document.measures):
        kind = wish.kind if KINDS[wish.kind].about == "measure" else "measure"
        return AskingWish(kind, measure, bound=KINDS[kind].bound)
    known = {body.id for body in resolved.document.bodies}
    chosen = [body for body in bodies if body in known]
    if chosen:
        second = chosen[1] if len(chosen) > 1 else ANY
        return AskingWish("gap", chosen[0], second)
    if any(key == joint for key, _ in subjects(resolved, "travel")):
        kind = wish.kind if KINDS[wish.kind].about == "joint" else "travel"
        if all(key != joint for key, _ in subjects(resolved, kind)):
            kind = "travel"
        return AskingWish(kind, joint, bound=KINDS[kind].bound)
    return wish


def asked_dimension(resolved: Resolved, wish: AskingWish) -> Dimension:
    """What its bound measures."""
    made = _made(resolved, wish, "x", "0")
    return requirement_dimension(joint_kinds(resolved.document), made)


def requirement_of(
    resolved: Resolved, wish: AskingWish, present: float | None
) -> model.Requirement:
    """The requirement that a sentence asks for, with an id and a name of its own.

    A bound without a unit gets that of the document; without any bound the ``present`` value is
    asked for. Raises an `AnakinemaError` that says what is missing or wrong.
    """
    taken = [each.id for each in resolved.source.requirements]
    dimension, units = asked_dimension(resolved, wish), resolved.units
    like = f"1 {units.name(dimension)}".strip()
    text = wish.value.strip()
    if not text and present is not None:
        if KINDS[wish.kind].about == "bodies":
            # Another search may know the gap to another interval as wide as this.
            present += TOLERANCE if wish.bound == "greatest" else -TOLERANCE
        text = _plain(present / units.factor(dimension), like, up=wish.bound == "greatest")
    if not text:
        raise ValueOutOfRangeError(
            "it needs a value to compare with.",
            where="what is asked",
            remedy=f"Type one, such as {like}.",
        )
    text = completed(text, like, units)
    name = KINDS[wish.kind].name.format(**_titles(resolved, wish))
    Reader(units, resolved.names).read(text, dimension, f"requirement '{name}'", wish.bound)
    return _made(resolved, wish, fresh_id(name, taken), text, name)


def _plain(value: float, like: str, *, up: bool) -> str:
    """A value to four digits with the unit of ``like``, rounded so that it is kept as it is now."""
    unit = like.partition(" ")[2]
    step = 10.0 ** (math.floor(math.log10(abs(value))) - 3) if value else 1.0
    rounded = (math.ceil if up else math.floor)(value / step) * step
    return f"{rounded:.10g} {unit}".strip()


def _titles(resolved: Resolved, wish: AskingWish) -> dict[str, str]:
    first = dict(subjects(resolved, wish.kind)).get(wish.first, "")
    second = dict(others(resolved, wish)).get(wish.second, "all others")
    return {"first": first, "second": second}


def _made(
    resolved: Resolved, wish: AskingWish, name: str, value: str, title: str = ""
) -> model.Requirement:
    known = {key for key, _ in subjects(resolved, wish.kind)}
    measure = KINDS[wish.kind].measure(resolved, wish) if wish.first in known else None
    if measure is None:
        raise ValueOutOfRangeError(
            "it is not said of what.", where="what is asked", remedy="Choose what it is about."
        )
    return model.Requirement.model_validate(
        {
            "id": name,
            "name": title,
            "measure": measure,
            "reduce": KINDS[wish.kind].reduce,
            wish.bound: value,
        }
    )


@dataclass(frozen=True, slots=True)
class Present:
    """What a question's answer is now: in words, and its value (inside units) if there is one."""

    words: str
    value: float | None


_REASONS = {**UNANSWERED, "nothing to compare": "nothing to compare: they share no heights"}


def present(evaluation: Evaluation, wish: AskingWish) -> Present:
    """The answer to a question as the mechanism is now. Raises an `AnakinemaError` if it is not
    said of what."""
    resolved = evaluation.resolved
    asked = _made(resolved, wish, "x", "0")
    found = answered(Subject(resolved, evaluation.motion, evaluation.gaps), asked, None)
    if isinstance(found, Unanswered):
        return Present(_REASONS.get(found.reason, found.reason), None)
    assert isinstance(found, Answer)
    value = found.low if wish.bound == "least" else found.high
    dimension = asked_dimension(resolved, wish)
    words = amount_words(resolved.units, value, dimension, kind_of(asked))
    return Present(f"{words} : 1" if asked.reduce == "time_ratio" else words, value)


def shown_measure(resolved: Resolved, wish: AskingWish) -> Add:
    """The edit that keeps what a sentence asks about as a curve of the strip, without a bound.

    Raises an `AnakinemaError` if it is not said of what.
    """
    asked = _made(resolved, wish, "x", "0")
    kind = KINDS[wish.kind]
    name = (kind.shown or kind.name).format(**_titles(resolved, wish)).strip()
    taken = [each.id for each in resolved.source.measures]
    kept = model.KeptMeasure(id=fresh_id(name, taken), name=name, measure=asked.measure)
    return Add(f"Show {name}", measures=(kept,))
