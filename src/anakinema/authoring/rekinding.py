"""A joint becomes another kind: what fits stays, what does not is named."""

from __future__ import annotations

from anakinema.authoring.jointing import curves_on, title_of
from anakinema.authoring.touching import fits
from anakinema.document import model
from anakinema.document.depending import Going
from anakinema.document.kinds import spec_of
from anakinema.document.references import joints_named
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, changed
from anakinema.edits.structure import Remove, SetJoint
from anakinema.errors import ValueOutOfRangeError
from anakinema.units import LENGTH


def rekinded(resolved: Resolved, joint_id: str, kind: str) -> tuple[Edit, tuple[str, ...]]:
    """The edit that makes a joint another kind, and titles of what then no longer fits it.

    Limits, driver and requirements stay; those that no longer fit are only named, except a
    driver on a rigid joint, which cannot be.
    """
    document = resolved.document
    joint = document.joint(joint_id)
    sides = []
    for side in (joint.first, joint.second):
        solid = resolved.part_of(document.body(side.body))
        sides.append((solid, *solid.places[side.place]))
    chosen = changed(joint, kind=kind)
    found = fits(chosen.kind, sides[0], sides[1])
    edits: list[Edit] = [
        SetJoint(joint_id, "kind", kind),
        SetJoint(
            joint_id,
            "first",
            joint.first.model_copy(
                update={"pieces": tuple(dict.fromkeys(fit.first.piece for fit in found))}
            ),
        ),
        SetJoint(
            joint_id,
            "second",
            joint.second.model_copy(
                update={"pieces": tuple(dict.fromkeys(fit.second.piece for fit in found))}
            ),
        ),
    ]
    if spec_of(chosen.kind).has_radius and joint.radius is None:
        edits.append(SetJoint(joint_id, "radius", 40.0 / resolved.units.factor(LENGTH)))
    if spec_of(chosen.kind).is_rod and joint.length is None:
        edits.append(SetJoint(joint_id, "length", 40.0 / resolved.units.factor(LENGTH)))
    if spec_of(chosen.kind).has_curve and joint.curve is None:
        known = curves_on(resolved, joint.first.body)
        if not known:
            raise ValueOutOfRangeError(
                "it has no curve to follow.",
                where=f"body '{title_of(resolved, joint.first.body)}'",
                remedy="Give its part a curved slot or a cam first.",
            )
        edits.append(SetJoint(joint_id, "curve", known[0]))
    misfits: list[str] = []
    drivers = [d for d in document.program.drivers if d.joint == joint_id]
    if not spec_of(chosen.kind).moves and drivers:
        edits.append(Remove(Going(drivers=frozenset(d.id for d in drivers))))
        misfits += [f"driver {d.title}" for d in drivers]
    if spec_of(chosen.kind).is_angular != spec_of(joint.kind).is_angular:
        edits.append(SetJoint(joint_id, "limits", model.Limits()))
        if joint.limits != model.Limits():
            misfits.append("its limits")
        edits.append(SetJoint(joint_id, "zero", 0.0))
        if spec_of(chosen.kind).moves and drivers:
            edits.append(Remove(Going(drivers=frozenset(d.id for d in drivers))))
            misfits += [f"driver {d.title}" for d in drivers]
        asked = {r.id: r.title for r in document.requirements if joint_id in joints_named(r)}
        if asked:
            edits.append(Remove(Going(requirements=frozenset(asked))))
            misfits += list(asked.values())
    return Together(f"Make it {kind.replace('_', ' ')}", tuple(edits)), tuple(misfits)
