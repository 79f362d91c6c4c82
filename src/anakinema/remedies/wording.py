"""Remedies in words."""

from __future__ import annotations

from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Outcome
from anakinema.findings.wording import value_words
from anakinema.remedies.bands import CLOSING, Band, End
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
