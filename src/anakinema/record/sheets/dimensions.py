"""Dimensions on a sheet: where they stand by themselves, what a designer moved or hid."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from anakinema.document.model import SheetDimension
from anakinema.record.sheets.paper import Edge, Line, Mark, Place, Text, straight

TIP = 2.5
"""mm, length of an arrow's head."""
STEP = 7.0
"""mm from one dimension line to the next."""
TALL = 3.5
"""mm, height of its number."""


@dataclass(frozen=True, slots=True)
class Dimension:
    """The distance of two points on paper, level or upright; ``line`` is the other coordinate of
    its line, ``outwards`` (1 or -1) says to which side that lies, ``value`` mm is what it says."""

    key: str
    first: Place
    second: Place
    line: float
    value: float
    is_level: bool = True
    outwards: int = -1
    away: float = 0.0
    """mm that its line is farther out than by itself."""

    @property
    def words(self) -> str:
        """The number that stands on it."""
        return length_words(self.value)

    @property
    def span(self) -> tuple[float, float]:
        """Where its line begins and ends."""
        along = 0 if self.is_level else 1
        low, high = sorted((self.first[along], self.second[along]))
        return low, high

    def at(self, along: float) -> Place:
        """A place on its line."""
        return (along, self.line) if self.is_level else (self.line, along)

    def farther(self, away: float) -> Dimension:
        """The same farther out."""
        return replace(self, line=self.line + self.outwards * away, away=self.away + away)

    def marks(self) -> list[Mark]:
        """Its line with heads, helper lines, and number; heads point inwards where it is short."""
        low, high = self.span
        marks: list[Mark] = []
        for x, y in (self.first, self.second):
            along, across = (x, y) if self.is_level else (y, x)
            away = math.copysign(1.0, self.line - across)
            ends = (across + away, self.line + 2 * away)
            marks.append(straight(*((along, e) if self.is_level else (e, along) for e in ends)))
        turn = 0.0 if self.is_level else math.pi / 2
        roomy = high - low > 3 * TIP
        beyond = 0.0 if roomy else 2.5 * TIP
        marks.append(straight(self.at(low - beyond), self.at(high + beyond)))
        marks.append(_head(self.at(low), turn + (math.pi if roomy else 0.0)))
        marks.append(_head(self.at(high), turn + (0.0 if roomy else math.pi)))
        wide = 0.62 * TALL * len(self.words)
        middle = (low + high) / 2 if roomy and wide < high - low else high + beyond + wide / 2 + 1
        x, y = self.at(middle)
        place = (x, y + 1) if self.is_level else (x - 1, y)
        marks.append(Text(place, self.words, TALL, "middle", angle=turn))
        return marks


def length_words(value: float) -> str:
    """A length on a drawing: two digits behind the point at most, none that is nothing."""
    return f"{value:.2f}".rstrip("0").rstrip(".") or "0"


def _head(tip: Place, angle: float) -> Line:
    """A filled head whose point is at ``tip``, pointing along ``angle``."""
    spread = 0.16
    sides = [
        (tip[0] - TIP * math.cos(angle + s), tip[1] - TIP * math.sin(angle + s))
        for s in (-spread, spread)
    ]
    return Line(tip, tuple(Edge(side) for side in sides), None, "#000000", True)


def settled(
    dimensions: Iterable[Dimension], chosen: Sequence[SheetDimension]
) -> tuple[Dimension, ...]:
    """What is left of dimensions as a designer moved and hid them; lines that would lie on one
    another step outwards, those that were moved by hand stay."""
    by_key = {each.key: each for each in chosen}
    found: list[Dimension] = []
    for each in dimensions:
        own = by_key.get(each.key)
        if own is not None and own.hidden:
            continue
        if own is not None and own.away:
            found.append(each.farther(own.away))
            continue
        while any(_collide(each, other) for other in found):
            each = each.farther(STEP)
        found.append(each)
    return tuple(found)


def _collide(one: Dimension, other: Dimension) -> bool:
    if one.is_level != other.is_level or abs(one.line - other.line) > STEP - 1.0:
        return False
    (low, high), (its_low, its_high) = one.span, other.span
    return low < its_high + 2 * TIP and its_low < high + 2 * TIP
