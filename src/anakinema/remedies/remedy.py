"""Changes that would make a requirement pass, each confirmed by one whole evaluation."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Edit, Together
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import SEVERITY, Finding, Outcome
from anakinema.motion.motion import EventKind
from anakinema.remedies.judging import FIRST_STEP, applied, changed, found_in, judged_in_time
from anakinema.remedies.local import Local, local_of
from anakinema.remedies.numbers import Number, free_numbers

MOST_CHANGE = 0.5
"""Share of its value by which a number may be changed."""
SECANTS, CONFIRMED = 8, 3
"""Most local rounds, and most whole evaluations, for one remedy."""
ENOUGH = 5
"""Remedies of one number that are looked for."""
GAP_SLACK = 0.005
"""mm by which a gap is aimed beyond its bound: it is certified to an interval."""
HAPPENINGS = frozenset(EventKind) - {EventKind.EXTREME}
"""Events whose order a remedy must keep: another order is another motion."""


@dataclass(frozen=True, slots=True)
class Effect:
    """What a remedy does to another finding."""

    before: Finding
    after: Finding

    @property
    def breaks(self) -> bool:
        """Whether what was kept is kept no longer."""
        return SEVERITY.index(self.after.outcome) < min(SEVERITY.index(self.before.outcome), 2)

    @property
    def is_seen(self) -> bool:
        """Whether anything of it has changed that is worth a word."""
        if self.before.outcome is not self.after.outcome:
            return True
        one, other = self.before.value, self.after.value
        if one is None or other is None:
            return one is not other
        return abs(one - other) > 1e-3 * max(abs(one), abs(other), 1e-9)


@dataclass(frozen=True, slots=True)
class Remedy:
    """A change that was tried whole. numbers with the values they get; ``evaluation`` is that of
    the changed document, ``effects`` those on all other findings that are seen.

    looks, evaluations : how many local looks and whole evaluations it took.
    """

    numbers: tuple[tuple[Number, float], ...]
    edit: Edit
    evaluation: Evaluation
    finding: Finding
    effects: tuple[Effect, ...]
    looks: int
    evaluations: int

    @property
    def broken(self) -> int:
        """Findings that it breaks."""
        return sum(effect.breaks for effect in self.effects)

    @property
    def size(self) -> float:
        """Its largest relative change."""
        return max(abs(value / number.value - 1.0) for number, value in self.numbers)

    @property
    def rank(self) -> tuple[int, int, int, float]:
        """What is better is less: breaks nothing, is one number, mends more, changes little."""
        mended = sum(
            e.before.outcome in (Outcome.FAIL, Outcome.UNKNOWN)
            and e.after.outcome in (Outcome.PASS, Outcome.WARN)
            for e in self.effects
        )
        return self.broken, len(self.numbers), -mended, self.size


@dataclass(frozen=True, slots=True)
class Aim:
    """Where the value of a requirement should come to: ``sign`` 1 if it must rise to ``value``."""

    requirement: model.Requirement
    value: float
    sign: float


def remedies(evaluation: Evaluation, finding_id: str, *, pairs: bool = True) -> Iterator[Remedy]:
    """Changes of single numbers, then of two, that let a finding pass, as they are found.

    Only for what the document asks, where a value was measured. Nothing is yielded that passes
    because the motion ends earlier or goes otherwise, or that is trusted less than before.
    Asks `anakinema.wanted` within. It never says that there is no other way.
    """
    aim = _aim(evaluation, finding_id)
    if aim is None:
        return
    local = local_of(evaluation, aim.requirement)
    slopes: list[tuple[float, float, Number]] = []
    for number in free_numbers(evaluation.source):
        slope = slope_of(evaluation, local, number)
        if slope:
            need = (aim.value - local.known) / slope if local.known is not None else math.inf
            slopes.append((abs(need / number.value), slope, number))
    slopes.sort(key=lambda each: each[0])
    found = 0
    for share, slope, number in slopes:
        if share > 1.5 * MOST_CHANGE or found == ENOUGH:
            break
        remedy = _single(evaluation, aim, local, number, slope)
        if remedy is not None:
            found += 1
            yield remedy
    if pairs:
        yield from _pairs(evaluation, aim, local, [each[1:] for each in slopes])


def _aim(evaluation: Evaluation, finding_id: str) -> Aim | None:
    """Where to, a little beyond the bound that is missed, or short of which it is doubtful."""
    asked = {r.id: r for r in evaluation.document.requirements}
    finding = found_in(evaluation, finding_id)
    if finding is None or finding.value is None or finding_id not in asked:
        return None
    least, greatest = finding.least, finding.greatest
    if finding.outcome is Outcome.WARN and finding.comfort is not None:
        least, greatest = (finding.comfort, None) if least is not None else (None, finding.comfort)
    elif finding.outcome is not Outcome.FAIL:
        return None
    slack = GAP_SLACK if finding.gap is not None else 0.0
    if least is not None and finding.value < least:
        return Aim(asked[finding_id], least + slack, 1.0)
    if greatest is not None and finding.value > greatest:
        return Aim(asked[finding_id], greatest - slack, -1.0)
    return None


def _valued(evaluation: Evaluation, local: Local, document: Document | None) -> float | None:
    """The requirement's value for a document: locally, or by the whole motion."""
    if document is None:
        return None
    if local.is_local:
        return local.value(document)
    whole = judged_in_time(evaluation, document)
    finding = None if whole is None else found_in(whole, local.requirement_id)
    return finding.value if finding is not None else None


