"""A set of numbers with what it gave, and the way back to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Edit, Source, Together, fresh_id
from anakinema.edits.values import SetDimension, SetParameter
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Outcome
from anakinema.findings.wording import value_words
from anakinema.units import UnitSystem

Key = tuple[str | None, str]
"""Part (None for a parameter) and name."""


def trial_of(evaluation: Evaluation, name: str, when: datetime) -> model.Trial:
    """What is tried now: all named numbers of the document, and every finding."""
    document = evaluation.source
    taken = [trial.id for trial in document.trials]
    return model.Trial(
        id=fresh_id(name, taken),
        name=name,
        when=when.isoformat(timespec="minutes"),
        numbers=tuple(
            model.TrialNumber(part=part, name=key, value=value)
            for (part, key), value in _values(document).items()
        ),
        results=tuple(
            model.TrialResult(
                title=finding.title,
                outcome=finding.outcome.value,
                value=value_words(evaluation, finding),
            )
            for finding in evaluation.verdict.findings
        ),
    )


def _values(document: Document) -> dict[Key, Source]:
    found: dict[Key, Source] = {(None, p.id): p.value for p in document.parameters}
    for part in document.parts:
        found |= {(part.id, d.id): d.value for d in part.dimensions}
    return found


@dataclass(frozen=True, slots=True)
class Difference:
    """A number that a trial has otherwise: its title, then and now; '' where it is gone."""

    title: str
    then: str
    now: str


def differences(document: Document, trial: model.Trial) -> tuple[Difference, ...]:
    """The numbers of a trial that are another now, or gone."""
    return _differing(document, trial, _values(document))


def between(document: Document, trial: model.Trial, other: model.Trial) -> tuple[Difference, ...]:
    """The numbers that two trials have otherwise: then those of the first, now of the other."""
    return _differing(document, trial, {(n.part, n.name): n.value for n in other.numbers})


def _differing(
    document: Document, trial: model.Trial, values: Mapping[Key, Source]
) -> tuple[Difference, ...]:
    titles = {part.id: part.title for part in document.parts}
    units = UnitSystem(document.units.length, document.units.angle)
    found = []
    for number in trial.numbers:
        now = values.get((number.part, number.name))
        if now == number.value:
            continue
        title = number.name.replace("_", " ")
        if number.part is not None:
            title = f"{titles.get(number.part, number.part.replace('_', ' '))}, {title}"
        found.append(Difference(title, _words(number.value, units), _words(now, units)))
    return tuple(found)


def _words(value: Source | None, units: UnitSystem) -> str:
    if value is None:
        return ""
    return value if isinstance(value, str) else f"{value:.10g}"


def back_to(document: Document, trial: model.Trial) -> Edit | None:
    """Give all numbers that are still there the values of a trial; None if they have them."""
    values = _values(document)
    edits: list[Edit] = []
    for number in trial.numbers:
        now = values.get((number.part, number.name))
        if now is None or now == number.value:
            continue
        if number.part is None:
            edits.append(SetParameter(number.name, number.value))
        else:
            edits.append(SetDimension(number.part, number.name, number.value))
    return Together(f"Go back to {trial.title}", tuple(edits)) if edits else None


def standing_words(trial: model.Trial) -> str:
    """'all 7 pass', '1 of 7 fails'."""
    total = len(trial.results)
    bad = sum(r.outcome in (Outcome.FAIL.value, Outcome.UNKNOWN.value) for r in trial.results)
    if bad:
        return f"{bad} of {total} {'does' if bad == 1 else 'do'} not pass"
    return f"all {total} pass"
