"""Sheets as PDF, with text that can be selected, and as SVG with true arcs."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator, Sequence
from functools import cache
from typing import Any
from xml.sax.saxutils import escape

from anakinema.record.sheets.paper import Edge, Line, Mark, Pen, Place, Shape, Text
from anakinema.record.sheets.sheet import Sheet
from anakinema.resources import font_paths

PIECE = math.pi / 8
"""Of an arc that one Bézier curve stands for: the error falls with the sixth power."""
MM = 72.0 / 25.4
WORDS = {"⌀": "Ø", "…": "..."}
"""What the font has not, and what stands for it."""


def pdf(sheets: Sequence[Sheet], title: str) -> bytes:
    """One page a sheet; the same bytes for the same sheets."""
    from reportlab.pdfgen.canvas import Canvas  # slow to import, so not at start

    fonts = _registered()
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1, initialFontName=fonts[0])
    canvas.setTitle(title)
    for sheet in sheets:
        canvas.setPageSize((sheet.width * MM, sheet.height * MM))
        canvas.scale(MM, MM)
        canvas.setLineCap(1)
        canvas.setLineJoin(1)
        for mark in sheet.marks:
            _on_page(canvas, mark, fonts)
        canvas.bookmarkPage(sheet.title)
        canvas.addOutlineEntry(sheet.title, sheet.title)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


@cache
def _registered() -> tuple[str, str, frozenset[int]]:
    """Names of the plain and the strong font, and the characters that they have."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    names = []
    for path in font_paths():
        names.append(path.stem)
        pdfmetrics.registerFont(TTFont(path.stem, str(path)))
    known = frozenset(pdfmetrics.getFont(names[0]).face.charToGlyph)
    return names[0], names[-1], known


def written(words: str, known: frozenset[int]) -> str:
    """Words in characters that the font has, others as a question mark."""
    plain = "".join(WORDS.get(c, c) for c in words)
    return "".join(c if ord(c) in known else "?" for c in plain)


def _on_page(canvas: Any, mark: Mark, fonts: tuple[str, str, frozenset[int]]) -> None:
    if isinstance(mark, Text):
        canvas.saveState()
        canvas.translate(*mark.at)
        canvas.rotate(math.degrees(mark.angle))
        canvas.setFillColor("#000000")
        canvas.setFont(fonts[1] if mark.strong else fonts[0], mark.size * 1.36)
        draw = {"start": canvas.drawString, "middle": canvas.drawCentredString}
        draw.get(mark.anchor, canvas.drawRightString)(0, 0, written(mark.words, fonts[2]))
        canvas.restoreState()
        return
    path = canvas.beginPath()
    for line in mark.rings if isinstance(mark, Shape) else (mark,):
        path.moveTo(*line.start)
        at = line.start
        for edge in line.edges:
            if edge.centre is None:
                path.lineTo(*edge.to)
            else:
                for curve in curves(at, edge):
                    path.curveTo(*curve)
            at = edge.to
        if line.closed:
            path.close()
    _take(canvas, mark.pen)
    if mark.fill is not None:
        canvas.setFillColor(mark.fill)
    canvas.drawPath(
        path, stroke=int(mark.pen is not None), fill=int(mark.fill is not None), fillMode=0
    )


def _take(canvas: Any, pen: Pen | None) -> None:
    if pen is not None:
        canvas.setLineWidth(pen.width)
        canvas.setStrokeColor(pen.colour)
        canvas.setDash(*((list(pen.dashes), 0) if pen.dashes else ([], 0)))


def curves(start: Place, edge: Edge) -> Iterator[tuple[float, ...]]:
    """Control points (x1, y1, x2, y2, x3, y3) of the Bézier curves along an arc.

    k = 4/3 tan(d/4) for a piece of the angle d (common practice, no source).
    """
    assert edge.centre is not None
    cx, cy = edge.centre
    radius = math.hypot(start[0] - cx, start[1] - cy)
    first = math.atan2(start[1] - cy, start[0] - cx)
    count = max(1, math.ceil(abs(edge.sweep) / PIECE - 1e-9))
    d = edge.sweep / count
    k = 4 / 3 * math.tan(d / 4)
    for i in range(count):
        a, b = first + i * d, first + (i + 1) * d
        ca, sa, cb, sb = math.cos(a), math.sin(a), math.cos(b), math.sin(b)
        unit = (ca - k * sa, sa + k * ca, cb + k * sb, sb - k * cb, cb, sb)
        yield tuple((cx, cy)[n % 2] + radius * v for n, v in enumerate(unit))


def svg(sheet: Sheet) -> str:
    """A sheet as SVG in mm, arcs as arcs; y is turned round the lines, not the words."""
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_n(sheet.width)}mm"'
        f' height="{_n(sheet.height)}mm" viewBox="0 0 {_n(sheet.width)} {_n(sheet.height)}"'
        ' font-family="Iosevka Aile, sans-serif">',
        f"<title>{escape(sheet.title)}</title>",
    ]
    for mark in sheet.marks:
        if isinstance(mark, Text):
            x, y = mark.at[0], sheet.height - mark.at[1]
            turn = f' transform="rotate({_n(-math.degrees(mark.angle))} {_n(x)} {_n(y)})"'
            strong = ' font-weight="600"' if mark.strong else ""
            lines.append(
                f'<text x="{_n(x)}" y="{_n(y)}" font-size="{_n(mark.size * 1.36)}"'
                f' text-anchor="{mark.anchor}"{turn if mark.angle else ""}{strong}>'
                f"{escape(mark.words)}</text>"
            )
            continue
        rings = mark.rings if isinstance(mark, Shape) else (mark,)
        path = " ".join(_path(line, sheet.height) for line in rings)
        pen = mark.pen
        stroke = (
            'stroke="none"' if pen is None else f'stroke="{pen.colour}" stroke-width="{pen.width}"'
        )
        if pen is not None and pen.dashes:
            stroke += f' stroke-dasharray="{" ".join(map(str, pen.dashes))}"'
        lines.append(
            f'<path d="{path}" {stroke} fill="{mark.fill or "none"}" fill-rule="evenodd"'
            ' stroke-linecap="round" stroke-linejoin="round"/>'
        )
    return "\n".join([*lines, "</svg>", ""])


def _path(line: Line, height: float) -> str:
    words = [f"M {_n(line.start[0])} {_n(height - line.start[1])}"]
    at = line.start
    for edge in line.edges:
        x, y = _n(edge.to[0]), _n(height - edge.to[1])
        if edge.centre is None:
            words.append(f"L {x} {y}")
        else:
            radius = math.hypot(at[0] - edge.centre[0], at[1] - edge.centre[1])
            large = int(abs(edge.sweep) > math.pi)
            # Seen with y downwards, anticlockwise is the other way.
            words.append(f"A {_n(radius)} {_n(radius)} 0 {large} {int(edge.sweep < 0)} {x} {y}")
        at = edge.to
    return " ".join([*words, "Z"] if line.closed else words)


def _n(value: float) -> str:
    return f"{value:.6f}".rstrip("0").rstrip(".") or "0"
