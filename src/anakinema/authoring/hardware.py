"""Screw, nut, washers and spacers, or a retaining ring, made for a pin joint and kept in step with
its stack."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import places_at
from anakinema.authoring.holding import Screwed, gaps_in, ringed, screwed, series_for
from anakinema.authoring.pin_stacks import TOUCH, PinStack, joints_on_axis, pin_stack
from anakinema.document import model
from anakinema.document.flatten import JOINT
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Around, Edit, fresh_id
from anakinema.edits.hardware import PutHardware, taken_off
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.parts.fastener_parts import (
    nut_part,
    retaining_ring_part,
    screw_part,
    spacer_part,
    washer_part,
)
from anakinema.units import ANGLE, LENGTH

DIGITS = 9
"""Behind the point, in the document's units."""


@dataclass(frozen=True, slots=True)
class _Piece:
    """A part of the set, and the height (mm) that its body stands at."""

    role: str
    part: model.Part
    height: float


def put_hardware(
    resolved: Resolved,
    poses: Floats,
    joint_id: str,
    head: model.HeadKind,
    washers: int,
    *,
    below: bool,
) -> Edit:
    """The edit that makes, or makes anew, the hardware of a pin joint.

    Raises `ValueOutOfRangeError` where no usual screw, or ring, holds its stack.
    """
    stack = pin_stack(resolved, poses, joint_id)
    where = f"joint '{joint_id.replace('_', ' ')}'"
    if stack is None or JOINT in joint_id:
        raise ValueOutOfRangeError(
            "it is no pin joint of the mechanism itself.",
            where=where,
            remedy="Choose a pin; of one within a subassembly, open that first.",
        )
    others = {h.joint for h in resolved.source.hardware if h.joint != joint_id}
    there = [j for j in joints_on_axis(resolved, poses, joint_id) if j.id in others]
    if there:
        raise ValueOutOfRangeError(
            f"'{there[0].title}' on the same axis has hardware already.",
            where=where,
            remedy="Take that off first, or change it there.",
        )
    if stack.pins:
        pieces, holder = _ring_pieces(stack, where)
    else:
        screw = screwed(stack, head, washers=washers, series=series_for(resolved), below=below)
        if screw is None:
            raise ValueOutOfRangeError(
                "no usual screw with that head passes its holes and is long enough.",
                where=where,
                remedy="Choose another head, or give all but the last layer a clearance hole.",
            )
        pieces, holder = _pieces(screw, stack), screw.threaded
    old = [each for each in resolved.source.hardware if each.joint == joint_id]
    name = old[0].id if old else fresh_id(joint_id, (h.id for h in resolved.source.hardware))
    bare = taken_off(resolved.source, name)
    taken = [body.id for body in bare.bodies] + [use.id for use in bare.instances]
    kept = old[0].bodies if old and len(old[0].bodies) == len(pieces) else ()
    ids: list[str] = []
    for k, piece in enumerate(pieces):
        wanted = kept[k] if kept else fresh_id(f"{joint_id}_{piece.role}", [*taken, *ids])
        ids.append(wanted)
    bodies, joints = _bodies(resolved, poses, joint_id, pieces, ids, bare, holder)
    hardware = model.Hardware(
        id=name, joint=joint_id, head=head, washers=washers, below=below, bodies=tuple(ids)
    )
    parts = {piece.part.id: piece.part for piece in pieces}
    return PutHardware(hardware, tuple(parts.values()), bodies, joints)


def _ring_pieces(stack: PinStack, where: str) -> tuple[list[_Piece], str]:
    """A retaining ring on the pin, and the body that has the pin."""
    ring = ringed(stack)
    if ring is None or ring.missing > TOUCH:
        short = "" if ring is None else f" ({ring.missing:.2f} mm too short for it)"
        raise ValueOutOfRangeError(
            f"no retaining ring goes on its pin{short}.",
            where=where,
            remedy="Give the pin a usual diameter, and let it stand out farther.",
        )
    low = ring.seat if ring.is_above else ring.seat - ring.thick
    return [_Piece("ring", retaining_ring_part(ring.diameter), low)], ring.pin.body


