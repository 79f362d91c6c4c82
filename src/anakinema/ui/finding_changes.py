"""Looks for changes that would pass and for safe bands, beside the interface."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from anakinema.errors import AnakinemaError
from anakinema.findings import Evaluation
from anakinema.remedies import (
    Band,
    Design,
    Evaluator,
    Goal,
    Inline,
    Number,
    Processes,
    Progress,
    Range,
    Remedy,
    edit_to,
    improve,
    judged_in_time,
    number_named,
    remedies,
    safe_band,
    solved,
)
from anakinema.ui.worker import Worker


@dataclass(frozen=True, slots=True, eq=False)
class Improved:
    """How far an improvement has come; at its end the best designs, each judged whole."""

    evaluation: Evaluation
    goal: Goal
    ranges: tuple[Range, ...]
    progress: Progress
    whole: tuple[tuple[Design, Evaluation], ...] = ()


class ChangeFinder(QObject):
    """The newest question wins; what was found for an evaluation is kept with it."""

    changes_found = Signal()
    """More remedies, or the end of the search."""
    solved_for = Signal(object)
    """The `Remedy` that comes to a target, or an `AnakinemaError` that says why there is none."""
    improved = Signal(object)
    """An `Improved`, or an `AnakinemaError` that says why there is none."""
    band_found = Signal(object)
    """A `Band`: first foreseen, then certified."""

    def __init__(self, broke: Callable[[object], object]) -> None:
        super().__init__()
        self._remedies, self._bands = Worker("changes", self), Worker("band", self)
        self._remedies.answered.connect(self._found)
        self._remedies.finished.connect(self._ended)
        self._bands.answered.connect(self._banded)
        for worker in (self._remedies, self._bands):
            worker.broke.connect(lambda _, error: broke(error))
        self._solving = Worker("solving", self)
        self._solving.answered.connect(self._came_out)
        self._solving.broke.connect(lambda _, error: broke(error))
        self._improving = Worker("improving", self)
        self._improving.answered.connect(self._got_better)
        self._improving.broke.connect(lambda _, error: broke(error))
        self._asked: tuple[Evaluation, str] | None = None
        self.found: tuple[Remedy, ...] = ()
        self.is_looking = False

    def look_for(self, evaluation: Evaluation, finding: str) -> None:
        """Begin to look for changes that let a finding pass, unless that is known already."""
        if self._asked is not None and self._asked == (evaluation, finding):
            self.changes_found.emit()
            return
        self._asked, self.found, self.is_looking = (evaluation, finding), (), True

        def task() -> Iterator[object]:
            yield from remedies(evaluation, finding)

        self._remedies.request(task)
        self.changes_found.emit()

    def look_no_more(self) -> None:
        """Nobody looks at changes any more."""
        self._remedies.cancel()
        self._asked, self.found, self.is_looking = None, (), False

    def _found(self, number: int, answer: object) -> None:
        if number == self._remedies.newest and isinstance(answer, Remedy):
            self.found = tuple(sorted((*self.found, answer), key=lambda each: each.rank))
            self.changes_found.emit()

    def _ended(self, number: int) -> None:
        if number == self._remedies.newest:
            self.is_looking = False
            self.changes_found.emit()

    def solve(self, evaluation: Evaluation, finding: str, number: Number, target: str) -> None:
        """Look for the value of a number at which a finding comes to a target."""

        def task() -> Iterator[object]:
            try:
                yield solved(evaluation, finding, number, target)
            except AnakinemaError as error:
                yield error

        self._solving.request(task)

    def _came_out(self, number: int, answer: object) -> None:
        if number == self._solving.newest:
            self.solved_for.emit(answer)

    def improve(self, evaluation: Evaluation, goal: Goal, ranges: tuple[Range, ...]) -> None:
        """Move several numbers together, by all processors of this machine."""

        def task() -> Iterator[object]:
            count = os.cpu_count() or 1
            evaluator: Evaluator = Processes(count) if count > 1 else Inline(evaluation)
            try:
                for progress in improve(evaluation, goal, ranges, evaluator):
                    whole = self._whole(evaluation, ranges, progress) if progress.ended else ()
                    yield Improved(evaluation, goal, ranges, progress, whole)
            except AnakinemaError as error:
                yield error
            finally:
                evaluator.close()

        self._improving.request(task)

    def _whole(
        self, evaluation: Evaluation, ranges: tuple[Range, ...], progress: Progress
    ) -> tuple[tuple[Design, Evaluation], ...]:
        """The best design and the one after it, where they are others than what there is."""
        found = []
        for design in (progress.best, progress.runner_up):
            if design.values == progress.start.values:
                continue
            document = edit_to(ranges, design).apply(evaluation.source)
            whole = judged_in_time(evaluation, document)
            if whole is not None:
                found.append((design, whole))
        return tuple(found)

    def improve_no_more(self) -> None:
        """Nobody waits for it any more."""
        self._improving.cancel()

    def _got_better(self, number: int, answer: object) -> None:
        if number == self._improving.newest:
            self.improved.emit(answer)

    def ask_band(self, evaluation: Evaluation, part: str, name: str) -> None:
        """Ask for the band of a number, if it is one that may be changed."""

        def task() -> Iterator[object]:
            number = number_named(evaluation.source, part, name)
            if number is not None:
                yield from safe_band(evaluation, number)

        self._bands.request(task)

    def ask_no_band(self) -> None:
        """Nobody edits a number any more."""
        self._bands.cancel()

    def _banded(self, number: int, answer: object) -> None:
        if number == self._bands.newest and isinstance(answer, Band):
            self.band_found.emit(answer)

    def stop(self) -> None:
        """End both threads."""
        self._remedies.stop()
        self._bands.stop()
        self._solving.stop()
        self._improving.stop()
