"""The journal of one open document: every step is on disk soon, and all undo with it.

An append-only log, written off the interface thread. A record is a line: a checksum and JSON.
After the head come steps as what they change, undo, redo and saves; now and then the whole
document again, so that one bad record never takes all. Pictures are written once. The file is
locked as long as its process lives. Reading: `anakinema.session.recovery`; the format is stated in
docs/file-format.md.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import json
import os
import threading
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from anakinema.bounded import reason
from anakinema.document.model import Document
from anakinema.edits.history import Past, Step
from anakinema.files.native import Stamp
from anakinema.session.patches import patch, pictures_of, whole

VERSION = 1
SUFFIX = ".journal"
WHOLE_EVERY = 100
"""Records after which the whole document is written again."""
MOST_LOG = 60_000_000
"""Bytes after which a journal is begun anew."""
IDLE = 0.5
UNSYNCED = 3.0
"""Seconds without a new moment, and at most, after which what is written is synced to the disk."""
RETRY = 5.0
"""Seconds after which a journal that cannot be written is tried again."""


@dataclass(frozen=True, slots=True, eq=False)
class Moment:
    """What is kept: the history, its file with the stamp it had, and what was saved in it."""

    past: Past
    path: Path | None = None
    stamp: Stamp | None = None
    saved: Document | None = None


def line_of(record: dict[str, Any]) -> bytes:
    """A record as a line of the journal."""
    stated = json.dumps(record, ensure_ascii=False, allow_nan=False, separators=(",", ":")).encode()
    return checksum(stated) + b" " + stated + b"\n"


def checksum(stated: bytes) -> bytes:
    """What guards a record against damage."""
    return hashlib.blake2b(stated, digest_size=8).hexdigest().encode()


class Journal:
    """Keeps the newest moment of one document in a folder of the user's state.

    ``tell`` is called from the writer's thread with what is wrong when it cannot be written, and
    with '' when it can be again; that is tried every ``retry`` seconds.
    """

    def __init__(
        self, folder: Path, tell: Callable[[str], None] = lambda _: None, retry: float = RETRY
    ) -> None:
        self._folder, self._tell, self._retry = folder, tell, retry
        self._condition = threading.Condition()
        self._waiting: Moment | None = None
        self._asked = self._kept = 0
        self._ending = False
        self._thread: threading.Thread | None = None
        self._log: _Log | None = None
        self._failing = ""
        self._last: Moment | None = None

    def keep(self, moment: Moment) -> None:
        """Keep a moment; gives back at once. Of several that pile up the newest is written."""
        with self._condition:
            self._waiting = moment
            self._asked += 1
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, name="journal", daemon=True)
                self._thread.start()
            self._condition.notify_all()

    def wait(self, seconds: float) -> bool:
        """Wait until all that was to be kept is on disk, or cannot be; False if it takes longer."""
        with self._condition:
            asked = self._asked
            return self._condition.wait_for(
                lambda: self._kept >= asked or bool(self._failing), seconds
            )

    def close(self) -> None:
        """Nothing is unsaved any more: the journal goes."""
        with self._condition:
            self._ending = True
            self._waiting = None
            self._condition.notify_all()
        if self._thread is not None:
            self._thread.join()
            self._thread = None
        if self._log is not None:
            self._log.remove()
            self._log = None
        self._ending = False

    def _run(self) -> None:
        unsynced_since = 0.0
        while True:
            with self._condition:
                pause = IDLE if unsynced_since else None
                came = self._condition.wait_for(
                    lambda: self._waiting is not None or self._ending, pause
                )
                if self._ending:
                    return
                moment, asked = self._waiting, self._asked
                self._waiting = None
            # What is written outlives the process; what is synced, the machine. That takes long on
            # some disks, so it is done when nothing else is to be.
            late = unsynced_since and time.monotonic() - unsynced_since > UNSYNCED
            sync = bool(not came or late)
            problem = self._tried(moment, sync)
            if moment is not None:
                unsynced_since = unsynced_since or time.monotonic()
            if sync or problem:
                unsynced_since = 0.0 if moment is None or problem else time.monotonic()
            with self._condition:
                if problem:
                    self._waiting = self._waiting or moment or self._last
                else:
                    self._kept = max(self._kept, asked)
                changed, self._failing = problem != self._failing, problem
                self._condition.notify_all()
            if changed:
                self._tell(problem)
            if problem:
                with self._condition:
                    self._condition.wait_for(lambda: self._ending, self._retry)

    def _tried(self, moment: Moment | None, sync: bool) -> str:
        """Sync what was written, write a moment; what is wrong if that cannot be done, else ''."""
        try:
            if sync and self._log is not None:
                self._log.sync()
            if moment is None:
                return ""
            self._last = moment
            if self._log is not None and not self._failing and self._log.size < MOST_LOG:
                self._log.add(moment)
            else:
                old, self._log = self._log, _Log(self._folder, moment)
                if old is not None:
                    old.remove()
        except OSError as error:
            return reason(error)
        return ""


class _Log:
    """The file of a journal, as it is being written."""

    def __init__(self, folder: Path, moment: Moment) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        name = f"{time.strftime('%Y%m%d-%H%M%S')}-{uuid.uuid4().hex[:8]}"
        self._file, hidden = folder / f"{name}{SUFFIX}", folder / f".{name}.new"
        self._handle = os.open(hidden, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_APPEND, 0o600)
        self._pictures: set[str] = set()
        self._number = self._since_whole = 0
        self.size = 0
        try:
            fcntl.flock(self._handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self._put({"journal": VERSION})
            self._begin(moment)
            # It comes by its name only when it is locked and has all it needs.
            os.rename(hidden, self._file)
        except OSError:
            os.close(self._handle)
            hidden.unlink(missing_ok=True)
            raise

    def _begin(self, moment: Moment) -> None:
        base = moment.past.documents[0]
        self._moment = Moment(Past(base), moment.path, moment.stamp)
        self._put_pictures(base)
        self._put_whole("base")
        self.add(moment)

    def add(self, moment: Moment) -> None:
        """Write what makes this moment of the one before."""
        for record in self._changes(moment.past):
            self._put(record)
        last, self._moment = self._moment, moment
        if moment.saved is not last.saved or moment.path != last.path or moment.stamp != last.stamp:
            self._put({"op": "saved", "step": _step_of(moment), **_place(moment)})
        if self._since_whole >= WHOLE_EVERY:
            self._put_whole("whole")

    def _changes(self, past: Past) -> list[dict[str, Any]]:
        before = self._moment.past
        old, new = before.done, past.done
        same = _alike(old, new)
        back = len(old) - same
        if len(new) == same and _same(past.undone, (*before.undone, *reversed(old[same:]))):
            return [{"op": "undo", "count": back}] if back else []
        forth = len(new) - same
        if not back and _same(before.undone, (*past.undone, *reversed(new[same:]))):
            return [{"op": "redo", "count": forth}]
        steps = [*new[same:], *reversed(past.undone)]
        document = steps[0].before if steps else past.document
        stated = []
        for step in steps:
            self._put_pictures(step.after)
            stated.append({"label": step.label, "change": patch(document, step.after)})
            document = step.after
        records: list[dict[str, Any]] = [{"op": "steps", "keep": same, "steps": stated}]
        if past.undone:
            records.append({"op": "undo", "count": len(past.undone)})
        return records

    def _put_whole(self, kind: str) -> None:
        document = self._moment.past.document
        self._put({"op": kind, "document": whole(document), **_place(self._moment)})
        self._since_whole = 0

    def _put_pictures(self, document: Document) -> None:
        for digest, data in pictures_of(document).items() if document.pictures else ():
            if digest not in self._pictures:
                self._pictures.add(digest)
                self._put({"op": "picture", "digest": digest, "data": data})

    def _put(self, record: dict[str, Any]) -> None:
        line = line_of({"n": self._number, "at": round(time.time(), 3), **record})
        self._number += 1
        self._since_whole += 1
        written = 0
        while written < len(line):
            written += os.write(self._handle, line[written:])
        self.size += len(line)

    def sync(self) -> None:
        """Have all that was written on the disk itself."""
        os.fsync(self._handle)

    def remove(self) -> None:
        """The file goes."""
        # Whoever took it away already, or its folder, did so on purpose.
        with contextlib.suppress(OSError):
            os.unlink(self._file)
        os.close(self._handle)


def _place(moment: Moment) -> dict[str, Any]:
    stamp = moment.stamp
    return {
        "path": None if moment.path is None else os.fsencode(moment.path).hex(),
        "stamp": None if stamp is None else [stamp.size, stamp.time, stamp.digest],
    }


def _step_of(moment: Moment) -> int | None:
    """After how many steps of the whole history the document was as saved; None if at none."""
    documents = moment.past.documents
    places = [k for k, document in enumerate(documents) if document is moment.saved]
    return places[0] if places else None


def _alike(one: tuple[Step, ...], other: tuple[Step, ...]) -> int:
    """How many steps two rows have in common at their beginning."""
    low, high = 0, min(len(one), len(other))
    # Steps are the same from the first on or not at all, so halving finds where they part.
    while low < high:
        middle = (low + high + 1) // 2
        if one[middle - 1] is other[middle - 1]:
            low = middle
        else:
            high = middle - 1
    return low


def _same(one: tuple[Step, ...], other: tuple[Step, ...]) -> bool:
    return len(one) == len(other) and all(a is b for a, b in zip(one, other, strict=True))
