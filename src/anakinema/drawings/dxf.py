"""Lines, arcs and circles of a DXF file, read by ezdxf's forgiving reader.

Blocks are counted before they are expanded, and curves before they are flattened.
"""

from __future__ import annotations

import io
import itertools
import math
from collections.abc import Iterator

from anakinema.drawings.drawing import (
    COARSE,
    FARTHEST,
    FLAT,
    JOINED,
    MOST_PIECES,
    Edge,
    Found,
    Piece,
    edges_through,
    too_many,
)
from anakinema.errors import FileFormatError

DEEPEST = 8
"""Blocks within blocks."""
MOST_CONTROL = 2000
"""Control points of a spline."""

UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 2.54e-5, 9: 0.0254, 13: 0.001}
"""$INSUNITS of the published DXF reference: mm that one unit is (from memory)."""


def read_dxf(content: bytes, where: str) -> Found:
    """What a DXF file holds; raises `FileFormatError`."""
    from ezdxf import recover  # slow to import, so not at start
    from ezdxf.lldxf.const import DXFError

    found = Found(where)
    try:
        document, auditor = recover.read(io.BytesIO(content))
    except (
        OSError,
        DXFError,
        ValueError,
        KeyError,
        IndexError,
        TypeError,
        AttributeError,
        RecursionError,
    ) as error:
        raise FileFormatError(
            "it is not a readable DXF drawing.",
            where=where,
            remedy="Export it again as DXF (R12 or newer), or as SVG.",
        ) from error
    if auditor.has_errors or auditor.has_fixes:
        found.mended.append("the file is damaged; what could be read is shown")
    found.unit = UNITS.get(int(document.units or 0))
    space = document.modelspace()
    counts = _Counts(document)
    if counts.of(space) > MOST_PIECES:
        raise too_many(where, counts.blame(space))
    for entity in _flat(space, 0, found):
        kind = entity.dxftype()
        layer = str(entity.dxf.get("layer", "0"))
        name = f"{kind.lower()} #{entity.dxf.get('handle', '?')} on layer {layer[:40]}"
        try:
            pieces = _pieces(entity, kind)
        except (
            ValueError,
            TypeError,
            AttributeError,
            ZeroDivisionError,
            OverflowError,
            IndexError,
            DXFError,
        ) as error:
            found.left_out.append(f"{name} left out: {_words(error)}")
            continue
        if pieces is None:
            found.leave(kind.lower())
        else:
            found.take(layer, name, pieces)
    return found


def _words(error: Exception) -> str:
    words = str(error).splitlines()
    return words[0][:80] if words and isinstance(error, ValueError) else "it cannot be read"


class _Counts:
    """How many entities come of a layout or block when all references are written out."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        self.blocks = document.blocks
        self.known: dict[str, int] = {}

    def of(self, entities) -> int:  # type: ignore[no-untyped-def]
        """The count; more than can be if a block refers to itself."""
        return sum(self._one(entity, 0) for entity in entities)

    def blame(self, entities) -> str:  # type: ignore[no-untyped-def]
        """The reference that brings the most."""
        worst = max(entities, key=lambda entity: self._one(entity, 0))
        if worst.dxftype() != "INSERT":
            return f"there are {len(entities):,} of them"
        return f"block {str(worst.dxf.name)[:40]} alone brings {self._one(worst, 0):,}"

    def _one(self, entity, depth: int) -> int:  # type: ignore[no-untyped-def]
        kind = entity.dxftype()
        if kind == "POLYLINE":
            return len(entity.vertices)
        if kind == "LWPOLYLINE":
            return len(entity)
        if kind != "INSERT":
            return 1
        rows, columns = (max(int(entity.dxf.get(n, 1)), 1) for n in ("row_count", "column_count"))
        return rows * columns * self._block(str(entity.dxf.name), depth + 1)

    def _block(self, name: str, depth: int) -> int:
        if depth > DEEPEST:
            return 0
        # What a block brings depends on how deep it stands, for there is a floor to it.
        key = f"{depth}|{name}"
        if key not in self.known:
            block = self.blocks.get(name)
            entities = [] if block is None else list(block)
            self.known[key] = sum(self._one(entity, depth) for entity in entities)
        return self.known[key]


def _flat(entities, depth: int, found: Found) -> Iterator:  # type: ignore[no-untyped-def, type-arg]
    """Entities with block references resolved."""
    for entity in entities:
        if entity.dxftype() != "INSERT":
            yield entity
        elif depth >= DEEPEST:
            found.leave("block nested too deeply")
        else:
            singles = entity.multi_insert() if entity.mcount > 1 else (entity,)
            for single in singles:
                yield from _flat(single.virtual_entities(), depth + 1, found)


def _pieces(entity, kind: str) -> list[Piece] | None:  # type: ignore[no-untyped-def]
    """Edges of an entity, or its circle; None for what has no outline."""
    if kind == "LINE":
        a, b = entity.dxf.start, entity.dxf.end
        return [Edge((a.x, a.y), (b.x, b.y))]
    if kind == "CIRCLE":
        c = entity.dxf.center
        return [(c.x, c.y, float(entity.dxf.radius))]
    if kind == "ARC":
        c, radius = entity.dxf.center, float(entity.dxf.radius)
        sweep = math.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360.0 or 360.0)
        if sweep > math.tau - 1e-9:
            return [(c.x, c.y, radius)]
        a, b = entity.start_point, entity.end_point
        return [Edge((a.x, a.y), (b.x, b.y), math.tan(sweep / 4))]
    if kind == "LWPOLYLINE":
        points = [(x, y, bulge) for x, y, bulge in entity.get_points("xyb")]
        return list(edges_through(points, closed=bool(entity.closed)))
    if kind == "POLYLINE" and entity.is_2d_polyline:
        points = [
            (v.dxf.location.x, v.dxf.location.y, float(v.dxf.get("bulge", 0.0)))
            for v in entity.vertices
        ]
        return list(edges_through(points, closed=bool(entity.is_closed)))
    if kind in ("ELLIPSE", "SPLINE"):
        return list(_flattened(entity, kind))
    return None


def _flattened(entity, kind: str) -> list[Edge]:  # type: ignore[no-untyped-def]
    """A smooth curve as lines, as fine as its size allows."""
    if kind == "ELLIPSE":
        reach = math.hypot(*entity.dxf.major_axis)
    else:
        points = [*entity.control_points, *entity.fit_points]
        if len(points) > MOST_CONTROL:
            raise ValueError(f"it has {len(points):,} points, {MOST_CONTROL:,} are the most")
        reach = max((abs(v) for p in points for v in (p[0], p[1])), default=0.0)
    if not 0 < reach <= FARTHEST:
        raise ValueError(f"it has no size, or reaches farther than {FARTHEST:,.0f} units")
    flattening = entity.flattening(max(FLAT, COARSE * reach))
    flat = [(p.x, p.y, 0.0) for p in itertools.islice(flattening, MOST_PIECES + 1)]
    closed = math.dist(flat[0][:2], flat[-1][:2]) < JOINED
    return edges_through(flat[:-1] if closed else flat, closed=closed)
