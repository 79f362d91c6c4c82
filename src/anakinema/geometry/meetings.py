"""Where lines and circles of outlines meet."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

SAME = 1e-7
"""mm; points and circles nearer than this are one."""
Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Curve:
    """A line (radius 0) or a circle; a line runs through ``centre`` along ``angle``."""

    centre: Point
    radius: float
    angle: float = 0.0

    def is_same(self, other: Curve) -> bool:
        """Whether both are the same circle, or lines on one another."""
        if (self.radius == 0) != (other.radius == 0):
            return False
        if self.radius:
            near = math.dist(self.centre, other.centre) < SAME
            return near and abs(self.radius - other.radius) < SAME
        return abs(math.sin(self.angle - other.angle)) < 1e-10 and self.away(other.centre) < SAME

    def away(self, point: Point) -> float:
        """Distance of a point, mm."""
        dx, dy = point[0] - self.centre[0], point[1] - self.centre[1]
        if self.radius:
            return abs(math.hypot(dx, dy) - self.radius)
        return abs(math.cos(self.angle) * dy - math.sin(self.angle) * dx)


def meetings(one: Curve, two: Curve) -> list[Point]:
    """Where two curves cross or touch."""
    ways: dict[tuple[bool, bool], Callable[[], list[Point]]] = {
        (False, False): lambda: _lines_meet(one, two),
        (False, True): lambda: _line_meets(one, two),
        (True, False): lambda: _line_meets(two, one),
        (True, True): lambda: _circles_meet(one, two),
    }
    return ways[one.radius > 0, two.radius > 0]()


def _lines_meet(one: Curve, two: Curve) -> list[Point]:
    sine = math.sin(two.angle - one.angle)
    if abs(sine) < 1e-10:
        return []
    dx, dy = two.centre[0] - one.centre[0], two.centre[1] - one.centre[1]
    along = (dx * math.sin(two.angle) - dy * math.cos(two.angle)) / sine
    return [
        (one.centre[0] + along * math.cos(one.angle), one.centre[1] + along * math.sin(one.angle))
    ]


def _line_meets(line: Curve, circle: Curve) -> list[Point]:
    c, s = math.cos(line.angle), math.sin(line.angle)
    dx, dy = circle.centre[0] - line.centre[0], circle.centre[1] - line.centre[1]
    along, across = c * dx + s * dy, c * dy - s * dx
    spare = circle.radius**2 - across**2
    if spare < -2 * circle.radius * SAME:
        return []
    half = math.sqrt(max(0.0, spare))
    return [(line.centre[0] + c * t, line.centre[1] + s * t) for t in (along - half, along + half)]


def _circles_meet(one: Curve, two: Curve) -> list[Point]:
    dx, dy = two.centre[0] - one.centre[0], two.centre[1] - one.centre[1]
    apart = math.hypot(dx, dy)
    if apart < SAME:
        return []
    along = (apart**2 + one.radius**2 - two.radius**2) / (2 * apart)
    spare = one.radius**2 - along**2
    if spare < -2 * one.radius * SAME:
        return []
    half = math.sqrt(max(0.0, spare))
    ux, uy = dx / apart, dy / apart
    x, y = one.centre[0] + along * ux, one.centre[1] + along * uy
    return [(x - half * uy, y + half * ux), (x + half * uy, y - half * ux)]
