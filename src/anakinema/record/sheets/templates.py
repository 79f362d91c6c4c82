"""Parts at 1:1 to cut by: tiled over small sheets with a check scale; and a model of card.

A template is a drawing to be laid on the material, so it has no frame round it, only what a cutter
needs: the edges of the tile to lay against the next, what it is, and a length to measure after
printing.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.errors import FileFormatError
from anakinema.geometry.contour import Contour, Floats
from anakinema.record.listed_parts import Row
from anakinema.record.sheets.layout import SCALES, scale_words, shortened
from anakinema.record.sheets.paper import (
    CENTRE,
    THICK,
    THIN,
    Line,
    Mark,
    Pen,
    Place,
    Text,
    circle,
    moved,
    ring,
    straight,
)
from anakinema.record.sheets.papers import PAPERS, papers_up_to
from anakinema.record.sheets.sheet import Drawn, Leaf, Sheet

EDGE, FOOT = 10.0, 16.0
"""mm free round a tile, and below it for its words."""
RULE = 100.0
"""mm, length of the check scale."""
APART = 6.0
"""mm between pieces of card."""
PIN = 1.6
"""mm, radius of the hole for a paper fastener in card."""
SMALL = 16.0
"""mm on paper; a solid round that is smaller is a fastener's, and no piece of card."""


def templates(drawn: Drawn) -> list[Sheet]:
    """Every made part at 1:1; one that is larger than a sheet goes over several."""
    found: list[Sheet] = []
    paper = papers_up_to(drawn.settings.paper)[0]
    width, height = PAPERS[paper]
    tile = width - 2 * EDGE, height - 2 * EDGE - FOOT
    for row in _made(drawn):
        lines, low, high = _outline(drawn, row, 1.0)
        columns = max(1, math.ceil((high[0] - low[0] + 2) / tile[0]))
        rows = max(1, math.ceil((high[1] - low[1] + 2) / tile[1]))
        # In the middle of its tiles.
        left = (low[0] + high[0] - columns * tile[0]) / 2
        base = (low[1] + high[1] - rows * tile[1]) / 2
        for k in range(columns * rows):
            column, line = k % columns, k // columns
            shift = EDGE - left - column * tile[0], EDGE + FOOT - base - line * tile[1]
            marks: list[Mark] = [moved(each, *shift) for each in lines]
            where = f", tile {column + 1} of {columns} across, {line + 1} of {rows} up"
            words = f"Item {row.item}, {row.title}, {row.quantity} off, 1:1"
            whole = words + (where if columns * rows > 1 else "")
            marks += _tile(width, height, tile, whole, (column, line, columns, rows))
            leaf = Leaf(f"template/{row.id}/{k + 1}", whole, whole, paper, tuple(marks), "1:1")
            found.append(Sheet(leaf, width, height, leaf.marks))
    return found


def _made(drawn: Drawn) -> list[Row]:
    parts = drawn.evaluation.resolved.parts
    found = [row for row in drawn.rows if row.supply == "made" and parts[row.id].slabs]
    if not found:
        raise FileFormatError(
            "no made part of it has an outline.",
            where=f"mechanism '{drawn.evaluation.document.name}'",
            remedy="Draw an outline, or say in the parts list what is made.",
        )
    return found


def _outline(drawn: Drawn, row: Row, scale: float) -> tuple[list[Mark], Floats, Floats]:
    """All outlines of a part with crosses in its rounds; its lower left and upper right corner."""
    marks: list[Mark] = []
    bounds = []
    for slab in drawn.evaluation.resolved.parts[row.id].slabs:
        for contour in slab.region.contours:
            line = ring(contour, np.zeros(3), scale, (0.0, 0.0))
            marks.append(Line(line.start, line.edges, THIN, None, True))
            low_x, low_y, high_x, high_y = (scale * each for each in contour.bounds())
            bounds.append((low_x, low_y, high_x, high_y))
            if contour.circle is not None:
                x, y = (low_x + high_x) / 2, (low_y + high_y) / 2
                reach = 0.6 * (high_x - low_x)
                marks.append(straight((x - reach, y), (x + reach, y), pen=CENTRE))
                marks.append(straight((x, y - reach), (x, y + reach), pen=CENTRE))
    box = np.array(bounds)
    return marks, box[:, :2].min(axis=0), box[:, 2:].max(axis=0)


