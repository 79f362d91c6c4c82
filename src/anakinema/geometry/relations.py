"""Relations that an outline keeps: tangent, parallel, symmetric, a stated length and others.

All numbers of an outline stand in one row; some of them are free. A relation is one or two
equations between them. They are solved by Gauss-Newton steps of least change, so that what no
relation asks to move stays where it was drawn. Derivatives are exact: each equation is evaluated
once with a tiny imaginary step in every free number (complex-step derivative; W. Squire,
G. Trapp, "Using complex variables to estimate derivatives of real functions", SIAM Review 40,
1998).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
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
SMALL_STEP = 1e-30
CLOSED = 1e-9
"""Equations closed better than this share of the outline's size count as kept."""
MOST_ROUNDS = 60
SHAKE = 0.01
"""Share of themselves that numbers are shaken by."""


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


@dataclass(frozen=True, slots=True, eq=False)
class Settling:
    """What solving came to: the row of numbers, and which rules are not kept by it.

    freedoms : how many free numbers could still be chosen.
    determined : columns of free numbers that the rules leave no choice.
    repeats : rules that only say again what those before them say.
    """

    numbers: Floats
    broken: tuple[int, ...]
    freedoms: int
    determined: frozenset[int]
    repeats: tuple[int, ...]


class UnfitRuleError(ValueError):
    """A relation between elements that it cannot be between."""


def settle(numbers: Floats, free: Sequence[int], rules: Sequence[Rule]) -> Settling:
    """Move free numbers as little as possible until all rules are kept.

    numbers : (N,) mm, and bulges. free : columns that may move. Where the numbers stand so that no
    small move helps (a point in line with what it must leave), they are shaken first. Raises
    `UnfitRuleError`.
    """
    found = _settled(numbers, free, rules)
    for start in _shaken(numbers, free) if found.broken else ():
        again = _settled(start, free, rules)
        if not again.broken:
            return again
    return found


def _shaken(numbers: Floats, free: Sequence[int]) -> list[Floats]:
    """Two starts a little to either side, ever the same."""
    columns = np.asarray(free, dtype=int)
    away = np.zeros(len(numbers))
    away[columns] = SHAKE * np.maximum(1.0, np.abs(numbers[columns])) * (1.0 + columns % 3)
    return [numbers + away, numbers - away]


def _settled(numbers: Floats, free: Sequence[int], rules: Sequence[Rule]) -> Settling:
    size = max(1.0, float(np.ptp(numbers)) if len(numbers) else 1.0)
    fixed = [_with_sides(numbers, rule) for rule in rules]
    columns = np.asarray(free, dtype=int)
    now = numbers.astype(float).copy()
    rows, jacobian, owners = _evaluate(now, columns, fixed, size)
    for _ in range(MOST_ROUNDS):
        if not len(rows) or float(np.abs(rows).max()) < 1e-14:
            break
        if not len(columns):
            break
        step = np.linalg.lstsq(jacobian, -rows, rcond=1e-9)[0]
        reach = float(np.abs(step).max())
        if reach > size / 4:
            step *= size / 4 / reach
        now[columns] += step
        worst = float(np.abs(rows).max())
        rows, jacobian, owners = _evaluate(now, columns, fixed, size)
        if reach < 1e-15 * size or (
            float(np.abs(rows).max()) < 1e-12 and float(np.abs(rows).max()) > 0.5 * worst
        ):
            break
    bad = {int(owner) for owner in owners[~(np.abs(rows) < CLOSED)]}
    bad |= {k for k, rule in enumerate(fixed) if not _runs_right(now, rule)}
    spare = _null_space(jacobian)
    still = frozenset(columns[np.hypot.reduce(spare, axis=1) < 1e-9].tolist())
    repeats = _repeats(jacobian, owners)
    return Settling(now, tuple(sorted(bad)), spare.shape[1], still, repeats)


def alternatives(
    numbers: Floats, free: Sequence[int], rules: Sequence[Rule], new: int
) -> tuple[Settling, ...]:
    """All ways found to keep all rules, the one of least change first.

    A point that the rules leave no choice is tried on the other side of the line through what it
    is related to. Where the nearest way fails, the open choices of the rule ``new`` are tried the
    other way too.
    """
    found: list[Settling] = []
    size = max(1.0, float(np.ptp(numbers)) if len(numbers) else 1.0)

    def take(settling: Settling) -> None:
        if settling.broken:
            return
        if all(np.abs(settling.numbers - other.numbers).max() > 1e-6 * size for other in found):
            found.append(settling)

    nearest = _settled(numbers, free, rules)
    take(nearest)
    if nearest.broken:
        for start in _shaken(numbers, free):
            take(_settled(start, free, rules))
        nearest = found[0] if found else nearest
    if nearest.broken:
        drawn = _with_sides(numbers, rules[new])
        for k in range(len(drawn.sides or ())):
            sides = tuple(-s if i == k else s for i, s in enumerate(drawn.sides or ()))
            turned = Rule(drawn.kind, drawn.of, drawn.value, sides)
            take(settle(numbers, free, [*rules[:new], turned, *rules[new + 1 :]]))
    may_move = set(free)
    for point in dict.fromkeys(_points(rules)):
        loose = {point.x, point.y} & may_move
        if not loose or not loose <= nearest.determined:
            continue
        for start in _beyond(nearest.numbers, point, loose, _neighbours(rules, point)):
            take(settle(start, free, rules))
    return tuple(found)


def _points(rules: Sequence[Rule]) -> list[Point]:
    out = []
    for rule in rules:
        for element in rule.of:
            if isinstance(element, Edge):
                out += [element.start, element.end]
            else:
                out.append(element.centre if isinstance(element, Round) else element)
    return out


