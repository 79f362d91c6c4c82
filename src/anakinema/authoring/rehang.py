"""Joints find another body: those of a body that goes, or many bodies made one piece."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from anakinema.authoring.snap_points import PlacedSnap, placed_snap, snaps_of
from anakinema.document import model
from anakinema.document.depending import Going
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import POSE_DIGITS, Add, Remove, SetJoint
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import within
from anakinema.units import ANGLE, LENGTH

SAME = 1e-6
"""mm; places nearer than this are one."""


def hangers(
    resolved: Resolved, poses: Floats, going: frozenset[str]
) -> dict[str, tuple[PlacedSnap, ...]]:
    """For every joint with one side on bodies that go: places of others at the same point.

    Only places with the same direction for joints that have one. By joint id.
    """
    document = resolved.document
    out: dict[str, tuple[PlacedSnap, ...]] = {}
    for joint in document.joints:
        sides = (joint.first.body in going, joint.second.body in going)
        if sides[0] == sides[1]:
            continue
        gone, kept = (joint.first, joint.second) if sides[0] else (joint.second, joint.first)
        here = placed_snap(resolved, poses, gone.body, gone.place)
        directed = spec_of(joint.kind).is_directed
        found = []
        for body in document.bodies:
            if body.id in going or body.id == kept.body:
                continue
            for snap in snaps_of(resolved, document.part(body.part)):
                at = placed_snap(resolved, poses, body.id, snap.place.id)
                turn = (at.angle - here.angle + math.pi) % (2 * math.pi) - math.pi
                near = math.hypot(at.x - here.x, at.y - here.y) < SAME
                if near and (not directed or abs(turn) < SAME):
                    found.append(at)
        out[joint.id] = tuple(found)
    return out


def removed(
    resolved: Resolved, going: frozenset[str], hung: Mapping[str, PlacedSnap], label: str = "Delete"
) -> Edit:
    """Bodies go; some of their joints are hung on other bodies first."""
    edits: list[Edit] = []
    document = resolved.document
    for joint_id, snap in hung.items():
        joint = document.joint(joint_id)
        name = "first" if joint.first.body in going else "second"
        if not snap.snap.known:
            edits.append(AddPlaces(document.body(snap.body).part, (snap.snap.place,)))
        side = model.Side(body=snap.body, place=snap.snap.place.id)
        edits.append(SetJoint(joint_id, name, side))
        edits.append(SetJoint(joint_id, "rise", None))
    return Together(label, (*edits, Remove(Going(bodies=going), label)))


def one_piece(resolved: Resolved, poses: Floats, bodies: Sequence[str]) -> Edit:
    """The edit that makes bodies one piece, as they stand: each rigid on the first.

    Raises `ValueOutOfRangeError` for fewer than two bodies.
    """
    if len(bodies) < 2:
        raise ValueOutOfRangeError(
            "one piece is made of two bodies or more.",
            where="one piece",
            remedy="Select them first: Shift-drag a box, or Ctrl-click.",
        )
    document, units = resolved.document, resolved.units
    index = {body.id: i for i, body in enumerate(document.bodies)}
    ids = {joint.id for joint in resolved.source.joints}
    places = {part.id: {place.id for place in part.places} for part in resolved.source.parts}
    edits: list[Edit] = []
    joints: list[model.Joint] = []

    def mark(body_id: str, x: float, y: float, angle: float) -> str:
        """A new place on a body at a point of the plane."""
        turn = float(poses[index[body_id], 2])
        part = document.body(body_id).part
        name = fresh_id("piece", places[part])
        places[part].add(name)
        local = within(poses[index[body_id]], (x, y))
        place = model.Place(
            id=name,
            x=round(local[0] / units.factor(LENGTH), POSE_DIGITS),
            y=round(local[1] / units.factor(LENGTH), POSE_DIGITS),
            angle=round((angle - turn) / units.factor(ANGLE), POSE_DIGITS),
        )
        edits.append(AddPlaces(part, (place,)))
        return name

    first = bodies[0]
    x, y, angle = (float(v) for v in poses[index[first]])
    own = mark(first, x, y, angle)
    for other in bodies[1:]:
        joint_id = fresh_id(f"{other}_with_{first}", ids)
        ids.add(joint_id)
        titles = [document.body(name).title for name in (other, first)]
        joints.append(
            model.Joint(
                id=joint_id,
                kind="rigid",
                name=f"{titles[0]} with {titles[1]}",
                first=model.Side(body=first, place=own),
                second=model.Side(body=other, place=mark(other, x, y, angle)),
            )
        )
    edits.append(Add("One piece", joints=tuple(joints)))
    return Together(f"One piece of {len(bodies)} bodies", tuple(edits))