def _tile(
    width: float, height: float, tile: Place, words: str, place: tuple[int, int, int, int]
) -> list[Mark]:
    """What lies outside a tile covered, its edges, marks to lay it against its neighbours by, its
    words and the check scale."""
    left, low, right, top = EDGE, EDGE + FOOT, EDGE + tile[0], EDGE + FOOT + tile[1]
    white = "#FFFFFF"
    covers = (
        ((0, 0), (width, low)),
        ((0, top), (width, height)),
        ((0, low), (left, top)),
        ((right, low), (width, top)),
    )
    marks: list[Mark] = [
        straight((x, y), (u, y), (u, v), (x, v), closed=True, fill=white, pen=Pen(0.01, white))
        for (x, y), (u, v) in covers
    ]
    edge = straight((left, low), (right, low), (right, top), (left, top), closed=True, pen=THIN)
    marks.append(edge)
    column, line, columns, rows = place
    joins = (
        (column > 0, (left, (low + top) / 2), f"{column}|{column + 1}"),
        (column < columns - 1, (right, (low + top) / 2), f"{column + 1}|{column + 2}"),
        (line > 0, ((left + right) / 2, low), f"{line}|{line + 1}"),
        (line < rows - 1, ((left + right) / 2, top), f"{line + 1}|{line + 2}"),
    )
    for there, (x, y), name in joins:
        if there:
            marks += [
                circle(x, y, 2.5),
                straight((x - 4, y), (x + 4, y)),
                straight((x, y - 4), (x, y + 4)),
                Text((x + 3, y + 3), name, 2.2),
            ]
    marks.append(Text((left, EDGE + 8), shortened(words, 2.8, tile[0]), 2.8, strong=True))
    marks += _check_scale(left, EDGE + 2)
    return marks


def _check_scale(x: float, y: float) -> list[Mark]:
    """A line of 100 mm with its tens."""
    marks: list[Mark] = [straight((x, y), (x + RULE, y), pen=THICK)]
    for k in range(11):
        marks.append(straight((x + 10 * k, y), (x + 10 * k, y + (3.0 if k % 5 == 0 else 1.6))))
    marks.append(Text((x + RULE + 3, y), "100 mm: measure after printing, without fitting.", 2.2))
    return marks


def all_templates(drawn: Drawn) -> Sheet:
    """All made parts at 1:1 beside one another on one sheet as large as it takes."""
    marks: list[Mark] = []
    x, tall = EDGE, 0.0
    for row in _made(drawn):
        lines, low, high = _outline(drawn, row, 1.0)
        words = f"{row.item} {row.title}, {row.quantity} off"
        marks += [moved(each, x - float(low[0]), EDGE + FOOT + 8 - float(low[1])) for each in lines]
        marks.append(Text((x, EDGE + FOOT), words, 3.5))
        x += max(float(high[0] - low[0]), 2.6 * len(words)) + 2 * APART
        tall = max(tall, float(high[1] - low[1]))
    width, height = max(x + EDGE, 2 * EDGE + RULE + 110), tall + 2 * EDGE + FOOT + 12
    marks += _check_scale(EDGE, EDGE + 2)
    leaf = Leaf("templates", "Templates 1:1", "Templates 1:1", "A4", tuple(marks), "1:1")
    return Sheet(leaf, width, height, leaf.marks)


# Card ------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class _Piece:
    """A piece of card with its lower left corner at the origin, its size and what it is."""

    marks: tuple[Mark, ...]
    wide: float
    tall: float
    words: str


