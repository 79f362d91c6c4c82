"""What a session that ended badly left behind: journals read back, damaged ones set aside.

Nothing is deleted that the user has not let go of, and a journal that is damaged not even then.
"""

from __future__ import annotations

import fcntl
import json
import os
import time
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from anakinema.bounded import read_regular, reason
from anakinema.document.model import Document
from anakinema.edits.history import History, Past, Step
from anakinema.errors import FileFormatError
from anakinema.files.native import Stamp, same_file
from anakinema.session.journal import SUFFIX, VERSION, Moment, checksum
from anakinema.session.patches import document_of, patched

MOST_BYTES = 400_000_000
ASIDE = "set-aside"
"""Folder, beside the journals, of those that could not be read whole."""


@dataclass(frozen=True, slots=True, eq=False)
class LeftBehind:
    """Unsaved work of a session that ended badly, and the journal it is in.

    moment : None if nothing could be read; trouble : what is wrong with the journal, '' if nothing;
    when : seconds since 1970 of the last record. The journal is locked by whoever holds this.
    """

    file: Path
    moment: Moment | None
    trouble: str
    when: float
    _lock: int = field(repr=False)

    @property
    def name(self) -> str:
        """The document's name, else the journal's."""
        return self.file.stem if self.moment is None else self.moment.past.document.name

    @property
    def steps(self) -> int:
        """How many steps can be undone."""
        return 0 if self.moment is None else len(self.moment.past.done)

    def let_go(self) -> Path | None:
        """The user has taken it over or does not want it: where a damaged journal now lies."""
        kept = None
        try:
            if self.trouble:
                kept = self.file.parent / ASIDE / self.file.name
                kept.parent.mkdir(exist_ok=True)
                os.rename(self.file, kept)
            else:
                os.unlink(self.file)
        except OSError:
            kept = self.file if self.trouble else None
        self.release()
        return kept

    def release(self) -> None:
        """Leave it to be offered again."""
        os.close(self._lock)


def left_behind(folder: Path) -> list[LeftBehind]:
    """Journals in a folder whose process is no more, the newest first.

    Those in which nothing is unsaved go at once.
    """
    try:
        files = sorted(folder.glob(f"*{SUFFIX}"))
    except OSError:
        return []
    found = []
    for file in files:
        left = _read(file)
        if left is None:
            continue
        if not left.trouble and left.moment is not None and _is_saved(left.moment):
            left.let_go()
        else:
            found.append(left)
    return sorted(found, key=lambda left: -left.when)


def _is_saved(moment: Moment) -> bool:
    if moment.path is None or moment.stamp is None:
        # A stage that nothing was ever put on.
        return moment.past.document is moment.saved and not moment.past.done
    return moment.past.document is moment.saved and same_file(moment.path, moment.stamp)


def _read(file: Path) -> LeftBehind | None:
    """A journal that nobody writes; None if somebody does, or it is no file at all."""
    try:
        lock = os.open(file, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except OSError as error:
        return _unreadable(file, reason(error))
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        content = read_regular(file, MOST_BYTES, "")
        changed = os.fstat(lock).st_mtime
    except FileFormatError:
        os.close(lock)
        return None
    except OSError:
        os.close(lock)
        return None
    moment, trouble, when = _replay(content)
    return LeftBehind(file, moment, trouble, when or changed, lock)


def _unreadable(file: Path, words: str) -> LeftBehind | None:
    if not file.is_file():
        return None
    return LeftBehind(file, None, words, time.time(), os.open(os.devnull, os.O_RDONLY))


def _replay(content: bytes) -> tuple[Moment | None, str, float]:
    """The last moment that can be had of a journal, what is wrong with it, and when it was."""
    replay = _Replay()
    lines = content.split(b"\n")
    for number, line in enumerate(lines[:-1]):
        replay.take(number, line)
    trouble = replay.trouble
    if lines[-1] and not trouble:
        trouble = "its last record was cut short"
    if not trouble and replay.moment is None:
        trouble = "it holds nothing"
    return replay.moment, trouble, replay.when


class _Replay:
    """Brings a history back, record by record; after a bad one from the next whole document on."""

    def __init__(self) -> None:
        self.trouble = ""
        self.when = 0.0
        self._history: History | None = None
        self._saved: Document | None = None
        self._path: Path | None = None
        self._stamp: Stamp | None = None
        self._pictures: dict[str, str] = {}
        self._waits = False
        self._stops = False

    @property
    def moment(self) -> Moment | None:
        """Where the history stands."""
        if self._history is None:
            return None
        return Moment(self._history.past, self._path, self._stamp, self._saved)

    def take(self, number: int, line: bytes) -> None:
        """Take the next record."""
        if self._stops:
            return
        try:
            record = _record(line)
            if record.get("n") != number:
                raise ValueError("records are missing")
            if number == 0 or "journal" in record:
                self._head(record)
            else:
                self._apply(record)
                self.when = max(self.when, float(record["at"]))
        except (ValueError, KeyError, TypeError, IndexError, AttributeError, RecursionError):
            self.trouble = self.trouble or f"it is damaged from record {number + 1} on"
            self._waits = True

    def _head(self, record: dict[str, Any]) -> None:
        version = record["journal"]
        if version != VERSION:
            self.trouble = f"it was written by another version of Anakinema (journal {version})"
            self._stops = True

    def _apply(self, record: dict[str, Any]) -> None:
        op = record["op"]
        if op == "picture":
            self._pictures[record["digest"]] = record["data"]
            return
        if op in ("base", "whole"):
            if self._history is None or self._waits:
                self._history = History(document_of(record["document"], self._pictures))
                self._saved = None
                self._place(record)
            self._waits = False
            return
        if self._waits or self._history is None:
            return
        if op == "steps":
            self._steps(record)
        elif op in ("undo", "redo"):
            move = self._history.undo if op == "undo" else self._history.redo
            for _ in range(int(record["count"])):
                move()
        elif op == "saved":
            documents = self._history.past.documents
            self._saved = None if record["step"] is None else documents[record["step"]]
            self._place(record)
        else:
            raise ValueError(op)

    def _steps(self, record: dict[str, Any]) -> None:
        assert self._history is not None
        past = self._history.past
        done = list(past.done[: record["keep"]])
        document = done[-1].after if done else past.documents[0]
        for stated in record["steps"]:
            after = patched(document, stated["change"], self._pictures)
            done.append(Step(str(stated["label"]), document, after))
            document = after
        self._history = History(Past(document, tuple(done)))

    def _place(self, record: dict[str, Any]) -> None:
        path, stamp = record["path"], record["stamp"]
        self._path = None if path is None else Path(os.fsdecode(bytes.fromhex(path)))
        self._stamp = None if stamp is None else Stamp(int(stamp[0]), int(stamp[1]), str(stamp[2]))


def _record(line: bytes) -> dict[str, Any]:
    guard, _, stated = line.partition(b" ")
    if guard != checksum(stated):
        raise ValueError("its checksum does not fit")
    record = json.loads(stated)
    if not isinstance(record, dict):
        raise TypeError("not a record")
    return record
