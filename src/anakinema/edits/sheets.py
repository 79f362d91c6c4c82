"""Edits of what drawings on paper say."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, changed


@dataclass(frozen=True)
class SetSheets(Keyed):
    """Set a field of the sheets' settings: 'paper', 'projection', 'revision', 'date', 'drawn_by',
    'pose', 'added' or 'issued'."""

    which: str
    value: object
    subject = ("which",)

    @property
    def label(self) -> str:
        return f"Set {self.which.replace('_', ' ')} of the sheets"

    def apply(self, document: Document) -> Document:
        return _with(document, **{self.which: self.value})


@dataclass(frozen=True)
class SetSheetDimension(Keyed):
    """Move a dimension on its sheet, or hide it; where it stands by itself it is left to that."""

    dimension: model.SheetDimension

    @property
    def label(self) -> str:
        return "Hide a dimension" if self.dimension.hidden else "Move a dimension"

    @property
    def merge_key(self) -> tuple[object, ...]:
        return (type(self), self.dimension.key)

    def apply(self, document: Document) -> Document:
        new = self.dimension
        kept = tuple(each for each in document.sheets.dimensions if each.key != new.key)
        if new.hidden or new.away:
            kept = (*kept, new)
        return _with(document, dimensions=kept)


def _with(document: Document, **values: object) -> Document:
    return document.model_copy(update={"sheets": changed(document.sheets, **values)})