def card_model(drawn: Drawn) -> list[Sheet]:
    """All pieces to cut out of card at one scale, as often as they are needed, with holes for
    paper fasteners where there are pins."""
    paper = papers_up_to(drawn.settings.paper)[0]
    width, height = PAPERS[paper]
    room = width - 2 * EDGE, height - 2 * EDGE - FOOT - 4
    scale = _card_scale(drawn, room)
    pieces = [piece for row in _cut(drawn) for piece in _pieces(drawn, row, scale)]
    pages: list[list[Mark]] = []
    x = y = shelf = math.inf
    # Shelves of pieces, the tallest first.
    for piece in sorted(pieces, key=lambda p: (-p.tall, p.words)):
        if x + piece.wide > EDGE + room[0]:
            x, y = EDGE, y + shelf + APART + 5
            shelf = piece.tall
        if y + piece.tall > EDGE + FOOT + room[1]:
            pages.append([])
            x, y, shelf = EDGE, EDGE + FOOT + 4, piece.tall
        pages[-1] += [moved(mark, x, y) for mark in piece.marks]
        words = shortened(piece.words, 2.0, max(piece.wide, 24.0))
        pages[-1].append(Text((x, y - 3.4), words, 2.0))
        x += max(piece.wide, 24.0) + APART
    found = []
    for k, marks in enumerate(pages, start=1):
        title = drawn.evaluation.document.name
        words = f"{title}: card model {scale_words(scale)}, {k} of {len(pages)}"
        foot: list[Mark] = [
            Text((EDGE, EDGE + 8), shortened(words, 2.8, room[0]), 2.8, strong=True),
            *_check_scale(EDGE, EDGE + 2),
        ]
        leaf = Leaf(f"card/{k}", words, words, paper, (*marks, *foot), scale_words(scale))
        found.append(Sheet(leaf, width, height, leaf.marks))
    return found


def _cut(drawn: Drawn) -> list[Row]:
    parts = drawn.evaluation.resolved.parts
    found = [row for row in drawn.rows if parts[row.id].slabs]
    if not found:
        _made(drawn)
    return found


def _card_scale(drawn: Drawn, room: Place) -> float:
    """The largest usual scale, at most 1:1, at which every piece goes on a sheet."""
    sizes = [
        slab.region.contours[0].bounds()
        for row in _cut(drawn)
        for slab in drawn.evaluation.resolved.parts[row.id].slabs
    ]
    wide = max(high - low for low, _, high, _ in sizes)
    tall = max(high - low for _, low, _, high in sizes)
    fits = (s for s in SCALES if s <= 1.0 and wide * s <= room[0] and tall * s <= room[1])
    return next(fits, SCALES[-1])


def _pieces(drawn: Drawn, row: Row, scale: float) -> Iterator[_Piece]:
    """A piece for each slab of a part, as many times as there are bodies of it."""
    solid = drawn.evaluation.resolved.parts[row.id]
    for slab in solid.slabs:
        contours = slab.region.contours
        low_x, low_y, high_x, high_y = (scale * each for each in contours[0].bounds())
        is_pin = len(contours) == 1 and contours[0].circle is not None
        if is_pin and high_x - low_x < SMALL:
            continue
        pins = _pins_through(drawn, row, slab.region.polygon)
        # A fastener has a small hole, whatever the pin of the part has.
        kept = [contours[0], *(hole for hole in contours[1:] if not _is_for(hole, pins))]
        marks: list[Mark] = [
            Line(line.start, line.edges, THIN, None, True)
            for line in (ring(c, np.zeros(3), scale, (-low_x, -low_y)) for c in kept)
        ]
        for x, y in pins:
            u, v = x * scale - low_x, y * scale - low_y
            marks += [
                circle(u, v, PIN),
                straight((u - 3, v), (u + 3, v), pen=CENTRE),
                straight((u, v - 3), (u, v + 3), pen=CENTRE),
            ]
        thick = scale * (slab.top - slab.bottom)
        for k in range(row.quantity):
            count = f" ({k + 1} of {row.quantity})" if row.quantity > 1 else ""
            words = f"{row.item}{count} {row.title}, {thick:.1f} thick"
            yield _Piece(tuple(marks), high_x - low_x, high_y - low_y, words)


def _pins_through(drawn: Drawn, row: Row, polygon: shapely.Polygon) -> list[Place]:
    """Places of joints of any body of a part that lie in a slab of it, or in a hole of that."""
    resolved = drawn.evaluation.resolved
    solid = resolved.parts[row.id]
    bodies = {body.id for body in resolved.document.bodies if body.part == row.id}
    names = {
        side.place
        for joint in resolved.document.joints
        for side in (joint.first, joint.second)
        if side.body in bodies
    }
    filled = shapely.Polygon(polygon.exterior)
    places = [solid.places[name][:2] for name in sorted(names & solid.places.keys())]
    return [place for place in places if filled.contains(shapely.Point(place))]


def _is_for(hole: Contour, pins: Sequence[Place]) -> bool:
    """Whether a hole is round and a pin is in it."""
    circle = hole.circle
    return circle is not None and any(math.dist(circle[:2], pin) < circle[2] for pin in pins)
