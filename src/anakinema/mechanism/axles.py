"""Which axles are one, and how far apart two stay however the mechanism stands."""

from __future__ import annotations

import math

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.poses import carried

AXLES = ("revolute", "rigid")
"""Kinds of joints whose two places stay together."""
DECIMALS = 6
"""Of mm: places that are the same to so many are one."""
FIXED = "fixed"
MOVING = "moving"

Piece = tuple[str, str]
"""A moving body, or all fixed bodies of a plane together, which stand where they are drawn."""
Spot = tuple[Piece, float, float]


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
                self._joined.setdefault(one, []).append(two)
                self._joined.setdefault(two, []).append(one)

    def apart(self, first: model.Side, second: model.Side) -> float:
        """mm between the axles at two places: on a body that has both, as drawn if none has."""
        one, two = self._on_bodies(first), self._on_bodies(second)
        kept = (math.dist(one[body], two[body]) for body in one if body in two)
        drawn = math.dist(self._drawn(first), self._drawn(second))
        return next(kept, drawn)

    def _on_bodies(self, side: model.Side) -> dict[Piece, tuple[float, float]]:
        """Where an axle is on all bodies that have it."""
        found: dict[Piece, tuple[float, float]] = {}
        left = [self._spot(side)]
        while left:
            body, x, y = spot = left.pop()
            if body not in found:
                found[body] = x, y
                left += self._joined.get(spot, [])
        return found

    def _spot(self, side: model.Side) -> Spot:
        body, _ = self._bodies[side.body]
        if body.fixed:
            piece, (x, y) = (FIXED, body.plane or ""), self._drawn(side)
        else:
            piece, (x, y, _) = (MOVING, body.id), self._resolved.part_of(body).places[side.place]
        return piece, round(x, DECIMALS), round(y, DECIMALS)

    def _drawn(self, side: model.Side) -> tuple[float, float]:
        body, pose = self._bodies[side.body]
        return carried(pose, self._resolved.part_of(body).places[side.place])
