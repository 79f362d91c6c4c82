"""Where places and directions of bodies of different planes are as something else sees them, and
how they move: composed along the links that carry them (docs/methods.md, "Quantities in space").
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.planes import Link
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.motion.motion import States

Rates = tuple[Floats, Floats, Floats]
"""(N, 3) each: a vector and its first and second rate by progress."""


@dataclass(frozen=True, slots=True, eq=False)
class _Frame:
    """A frame that moves: directions (N, 3, 3), origin with its rates, spin and its rate (N, 3)."""

    turned: Floats
    origin: Floats
    velocity: Floats
    acceleration: Floats
    spin: Floats
    spinning: Floats

    def carried(self, arm: Floats) -> Rates:
        """A point that stands in it, ``arm`` (N, 3) from its origin."""
        swing = np.cross(self.spin, arm)
        return (
            self.origin + arm,
            self.velocity + swing,
            self.acceleration + np.cross(self.spinning, arm) + np.cross(self.spin, swing),
        )

    def pointing(self, direction: Floats) -> Rates:
        """A direction (N, 3) that stands in it."""
        swing = np.cross(self.spin, direction)
        change = np.cross(self.spinning, direction) + np.cross(self.spin, swing)
        return direction, swing, change

    def sees(self, point: Rates) -> Rates:
        """A point as seen from it, turning with it."""
        away, moving, changing = (
            one - own
            for one, own in zip(point, (self.origin, self.velocity, self.acceleration), strict=True)
        )
        swing = np.cross(self.spin, away)
        past = moving - swing
        change = changing - np.cross(self.spinning, away) - np.cross(self.spin, swing)
        change = change - 2 * np.cross(self.spin, past)
        back = np.swapaxes(self.turned, 1, 2)
        one, two, three = ((back @ each[:, :, None])[:, :, 0] for each in (away, past, change))
        return one, two, three


def _along(links: Sequence[Link], at: States) -> _Frame:
    """The frame of the last link's body as what carries the first one sees it."""
    count = len(at.poses)
    none = np.zeros((count, 3))
    frame = _Frame(np.broadcast_to(np.eye(3), (count, 3, 3)), none, none, none, none, none)
    for link in links:
        origin = frame.carried(frame.turned @ link.frame[:, 3])
        plane = frame.turned @ link.frame[:, :3]
        pose, first, second = (each[:, link.body] for each in (at.poses, at.first, at.second))

        def flat(vector: Floats, plane: Floats = plane) -> Floats:
            return np.asarray((plane[:, :, :2] @ vector[:, :2, None])[:, :, 0])

        base = _Frame(plane, *origin, frame.spin, frame.spinning)
        place, speed, change = base.carried(flat(pose))
        moving = flat(first)
        speed = speed + moving
        change = change + flat(second) + 2 * np.cross(frame.spin, moving)
        normal = plane[:, :, 2]
        own = first[:, 2:] * normal
        spinning = frame.spinning + second[:, 2:] * normal + np.cross(frame.spin, own)
        c, s = np.cos(pose[:, 2])[:, None], np.sin(pose[:, 2])[:, None]
        x, y = plane[:, :, 0], plane[:, :, 1]
        turned = np.stack([c * x + s * y, c * y - s * x, normal], axis=2)
        frame = _Frame(turned, place, speed, change, frame.spin + own, spinning)
    return frame


def _standing(resolved: Resolved, side: model.Side) -> tuple[int, Floats, float]:
    """The body of a place, where that is in it with its datum's height, and the way it points."""
    k = [body.id for body in resolved.document.bodies].index(side.body)
    x, y, angle = resolved.part_of(resolved.document.bodies[k]).places[side.place]
    return k, np.array([x, y, float(resolved.heights[k])]), angle


def between_places(resolved: Resolved, first: model.Side, second: model.Side, at: States) -> Rates:
    """From one place to another, at the heights of their bodies' datums, as what carries both sees
    it."""
    (one, here, _), (two, there, _) = (_standing(resolved, side) for side in (first, second))
    ways = resolved.planes.links(one, two, resolved.heights)
    ends = []
    for way, point in zip(ways, (here, there), strict=True):
        frame = _along(way, at)
        ends.append(frame.carried(frame.turned @ point))
    a, b = ends
    return b[0] - a[0], b[1] - a[1], b[2] - a[2]


def directions_of_places(
    resolved: Resolved, first: model.Side, second: model.Side, at: States
) -> tuple[Rates, Rates]:
    """The directions in which two places point, as what carries both of their bodies sees them."""
    found = [_standing(resolved, side) for side in (first, second)]
    ways = resolved.planes.links(found[0][0], found[1][0], resolved.heights)
    out = []
    for way, (_, _, angle) in zip(ways, found, strict=True):
        frame = _along(way, at)
        out.append(frame.pointing(frame.turned @ np.array([np.cos(angle), np.sin(angle), 0.0])))
    return out[0], out[1]


def place_against(resolved: Resolved, side: model.Side, against: str, at: States) -> Rates:
    """A place as a body sees it, turning with that."""
    body = [each.id for each in resolved.document.bodies].index(against)
    own, point, _ = _standing(resolved, side)
    mine, its = resolved.planes.links(own, body, resolved.heights)
    frame = _along(mine, at)
    return _along(its, at).sees(frame.carried(frame.turned @ point))
