"""Names of a document: every id unique, every reference to something that exists."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from anakinema.document import model
from anakinema.document.connections import connections_of
from anakinema.document.contact_kinds import contact_spec
from anakinema.document.couplings import wheels_of
from anakinema.document.kinds import spec_of
from anakinema.document.measured import check_measure, check_requirement, sides_of
from anakinema.document.planes import across
from anakinema.document.references import bodies_named, joints_named
from anakinema.errors import MissingNameError, ValueOutOfRangeError
from anakinema.units import UNITS


def check_unique(ids: Iterable[str], where: str) -> None:
    """Refuse an id that is used twice at a place."""
    seen: set[str] = set()
    for name in ids:
        if name in seen:
            raise ValueOutOfRangeError(
                f"the id '{name}' is used twice.", where=where, remedy="Rename one of the two."
            )
        seen.add(name)


def check_ids(document: model.Document) -> None:
    """All ids of a document are unique, and no parameter is called like a unit."""
    check_unique((p.id for p in document.parameters), "parameters")
    for parameter in document.parameters:
        if parameter.id in UNITS:
            raise ValueOutOfRangeError(
                f"'{parameter.id}' is a unit.", where="parameters", remedy="Choose another name."
            )
    check_unique((p.id for p in document.planes), "planes")
    check_unique((p.id for p in document.parts), "parts")
    bodies = [b.id for b in document.bodies] + [u.id for u in document.instances]
    check_unique(bodies, "bodies and instances of subassemblies")
    check_unique((j.id for j in document.joints), "joints")
    check_unique((d.id for d in document.program.drivers), "drivers")
    check_unique((r.id for r in document.requirements), "requirements")
    check_unique((m.id for m in document.measures), "measures")
    check_unique((t.id for t in document.trials), "trials")
    check_unique((p.id for p in document.poses), "poses")
    check_unique((h.id for h in document.hardware), "hardware")
    check_unique((h.joint for h in document.hardware), "joints that hardware is on")
    check_unique((p.id for p in document.pictures), "pictures")
    _check_connections(document, "")
    check_unique((u.id for u in document.subassemblies), "units")
    for unit in document.subassemblies:
        where = f"subassembly '{unit.title}'"
        check_unique((b.id for b in unit.bodies), f"{where}, bodies")
        check_unique((j.id for j in unit.joints), f"{where}, joints")
        check_unique((u.id for u in unit.instances), f"{where}, instances")
        _check_connections(unit, f"{where}, ")
    for part in document.parts:
        where = f"part '{part.title}'"
        check_unique((d.id for d in part.dimensions), f"{where}, dimensions")
        check_unique((p.id for p in part.places), f"{where}, places")
        check_unique((s.id for s in part.slabs), f"{where}, slabs")
        cams = [f"{c.id}{end}" for c in part.cams for end in ("", "_path")]
        slots = [h.id for s in part.slabs for h in s.holes if h.outline.shape == "slot_along"]
        check_unique((*(c.id for c in part.curves), *cams, *slots), f"{where}, curves")
        for slab in part.slabs:
            check_unique((h.id for h in slab.holes), f"{where}, slab '{slab.id}', holes")


def _check_connections(holder: model.Document | model.Subassembly, where: str) -> None:
    for kind, connections in connections_of(holder).fields.items():
        check_unique((connection.id for connection in connections), f"{where}{kind}")


def missing(what: str, where: str, known: Iterable[str]) -> MissingNameError:
    """The error for a name that does not exist, with those that do."""
    names = ", ".join(sorted(known)[:12]) or "none"
    return MissingNameError(f"there is no {what}.", where=where, remedy=f"Known are: {names}.")


IN_SPACE = frozenset(("gap", "distance", "angle", "path", "place_rate"))
"""Kinds of measures between bodies of different planes."""


def lost_in(
    document: model.Document, asked: Iterable[model.Requirement | model.KeptMeasure]
) -> dict[str, str]:
    """Ids of those that name what is not there, and why in words.

    They are no reason not to open a file: they cannot be judged.
    """
    parts = {part.id: part for part in document.parts}
    bodies = {body.id: body for body in document.bodies}
    joints = {joint.id: joint for joint in document.joints}
    found = {}
    for each in asked:
        try:
            _check_named(each, bodies, joints, each.title)
            _check_measured(each.measure, bodies, joints, parts, each.title)
            apart = len(document.planes) > 1 and each.measure.kind not in IN_SPACE
            if apart and across(document, _bodies_of(each.measure, joints)):
                raise MissingNameError(
                    "its bodies lie on different planes, between which nothing is measured yet.",
                    where=each.title,
                    remedy="Ask it of bodies of one plane.",
                )
        except MissingNameError as error:
            found[each.id] = f"{error.what.rstrip('.')}; {error.remedy}"
    return found


def _bodies_of(measure: model.Measure, joints: Mapping[str, model.Joint]) -> list[str]:
    """Bodies between which something is measured."""
    named = [*bodies_named(measure)]
    return named + [side.body for side in sides_of(measure, joints)]


def check_references(document: model.Document) -> None:
    """Everything that is named exists and fits; raises an error that names the place.

    What is asked of something that is gone is left out before (`lost_in`).
    """
    parts = {part.id: part for part in document.parts}
    bodies = {body.id: body for body in document.bodies}
    joints = {joint.id: joint for joint in document.joints}
    for body in document.bodies:
        if body.part not in parts:
            raise missing(f"part '{body.part}'", f"body '{body.title}'", parts)
        planes = {plane.id for plane in document.planes}
        if body.plane not in planes:
            raise missing(f"plane '{body.plane}'", f"body '{body.title}'", planes)
    for joint in document.joints:
        where = f"joint '{joint.title}'"
        if joint.first.body == joint.second.body:
            raise ValueOutOfRangeError(
                "both sides are on the same body.", where=where, remedy="Choose another body."
            )
        for side in (joint.first, joint.second):
            _check_side(side, bodies, parts, where)
        if not spec_of(joint.kind).is_rod:
            _check_one_plane(joint, document, where)
    driven: set[str] = set()
    for driver in document.program.drivers:
        where = f"driver '{driver.title}'"
        _check_named(driver, bodies, joints, where)
        if not spec_of(joints[driver.joint].kind).moves:
            raise ValueOutOfRangeError(
                "a rigid joint cannot be driven.", where=where, remedy="Drive another joint."
            )
        if driver.joint in driven:
            raise ValueOutOfRangeError(
                f"joint '{joints[driver.joint].title}' has two drivers.",
                where=where,
                remedy="Remove one of them.",
            )
        driven.add(driver.joint)
    for coupling in document.couplings:
        _check_coupling(coupling, joints, bodies, parts)
    for belt in document.belts:
        where = f"belt '{belt.title}'"
        _check_named(belt, bodies, joints, where)
        _check_one_plane(tuple(joints[name] for name in joints_named(belt)), document, where)
    for contact in document.contacts:
        _check_contact(contact, bodies, joints, parts)
        _check_one_plane(contact, document, f"contact '{contact.title}'")
    for requirement in document.requirements:
        check_requirement(requirement, joints, f"requirement '{requirement.title}'")
    for kept in document.measures:
        check_measure(kept.measure, joints, f"measure '{kept.title}'")


def _check_one_plane(node: object, document: model.Document, where: str) -> None:
    """Bodies that a joint, belt or contact names move in one plane."""
    if len(document.planes) > 1 and across(document, list(bodies_named(node))):
        raise ValueOutOfRangeError(
            "its bodies lie on different planes.",
            where=where,
            remedy="Take bodies of one plane, move one to the other's plane, or couple two joints.",
        )


def _check_named(
    node: model.Model,
    bodies: Mapping[str, model.Body],
    joints: Mapping[str, model.Joint],
    where: str,
) -> None:
    """All bodies and joints that a piece of the document names are there."""
    for name in bodies_named(node):
        if name not in bodies:
            raise missing(f"body '{name}'", where, bodies)
    for name in joints_named(node):
        if name not in joints:
            raise missing(f"joint '{name}'", where, joints)


def _check_measured(
    measure: model.Measure,
    bodies: Mapping[str, model.Body],
    joints: Mapping[str, model.Joint],
    parts: Mapping[str, model.Part],
    where: str,
) -> None:
    _check_named(measure, bodies, joints, where)
    for side in sides_of(measure, joints):
        _check_side(side, bodies, parts, where)


def _check_contact(
    contact: model.Contact,
    bodies: Mapping[str, model.Body],
    joints: Mapping[str, model.Joint],
    parts: Mapping[str, model.Part],
) -> None:
    where = f"contact '{contact.title}'"
    _check_named(contact, bodies, joints, where)
    for surface in (contact.first, contact.second):
        if surface is not None:
            for piece in surface.pieces:
                _check_piece(piece, parts[bodies[surface.body].part], where)
    if contact.second is not None and contact.first.body == contact.second.body:
        raise ValueOutOfRangeError(
            "both sides are the same body.", where=where, remedy="Choose another body."
        )
    if contact_spec(contact.kind).keeps and contact.second is None:
        raise ValueOutOfRangeError(
            "contact can be kept only with one other body.",
            where=where,
            remedy="Name the second body.",
        )


def _check_coupling(
    coupling: model.Coupling,
    joints: Mapping[str, model.Joint],
    bodies: Mapping[str, model.Body],
    parts: Mapping[str, model.Part],
) -> None:
    where = f"coupling '{coupling.title}'"
    _check_named(coupling, bodies, joints, where)
    if coupling.first == coupling.second:
        raise ValueOutOfRangeError(
            "both of its joints are one.", where=where, remedy="Choose another joint."
        )
    wheels = wheels_of(bodies.values(), joints.values(), coupling)
    for name, pieces in ((wheels[0], coupling.first_pieces), (wheels[1], coupling.second_pieces)):
        for piece in pieces:
            _check_piece(piece, parts[bodies[name].part], where)


def _check_side(
    side: model.Side, bodies: Mapping[str, model.Body], parts: Mapping[str, model.Part], where: str
) -> None:
    if side.body not in bodies:
        raise missing(f"body '{side.body}'", where, bodies)
    made_of = bodies[side.body].part
    if made_of not in parts:
        raise missing(f"part '{made_of}' for body '{side.body}'", where, parts)
    part = parts[made_of]
    if side.place not in {p.id for p in part.places}:
        raise missing(f"place '{side.place}' on '{part.title}'", where, (p.id for p in part.places))
    for piece in side.pieces:
        _check_piece(piece, part, where)


def _check_piece(piece: model.OutlinePiece, part: model.Part, where: str) -> None:
    slabs = {slab.id: slab for slab in part.slabs}
    if piece.slab not in slabs:
        raise missing(f"slab '{piece.slab}' on '{part.title}'", where, slabs)
    holes = {hole.id for hole in slabs[piece.slab].holes}
    if piece.hole is not None and piece.hole not in holes:
        raise missing(f"hole '{piece.hole}' in slab '{piece.slab}'", where, holes)
