"""A result is pulled to where it should be, and one number follows."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Protocol

from PySide6.QtCore import QObject, Signal

from anakinema.edits import Edit
from anakinema.findings import Evaluation
from anakinema.remedies import Number, number_named, pull_slope
from anakinema.ui.worker import Worker

MOST_CHANGE = 0.5
"""Share of its value by which the number may change."""
NEAR = 2e-3
"""Share of the way pulled by which the result may miss the pointer."""
STEPS = 10
"""Numbers that are tried for one place of the pointer."""
DIGITS = 5


class Editing(Protocol):
    """What a pull needs of the workbench."""

    evaluation: Evaluation | None

    def do(self, edit: Edit) -> bool: ...
    def finish_gesture(self) -> None: ...
    def cancel_gesture(self) -> None: ...


class Pull(QObject):
    """Knows beforehand how the chosen number moves the selected result; then follows the pointer.

    Every answer on the way corrects the next number, so that the result meets the pointer.
    """

    changed = Signal()
    """A result can be pulled now, or no more."""

    def __init__(self, bench: Editing) -> None:
        super().__init__()
        self._bench = bench
        self._worker = Worker("pulling", self)
        self._worker.answered.connect(self._answered)
        self._finding, self._key = "", ("", "")
        self._asked: object = None
        self._slope: float | None = None
        self._number: Number | None = None
        self._target: float | None = None
        self._at, self._steps = 0.0, 0
        self._known: tuple[float, float] | None = None

    @property
    def is_pulling(self) -> bool:
        """Whether a result is in hand."""
        return self._target is not None

    def can_pull(self, finding: str) -> bool:
        """Whether a finding's result can be pulled by the chosen number."""
        return self._slope is not None and finding == self._finding

    def choose(self, finding: str, part: str, name: str) -> None:
        """The number that is to follow when a finding's result is pulled."""
        self._finding, self._key = finding, (part, name)
        self._prepare()

    def evaluated(self) -> None:
        """A newer answer is on show; a first look would be taken for a bend of the result."""
        evaluation = self._bench.evaluation
        if self.is_pulling:
            if evaluation is not None and evaluation.is_exact:
                self._follow()
        else:
            self._prepare()

    def _prepare(self) -> None:
        evaluation, finding, key = self._bench.evaluation, self._finding, self._key
        if self.is_pulling or evaluation is None or not evaluation.is_exact or not key[1]:
            return
        if self._asked == (evaluation, finding, key):
            return
        self._asked, self._slope = (evaluation, finding, key), None

        def task() -> Iterator[object]:
            number = number_named(evaluation.source, *key)
            if number is not None:
                yield number, pull_slope(evaluation, finding, number)

        self._worker.request(task)

    def _answered(self, number: int, answer: object) -> None:
        if number == self._worker.newest and isinstance(answer, tuple) and not self.is_pulling:
            self._number, self._slope = answer
            self.changed.emit()

    # In hand -------------------------------------------------------------------------------

    def to(self, target: float) -> None:
        """Pull the result to a value (inside units)."""
        if self._slope is None or self._number is None:
            return
        if not self.is_pulling:
            self._at, self._known = self._number.value, None
        self._target, self._steps = target, 0
        self._follow()

    def end(self) -> None:
        """Let go: the number stays."""
        if self.is_pulling:
            self._target = None
            self._bench.finish_gesture()
            self._prepare()

    def cancel(self) -> None:
        """Put everything back."""
        if self.is_pulling:
            self._target = None
            self._bench.cancel_gesture()

    def _follow(self) -> None:
        """Another value of the number, from the newest answer."""
        number, slope, target = self._number, self._slope, self._target
        evaluation = self._bench.evaluation
        if number is None or slope is None or target is None or evaluation is None:
            return
        now = number_named(evaluation.source, number.part, number.name)
        found = next((f for f in evaluation.verdict.findings if f.id == self._finding), None)
        if now is None or found is None or found.value is None or self._steps >= STEPS:
            return
        if abs(now.value - self._at) > 1e-9 * abs(self._at) and self._steps:
            # An answer to an older number: the newest is under way.
            return
        if self._known is not None and now.value != self._known[0]:
            measured = (found.value - self._known[1]) / (now.value - self._known[0])
            # A bend is followed; a jump, or a turn back, is not.
            slope = measured if 0.2 < measured / slope < 5.0 else slope
            self._slope = slope
        self._known = now.value, found.value
        off = target - found.value
        if abs(off) <= NEAR * max(abs(target), 1e-6):
            return
        value = now.value + off / slope
        low, high = sorted(number.value * (1 + s * MOST_CHANGE) for s in (-1, 1))
        value = float(f"{min(max(value, low), high):.{DIGITS}g}")
        if value == now.value:
            return
        self._at = value
        self._steps += 1
        self._bench.do(number.edit(value))

    def stop(self) -> None:
        """End the thread."""
        self._worker.stop()
