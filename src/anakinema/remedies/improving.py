"""Several numbers moved together until one answer is as good as can be and all else passes.

Linear programs in a trust region: slopes by differences of whole evaluations, every step judged
whole, the region grown where the step did what was foreseen and shrunk where not. (R. Fletcher,
Practical Methods of Optimization, 1987, from memory.) No search proves that nothing better is.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from anakinema.document.model import Document
from anakinema.edits.base import Edit, Together
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.remedies.evaluators import Evaluator, Judged, judged_of
from anakinema.remedies.numbers import Number
from anakinema.wanted import doing

ROUNDS = 25
STEP = 0.004
"""Share of a number's range over which its effect is taken."""
REGION, GROWS, SHRINKS, LEAST = 0.2, 1.6, 0.35, 2e-3
"""Share of the ranges that a step may take: at first, how it changes, and when it is enough."""
SPARE = 1e-4
"""Share of a bound (or of 1) that is kept as spare, so that rounding does not break it."""
GAP_SPARE = 0.006
"""mm that a gap keeps as spare: it is known to an interval nearly as wide."""
PENALTY = 1e3
SAME = 1e-9
WORTH = 5e-4
"""Share of the goal that a step must be foreseen to gain."""
ANOTHER = 0.02
"""Share of its range by which a number of another design differs at least."""
ROUNDS_TO = 2e-3
"""Share of the goal that rounding may cost."""
TRIED = 6
"""Digits of numbers that are tried; those that are offered at the end have `DIGITS` at most."""
DIGITS = 5


@dataclass(frozen=True, slots=True)
class Range:
    """A number, and between what it may be, in its own unit."""

    number: Number
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Goal:
    """What is to be as small or as large as can be: a finding's value."""

    finding: str
    sense: Literal["least", "greatest"]


@dataclass(frozen=True, slots=True, eq=False)
class Design:
    """Values of the numbers (n,) in their own units, and what they give."""

    values: tuple[float, ...]
    judged: Judged
    goal: float
    """The finding's value, as it is."""
    passes: bool
    """Whether all requirements pass and the motion runs as far as before."""


@dataclass(frozen=True, slots=True, eq=False)
class Progress:
    """How far a search has come: rounds, evaluations, the best so far and the best but one."""

    rounds: int
    evaluations: int
    start: Design
    best: Design
    runner_up: Design
    ended: str = ""
    """Why the search ended, '' while it goes on."""


def ranges_about(numbers: Sequence[Number], share: float = 0.25) -> tuple[Range, ...]:
    """The ranges of numbers by so much of their values to both sides."""
    return tuple(Range(n, *sorted((n.value * (1 - share), n.value * (1 + share)))) for n in numbers)


def improve(
    evaluation: Evaluation, goal: Goal, ranges: Sequence[Range], evaluator: Evaluator
) -> Iterator[Progress]:
    """Better and better designs; asks `anakinema.wanted`. The last one says why it ended.

    Raises a `ValueOutOfRangeError` where there is nothing to improve or a range is none.
    """
    search = _Search(evaluation, goal, tuple(ranges), evaluator)
    yield from search.run()


def edit_to(ranges: Sequence[Range], design: Design) -> Edit:
    """The edit that gives all numbers the values of a design."""
    edits = [
        each.number.edit(value)
        for each, value in zip(ranges, design.values, strict=True)
        if value != each.number.value
    ]
    return Together("Improve", tuple(edits))


