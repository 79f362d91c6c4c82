"""The section through the stack: along the line that goes through most of the pins."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import shapely

from anakinema.analysis.places import places_at
from anakinema.depth.placed import PlacedSlab, placed_slabs
from anakinema.document.kinds import Way, spec_of
from anakinema.record.sheets.dimensions import Dimension, settled
from anakinema.record.sheets.layout import OFF, balloon, scale_words, spread
from anakinema.record.sheets.paper import CENTRE, THICK, THIN, Mark, Place, Text, straight
from anakinema.record.sheets.sheet import Drawn, Leaf
from anakinema.record.sheets.views import fitted

ON_LINE = 0.5
"""mm off the line at which a pin still lies on it."""
FAR = 1e6
HATCH = 2.2
"""mm between the lines of a hatch; each item has its own."""
ENOUGH = 1.0


@dataclass(frozen=True, slots=True)
class Cut:
    """A line of the plane through ``origin`` along ``angle`` rad, what lies on it, mm along it."""

    origin: Place
    angle: float
    start: float
    end: float
    pins: tuple[tuple[float, str], ...]

    def place(self, along: float) -> Place:
        """A point on the line."""
        c, s = math.cos(self.angle), math.sin(self.angle)
        return self.origin[0] + along * c, self.origin[1] + along * s


def cut_of(drawn: Drawn) -> Cut | None:
    """The line through two pins on which most lie, the longer of equal ones; None without pins."""
    resolved, poses = drawn.evaluation.resolved, drawn.poses
    pins, where = [], places_at(resolved, poses)
    for joint in resolved.document.joints:
        if spec_of(joint.kind).way is Way.POINT and spec_of(joint.kind).is_pin:
            pins.append((*where(joint.second), joint.title))
    slabs = placed_slabs(resolved, poses)
    if not pins or not slabs:
        return None
    best, most = (pins[0], (pins[0][0] + 1.0, pins[0][1], "")), (0, 0.0)
    for one, two in combinations(pins, 2):
        length = math.hypot(two[0] - one[0], two[1] - one[1])
        if length > ON_LINE:
            score = (len(_on_line(one, two, pins)), length)
            if score > most:
                best, most = (one, two), score
    one, two = best
    angle = math.atan2(two[1] - one[1], two[0] - one[0])
    # Read from left to right.
    angle += math.pi if math.cos(angle) < -1e-9 else 0.0
    ends = [e for s in slabs for e in _crossed(s, (one[0], one[1]), angle)]
    if not ends:
        return None
    c, s = math.cos(angle), math.sin(angle)
    on = tuple(
        ((x - one[0]) * c + (y - one[1]) * s, title)
        for x, y, title in _on_line(one, (one[0] + c, one[1] + s), pins)
    )
    return Cut((one[0], one[1]), angle, min(e[0] for e in ends), max(e[1] for e in ends), on)


Pin = tuple[float, float, str]


def _on_line(one: Pin | Place, two: Pin | Place, pins: list[Pin]) -> list[Pin]:
    length = math.hypot(two[0] - one[0], two[1] - one[1])
    u = (two[0] - one[0]) / length, (two[1] - one[1]) / length
    return [p for p in pins if abs((p[1] - one[1]) * u[0] - (p[0] - one[0]) * u[1]) <= ON_LINE]


def _crossed(slab: PlacedSlab, origin: Place, angle: float) -> list[tuple[float, float]]:
    """Where the line is in a slab, mm along it."""
    c, s = math.cos(angle), math.sin(angle)
    ends = [(origin[0] + f * c, origin[1] + f * s) for f in (-FAR, FAR)]
    found = slab.polygon.intersection(shapely.LineString(ends))
    pieces = []
    for piece in getattr(found, "geoms", [found]):
        if piece.geom_type == "LineString" and piece.length > 1e-6:
            along = [(x - origin[0]) * c + (y - origin[1]) * s for x, y in piece.coords]
            pieces.append((min(along), max(along)))
    return pieces


def section_sheet(drawn: Drawn) -> Iterator[Leaf]:
    """One sheet, of anything that has a pin and an outline."""
    cut = cut_of(drawn)
    if cut is None:
        return
    resolved = drawn.evaluation.resolved
    items = {row.id: row.item for row in drawn.rows}
    slabs = placed_slabs(resolved, drawn.poses)
    crossed = [(s, piece) for s in slabs for piece in _crossed(s, cut.origin, cut.angle)]
    low, high = min(s.bottom for s, _ in crossed), max(s.top for s, _ in crossed)
    box = cut.start, low, cut.end, high
    aside = 24, 34, 14, 44
    fit = fitted(box, drawn.settings.paper, aside, ENOUGH)
    marks: list[Mark] = []
    tips: dict[int, tuple[float, Place]] = {}
    for s, (begin, end) in crossed:
        corners = [
            fit.on_paper(x, y)
            for x, y in ((begin, s.bottom), (end, s.bottom), (end, s.top), (begin, s.top))
        ]
        item = items.get(resolved.document.bodies[s.body].part, 0)
        marks.append(straight(*corners, pen=THICK, closed=True, fill="#FFFFFF"))
        # By custom what is round and solid, a pin, is not hatched.
        contours = s.slab.region.contours
        if len(contours) > 1 or contours[0].circle is None:
            marks += _hatched(corners[0], corners[2], item)
        area = (end - begin) * (s.top - s.bottom)
        middle = ((corners[0][0] + corners[2][0]) / 2, (corners[0][1] + corners[2][1]) / 2)
        if item and area > tips.get(item, (0.0, middle))[0]:
            tips[item] = area, middle
    (left, base), (right, top) = fit.on_paper(*box[:2]), fit.on_paper(*box[2:])
    for at, _ in cut.pins:
        x = fit.on_paper(at, 0.0)[0]
        marks.append(straight((x, base - 3), (x, top + 3), pen=CENTRE))
    marks += _named(cut, [fit.on_paper(at, 0.0)[0] for at, _ in cut.pins], top + 8, fit.room)
    dimensions = settled(
        (
            Dimension("section/length", (left, base), (right, base), base - OFF, box[2] - box[0]),
            Dimension("section/height", (left, base), (left, top), left - OFF, high - low, False),
        ),
        drawn.settings.dimensions,
    )
    for each in dimensions:
        marks += each.marks()
    order = sorted(tips, key=lambda item: tips[item][1][0])
    places = spread([tips[item][1][0] for item in order], 11.0, fit.room[0], fit.room[2])
    for item, x in zip(order, places, strict=True):
        marks += balloon((x, base - OFF - 14), tips[item][1], item)
    yield Leaf(
        "section",
        "Section A-A",
        "Section A-A through the stack",
        fit.paper,
        tuple(marks),
        scale_words(fit.scale),
        dimensions,
        "Cut surfaces only; pins are not hatched.",
        projected=True,
    )


def _named(cut: Cut, wanted: list[float], y: float, room: tuple[float, ...]) -> list[Mark]:
    """Titles of the pins, upright above their axes."""
    order = sorted(range(len(wanted)), key=lambda k: wanted[k])
    places = spread([wanted[k] for k in order], 4.0, room[0], room[2])
    marks: list[Mark] = []
    for k, x in zip(order, places, strict=True):
        marks.append(straight((wanted[k], y - 5), (x, y - 1), pen=THIN))
        marks.append(Text((x + 0.9, y), cut.pins[k][1][:24], 2.5, angle=math.pi / 2))
    return marks


def _hatched(low: Place, high: Place, item: int) -> list[Mark]:
    """Lines at 45 degrees within a rectangle, this way or that and near or far by the item."""
    step = HATCH * (1.0 + 0.35 * (item % 3)) * math.sqrt(2)
    (x, y), (u, v) = low, high
    rising = item % 2 == 0
    marks: list[Mark] = []
    first = math.ceil((x - (v - y)) / step)
    for k in range(first, math.floor(u / step) + 1):
        # From (at, y) upwards to the right, cut off by the sides.
        at = k * step
        begin, end = max(0.0, x - at), min(v - y, u - at)
        if end - begin > 1e-6:
            ends = [(at + t, y + t if rising else v - t) for t in (begin, end)]
            marks.append(straight(*ends))
    return marks
