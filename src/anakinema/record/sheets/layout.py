"""Frame, title block, scales, dimensions, balloons: what every drawing on paper has.

Sizes of sheets ISO 216; margins of the frame ISO 5457 (20 mm on the left, 10 elsewhere); the title
block 180 mm wide with the fields of ISO 7200; scales ISO 5455 (all from memory).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from anakinema.record.sheets.paper import (
    THICK,
    THIN,
    Edge,
    Line,
    Mark,
    Place,
    Text,
    circle,
    straight,
)

A3, A4 = (420.0, 297.0), (210.0, 297.0)
LEFT, MARGIN = 20.0, 10.0
BLOCK, ROWS = 180.0, (10.0, 10.0, 12.0)
"""Width of the title block and heights of its rows, from below, mm."""
SCALES = (50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 1 / 2, 1 / 5, 1 / 10, 1 / 20, 1 / 50, 1 / 100, 1 / 200,
          1 / 500, 1 / 1000)  # fmt: skip
BALLOON = 4.5
"""mm, radius."""
APART = 11.0
"""mm from one balloon or leader to the next."""
OFF = 10.0
"""mm between an outline and its dimension."""
TIP = 2.5
LETTERS = 0.72
"""Width of a letter by its height, about."""


@dataclass(frozen=True, slots=True)
class Fields:
    """What stands in a title block."""

    title: str
    subject: str
    scale: str
    sheet: str
    size: str
    note: str = ""


def framed(size: Place, fields: Fields) -> list[Mark]:
    """Frame and title block."""
    width, height = size
    right, low = width - MARGIN, MARGIN
    corners = (LEFT, low), (right, low), (right, height - MARGIN), (LEFT, height - MARGIN)
    marks: list[Mark] = [straight(*corners, corners[0], pen=THICK)]
    left, top = right - BLOCK, low + sum(ROWS)
    marks.append(straight((left, low), (left, top), (right, top), pen=THICK))
    y = low
    for row in ROWS[:-1]:
        y += row
        marks.append(straight((left, y), (right, y)))
    for x in (left + 45, left + 90, left + 135):
        marks.append(straight((x, low), (x, low + ROWS[0])))
    entries = (
        (left, low, "Scale", fields.scale),
        (left + 45, low, "Sheet", fields.sheet),
        (left + 90, low, "Size", fields.size),
        (left + 135, low, "Lengths", "mm"),
        (left, low + ROWS[0], "Subject", fields.subject),
        (left, low + ROWS[0] + ROWS[1], "Title", fields.title),
    )
    for x, base, name, words in entries:
        tall = 5.0 if name == "Title" else 3.5
        room = BLOCK if name in ("Title", "Subject") else 45.0
        marks.append(Text((x + 2, base + (9.0 if name == "Title" else 6.8)), name, 1.8))
        marks.append(
            Text((x + 2, base + 2), shortened(words, tall, room - 4), tall, strong=name == "Title")
        )
    if fields.note:
        marks.append(Text((LEFT + 3, low + 3), fields.note, 2.2))
    return marks


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


def length_words(value: float) -> str:
    """A length on a drawing: two digits behind the point at most, none that is nothing."""
    return f"{value:.2f}".rstrip("0").rstrip(".") or "0"


def _arrow(tip: Place, angle: float) -> Line:
    """A filled head whose point is at ``tip``, pointing along ``angle``."""
    spread = 0.16
    sides = [
        (tip[0] - TIP * math.cos(angle + s), tip[1] - TIP * math.sin(angle + s))
        for s in (-spread, spread)
    ]
    return Line(tip, tuple(Edge(side) for side in sides), None, "#000000", True)


def across(x: float, u: float, top: float, y: float, value: float) -> list[Mark]:
    """A level dimension between x and u, its line at y, helper lines from ``top`` down."""
    helpers: list[Mark] = [straight((each, top - 1), (each, y - 2)) for each in (x, u)]
    return [
        *helpers,
        straight((x, y), (u, y)),
        _arrow((x, y), math.pi),
        _arrow((u, y), 0.0),
        Text(((x + u) / 2, y + 1), length_words(value), anchor="middle"),
    ]


def upright(y: float, v: float, left: float, x: float, value: float) -> list[Mark]:
    """An upright dimension between y and v, its line at x, helper lines from ``left`` outwards."""
    helpers: list[Mark] = [straight((left - 1, each), (x - 2, each)) for each in (y, v)]
    return [
        *helpers,
        straight((x, y), (x, v)),
        _arrow((x, y), -math.pi / 2),
        _arrow((x, v), math.pi / 2),
        Text((x - 1, (y + v) / 2), length_words(value), anchor="middle", angle=math.pi / 2),
    ]


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
