"""A drawing on its way in: lines, arcs and circles, chained to closed outlines."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from anakinema.bounded import MOST_ITEMS
from anakinema.errors import FileFormatError

MOST_PIECES = 20_000
"""Lines, arcs and circles of a drawing, after all that repeats them is written out."""
FARTHEST = 1e6
"""File units from the origin beyond which nothing is taken for an outline."""
MOST_NOTES = 12
FLAT = 0.005
"""File units by which a flattened curve may be off."""
COARSE = 2e-6
"""The same as a share of a curve's size, where that is more."""
JOINED = 1e-3
"""File units; ends nearer than this are one point."""
MOST_BULGE = 1e4
"""Bulges beyond this are full circles."""

HERE = "here"
"""Stands for the file in errors; who asked knows its name."""

Point = tuple[float, float]
Circle = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Edge:
    """A line, or an arc of bulge tan(sweep / 4), from one point to another, in file units."""

    start: Point
    end: Point
    bulge: float = 0.0

    def reversed(self) -> Edge:
        """The same edge the other way."""
        return Edge(self.end, self.start, -self.bulge)


Piece = Edge | Circle


@dataclass(frozen=True, slots=True)
class Loop:
    """A closed outline: vertices (x, y, bulge) in file units; or a full circle."""

    layer: str
    vertices: tuple[tuple[float, float, float], ...]
    circle: Circle | None = None

    def area(self) -> float:
        """Enclosed area, sign dropped (arcs exact)."""
        if self.circle is not None:
            return math.pi * self.circle[2] ** 2
        total = 0.0
        following = (*self.vertices[1:], self.vertices[0])
        for (ax, ay, bulge), (bx, by, _) in zip(self.vertices, following, strict=True):
            total += (ax * by - bx * ay) / 2
            if bulge:
                sweep = 4 * math.atan(bulge)
                chord = math.hypot(bx - ax, by - ay)
                radius = chord * (1 + bulge * bulge) / (4 * abs(bulge))
                total += radius**2 * (sweep - math.sin(sweep)) / 2
        return abs(total)


@dataclass(frozen=True, slots=True)
class Drawing:
    """What a file holds. unit : mm that one file unit is, None if the file does not say.

    layers : those with closed outlines; open : number of chains of edges that do not close;
    notes : what was left out or mended.
    """

    name: str
    loops: tuple[Loop, ...]
    layers: tuple[str, ...]
    open: int
    unit: float | None
    notes: tuple[str, ...]


@dataclass(slots=True)
class Found:
    """What a reader has found so far: pieces by layer, and what it had to leave out."""

    where: str
    pieces: list[tuple[str, Piece]] = field(default_factory=list)
    unit: float | None = None
    mended: list[str] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)
    others: dict[str, int] = field(default_factory=dict)

    def take(self, layer: str, entity: str, pieces: Sequence[Piece]) -> None:
        """Take an entity's pieces, or leave it out by name if one of them cannot be.

        Raises `FileFormatError` if these are more than a drawing may have.
        """
        if any(not _is_sound(piece) for piece in pieces):
            self.left_out.append(
                f"{entity} left out: it has no size, or reaches farther than {FARTHEST:,.0f} units"
            )
            return
        self.pieces += [(layer, piece) for piece in pieces]
        if len(self.pieces) > MOST_PIECES:
            raise too_many(self.where, f"{entity} is where it goes beyond")

    def leave(self, kind: str) -> None:
        """Leave out something of a kind that has no outline."""
        self.others[kind] = self.others.get(kind, 0) + 1

    def drawing(self, name: str) -> Drawing:
        """All closed outlines; raises `FileFormatError` if there are none."""
        loops, left = _chained(self.pieces)
        kept = []
        for loop in loops:
            if len(loop.vertices) > MOST_ITEMS:
                self.left_out.append(
                    f"an outline of {len(loop.vertices)} corners on layer {loop.layer} left out:"
                    f" {MOST_ITEMS} are the most"
                )
            else:
                kept.append(loop)
        notes = self._notes()
        if not kept:
            found = f"only {left} open chain{'s' if left != 1 else ''}" if left else "nothing else"
            raise FileFormatError(
                f"it has no closed outline that can be taken, {found}."
                + "".join(f" {note[:1].upper()}{note[1:]}." for note in notes[:2]),
                where=self.where,
                remedy="Close the outline where it was drawn, then export it again.",
            )
        layers = tuple(dict.fromkeys(loop.layer for loop in kept))
        return Drawing(name, tuple(kept), layers, left, self.unit, tuple(notes))

    def _notes(self) -> list[str]:
        notes = [*self.mended, *self.left_out[:MOST_NOTES]]
        if len(self.left_out) > MOST_NOTES:
            notes.append(f"{len(self.left_out) - MOST_NOTES} more left out for the like")
        return [*notes, *(f"{n} of kind {kind} left out" for kind, n in self.others.items())]


