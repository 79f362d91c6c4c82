"""The joint that a wish asks for: its sides, pieces, lengths and place in the stack."""

from __future__ import annotations

import math

import numpy as np

from anakinema.authoring.snap_points import PlacedSnap
from anakinema.authoring.touching import fits, rims_on_cams, seated_rise, straight_features
from anakinema.authoring.wishes import Wish
from anakinema.document import model
from anakinema.document.body_graph import body_graph, group_of
from anakinema.document.flatten import JOINT
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidPart
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.errors import ValueOutOfRangeError
from anakinema.units import ANGLE, LENGTH


def title_of(resolved: Resolved, body_id: str) -> str:
    """Name of a body for people."""
    return resolved.document.body(body_id).title


def places_wished(resolved: Resolved, wish: Wish) -> list[Edit]:
    """Edits that mark the two snaps as places, where they are not yet."""
    edits: list[Edit] = []
    for end in (wish.first, wish.second):
        if not end.snap.known:
            part = resolved.document.body(end.body).part
            edits.append(AddPlaces(part, (end.snap.place,)))
    return edits


def joint_wished(resolved: Resolved, wish: Wish) -> tuple[model.Joint, str]:
    """The joint with its two sides, and the body that comes.

    The second body picked carries the axis, so that values are seen from what is joined to;
    only a slot or an arc picked first keeps its side.
    """
    mover = wish.first.body
    carrier, rider = wish.second, wish.first
    spec = spec_of(wish.kind)
    is_slot = spec.is_straight and spec.is_pin
    if is_slot and _has_slot(resolved, wish.first) and not _has_slot(resolved, wish.second):
        carrier, rider = wish.first, wish.second
    taken = {j.id for j in resolved.source.joints}
    titles = [title_of(resolved, body) for body in (rider.body, carrier.body)]
    twist = (math.pi if wish.flip else 0.0) + wish.turn
    if not spec.has_twist:
        twist = 0.0
    curve = _curve_wished(resolved, wish) if spec.has_curve else None
    units = resolved.units
    sides = [model.Side(body=end.body, place=end.snap.place.id) for end in (carrier, rider)]
    pieces = _pieces(resolved, wish.kind, carrier, rider)
    if curve is not None and not pieces[0]:
        solid, x, y, _ = _side_numbers(resolved, rider)
        rims = rims_on_cams(_side_numbers(resolved, carrier)[0], curve, solid, x, y)
        pieces = tuple(rims[0]), tuple(rims[1])
    joint = model.Joint(
        id=fresh_id(f"{rider.body}_on_{carrier.body}".replace(JOINT, "_"), taken),
        kind=wish.kind,
        name=wish.name or f"{titles[0]} on {titles[1]}",
        first=sides[0].model_copy(update={"pieces": pieces[0]}),
        second=sides[1].model_copy(update={"pieces": pieces[1]}),
        twist=round(twist / units.factor(ANGLE), 10),
        offset=wish.offset / units.factor(LENGTH) if spec.is_set_off else 0.0,
        curve=curve,
        radius=None
        if not spec.has_radius or wish.radius is None
        else wish.radius / units.factor(LENGTH),
    )
    if spec.is_rod:
        joint = joint.model_copy(update={"length": _rod_length(resolved, wish)})
    return joint, mover


def _rod_length(resolved: Resolved, wish: Wish) -> float:
    """The length of a rod between two snaps, in the document's unit: that which is wished, else as
    far as they are apart."""
    far = wish.length
    if far is None:
        frames = resolved.planes.frames(resolved.poses, resolved.heights)
        ends = []
        for end in (wish.first, wish.second):
            k = [body.id for body in resolved.document.bodies].index(end.body)
            frame, height = frames[resolved.planes.of[k]], float(resolved.heights[k])
            ends.append(frame[:, :3] @ np.array([end.x, end.y, height]) + frame[:, 3])
        far = float(np.linalg.norm(ends[1] - ends[0]))
    return round(far / resolved.units.factor(LENGTH), 9)


def curves_on(resolved: Resolved, body: str) -> tuple[str, ...]:
    """Names of the curves that a body carries."""
    return tuple(resolved.part_of(resolved.document.body(body)).curves)


def _curve_wished(resolved: Resolved, wish: Wish) -> str:
    """The curve of the second body that the first comes to; raises if it has none."""
    known = curves_on(resolved, wish.second.body)
    if not known:
        raise ValueOutOfRangeError(
            "it has no curve to follow.",
            where=f"body '{title_of(resolved, wish.second.body)}'",
            remedy="Give its part a curved slot or a cam, or pick them the other way round.",
        )
    return wish.curve if wish.curve in known else known[0]


def _side_numbers(resolved: Resolved, end: PlacedSnap) -> tuple[SolidPart, float, float, float]:
    solid = resolved.part_of(resolved.document.body(end.body))
    return solid, end.snap.x, end.snap.y, end.snap.angle


def _has_slot(resolved: Resolved, end: PlacedSnap) -> bool:
    found = straight_features(*_side_numbers(resolved, end))
    return any(feature.hole is not None for feature in found)


def _pieces(
    resolved: Resolved, kind: model.JointKind, carrier: PlacedSnap, rider: PlacedSnap
) -> tuple[tuple[model.OutlinePiece, ...], tuple[model.OutlinePiece, ...]]:
    found = fits(kind, _side_numbers(resolved, carrier), _side_numbers(resolved, rider))
    return (
        tuple(dict.fromkeys(fit.first.piece for fit in found)),
        tuple(dict.fromkeys(fit.second.piece for fit in found)),
    )


def rise_wished(resolved: Resolved, wish: Wish, joint: model.Joint) -> float | None:
    """Height of the joint's second body above its first, None where the stack stays as it is."""
    if wish.stack == "keep" or spec_of(wish.kind).is_rod:
        return None
    document = resolved.document
    mover = wish.first.body
    if document.body(mover).height is not None or is_stacked(document, mover, wish.second.body):
        return None
    ends = (wish.second, wish.first) if joint.second.body == mover else (wish.first, wish.second)
    if isinstance(wish.stack, (int, float)):
        up = float(wish.stack)
        rise = up if joint.second.body == mover else -up
    else:
        sides = [_side_numbers(resolved, end) for end in ends]
        found = fits(wish.kind, *sides)
        manner = str(wish.stack)
        if joint.second.body != mover and not found:
            manner = {"face": "below", "below": "face"}.get(manner, manner)
        rise = seated_rise(found, sides[0][:3], sides[1][:3], manner)
    return round(rise / resolved.units.factor(LENGTH), 9)


def is_stacked(document: model.Document, body: str, other: str) -> bool:
    """Whether the heights of two bodies are tied already: by rises, or by heights of their own."""
    rising = [joint for joint in document.joints if joint.rise is not None]
    graph = body_graph(document.bodies, rising, grounded=False)
    set_heights = {b.id for b in document.bodies if b.height is not None}
    mine, its = group_of(graph, body), group_of(graph, other)
    return other in mine or bool(mine & set_heights and its & set_heights)
