"""Collects garbage on the interface thread only.

Python collects rings of objects in whichever thread happens to fill them up; a ring with a widget
in it that a computing thread collects takes the program with it.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer

OFTEN = 250
"""ms between looks."""


class Collector(QObject):
    """Does what Python's own collector would, when it would, from the thread it was made in."""

    def __init__(self) -> None:
        super().__init__()
        self._limits = gc.get_threshold()
        gc.disable()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._timer.start(OFTEN)

    def _look(self) -> None:
        counts = gc.get_count()
        full = [k for k in range(3) if counts[k] > self._limits[k]]
        if full:
            gc.collect(full[-1])

    def stop(self) -> None:
        """Let Python collect as it likes again."""
        self._timer.stop()
        gc.enable()
