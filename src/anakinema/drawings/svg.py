"""Lines, arcs and circles of an SVG file, read by svgelements after defusedxml has seen it.

So no entity can expand; what `use` repeats is counted before it is written out.
"""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterator
from typing import Any

from anakinema.drawings.drawing import MOST_PIECES, Edge, Found, Piece, too_many
from anakinema.errors import FileFormatError

LINK = ("href", "{http://www.w3.org/1999/xlink}href")
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)")


def read_svg(content: bytes, where: str) -> Found:
    """What an SVG file holds; raises `FileFormatError`."""
    import defusedxml.ElementTree as safe  # slow to import, so not at start
    from defusedxml.common import DefusedXmlException
    from svgelements import SVG, Shape

    try:
        root = safe.fromstring(content)
    except DefusedXmlException as error:
        raise FileFormatError(
            "it defines entities, which an outline never needs.",
            where=where,
            remedy="Export it again as plain SVG.",
        ) from error
    except (safe.ParseError, ValueError, LookupError) as error:
        raise FileFormatError(
            f"it is not readable SVG: {error}.", where=where, remedy="Export it again as plain SVG."
        ) from error
    if not str(root.tag).endswith("svg"):
        raise FileFormatError(
            "it is not an SVG drawing.", where=where, remedy="Choose an SVG or DXF file."
        )
    _count(root, where)
    try:
        # At 25.4 pixels to the inch a length such as 40mm is read as 40.
        svg = SVG.parse(io.BytesIO(content), ppi=25.4, reify=True)
        shapes = [element for element in svg.elements() if isinstance(element, Shape)]
    except Exception as error:
        raise FileFormatError(
            "its shapes cannot be read.", where=where, remedy="Export it again as plain SVG."
        ) from error
    found = Found(where, unit=1.0)
    for number, shape in enumerate(shapes, start=1):
        title = str(shape.values.get("id") or f"number {number}")[:40]
        name = f"{type(shape).__name__.lower()} {title}"
        try:
            pieces = list(_pieces(shape))
        except (ValueError, TypeError, AttributeError, ZeroDivisionError, OverflowError):
            found.left_out.append(f"{name} left out: it cannot be read; tell sizes in mm or none")
            continue
        found.take("drawing", name, pieces)
    return found


def _count(root: Any, where: str) -> None:
    """Raise a `FileFormatError` if more would come of an element tree than a drawing may have.

    Without recursion, for trees may be as deep as a file is long.
    """
    by_id = {element.get("id"): element for element in root.iter() if element.get("id")}
    total: dict[int, int] = {}
    open_ones: set[int] = set()
    stack = [(root, False)]
    while stack:
        element, done = stack.pop()
        key = id(element)
        parts = [child for child in element if isinstance(child.tag, str)]
        target = _used(element, by_id)
        parts += [target] if target is not None else []
        if done:
            own = 1 + len(_NUMBER.findall(element.get("d") or element.get("points") or "")) // 2
            total[key] = own + sum(total[id(part)] for part in parts)
            open_ones.discard(key)
            # The library writes out definitions too, whether they show or not.
            if total[key] > 2 * MOST_PIECES:
                title = element.get("id") or str(element.tag).rpartition("}")[2]
                raise too_many(where, f"element {title[:40]} brings {total[key]:,}")
            continue
        if key in total:
            continue
        open_ones.add(key)
        stack.append((element, True))
        for part in parts:
            if id(part) in open_ones:
                raise FileFormatError(
                    f"element {(element.get('id') or 'use')[:40]} refers to what it is part of.",
                    where=where,
                    remedy="Export it again as plain SVG.",
                )
            if id(part) not in total:
                stack.append((part, False))


def _used(element: Any, by_id: dict[str, Any]) -> Any | None:
    if not str(element.tag).endswith("use"):
        return None
    link = next((element.get(name) for name in LINK if element.get(name)), "")
    return by_id.get(link.removeprefix("#"))


def _pieces(shape: Any) -> Iterator[Piece]:
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
            if not math.dist(a, b) <= 1e-9:
                yield Edge(a, b)
        elif isinstance(segment, Arc) and abs(float(segment.rx) - float(segment.ry)) < 1e-9:
            yield Edge(a, b, math.tan(-float(segment.sweep) / 4))
        else:
            count = max(4, min(64, math.ceil(float(segment.length(error=1e-3)) / 0.5)))
            points = [segment.point(k / count) for k in range(count + 1)]
            for one, two in zip(points, points[1:], strict=False):
                yield Edge((one.x, -one.y), (two.x, -two.y))
