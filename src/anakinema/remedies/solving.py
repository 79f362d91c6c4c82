"""The value of one number at which a requirement comes to a target."""

from __future__ import annotations

from dataclasses import replace

from anakinema.document.reading import Reader
from anakinema.errors import ValueOutOfRangeError
from anakinema.expressions import completed
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Finding
from anakinema.findings.wording import amount_words
from anakinema.remedies.judging import applied, found_in, judged_in_time
from anakinema.remedies.local import local_of
from anakinema.remedies.numbers import Number
from anakinema.remedies.remedy import (
    CONFIRMED,
    MOST_CHANGE,
    Aim,
    Remedy,
    effects_of,
    root,
    slope_of,
)

NEAR = 2e-4
"""Share of its target by which the value may miss it."""
GAP_NEAR = 0.005
"""mm by which a gap may: it is known to an interval as wide."""
DIGITS = 6
"""Of the number that is found."""


def solved(evaluation: Evaluation, finding_id: str, number: Number, target: str) -> Remedy:
    """The change of a number that brings a finding's value to a target, judged whole.

    A bare target is in the document's unit. Raises a `ValueOutOfRangeError` that says how far it
    came, or an `AnakinemaError` at a target that cannot be read.
    """
    asked = {r.id: r for r in evaluation.document.requirements}
    finding = found_in(evaluation, finding_id)
    if finding is None or finding.value is None or finding_id not in asked:
        raise ValueOutOfRangeError(
            "it has no value now.", where="what is solved for", remedy="Choose another check."
        )
    units = evaluation.resolved.units
    like = f"1 {units.name(finding.dimension)}".strip()
    wanted = Reader(units, evaluation.resolved.names).read(
        completed(target.strip() or "?", like, units), finding.dimension, finding.title, "target"
    )
    local = local_of(evaluation, asked[finding_id])
    slope = slope_of(evaluation, local, number)
    if not slope or local.known is None:
        raise ValueOutOfRangeError(
            f"{number.title} does nothing to it.", where=finding.title, remedy="Choose another one."
        )
    aim, nearest = Aim(asked[finding_id], wanted, 1.0 if wanted > finding.value else -1.0), finding
    for k in range(CONFIRMED + 2):
        value = root(evaluation, aim, local, number, slope)
        if value is None or abs(value / number.value - 1.0) > MOST_CHANGE:
            break
        value = float(f"{value:.{DIGITS}g}")
        remedy = _judged(evaluation, finding, number, value, local.looks, k + 1)
        if remedy is None or remedy.finding.value is None:
            break
        off = remedy.finding.value - wanted
        if abs(off) <= (GAP_NEAR if finding.gap is not None else NEAR * max(abs(wanted), 1e-6)):
            return remedy
        if nearest.value is None or abs(off) < abs(nearest.value - wanted):
            nearest = remedy.finding
        aim = replace(aim, value=aim.value - off)
    assert nearest.value is not None
    reached = amount_words(units, nearest.value, finding.dimension, finding.kind)
    raise ValueOutOfRangeError(
        f"no value of {number.title} within half of it was found; the nearest gives {reached}.",
        where=finding.title,
        remedy="Try another number, or another target.",
    )


def _judged(
    evaluation: Evaluation,
    before: Finding,
    number: Number,
    value: float,
    looks: int,
    evaluations: int,
) -> Remedy | None:
    edit = number.edit(value)
    whole = judged_in_time(evaluation, applied(evaluation, edit))
    after = None if whole is None else found_in(whole, before.id)
    if whole is None or after is None:
        return None
    effects = effects_of(evaluation, whole, before.id)
    return Remedy(((number, value),), edit, whole, after, effects, looks, evaluations)


def pull_slope(evaluation: Evaluation, finding_id: str, number: Number) -> float | None:
    """By how much a finding's value changes for one unit of a number; None if by nothing that a
    look beside its place can tell."""
    asked = {r.id: r for r in evaluation.document.requirements}
    finding = found_in(evaluation, finding_id)
    if finding is None or finding.value is None or finding_id not in asked:
        return None
    return slope_of(evaluation, local_of(evaluation, asked[finding_id]), number)
