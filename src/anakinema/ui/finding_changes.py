"""Looks for changes that would pass and for safe bands, beside the interface."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PySide6.QtCore import QObject, Signal

from anakinema.errors import AnakinemaError
from anakinema.findings import Evaluation
from anakinema.remedies import Band, Number, Remedy, free_numbers, remedies, safe_band, solved
from anakinema.ui.worker import Worker


class ChangeFinder(QObject):
    """The newest question wins; what was found for an evaluation is kept with it."""

    changes_found = Signal()
    """More remedies, or the end of the search."""
    solved_for = Signal(object)
    """The `Remedy` that comes to a target, or an `AnakinemaError` that says why there is none."""
    band_found = Signal(object)
    """A `Band`: first foreseen, then certified."""

    def __init__(self, broke: Callable[[object], object]) -> None:
        super().__init__()
        self._remedies, self._bands = Worker("changes"), Worker("band")
        self._remedies.answered.connect(self._found)
        self._remedies.finished.connect(self._ended)
        self._bands.answered.connect(self._banded)
        for worker in (self._remedies, self._bands):
            worker.broke.connect(lambda _, error: broke(error))
        self._solving = Worker("solving")
        self._solving.answered.connect(self._came_out)
        self._solving.broke.connect(lambda _, error: broke(error))
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

    def ask_band(self, evaluation: Evaluation, part: str, name: str) -> None:
        """Ask for the band of a number, if it is one that may be changed."""

        def task() -> Iterator[object]:
            number = self.number_at(evaluation, part, name)
            if number is not None:
                yield from safe_band(evaluation, number)

        self._bands.request(task)

    def ask_no_band(self) -> None:
        """Nobody edits a number any more."""
        self._bands.cancel()

    def _banded(self, number: int, answer: object) -> None:
        if number == self._bands.newest and isinstance(answer, Band):
            self.band_found.emit(answer)

    def number_at(self, evaluation: Evaluation, part: str, name: str) -> Number | None:
        """The number of a name, as it is written now."""
        found = free_numbers(evaluation.source)
        return next((n for n in found if (n.part, n.name) == (part, name)), None)

    def stop(self) -> None:
        """End both threads."""
        self._remedies.stop()
        self._bands.stop()
        self._solving.stop()
