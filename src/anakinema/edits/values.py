"""Edits of single values: each a label, a pure ``apply``, and a key by which a drag merges."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.flatten import flatten, inner_names
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, Source, changed, replaced


@dataclass(frozen=True)
class SetName(Keyed):
    """Name the document."""

    name: str
    label = "Rename document"

    def apply(self, document: Document) -> Document:
        return changed(document, name=self.name)


@dataclass(frozen=True)
class SetParameter(Keyed):
    """Give a parameter another value."""

    parameter: str
    value: Source
    subject = ("parameter",)

    @property
    def label(self) -> str:
        return f"Set {self.parameter}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.parameters, self.parameter)
        new = changed(old, value=self.value)
        return document.model_copy(update={"parameters": replaced(document.parameters, new)})


@dataclass(frozen=True)
class SetDimension(Keyed):
    """Give a dimension of a part another value; every body that uses the part follows."""

    part: str
    dimension: str
    value: Source
    subject = ("part", "dimension")

    @property
    def label(self) -> str:
        return f"Set {self.dimension} of {self.part.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        new = changed(model.next_by_id(part.dimensions, self.dimension), value=self.value)
        part = part.model_copy(update={"dimensions": replaced(part.dimensions, new)})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class SetPose(Keyed):
    """Place a body: one of x, y, angle of its start pose."""

    body: str
    axis: str
    value: Source
    subject = ("body", "axis")

    @property
    def label(self) -> str:
        return f"Place {self.body.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        body = document.body(self.body)
        new = body.model_copy(update={"pose": changed(body.pose, **{self.axis: self.value})})
        return document.model_copy(update={"bodies": replaced(document.bodies, new)})


@dataclass(frozen=True)
class SetHeight(Keyed):
    """Set a body's place in the stack."""

    body: str
    height: Source
    subject = ("body",)

    @property
    def label(self) -> str:
        return f"Set height of {self.body.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        new = changed(document.body(self.body), height=self.height)
        return document.model_copy(update={"bodies": replaced(document.bodies, new)})


@dataclass(frozen=True)
class SetLimit(Keyed):
    """Set or clear one limit of a joint: 'least', 'greatest' or 'rest'."""

    joint: str
    which: str
    value: Source | None
    subject = ("joint", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of {self.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        inner = inner_names(document, self.joint)
        if inner is not None:
            return self._set_in_use(document, *inner)
        joint = document.joint(self.joint)
        limits = changed(joint.limits, **{self.which: self.value})
        new = joint.model_copy(update={"limits": limits})
        return document.model_copy(update={"joints": replaced(document.joints, new)})

    def _set_in_use(self, document: Document, use: model.Instance, inner: str) -> Document:
        """One use gets limits of its own; the unit's other uses keep theirs."""
        old = next((s.limits for s in use.settings if s.joint == inner), None)
        if old is None:
            old = next(j for j in flatten(document).document.joints if j.id == self.joint).limits
        setting = model.JointSetting(joint=inner, limits=changed(old, **{self.which: self.value}))
        others = tuple(s for s in use.settings if s.joint != inner)
        new = use.model_copy(update={"settings": (*others, setting)})
        return document.model_copy(update={"instances": replaced(document.instances, new)})


@dataclass(frozen=True)
class SetCoupling(Keyed):
    """Set a size of a coupling (``first_size``, ``second_size``), or switch it ``off``."""

    coupling: str
    which: str
    value: Source | bool
    subject = ("coupling", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which.replace('_', ' ')} of coupling {self.coupling.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.couplings, self.coupling)
        couplings = replaced(document.couplings, changed(old, **{self.which: self.value}))
        return document.model_copy(update={"couplings": couplings})


@dataclass(frozen=True)
class SetContact(Keyed):
    """Set a field of a contact: its ``kind``, ``name``, ``rolling``, a side, or ``off``."""

    contact: str
    field: str
    value: object
    subject = ("contact", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of contact {self.contact.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.contacts, self.contact)
        contacts = replaced(document.contacts, changed(old, **{self.field: self.value}))
        return document.model_copy(update={"contacts": contacts})


@dataclass(frozen=True)
class SetBelt(Keyed):
    """Set ``name``, ``length``, ``thickness``, ``kind``, ``off`` or ``wheels`` of a loop."""

    belt: str
    field: str
    value: object
    subject = ("belt", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of {self.belt.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.belts, self.belt)
        belts = replaced(document.belts, changed(old, **{self.field: self.value}))
        return document.model_copy(update={"belts": belts})


@dataclass(frozen=True)
class SetBeltWheel(Keyed):
    """Set the ``radius`` of a wheel of a loop, or whether the loop's ``back`` runs over it."""

    belt: str
    index: int
    field: str
    value: Source | bool
    subject = ("belt", "index", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of wheel {self.index + 1} of {self.belt.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.belts, self.belt)
        wheels = list(old.wheels)
        wheels[self.index] = changed(wheels[self.index], **{self.field: self.value})
        belt = old.model_copy(update={"wheels": tuple(wheels)})
        return document.model_copy(update={"belts": replaced(document.belts, belt)})
