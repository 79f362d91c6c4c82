"""What cannot be without something else: joints of a body, drivers and checks of a joint.

Ids are unique only among things of one kind (a driver may be called like the body it turns), so
everything here is stated by kind.
"""

from __future__ import annotations

from collections.abc import Set
from dataclasses import dataclass
from typing import TypeVar

from anakinema.document import model
from anakinema.document.connections import Connection, connections_of
from anakinema.document.couplings import wheels_of
from anakinema.document.flatten import JOINT, program_without
from anakinema.document.references import bodies_named, joints_named

NONE: frozenset[str] = frozenset()
S = TypeVar("S", model.Side, model.Surface)


@dataclass(frozen=True, slots=True)
class Going:
    """Ids of things that go, by kind; ``bodies`` also holds uses of units."""

    bodies: frozenset[str] = NONE
    joints: frozenset[str] = NONE
    drivers: frozenset[str] = NONE
    requirements: frozenset[str] = NONE
    measures: frozenset[str] = NONE
    couplings: frozenset[str] = NONE
    contacts: frozenset[str] = NONE
    belts: frozenset[str] = NONE

    def titles(self, document: model.Document, chosen: Going) -> list[str]:
        """Names of all that goes besides what was chosen, for people."""
        out = [j.title for j in document.joints if j.id in self.joints - chosen.joints]
        drivers = self.drivers - chosen.drivers
        out += [f"driver {d.title}" for d in document.program.drivers if d.id in drivers]
        requirements = self.requirements - chosen.requirements
        out += [r.title for r in document.requirements if r.id in requirements]
        measures = self.measures - chosen.measures
        out += [m.title for m in document.measures if m.id in measures]
        couplings = self.couplings - chosen.couplings
        out += [c.title for c in document.couplings if c.id in couplings]
        contacts = self.contacts - chosen.contacts
        out += [c.title for c in document.contacts if c.id in contacts]
        belts = self.belts - chosen.belts
        return out + [each.title for each in document.belts if each.id in belts]


def dependents(document: model.Document, chosen: Going) -> Going:
    """What is chosen, and all that goes with it."""

    joints = chosen.joints | {
        j.id for j in document.joints if any(_belongs(b, chosen.bodies) for b in bodies_named(j))
    }

    def moved_by(joint: str) -> bool:
        # A joint inside a use goes with the use.
        inner = JOINT in joint and joint.partition(JOINT)[0] in chosen.bodies
        return joint in joints or inner

    def loses(node: model.Model) -> bool:
        return any(map(moved_by, joints_named(node))) or any(
            _belongs(body, chosen.bodies) for body in bodies_named(node)
        )

    requirements = {r.id for r in document.requirements if loses(r)}
    drivers = {d.id for d in document.program.drivers if loses(d)}
    measures = {m.id for m in document.measures if loses(m)}
    loose = connections_of(document).kept(loses)
    return Going(
        chosen.bodies,
        frozenset(joints),
        chosen.drivers | drivers,
        chosen.requirements | requirements,
        chosen.measures | measures,
        chosen.couplings | {connection.id for connection in loose.couplings},
        chosen.contacts | {connection.id for connection in loose.contacts},
        chosen.belts | {connection.id for connection in loose.belts},
    )


def _belongs(name: str, gone: Set[str]) -> bool:
    """Whether a flat body id is among those that go, or lies inside a use that goes."""
    return name in gone or name.partition(JOINT)[0] in gone


def without(document: model.Document, chosen: Going) -> model.Document:
    """The document without some things and all that depends on them. Unused parts stay."""
    gone = dependents(document, chosen)
    return document.model_copy(
        update={
            "bodies": tuple(b for b in document.bodies if b.id not in gone.bodies),
            "joints": tuple(j for j in document.joints if j.id not in gone.joints),
            "instances": tuple(u for u in document.instances if u.id not in gone.bodies),
            "requirements": tuple(
                r for r in document.requirements if r.id not in gone.requirements
            ),
            "measures": tuple(m for m in document.measures if m.id not in gone.measures),
            "couplings": tuple(c for c in document.couplings if c.id not in gone.couplings),
            "contacts": tuple(c for c in document.contacts if c.id not in gone.contacts),
            "belts": tuple(each for each in document.belts if each.id not in gone.belts),
            "program": program_without(document.program, gone.drivers),
            "hardware": tuple(
                each
                for each in document.hardware
                if not gone.bodies & set(each.bodies) and each.joint not in gone.joints
            ),
            "poses": tuple(_standing_without(pose, gone.bodies) for pose in document.poses),
            # A plane whose carrier goes stands where it lies in its numbers: nothing on it is lost.
            "planes": tuple(
                plane.model_copy(update={"on": None})
                if plane.on is not None and _belongs(plane.on, gone.bodies)
                else plane
                for plane in document.planes
            ),
        }
    )


def _standing_without(pose: model.KeptPose, gone: Set[str]) -> model.KeptPose:
    kept = tuple(each for each in pose.placements if not _belongs(each.body, gone))
    return pose if kept == pose.placements else pose.model_copy(update={"placements": kept})


def with_part(document: model.Document, part: model.Part) -> model.Document:
    """The document with a definition replaced; raises `KeyError` if there is none of its id.

    Joints, couplings and contacts of its uses, in units too, no longer name pieces of outline that
    it has not.
    """
    document.part(part.id)
    known = {(slab.id, hole) for slab in part.slabs for hole in (None, *(h.id for h in slab.holes))}

    def kept(pieces: tuple[model.OutlinePiece, ...]) -> tuple[model.OutlinePiece, ...]:
        return tuple(p for p in pieces if (p.slab, p.hole) in known)

    def side(old: S, instances: set[str]) -> S:
        return old.model_copy(update={"pieces": kept(old.pieces)}) if old.body in instances else old

    def fields(holder: model.Document | model.Subassembly) -> dict[str, object]:
        instances = {body.id for body in holder.bodies if body.part == part.id}

        def connection(old: Connection) -> Connection:
            if isinstance(old, model.Contact):
                second = None if old.second is None else side(old.second, instances)
                return old.model_copy(
                    update={"first": side(old.first, instances), "second": second}
                )
            if isinstance(old, model.Coupling) and own.issuperset(joints_named(old)):
                wheels = wheels_of(holder.bodies, holder.joints, old)
                stated = zip(("first_pieces", "second_pieces"), wheels, strict=True)
                update = {
                    name: kept(getattr(old, name)) for name, body in stated if body in instances
                }
                return old.model_copy(update=update)
            return old

        own = {joint.id for joint in holder.joints}
        joints = tuple(
            joint.model_copy(
                update={
                    "first": side(joint.first, instances),
                    "second": side(joint.second, instances),
                }
            )
            for joint in holder.joints
        )
        return {"joints": joints, **connections_of(holder).changed(connection).fields}

    return document.model_copy(
        update={
            "parts": tuple(part if old.id == part.id else old for old in document.parts),
            "subassemblies": tuple(
                unit.model_copy(update=fields(unit)) for unit in document.subassemblies
            ),
            **fields(document),
        }
    )