def slope_of(evaluation: Evaluation, local: Local, number: Number) -> float | None:
    """Change of the requirement's value by one unit of a number, by a small step."""
    step = FIRST_STEP * number.value
    tried = _valued(evaluation, local, changed(evaluation, number, number.value + step))
    if tried is None or local.known is None:
        return None
    slope = (tried - local.known) / step
    return slope if abs(slope * number.value) > 1e-9 else None


def _single(
    evaluation: Evaluation, aim: Aim, local: Local, number: Number, slope: float
) -> Remedy | None:
    """One number changed until it just passes, rounded on the passing side, and confirmed."""
    looks = local.looks
    value = root(evaluation, aim, local, number, slope)
    if value is None:
        return None
    for k in range(CONFIRMED):
        rounded = _rounded(number.value, value)
        if abs(rounded / number.value - 1.0) > MOST_CHANGE:
            return None
        remedy = _confirmed(
            evaluation, aim, ((number, rounded),), local.looks - looks, evaluations=k + 1
        )
        if remedy is not None:
            return remedy
        value += 0.15 * (value - number.value)
    return None


def root(
    evaluation: Evaluation, aim: Aim, local: Local, number: Number, slope: float
) -> float | None:
    """The value at which the requirement's local value is what is aimed at (secant method)."""
    assert local.known is not None
    x, fx = number.value, local.known
    tolerance = 1e-4 * max(abs(aim.value - local.known), 1e-3 * abs(aim.value))
    step = (aim.value - fx) / slope
    for _ in range(SECANTS):
        most = MOST_CHANGE * abs(number.value) * 1.2
        following = min(max(x + step, number.value - most), number.value + most)
        if following == x:
            return None
        value = _valued(evaluation, local, changed(evaluation, number, following))
        if value is None:
            step = (following - x) / 2
            if abs(step) < 1e-4 * abs(number.value):
                return None
            continue
        if abs(value - aim.value) < tolerance:
            return following
        if value == fx:
            return None
        step, x, fx = (aim.value - value) * (following - x) / (value - fx), following, value
    return x if aim.sign * (fx - aim.value) > -50 * tolerance else None


def _rounded(old: float, new: float) -> float:
    """Two digits of the change, away from the old value."""
    change = new - old
    if change == 0.0:
        return new
    step = 10.0 ** (math.floor(math.log10(abs(change))) - 1)
    count = new / step
    return (math.ceil(count - 1e-9) if change > 0 else math.floor(count + 1e-9)) * step


def _confirmed(
    evaluation: Evaluation,
    aim: Aim,
    numbers: tuple[tuple[Number, float], ...],
    looks: int,
    evaluations: int,
) -> Remedy | None:
    """A change judged whole; None unless it passes as a remedy."""
    edits = tuple(number.edit(value) for number, value in numbers)
    edit = edits[0] if len(edits) == 1 else Together("Change two numbers", edits)
    whole = judged_in_time(evaluation, applied(evaluation, edit))
    if whole is None:
        return None
    before, after = (found_in(each, aim.requirement.id) for each in (evaluation, whole))
    if before is None or after is None or not _is_better(before, after):
        return None
    if whole.motion.end is not evaluation.motion.end:
        return None
    if whole.motion.last < evaluation.motion.last - 1e-9:
        return None
    if _happenings(whole) != _happenings(evaluation):
        return None
    effects = effects_of(evaluation, whole, aim.requirement.id)
    return Remedy(numbers, edit, whole, after, effects, looks, evaluations)


