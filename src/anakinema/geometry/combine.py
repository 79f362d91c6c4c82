"""Adding, cutting and offsetting outlines of lines and arcs, exactly.

Which pieces bound the result is found on finely flattened polygons, where a general geometry
library is robust; every chord remembers the line or circle that it was cut from. The result is
then stated again in those lines and circles, their meeting points computed exactly, so that arcs
stay arcs and nothing depends on how finely they were flattened.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Contour, ContourBuilder, Floats, circle
from anakinema.geometry.meetings import SAME, Curve, Point, meetings

FINENESS = 0.002
"""mm; how far chords may stand off their arcs while the pieces of a result are found."""
RASTER = 1e-8
"""mm."""
MOST_SWEEP = 1.6 * math.pi
"""rad; longer arcs are stated as two, the bulge of a full turn would be infinite."""
Corner = tuple[float, float, float]
"""x, y in mm and the bulge of the edge that follows."""


@dataclass(frozen=True, slots=True, eq=False)
class CombinedRing:
    """A closed outline of a result: its corners, or a full circle (x, y, radius).

    unchanged : (shape, ring) of the outline given that it is, None if it is a new one.
    """

    corners: tuple[Corner, ...]
    circle: Corner | None
    unchanged: tuple[int, int] | None


@dataclass(frozen=True, slots=True, eq=False)
class Combined:
    """One piece of a result: its outer outline and its openings."""

    outer: CombinedRing
    holes: tuple[CombinedRing, ...]


Shape = Sequence[Contour]
"""The outer outline of a solid area and its openings."""


def combine(shapes: Sequence[Shape], how: str) -> tuple[Combined, ...]:
    """Pieces of the first shape with all others 'added' to it or 'cut' from it, largest first.

    Raises `GeometryError` if nothing is left.
    """
    chords = _Chords()
    areas = []
    for number, rings in enumerate(shapes):
        outlines = [chords.take(contour, (number, k)) for k, contour in enumerate(rings)]
        areas.append(shapely.Polygon(outlines[0], outlines[1:]))
    # On a raster, so that edges that only rounding parts leave no cracks.
    others = shapely.union_all(areas[1:], grid_size=RASTER)
    join = shapely.union if how == "added" else shapely.difference
    joined = join(areas[0], others, grid_size=RASTER)
    pieces = [
        polygon
        for polygon in shapely.get_parts(joined)
        if polygon.geom_type == "Polygon" and polygon.area > FINENESS
    ]
    if not pieces:
        raise GeometryError(
            "nothing is left of it.", where="outline", remedy="Cut less of it away."
        )
    chords.index()
    pieces.sort(key=lambda polygon: -polygon.area)
    return tuple(
        Combined(
            chords.stated(_anticlockwise(polygon.exterior)),
            tuple(
                chords.stated(_anticlockwise(ring))
                for ring in polygon.interiors
                if shapely.Polygon(ring).area > FINENESS
            ),
        )
        for polygon in pieces
    )


def _anticlockwise(ring: shapely.LinearRing) -> Floats:
    points = np.asarray(ring.coords)[:-1]
    return points if ring.is_ccw else points[::-1]


def offset(contour: Contour, distance: float) -> tuple[Combined, ...]:
    """A closed outline moved outwards by a distance (mm), or inwards if it is negative.

    The parallel curve: corners become arcs on the outside. Raises `GeometryError` if nothing is
    left inside.
    """
    if abs(distance) < SAME:
        raise GeometryError("the distance is nothing.", where="offset", remedy="Type another.")
    strokes = [stroke for piece in _pieces(contour) for stroke in _stroke(piece, abs(distance))]
    return combine(
        [(contour,), *((stroke,) for stroke in strokes)], "added" if distance > 0 else "cut"
    )


def contour_of_corners(corners: Sequence[Corner]) -> Contour:
    """The closed contour over x, y and bulge."""
    builder = ContourBuilder()
    for (x, y, bulge), (u, v, _) in zip(corners, (*corners[1:], corners[0]), strict=True):
        builder.bulged((x, y), (u, v), bulge)
    return builder.close()


def corners_of(contour: Contour) -> tuple[Corner, ...]:
    """The corners of a contour, its arcs whole, so that `contour_of_corners` makes it again."""
    out: list[Corner] = []
    for piece in _pieces(contour):
        out += _edge(piece.curve, piece.start, piece.end, piece.sweep)
    return tuple(out)


@dataclass(frozen=True, slots=True)
class _Piece:
    """An edge as the designer counts it: from start, over a sweep (rad) or straight, to end."""

    curve: Curve
    start: Point
    end: Point
    sweep: float

    def at(self, angle: float) -> Point:
        (x, y), r = self.curve.centre, self.curve.radius
        return x + r * math.cos(angle), y + r * math.sin(angle)


def _pieces(contour: Contour) -> list[_Piece]:
    out: list[_Piece] = []
    last = -1
    for k, number in enumerate(contour.piece.tolist()):
        start, end = ((float(p[k, 0]), float(p[k, 1])) for p in (contour.start, contour.end))
        radius, sweep = float(contour.radius[k]), float(contour.sweep[k])
        if number == last and radius:
            before = out[-1]
            out[-1] = _Piece(before.curve, before.start, end, before.sweep + sweep)
            continue
        last = number
        if radius:
            curve = Curve((float(contour.centre[k, 0]), float(contour.centre[k, 1])), radius)
        else:
            curve = Curve(start, 0.0, math.atan2(end[1] - start[1], end[0] - start[0]))
        out.append(_Piece(curve, start, end, sweep))
    return out


def _stroke(piece: _Piece, reach: float) -> list[Contour]:
    """Outlines that together cover all that is within a distance of an edge."""
    builder = ContourBuilder()
    curve = piece.curve
    if not curve.radius:
        angle = curve.angle
        nx, ny = -math.sin(angle) * reach, math.cos(angle) * reach
        (ax, ay), (bx, by) = piece.start, piece.end
        builder.line((ax - nx, ay - ny), (bx - nx, by - ny))
        builder.arc(piece.end, reach, angle - math.pi / 2, math.pi)
        builder.line((bx + nx, by + ny), (ax + nx, ay + ny))
        builder.arc(piece.start, reach, angle + math.pi / 2, math.pi)
        return [builder.close()]
    centre, radius, sweep = curve.centre, curve.radius, abs(piece.sweep)
    outer, inner = radius + reach, max(0.0, radius - reach)
    if sweep > 2 * math.pi - 1e-9:
        band = circle(*centre, outer)
        return [band] if inner < SAME else _halves(curve, inner, outer)
    start = piece.start if piece.sweep > 0 else piece.end
    first = math.atan2(start[1] - centre[1], start[0] - centre[0])
    ends = [circle(*piece.at(a), reach) for a in (first, first + sweep)]
    return [_sector(curve, inner, outer, first, sweep), *ends]


def _halves(curve: Curve, inner: float, outer: float) -> list[Contour]:
    """A ring as two halves, since an outline alone cannot have an opening."""
    return [_sector(curve, inner, outer, first, math.pi) for first in (0.0, math.pi)]


def _sector(curve: Curve, inner: float, outer: float, first: float, sweep: float) -> Contour:
    (x, y), last = curve.centre, first + sweep

    def at(radius: float, angle: float) -> Point:
        return x + radius * math.cos(angle), y + radius * math.sin(angle)

    builder = ContourBuilder()
    builder.arc((x, y), outer, first, sweep)
    builder.line(at(outer, last), at(inner, last))
    if inner > SAME:
        builder.arc((x, y), inner, last, -sweep)
    builder.line(at(inner, first), at(outer, first))
    return builder.close()


@dataclass(slots=True, eq=False)
class _Chords:
    """Chords of everything given, and what each was cut from."""

    curves: list[Curve] = field(default_factory=list)
    ends: list[Point] = field(default_factory=list)
    _lines: list[tuple[Point, Point]] = field(default_factory=list)
    _owners: list[int] = field(default_factory=list)
    _rings: list[tuple[int, int]] = field(default_factory=list)
    _sizes: dict[tuple[int, int], int] = field(default_factory=dict)
    _tree: shapely.STRtree | None = None

    def take(self, contour: Contour, ring: tuple[int, int]) -> list[Point]:
        """Flatten a contour; the vertices of its polygon."""
        points: list[Point] = []
        for piece in _pieces(contour):
            owner = self._owner(piece.curve)
            self.ends += [piece.start, piece.end]
            stops = [piece.start, *_between(piece)]
            for one, two in zip(stops, [*stops[1:], piece.end], strict=True):
                self._lines.append((one, two))
                self._owners.append(owner)
                self._rings.append(ring)
            points += stops
        self._sizes[ring] = len(points)
        return points

    def _owner(self, curve: Curve) -> int:
        for k, known in enumerate(self.curves):
            if known.is_same(curve):
                return k
        self.curves.append(curve)
        return len(self.curves) - 1

    def index(self) -> None:
        """Make the chords findable."""
        self._tree = shapely.STRtree(shapely.linestrings(np.asarray(self._lines)))

    def stated(self, points: Floats) -> CombinedRing:
        """A ring of the result in the lines and circles it is made of."""
        assert self._tree is not None
        following = np.roll(points, -1, axis=0)
        keep = np.hypot(*(following - points).T) > 1e-12
        points, following = points[keep], following[keep]
        middles = shapely.points((points + following) / 2)
        chords = self._tree.query_nearest(middles, all_matches=False)[1].tolist()
        rings = {self._rings[k] for k in chords}
        unchanged = None
        if len(rings) == 1 and self._sizes[next(iter(rings))] == len(points):
            unchanged = next(iter(rings))
        runs = self._runs([self._owners[k] for k in chords], points)
        if len(runs) == 1:
            (x, y), radius = self.curves[runs[0][0]].centre, self.curves[runs[0][0]].radius
            return CombinedRing((), (x, y, radius), unchanged)
        corners: list[Corner] = []
        meets = [
            self._meet(runs[k - 1][0], runs[k][0], points[runs[k][1]]) for k in range(len(runs))
        ]
        for k, (owner, first, count) in enumerate(runs):
            start, end = meets[k], meets[(k + 1) % len(runs)]
            corners += _edge(
                self.curves[owner],
                start,
                end,
                _turn(self.curves[owner].centre, points, first, count),
            )
        return CombinedRing(tuple(corners), None, unchanged)

    def _runs(self, owners: list[int], points: Floats) -> list[tuple[int, int, int]]:
        """Chords of one curve that follow one another: curve, first chord, how many."""
        count = len(owners)
        breaks = [k for k in range(count) if owners[k] != owners[k - 1]]
        if not breaks:
            return [(owners[0], 0, count)]
        runs = [
            (owners[k], k, (breaks[(n + 1) % len(breaks)] - k) % count or count)
            for n, k in enumerate(breaks)
        ]
        changed = True
        while changed and len(runs) > 1:
            changed = False
            for n, (_, first, size) in enumerate(runs):
                before, after = runs[n - 1], runs[(n + 1) % len(runs)]
                if not self._is_splinter(points, first, size, before[0], after[0]):
                    continue
                # Two curves that touch there: their chords cross, they do not.
                if len(runs) == 2:
                    return [(before[0], before[1], count)]
                longer, gone = before[2] + size, {n}
                if before[0] == after[0]:
                    longer, gone = longer + after[2], {n, (n + 1) % len(runs)}
                place = (n - 1) % len(runs)
                runs = [
                    (before[0], before[1], longer) if k == place else run
                    for k, run in enumerate(runs)
                    if k not in gone
                ]
                changed = True
                break
        return runs

    def _is_splinter(self, points: Floats, first: int, size: int, before: int, after: int) -> bool:
        ends = [
            (float(x), float(y))
            for x, y in (points[(first + k) % len(points)] for k in range(size + 1))
        ]
        one, two = self.curves[before], self.curves[after]
        if (
            any(math.dist(end, known) < SAME for end in (ends[0], ends[-1]) for known in self.ends)
            and math.dist(ends[0], ends[-1]) > 50 * FINENESS
        ):
            return False
        near = all(min(one.away(p), two.away(p)) < 3 * FINENESS for p in ends)
        if not near or math.dist(ends[0], ends[-1]) > 0.5:
            return False
        middle = (float((ends[0][0] + ends[-1][0]) / 2), float((ends[0][1] + ends[-1][1]) / 2))
        meeting = [middle] if before == after else meetings(one, two)
        return any(math.dist(p, middle) < 0.5 for p in meeting)

    def _meet(self, one: int, two: int, near: Floats) -> Point:
        """Where two curves meet, by the vertex found there."""
        at = (float(near[0]), float(near[1]))
        first, second = self.curves[one], self.curves[two]
        ends = [e for e in self.ends if first.away(e) < SAME and second.away(e) < SAME]
        found = [*ends, *meetings(first, second)]
        if not found:
            return at
        return min(found, key=lambda point: math.dist(point, at))


def _between(piece: _Piece) -> list[Point]:
    """Vertices of a flattened edge between its ends: on a raster of angles that is the circle's,
    so that two arcs of one circle have the same chords."""
    if not piece.curve.radius:
        return []
    radius = piece.curve.radius
    most = 2 * math.acos(max(0.0, 1 - min(FINENESS, radius / 8) / radius))
    step = 2 * math.pi / math.ceil(2 * math.pi / most)
    (x, y), (sx, sy) = piece.curve.centre, piece.start
    first = math.atan2(sy - y, sx - x)
    low, high = sorted((first, first + piece.sweep))
    angles = [
        k * step
        for k in range(math.ceil(low / step - 1), math.floor(high / step + 1) + 1)
        if low + step / 100 < k * step < high - step / 100
    ]
    return [piece.at(a) for a in (angles if piece.sweep > 0 else reversed(angles))]


def _turn(centre: Point, points: Floats, first: int, count: int) -> float:
    """Angle (rad) that a run of chords turns round a centre."""
    rows = points[(first + np.arange(count + 1)) % len(points)] - np.asarray(centre)
    a, b = rows[:-1], rows[1:]
    return float(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)).sum())


def _edge(curve: Curve, start: Point, end: Point, turn: float) -> list[Corner]:
    """Corners of an edge: one, or two for an arc of more than half a turn."""
    if not curve.radius:
        return [(*start, 0.0)] if math.dist(start, end) > SAME else []
    (x, y), radius = curve.centre, curve.radius
    first = math.atan2(start[1] - y, start[0] - x)
    exact = math.atan2(end[1] - y, end[0] - x) - first
    sweep = exact + 2 * math.pi * round((turn - exact) / (2 * math.pi))
    if abs(sweep) * radius < SAME:
        return []
    if abs(sweep) <= MOST_SWEEP:
        return [(*start, math.tan(sweep / 4))]
    middle = (x + radius * math.cos(first + sweep / 2), y + radius * math.sin(first + sweep / 2))
    return [(*start, math.tan(sweep / 8)), (*middle, math.tan(sweep / 8))]