def _neighbours(rules: Sequence[Rule], point: Point) -> list[Point]:
    """Other ends of edges that end at a point, and points at a stated distance of it."""
    out = []
    for rule in rules:
        ends = [
            e.end if e.start == point else e.start
            for e in rule.of
            if isinstance(e, Edge) and point in (e.start, e.end)
        ]
        if rule.kind == "distance" and point in rule.of:
            ends += [e for e in rule.of if isinstance(e, Point) and e != point]
        out += ends
    return out


def _beyond(numbers: Floats, point: Point, loose: set[int], around: list[Point]) -> list[Floats]:
    """The numbers with a point on the other side of what it is related to.

    Of the line through two points, or of one point where only x or y of it may move.
    """
    out = []
    around = list(dict.fromkeys(around))
    if len(loose) == 1:
        (column,) = loose
        for other in around:
            start = numbers.astype(float).copy()
            start[column] = 2 * numbers[other.x if column == point.x else other.y] - start[column]
            out.append(start)
        return out
    for i, one in enumerate(around):
        for two in around[:i]:
            a, b = numbers[[one.x, one.y]], numbers[[two.x, two.y]]
            along = b - a
            length = float(np.hypot(*along))
            if length < 1e-9:
                continue
            normal = np.array([-along[1], along[0]]) / length
            start = numbers.astype(float).copy()
            p = start[[point.x, point.y]]
            start[[point.x, point.y]] = p - 2 * float((p - a) @ normal) * normal
            out.append(start)
    return out


def _evaluate(
    numbers: Floats, columns: npt.NDArray[np.int64], rules: Sequence[Rule], size: float
) -> tuple[Floats, Floats, npt.NDArray[np.int64]]:
    """Residuals (M,), their derivatives (M, F) by the free numbers, and each one's rule (M,)."""
    sheet = np.tile(numbers.astype(complex)[:, None], (1, len(columns) + 1))
    sheet[columns, np.arange(1, len(columns) + 1)] += 1j * SMALL_STEP
    rows: list[Complex] = []
    owners: list[int] = []
    with np.errstate(all="ignore"):
        for k, rule in enumerate(rules):
            made = _equations(sheet, rule, size)
            rows += made
            owners += [k] * len(made)
    if not rows:
        return np.zeros(0), np.zeros((0, len(columns))), np.zeros(0, dtype=np.int64)
    table = np.stack(rows)
    jacobian = np.nan_to_num(table[:, 1:].imag / SMALL_STEP)
    # A residual that cannot be told (a length of nothing) is not kept.
    residual = np.nan_to_num(table[:, 0].real, nan=1.0, posinf=1.0, neginf=1.0)
    return residual, jacobian, np.asarray(owners, dtype=np.int64)


def _null_space(jacobian: Floats) -> Floats:
    """(F, K): changes of the free numbers that no rule notices."""
    if not jacobian.size:
        return np.eye(jacobian.shape[1])
    _, sizes, rows = np.linalg.svd(jacobian)
    rank = int((sizes > 1e-9 * max(1.0, float(sizes[0]))).sum())
    return np.asarray(rows[rank:].T)


def _repeats(jacobian: Floats, owners: npt.NDArray[np.int64]) -> tuple[int, ...]:
    """Rules that add no rank to the rules before them."""
    rank, repeats = 0, []
    for k in sorted(set(owners.tolist())):
        held = np.linalg.matrix_rank(jacobian[owners <= k], tol=1e-9) if jacobian.size else 0
        if held == rank:
            repeats.append(k)
        rank = int(held)
    return tuple(repeats)


class _Sheet:
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
    sheet, of = _Sheet(numbers.astype(complex)[:, None]), rule.of
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


def _with_sides(numbers: Floats, rule: Rule) -> Rule:
    """The rule with its open choices taken as drawn."""
    if rule.sides is not None:
        return rule
    sheet = _Sheet(numbers.astype(complex)[:, None])
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


def _equations(table: Complex, rule: Rule, size: float) -> list[Complex]:
    """Residuals of a rule; lengths as a share of the size, directions as sines."""
    sheet, of, value = _Sheet(table), rule.of, rule.value
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


def _tangent(sheet: _Sheet, one: Element, two: Element, side: int, size: float) -> Complex:
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
    sheet: _Sheet, one: Element, two: Element, value: float, side: int, size: float
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


def _runs_right(numbers: Floats, rule: Rule) -> bool:
    """Whether directions that must agree do not run against each other instead."""
    sheet = _Sheet(numbers.astype(complex)[:, None])
    with np.errstate(all="ignore"):
        if rule.kind == "angle":
            ux, uy, _ = sheet.line(rule.of[0])
            vx, vy, _ = sheet.line(rule.of[1])
            c, s = math.cos(rule.value), math.sin(rule.value)
            return float(((c * ux - s * uy) * vx + (s * ux + c * uy) * vy)[0].real) > 0
        if rule.kind == "tangent" and shared_corner(*rule.of[:2]):
            one, two = rule.of[:2]
            assert isinstance(one, Edge) and isinstance(two, Edge)
            before, after = (one, two) if one.end == two.start else (two, one)
            ux, uy = sheet.heading(before, at_end=True)
            vx, vy = sheet.heading(after, at_end=False)
            return float((ux * vx + uy * vy)[0].real) > 0
        if rule.kind in ("radius", "tangent"):
            return all(float(sheet.radius(e)[0].real) > 0 for e in rule.of if is_round(e))
    return True
