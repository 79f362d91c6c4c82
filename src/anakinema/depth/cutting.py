"""What a plane at any angle shows of prisms that it cuts: areas in that plane, exactly.

A plane meets an upright prism in the part of its outline that lies, along the plane's slope,
between where the plane passes the two faces, stretched by the slope; an upright plane meets it in
rectangles; a level one in the outline itself. All are cut from the outline's polygon in two
dimensions.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import affinity

from anakinema.geometry.contour import Floats

FAR = 1e6
"""mm, farther than anything stands."""
UPRIGHT = 1e-6
"""A normal that rises less is level, and its plane upright."""


@dataclass(frozen=True, slots=True)
class Plane:
    """All points with ``normal`` (of length 1) times them equal to ``offset`` mm; what lies on the
    side to which the normal points is cut away."""

    normal: tuple[float, float, float]
    offset: float

    @property
    def axes(self) -> tuple[Floats, Floats]:
        """Two directions in the plane, square to one another, each (3,): the first is level."""
        n = np.asarray(self.normal)
        level = math.hypot(n[0], n[1])
        flat = level < UPRIGHT
        one = np.array([1.0, 0, 0]) if flat else np.array([-n[1], n[0], 0.0]) / level
        return one, np.cross(n, one)

    @property
    def origin(self) -> Floats:
        """The point of the plane nearest to the origin of space."""
        point: Floats = np.asarray(self.normal) * self.offset
        return point

    def in_space(self, places: Floats) -> Floats:
        """(N, 3) points of places (N, 2) in the plane."""
        one, two = self.axes
        points: Floats = self.origin + np.outer(places[:, 0], one) + np.outer(places[:, 1], two)
        return points

    def beyond(self, points: Floats) -> Floats:
        """mm by which points (..., 3) lie on the side that is cut away."""
        away: Floats = np.asarray(points) @ np.asarray(self.normal) - self.offset
        return away


def cut_area(
    polygon: shapely.Polygon, bottom: float, top: float, plane: Plane
) -> tuple[shapely.Polygon, ...]:
    """Where a plane cuts the prism over a polygon between two heights: polygons in the plane's own
    axes, mm."""
    nx, ny, nz = plane.normal
    level = math.hypot(nx, ny)
    if level < UPRIGHT:
        z = plane.offset / nz
        return _polygons(_in_axes(polygon, plane, z)) if bottom <= z <= top else ()
    one, _ = plane.axes
    # Turned so that the plane rises along x, and its level direction is y.
    ux, uy = nx / level, ny / level
    turned = affinity.affine_transform(polygon, [ux, uy, one[0], one[1], 0.0, 0.0])
    if abs(nz) < UPRIGHT:
        at = plane.offset / level
        line = shapely.LineString([(at, -FAR), (at, FAR)])
        found = turned.intersection(line)
        pieces = [g for g in getattr(found, "geoms", [found]) if g.geom_type == "LineString"]
        ends = [sorted(y for _, y in piece.coords) for piece in pieces if piece.length > 1e-9]
        # Up in the plane is the second axis, which for a level normal is straight up.
        return tuple(shapely.box(a, bottom, b, top) for a, b in (e[:: len(e) - 1] for e in ends))
    low, high = sorted((plane.offset - nz * z) / level for z in (bottom, top))
    strip = turned.intersection(shapely.box(low, -FAR, high, FAR))
    # A place at x along the slope is at (offset - level x) / nz up; along the second axis, which
    # goes down the slope, that is so far from the plane's origin:
    down = -1.0 / nz
    shift = plane.offset * level / nz
    return _polygons(affinity.affine_transform(strip, [0.0, 1.0, down, 0.0, 0.0, shift]))


def _in_axes(polygon: shapely.Polygon, plane: Plane, z: float) -> shapely.Polygon:
    """A polygon at a height, in the axes of a level plane."""
    one, two = plane.axes
    return affinity.affine_transform(polygon, [one[0], one[1], two[0], two[1], 0.0, 0.0])


def _polygons(shape: shapely.Geometry) -> tuple[shapely.Polygon, ...]:
    return tuple(
        each
        for each in getattr(shape, "geoms", [shape])
        if each.geom_type == "Polygon" and each.area > 1e-9
    )
