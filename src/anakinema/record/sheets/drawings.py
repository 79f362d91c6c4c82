"""The drawings of a mechanism: all of it at a pose with item balloons, and each made part."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely import affinity

from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidPart, SolidSlab
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Contour, Floats
from anakinema.record.listed_parts import Row, mass_of, parts_list
from anakinema.record.sheets.layout import (
    A3,
    A4,
    APART,
    BALLOON,
    BLOCK,
    LEFT,
    MARGIN,
    OFF,
    ROWS,
    Fields,
    across,
    balloon,
    framed,
    length_words,
    scale_for,
    scale_words,
    shortened,
    spread,
    upright,
)
from anakinema.record.sheets.paper import (
    CENTRE,
    THICK,
    Mark,
    Place,
    Shape,
    Sheet,
    Text,
    ring,
    straight,
)

LINE = 6.0
"""mm, height of a line of the parts table."""
COLUMNS = (("Item", 12.0), ("Off", 12.0), ("Name", 70.0), ("Material", 36.0), ("Thick", 22.0),
           ("Mass", 28.0))  # fmt: skip
LISTED = 66.0
"""mm, width of the words beside a part."""
NOTE = "Square to the plane. Check sizes and clearances before cutting."


def sheets_of(evaluation: Evaluation, poses: Floats) -> list[Sheet]:
    """The general arrangement at poses (B, 3), a parts list, and a sheet for each made part."""
    rows = parts_list(evaluation.resolved)
    solid = [row for row in rows if evaluation.resolved.parts[row.id].slabs]
    made = [row for row in solid if row.supply == "made"]
    pages = -(-len(rows) // _room_for_lines())
    count = (1 if solid else 0) + pages + len(made)
    title, found = evaluation.document.name, []
    if solid:
        found.append(_arrangement(evaluation, poses, rows, f"1 of {count}"))
    for page in range(pages):
        some = rows[page * _room_for_lines() : (page + 1) * _room_for_lines()]
        found.append(_table_sheet(title, some, f"{len(found) + 1} of {count}"))
    for row in made:
        number = f"{len(found) + 1} of {count}"
        found.append(_part_sheet(title, row, evaluation.resolved.parts[row.id], number))
    return found


def _room_for_lines() -> int:
    return int((A4[1] - 2 * MARGIN - sum(ROWS) - 20) / LINE)


# All of it ------------------------------------------------------------------------------------


def _arrangement(
    evaluation: Evaluation, poses: Floats, rows: tuple[Row, ...], number: str
) -> Sheet:
    resolved = evaluation.resolved
    slabs = _by_height(resolved, poses)
    low_x, low_y, high_x, high_y = shapely.union_all([p for _, _, p in slabs]).bounds
    left, low = LEFT + BALLOON * 2 + 22, MARGIN + sum(ROWS) + 24
    room = A3[0] - MARGIN - left - BALLOON * 2 - 14, A3[1] - MARGIN - 10 - low
    scale = scale_for(high_x - low_x, high_y - low_y, room)
    wide, high = (high_x - low_x) * scale, (high_y - low_y) * scale
    x, y = left + (room[0] - wide) / 2, low + (room[1] - high) / 2
    shift = x - low_x * scale, y - low_y * scale
    fields = Fields(
        evaluation.document.name, "General arrangement", scale_words(scale), number, "A3", NOTE
    )
    marks = framed(A3, fields)
    for body, slab, _ in slabs:
        rings = tuple(ring(c, poses[body], scale, shift) for c in slab.region.contours)
        marks.append(Shape(rings, THICK))
    marks += across(x, x + wide, y, y - OFF, high_x - low_x)
    marks += upright(y, y + high, x, x - OFF, high_y - low_y)
    tips = _tips(resolved, slabs, rows)
    on_paper = {
        item: (tip[0] * scale + shift[0], tip[1] * scale + shift[1]) for item, tip in tips.items()
    }
    marks += _balloons(on_paper, x - OFF - 12, x + wide + 14, low, low + room[1])
    return Sheet("General arrangement", *A3, tuple(marks))


def _by_height(resolved: Resolved, poses: Floats) -> list[tuple[int, SolidSlab, shapely.Polygon]]:
    """(body, slab, its polygon in the plane) of all, the lowest first."""
    found = []
    for k, body in enumerate(resolved.document.bodies):
        for slab in resolved.part_of(body).slabs:
            turned = affinity.rotate(slab.region.polygon, poses[k, 2], (0, 0), use_radians=True)
            polygon = affinity.translate(turned, poses[k, 0], poses[k, 1])
            found.append((float(resolved.heights[k]) + slab.top, k, slab, polygon))
    return [(k, slab, polygon) for _, k, slab, polygon in sorted(found, key=lambda e: (e[0], e[1]))]


def _tips(
    resolved: Resolved, slabs: list[tuple[int, SolidSlab, shapely.Polygon]], rows: tuple[Row, ...]
) -> dict[int, Place]:
    """By item number a place where one of its bodies is seen, or where it would be."""
    seen: dict[int, shapely.Geometry] = {}
    above = shapely.Polygon()
    for body, _, polygon in reversed(slabs):
        rest = polygon.difference(above)
        best = max(getattr(rest, "geoms", [rest]), key=lambda part: part.area)
        if body not in seen or best.area > seen[body].area:
            seen[body] = best if not best.is_empty else polygon
        above = above.union(polygon)
    tips: dict[int, Place] = {}
    for row in rows:
        bodies = [
            k for k, b in enumerate(resolved.document.bodies) if b.part == row.id and k in seen
        ]
        if bodies:
            largest = max(bodies, key=lambda k: seen[k].area)
            point = seen[largest].representative_point()
            tips[row.item] = (point.x, point.y)
    return tips


def _balloons(
    tips: dict[int, Place], left: float, right: float, low: float, high: float
) -> list[Mark]:
    """Half of them on each side, in the order of what they point at."""
    order = sorted(tips, key=lambda item: tips[item][0])
    sides = (left, order[: len(order) // 2]), (right, order[len(order) // 2 :])
    marks: list[Mark] = []
    for x, items in sides:
        rising = sorted(items, key=lambda item: tips[item][1])
        heights = spread([tips[item][1] for item in rising], APART, low, high)
        for item, y in zip(rising, heights, strict=True):
            marks += balloon((x, y), tips[item], item)
    return marks


# Lists and parts -----------------------------------------------------------------------------


def _table_sheet(title: str, rows: tuple[Row, ...], number: str) -> Sheet:
    marks = framed(A4, Fields(title, "Parts list", "none", number, "A4"))
    y = A4[1] - MARGIN - 14
    entries = [tuple(name for name, _ in COLUMNS), *map(_cells, rows)]
    for k, cells in enumerate(entries):
        x = LEFT
        for (_, width), cell in zip(COLUMNS, cells, strict=True):
            marks.append(
                Text((x + 2, y + 1.6), shortened(cell, 3.0, width - 3), 3.0, strong=k == 0)
            )
            x += width
        marks.append(straight((LEFT, y), (LEFT + BLOCK, y), pen=THICK if k == 0 else CENTRE))
        y -= LINE
    return Sheet("Parts list", *A4, tuple(marks))


def _cells(row: Row) -> tuple[str, ...]:
    mass = "" if row.mass is None else f"{row.mass * 1000:.1f} g"
    material = row.material or ("bought" if row.supply == "bought" else "")
    return (
        str(row.item),
        str(row.quantity),
        row.title,
        material,
        length_words(row.thickness),
        mass,
    )


def _part_sheet(title: str, row: Row, solid: SolidPart, number: str) -> Sheet:
    """Outlines of a part from above, its overall sizes, and what is cut out of it where."""
    still = np.zeros(3)
    bounds = np.array([slab.region.contours[0].bounds() for slab in solid.slabs])
    low, high = bounds[:, :2].min(axis=0), bounds[:, 2:].max(axis=0)
    wide, tall = (float(each) for each in high - low)
    left, base = LEFT + 26, MARGIN + sum(ROWS) + 24

    def room_on(paper: Place) -> Place:
        return paper[0] - MARGIN - left - LISTED, paper[1] - MARGIN - 12 - base

    # The smaller sheet, unless that would make it smaller than it is.
    size, name = (A4, "A4") if scale_for(wide, tall, room_on(A4)) >= 1.0 else (A3, "A3")
    room, scale = room_on(size), scale_for(wide, tall, room_on(size))
    x, y = left + (room[0] - wide * scale) / 2, base + (room[1] - tall * scale) / 2
    shift = x - float(low[0]) * scale, y - float(low[1]) * scale
    subject = f"Item {row.item}, {row.title}, {row.quantity} off"
    marks = framed(size, Fields(title, subject, scale_words(scale), number, name))
    cuts: list[_Cut] = []
    for slab in sorted(solid.slabs, key=lambda s: s.top):
        contours = slab.region.contours
        marks.append(Shape(tuple(ring(c, still, scale, shift) for c in contours), THICK))
        # A slab that is one round is a pin.
        cuts += [_cut(c, low) for c in (contours[1:] or contours) if contours[1:] or c.circle]
    listed = list(dict.fromkeys(sorted(cuts, key=lambda cut: (cut.y, cut.x))))
    for k, cut in enumerate(listed):
        cx, cy = x + cut.x * scale, y + cut.y * scale
        reach = 1.25 * cut.wide / 2 * scale if cut.is_round else 2.5
        marks.append(straight((cx - reach, cy), (cx + reach, cy), pen=CENTRE))
        marks.append(straight((cx, cy - reach), (cx, cy + reach), pen=CENTRE))
        marks.append(Text((cx + 1.0, cy + 1.0), str(k + 1), 2.2))
    marks += across(x, x + wide * scale, y, y - OFF, wide)
    marks += upright(y, y + tall * scale, x, x - OFF, tall)
    lines = [f"thickness {length_words(row.thickness)}"]
    if len(solid.slabs) > 1:
        lines += [
            f"{slab.id.replace('_', ' ')}: {length_words(slab.bottom)} to {length_words(slab.top)}"
            for slab in solid.slabs
        ]
    if solid.source.material is not None:
        lines.append(f"{solid.source.material.name}, {(mass_of(solid) or 0.0) * 1000:.1f} g")
    if row.note:
        lines.append(row.note)
    if listed:
        lines += ["", "From the lower left corner, x, y:"]
        lines += [f"{k + 1}   {cut.words}" for k, cut in enumerate(listed)]
    down, at = size[1] - MARGIN - 8, size[0] - MARGIN - LISTED + 4
    most = int((down - base) / 4.2)
    if len(lines) > most:
        lines = [*lines[: most - 1], f"and {len(lines) - most + 1} more: see the DXF"]
    for k, words in enumerate(lines):
        marks.append(Text((at, down - 4.2 * k), shortened(words, 2.5, LISTED - 6), 2.5))
    return Sheet(row.title, *size, tuple(marks))


@dataclass(frozen=True, slots=True)
class _Cut:
    """What is cut out, or a pin: its middle from the lower left corner, and how large it is."""

    x: float
    y: float
    wide: float
    tall: float
    is_round: bool

    @property
    def words(self) -> str:
        """'17, 17   Ø16.2', '120, 17   124 x 12'."""
        place = f"{length_words(self.x)}, {length_words(self.y)}"
        if self.is_round:
            return f"{place}   Ø{length_words(self.wide)}"
        return f"{place}   {length_words(self.wide)} x {length_words(self.tall)}"


def _cut(contour: Contour, corner: Floats) -> _Cut:
    low_x, low_y, high_x, high_y = contour.bounds()
    return _Cut(
        x=round((low_x + high_x) / 2 - float(corner[0]), 6),
        y=round((low_y + high_y) / 2 - float(corner[1]), 6),
        wide=round(high_x - low_x, 6),
        tall=round(high_y - low_y, 6),
        is_round=contour.circle is not None,
    )
