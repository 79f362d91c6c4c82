"""The window stands before the program is loaded: what is missing comes while its page is read."""

from __future__ import annotations

import importlib
import threading
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Signal
from PySide6.QtWidgets import QApplication

from anakinema.loading import loading
from anakinema.ui.guarded import guarded
from anakinema.ui.window import MainWindow

if TYPE_CHECKING:
    from anakinema.session import Calculator

PRESSES = (
    QEvent.Type.ShortcutOverride,
    QEvent.Type.KeyPress,
    QEvent.Type.MouseButtonPress,
    QEvent.Type.DragEnter,
)
"""What a user does that only the whole window can answer."""
SOON = "networkx", "scipy.interpolate"
"""Slow libraries that are wanted once something is opened, and once it has a cam."""


@guarded
class Opening(QObject):
    """Loads the rest beside a window that is shown, then puts it in.

    A key or a press that comes before waits for it and is answered then: none is lost.
    """

    _loaded = Signal()

    def __init__(self, window: MainWindow, path: Path | None) -> None:
        """``path``: a file to open once all is there."""
        super().__init__(window)
        self._window, self._path = window, path
        self._is_under_way, self._is_over = True, False
        self.calculator: Calculator | None = None
        """The process that evaluates, once all is there."""
        self._is_loaded = threading.Event()
        self._thread = threading.Thread(target=self._load, name="loading", daemon=True)
        self._loaded.connect(self.finish)
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]
        self._thread.start()

    def _load(self) -> None:
        try:
            with loading():
                import anakinema.ui.whole  # noqa: F401
        finally:
            # What cannot be loaded is said where it is used.
            self._is_loaded.set()
            self._loaded.emit()
        for name in SOON:
            if not self._is_over:
                importlib.import_module(name)

    def finish(self) -> None:
        """Have all of the window now."""
        if self._is_under_way:
            self._end()
            from anakinema.ui.whole import make_whole

            self.calculator = make_whole(self._window, self._path)

    def leave(self) -> None:
        """The window is gone: nothing is put into it any more, and no process stays."""
        self._is_over = True
        if self._is_under_way:
            self._end()
        self._thread.join()
        if self.calculator is not None:
            self.calculator.stop()

    def _end(self) -> None:
        self._is_under_way = False
        QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
        self._is_loaded.wait()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in PRESSES:
            self.finish()
        return False
