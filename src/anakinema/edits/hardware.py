"""Edits of what holds a pin joint together: bodies made for it, all at once."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.depending import Going, without
from anakinema.document.model import Document
from anakinema.edits.base import Keyed


@dataclass(frozen=True)
class PutHardware(Keyed):
    """A set of hardware with its parts, bodies and joints, in place of what it was."""

    hardware: model.Hardware
    parts: tuple[model.Part, ...]
    bodies: tuple[model.Body, ...]
    joints: tuple[model.Joint, ...]
    label = "Put hardware on a pin"

    @property
    def merge_key(self) -> tuple[object, ...]:
        return (type(self), self.hardware.id)

    def apply(self, document: Document) -> Document:
        kept = tuple(each for each in document.hardware if each.id != self.hardware.id)
        bare = taken_off(document, self.hardware.id)
        known = {part.id for part in bare.parts}
        new = tuple(part for part in self.parts if part.id not in known)
        return bare.model_copy(
            update={
                "parts": (*bare.parts, *new),
                "bodies": (*bare.bodies, *self.bodies),
                "joints": (*bare.joints, *self.joints),
                "hardware": (*kept, self.hardware),
            }
        )


@dataclass(frozen=True)
class RemoveHardware(Keyed):
    """Take a set off with all its bodies; raises `KeyError` if it is gone."""

    id: str
    subject = ("id",)
    label = "Take hardware off a pin"

    def apply(self, document: Document) -> Document:
        if all(each.id != self.id for each in document.hardware):
            raise KeyError(self.id)
        return taken_off(document, self.id)


def taken_off(document: Document, hardware_id: str) -> Document:
    """The document without a set, its bodies and joints, and parts that only it used."""
    sets = [each for each in document.hardware if each.id == hardware_id]
    if not sets:
        return document
    bodies = frozenset(sets[0].bodies)
    parts = {body.part for body in document.bodies if body.id in bodies}
    bare = without(document, Going(bodies=bodies))
    used = {body.part for body in bare.bodies} | {
        body.part for subassembly in bare.subassemblies for body in subassembly.bodies
    }
    kept = tuple(part for part in bare.parts if part.id in used or part.id not in parts)
    return bare.model_copy(update={"parts": kept})
