"""Waiting for states, never for time: a busy machine only makes it longer.

A wait gives up when nothing goes on that could bring the state about: the interface has looked
very often while no other thread did anything. Should that never come, the guard outside the
process (`tests/guard.py`) ends it.
"""

from __future__ import annotations

import multiprocessing
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress

from PySide6.QtCore import QEvent, QEventLoop, QObject, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QPushButton

from tests.guard import work_of

HEARTBEAT = 50
"""ms after which a state is looked at again though nothing has happened."""
LOOKS = 600
"""Looks in a row without work elsewhere after which a wait is in vain."""
WORK = 0.002
"""Seconds of processor time by other threads, between two looks, that count as work."""


def until(state: Callable[[], object]) -> None:
    """Let events be handled until a state holds; a state that raises AssertionError does not."""
    idle, before = 0, _elsewhere()
    why: object = state
    while idle < LOOKS:
        try:
            if state() not in (False,):
                return
        except AssertionError as error:
            why = error
        handle_events()
        now = _elsewhere()
        idle = 0 if now - before > WORK else idle + 1
        before = now
    raise AssertionError(f"waited in vain: {why}")


def handle_events() -> None:
    """Sleep until there is an event, or for a moment, and handle what there is.

    Nothing is polled: a thread that wakes often takes the interpreter from the one that works.
    """
    timer = QTimer()
    timer.start(HEARTBEAT)
    flags = QEventLoop.ProcessEventsFlag
    QApplication.processEvents(flags.AllEvents | flags.WaitForMoreEvents)
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    timer.stop()


def _elsewhere() -> float:
    """Processor time of all threads but this one, and of processes that work for this one."""
    found = time.process_time() - time.thread_time()
    for child in multiprocessing.active_children():
        with suppress(OSError, ValueError):
            found += work_of(child.pid or 0)
    return found


class _Answerer(QObject):
    """Calls back for each modal dialog when it is shown."""

    def __init__(self, answer: Callable[[QDialog], object]) -> None:
        super().__init__()
        self.answered = 0
        self._answer = answer

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Show and isinstance(watched, QDialog) and watched.isModal():
            QTimer.singleShot(0, lambda: self._run(watched))
        return False

    def _run(self, dialog: QDialog) -> None:
        self.answered += 1
        self._answer(dialog)
        if dialog.isVisible():
            dialog.reject()


@contextmanager
def answering(answer: Callable[[QDialog], object], times: int = 1) -> Iterator[None]:
    """Within it each modal dialog is answered when it appears; there must be ``times`` of them."""
    answerer = _Answerer(answer)
    app = QApplication.instance()
    assert app is not None
    app.installEventFilter(answerer)
    try:
        yield
    finally:
        app.removeEventFilter(answerer)
    assert answerer.answered == times


def pressing(words: str) -> Callable[[QDialog], None]:
    """Answers a dialog with the button whose words begin so."""

    def press(box: QDialog) -> None:
        next(b for b in box.findChildren(QPushButton) if b.text().startswith(words)).click()

    return press
