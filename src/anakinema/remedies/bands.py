"""How far one number may go while all that passes now keeps passing."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from anakinema.document import model
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation, first_look
from anakinema.findings.finding import Finding, Outcome
from anakinema.measures import Answer
from anakinema.remedies.judging import FIRST_STEP, changed, judged
from anakinema.remedies.local import Local, locals_of, values_of
from anakinema.remedies.numbers import Number
from anakinema.wanted import TooLongError

REACH = 0.5
"""Share of its value by which a number is followed to both sides."""
SECANTS = 4
"""Local rounds for an end before it is certified."""
BETWEEN = 4
"""Places inside a side of the band that are looked at, besides its end."""
HALVINGS = 12
WIDTH = 5e-4
"""Share of the number's value to which an end is known."""
KEPT = (Outcome.PASS, Outcome.WARN)


@dataclass(frozen=True, slots=True)
class End:
    """Where a band ends: ``value`` in the number's unit.

    by : the id of the finding that ends it; '' where nothing did within reach, 'closing' where the
    mechanism cannot be assembled or goes otherwise. is_certified : whole evaluations passed on
    its inner side and failed just outside.
    """

    value: float
    by: str
    is_certified: bool = False


CLOSING = "closing"


@dataclass(frozen=True, slots=True)
class Band:
    """The range of a number in which all findings pass that pass now.

    ``failing`` : those that fail as it is, which the band does not mend.
    """

    number: Number
    low: End
    high: End
    failing: tuple[str, ...]


def safe_band(evaluation: Evaluation, number: Number) -> Iterator[Band]:
    """The band of a number: first as slopes foresee it, then certified by whole evaluations.

    Asks `anakinema.wanted` within.
    """
    findings = evaluation.verdict.findings
    failing = tuple(f.id for f in findings if f.outcome not in KEPT)
    asked = _asked(evaluation)
    ends = [_foreseen(evaluation, number, asked, side) for side in (-1.0, 1.0)]
    yield Band(number, ends[0], ends[1], failing)
    ends = [
        _certified(evaluation, number, end, side)
        for end, side in zip(ends, (-1.0, 1.0), strict=True)
    ]
    yield Band(number, ends[0], ends[1], failing)


@lru_cache(maxsize=1)
def _asked(evaluation: Evaluation) -> list[tuple[Finding, Local]]:
    """What can be asked locally and passes now: requirements, and that no parts share space."""
    requirements = {r.id: r for r in evaluation.document.requirements}
    asked: list[tuple[Finding, model.Requirement, Answer | None]] = []
    for finding in evaluation.verdict.findings:
        requirement, exact = requirements.get(finding.id), None
        gap = finding.gap
        if finding.kind == "overlap" and gap is not None and gap.belt is None and gap.rod is None:
            # Only the two that are nearest; what else may come near shows when it is judged whole.
            first, second = (
                evaluation.document.bodies[k].id for k in (gap.first_body, gap.second_body)
            )
            measure = model.GapMeasure(kind="gap", first=first, second=second)
            requirement = model.Requirement(
                id="overlap", measure=measure, reduce="least", least=0.0
            )
            exact = Answer(gap.least, gap.most, gap.progress, gap=gap)
        if requirement is not None and finding.outcome in KEPT:
            asked.append((finding, requirement, exact))
    locals_ = locals_of(evaluation, [each[1:] for each in asked])
    return [
        (finding, local)
        for (finding, _, _), local in zip(asked, locals_, strict=True)
        if local.is_local and local.known is not None
    ]


def _foreseen(
    evaluation: Evaluation, number: Number, asked: list[tuple[Finding, Local]], side: float
) -> End:
    """The nearest end on a side, from slopes and a few secants."""
    reach = number.value + side * REACH * abs(number.value)
    best = End(reach, "")
    step = side * FIRST_STEP * abs(number.value)
    document = changed(evaluation, number, number.value + step)
    if document is None:
        return End(number.value, CLOSING)
    tried = []
    values = values_of([local for _, local in asked], document)
    for (finding, local), value in zip(asked, values, strict=True):
        if value is None or local.known is None:
            return End(number.value, CLOSING)
        now, then = _margin(finding, local.known), _margin(finding, value)
        # How many steps it takes to the end, if it goes on so.
        tried.append((now / (now - then) if then < now else math.inf, finding, local, value))
    for _, finding, local, value in sorted(tried, key=lambda each: each[0]):
        end = _crossing(evaluation, number, finding, local, (step, value), best.value)
        if end is not None and side * (end - best.value) < 0:
            best = End(end, finding.id)
    return best


