"""The open document, its history, its file and its newest results."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from anakinema.analysis.reach import Reach, reachable_range
from anakinema.authoring.hardware import InStep
from anakinema.document.model import Document
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit
from anakinema.edits.history import History, Past
from anakinema.edits.structure import TakeTheirs
from anakinema.errors import AnakinemaError, AssemblyError, FileFormatError
from anakinema.files.native import Stamp, read_stamped, same_file, write_document
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.geometry.contour import Floats
from anakinema.record.exports import Export
from anakinema.session.calculator import Asked, Calculator, CalculatorGoneError, Exact
from anakinema.session.claims import Claim
from anakinema.session.journal import Journal, Moment
from anakinema.session.lane import lanes
from anakinema.session.recovery import LeftBehind
from anakinema.wanted import still_wanted
from anakinema.writing import write_bytes


class FileChangedError(FileFormatError):
    """The file to be saved to is not what this session last read or wrote there."""


class Session:
    """One open document. Knows nothing of windows; computing is handed out as plain functions.

    ``tell`` hears, from another thread, that the journal cannot be written, or '' that it can.
    """

    def __init__(self, folder: Path, tell: Callable[[str], None] = lambda _: None) -> None:
        self._journal = Journal(folder / "recovery", tell)
        self._claim = Claim(folder / "open")
        self.path: Path | None = None
        self._stamp: Stamp | None = None
        # Of nothing but defaults: to check them takes longer than to show a window.
        self._history = History(Document.model_construct())
        self._saved: Document | None = self._history.document
        self.is_shared = False
        """Whether another session had the file open when this one opened it."""

    @property
    def document(self) -> Document:
        """The present document."""
        return self._history.document

    @property
    def past(self) -> Past:
        """The document and all that undo and redo know."""
        return self._history.past

    @property
    def is_changed(self) -> bool:
        """Whether there is unsaved work."""
        return self.document is not self._saved

    @property
    def is_gone(self) -> bool:
        """Whether the file that is open has been deleted since."""
        return self.path is not None and self._stamp is not None and not self.path.exists()

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._history.undo_label

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back."""
        return self._history.redo_label

    def open(self, path: Path) -> None:
        """Open a file; raises `FileFormatError` and keeps what was open."""
        document, stamp = read_stamped(path)
        self._begin(Moment(Past(document), path, stamp, document))

    def start(self, document: Document, path: Path | None = None) -> None:
        """Begin anew with a document that nothing has been done to."""
        self._begin(Moment(Past(document), path, None, document))

    def recover(self, left: LeftBehind) -> Path | None:
        """Go on with what a session that ended badly left behind, all its undo with it.

        Gives where its journal was set aside if that was damaged.
        """
        assert left.moment is not None
        self._begin(left.moment)
        # Only what is safe here may go there.
        return left.let_go() if self.wait_kept(10.0) else None

    def _begin(self, moment: Moment) -> None:
        self._journal.close()
        self._history = History(moment.past)
        self._saved, self.path, self._stamp = moment.saved, moment.path, moment.stamp
        self._claim.release()
        self.is_shared = moment.path is not None and not self._claim.take(moment.path)
        self._keep()

    def save(self, path: Path, *, over: bool = False) -> None:
        """Save under a name; raises `FileFormatError` if it cannot be written.

        Raises `FileChangedError` if the open file has been changed by somebody else, or is open
        elsewhere, unless it is to be written ``over``.
        """
        if not over and path == self.path:
            self._look_at_file(path)
        self._stamp = write_document(self.document, path)
        self.path, self._saved = path, self.document
        self.is_shared = not self._claim.take(path)
        self._keep()

    def _look_at_file(self, path: Path) -> None:
        where, remedy = f"file {path.name}", "Keep mine, take theirs, or save beside it."
        if self._stamp is not None and path.exists() and not same_file(path, self._stamp):
            raise FileChangedError(
                "it has been changed by another program since it was opened.",
                where=where,
                remedy=remedy,
            )
        if not self._claim.take(path):
            raise FileChangedError("it is open in another window too.", where=where, remedy=remedy)

    def take_theirs(self) -> None:
        """Take what the file holds now, as a step that can be undone; raises `FileFormatError`."""
        assert self.path is not None
        theirs, self._stamp = read_stamped(self.path)
        self._history.do(TakeTheirs(theirs))
        self._history.finish_gesture()
        self._saved = self.document
        self._keep()

    def close(self) -> None:
        """The user lets go of this document."""
        self._journal.close()
        self._claim.release()

    def do(self, edit: Edit) -> None:
        """Apply an edit and keep it for recovery; raises `EditRefusedError`, and changes nothing,
        if it cannot be."""
        self._history.do(InStep(edit))
        self._keep()

    def finish_gesture(self) -> None:
        """The next edit is an undo step of its own."""
        self._history.finish_gesture()

    def cancel_gesture(self) -> None:
        """Put back what the gesture under way has changed."""
        self._history.cancel_gesture()
        self._keep()

    def undo(self) -> None:
        """Take back the last step."""
        self._history.undo()
        self._keep()

    def redo(self) -> None:
        """Bring back the last step undone."""
        self._history.redo()
        self._keep()

    def wait_kept(self, seconds: float) -> bool:
        """Wait until all steps are on disk, or cannot be; False if it takes longer."""
        return self._journal.wait(seconds)

    def _keep(self) -> None:
        moment = Moment(self._history.past, self.path, self._stamp, self._saved)
        self._journal.keep(moment)


