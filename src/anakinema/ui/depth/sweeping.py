"""What a body sweeps over the motion, found beside the window; the newest question wins."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QObject

from anakinema.depth import swept_sheet
from anakinema.findings import Evaluation
from anakinema.ui.worker import Worker


class Sweeper:
    """Keeps the sheet of one body of one motion."""

    def __init__(
        self, broke: Callable[[object], None], came: Callable[[], None], owner: QObject
    ) -> None:
        """``came`` : to be called when a sheet has been found; goes with its ``owner``."""
        self._worker = Worker("sweeping", owner)
        self._worker.answered.connect(self._answered)
        self._worker.broke.connect(lambda _, error: broke(error))
        self._came = came
        self._asked: tuple[Evaluation, int] | None = None
        self._found: np.ndarray | None = None

    def sheet(self, evaluation: Evaluation, body: int) -> np.ndarray | None:
        """(T, 3, 3) triangles; None while they are being found."""
        if self._asked is None or self._asked[0] is not evaluation or self._asked[1] != body:
            self._asked, self._found = (evaluation, body), None
            poses = evaluation.motion.poses
            self._worker.request(lambda: [swept_sheet(evaluation.resolved, poses, body)])
        return self._found

    def _answered(self, number: int, answer: object) -> None:
        if number == self._worker.newest and isinstance(answer, np.ndarray):
            self._found = answer
            self._came()

    def forget(self) -> None:
        """There is no motion any more."""
        self._worker.cancel()
        self._asked = self._found = None

    def stop(self) -> None:
        """End the thread."""
        self._worker.stop()
