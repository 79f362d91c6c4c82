"""Relations of outlines as equations over their numbers."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats

Kind = Literal[
    "tangent",
    "concentric",
    "equal",
    "parallel",
    "square",
    "symmetric",
    "on",
    "between",
    "length",
    "radius",
    "angle",
    "distance",
    "held",
]
Complex = npt.NDArray[np.complex128]


@dataclass(frozen=True, slots=True)
class Point:
    """A corner, centre or place: columns of its x and y."""

    x: int
    y: int


@dataclass(frozen=True, slots=True)
class Edge:
    """An edge from point to point; ``bulge`` is the column of tan(sweep / 4), None for a line."""

    start: Point
    end: Point
    bulge: int | None = None


@dataclass(frozen=True, slots=True)
class Round:
    """A circle: its centre and the column of its radius."""

    centre: Point
    radius: int


Element = Point | Edge | Round


@dataclass(frozen=True, slots=True)
class Rule:
    """A relation between elements; ``value`` (mm or rad) where it states one.

    sides : +1 or -1 for each choice that the equations leave open (on which side a distance is
    measured, whether circles touch from outside); None takes them as drawn.
    """

    kind: Kind
    of: tuple[Element, ...]
    value: float = 0.0
    sides: tuple[int, ...] | None = None


class UnfitRuleError(ValueError):
    """A relation between elements that it cannot be between."""


class Sheet:
    """Columns by element, each with a last axis for the steps in the free numbers."""

    def __init__(self, table: Complex) -> None:
        self.table = table

    def point(self, element: Element) -> tuple[Complex, Complex]:
        """x and y of a point, or of the centre of what is round."""
        if isinstance(element, Point):
            return self.table[element.x], self.table[element.y]
        if isinstance(element, Round):
            return self.point(element.centre)
        if element.bulge is None:
            raise UnfitRuleError("a straight edge has no centre.")
        (ax, ay), (bx, by) = self.point(element.start), self.point(element.end)
        b = self.table[element.bulge]
        reach = (1.0 - b * b) / (4.0 * b)
        return (
            np.asarray((ax + bx) / 2 - reach * (by - ay)),
            np.asarray((ay + by) / 2 + reach * (bx - ax)),
        )

    def radius(self, element: Element) -> Complex:
        if isinstance(element, Round):
            return np.asarray(self.table[element.radius])
        if not isinstance(element, Edge) or element.bulge is None:
            raise UnfitRuleError("only what is round has a radius.")
        b = self.table[element.bulge]
        sign = np.where(b.real < 0, -1.0, 1.0)
        return np.asarray(sign * self.chord(element)[2] * (1.0 + b * b) / (4.0 * b))

    def chord(self, element: Element) -> tuple[Complex, Complex, Complex]:
        """Direction (unit) of an edge from end to end, and its length."""
        if not isinstance(element, Edge):
            raise UnfitRuleError("an edge is needed.")
        (ax, ay), (bx, by) = self.point(element.start), self.point(element.end)
        dx, dy = bx - ax, by - ay
        length = np.sqrt(dx * dx + dy * dy)
        return dx / length, dy / length, length

    def line(self, element: Element) -> tuple[Complex, Complex, Complex]:
        if not isinstance(element, Edge) or element.bulge is not None:
            raise UnfitRuleError("a straight edge is needed.")
        return self.chord(element)

    def heading(self, edge: Edge, *, at_end: bool) -> tuple[Complex, Complex]:
        """Unit direction in which an edge leaves its start, or arrives at its end."""
        ux, uy, _ = self.chord(edge)
        if edge.bulge is None:
            return ux, uy
        b = self.table[edge.bulge]
        c, s = (1.0 - b * b) / (1.0 + b * b), 2.0 * b / (1.0 + b * b)
        s = s if at_end else -s
        return c * ux - s * uy, s * ux + c * uy

    def beside(self, point: Element, edge: Element) -> Complex:
        """Distance of a point to the left of a line."""
        ux, uy, _ = self.line(edge)
        assert isinstance(edge, Edge)
        (px, py), (ax, ay) = self.point(point), self.point(edge.start)
        return np.asarray(ux * (py - ay) - uy * (px - ax))

    def apart(self, one: Element, two: Element) -> Complex:
        (px, py), (qx, qy) = self.point(one), self.point(two)
        return np.asarray(np.sqrt((px - qx) ** 2 + (py - qy) ** 2))


def measured(numbers: Floats, rule: Rule) -> float:
    """What a rule with a value would state of the numbers as they are: mm or rad."""
    sheet, of = Sheet(numbers.astype(complex)[:, None]), rule.of
    if rule.kind == "angle":
        ux, uy, _ = sheet.line(of[0])
        vx, vy, _ = sheet.line(of[1])
        cross, dot = (ux * vy - uy * vx)[0].real, (ux * vx + uy * vy)[0].real
        return math.atan2(float(cross), float(dot))
    if rule.kind == "length":
        return float(sheet.chord(of[0])[2][0].real)
    if rule.kind == "radius":
        return float(sheet.radius(of[0])[0].real)
    if not any(is_line(e) for e in of):
        return float(sheet.apart(of[0], of[1])[0].real)
    line, other = (of[0], of[1]) if is_line(of[0]) else (of[1], of[0])
    point = other.start if isinstance(other, Edge) and is_line(other) else _centre(other)
    return abs(float(sheet.beside(point, line)[0].real))


def is_round(element: Element) -> bool:
    """Whether an element is an arc or a circle."""
    return isinstance(element, Round) or (isinstance(element, Edge) and element.bulge is not None)


def is_line(element: Element) -> bool:
    """Whether an element is a straight edge."""
    return isinstance(element, Edge) and element.bulge is None


def shared_corner(one: Element, two: Element) -> bool:
    """Whether two edges follow one another."""
    return (
        isinstance(one, Edge)
        and isinstance(two, Edge)
        and (one.end == two.start or two.end == one.start)
    )


def with_sides(numbers: Floats, rule: Rule) -> Rule:
    """The rule with its open choices taken as drawn."""
    if rule.sides is not None:
        return rule
    sheet = Sheet(numbers.astype(complex)[:, None])
    of = rule.of

    def sign(value: Complex) -> int:
        return -1 if float(value[0].real) < 0 else 1

    sides: tuple[int, ...] = ()
    if rule.kind == "tangent" and not shared_corner(*of[:2]):
        if is_round(of[0]) and is_round(of[1]):
            apart, one, two = sheet.apart(*of[:2]), sheet.radius(of[0]), sheet.radius(of[1])
            outside = abs(float((apart - one - two)[0].real))
            inside = abs(float((apart - abs((one - two).real))[0].real))
            sides = (1 if outside <= inside else -1,)
        else:
            line, other = (of[0], of[1]) if is_line(of[0]) else (of[1], of[0])
            sides = (sign(sheet.beside(_centre(other), line)),)
    elif rule.kind == "distance" and any(is_line(e) for e in of):
        line, other = (of[0], of[1]) if is_line(of[0]) else (of[1], of[0])
        start = other.start if isinstance(other, Edge) else other
        sides = (sign(sheet.beside(start, line)),)
    elif rule.kind == "between" and all(is_line(e) for e in of[1:3]):
        ux, uy, _ = sheet.line(of[1])
        vx, vy, _ = sheet.line(of[2])
        # Opposite edges of an outline run against each other; what lies between is left of both.
        sides = (1 if float((ux * vx + uy * vy)[0].real) > 0.9 else -1,)
    return Rule(rule.kind, of, rule.value, sides)


def _centre(element: Element) -> Element:
    return element.centre if isinstance(element, Round) else element


def equations(table: Complex, rule: Rule, size: float) -> list[Complex]:
    """Residuals of a rule; lengths as a share of the size, directions as sines."""
    sheet, of, value = Sheet(table), rule.of, rule.value
    side = rule.sides[0] if rule.sides else 1
    if rule.kind == "held":
        return []
    if rule.kind == "tangent":
        return [_tangent(sheet, of[0], of[1], side, size)]
    if rule.kind == "concentric":
        (px, py), (qx, qy) = sheet.point(of[0]), sheet.point(of[1])
        return [(px - qx) / size, (py - qy) / size]
    if rule.kind == "equal":
        if is_round(of[0]) and is_round(of[1]):
            return [(sheet.radius(of[0]) - sheet.radius(of[1])) / size]
        return [(sheet.line(of[0])[2] - sheet.line(of[1])[2]) / size]
    if rule.kind in ("parallel", "square", "angle"):
        ux, uy, _ = sheet.line(of[0])
        vx, vy, _ = sheet.line(of[1])
        if rule.kind == "square":
            return [ux * vx + uy * vy]
        turn = value if rule.kind == "angle" else 0.0
        c, s = math.cos(turn), math.sin(turn)
        return [(c * ux - s * uy) * vy - (s * ux + c * uy) * vx]
    if rule.kind == "symmetric":
        ux, uy, _ = sheet.line(of[2])
        (px, py), (qx, qy) = sheet.point(of[0]), sheet.point(of[1])
        across = sheet.beside(of[0], of[2]) + sheet.beside(of[1], of[2])
        return [across / size, ((qx - px) * ux + (qy - py) * uy) / size]
    if rule.kind == "on":
        if is_round(of[1]):
            return [(sheet.apart(of[0], _centre(of[1])) - sheet.radius(of[1])) / size]
        return [sheet.beside(of[0], of[1]) / size]
    if rule.kind == "between":
        if all(is_line(e) for e in of[1:3]):
            first, second = sheet.beside(of[0], of[1]), sheet.beside(of[0], of[2])
            return [(first + side * second) / size]
        (px, py), (ax, ay), (bx, by) = (sheet.point(e) for e in of)
        return [(px - (ax + bx) / 2) / size, (py - (ay + by) / 2) / size]
    if rule.kind == "length":
        return [(sheet.chord(of[0])[2] - value) / size]
    if rule.kind == "radius":
        return [(sheet.radius(of[0]) - value) / size]
    return _distance(sheet, of[0], of[1], value, side, size)


def _tangent(sheet: Sheet, one: Element, two: Element, side: int, size: float) -> Complex:
    if not is_round(one) and not is_round(two):
        raise UnfitRuleError("two straight edges cannot touch smoothly.")
    if shared_corner(one, two):
        assert isinstance(one, Edge) and isinstance(two, Edge)
        before, after = (one, two) if one.end == two.start else (two, one)
        (ux, uy), (vx, vy) = sheet.heading(before, at_end=True), sheet.heading(after, at_end=False)
        return np.asarray(ux * vy - uy * vx)
    if is_round(one) and is_round(two):
        first, second = sheet.radius(one), sheet.radius(two)
        swap = np.where((first - second).real < 0, -1.0, 1.0)
        reach = first + second if side > 0 else swap * (first - second)
        return np.asarray((sheet.apart(one, two) - reach) / size)
    line, other = (one, two) if is_line(one) else (two, one)
    return np.asarray((side * sheet.beside(_centre(other), line) - sheet.radius(other)) / size)


def _distance(
    sheet: Sheet, one: Element, two: Element, value: float, side: int, size: float
) -> list[Complex]:
    """Between points, from a line to a point, or between lines, which it makes parallel."""
    if not is_line(one) and not is_line(two):
        return [(sheet.apart(one, two) - value) / size]
    line, other = (one, two) if is_line(one) else (two, one)
    if not isinstance(other, Edge) or other.bulge is not None:
        return [(side * sheet.beside(_centre(other), line) - value) / size]
    ux, uy, _ = sheet.line(line)
    vx, vy, _ = sheet.line(other)
    return [(side * sheet.beside(other.start, line) - value) / size, ux * vy - uy * vx]
