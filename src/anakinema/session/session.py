"""The open document, its history, its file and its newest results."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from anakinema.analysis.reach import Reach, reachable_range
from anakinema.document.model import Document
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit
from anakinema.edits.history import History
from anakinema.errors import AnakinemaError, AssemblyError
from anakinema.files.native import read_document, write_document, write_text
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.geometry.contour import Floats
from anakinema.record.report import report_json
from anakinema.record.table import motion_csv
from anakinema.session.autosave import Autosave


class Session:
    """One open document. Knows nothing of windows; computing is handed out as plain functions."""

    def __init__(self, folder: Path) -> None:
        self._autosave = Autosave(folder)
        self.path: Path | None = None
        self._history = History(Document())
        self._saved = self._history.document

    @property
    def document(self) -> Document:
        """The present document."""
        return self._history.document

    @property
    def is_changed(self) -> bool:
        """Whether there is unsaved work."""
        return self.document is not self._saved

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
        self.start(read_document(path), path)

    def start(self, document: Document, path: Path | None, *, saved: bool = True) -> None:
        """Begin anew with a document."""
        self._autosave.forget()
        self._history = History(document)
        self._saved = document if saved else Document()
        self.path = path
        if not saved:
            self._autosave.keep(document, path)

    def save(self, path: Path) -> None:
        """Save under a name; raises `FileFormatError` if it cannot be written."""
        write_document(self.document, path)
        self.path, self._saved = path, self.document
        self._autosave.forget()

    def close(self) -> None:
        """The user lets go of this document."""
        self._autosave.forget()

    def do(self, edit: Edit) -> None:
        """Apply an edit and keep it for recovery."""
        self._history.do(edit)
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

    def _keep(self) -> None:
        if self.is_changed:
            self._autosave.keep(self.document, self.path)
        else:
            self._autosave.forget()


@dataclass(frozen=True, eq=False)
class Drawn:
    """A sound document as it is drawn, before or without being assembled."""

    resolved: Resolved
    error: AssemblyError | None = None


def answers(
    document: Document, earlier: Evaluation | None, interrupt: Callable[[], None]
) -> Iterator[Evaluation | Drawn | AnakinemaError]:
    """A first look where there is an earlier answer, then the exact evaluation, or why not.

    Where bodies or joints come or go, how it is drawn is told first.
    """
    try:
        if earlier is None or not _alike(document, earlier.source):
            yield Drawn(resolve(document))
        else:
            look = first_look(document, earlier)
            if look is not None:
                yield look
        interrupt()
        yield evaluate(document, earlier=earlier, interrupt=interrupt)
    except AssemblyError as error:
        yield Drawn(resolve(document), error)
    except AnakinemaError as error:
        yield error


def _alike(one: Document, other: Document) -> bool:
    """Whether two documents have the same bodies, joints and uses, whatever their numbers."""
    return all(
        [item.id for item in a] == [item.id for item in b]
        for a, b in ((one.bodies, other.bodies), (one.joints, other.joints), (one.uses, other.uses))
    )


def driver_ranges(
    evaluation: Evaluation, progress: float, interrupt: Callable[[], None]
) -> list[Reach]:
    """Reachable range of every driver from the pose at a progress."""
    at = evaluation.motion.at(np.array([progress]))
    count = len(evaluation.resolved.program.joints)
    return [
        reachable_range(evaluation.mechanism, at.poses[0], at.values[0], driver, interrupt)
        for driver in range(count)
    ]


def poses_at(evaluation: Evaluation, progress: float) -> Floats:
    """(B, 3) exact pose at a progress."""
    return np.asarray(evaluation.motion.poses_at(np.array([progress]))[0])


def export_table(evaluation: Evaluation, path: Path) -> None:
    """Write the swept motion as CSV; raises `FileFormatError`."""
    write_text(motion_csv(evaluation), path)


def export_report(evaluation: Evaluation, path: Path) -> None:
    """Write the verdict as JSON; raises `FileFormatError`."""
    write_text(json.dumps(report_json(evaluation), indent=1, ensure_ascii=False) + "\n", path)
