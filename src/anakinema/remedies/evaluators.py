"""Many documents judged, one after the other, by the processes of this machine, or by a cluster.

Documents go out as JSON and come back as a few numbers: no engine has to know more.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from concurrent.futures import Future, ProcessPoolExecutor, wait
from contextlib import suppress
from dataclasses import asdict, dataclass
from importlib import import_module
from multiprocessing import get_context
from typing import Any, Protocol

from anakinema.document.model import Document
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.finding import Outcome
from anakinema.remedies.judging import LONGEST
from anakinema.wanted import TooLongError, at_most, still_wanted

ANSWERS = "4s"
"""In which a cluster's scheduler answers, if it is there."""
LOOK = 0.05
"""Seconds between two looks at whether the work is still wanted."""


@dataclass(frozen=True, slots=True)
class Judged:
    """What a document's evaluation says, by the ids of findings.

    values : None where there is none. margins : by how much bounds are kept. passes : warnings
    count as passing. end, last : why the motion ends, and its progress there.
    """

    values: dict[str, float | None]
    margins: dict[str, float | None]
    passes: dict[str, bool]
    end: str
    last: float

    @property
    def all_pass(self) -> bool:
        """Whether nothing fails or cannot be judged."""
        return all(self.passes.values())


class Evaluator(Protocol):
    """Judges documents; None for one that cannot be evaluated."""

    def judge(self, documents: Sequence[Document]) -> list[Judged | None]:
        """The answers, in the order of the documents; asks `anakinema.wanted` meanwhile."""
        ...

    def close(self) -> None:
        """No more documents."""
        ...


def judged_of(evaluation: Evaluation) -> Judged:
    """What an evaluation says, in short."""
    findings = evaluation.verdict.findings
    return Judged(
        {f.id: f.value for f in findings},
        {f.id: f.margin for f in findings},
        {f.id: f.outcome in (Outcome.PASS, Outcome.WARN) for f in findings},
        evaluation.motion.end.value,
        evaluation.motion.last,
    )


def judge_text(text: str) -> dict[str, Any] | None:
    """A document as JSON, judged within `LONGEST`: run wherever an engine wants."""
    try:
        with at_most(LONGEST):
            return asdict(judged_of(evaluate(Document.model_validate_json(text))))
    except (AnakinemaError, TooLongError):
        return None


class Inline:
    """One after the other, here."""

    def __init__(self, earlier: Evaluation | None = None) -> None:
        self._earlier = earlier

    def judge(self, documents: Sequence[Document]) -> list[Judged | None]:
        """The answers, parts that stay the same taken from an earlier evaluation."""
        return [self._one(document) for document in documents]

    def _one(self, document: Document) -> Judged | None:
        try:
            with at_most(LONGEST):
                return judged_of(evaluate(document, earlier=self._earlier))
        except (AnakinemaError, TooLongError):
            return None

    def close(self) -> None:
        """Nothing is left."""


class Processes:
    """In so many processes of this machine, which stay until they are closed."""

    def __init__(self, count: int) -> None:
        # Spawned: a copy of a process with threads and a window can hang.
        self._pool = ProcessPoolExecutor(count, mp_context=get_context("spawn"))

    def judge(self, documents: Sequence[Document]) -> list[Judged | None]:
        """The answers of all at once."""
        futures = [self._pool.submit(judge_text, _text(document)) for document in documents]
        return [_read(answer) for answer in _gathered(futures)]

    def close(self) -> None:
        """End the processes; what they have not begun is dropped."""
        self._pool.shutdown(wait=True, cancel_futures=True)


class Cluster:
    """On an existing dask.distributed cluster (the optional extra ``cluster``)."""

    def __init__(self, address: str) -> None:
        try:
            self._engine: Any = import_module("distributed")
        except ImportError as error:
            raise ValueOutOfRangeError(
                "the package for clusters is not installed.",
                where="cluster",
                remedy="Install it with: pip install anakinema[cluster].",
            ) from error
        try:
            self._client: Any = self._engine.Client(address, timeout=ANSWERS)
        except (OSError, ValueError) as error:
            raise ValueOutOfRangeError(
                f"nothing answers at '{address}'.",
                where="cluster",
                remedy="Give the address of its scheduler, such as tcp://10.0.0.5:8786.",
            ) from error

    def judge(self, documents: Sequence[Document]) -> list[Judged | None]:
        """The answers of all at once."""
        futures = self._client.map(judge_text, [_text(each) for each in documents], pure=False)
        try:
            while not all(future.done() for future in futures):
                still_wanted()
                self._pause(futures)
        except BaseException:
            self._client.cancel(futures)
            raise
        return [_read(answer) for answer in self._client.gather(futures)]

    def _pause(self, futures: Sequence[Any]) -> None:
        with suppress(TimeoutError):
            self._engine.wait(futures, timeout=LOOK)

    def close(self) -> None:
        """Leave the cluster as it is."""
        self._client.close()


def _text(document: Document) -> str:
    return json.dumps(document.model_dump(mode="json", exclude_defaults=True))


def _read(answer: dict[str, Any] | None) -> Judged | None:
    return None if answer is None else Judged(**answer)


def _gathered(futures: Sequence[Future[dict[str, Any] | None]]) -> list[dict[str, Any] | None]:
    """All results; what has not begun is dropped if the work is not wanted any more."""
    try:
        while wait(futures, timeout=LOOK).not_done:
            still_wanted()
    except BaseException:
        for future in futures:
            future.cancel()
        raise
    return [future.result() for future in futures]
