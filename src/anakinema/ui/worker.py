"""Computes off the interface thread; the newest request wins.

An older task is asked to stop, which all of the core hears within a fraction of a second
(`anakinema.wanted`). Should a task sit in a library that cannot be asked, it is left to itself:
a new thread takes over, and the old one ends as soon as it comes back.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable

from PySide6.QtCore import QObject, Signal
from shiboken6 import isValid

from anakinema.errors import Cancelled
from anakinema.wanted import under_watch

Task = Callable[[], Iterable[object]]
"""Yields answers one after another; asks `anakinema.wanted` often."""
_left_alone: list[Worker] = []
"""Workers with a thread that was left to itself: they must not end in that thread."""
PATIENCE = 0.4
"""Seconds after which a task that does not stop is left to itself."""


class Worker(QObject):
    """Runs the newest task; an older one is cancelled and its answers are dropped."""

    answered = Signal(int, object)
    """Number of the request, and an answer."""
    broke = Signal(int, object)
    """Number of the request, and what went wrong in the program itself."""
    finished = Signal(int)

    def __init__(self, name: str, owner: QObject | None = None) -> None:
        """``owner``: with whom it goes, and what it is connected to."""
        super().__init__(owner)
        self._condition = threading.Condition()
        self._newest = 0
        self._running = 0
        self._task: Task | None = None
        self._stopping = False
        self._name = name
        self.doing = ""
        """What the task under way is at."""
        self._thread: threading.Thread | None = None

    def _started(self) -> threading.Thread:
        thread = threading.Thread(target=self._run, name=self._name, daemon=True)
        thread.start()
        return thread

    @property
    def newest(self) -> int:
        """Number of the newest request."""
        return self._newest

    def request(self, task: Task) -> int:
        """Ask for a task to be run; gives its number."""
        with self._condition:
            self._newest += 1
            self._task = task
            if self._thread is None and not self._stopping:
                self._thread = self._started()
            self._condition.notify_all()
            self._watch_old()
            return self._newest

    def cancel(self) -> None:
        """Drop what is running or waiting."""
        with self._condition:
            self._newest += 1
            self._task = None
            self._watch_old()

    def _watch_old(self) -> None:
        """See to it that a task which does not stop keeps nobody waiting."""
        old = self._running
        if not old:
            return

        def take_over() -> None:
            with self._condition:
                if self._running == old and not self._stopping:
                    self._running = 0
                    _left_alone.append(self)
                    self._thread = self._started()

        timer = threading.Timer(PATIENCE, take_over)
        timer.daemon = True
        timer.start()

    def stop(self) -> None:
        """End the thread; call before the application goes."""
        with self._condition:
            self._stopping = True
            self._newest += 1
            self._condition.notify_all()
        if self._thread is not None:
            self._thread.join(timeout=10.0)

    def _run(self) -> None:
        me = threading.current_thread()
        while True:
            with self._condition:
                while self._task is None and not self._stopping and self._thread_is(me):
                    self._condition.wait()
                if self._stopping or not self._thread_is(me):
                    return
                task, number = self._task, self._newest
                self._task, self._running = None, number
            assert task is not None
            self._work(task, number)
            with self._condition:
                if self._running == number:
                    self._running = 0

    def _thread_is(self, thread: threading.Thread) -> bool:
        """Whether a thread is the one that takes tasks."""
        return self._thread is thread

    def _work(self, task: Task, number: int) -> None:
        def interrupt() -> None:
            if self._newest != number:
                raise Cancelled

        def tell(words: str) -> None:
            if self._newest == number:
                self.doing = words

        try:
            with under_watch(interrupt, tell):
                for answer in task():
                    interrupt()
                    self.answered.emit(number, answer)
            self.finished.emit(number)
        except Cancelled:
            return
        except Exception as error:
            # A fault of ours must not kill the thread: say so and go on with the next request.
            # One that was left to itself may come back when the window is gone.
            if isValid(self):
                self.broke.emit(number, error)
