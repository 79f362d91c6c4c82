"""Which axles are one, and how far apart two stay however the mechanism stands."""

from __future__ import annotations

import math
from collections.abc import Sequence

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.poses import Point, carried

AXLES = ("revolute", "rigid")
"""Kinds of joints whose two places stay together."""
DECIMALS = 6
"""Of mm: places that are the same to so many are one."""
FIXED = "fixed"
MOVING = "moving"

Piece = tuple[str, str]
"""A moving body, or all fixed bodies of a plane together, which stand where they are drawn."""
Spot = tuple[Piece, Point]


class Axles:
    """Places that joints keep together.

    Drawn poses only say where a mechanism is put together from: after an edit of a size the middles
    of two wheels are drawn as far apart as they were before.
    """

    def __init__(self, resolved: Resolved) -> None:
        self._resolved = resolved
        self._bodies = {
            body.id: (body, resolved.poses[k]) for k, body in enumerate(resolved.document.bodies)
        }
        self._joined: dict[Spot, list[Spot]] = {}
        for joint in resolved.document.joints:
            if joint.kind in AXLES:
                one, two = self._spot(joint.first), self._spot(joint.second)
                self._joined.setdefault(_rounded(one), []).append(two)
                self._joined.setdefault(_rounded(two), []).append(one)

    def apart(self, first: model.Side, second: model.Side) -> float:
        """mm between the axles at two places: on a body that has both, as drawn if none has."""
        one, two = self.on_one_body((first, second)) or (self._drawn(first), self._drawn(second))
        return math.dist(one, two)

    def on_one_body(self, sides: Sequence[model.Side]) -> list[Point] | None:
        """Where the axles at places are in the plane, mm, if one body has all of them and stands as
        it is drawn; None if none has."""
        found = [self._on_bodies(side) for side in sides]
        for kind, name in found[0]:
            if all((kind, name) in each for each in found):
                spots = [each[kind, name] for each in found]
                pose = self._bodies[name][1] if kind == MOVING else None
                return spots if pose is None else [carried(pose, spot) for spot in spots]
        return None

    def _on_bodies(self, side: model.Side) -> dict[Piece, Point]:
        """Where an axle is on all bodies that have it."""
        found: dict[Piece, Point] = {}
        left = [self._spot(side)]
        while left:
            piece, place = spot = left.pop()
            if piece not in found:
                found[piece] = place
                left += self._joined.get(_rounded(spot), [])
        return found

    def _spot(self, side: model.Side) -> Spot:
        """The place on its body, or in the plane if that is fixed."""
        body, _ = self._bodies[side.body]
        if body.fixed:
            return (FIXED, body.plane or ""), self._drawn(side)
        x, y, _ = self._resolved.part_of(body).places[side.place]
        return (MOVING, body.id), (x, y)

    def _drawn(self, side: model.Side) -> Point:
        body, pose = self._bodies[side.body]
        return carried(pose, self._resolved.part_of(body).places[side.place])


def _rounded(spot: Spot) -> Spot:
    piece, (x, y) = spot
    return piece, (round(x, DECIMALS), round(y, DECIMALS))
