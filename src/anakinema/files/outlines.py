"""Outlines from DXF and SVG files: closed loops of lines and arcs, the rest told, nothing run.

DXF is read by ezdxf (its forgiving reader where the strict one gives up), SVG by svgelements
after defusedxml has looked at it, so that no entity can expand. Curves that are neither lines nor
circular arcs are flattened to 0.005 mm.
"""

from __future__ import annotations

import io
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from anakinema.errors import FileFormatError

MOST_BYTES = 20_000_000
MOST_PIECES = 20_000
DEEPEST = 8
"""Blocks within blocks."""
FLAT = 0.005
JOINED = 1e-3
"""mm; ends nearer than this are one point."""

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Edge:
    """A line, or an arc of bulge tan(sweep / 4), from one point to another, in file units."""

    start: Point
    end: Point
    bulge: float = 0.0

    def reversed(self) -> Edge:
        """The same edge the other way."""
        return Edge(self.end, self.start, -self.bulge)


@dataclass(frozen=True, slots=True)
class Loop:
    """A closed outline: vertices (x, y, bulge) in file units; or a full circle."""

    layer: str
    vertices: tuple[tuple[float, float, float], ...]
    circle: tuple[float, float, float] | None = None

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

    open : number of chains of edges that do not close; notes : what was left out or mended.
    """

    name: str
    loops: tuple[Loop, ...]
    layers: tuple[str, ...]
    open: int
    unit: float | None
    notes: tuple[str, ...]


DXF_UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 2.54e-5, 9: 0.0254, 13: 0.001}
"""$INSUNITS of the published DXF reference: mm that one unit is (from memory)."""


def read_drawing(path: Path) -> Drawing:
    """Read a DXF or SVG file; raises one `FileFormatError` for anything that is neither."""
    where = f"file {path.name}"
    try:
        size = path.stat().st_size
        content = path.read_bytes() if size <= MOST_BYTES else b""
    except OSError as error:
        raise FileFormatError(
            f"{(error.strerror or 'it cannot be opened').lower()}.", where=where,
            remedy="Check the name and the folder.",
        ) from error  # fmt: skip
    if size > MOST_BYTES:
        raise FileFormatError(
            f"it is {size / 1e6:.0f} MB, more than the {MOST_BYTES / 1e6:.0f} MB an outline may"
            " take.",
            where=where,
            remedy="Export only the part's outline.",
        )
    if not content.strip():
        raise FileFormatError("it is empty.", where=where, remedy="Choose another file.")
    reader = _read_svg if path.suffix.lower() == ".svg" else _read_dxf
    edges, circles, layers, unit, notes = reader(content, where)
    if len(edges) + len(circles) > MOST_PIECES:
        raise FileFormatError(
            f"it has more than {MOST_PIECES} lines and arcs.", where=where,
            remedy="Export only the part's outline, with fewer points.",
        )  # fmt: skip
    loops, left = _chained(edges)
    loops += [Loop(layer, (), circle) for layer, circle in circles]
    if not loops:
        found = f"{left} open chains" if left else "nothing"
        raise FileFormatError(
            f"it has no closed outline, only {found}.", where=where,
            remedy="Close the outline where it was drawn, then export it again.",
        )  # fmt: skip
    return Drawing(path.stem, tuple(loops), tuple(dict.fromkeys(layers)), left, unit, tuple(notes))


Found = tuple[
    list[tuple[str, Edge]], list[tuple[str, tuple[float, float, float]]], list[str],
    float | None, list[str],
]  # fmt: skip


def _read_dxf(content: bytes, where: str) -> Found:
    # Slow to import, so not at start.
    from ezdxf import recover
    from ezdxf.document import Drawing as DxfDrawing
    from ezdxf.lldxf.const import DXFError

    notes: list[str] = []
    document: DxfDrawing
    try:
        document, auditor = recover.read(io.BytesIO(content))
        if auditor.has_errors or auditor.has_fixes:
            notes.append("the file is damaged; what could be read is shown")
    except (OSError, DXFError, ValueError, KeyError, IndexError, TypeError,
            AttributeError, RecursionError) as error:  # fmt: skip
        raise FileFormatError(
            "it is not a readable DXF drawing.", where=where,
            remedy="Export it again as DXF (R12 or newer), or as SVG.",
        ) from error  # fmt: skip
    edges: list[tuple[str, Edge]] = []
    circles: list[tuple[str, tuple[float, float, float]]] = []
    layers: list[str] = []
    left: dict[str, int] = {}
    for entity in _flat_entities(document.modelspace(), 0, left):
        kind = entity.dxftype()
        layer = str(entity.dxf.get("layer", "0"))
        if len(edges) > MOST_PIECES:
            break
        try:
            made = _dxf_edges(entity, kind)
        except (ValueError, TypeError, AttributeError, ZeroDivisionError, OverflowError,
                DXFError):  # fmt: skip
            made = None
        if made is None:
            left[kind.lower()] = left.get(kind.lower(), 0) + 1
            continue
        layers.append(layer)
        for item in made:
            if isinstance(item, Edge):
                edges.append((layer, item))
            else:
                circles.append((layer, item))
    notes += [f"{count} of kind {kind} left out" for kind, count in left.items()]
    return edges, circles, layers, DXF_UNITS.get(int(document.units or 0)), notes


def _flat_entities(entities, depth: int, left: dict[str, int]) -> Iterator:  # type: ignore[no-untyped-def, type-arg]
    """Entities with block references resolved, to a depth that no bomb gets through."""
    for count, entity in enumerate(entities):
        if count > MOST_PIECES:
            left["further entities"] = left.get("further entities", 0) + 1
            return
        if entity.dxftype() != "INSERT":
            yield entity
        elif depth >= DEEPEST:
            left["blocks nested too deeply"] = left.get("blocks nested too deeply", 0) + 1
        else:
            yield from _flat_entities(entity.virtual_entities(), depth + 1, left)


def _dxf_edges(entity, kind: str) -> list[Edge | tuple[float, float, float]] | None:  # type: ignore[no-untyped-def]
    """Edges of an entity, or its circle; None for what has no outline."""
    if kind == "LINE":
        a, b = entity.dxf.start, entity.dxf.end
        return [Edge((a.x, a.y), (b.x, b.y))]
    if kind == "CIRCLE":
        c = entity.dxf.center
        return [(c.x, c.y, float(entity.dxf.radius))]
    if kind == "ARC":
        a, b = entity.start_point, entity.end_point
        sweep = math.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360.0 or 360.0)
        return [Edge((a.x, a.y), (b.x, b.y), math.tan(sweep / 4))]
    if kind == "LWPOLYLINE":
        points = [(x, y, bulge) for x, y, bulge in entity.get_points("xyb")]
        return list(_polyline(points, closed=bool(entity.closed)))
    if kind == "POLYLINE" and entity.is_2d_polyline:
        points = [
            (v.dxf.location.x, v.dxf.location.y, float(v.dxf.get("bulge", 0.0)))
            for v in entity.vertices
        ]
        return list(_polyline(points, closed=bool(entity.is_closed)))
    if kind in ("ELLIPSE", "SPLINE"):
        flat = [(p.x, p.y, 0.0) for p in entity.flattening(FLAT)]
        closed = math.dist(flat[0][:2], flat[-1][:2]) < JOINED
        return list(_polyline(flat[:-1] if closed else flat, closed=closed))
    return None


def _polyline(points: Sequence[tuple[float, float, float]], *, closed: bool) -> Iterator[Edge]:
    pairs = list(zip(points, points[1:], strict=False))
    if closed and len(points) > 1:
        pairs.append((points[-1], points[0]))
    for (ax, ay, bulge), (bx, by, _) in pairs:
        yield Edge((ax, ay), (bx, by), bulge)


def _read_svg(content: bytes, where: str) -> Found:
    import defusedxml.ElementTree as safe  # slow to import, so not at start
    from defusedxml.common import DefusedXmlException
    from svgelements import SVG, Shape

    try:
        root = safe.fromstring(content)
    except DefusedXmlException as error:
        raise FileFormatError(
            "it defines entities, which an outline never needs.", where=where,
            remedy="Export it again as plain SVG.",
        ) from error  # fmt: skip
    except (safe.ParseError, ValueError, LookupError) as error:
        raise FileFormatError(
            f"it is not readable SVG: {error}.", where=where,
            remedy="Export it again as plain SVG.",
        ) from error  # fmt: skip
    if not str(root.tag).endswith("svg"):
        raise FileFormatError(
            "it is not an SVG drawing.", where=where, remedy="Choose an SVG or DXF file."
        )
    try:
        # At 25.4 pixels to the inch a length such as 40mm is read as 40.
        svg = SVG.parse(io.BytesIO(content), ppi=25.4, reify=True)
        shapes = [element for element in svg.elements() if isinstance(element, Shape)]
    except Exception as error:
        raise FileFormatError(
            "its shapes cannot be read.", where=where, remedy="Export it again as plain SVG."
        ) from error
    edges: list[tuple[str, Edge]] = []
    circles: list[tuple[str, tuple[float, float, float]]] = []
    layers: list[str] = []
    notes: list[str] = []
    for shape in shapes:
        layer = str(shape.values.get("id") or "drawing")
        try:
            made = _svg_shape(shape)
        except (ValueError, TypeError, AttributeError, ZeroDivisionError, OverflowError):
            notes.append(f"shape {layer} left out")
            continue
        layers.append("drawing")
        for item in made:
            if isinstance(item, Edge):
                edges.append(("drawing", item))
            else:
                circles.append(("drawing", item))
        if len(edges) > MOST_PIECES:
            break
    return edges, circles, layers, 1.0, notes


def _svg_shape(shape) -> Iterator[Edge | tuple[float, float, float]]:  # type: ignore[no-untyped-def]
    """Edges of a shape, y turned up; whole circles as such."""
    from svgelements import Arc, Circle, Close, Line, Move, Path

    if isinstance(shape, Circle) and abs(float(shape.rx) - float(shape.ry)) < 1e-9:
        yield float(shape.cx), -float(shape.cy), float(shape.rx)
        return
    for segment in Path(shape):
        if isinstance(segment, Move) or segment.start is None or segment.end is None:
            continue
        a, b = (segment.start.x, -segment.start.y), (segment.end.x, -segment.end.y)
        if isinstance(segment, (Line, Close)):
            if math.dist(a, b) > 1e-9:
                yield Edge(a, b)
        elif isinstance(segment, Arc) and abs(float(segment.rx) - float(segment.ry)) < 1e-9:
            yield Edge(a, b, math.tan(-float(segment.sweep) / 4))
        else:
            count = max(4, min(64, math.ceil(float(segment.length(error=1e-3)) / 0.5)))
            points = [segment.point(k / count) for k in range(count + 1)]
            for one, two in zip(points, points[1:], strict=False):
                yield Edge((one.x, -one.y), (two.x, -two.y))


def _chained(edges: list[tuple[str, Edge]]) -> tuple[list[Loop], int]:
    """Loops of edges that meet end to end on one layer, and how many chains stay open."""
    loops: list[Loop] = []
    open_chains = 0
    for layer in dict.fromkeys(name for name, _ in edges):
        left = [edge for name, edge in edges if name == layer
                if math.dist(edge.start, edge.end) > 1e-12 or edge.bulge]  # fmt: skip
        ends: dict[tuple[int, int], list[int]] = {}
        for k, edge in enumerate(left):
            for point in (edge.start, edge.end):
                ends.setdefault(_cell(point), []).append(k)
        used = [False] * len(left)
        for k, edge in enumerate(left):
            if used[k]:
                continue
            used[k] = True
            chain = [edge]
            while math.dist(chain[0].start, chain[-1].end) > JOINED:
                following = _next(chain[-1].end, left, ends, used)
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
            for k in ends.get((x + dx, y + dy), ()):
                if used[k]:
                    continue
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
