"""Undo and redo: history keeps whole documents, which share all they do not change."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document.model import Document
from anakinema.edits.base import Edit


@dataclass(frozen=True, slots=True)
class _Step:
    label: str
    before: Document
    after: Document
    key: tuple[object, ...]


class History:
    """A document and the way it came to be. Undo gives back the very same object."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self._done: list[_Step] = []
        self._undone: list[_Step] = []
        self._open = False

    @property
    def document(self) -> Document:
        """The present document."""
        return self._document

    @property
    def undo_label(self) -> str | None:
        """What undo would take back, None if nothing."""
        return self._done[-1].label if self._done else None

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back, None if nothing."""
        return self._undone[-1].label if self._undone else None

    def do(self, edit: Edit) -> Document:
        """Apply an edit; joins the step before while a gesture on the same thing lasts."""
        after = edit.apply(self._document)
        if after == self._document:
            return self._document
        step = _Step(edit.label, self._document, after, edit.merge_key)
        if self._open and self._done and self._done[-1].key == step.key:
            step = _Step(step.label, self._done.pop().before, after, step.key)
        self._done.append(step)
        self._undone.clear()
        self._open = True
        self._document = after
        return after

    def finish_gesture(self) -> None:
        """The next edit is a step of its own."""
        self._open = False

    def cancel_gesture(self) -> Document:
        """Take back the gesture under way, as if it had never been."""
        if self._open and self._done:
            self._document = self._done.pop().before
        self._open = False
        return self._document

    def undo(self) -> Document:
        """Take back the last step, if any."""
        self._open = False
        if self._done:
            step = self._done.pop()
            self._undone.append(step)
            self._document = step.before
        return self._document

    def redo(self) -> Document:
        """Bring back the last step undone, if any."""
        self._open = False
        if self._undone:
            step = self._undone.pop()
            self._done.append(step)
            self._document = step.after
        return self._document
