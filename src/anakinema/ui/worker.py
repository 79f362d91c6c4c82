"""The one place that starts a thread: computes off the interface thread, newest request wins."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable

from PySide6.QtCore import QObject, Signal

from anakinema.errors import Cancelled

Task = Callable[[Callable[[], None]], Iterable[object]]
"""Given an ``interrupt`` to call often, yields answers one after another."""


class Worker(QObject):
    """Runs the newest task; an older one is cancelled and its answers are dropped."""

    answered = Signal(int, object)
    """Number of the request, and an answer."""
    broke = Signal(int, str)
    """Number of the request, and what went wrong in the program itself."""
    finished = Signal(int)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._condition = threading.Condition()
        self._newest = 0
        self._task: Task | None = None
        self._stopping = False
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)
        self._thread.start()

    @property
    def newest(self) -> int:
        """Number of the newest request."""
        return self._newest

    def request(self, task: Task) -> int:
        """Ask for a task to be run; gives its number."""
        with self._condition:
            self._newest += 1
            self._task = task
            self._condition.notify()
            return self._newest

    def cancel(self) -> None:
        """Drop what is running or waiting."""
        with self._condition:
            self._newest += 1
            self._task = None

    def stop(self) -> None:
        """End the thread; call before the application goes."""
        with self._condition:
            self._stopping = True
            self._newest += 1
            self._condition.notify()
        self._thread.join(timeout=10.0)

    def _run(self) -> None:
        while True:
            with self._condition:
                while self._task is None and not self._stopping:
                    self._condition.wait()
                if self._stopping:
                    return
                task, number = self._task, self._newest
                self._task = None
            assert task is not None
            self._work(task, number)

    def _work(self, task: Task, number: int) -> None:
        def interrupt() -> None:
            if self._newest != number:
                raise Cancelled

        try:
            for answer in task(interrupt):
                interrupt()
                self.answered.emit(number, answer)
            self.finished.emit(number)
        except Cancelled:
            return
        except Exception as error:
            # A fault of ours must not kill the thread: say so and go on with the next request.
            self.broke.emit(number, f"{type(error).__name__}: {error}")