def _margin(finding: Finding, value: float) -> float:
    """By how much a value keeps the finding's bounds."""
    margins = []
    if finding.least is not None:
        margins.append(value - finding.least)
    if finding.greatest is not None:
        margins.append(finding.greatest - value)
    return min(margins)


def _crossing(
    evaluation: Evaluation,
    number: Number,
    finding: Finding,
    local: Local,
    tried: tuple[float, float],
    most: float,
) -> float | None:
    """Where a finding's margin goes through zero on the way to ``most``; None if not before."""
    assert local.known is not None
    x, m = number.value, _margin(finding, local.known)
    step, following = tried[0], _margin(finding, tried[1])
    if following >= m:
        return None
    for _ in range(SECANTS):
        x, slope, m = x + step, (following - m) / step, following
        if slope == 0.0:
            return None
        step = -m / slope
        aim = x + step
        if abs(aim - number.value) > abs(most - number.value) or step * (x - number.value) < 0 < m:
            return None
        document = changed(evaluation, number, aim)
        value = None if document is None else local.value(document)
        if value is None or abs(step) < WIDTH / 4 * abs(number.value):
            return aim
        following = _margin(finding, value)
    return x + step


def _worst(evaluation: Evaluation, whole: Evaluation | None) -> str | None:
    """What keeps a changed mechanism from passing all that passes now; None if nothing does."""
    if whole is None:
        return CLOSING
    if whole.is_exact and whole.motion.end is not evaluation.motion.end:
        return CLOSING
    # A first look cannot judge everything; what it does judge counts.
    bad = (Outcome.FAIL, Outcome.UNKNOWN) if whole.is_exact else (Outcome.FAIL,)
    after = {finding.id: finding for finding in whole.verdict.findings}
    for before in evaluation.verdict.findings:
        found = after.get(before.id)
        if before.outcome in KEPT and (found is None or found.outcome in bad):
            return before.id
    return next((f.id for f in after.values() if _is_new_fault(evaluation, f)), None)


def _is_new_fault(evaluation: Evaluation, finding: Finding) -> bool:
    known = {each.id for each in evaluation.verdict.findings}
    return finding.id not in known and finding.outcome not in KEPT


def _certified(evaluation: Evaluation, number: Number, end: End, side: float) -> End:
    """An end moved until whole evaluations pass just inside and fail just outside it; where one
    takes too long there is no more than the present value."""
    try:
        return _narrowed(evaluation, number, end, side)
    except TooLongError:
        return End(number.value, end.by)


def _narrowed(evaluation: Evaluation, number: Number, end: End, side: float) -> End:
    width = WIDTH * abs(number.value)
    inside, outside, by = number.value, None, end.by
    for share in (k / (BETWEEN + 1) for k in range(1, BETWEEN + 1)):
        between = number.value + share * (end.value - number.value)
        worst = _looked(evaluation, number, between)
        if worst is not None:
            # Few poses may be too few to judge by.
            worst = _worst(evaluation, judged(evaluation, changed(evaluation, number, between)))
        if worst is not None:
            # It ends before: sought between what was passed and here.
            outside, by = between, worst
            break
        inside = between
    trial = end.value - side * width if outside is None else (inside + outside) / 2
    for _ in range(HALVINGS):
        if side * (trial - inside) <= 0:
            trial = inside + (side * width if outside is None else (outside - inside) / 2)
        worst = _worst(evaluation, judged(evaluation, changed(evaluation, number, trial)))
        if worst is None:
            inside = trial
        else:
            outside, by = trial, worst
        if outside is None:
            if side * (inside - _reach(number, side)) >= 0:
                return End(_reach(number, side), "", True)
            further = 2 * width if side * (inside - end.value) < 0 else 16 * width
            trial = inside + side * further
            if side * (trial - _reach(number, side)) > 0:
                trial = _reach(number, side)
            continue
        if abs(outside - inside) <= 2 * width:
            return End(inside, by, True)
        trial = (inside + outside) / 2
    return End(inside, by)


def _reach(number: Number, side: float) -> float:
    return number.value + side * REACH * abs(number.value)


def _looked(evaluation: Evaluation, number: Number, value: float) -> str | None:
    """What a first look at a value says against it."""
    document = changed(evaluation, number, value)
    try:
        look = None if document is None else first_look(document, evaluation)
    except AnakinemaError:
        look = None
    return _worst(evaluation, look)


def band_words(band: Band) -> str:
    """'113.2 to 121.4 mm'."""
    low, high = (f"{_short(end.value)}" for end in (band.low, band.high))
    return f"{low} to {high} {band.number.unit}".strip()


def _short(value: float) -> str:
    digits = max(0, 3 - math.floor(math.log10(abs(value)))) if value else 0
    return f"{value:.{digits}f}".rstrip("0").rstrip(".") if digits else f"{value:.0f}"
