"""Remedies in words."""

from __future__ import annotations

import math
from collections.abc import Sequence

from anakinema.errors import ValueOutOfRangeError
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Outcome
from anakinema.findings.wording import amount_words, value_words
from anakinema.remedies.bands import CLOSING, Band, End
from anakinema.remedies.improving import Design, Goal, Progress, Range
from anakinema.remedies.numbers import free_numbers
from anakinema.remedies.remedy import Effect, Remedy

MOST = 3
"""Side effects that are named."""


def change_words(remedy: Remedy) -> str:
    """'rail height 132 mm → 133.7 mm', two of them one after the other."""
    return ", ".join(
        f"{number.title} {number.words(number.value)} → {number.words(value)}"
        for number, value in remedy.numbers
    )


def effects_words(evaluation: Evaluation, remedy: Remedy) -> str:
    """What the requirement comes to and what it does to others, those it breaks first."""
    words = [f"gives {value_words(remedy.evaluation, remedy.finding)}"]
    ordered = sorted(remedy.effects, key=lambda effect: not effect.breaks)
    words += [_effect_words(evaluation, remedy, effect) for effect in ordered[:MOST]]
    if len(ordered) > MOST:
        words.append(f"and {len(ordered) - MOST} more")
    if not ordered:
        words.append("nothing else changes")
    return "; ".join(words)


def _effect_words(evaluation: Evaluation, remedy: Remedy, effect: Effect) -> str:
    before = value_words(evaluation, effect.before)
    after = value_words(remedy.evaluation, effect.after)
    words = f"{effect.after.title} {before} → {after}"
    if effect.breaks:
        return f"breaks {words}"
    mends = effect.before.outcome in (Outcome.FAIL, Outcome.UNKNOWN)
    return f"mends {words}" if mends and effect.after.outcome is Outcome.PASS else words


def progress_words(evaluation: Evaluation, goal: Goal, progress: Progress) -> str:
    """How far a search has come, in one line."""
    words = f"round {progress.rounds}, {progress.evaluations} evaluations: best so far"
    standing = "" if progress.best.passes else ", not all pass"
    return f"{words} {goal_words(evaluation, goal, progress.best)}{standing}"


def goal_words(evaluation: Evaluation, goal: Goal, design: Design) -> str:
    """The value that a design gives for the goal."""
    finding = next(f for f in evaluation.verdict.findings if f.id == goal.finding)
    return amount_words(evaluation.resolved.units, design.goal, finding.dimension, finding.kind)


def design_words(ranges: Sequence[Range], design: Design) -> str:
    """'rail height 132 mm → 141 mm, rod 118 mm → 100 mm': what a design changes."""
    pairs = zip(ranges, design.values, strict=True)
    changed = [
        f"{each.number.title} {each.number.words(each.number.value)} → {each.number.words(value)}"
        for each, value in pairs
        if value != each.number.value
    ]
    return ", ".join(changed) or "nothing changed"


def outcome_words(
    evaluation: Evaluation, goal: Goal, ranges: Sequence[Range], progress: Progress
) -> list[str]:
    """Lines: what was reached, from where, by what; the best but one; why it ended."""
    title = next(f.title for f in evaluation.verdict.findings if f.id == goal.finding)
    start = goal_words(evaluation, goal, progress.start)
    lines = [f"{title}: {start} at the start"]
    for name, design in (("best", progress.best), ("runner-up", progress.runner_up)):
        standing = "all pass" if design.passes else "not all pass"
        reached = goal_words(evaluation, goal, design)
        lines.append(f"{name}: {reached}, {standing}: {design_words(ranges, design)}")
    reached = f"after {progress.rounds} rounds and {progress.evaluations} evaluations"
    lines.append(
        f"ended {reached}: {progress.ended}. It is what was reached, not what is possible."
    )
    return lines


def range_of(evaluation: Evaluation, text: str) -> Range:
    """A range as it is typed, 'rod=100..130'; raises an `AnakinemaError` if it is none."""
    name, equals, ends = text.partition("=")
    low, dots, high = ends.partition("..")
    numbers = {
        f"{n.part}.{n.name}" if n.part else n.name: n for n in free_numbers(evaluation.source)
    }
    where = f"--change {text}"
    if name.strip() not in numbers:
        known = ", ".join(sorted(numbers)) or "none"
        raise ValueOutOfRangeError(
            f"there is no number '{name.strip()}' that may change.",
            where=where,
            remedy=f"Known are: {known}.",
        )
    try:
        ends_read = float(low), float(high)
    except ValueError:
        ends_read = math.nan, math.nan
    if not (equals and dots and all(math.isfinite(each) for each in ends_read)):
        raise ValueOutOfRangeError(
            "that is no range.", where=where, remedy="Give it like rod=100..130."
        )
    return Range(numbers[name.strip()], *ends_read)


def end_words(evaluation: Evaluation, end: End) -> str:
    """What ends a band on a side."""
    if not end.by:
        return "nothing within half of it"
    if end.by == CLOSING:
        return "it cannot be assembled or stops early"
    return next((f.title for f in evaluation.verdict.findings if f.id == end.by), end.by)


def band_trust_words(evaluation: Evaluation, band: Band) -> str:
    """How far to trust a band."""
    sure = band.low.is_certified and band.high.is_certified
    words = "both ends judged whole" if sure else "foreseen from slopes, being judged"
    titles = [f.title for f in evaluation.verdict.findings if f.id in band.failing]
    return f"{words}; {titles[0]} fails as it is" if titles else words
