"""Edits of what the outlines of a part keep."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, Source, changed, replaced


def _with_relations(
    document: Document, part_id: str, relations: tuple[model.Relation, ...]
) -> Document:
    part = document.part(part_id).model_copy(update={"relations": relations})
    return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class AddRelation(Keyed):
    """One more thing that a part's outlines keep."""

    part: str
    relation: model.Relation
    subject = ()

    @property
    def label(self) -> str:
        return f"Keep {self.relation.kind}"

    def apply(self, document: Document) -> Document:
        kept = document.part(self.part).relations
        return _with_relations(document, self.part, (*kept, self.relation))


@dataclass(frozen=True)
class RemoveRelation(Keyed):
    """Something is no longer kept; raises `KeyError` if it is not there."""

    part: str
    index: int
    label = "Keep no longer"
    subject = ()

    def apply(self, document: Document) -> Document:
        kept = document.part(self.part).relations
        if not 0 <= self.index < len(kept):
            raise KeyError(self.index)
        return _with_relations(document, self.part, (*kept[: self.index], *kept[self.index + 1 :]))


@dataclass(frozen=True)
class SetRelation(Keyed):
    """Set the value that a relation states."""

    part: str
    index: int
    value: Source
    label = "Set what is kept"
    subject = ("part", "index")

    def apply(self, document: Document) -> Document:
        kept = document.part(self.part).relations
        if not 0 <= self.index < len(kept):
            raise KeyError(self.index)
        new = changed(kept[self.index], value=self.value)
        return _with_relations(
            document, self.part, (*kept[: self.index], new, *kept[self.index + 1 :])
        )


def renumbered(
    relations: tuple[model.Relation, ...],
    slab: str,
    hole: str | None,
    number: Callable[[model.Element], int | None],
) -> tuple[model.Relation, ...]:
    """Relations after an outline's corners were counted anew.

    ``number`` gives the new index of an element of that outline, None if it is gone: what speaks
    of it is then no longer kept.
    """
    out = []
    for relation in relations:
        elements = []
        for element in relation.of:
            if (element.slab, element.hole) != (slab, hole) or element.kind in ("place", "axis"):
                elements.append(element)
                continue
            index = number(element)
            if index is None:
                break
            elements.append(element.model_copy(update={"index": index}))
        else:
            out.append(relation.model_copy(update={"of": tuple(elements)}))
    return tuple(out)
