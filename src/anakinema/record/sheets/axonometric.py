"""Bodies seen from above at an angle, in parallel projection, drawn from back to front.

All walls are upright and all faces level, so the order is exact (docs/methods.md, "Pictures of
the stack"): level planes part the layers, the lowest layer first; in a layer the walls from the
farthest to the nearest, then the faces that end in it, which hide nothing of their own layer.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.geometry.contour import Floats
from anakinema.record.sheets.paper import Edge, Line, Mark, Pen, Place, Shape, straight
from anakinema.record.sheets.views import PlacedSlab

TURN, TILT = math.radians(30.0), math.radians(40.0)
"""From where it is looked at: round the upright, and above the level."""
CORNER = math.radians(32.0)
"""An outline that turns by more than this has an edge there."""
LONG = 24.0
"""mm of paper; longer walls are drawn in pieces, so that their middles tell which is nearer."""
FACE, WALL, DIM_FACE, DIM_WALL = "#FFFFFF", "#DDE1E4", "#FFFFFF", "#F3F4F5"
INK, SEAM, FAINT = Pen(0.35), 0.15, Pen(0.18, "#9AA3A9")
TRAIL = Pen(0.18, "#60686E", (3.0, 1.2))


@dataclass(frozen=True, slots=True)
class Prism:
    """A slab as drawn: raised by ``lift`` mm; a ``faint`` one stands back."""

    slab: PlacedSlab
    lift: float = 0.0
    faint: bool = False

    @property
    def bottom(self) -> float:
        return self.slab.bottom + self.lift

    @property
    def top(self) -> float:
        return self.slab.top + self.lift


@dataclass(frozen=True, slots=True)
class Trail:
    """An upright line over a point of the plane, from one height to another, mm."""

    x: float
    y: float
    low: float
    high: float


def projected(x: float, y: float, z: float) -> Place:
    """A point in space as it is seen, mm."""
    u = x * math.cos(TURN) - y * math.sin(TURN)
    depth = x * math.sin(TURN) + y * math.cos(TURN)
    return u, depth * math.sin(TILT) + z * math.cos(TILT)


def seen_box(prisms: Sequence[Prism]) -> tuple[float, float, float, float]:
    """What holds all of them as they are seen."""
    places = []
    for prism in prisms:
        rim = shapely.get_coordinates(prism.slab.polygon.convex_hull)
        for z in (prism.bottom, prism.top):
            places += [projected(float(x), float(y), z) for x, y in rim]
    found = np.array(places)
    (a, b), (c, d) = found.min(axis=0), found.max(axis=0)
    return float(a), float(b), float(c), float(d)


def seen(
    prisms: Sequence[Prism], trails: Sequence[Trail], scale: float, shift: Place
) -> list[Mark]:
    """Marks of all of them, the farthest first."""
    levels = sorted(
        {round(z, 6) for prism in prisms for z in (prism.bottom, prism.top)}
        | {round(z, 6) for trail in trails for z in (trail.low, trail.high)}
    )
    marks: list[Mark] = []
    outlines = [_Outline(prism, scale, shift) for prism in prisms]
    for low, high in zip(levels[:-1], levels[1:], strict=True):
        walls: list[tuple[float, list[Mark]]] = []
        for each in outlines:
            if each.prism.bottom < high - 1e-6 and each.prism.top > low + 1e-6:
                walls += each.walls(low, high)
        for trail in trails:
            if trail.low < high - 1e-6 and trail.high > low + 1e-6:
                ends = [
                    _on_paper(projected(trail.x, trail.y, z), scale, shift) for z in (low, high)
                ]
                walls.append((_depth(trail.x, trail.y), [straight(*ends, pen=TRAIL)]))
        for _, some in sorted(walls, key=lambda wall: -wall[0]):
            marks += some
        for each in outlines:
            if abs(each.prism.top - high) <= 1e-6:
                marks.append(each.face())
    return marks


def _depth(x: float, y: float) -> float:
    """How far back a point of the plane is."""
    return x * math.sin(TURN) + y * math.cos(TURN)


def _on_paper(place: Place, scale: float, shift: Place) -> Place:
    return place[0] * scale + shift[0], place[1] * scale + shift[1]


class _Outline:
    """The outline of a prism, its walls that face the eye and the edges to be inked."""

    def __init__(self, prism: Prism, scale: float, shift: Place) -> None:
        self.prism, self.scale, self.shift = prism, scale, shift
        # Chords a tenth of a pen from their arcs on paper.
        simple = prism.slab.polygon.simplify(0.04 / scale)
        polygon = shapely.geometry.polygon.orient(simple)
        self.rings = [np.array(ring.coords) for ring in (polygon.exterior, *polygon.interiors)]
        self._pieces = [piece for ring in self.rings for piece in self._facing(ring)]

    def _facing(self, ring: Floats) -> list[tuple[Place, Place, bool, bool]]:
        """Pieces of a ring whose walls face the eye, and whether each end is an edge to be seen."""
        start, end = ring[:-1], ring[1:]
        along = end - start
        # Material is on the left, so the wall looks to the right; the eye is at low depth.
        faces = along[:, 1] * math.sin(TURN) - along[:, 0] * math.cos(TURN) < -1e-12
        turn = np.arctan2(along[:, 1], along[:, 0])
        bend = np.abs((turn - np.roll(turn, 1) + np.pi) % (2 * np.pi) - np.pi)
        edge = (bend > CORNER) | (faces != np.roll(faces, 1))
        found = []
        for k in np.flatnonzero(faces):
            count = max(1, math.ceil(float(np.hypot(*along[k])) * self.scale / LONG))
            for i in range(count):
                one, two = start[k] + along[k] * i / count, start[k] + along[k] * (i + 1) / count
                found.append(
                    (
                        (float(one[0]), float(one[1])),
                        (float(two[0]), float(two[1])),
                        bool(edge[k]) and i == 0,
                        bool(edge[(k + 1) % len(edge)]) and i == count - 1,
                    )
                )
        return found

    def _at(self, x: float, y: float, z: float) -> Place:
        return _on_paper(projected(x, y, z), self.scale, self.shift)

    def walls(self, low: float, high: float) -> list[tuple[float, list[Mark]]]:
        """Depth and marks of the walls between two levels."""
        prism = self.prism
        fill, ink = (DIM_WALL, FAINT) if prism.faint else (WALL, INK)
        is_lowest = abs(prism.bottom - low) <= 1e-6
        found: list[tuple[float, list[Mark]]] = []
        for one, two, first, last in self._pieces:
            a, b = self._at(*one, low), self._at(*two, low)
            c, d = self._at(*two, high), self._at(*one, high)
            # A seam of its own colour, or paper shows between neighbours.
            marks: list[Mark] = [straight(a, b, c, d, pen=Pen(SEAM, fill), closed=True, fill=fill)]
            if is_lowest:
                marks.append(straight(a, b, pen=ink))
            marks += [straight(*ends, pen=ink) for ends in ((a, d),) if first]
            marks += [straight(*ends, pen=ink) for ends in ((b, c),) if last]
            found.append((_depth((one[0] + two[0]) / 2, (one[1] + two[1]) / 2), marks))
        return found

    def face(self) -> Shape:
        """Its upper face."""
        prism = self.prism
        rings = []
        for ring in self.rings:
            places = [self._at(float(x), float(y), prism.top) for x, y in ring[:-1]]
            rings.append(Line(places[0], tuple(map(Edge, places[1:])), None, None, True))
        fill, ink = (DIM_FACE, FAINT) if prism.faint else (FACE, INK)
        return Shape(tuple(rings), ink, fill)