def too_many(where: str, place: str) -> FileFormatError:
    """The error for a drawing of more pieces than one may have."""
    return FileFormatError(
        f"it has more than {MOST_PIECES:,} lines and arcs; {place}.",
        where=where,
        remedy="Export only the part's outline, with fewer points.",
    )


def edges_through(points: Sequence[tuple[float, float, float]], *, closed: bool) -> list[Edge]:
    """Edges from point to point, each bent by the bulge of where it starts."""
    pairs = list(zip(points, points[1:], strict=False))
    if closed and len(points) > 1:
        pairs.append((points[-1], points[0]))
    return [Edge((ax, ay), (bx, by), bulge) for (ax, ay, bulge), (bx, by, _) in pairs]


def _is_sound(piece: Piece) -> bool:
    if isinstance(piece, Edge):
        numbers = (*piece.start, *piece.end)
        return all(abs(v) <= FARTHEST for v in numbers) and abs(piece.bulge) <= MOST_BULGE
    return all(abs(v) <= FARTHEST for v in piece) and piece[2] > 0


def _chained(pieces: list[tuple[str, Piece]]) -> tuple[list[Loop], int]:
    """Loops of edges that meet end to end on one layer, and how many chains stay open."""
    loops: list[Loop] = []
    open_chains = 0
    by_layer: dict[str, list[Edge]] = {}
    for layer, piece in pieces:
        if not isinstance(piece, Edge):
            loops.append(Loop(layer, (), piece))
        elif math.dist(piece.start, piece.end) > 1e-12 or piece.bulge:
            by_layer.setdefault(layer, []).append(piece)
    for layer, edges in by_layer.items():
        ends: dict[tuple[int, int], list[int]] = {}
        for k, edge in enumerate(edges):
            for cell in dict.fromkeys((_cell(edge.start), _cell(edge.end))):
                ends.setdefault(cell, []).append(k)
        used = [False] * len(edges)
        for k, edge in enumerate(edges):
            if used[k]:
                continue
            used[k] = True
            chain = [edge]
            while math.dist(chain[0].start, chain[-1].end) > JOINED:
                following = _next(chain[-1].end, edges, ends, used)
                if following is None:
                    break
                chain.append(following)
            if math.dist(chain[0].start, chain[-1].end) <= JOINED and len(chain) > 1:
                vertices = tuple((e.start[0], e.start[1], e.bulge) for e in chain)
                loops.append(_simplified(layer, vertices))
            else:
                open_chains += 1
    return loops, open_chains


def _cell(point: Point) -> tuple[int, int]:
    return round(point[0] / JOINED), round(point[1] / JOINED)


def _next(
    at: Point, edges: list[Edge], ends: dict[tuple[int, int], list[int]], used: list[bool]
) -> Edge | None:
    x, y = _cell(at)
    for dx in (0, -1, 1):
        for dy in (0, -1, 1):
            near = ends.get((x + dx, y + dy), [])
            # What is used stays so: many edges that meet at one point are not looked at again.
            near[:] = [k for k in near if not used[k]]
            for k in near:
                edge = edges[k]
                if math.dist(edge.start, at) <= JOINED:
                    used[k] = True
                    return edge
                if math.dist(edge.end, at) <= JOINED:
                    used[k] = True
                    return edge.reversed()
    return None


def _simplified(layer: str, vertices: tuple[tuple[float, float, float], ...]) -> Loop:
    """A loop of arcs about one centre is a circle."""
    if all(abs(bulge) > 1e-9 for _, _, bulge in vertices):
        centres = []
        following = (*vertices[1:], vertices[0])
        for (ax, ay, bulge), (bx, by, _) in zip(vertices, following, strict=True):
            reach = (1 - bulge * bulge) / (4 * bulge)
            centre = ((ax + bx) / 2 - reach * (by - ay), (ay + by) / 2 + reach * (bx - ax))
            centres.append((*centre, math.hypot(ax - centre[0], ay - centre[1])))
        first = centres[0]
        if all(math.dist(first, other) < JOINED for other in centres):
            return Loop(layer, (), first)
    return Loop(layer, vertices)
