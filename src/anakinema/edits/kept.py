"""Edits of what a document keeps for its designer: trials and poses."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeVar

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, changed, replaced

Kept = model.Trial | model.KeptPose
Where = Literal["trials", "poses"]
K = TypeVar("K", bound=Kept)


@dataclass(frozen=True)
class Keep(Keyed):
    """One more of them."""

    item: Kept
    subject = ("item",)

    @property
    def label(self) -> str:
        return f"Keep {self.item.title}"

    def apply(self, document: Document) -> Document:
        if isinstance(self.item, model.Trial):
            return document.model_copy(update={"trials": (*document.trials, self.item)})
        return document.model_copy(update={"poses": (*document.poses, self.item)})


@dataclass(frozen=True)
class SetKept(Keyed):
    """Set a field of one: 'name', of a trial 'decision' or 'reason', of a pose 'ghost'."""

    where: Where
    id: str
    which: str
    value: object
    subject = ("where", "id", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of {self.id.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        new = {self.which: self.value}
        if self.where == "trials":
            return document.model_copy(update={"trials": _set(document.trials, self.id, new)})
        return document.model_copy(update={"poses": _set(document.poses, self.id, new)})


@dataclass(frozen=True)
class RemoveKept(Keyed):
    """Keep one no more."""

    where: Where
    id: str
    subject = ("where", "id")

    @property
    def label(self) -> str:
        return f"Delete {self.id.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        kept = tuple(each for each in getattr(document, self.where) if each.id != self.id)
        return document.model_copy(update={self.where: kept})


def _set(items: tuple[K, ...], which: str, new: dict[str, object]) -> tuple[K, ...]:
    return replaced(items, changed(model.next_by_id(items, which), **new))
