"""Units at the border: mm, rad, s and kg inside, whatever the designer reads and types outside."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

Dimension = tuple[int, int, int, int]
"""Exponents of length, angle, time and mass."""

NUMBER: Dimension = (0, 0, 0, 0)
LENGTH: Dimension = (1, 0, 0, 0)
ANGLE: Dimension = (0, 1, 0, 0)
TIME: Dimension = (0, 0, 1, 0)
MASS: Dimension = (0, 0, 0, 1)
SPEED: Dimension = (1, 0, -1, 0)
ANGULAR_SPEED: Dimension = (0, 1, -1, 0)
ACCELERATION: Dimension = (1, 0, -2, 0)
ANGULAR_ACCELERATION: Dimension = (0, 1, -2, 0)
FORCE: Dimension = (1, 0, -2, 1)

UNITS: dict[str, tuple[float, Dimension]] = {
    "mm": (1.0, LENGTH),
    "cm": (10.0, LENGTH),
    "m": (1000.0, LENGTH),
    "in": (25.4, LENGTH),
    "thou": (0.0254, LENGTH),
    "um": (0.001, LENGTH),
    "rad": (1.0, ANGLE),
    "deg": (math.pi / 180.0, ANGLE),
    "turn": (2.0 * math.pi, ANGLE),
    "s": (1.0, TIME),
    "min": (60.0, TIME),
    "rpm": (2.0 * math.pi / 60.0, ANGULAR_SPEED),
    "kg": (1.0, MASS),
    "N": (1000.0, FORCE),
}
"""Name of a unit: how many inside units it is, and what it measures."""

DIMENSION_WORDS: dict[Dimension, str] = {
    NUMBER: "a plain number",
    LENGTH: "a length",
    ANGLE: "an angle",
    TIME: "a time",
    SPEED: "a speed",
    ANGULAR_SPEED: "a turning speed",
    ACCELERATION: "an acceleration",
    ANGULAR_ACCELERATION: "a turning acceleration",
    MASS: "a mass",
    FORCE: "a force",
}


def dimension_words(dimension: Dimension) -> str:
    """Say in words what a dimension measures."""
    return DIMENSION_WORDS.get(dimension, "a product of units")


@cache
def _factor(length: str, angle: str, dimension: Dimension) -> float:
    return float(UNITS[length][0] ** dimension[0] * UNITS[angle][0] ** dimension[1])


_POWERS = "⁰¹²³⁴⁵⁶⁷⁸⁹"


@dataclass(frozen=True, slots=True)
class UnitSystem:
    """The units a document is read and typed in."""

    length: str = "mm"
    angle: str = "deg"

    def factor(self, dimension: Dimension) -> float:
        """Inside units for one shown unit of ``dimension``."""
        return _factor(self.length, self.angle, dimension)

    def name(self, dimension: Dimension) -> str:
        """What one shown unit of ``dimension`` is called in an expression, '' for a number."""
        over: list[str] = []
        under: list[str] = []
        for unit, power in zip((self.length, self.angle, "s", "kg"), dimension, strict=True):
            whole = unit if abs(power) == 1 else f"{unit}^{abs(power)}"
            if power:
                (over if power > 0 else under).append(whole)
        return "*".join(over or ["1"] * bool(under)) + "".join(f"/{each}" for each in under)

    def symbol(self, dimension: Dimension) -> str:
        """Unit symbol shown after a number of ``dimension``."""
        if dimension == LENGTH:
            return self.length
        if dimension == ANGLE:
            return "°" if self.angle == "deg" else self.angle
        if dimension == TIME:
            return "s"
        length, angle, time, mass = dimension
        if time < 0 and not mass and length + angle == 1:
            per = "/s" if time == -1 else f"/s{_POWERS[-time]}"
            return self.symbol(LENGTH if length else ANGLE) + per
        return ""

    def format(self, value: float, dimension: Dimension, digits: int | None = None) -> str:
        """Show an inside value with its unit, with as many decimals as are significant.

        ``value`` is in mm, rad or s (and their quotients). Lengths default to two decimals
        of a millimetre (three of an inch), angles to one of a degree.
        """
        if not math.isfinite(value):
            return "not defined"
        shown = value / self.factor(dimension)
        if digits is None:
            digits = self.digits(dimension)
        text = f"{shown:.{digits}f}"
        if float(text) == 0.0:
            text = text.lstrip("-")
        symbol = self.symbol(dimension)
        gap = "" if symbol.startswith("°") else " "
        return f"{text}{gap}{symbol}".rstrip().replace("-", "−", 1)

    def digits(self, dimension: Dimension) -> int:
        """Decimals worth showing for a dimension in these units."""
        if dimension == LENGTH:
            return {"mm": 2, "cm": 3, "m": 5, "in": 3, "thou": 0}.get(self.length, 2)
        if dimension == ANGLE:
            return 1 if self.angle == "deg" else 3
        return 2 if dimension == NUMBER else 1
