"""Undo and redo: history keeps whole documents, which share all they do not change."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document.model import Document
from anakinema.edits.admit import admitted
from anakinema.edits.base import Edit


@dataclass(frozen=True, slots=True, eq=False)
class Step:
    """One step that undo takes back: from one document to the next."""

    label: str
    before: Document
    after: Document
    key: tuple[object, ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class Past:
    """All that a history knows at a moment: the document, steps done and undone, newest last."""

    document: Document
    done: tuple[Step, ...] = ()
    undone: tuple[Step, ...] = ()

    @property
    def steps(self) -> tuple[Step, ...]:
        """All steps in the order they were made, done and undone."""
        return (*self.done, *reversed(self.undone))

    @property
    def documents(self) -> tuple[Document, ...]:
        """The document before all steps, and after each."""
        steps = self.steps
        return (steps[0].before if steps else self.document, *(step.after for step in steps))


class History:
    """A document and the way it came to be. Undo gives back the very same object."""

    def __init__(self, past: Document | Past) -> None:
        if isinstance(past, Document):
            past = Past(past)
        self._document = past.document
        self._done = list(past.done)
        self._undone = list(past.undone)
        self._open = False

    @property
    def document(self) -> Document:
        """The present document."""
        return self._document

    @property
    def past(self) -> Past:
        """The present moment, to be kept."""
        return Past(self._document, tuple(self._done), tuple(self._undone))

    @property
    def undo_label(self) -> str | None:
        """What undo would take back, None if nothing."""
        return self._done[-1].label if self._done else None

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back, None if nothing."""
        return self._undone[-1].label if self._undone else None

    def do(self, edit: Edit) -> Document:
        """Apply an edit; joins the step before while a gesture on the same thing lasts.

        Raises `EditRefusedError`, and nothing is changed, if what it is about is gone or the
        document would be one that cannot be read again.
        """
        after = admitted(self._document, edit)
        if after == self._document:
            return self._document
        step = Step(edit.label, self._document, after, edit.merge_key)
        if self._open and self._done and self._done[-1].key == step.key:
            step = Step(step.label, self._done.pop().before, after, step.key)
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