class _Search:
    def __init__(
        self, evaluation: Evaluation, goal: Goal, ranges: tuple[Range, ...], evaluator: Evaluator
    ) -> None:
        self.evaluation, self.goal, self.ranges = evaluation, goal, ranges
        self.evaluator = evaluator
        self.sign = 1.0 if goal.sense == "least" else -1.0
        self.before = judged_of(evaluation)
        _check(self.before, goal, ranges)
        self.low = np.array([each.low for each in ranges])
        self.wide = np.array([each.high - each.low for each in ranges])
        findings = [f for f in evaluation.verdict.findings if f.margin is not None]
        self.asked = [f.id for f in findings]
        self.spare = {
            f.id: GAP_SPARE if f.gap is not None else SPARE * max(abs(f.value or 0.0), 1e-3)
            for f in findings
        }
        self.scale = {f.id: max(abs(f.value or 0.0), abs(f.margin or 0.0), 1e-3) for f in findings}
        self.evaluations = 0
        self.start = self._design(tuple(each.number.value for each in ranges), self.before)
        self.best, self.runner_up = self.start, self.start

    # Judging -------------------------------------------------------------------------------

    def _goes_on(self, judged: Judged) -> bool:
        """Whether the motion runs as far as before: what ends early asks less of everything."""
        return judged.end == self.before.end and judged.last >= self.before.last - SAME

    def _design(self, values: tuple[float, ...], judged: Judged) -> Design:
        value = judged.values.get(self.goal.finding)
        passes = judged.all_pass and self._goes_on(judged)
        return Design(values, judged, np.nan if value is None else value, passes)

    def _document(self, values: Sequence[float]) -> Document | None:
        pairs = zip(self.ranges, values, strict=True)
        edits = tuple(each.number.edit(value) for each, value in pairs)
        try:
            return Together("Improve", edits).apply(self.evaluation.source)
        except AnakinemaError:
            return None

    def _judge(self, points: Sequence[Floats], digits: int = 10) -> list[Design | None]:
        """Designs at points (n,), shares of the ranges, each number with so many digits."""
        values = [
            tuple(float(f"{v:.{digits}g}") for v in self.low + self.wide * np.clip(p, 0.0, 1.0))
            for p in points
        ]
        documents = [self._document(each) for each in values]
        asked = [each for each in documents if each is not None]
        answers = iter(self.evaluator.judge(asked))
        self.evaluations += len(asked)
        found: list[Design | None] = []
        for each, document in zip(values, documents, strict=True):
            judged = next(answers) if document is not None else None
            found.append(None if judged is None else self._design(each, judged))
        return found

    def _merit(self, design: Design) -> float:
        """Smaller is better: the goal, and a price for every bound that is missed."""
        if not np.isfinite(design.goal) or not self._goes_on(design.judged):
            return np.inf
        missed = 0.0
        for name in self.asked:
            margin = design.judged.margins.get(name)
            if margin is None:
                return np.inf
            missed += max(0.0, self.spare[name] - margin) / self.scale[name]
        return self.sign * design.goal / max(abs(self.start.goal), SAME) + PENALTY * missed

    def _keep(self, designs: Sequence[Design | None]) -> bool:
        """Keep what is better than the best, and the best but one; whether the best is new."""
        known = {each.values: each for each in (self.best, self.runner_up)}
        known |= {each.values: each for each in designs if each is not None}
        ranked = sorted(known.values(), key=self._merit)
        is_new = self._merit(ranked[0]) < self._merit(self.best) - SAME
        if is_new:
            self.best = ranked[0]
        others = [each for each in ranked if self._differs(each)]
        self.runner_up = others[0] if others else self.start
        return is_new

    def _differs(self, design: Design) -> bool:
        """Whether a design is another one than the best, not the same but for a hair."""
        off = np.abs(np.array(design.values) - np.array(self.best.values)) / self.wide
        return bool(off.max() > ANOTHER)

    # Searching -----------------------------------------------------------------------------

    def run(self) -> Iterator[Progress]:
        """Rounds until no step leads further."""
        region, rounds, ended = REGION, 0, ""
        while not ended:
            rounds += 1
            doing(f"improving, round {rounds}")
            here = (np.array(self.best.values) - self.low) / self.wide
            step = self._step(here, region)
            tried = [] if step is None else self._judge([here + step, here + step / 2], TRIED)
            better = self._keep(tried)
            region = min(region * (GROWS if better else SHRINKS), 1.0)
            if region < LEAST or step is None:
                ended = "no step leads further from here"
            elif rounds == ROUNDS:
                ended = f"{ROUNDS} rounds are done"
            if not ended:
                yield self._progress(rounds, "")
        self._round_off()
        yield self._progress(rounds, ended)

    def _progress(self, rounds: int, ended: str) -> Progress:
        return Progress(rounds, self.evaluations, self.start, self.best, self.runner_up, ended)

    def _step(self, here: Floats, region: float) -> Floats | None:
        """The best step (n,) within the region by the slopes at a point; None if there is none."""
        base, count = self.best, len(here)
        steps = np.where(here + STEP <= 1.0, STEP, -STEP)
        looked = self._judge(list(here + np.diag(steps)))
        goal, margins = np.zeros(count), np.zeros((len(self.asked), count))
        now = np.array([base.judged.margins[name] or 0.0 for name in self.asked])
        for k, design in enumerate(looked):
            if design is None or not np.isfinite(self._merit(design)):
                continue
            goal[k] = (design.goal - base.goal) / steps[k]
            then = np.array([design.judged.margins[name] or 0.0 for name in self.asked])
            margins[:, k] = (then - now) / steps[k]
        found = self._program(here, region, goal, margins, now)
        self._keep(looked)
        return found

    def _program(
        self, here: Floats, region: float, goal: Floats, margins: Floats, now: Floats
    ) -> Floats | None:
        """A linear program: the goal and a price for what bounds are missed by (one slack each)."""
        from scipy.optimize import linprog

        scale = np.array([self.scale[name] for name in self.asked])
        spare = np.array([self.spare[name] for name in self.asked])
        size = max(abs(self.start.goal), SAME)
        cost = np.concatenate([self.sign * goal / size, np.full(len(scale), PENALTY)])
        # margin + slopes · step + scale · slack is at least what is to be spared.
        rows = -np.hstack([margins / scale[:, None], np.eye(len(scale))])
        bounds = [(max(-region, -at), min(region, 1.0 - at)) for at in here.tolist()] + [
            (0.0, None)
        ] * len(scale)
        found = linprog(cost, rows, (now - spare) / scale, bounds=bounds)
        if not found.success:
            return None
        step: Floats = found.x[: len(here)]
        priced = np.maximum(0.0, spare - now) / scale
        foreseen = PENALTY * float(priced.sum()) - float(found.fun)
        return step if foreseen > WORTH else None

    def _round_off(self) -> None:
        """Numbers that can be read, where that keeps everything."""
        here = (np.array(self.best.values) - self.low) / self.wide
        for digits in (3, 4, DIGITS):
            (rounded,) = self._judge([here], digits)
            if rounded is None or rounded.passes < self.best.passes:
                continue
            lost = self.sign * (rounded.goal - self.best.goal)
            if lost <= ROUNDS_TO * max(abs(self.start.goal), SAME) and self._goes_on(
                rounded.judged
            ):
                self.best = rounded
                return


def _check(judged: Judged, goal: Goal, ranges: tuple[Range, ...]) -> None:
    if not ranges:
        raise ValueOutOfRangeError(
            "no number may change.", where="improve", remedy="Choose numbers that may change."
        )
    if judged.values.get(goal.finding) is None:
        raise ValueOutOfRangeError(
            "it has no value now.", where="what is to be improved", remedy="Choose another check."
        )
    for each in ranges:
        if not each.low < each.high or not each.low <= each.number.value <= each.high:
            raise ValueOutOfRangeError(
                f"{each.low:g} to {each.high:g} does not hold its value {each.number.value:g}.",
                where=each.number.title,
                remedy="Give a least and a greatest value around it.",
            )
