"""Frame, title block, scales, balloons: what every drawing on paper has.

Margins of the frame ISO 5457 (20 mm on the left, 10 elsewhere); the title
block 180 mm wide with the fields of ISO 7200; scales ISO 5455 (all from memory).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from anakinema.record.sheets.paper import CENTRE, THICK, THIN, Mark, Place, Text, circle, straight

LEFT, MARGIN = 20.0, 10.0
BLOCK, ROWS = 180.0, (9.0, 9.0, 9.0, 12.0)
"""Width of the title block and heights of its rows, from below, mm."""
HIGH = sum(ROWS)
SCALES = (
    50.0,
    20.0,
    10.0,
    5.0,
    2.0,
    1.0,
    1 / 2,
    1 / 5,
    1 / 10,
    1 / 20,
    1 / 50,
    1 / 100,
    1 / 200,
    1 / 500,
    1 / 1000,
)
BALLOON = 4.5
"""mm, radius."""
APART = 11.0
"""mm from one balloon or leader to the next."""
OFF = 10.0
"""mm between an outline and its dimension."""
LETTERS = 0.72
"""Width of a letter by its height, about."""


@dataclass(frozen=True, slots=True)
class Fields:
    """What stands in a title block; ``first_angle`` None leaves the sign of projection out."""

    title: str
    subject: str
    scale: str
    sheet: str
    size: str
    revision: str = ""
    date: str = ""
    drawn_by: str = ""
    first_angle: bool | None = None
    note: str = ""


def framed(size: Place, fields: Fields) -> list[Mark]:
    """Frame and title block."""
    width, height = size
    right, low = width - MARGIN, MARGIN
    corners = (LEFT, low), (right, low), (right, height - MARGIN), (LEFT, height - MARGIN)
    marks: list[Mark] = [straight(*corners, corners[0], pen=THICK)]
    left, top = right - BLOCK, low + HIGH
    marks.append(straight((left, low), (left, top), (right, top), pen=THICK))
    y = low
    for row in ROWS[:-1]:
        y += row
        marks.append(straight((left, y), (right, y)))
    quarter = BLOCK / 4
    for x in (left + quarter, left + 2 * quarter, left + 3 * quarter):
        marks.append(straight((x, low), (x, low + ROWS[0] + ROWS[1])))
    cells = (
        ("Scale", fields.scale),
        ("Sheet", fields.sheet),
        ("Size", fields.size),
        ("Lengths", "mm"),
        ("Revision", fields.revision),
        ("Date", fields.date),
        ("Drawn by", fields.drawn_by),
        ("Projection", ""),
    )
    places = [(left + (k % 4) * quarter, low + (k // 4) * ROWS[0]) for k in range(len(cells))]
    above = low + ROWS[0] + ROWS[1]
    entries = (
        *((place, cell, quarter) for place, cell in zip(places, cells, strict=True)),
        ((left, above), ("Subject", fields.subject), BLOCK),
        ((left, above + ROWS[2]), ("Title", fields.title), BLOCK),
    )
    for (x, base), (name, words), room in entries:
        tall = 5.0 if name == "Title" else 3.2
        marks.append(Text((x + 2, base + (9.0 if name == "Title" else 6.2)), name, 1.8))
        marks.append(
            Text((x + 2, base + 2), shortened(words, tall, room - 4), tall, strong=name == "Title")
        )
    if fields.first_angle is not None:
        sign = left + 3 * quarter + 27, low + ROWS[0] + ROWS[1] / 2
        marks += _projection_sign(sign, first_angle=fields.first_angle)
    if fields.note:
        # Beside the title block, or over it on narrow paper.
        beside = left - LEFT > BLOCK / 2
        marks.append(Text((LEFT + 3, (low if beside else top) + 3), fields.note, 2.2))
    return marks


def _projection_sign(at: Place, *, first_angle: bool) -> list[Mark]:
    """A cone from the side and from its end, on which side of it says the method (ISO 5456-2, from
    memory)."""
    side, end = (-5.0, 7.0) if first_angle else (7.0, -5.0)
    x, y = at[0] + side, at[1]
    cone = straight(
        (x - 4, y - 1.5), (x + 4, y - 3), (x + 4, y + 3), (x - 4, y + 1.5), pen=THIN, closed=True
    )
    return [
        cone,
        straight((x - 5.5, y), (x + 5.5, y), pen=CENTRE),
        circle(at[0] + end, y, 3.0),
        circle(at[0] + end, y, 1.5),
        straight((at[0] + end - 4, y), (at[0] + end + 4, y), pen=CENTRE),
        straight((at[0] + end, y - 4), (at[0] + end, y + 4), pen=CENTRE),
    ]


def shortened(words: str, size: float, room: float) -> str:
    """Words cut to what goes into ``room`` mm."""
    most = max(3, int(room / (LETTERS * size)))
    return words if len(words) <= most else words[: most - 1] + "…"


def scale_for(width: float, height: float, room: Place) -> float:
    """The largest usual scale at which something goes into a room; all mm."""
    fits = (s for s in SCALES if width * s <= room[0] and height * s <= room[1])
    return next(fits, SCALES[-1])


def scale_words(scale: float) -> str:
    """'1:5', '2:1'."""
    return f"{scale:g}:1" if scale >= 1 else f"1:{1 / scale:.0f}"


def spread(wanted: Sequence[float], apart: float, low: float, high: float) -> list[float]:
    """Places as near to those wanted (in rising order) as can be, ``apart`` from one another and
    within bounds while there is room."""
    count = len(wanted)
    if not count:
        return []
    apart = min(apart, (high - low) / max(count - 1, 1))
    blocks: list[list[float]] = []
    for k, place in enumerate(wanted):
        blocks.append([place - k * apart])
        # Neighbours that would collide go to their common middle.
        while len(blocks) > 1 and _mean(blocks[-2]) >= _mean(blocks[-1]):
            last = blocks.pop()
            blocks[-1] += last
    places = [_mean(block) for block in blocks for _ in block]
    most = high - (count - 1) * apart
    return [min(max(p, low), most) + k * apart for k, p in enumerate(places)]


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values)


def balloon(at: Place, tip: Place, item: int) -> list[Mark]:
    """An item number in a circle, and a leader with a dot where it points."""
    away = math.atan2(tip[1] - at[1], tip[0] - at[0])
    edge = at[0] + BALLOON * math.cos(away), at[1] + BALLOON * math.sin(away)
    return [
        straight(edge, tip),
        circle(*tip, 0.7, None, "#000000"),
        circle(*at, BALLOON, THIN, "#FFFFFF"),
        Text((at[0], at[1] - 1.6), str(item), anchor="middle"),
    ]
