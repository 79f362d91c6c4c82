"""What can be asked of a mechanism, in a sentence that what is selected fills."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from anakinema.analysis.splitting import TOLERANCE
from anakinema.authoring.asking_wish import ANY, AskingWish
from anakinema.authoring.question_kinds import KINDS, others, subjects
from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.measured import kind_of, requirement_dimension
from anakinema.document.reading import Reader
from anakinema.document.resolve import Resolved
from anakinema.edits.base import fresh_id
from anakinema.edits.structure import Add
from anakinema.errors import ValueOutOfRangeError
from anakinema.expressions import completed
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.wording import UNANSWERED, amount_words
from anakinema.measures import Answer, Subject, Unanswered, answered
from anakinema.units import Dimension


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
        if KINDS[wish.kind].is_interval:
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
    if wish.poses is not None:
        titles = {pose.id: pose.title for pose in resolved.source.poses}
        name = f"{name} from {titles[wish.poses[0]]} to {titles[wish.poses[1]]}"
    elif wish.joint:
        name = f"{name} at {_moment(resolved, wish)}"
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
    second = dict(others(resolved, wish)).get(wish.second, wish.second or "all others")
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
            "at": {"joint": wish.joint, "value": _moment(resolved, wish)}
            if wish.joint and wish.poses is None
            else None,
            "between": None
            if wish.poses is None
            else {"first": wish.poses[0], "last": wish.poses[1]},
            wish.bound: value,
        }
    )


def _moment(resolved: Resolved, wish: AskingWish) -> str:
    """The value of the joint at which it is asked; where it starts if none is typed."""
    kinds, units = joint_kinds(resolved.document), resolved.units
    dimension = spec_of(kinds[wish.joint]).dimension
    like = f"1 {units.name(dimension)}"
    text = wish.at.strip()
    if not text:
        text = "0"
    text = completed(text, like, units)
    joint = model.next_by_id(resolved.document.joints, wish.joint)
    Reader(units, resolved.names).read(text, dimension, f"joint '{joint.title}'", "value")
    return text


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
    asked = _made(resolved, replace(wish, joint=""), "x", "0")
    kind = KINDS[wish.kind]
    name = (kind.shown or kind.name).format(**_titles(resolved, wish)).strip()
    taken = [each.id for each in resolved.source.measures]
    # Short, for formulas name it.
    kept = model.KeptMeasure(id=fresh_id(wish.kind, taken), name=name, measure=asked.measure)
    return Add(f"Show {name}", measures=(kept,))
