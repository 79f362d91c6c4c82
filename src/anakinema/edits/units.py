"""Edits of units: bodies become a unit, a unit is used again, taken apart, or renewed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from anakinema.document import model
from anakinema.document.flatten import JOINT, flatten
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, Source, replaced


@dataclass(frozen=True)
class MakeUnit(Keyed):
    """Bodies with the joints between them become a unit, and one use of it in their place.

    ``heights`` are theirs in the stack, in document units. What names one of them, or a joint
    between them, names it inside the use from then on.
    """

    bodies: tuple[str, ...]
    unit: str
    use: str
    heights: Mapping[str, float] = field(default_factory=dict, hash=False)
    subject = ("unit",)

    @property
    def label(self) -> str:
        return f"Make a unit of {len(self.bodies)} bodies"

    def apply(self, document: Document) -> Document:
        chosen = set(self.bodies)
        bodies = tuple(
            body.model_copy(update={"height": self.heights.get(body.id, body.height)})
            for body in document.bodies
            if body.id in chosen
        )
        if len(bodies) != len(chosen):
            raise KeyError(", ".join(sorted(chosen)))
        inner = [
            joint
            for joint in document.joints
            if joint.first.body in chosen and joint.second.body in chosen
        ]
        unit = model.Unit(
            id=self.unit,
            bodies=bodies,
            joints=tuple(joint.model_copy(update={"rise": None}) for joint in inner),
        )
        use = model.UnitUse(id=self.use, unit=self.unit)
        names = {name: f"{self.use}{JOINT}{name}" for name in chosen}
        joints = {joint.id: f"{self.use}{JOINT}{joint.id}" for joint in inner}
        kept = document.model_copy(
            update={
                "bodies": tuple(body for body in document.bodies if body.id not in chosen),
                "joints": tuple(joint for joint in document.joints if joint.id not in joints),
                "subassemblies": (*document.subassemblies, unit),
                "uses": (*document.uses, use),
            }
        )
        return _renamed(kept, names, joints)


@dataclass(frozen=True)
class Dissolve(Keyed):
    """A use becomes plain bodies and joints again; the unit stays for its other uses."""

    use: str
    subject = ("use",)

    @property
    def label(self) -> str:
        return f"Take {self.use.replace('_', ' ')} apart"

    def apply(self, document: Document) -> Document:
        use = model.next_by_id(document.uses, self.use)
        alone = document.model_copy(
            update={"bodies": (), "joints": (), "uses": (use.model_copy(update={"off": False}),),
                    "requirements": (), "measures": (), "program": model.Program()}
        )  # fmt: skip
        flat = flatten(alone)
        prefix = f"{self.use}{JOINT}"
        names = {b.id: f"{self.use}_{b.id.removeprefix(prefix)}".replace(JOINT, "_")
                 for b in flat.document.bodies}  # fmt: skip
        joints = {j.id: f"{self.use}_{j.id.removeprefix(prefix)}".replace(JOINT, "_")
                  for j in flat.document.joints}  # fmt: skip
        if any(flat.carriers[body] for body in names):
            raise KeyError("its bodies have not been placed yet")
        bodies = tuple(b.model_copy(update={"id": names[b.id]}) for b in flat.document.bodies)
        moved = tuple(
            j.model_copy(
                update={
                    "id": joints[j.id],
                    "first": j.first.model_copy(update={"body": names[j.first.body]}),
                    "second": j.second.model_copy(update={"body": names[j.second.body]}),
                }
            )
            for j in flat.document.joints
        )
        document = _renamed(document, names, joints)
        return document.model_copy(
            update={
                "bodies": (*document.bodies, *bodies),
                "joints": (*document.joints, *moved),
                "uses": tuple(u for u in document.uses if u.id != self.use),
            }
        )


@dataclass(frozen=True)
class SetUse(Keyed):
    """Set a field of a use: 'name', 'pose', 'height', 'off' or 'unit'."""

    use: str
    field: str
    value: object
    subject = ("use", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of {self.use.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.uses, self.use)
        current = {name: getattr(old, name) for name in type(old).model_fields}
        new = type(old).model_validate({**current, self.field: self.value})
        return document.model_copy(update={"uses": replaced(document.uses, new)})


@dataclass(frozen=True)
class SetUnit(Keyed):
    """Rename a unit, or set its note or origin; all uses follow."""

    unit: str
    field: str
    value: Source
    subject = ("unit", "field")

    @property
    def label(self) -> str:
        return f"Set {self.field} of unit {self.unit.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.subassemblies, self.unit)
        new = old.model_copy(update={self.field: self.value})
        return document.model_copy(update={"subassemblies": replaced(document.subassemblies, new)})


def _renamed(document: Document, bodies: Mapping[str, str], joints: Mapping[str, str]) -> Document:
    """The document with bodies and joints called otherwise wherever they are named."""

    def side(old: model.Side) -> model.Side:
        return old.model_copy(update={"body": bodies.get(old.body, old.body)})

    def requirement(old: model.Requirement) -> model.Requirement:
        if isinstance(old, model.GapRequirement):
            first, second = old.first or "", old.second or ""
            return old.model_copy(
                update={"first": bodies.get(first, old.first),
                        "second": bodies.get(second, old.second)}
            )  # fmt: skip
        return old.model_copy(update={"joint": joints.get(old.joint, old.joint)})

    drivers = tuple(
        driver.model_copy(update={"joint": joints.get(driver.joint, driver.joint)})
        for driver in document.program.drivers
    )
    return document.model_copy(
        update={
            "joints": tuple(
                joint.model_copy(update={"first": side(joint.first), "second": side(joint.second)})
                for joint in document.joints
            ),
            "program": document.program.model_copy(update={"drivers": drivers}),
            "requirements": tuple(requirement(r) for r in document.requirements),
            "measures": tuple(
                measure.model_copy(
                    update={"first": side(measure.first), "second": side(measure.second)}
                )
                for measure in document.measures
            ),
        }
    )
