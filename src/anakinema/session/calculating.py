"""What the process of `anakinema.session.calculator` does: evaluate the newest document asked."""

from __future__ import annotations

import gc
import os
import threading
import traceback
from contextlib import suppress
from dataclasses import dataclass
from enum import Enum
from multiprocessing.connection import Connection

from anakinema.document.model import Document
from anakinema.errors import AnakinemaError, Cancelled
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.packed import pack, pack_error
from anakinema.session.lane import lanes
from anakinema.wanted import under_watch

NICE = 5
"""So much does the process stand back where it and the window want one processor."""


@dataclass(frozen=True, slots=True)
class Question:
    """A document to be evaluated; None only ends what is under way. ``anew``: nothing of the
    evaluation before may be used again."""

    number: int
    document: Document | None
    anew: bool = False


class Said(Enum):
    """What a message from the process is."""

    READY = "ready for questions"
    BEGUN = "has begun"
    DOING = "is at"
    EVALUATION = "packed evaluation"
    LANES = "packed lanes"
    REFUSED = "pickled error of the document"
    BROKE = "words of a mistake of the program's own"


@dataclass(frozen=True, slots=True)
class Message:
    """Something said about the question of a number."""

    number: int
    said: Said
    content: bytes | str = ""


def serve(handle: int) -> None:
    """Answer questions that come by an inherited connection until that ends."""
    with suppress(OSError):
        os.nice(NICE)
    _Calculating(Connection(handle)).run()


class _Calculating:
    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._arrived = threading.Condition()
        self._newest = Question(0, None)
        self._taken = 0
        self._last: Evaluation | None = None

    def run(self) -> None:
        """Evaluate whatever is newest, again and again."""
        threading.Thread(target=self._listen, daemon=True).start()
        # What start-up made stays for good: spare the collector from walking it.
        gc.collect()
        gc.freeze()
        self._say(0, Said.READY)
        while True:
            question = self._next()
            if question.document is not None:
                self._answer(question, question.document)

    def _next(self) -> Question:
        with self._arrived:
            self._arrived.wait_for(lambda: self._newest.number > self._taken)
            self._taken = self._newest.number
            return self._newest

    def _listen(self) -> None:
        try:
            while True:
                question = self._connection.recv()
                with self._arrived:
                    self._newest = question
                    self._arrived.notify_all()
        except (EOFError, OSError):
            # The window is gone, and nobody waits for what is under way.
            os._exit(0)

    def _say(self, number: int, said: Said, content: bytes | str = "") -> None:
        try:
            self._connection.send(Message(number, said, content))
        except OSError:
            os._exit(0)

    def _answer(self, question: Question, document: Document) -> None:
        number = question.number

        def interrupt() -> None:
            if self._newest.number != number:
                raise Cancelled

        self._say(number, Said.BEGUN)
        try:
            with under_watch(interrupt, lambda words: self._say(number, Said.DOING, words)):
                exact = evaluate(document, earlier=None if question.anew else self._last)
                self._last = exact
                self._say(number, Said.EVALUATION, pack(exact, exact.resolved))
                self._say(number, Said.LANES, pack(lanes(exact), exact.resolved))
        except Cancelled:
            return
        except AnakinemaError as error:
            self._say(number, Said.REFUSED, pack_error(error))
        except Exception:  # noqa: BLE001  (told whole; the process goes on)
            self._say(number, Said.BROKE, traceback.format_exc())
