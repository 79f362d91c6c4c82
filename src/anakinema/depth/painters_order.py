"""Upright prisms in parallel projection, in an order in which each hides what is behind it.

All walls are upright and all faces level, so the order is exact (docs/methods.md, "Pictures of
the stack"): level planes part the layers, those farther from the eye first; in a layer the walls
from the farthest to the nearest, then the faces that end in it towards the eye, which hide nothing
of their own layer.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.depth.placed import Prism, Trail
from anakinema.geometry.contour import Floats

Place = tuple[float, float]
CORNER = math.radians(32.0)
"""An outline that turns by more than this has an edge there."""
SAME = 1e-6


@dataclass(frozen=True, slots=True)
class Sight:
    """From where it is looked at, as in `camera.Camera`: rad."""

    turn: float
    tilt: float

    def projected(self, x: float, y: float, z: float) -> Place:
        """A point in space as it is seen, mm to the right and up."""
        u = x * math.cos(self.turn) + y * math.sin(self.turn)
        return u, self.back(x, y) * math.sin(self.tilt) + z * math.cos(self.tilt)

    def back(self, x: float, y: float) -> float:
        """How far back a point of the plane is, mm."""
        return y * math.cos(self.turn) - x * math.sin(self.turn)


@dataclass(frozen=True, slots=True)
class Piece:
    """A wall, a face or a trail (which has no prism) as seen, mm: closed rings to be filled, and
    lines to be inked."""

    prism: Prism | None
    is_face: bool
    rings: tuple[tuple[Place, ...], ...]
    lines: tuple[tuple[Place, Place], ...]


def pieces(
    prisms: Sequence[Prism], trails: Sequence[Trail], sight: Sight, *, fine: float, longest: float
) -> list[Piece]:
    """All of them, the farthest first. ``fine`` mm is what chords may miss their arcs by; walls
    longer than ``longest`` mm come in pieces, so that their middles tell which is nearer."""
    heights = [z for prism in prisms for z in (prism.bottom, prism.top)]
    heights += [z for trail in trails for z in (trail.low, trail.high)]
    levels = sorted({round(z, 6) for z in heights})
    is_above = sight.tilt >= 0.0
    layers = list(zip(levels[:-1], levels[1:], strict=True))
    outlines = [_Outline(prism, sight, fine, longest) for prism in prisms]
    found: list[Piece] = []
    for low, high in layers if is_above else reversed(layers):
        walls: list[tuple[float, Piece]] = []
        for each in outlines:
            if each.prism.bottom < high - SAME and each.prism.top > low + SAME:
                walls += each.walls(low, high)
        for trail in trails:
            if trail.low < high - SAME and trail.high > low + SAME:
                ends = tuple(sight.projected(trail.x, trail.y, z) for z in (low, high))
                line = ((ends[0], ends[1]),)
                walls.append((sight.back(trail.x, trail.y), Piece(None, False, (), line)))
        walls.sort(key=lambda wall: -wall[0])
        found += [wall for _, wall in walls]
        for each in outlines:
            ends_here = each.prism.top - high if is_above else each.prism.bottom - low
            if abs(ends_here) <= SAME:
                found.append(each.face(is_above=is_above))
    return found


class _Outline:
    """The outline of a prism, its walls that face the eye and the edges to be inked."""

    def __init__(self, prism: Prism, sight: Sight, fine: float, longest: float) -> None:
        self.prism, self._sight, self._longest = prism, sight, longest
        polygon = shapely.geometry.polygon.orient(prism.slab.polygon.simplify(fine))
        self._rings = [np.array(ring.coords) for ring in (polygon.exterior, *polygon.interiors)]
        self._pieces = [piece for ring in self._rings for piece in self._facing(ring)]

    def _facing(self, ring: Floats) -> list[tuple[Place, Place, bool, bool]]:
        """Pieces of a ring whose walls face the eye, and whether each end is an edge to be seen."""
        start, end = ring[:-1], ring[1:]
        along = end - start
        # Material is on the left, so the wall looks to the right; the eye is in front.
        turn = self._sight.turn
        faces = -along[:, 1] * math.sin(turn) - along[:, 0] * math.cos(turn) < -1e-12
        way = np.arctan2(along[:, 1], along[:, 0])
        bend = np.abs((way - np.roll(way, 1) + np.pi) % (2 * np.pi) - np.pi)
        edge = (bend > CORNER) | (faces != np.roll(faces, 1))
        found = []
        for k in np.flatnonzero(faces):
            count = max(1, math.ceil(float(np.hypot(*along[k])) / self._longest))
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

    def walls(self, low: float, high: float) -> list[tuple[float, Piece]]:
        """How far back they are, and the walls between two levels."""
        prism, sight = self.prism, self._sight
        if sight.tilt >= 0.0:
            rim, has_rim = low, abs(prism.bottom - low) <= SAME
        else:
            rim, has_rim = high, abs(prism.top - high) <= SAME
        found: list[tuple[float, Piece]] = []
        for one, two, first, last in self._pieces:
            a, b = sight.projected(*one, low), sight.projected(*two, low)
            c, d = sight.projected(*two, high), sight.projected(*one, high)
            lines = [(sight.projected(*one, rim), sight.projected(*two, rim))] if has_rim else []
            lines += [(a, d)] if first else []
            lines += [(b, c)] if last else []
            back = sight.back((one[0] + two[0]) / 2, (one[1] + two[1]) / 2)
            found.append((back, Piece(prism, False, ((a, b, c, d),), tuple(lines))))
        return found

    def face(self, *, is_above: bool) -> Piece:
        """Its face towards the eye."""
        z = self.prism.top if is_above else self.prism.bottom
        rings = tuple(
            tuple(self._sight.projected(float(x), float(y), z) for x, y in ring[:-1])
            for ring in self._rings
        )
        return Piece(self.prism, True, rings, ())