def effects_of(before: Evaluation, after: Evaluation, finding_id: str) -> tuple[Effect, ...]:
    """What has changed of all findings but one."""
    known = {f.id: f for f in before.verdict.findings}
    return tuple(
        effect
        for finding in after.verdict.findings
        if finding.id in known and finding.id != finding_id
        for effect in [Effect(known[finding.id], finding)]
        if effect.is_seen
    )


def _is_better(before: Finding, after: Finding) -> bool:
    """Whether it passes now, and is trusted as much as before."""
    if after.outcome is Outcome.PASS:
        return True
    comfortable = after.outcome is Outcome.WARN and after.reason != "sampled"
    return comfortable and before.outcome is Outcome.FAIL


def _happenings(evaluation: Evaluation) -> list[tuple[EventKind, int | None]]:
    events = sorted(evaluation.motion.events, key=lambda event: event.progress)
    return [(event.kind, event.joint) for event in events if event.kind in HAPPENINGS]


def _pairs(
    evaluation: Evaluation, aim: Aim, local: Local, slopes: list[tuple[float, Number]]
) -> Iterator[Remedy]:
    """Two numbers together: the least relative change, or one that keeps another answer.

    From slopes of all answers by all numbers; what is predicted is confirmed whole.
    """
    if local.known is None or not local.is_local:
        return
    others = _other_slopes(evaluation, aim, [number for _, number in slopes])
    need = aim.value - local.known
    tried: list[tuple[float, tuple[tuple[Number, float], ...]]] = []
    for i, (g, one) in enumerate(slopes):
        for h, other in slopes[i + 1 :]:
            changes = [_least_change(need, (g, one.value), (h, other.value))]
            changes += [
                _keeping(need, (g, h), (row[one], row[other]))
                for row in others
                if one in row and other in row
            ]
            for change in changes:
                if change is None:
                    continue
                share = max(abs(change[0] / one.value), abs(change[1] / other.value))
                smaller = min(abs(change[0] / one.value), abs(change[1] / other.value))
                if share <= MOST_CHANGE / 2 and smaller > 1e-3:
                    values = (one, one.value + change[0]), (other, other.value + change[1])
                    tried.append((share, values))
    tried.sort(key=lambda each: each[0])
    found, evaluations = 0, 0
    for _, numbers in tried:
        if found == PAIRS or evaluations >= MOST_PAIRS:
            return
        for reach in (1.0, 1.12):
            rounded = tuple(
                (number, _rounded(number.value, number.value + reach * (value - number.value)))
                for number, value in numbers
            )
            evaluations += 1
            remedy = _confirmed(evaluation, aim, rounded, 0, evaluations)
            if remedy is not None:
                found += 1
                yield remedy
                break


PAIRS, MOST_PAIRS = 3, 10
"""Remedies of two numbers that are looked for, and most whole evaluations for them."""


def _other_slopes(
    evaluation: Evaluation, aim: Aim, numbers: list[Number]
) -> list[dict[Number, float]]:
    """For every other requirement its change by one unit of each number."""
    rows = []
    for requirement in evaluation.document.requirements:
        if requirement.id == aim.requirement.id:
            continue
        local = local_of(evaluation, requirement)
        if not local.is_local:
            continue
        row = {}
        for number in numbers:
            slope = slope_of(evaluation, local, number)
            row[number] = slope or 0.0
        rows.append(row)
    return rows


def _least_change(
    need: float, one: tuple[float, float], other: tuple[float, float]
) -> tuple[float, float] | None:
    """The change of two numbers that meets a need with the least relative change of both:
    d_i = s_i² g_i need / sum of s_i² g_i², with slopes g and sizes s."""
    (g, s), (h, t) = one, other
    total = (s * g) ** 2 + (t * h) ** 2
    return (s * s * g * need / total, t * t * h * need / total) if total else None


def _keeping(
    need: float, slopes: tuple[float, float], kept: tuple[float, float]
) -> tuple[float, float] | None:
    """The change of two numbers that meets a need and leaves another answer as it is."""
    (g, h), (a, b) = slopes, kept
    determinant = g * b - h * a
    if abs(determinant) < 1e-9 * max(abs(g * b), abs(h * a), 1e-300):
        return None
    return need * b / determinant, -need * a / determinant
