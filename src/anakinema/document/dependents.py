"""What cannot be without something else: joints of a body, drivers and checks of a joint."""

from __future__ import annotations

from collections.abc import Set

from anakinema.document import model
from anakinema.document.flatten import JOINT, program_without


def dependents(document: model.Document, ids: Set[str]) -> frozenset[str]:
    """Ids of all bodies, uses, joints, drivers, requirements and measures that go with some.

    ``ids`` name bodies, uses, joints, drivers or requirements; they are part of the answer.
    """
    gone = set(ids)
    gone |= {
        joint.id
        for joint in document.joints
        if any(_belongs(side.body, gone) for side in (joint.first, joint.second))
    }
    gone |= {driver.id for driver in document.program.drivers if _belongs(driver.joint, gone)}
    for requirement in document.requirements:
        if isinstance(requirement, model.GapRequirement):
            names = [requirement.first, requirement.second]
        else:
            names = [requirement.joint]
        if any(name is not None and _belongs(name, gone) for name in names):
            gone.add(requirement.id)
    gone |= {
        measure.id
        for measure in document.measures
        if any(_belongs(side.body, gone) for side in (measure.first, measure.second))
    }
    return frozenset(gone)


def _belongs(name: str, gone: Set[str]) -> bool:
    """Whether a flat id is among those that go, or lies inside a use that goes."""
    return name in gone or name.partition(JOINT)[0] in gone


def without(document: model.Document, ids: Set[str]) -> model.Document:
    """The document without some things and all that depends on them. Unused parts stay."""
    gone = dependents(document, ids)
    return document.model_copy(
        update={
            "bodies": tuple(b for b in document.bodies if b.id not in gone),
            "joints": tuple(j for j in document.joints if j.id not in gone),
            "uses": tuple(u for u in document.uses if u.id not in gone),
            "requirements": tuple(r for r in document.requirements if r.id not in gone),
            "measures": tuple(m for m in document.measures if m.id not in gone),
            "program": program_without(document.program, gone),
        }
    )