def beside(path: Path, title: str = "mine") -> Path:
    """A free name beside a file."""
    numbers = ("", *(f" {k}" for k in range(2, 1000)))
    names = (path.with_name(f"{path.stem} ({title}{n}){path.suffix}") for n in numbers)
    return next(name for name in names if not name.exists())


@dataclass(frozen=True, eq=False)
class Drawn:
    """A sound document as it is drawn, before or without being assembled."""

    resolved: Resolved
    error: AssemblyError | None = None


def answers(
    document: Document, earlier: Evaluation | None, calculator: Calculator | None = None
) -> Iterator[Exact | Drawn | AnakinemaError]:
    """A first look where there is an earlier answer, then the exact evaluation, or why not; of each
    its lanes after it.

    Where bodies or joints come or go, how it is drawn is stated first. A ``calculator`` works on
    the exact one meanwhile.
    """
    asked = None if calculator is None else calculator.ask(document, anew=earlier is None)
    try:
        if earlier is None or not _alike(document, earlier.source):
            yield Drawn(resolve(document))
        else:
            look = first_look(document, earlier)
            if look is not None:
                yield look
                yield look, lanes(look)
        still_wanted()
        yield from _exactly(document, earlier, asked)
    except AssemblyError as error:
        yield Drawn(resolve(document), error)
    except AnakinemaError as error:
        yield error
    finally:
        if asked is not None:
            asked.close()


def _exactly(
    document: Document, earlier: Evaluation | None, asked: Asked | None
) -> Iterator[Exact]:
    """The exact evaluation and its lanes, from whom they were asked, or made here."""
    if asked is not None:
        with suppress(CalculatorGoneError):
            yield from asked.answers(resolve(document))
            return
    exact = evaluate(document, earlier=earlier)
    yield exact
    yield exact, lanes(exact)


def _alike(one: Document, other: Document) -> bool:
    """Whether two documents have the same bodies, joints and uses, whatever their numbers."""
    return all(
        [item.id for item in a] == [item.id for item in b]
        for a, b in (
            (one.bodies, other.bodies),
            (one.joints, other.joints),
            (one.instances, other.instances),
        )
    )


@dataclass(frozen=True, slots=True, eq=False)
class DriverRanges:
    """How far each driver of a mechanism, as it was evaluated, can go from a pose."""

    evaluation: Evaluation
    ranges: tuple[Reach, ...]


def driver_ranges(evaluation: Evaluation, progress: float) -> DriverRanges:
    """Reachable range of every driver from the pose at a progress."""
    at = evaluation.motion.at(np.array([progress]))
    count = len(evaluation.resolved.program.joints)
    ranges = (
        reachable_range(evaluation.mechanism, at.poses[0], at.values[0], driver)
        for driver in range(count)
    )
    return DriverRanges(evaluation, tuple(ranges))


def poses_at(evaluation: Evaluation, progress: float) -> Floats:
    """(B, 3) exact pose at a progress."""
    return np.asarray(evaluation.motion.poses_at(np.array([progress]))[0])


def write_export(export: Export, evaluation: Evaluation, poses: Floats, path: Path) -> None:
    """Write a file of what is known, of bodies at poses (B, 3) where it shows any; raises
    `FileFormatError`."""
    write_bytes(export.content(evaluation, poses), path)
