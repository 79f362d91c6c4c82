"""The trial that is selected, moving: for its miniature and for outlines over what is so now."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PySide6.QtCore import QObject, Signal

from anakinema.document.model import Document, Trial
from anakinema.errors import AnakinemaError
from anakinema.findings import Miniature, small
from anakinema.remedies import back_to
from anakinema.ui.worker import Worker


class Comparison(QObject):
    """Follows the motion of a trial beside the interface; the newest wish wins."""

    changed = Signal()
    """Another trial is on show, or none."""

    def __init__(self, broke: Callable[[object], object]) -> None:
        super().__init__()
        self._worker = Worker("comparing", self)
        self._worker.answered.connect(self._answered)
        self._worker.broke.connect(lambda _, error: broke(error))
        self._asked: tuple[Document, Trial] | None = None
        self.shown: Miniature | None = None
        """How the trial moves, None while that is not known."""

    def show(self, document: Document, trial: Trial | None) -> None:
        """Show a trial of a document over what is so now; None shows none."""
        asked = None if trial is None else (document, trial)
        if asked == self._asked:
            return
        self._asked, self.shown = asked, None
        self._worker.cancel()
        if trial is not None:
            edit = back_to(document, trial)

            def task() -> Iterator[object]:
                try:
                    yield small(document if edit is None else edit.apply(document))
                except AnakinemaError:
                    return

            self._worker.request(task)
        self.changed.emit()

    def _answered(self, number: int, answer: object) -> None:
        if number == self._worker.newest and isinstance(answer, Miniature):
            self.shown = answer
            self.changed.emit()

    def stop(self) -> None:
        """End the thread."""
        self._worker.stop()
