"""Convex bodies in space by how far they reach: upright prisms with straight and round walls, and
round rods; and what of a slab is convex.

A slab is *wrapped* in one such prism, exactly. Where what is near lies in a hole or a hollow of it,
the slab is taken in *pieces*, prisms over polygons whose chords stand off its arcs by at most
`CHORD`.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import shapely

from anakinema.geometry.contour import Floats
from anakinema.geometry.region import Region

CHORD = 0.001
"""mm by which the chords of pieces stand off arcs at most."""
SAME = 1e-9
"""Share of an area by which a shape may be larger than its hull and still be convex."""


@dataclass(frozen=True, slots=True, eq=False)
class Arcs:
    """Round walls that bulge out: ``centre`` (A, 2) and ``radius`` (A,) mm, the directions that
    they face: within ``half`` (A,) as cosines of that of ``middle`` (A, 2)."""

    centre: Floats
    radius: Floats
    middle: Floats
    half: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Convex:
    """All that lies within ``swell`` mm of an upright convex prism from ``bottom`` to ``top`` mm.

    ``points`` (V, 2) mm are its corners. ``centre`` (3,) mm lies in it, and it keeps within
    ``radius`` mm of that. ``slack`` mm: what it stands for may reach so much farther.
    """

    points: Floats
    arcs: Arcs | None
    bottom: float
    top: float
    swell: float
    slack: float
    centre: Floats
    radius: float

    def farthest(self, directions: Floats) -> Floats:
        """(N, 3) the points of the prism, without its swell, that lie farthest along directions
        (N, 3), all as seen from it."""
        flat = directions[:, :2]
        along = flat @ self.points.T
        corner = np.argmax(along, axis=1)
        found = np.empty((len(directions), 3))
        found[:, :2] = self.points[corner]
        found[:, 2] = np.where(directions[:, 2] >= 0.0, self.top, self.bottom)
        if self.arcs is not None:
            arcs = self.arcs
            length = np.hypot(flat[:, 0], flat[:, 1])
            reach = flat @ arcs.centre.T + length[:, None] * arcs.radius
            faces = flat @ arcs.middle.T >= length[:, None] * arcs.half
            reach = np.where(faces, reach, -np.inf)
            arc = np.argmax(reach, axis=1)
            rows = np.flatnonzero(
                (reach.max(axis=1) > along[np.arange(len(along)), corner]) & (length > 0.0)
            )
            unit = flat[rows] / length[rows, None]
            found[rows, :2] = arcs.centre[arc[rows]] + arcs.radius[arc[rows], None] * unit
        return found

    def reach(self, directions: Floats) -> Floats:
        """(N,) how far it reaches along directions (N, 3), as seen from it, swell and all."""
        far = np.einsum("ni,ni->n", self.farthest(directions), directions)
        length = np.sqrt(np.einsum("ni,ni->n", directions, directions))
        return np.asarray(far + self.swell * length)


PLAIN = 64
"""Corners up to which bodies with straight walls are asked all at once."""


class Supports:
    """Many convex bodies, asked together which of their points lie farthest."""

    def __init__(self, shapes: Sequence[Convex]) -> None:
        numbers: dict[int, int] = {}
        kept: list[Convex] = []
        for shape in shapes:
            if id(shape) not in numbers:
                numbers[id(shape)] = len(kept)
                kept.append(shape)
        self._shapes = kept
        self.numbers = np.array([numbers[id(shape)] for shape in shapes])
        """(S,) which of the different bodies each is."""
        self._plain = np.array([s.arcs is None and len(s.points) <= PLAIN for s in kept])
        widest = max((len(s.points) for s in kept if len(s.points) <= PLAIN), default=1)
        self._corners = np.zeros((len(kept), widest, 2))
        for k in np.flatnonzero(self._plain):
            points = kept[k].points
            self._corners[k, : len(points)] = points
            self._corners[k, len(points) :] = points[-1]
        self._heights = np.array([[s.bottom, s.top] for s in kept])

    def farthest(self, which: npt.NDArray[np.int64], directions: Floats) -> Floats:
        """(N, 3) the points of different bodies (N,) that lie farthest along directions (N, 3), as
        each sees them; without swell."""
        found = np.empty((len(which), 3))
        plain = self._plain[which]
        rows = np.flatnonzero(plain)
        if len(rows):
            each, along = which[rows], directions[rows]
            corners = self._corners[each]
            far = np.einsum("nvi,ni->nv", corners, along[:, :2]).argmax(axis=1)
            found[rows, :2] = corners[np.arange(len(rows)), far]
            found[rows, 2] = self._heights[each, (along[:, 2] >= 0.0).astype(int)]
        for k in np.unique(which[~plain]).tolist():
            rows = np.flatnonzero(which == k)
            found[rows] = self._shapes[k].farthest(directions[rows])
        return found


def _convex(
    points: Floats, arcs: Arcs | None, heights: tuple[float, float], swell: float, slack: float
) -> Convex:
    bottom, top = heights
    low, high = points.min(axis=0), points.max(axis=0)
    if arcs is not None:
        low = np.minimum(low, (arcs.centre - arcs.radius[:, None]).min(axis=0))
        high = np.maximum(high, (arcs.centre + arcs.radius[:, None]).max(axis=0))
    flat = (points.min(axis=0) + points.max(axis=0)) / 2
    far = np.hypot(*(points - flat).T).max()
    if arcs is not None:
        far = max(far, (np.hypot(*(arcs.centre - flat).T) + arcs.radius).max())
    centre = np.array([*flat, (bottom + top) / 2])
    radius = math.hypot(far, (top - bottom) / 2) + swell
    return Convex(points, arcs, bottom, top, swell, slack, centre, radius)


def round_rod(length: float, radius: float) -> Convex:
    """A rod with round ends from the origin along x, ``length`` mm between the middles of its
    ends."""
    return _convex(np.array([[0.0, 0.0], [length, 0.0]]), None, (0.0, 0.0), radius, 0.0)


def rod_solid(length: float, radius: float) -> Solid:
    """The same as what is compared."""
    return Solid(None, 0.0, 0.0, round_rod(length, radius), True)


@dataclass(frozen=True, slots=True, eq=False)
class Solid:
    """A slab as convex bodies: ``wrap`` holds it all, and is it all where it ``is_convex``. What is
    no slab has no ``region``."""

    region: Region | None
    bottom: float
    top: float
    wrap: Convex
    is_convex: bool

    def covers(self) -> tuple[tuple[Convex, ...], ...]:
        """Convex pieces that hold it, ever closer: of its outline without holes, and of all of it.

        They stand off it by `CHORD` at most.
        """
        if self.is_convex or self.region is None:
            return ((self.wrap,),)
        return _covers(self.region, self.bottom, self.top)

    def holds(self, points: Floats) -> npt.NDArray[np.bool_]:
        """(N,) whether points (N, 3) of its wrap, as seen from it, are points of the slab."""
        if self.is_convex or self.region is None:
            return np.ones(len(points), dtype=bool)
        flat = shapely.points(points[:, :2])
        return np.asarray(shapely.dwithin(_layers(self.region)[-1], flat, 2 * CHORD))


def solid(region: Region, bottom: float, top: float) -> Solid:
    """A slab over a region, from ``bottom`` to ``top`` mm, wrapped."""
    points, arcs, is_convex = _wrapped(region)
    return Solid(region, bottom, top, _convex(points, arcs, (bottom, top), 0.0, 0.0), is_convex)


@lru_cache(maxsize=1024)
def _wrapped(region: Region) -> tuple[Floats, Arcs | None, bool]:
    """Corners and arcs of the hull of a region, and whether the region is its own hull."""
    outer = region.contours[0]
    corners = outer.start
    out = np.sign(outer.area())
    bulges = outer.is_arc & (outer.sweep * out > 0.0)
    arcs = None
    if bulges.any():
        towards = outer.middles()[bulges] - outer.centre[bulges]
        radius = outer.radius[bulges]
        # A direction a little beyond an arc leads to its end: rounding must not lose it.
        half = np.cos(np.abs(outer.sweep[bulges]) / 2 * (1 + 1e-9) + 1e-12)
        arcs = Arcs(outer.centre[bulges], radius, towards / radius[:, None], half)
    fine = shapely.Polygon(outer.polygon(CHORD))
    is_convex = len(region.contours) == 1 and not (outer.is_arc & ~bulges).any()
    is_convex = is_convex and bool(fine.convex_hull.area <= fine.area * (1 + SAME))
    if len(corners) > 3:
        hull = shapely.MultiPoint(corners).convex_hull
        if hull.geom_type == "Polygon":
            corners = shapely.get_coordinates(hull)[:-1]
    return np.ascontiguousarray(corners), arcs, is_convex


@lru_cache(maxsize=512)
def _covers(region: Region, bottom: float, top: float) -> tuple[tuple[Convex, ...], ...]:
    heights = bottom, top
    return tuple(
        tuple(_convex(points, None, heights, 0.0, CHORD) for points in _pieces_of(polygon))
        for polygon in _layers(region)
    )


@lru_cache(maxsize=256)
def _layers(region: Region) -> tuple[shapely.Polygon, ...]:
    """A region without its holes, and with them if it has any."""
    rings = [contour.polygon(CHORD) for contour in region.contours]
    filled = shapely.Polygon(rings[0])
    return (filled, shapely.Polygon(rings[0], rings[1:])) if len(rings) > 1 else (filled,)


@lru_cache(maxsize=512)
def _pieces_of(polygon: shapely.Polygon) -> tuple[Floats, ...]:
    """Convex polygons (V, 2) that cover a polygon and share no area: triangles, put together along
    their longest sides as long as what comes of it is convex."""
    triangles = shapely.get_parts(shapely.constrained_delaunay_triangles(polygon))
    shapes: dict[int, list[int]] = {}
    number: dict[tuple[float, float], int] = {}
    at: list[tuple[float, float]] = []
    for k, triangle in enumerate(triangles):
        corners = shapely.get_coordinates(triangle.normalize())[:3]
        x, y = (corners[1] - corners[0]), (corners[2] - corners[0])
        if x[0] * y[1] - x[1] * y[0] < 0:
            corners = corners[::-1]
        names = []
        for corner in corners.tolist():
            key = (corner[0], corner[1])
            if key not in number:
                number[key] = len(at)
                at.append(key)
            names.append(number[key])
        shapes[k] = names
    _merge(shapes, at)
    return tuple(np.array([at[n] for n in names]) for names in shapes.values())


def _merge(shapes: dict[int, list[int]], at: list[tuple[float, float]]) -> None:
    """Put convex shapes (corners anticlockwise) together across sides that two of them share."""
    owner = {
        (one, two): k
        for k, names in shapes.items()
        for one, two in zip(names, [*names[1:], names[0]], strict=True)
    }
    sides = [side for side in owner if side[0] < side[1] and side[::-1] in owner]
    sides.sort(key=lambda side: -math.dist(at[side[0]], at[side[1]]))
    for one, two in sides:
        first, second = owner[one, two], owner[two, one]
        if first == second:
            continue
        a, b = shapes[first], shapes[second]
        start, other = a.index(two), b.index(one)
        # From where the shared side ends round the first, and on round the second.
        both = [*a[start:], *a[:start]][:-1] + [*b[other:], *b[:other]][:-1]
        if not _turns_left(both, at):
            continue
        shapes[first] = both
        del shapes[second]
        for side in zip(b, [*b[1:], b[0]], strict=True):
            owner[side] = first


def _turns_left(names: list[int], at: list[tuple[float, float]]) -> bool:
    """Whether a shape turns left at every corner, or goes straight on."""
    for k, name in enumerate(names):
        (x0, y0), (x1, y1) = at[names[k - 2]], at[names[k - 1]]
        x2, y2 = at[name]
        if (x1 - x0) * (y2 - y1) - (y1 - y0) * (x2 - x1) < 0.0:
            return False
    return True
