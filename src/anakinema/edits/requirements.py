"""Edits of what is asked: requirements come, change, change places."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, Source, changed, replaced


@dataclass(frozen=True)
class Ask(Keyed):
    """One more requirement, behind those there are."""

    requirement: model.Requirement
    subject = ("requirement",)

    @property
    def label(self) -> str:
        return f"Ask {self.requirement.title}"

    def apply(self, document: Document) -> Document:
        requirements = (*document.requirements, self.requirement)
        return document.model_copy(update={"requirements": requirements})


@dataclass(frozen=True)
class SetRequirement(Keyed):
    """Set or clear 'least', 'greatest', 'comfort', 'name' or 'off' of a requirement."""

    requirement: str
    which: str
    value: Source | bool | None
    subject = ("requirement", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of {self.requirement.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.requirements, self.requirement)
        requirements = replaced(document.requirements, changed(old, **{self.which: self.value}))
        return document.model_copy(update={"requirements": requirements})


@dataclass(frozen=True)
class ReplaceRequirement(Keyed):
    """Another question and other bounds in the place of a requirement of the same id."""

    requirement: model.Requirement
    subject = ("requirement",)

    @property
    def label(self) -> str:
        return f"Ask {self.requirement.title} otherwise"

    def apply(self, document: Document) -> Document:
        requirements = replaced(document.requirements, self.requirement)
        return document.model_copy(update={"requirements": requirements})


@dataclass(frozen=True)
class MoveRequirement(Keyed):
    """Bring a requirement so many places down the list, or up if below 0."""

    requirement: str
    by: int
    subject = ("requirement",)

    @property
    def label(self) -> str:
        return f"Move {self.requirement.replace('_', ' ')} {'down' if self.by > 0 else 'up'}"

    def apply(self, document: Document) -> Document:
        asked = list(document.requirements)
        item = model.next_by_id(document.requirements, self.requirement)
        at = asked.index(item)
        asked.remove(item)
        asked.insert(min(max(at + self.by, 0), len(asked)), item)
        return document.model_copy(update={"requirements": tuple(asked)})
