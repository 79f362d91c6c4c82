"""Edits of parts and parameters: they come, change, and go."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.depending import with_part
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, changed, replaced


@dataclass(frozen=True)
class RemovePart(Keyed):
    """Take an unused part off the shelf of the document; raises `KeyError` while it is used."""

    part: str
    label = "Delete part"
    subject = ("part",)

    def apply(self, document: Document) -> Document:
        bodies = [*document.bodies, *(b for unit in document.subassemblies for b in unit.bodies)]
        if any(body.part == self.part for body in bodies):
            raise KeyError(self.part)
        parts = tuple(part for part in document.parts if part.id != self.part)
        return document.model_copy(update={"parts": parts})


@dataclass(frozen=True)
class SetPart(Keyed):
    """Set a field of a part: 'name', 'colour', 'note' or 'material'."""

    part: str
    field: str
    value: object
    subject = ("part", "field")

    @property
    def label(self) -> str:
        verb = "Rename" if self.field == "name" else f"Set {self.field} of"
        return f"{verb} {self.part.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        part = changed(document.part(self.part), **{self.field: self.value})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class ReplacePart(Keyed):
    """Put a changed definition in the place of the one with its id; all uses follow.

    Joints no longer name pieces of outline that it has not.
    """

    part: model.Part
    label: str = "Change part"
    subject = ("label",)

    def apply(self, document: Document) -> Document:
        return with_part(document, self.part)


@dataclass(frozen=True)
class AddPlaces(Keyed):
    """Mark places on a part, for joints and measures; those it has already are kept."""

    part: str
    places: tuple[model.Place, ...]
    label = "Mark place"
    subject = ("part",)

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        known = {place.id for place in part.places}
        new = tuple(place for place in self.places if place.id not in known)
        if not new:
            return document
        part = part.model_copy(update={"places": (*part.places, *new)})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class SplitPart(Keyed):
    """Make a body's part its own: a copy that its other uses do not follow."""

    body: str
    new: str
    subject = ("body",)

    @property
    def label(self) -> str:
        return f"Make {self.body.replace('_', ' ')} its own"

    def apply(self, document: Document) -> Document:
        body = document.body(self.body)
        part = document.part(body.part)
        copy = part.model_copy(update={"id": self.new, "name": f"{part.title} ({body.title})"})
        document = document.model_copy(update={"parts": (*document.parts, copy)})
        body = body.model_copy(update={"part": self.new})
        return document.model_copy(update={"bodies": replaced(document.bodies, body)})


@dataclass(frozen=True)
class AddParameter(Keyed):
    """A new named quantity; raises `KeyError` if the name is taken."""

    parameter: model.Parameter
    subject = ()

    @property
    def label(self) -> str:
        return f"Add {self.parameter.id}"

    def apply(self, document: Document) -> Document:
        if any(p.id == self.parameter.id for p in document.parameters):
            raise KeyError(self.parameter.id)
        return document.model_copy(update={"parameters": (*document.parameters, self.parameter)})


@dataclass(frozen=True)
class RemoveParameter(Keyed):
    """Take a named quantity out; expressions that use it then say so."""

    parameter: str
    subject = ("parameter",)

    @property
    def label(self) -> str:
        return f"Delete {self.parameter}"

    def apply(self, document: Document) -> Document:
        model.next_by_id(document.parameters, self.parameter)
        kept = tuple(p for p in document.parameters if p.id != self.parameter)
        return document.model_copy(update={"parameters": kept})
