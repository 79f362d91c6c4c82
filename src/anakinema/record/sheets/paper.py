"""A sheet as marks in mm, y upwards from its lower left corner: what every writer is given."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

from anakinema.geometry.contour import Contour, Floats

Place = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Pen:
    """Width mm, colour, and lengths mm of strokes and gaps, none for a full line."""

    width: float = 0.35
    colour: str = "#000000"
    dashes: tuple[float, ...] = ()


THICK, THIN, CENTRE = Pen(0.5), Pen(0.25), Pen(0.18, dashes=(6.0, 1.5, 1.0, 1.5))
"""Lines after ISO 128: visible edges, dimensions and leaders, middles (widths from memory)."""


@dataclass(frozen=True, slots=True)
class Edge:
    """To the point ``to``: straight, or on a circle about ``centre`` through ``sweep`` rad."""

    to: Place
    centre: Place | None = None
    sweep: float = 0.0


@dataclass(frozen=True, slots=True)
class Line:
    """Edges one after the other from ``start``; a closed one may be filled."""

    start: Place
    edges: tuple[Edge, ...]
    pen: Pen | None = THICK
    fill: str | None = None
    closed: bool = False


@dataclass(frozen=True, slots=True)
class Shape:
    """Closed lines that are filled together: what lies within an odd number of them."""

    rings: tuple[Line, ...]
    pen: Pen | None = THICK
    fill: str | None = "#FFFFFF"


@dataclass(frozen=True, slots=True)
class Text:
    """Words of a height ``size`` mm, their base line at ``at``, turned by ``angle`` rad."""

    at: Place
    words: str
    size: float = 3.5
    anchor: Literal["start", "middle", "end"] = "start"
    strong: bool = False
    angle: float = 0.0


Mark = Line | Shape | Text


def straight(
    *places: Place, pen: Pen = THIN, closed: bool = False, fill: str | None = None
) -> Line:
    """A line through places."""
    return Line(places[0], tuple(Edge(place) for place in places[1:]), pen, fill, closed)


def circle(
    x: float, y: float, radius: float, pen: Pen | None = THIN, fill: str | None = None
) -> Line:
    """A full circle, of two halves."""
    left, right = (x - radius, y), (x + radius, y)
    half = Edge(left, (x, y), math.pi), Edge(right, (x, y), math.pi)
    return Line(right, half, pen, fill, True)


def ring(contour: Contour, pose: Floats, scale: float, shift: Place) -> Line:
    """A contour of a body at a pose (3,), to a scale, its plane's origin at ``shift``."""
    c, s = math.cos(pose[2]), math.sin(pose[2])

    def on_paper(points: Floats) -> list[Place]:
        x = (c * points[:, 0] - s * points[:, 1] + pose[0]) * scale + shift[0]
        y = (s * points[:, 0] + c * points[:, 1] + pose[1]) * scale + shift[1]
        return list(zip(x.tolist(), y.tolist(), strict=True))

    starts, ends, centres = (
        on_paper(each) for each in (contour.start, contour.end, contour.centre)
    )
    edges = tuple(
        Edge(end, centre if arc else None, float(sweep))
        for end, centre, arc, sweep in zip(
            ends, centres, contour.is_arc.tolist(), contour.sweep.tolist(), strict=True
        )
    )
    return Line(starts[0], edges, None, None, True)


def moved(mark: Mark, x: float, y: float) -> Mark:
    """A mark elsewhere on the sheet."""
    if isinstance(mark, Text):
        return replace(mark, at=(mark.at[0] + x, mark.at[1] + y))
    if isinstance(mark, Shape):
        return replace(mark, rings=tuple(_moved(each, x, y) for each in mark.rings))
    return _moved(mark, x, y)


def _moved(line: Line, x: float, y: float) -> Line:
    def to(place: Place) -> Place:
        return place[0] + x, place[1] + y

    edges = tuple(
        replace(e, to=to(e.to), centre=None if e.centre is None else to(e.centre))
        for e in line.edges
    )
    return replace(line, start=to(line.start), edges=edges)
