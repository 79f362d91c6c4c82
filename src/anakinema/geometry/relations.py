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

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.geometry.rules import (
    Complex,
    Edge,
    Point,
    Round,
    Rule,
    Sheet,
    equations,
    is_round,
    shared_corner,
    with_sides,
)

SMALL_STEP = 1e-30
CLOSED = 1e-9
"""Equations closed better than this share of the outline's size count as kept."""
MOST_ROUNDS = 60
SHAKE = 0.01
"""Share of themselves that numbers are shaken by."""


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
    fixed = [with_sides(numbers, rule) for rule in rules]
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
        drawn = with_sides(numbers, rules[new])
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
            made = equations(sheet, rule, size)
            rows += made
            owners += [k] * len(made)
    if not rows:
        return np.zeros(0), np.zeros((0, len(columns))), np.zeros(0, dtype=np.int64)
    table = np.stack(rows)
    jacobian = np.nan_to_num(table[:, 1:].imag / SMALL_STEP)
    # A residual that cannot be stated (a length of nothing) is not kept.
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


def _runs_right(numbers: Floats, rule: Rule) -> bool:
    """Whether directions that must agree do not run against each other instead."""
    sheet = Sheet(numbers.astype(complex)[:, None])
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