def _pieces(screw: Screwed, stack: PinStack) -> list[_Piece]:
    """What the set consists of, the screw first; spacers fill what is empty between layers."""
    series, thread = screw.series, screw.thread
    way = -1.0 if screw.below else 1.0
    at_head, at_nut = screw.washers
    thick = thread.washer_thickness
    head_at = screw.seats[0] + way * at_head * thick
    found = [
        _Piece(
            "screw",
            screw_part(series, thread, screw.kind, screw.length, below=screw.below),
            head_at,
        )
    ]
    ring = washer_part(series, thread)
    for count, seat, side in ((at_head, screw.seats[0], way), (at_nut, screw.seats[1], -way)):
        for k in range(count):
            low = seat + side * k * thick
            found.append(_Piece("washer", ring, low if side > 0 else low - thick))
    if not screw.engaged:
        face = screw.seats[1] - way * at_nut * thick
        low = face - thread.nut_height if way > 0 else face
        found.append(_Piece("nut", nut_part(series, thread), low))
    for bottom, top in gaps_in(stack):
        length = round(top - bottom, 6)
        tube = spacer_part(thread.washer_hole, thread.washer_outside, length)
        found.append(_Piece("spacer", tube, bottom))
    return found


def _bodies(
    resolved: Resolved,
    poses: Floats,
    joint_id: str,
    pieces: Sequence[_Piece],
    ids: Sequence[str],
    bare: model.Document,
    holder: str,
) -> tuple[tuple[model.Body, ...], tuple[model.Joint, ...]]:
    """Bodies that stand on the axis, each held by the first side of the joint, or by the
    ``holder`` that has the thread or the pin."""
    joint = next(each for each in bare.joints if each.id == joint_id)
    sides, units = (joint.first, joint.second), resolved.units
    side = next((each for each in sides if each.body == holder), joint.first)
    index = [body.id for body in resolved.document.bodies].index(side.body)
    place = resolved.part_of(resolved.document.bodies[index]).places[side.place]
    x, y = places_at(resolved, poses)(side)
    turn = float(poses[index, 2]) + place[2]
    pose = model.Pose(
        x=round(x / units.factor(LENGTH), DIGITS),
        y=round(y / units.factor(LENGTH), DIGITS),
        angle=round(turn / units.factor(ANGLE), DIGITS),
    )
    taken = [each.id for each in bare.joints]
    bodies, joints = [], []
    for piece, body_id in zip(pieces, ids, strict=True):
        height = round(piece.height / units.factor(LENGTH), DIGITS)
        plane = resolved.document.bodies[index].plane
        bodies.append(
            model.Body(id=body_id, part=piece.part.id, pose=pose, height=height, plane=plane)
        )
        held = fresh_id(f"{body_id}_held", taken)
        taken.append(held)
        other = model.Side(body=body_id, place="axis")
        title = f"{body_id.replace('_', ' ')} held"
        joints.append(model.Joint(id=held, kind="rigid", name=title, first=side, second=other))
    return tuple(bodies), tuple(joints)


def in_step(document: model.Document) -> model.Document:
    """The document with all hardware as its stacks want it now; what cannot follow stays as it is.

    Parts are by standard: another length is another part.
    """
    for each in document.hardware:
        try:
            resolved = resolve(document)
            edit = put_hardware(
                resolved,
                np.asarray(resolved.poses),
                each.joint,
                each.head,
                each.washers,
                below=each.below,
            )
        except AnakinemaError:
            continue
        wanted = edit.apply(document)
        if _differs(document, wanted, each.id):
            document = wanted
    return document


def _differs(document: model.Document, wanted: model.Document, hardware_id: str) -> bool:
    """Whether the set has other parts or stands otherwise; where bodies are drawn does not count:
    their joints hold them."""

    def told(which: model.Document) -> list[tuple[str, str, object]]:
        names = next(each for each in which.hardware if each.id == hardware_id).bodies
        by_id = {body.id: body for body in which.bodies}
        return [(name, by_id[name].part, by_id[name].height) for name in names]

    return told(document) != told(wanted)


@dataclass(frozen=True)
class InStep(Around):
    """An edit, and what hardware does after it."""

    def apply(self, document: model.Document) -> model.Document:
        """Both together; raises what the edit raises."""
        after = self.edit.apply(document)
        return in_step(after) if after.hardware else after
