"""What a pin passes through: the layers on its axis, those that are bored, those that are pins."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import places_at
from anakinema.document import model
from anakinema.document.body_graph import one_piece_sets
from anakinema.document.kinds import spec_of
from anakinema.document.planes import across
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Contour, Floats
from anakinema.geometry.distance import contains, outline_span
from anakinema.geometry.poses import within
from anakinema.geometry.region import Region

NEAR = 0.05
"""mm within which places lie on one axis."""
LIKE = 2.0
"""mm by which a round is at most another than a hole that it is a pin for."""
TOUCH = 1e-6
"""mm by which faces that touch may miss one another."""


@dataclass(frozen=True, slots=True)
class Layer:
    """A slab on the axis of a pin: heights bottom and top mm; hole: its diameter round the axis, 0
    where it is solid there; round: diameter of a solid that is itself a pin, 0 for none. wall: mm
    of material round the hole at its thinnest; ring: diameter of an outline round the axis, 0 for
    another; piece: bodies with the same number are one piece."""

    body: str
    bottom: float
    top: float
    hole: float
    round: float
    wall: float = math.inf
    ring: float = 0.0
    piece: int = -1

    @property
    def thickness(self) -> float:
        """mm."""
        return self.top - self.bottom


@dataclass(frozen=True, slots=True)
class PinStack:
    """All layers on an axis, from below."""

    layers: tuple[Layer, ...]

    @property
    def pins(self) -> tuple[Layer, ...]:
        """Rounds that a hole sits on, or is meant to."""
        holes = [layer.hole for layer in self.bored]
        return tuple(
            layer
            for layer in self.layers
            if layer.round and any(abs(layer.round - hole) <= LIKE for hole in holes)
        )

    @property
    def bored(self) -> tuple[Layer, ...]:
        """What has a hole on the axis."""
        return tuple(layer for layer in self.layers if layer.hole)

    @property
    def grip(self) -> float:
        """mm from the lowest face to the highest of all that is bored."""
        if not self.bored:
            return 0.0
        return max(x.top for x in self.bored) - min(x.bottom for x in self.bored)


def joints_on_axis(resolved: Resolved, poses: Floats, joint_id: str) -> tuple[model.Joint, ...]:
    """All joints that pin or hold bodies at the place of a pin joint, at poses (B, 3); none if it
    is no pin joint."""
    document = resolved.document
    joint = next((each for each in document.joints if each.id == joint_id), None)
    if joint is None or not spec_of(joint.kind).is_pin:
        return ()
    where = places_at(resolved, poses)
    at = where(joint.second)
    return tuple(
        other
        for other in document.joints
        if (spec_of(other.kind).is_pin or other.kind == "rigid")
        and not across(document, (joint.first.body, other.first.body))
        and math.dist(where(other.second), at) <= NEAR
    )


def pin_stack(resolved: Resolved, poses: Floats, joint_id: str) -> PinStack | None:
    """What lies on the axis of a pin joint at poses (B, 3): slabs of its bodies and of all that is
    pinned there too; None if it is no pin joint.

    Hardware that was made for a joint is no part of what it holds.
    """
    document = resolved.document
    found = joints_on_axis(resolved, poses, joint_id)
    if not found:
        return None
    ids = {body.id: k for k, body in enumerate(document.bodies)}
    joint = next(each for each in found if each.id == joint_id)
    at = places_at(resolved, poses)(joint.second)
    bodies = {side.body for other in found for side in (other.first, other.second)}
    pieces = one_piece_sets(document)
    own = {body for hardware in resolved.source.hardware for body in hardware.bodies}
    layers = []
    for body in bodies - own:
        k = ids[body]
        local = np.array(within(poses[k], at))
        height = float(resolved.heights[k])
        for slab in resolved.part_of(document.bodies[k]).slabs:
            hole = _round_about(slab.region.contours[1:], local)
            solid = hole == 0.0 and bool(contains(slab.region, local[None])[0])
            if not (hole or solid):
                continue
            outside = _round_about(slab.region.contours[:1], local)
            layers.append(
                Layer(
                    body,
                    height + slab.bottom,
                    height + slab.top,
                    hole,
                    outside if solid else 0.0,
                    _wall(slab.region, local, hole) if hole else math.inf,
                    outside if hole else 0.0,
                    pieces[body],
                )
            )
    return PinStack(tuple(sorted(layers, key=lambda each: (each.bottom, each.top))))


def _wall(region: Region, at: Floats, hole: float) -> float:
    """mm of material round a hole about a place, to the outline or the next hole."""
    nearest = math.inf
    for contour in region.contours:
        circle = contour.circle
        if circle is not None and math.dist(circle[:2], at) <= NEAR and 2 * circle[2] <= hole:
            continue
        alone = Region.build(contour, (), ())
        nearest = min(nearest, float(outline_span(alone, at[None])[0][0]))
    return nearest - hole / 2


def _round_about(contours: tuple[Contour, ...], at: Floats) -> float:
    """Diameter of the smallest full circle about a place among contours, 0 if there is none."""
    circles = (contour.circle for contour in contours)
    found = [
        2 * circle[2]
        for circle in circles
        if circle is not None and math.dist(circle[:2], at) <= NEAR
    ]
    return min(found, default=0.0)


def held_together(resolved: Resolved, poses: Floats, joint_id: str) -> frozenset[str]:
    """Bodies that a joint holds together: its own, those pinned on the same axis at poses
    (B, 3), and the hardware made for any of these joints."""
    document = resolved.document
    found = joints_on_axis(resolved, poses, joint_id) or tuple(
        joint for joint in document.joints if joint.id == joint_id
    )
    names = {joint.id for joint in found}
    made = {
        body for each in resolved.source.hardware if each.joint in names for body in each.bodies
    }
    sides = {side.body for joint in found for side in (joint.first, joint.second)}
    known = {body.id for body in document.bodies}
    return frozenset((sides | made) & known)
