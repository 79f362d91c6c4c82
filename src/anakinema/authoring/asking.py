"""What can be asked of a mechanism, in a sentence that what is selected fills."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.measured import requirement_dimension
from anakinema.document.reading import Reader
from anakinema.document.resolve import Resolved
from anakinema.edits.base import fresh_id
from anakinema.errors import ValueOutOfRangeError
from anakinema.expressions import completed
from anakinema.findings.evaluate import Evaluation
from anakinema.measures import Answer, Subject, Unanswered, answered
from anakinema.units import ANGLE, LENGTH, NUMBER, Dimension

Choice = tuple[str, str]
"""An id, and the words for it."""
ANY = ""
"""In the place of a body: whatever there is."""


@dataclass(frozen=True, slots=True)
class AskingWish:
    """A question as it stands in the sentence: kind, what it is about, and its bound.

    ``first`` and ``second`` are ids of bodies, or the first of a joint or a kept measure.
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
                for second, _ in others(resolved, AskingWish(key, first)) or ((ANY, ""),):
                    wish = AskingWish(key, first, second, bound, text)
                    if kind.measure(resolved, wish) == requirement.measure:
                        return wish
        return None


@dataclass(frozen=True, slots=True)
class _Kind:
    """A kind of question: its words, what it is about, what is made of which measure."""

    words: str
    about: str
    reduce: model.Reduce
    measure: Callable[[Resolved, AskingWish], model.Measure | None]
    suits: Callable[[Resolved, str], bool] = lambda resolved, first: True
    bound: str = "least"


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
    values = resolved.joints[[j.id for j in resolved.document.joints].index(joint)]
    return values.least is not None or values.greatest is not None


def _is_pin(resolved: Resolved, joint: str) -> bool:
    kind = model.next_by_id(resolved.document.joints, joint).kind
    return kind == "revolute" and _transmission(resolved, AskingWish("", joint)) is not None


KINDS: Mapping[str, _Kind] = {
    "gap": _Kind("the gap between", "bodies", "least", _gap),
    "travel": _Kind("the travel of", "joint", "range", _joint),
    "lowest": _Kind("the least value of", "joint", "least", _joint),
    "highest": _Kind("the greatest value of", "joint", "greatest", _joint, bound="greatest"),
    "reserve": _Kind("what is left of the limits of", "joint", "least", _reserve, _has_limits),
    "transmission": _Kind("the transmission angle at", "joint", "least", _transmission, _is_pin),
    "time_ratio": _Kind("the time ratio of", "joint", "time_ratio", _joint),
    "measure": _Kind("the least of", "measure", "least", _kept),
    "measure_most": _Kind("the greatest of", "measure", "greatest", _kept, bound="greatest"),
    "measure_range": _Kind("the change of", "measure", "range", _kept),
}
_NAMES = {
    "gap": "Gap {first} to {second}", "travel": "Travel of {first}", "lowest": "Least {first}",
    "highest": "Greatest {first}", "reserve": "Reserve of {first}",
    "transmission": "Transmission angle at {first}", "time_ratio": "Time ratio of {first}",
    "measure": "Least {first}", "measure_most": "Greatest {first}",
    "measure_range": "Change of {first}",
}  # fmt: skip


def questions(resolved: Resolved) -> tuple[Choice, ...]:
    """Kinds of question that can be asked of what there is."""
    return tuple((key, kind.words) for key, kind in KINDS.items() if subjects(resolved, key))


def subjects(resolved: Resolved, kind: str) -> tuple[Choice, ...]:
    """What a kind of question can be about."""
    document, asked = resolved.document, KINDS[kind]
    if asked.about == "bodies":
        bodies = tuple((body.id, body.title) for body in document.bodies)
        return (*bodies, (ANY, "any body")) if len(bodies) > 1 else ()
    if asked.about == "measure":
        return tuple((kept.id, kept.title) for kept in document.measures)
    return tuple(
        (joint.id, joint.title)
        for joint in document.joints
        if spec_of(joint.kind).moves and asked.suits(resolved, joint.id)
    )


def others(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """What stands behind 'and'; nothing where a question is about one thing."""
    if KINDS[wish.kind].about != "bodies":
        return ()
    if not wish.first:
        return ((ANY, "any other"),)
    bodies = resolved.document.bodies
    return (*((b.id, b.title) for b in bodies if b.id != wish.first), (ANY, "all others"))


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
    like = {LENGTH: f"1 {units.length}", ANGLE: f"1 {units.angle}", NUMBER: "1"}[dimension]
    text = wish.value.strip()
    if not text and present is not None:
        text = _plain(present / units.factor(dimension), like, up=wish.bound == "greatest")
    if not text:
        raise ValueOutOfRangeError(
            "it needs a value to compare with.",
            where="what is asked",
            remedy=f"Type one, such as {like}.",
        )
    text = completed(text, like, units)
    name = _NAMES[wish.kind].format(**_titles(resolved, wish))
    Reader(units, resolved.names).read(text, dimension, f"requirement '{name}'", wish.bound)
    return _made(resolved, wish, fresh_id(name, taken), text, name)


def _plain(value: float, like: str, *, up: bool) -> str:
    """A value to four digits with the unit of ``like``, rounded so that it is kept as it is now."""
    unit = like.partition(" ")[2]
    step = 10.0 ** (math.floor(math.log10(abs(value))) - 3) if value else 1.0
    rounded = (math.ceil if up else math.floor)(value / step) * step
    return f"{rounded:.4g} {unit}".strip()


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


_REASONS = {
    "nothing to compare": "nothing to compare: they share no heights",
    "no limits": "it has no limits",
    "no single stroke and return": "no single stroke and return",
}


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
    words = resolved.units.format(value, dimension)
    if dimension == NUMBER:
        words = f"{words} : 1"
    return Present(words, value)
