"""Exact evaluations in a warm process of its own, so that the window keeps its processor.

Play and drag share one interpreter with whatever computes in a thread; with another process they
do not. It keeps its last evaluation, of which unchanged stages are used again, hears at once
when something newer is wanted, and ends with the window. Where it is not there (not started yet,
gone, or busy with what does not stop), whoever asked computes in its own thread.
"""

from __future__ import annotations

import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection

from anakinema.document.model import Document
from anakinema.document.resolve import Resolved
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.packed import unpack
from anakinema.session.calculating import Message, Question, Said
from anakinema.session.lane import Lane
from anakinema.wanted import doing, still_wanted

LOOK = 0.01
"""Seconds between looks whether the answer is still wanted."""
PATIENCE = 2.0
"""Seconds after which a process that has not begun is ended, and another one started."""
MOST_STARTS = 5
"""Processes started in all: where each one ends, everything is computed here."""

Exact = Evaluation | tuple[Evaluation, tuple[Lane, ...]]
"""An evaluation, then the same with its lanes."""


class CalculatorGoneError(Exception):
    """The process ended or does not begin: the question is to be answered by whoever asked."""


class CalculatorBrokeError(Exception):
    """A mistake of the program's own in the process, with the words it left."""


class Calculator:
    """The warm process; `start` it once, and `stop` it."""

    def __init__(self, patience: float = PATIENCE) -> None:
        self.patience = patience
        self._asking = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._connection: Connection | None = None
        self._is_ready = False
        self._starts = 0
        self._number = 0

    def start(self) -> None:
        """Start the process; it loads its modules beside whatever goes on here."""
        if self._starts >= MOST_STARTS:
            return
        self._starts += 1
        ours, theirs = Pipe()
        code = f"from anakinema.session.calculating import serve; serve({theirs.fileno()})"
        try:
            self._process = subprocess.Popen(
                [sys.executable, "-c", code],
                pass_fds=[theirs.fileno()],
                stdin=subprocess.DEVNULL,
                start_new_session=True,
            )
            self._connection = ours
        except OSError:
            # No more processes to be had.
            ours.close()
        finally:
            theirs.close()

    def stop(self) -> None:
        """End the process; nobody may be asking."""
        connection, process = self._connection, self._process
        self._connection, self._process, self._is_ready = None, None, False
        if connection is not None:
            connection.close()
        if process is not None:
            process.kill()
            process.wait()

    @property
    def process_id(self) -> int | None:
        """Of the system, while there is a process."""
        return None if self._process is None else self._process.pid

    @property
    def is_ready(self) -> bool:
        """Whether it has loaded what it needs."""
        if not self._is_ready and self._connection is not None:
            with suppress(OSError):
                self._is_ready = self._connection.poll()
        return self._is_ready

    def ask(self, document: Document, *, anew: bool) -> Asked | None:
        """Have a document evaluated exactly, what was asked before being dropped.

        ``anew``: nothing of the evaluation before may be used again. None if there is no process
        that is ready.
        """
        if not self._asking.acquire(blocking=False):
            return None
        try:
            if self.is_ready and self._connection is not None:
                self._number += 1
                self._connection.send(Question(self._number, document, anew))
                return Asked(self, self._connection, self._number)
        except OSError:
            self.renew()
        self._asking.release()
        return None

    def renew(self) -> None:
        """Another process instead of one that is gone or does not hear."""
        self.stop()
        self.start()

    def let_go(self) -> None:
        """Whoever asked wants no more of it."""
        try:
            if self._connection is not None:
                self._number += 1
                self._connection.send(Question(self._number, None))
        except OSError:
            self.renew()
        finally:
            self._asking.release()


class Asked:
    """A question under way; to be closed by the thread that asked."""

    def __init__(self, calculator: Calculator, connection: Connection, number: int) -> None:
        self._calculator, self._connection, self._number = calculator, connection, number

    def answers(self, resolved: Resolved) -> Iterator[Exact]:
        """The evaluation as soon as it is there, then its lanes. ``resolved``: the numbers of the
        document asked about. Asks `anakinema.wanted` often.

        Raises what the document is refused for, and `CalculatorGoneError`.
        """
        exact: Evaluation | None = None
        for message in self._messages():
            if message.said is Said.DOING:
                doing(str(message.content))
            elif message.said is Said.REFUSED:
                assert isinstance(message.content, bytes)
                raise unpack(message.content)
            elif message.said is Said.BROKE:
                raise CalculatorBrokeError(message.content)
            elif message.said is Said.EVALUATION:
                assert isinstance(message.content, bytes)
                exact = unpack(message.content, resolved)
                yield exact
            elif message.said is Said.LANES:
                assert isinstance(message.content, bytes) and exact is not None
                yield exact, unpack(message.content, resolved)
                return

    def _messages(self) -> Iterator[Message]:
        """What is said of this question; that it does so within a while is seen to."""
        until: float | None = time.monotonic() + self._calculator.patience
        while True:
            still_wanted()
            try:
                message = self._connection.recv() if self._connection.poll(LOOK) else None
            except (EOFError, OSError) as error:
                self._calculator.renew()
                raise CalculatorGoneError from error
            if message is None:
                if until is not None and time.monotonic() > until:
                    self._calculator.renew()
                    raise CalculatorGoneError
            elif message.number == self._number:
                until = None
                yield message

    def close(self) -> None:
        """No more is wanted of it."""
        self._calculator.let_go()
