"""Distances of single edges, lines and arcs, in batches."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats

Mask = npt.NDArray[np.bool_]
Indices = npt.NDArray[np.int64]


class Edges:
    """M edges picked for measuring, in one frame; ``towards`` points at an arc's middle.

    One row an edge, so that picking edges is one copy: start, end, centre, towards, radius,
    cosine of half the sweep.
    """

    def __init__(self, rows: Floats) -> None:
        self.rows = rows
        self.start, self.end = rows[:, 0:2], rows[:, 2:4]
        self.centre, self.towards = rows[:, 4:6], rows[:, 6:8]
        self.radius, self.cos_half = rows[:, 8], rows[:, 9]

    def pick(self, chosen: Indices) -> Edges:
        return Edges(self.rows.take(chosen, axis=0))


def _dot(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[:, 0] * b[:, 0] + a[:, 1] * b[:, 1])


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])


def within(e: Edges, direction: Floats) -> Mask:
    """Whether a direction from an arc's centre meets the arc (never for a line)."""
    length = np.hypot(direction[:, 0], direction[:, 1])
    meets = _dot(direction, e.towards) >= length * (e.cos_half - 1e-12)
    return np.asarray(meets & (e.radius > 0) & (length > 0))


class _Best:
    """Keeps the nearest of all candidate point pairs, squared distance and both points."""

    def __init__(self, p: Floats, q: Floats) -> None:
        self.p, self.q = p.copy(), q.copy()
        self.squared = _dot(p - q, p - q)

    def offer(self, p: Floats, q: Floats, valid: Mask | None = None) -> None:
        d = p - q
        squared = _dot(d, d)
        better = squared < self.squared
        if valid is not None:
            better &= valid
        self.squared = np.where(better, squared, self.squared)
        self.p[better], self.q[better] = p[better], q[better]

    def touch(self, point: Floats, valid: Mask) -> None:
        self.squared = np.where(valid, 0.0, self.squared)
        self.p[valid] = self.q[valid] = point[valid]


def project(e: Edges, points: Floats) -> Floats:
    """Nearest point of each edge to a point each (M, 2)."""
    along = e.end - e.start
    length2 = np.maximum(_dot(along, along), 1e-300)
    t = np.clip(_dot(points - e.start, along) / length2, 0.0, 1.0)
    nearest = e.start + t[:, None] * along
    arcs = np.flatnonzero(e.radius > 0)
    if len(arcs):
        sub, point = e.pick(arcs), points[arcs]
        out = point - sub.centre
        reach = np.maximum(np.hypot(out[:, 0], out[:, 1]), 1e-300)
        on_arc = sub.centre + out * (sub.radius / reach)[:, None]
        to_start, to_end = point - sub.start, point - sub.end
        start_nearer = _dot(to_start, to_start) <= _dot(to_end, to_end)
        end = np.where(start_nearer[:, None], sub.start, sub.end)
        nearest[arcs] = np.where(within(sub, out)[:, None], on_arc, end)
    return nearest


def edge_pairs(one: Edges, two: Edges) -> tuple[Floats, Floats, Floats]:
    """Squared distance (M,) and nearest points (M, 2) of M pairs of edges."""
    best = _Best(one.start, project(two, one.start))
    best.offer(one.end, project(two, one.end))
    best.offer(project(one, two.start), two.start)
    best.offer(project(one, two.end), two.end)
    first_arc, second_arc = one.radius > 0, two.radius > 0
    for rows, measure in (
        (~first_arc & ~second_arc, _lines),
        (~first_arc & second_arc, _line_and_arc),
        (first_arc & ~second_arc, _arc_and_line),
        (first_arc & second_arc, _arcs),
    ):
        chosen = np.flatnonzero(rows)
        if len(chosen):
            sub = _Best(best.p[chosen], best.q[chosen])
            measure(one.pick(chosen), two.pick(chosen), sub)
            best.squared[chosen], best.p[chosen], best.q[chosen] = sub.squared, sub.p, sub.q
    return best.squared, best.p, best.q


def _lines(one: Edges, two: Edges, best: _Best) -> None:
    along1, along2 = one.end - one.start, two.end - two.start
    between = two.start - one.start
    denominator = _cross(along1, along2)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = _cross(between, along2) / denominator
        u = _cross(between, along1) / denominator
    meets = (denominator != 0) & (t >= 0) & (t <= 1) & (u >= 0) & (u <= 1)
    best.touch(one.start + np.where(meets, t, 0.0)[:, None] * along1, meets)


def _arc_and_line(one: Edges, two: Edges, best: _Best) -> None:
    swapped = _Best(best.q, best.p)
    _line_and_arc(two, one, swapped)
    best.squared, best.p, best.q = swapped.squared, swapped.q, swapped.p


def _line_and_arc(line: Edges, arc: Edges, best: _Best) -> None:
    along = line.end - line.start
    length2 = np.maximum(_dot(along, along), 1e-300)
    t = _dot(arc.centre - line.start, along) / length2
    foot = line.start + t[:, None] * along
    out = foot - arc.centre
    reach = np.hypot(out[:, 0], out[:, 1])
    on_line = (t >= 0) & (t <= 1)
    on_arc = arc.centre + out * (arc.radius / np.maximum(reach, 1e-300))[:, None]
    best.offer(foot, on_arc, on_line & within(arc, out))
    half = np.sqrt(np.maximum(arc.radius**2 - reach**2, 0.0)) / np.sqrt(length2)
    crosses = reach <= arc.radius
    for sign in (1.0, -1.0):
        s = t + sign * half
        point = line.start + s[:, None] * along
        best.touch(point, crosses & (s >= 0) & (s <= 1) & within(arc, point - arc.centre))


def _arcs(one: Edges, two: Edges, best: _Best) -> None:
    out = two.centre - one.centre
    span = np.hypot(out[:, 0], out[:, 1])
    unit = out / np.maximum(span, 1e-300)[:, None]
    apart = span > 0
    for sign1 in (1.0, -1.0):
        for sign2 in (1.0, -1.0):
            valid = apart & within(one, sign1 * unit) & within(two, sign2 * unit)
            p = one.centre + sign1 * one.radius[:, None] * unit
            q = two.centre + sign2 * two.radius[:, None] * unit
            best.offer(p, q, valid)
    crosses = apart & (span <= one.radius + two.radius) & (span >= np.abs(one.radius - two.radius))
    safe = np.where(crosses, span, 1.0)
    reach = (safe**2 + one.radius**2 - two.radius**2) / (2 * safe)
    half = np.sqrt(np.maximum(one.radius**2 - reach**2, 0.0))
    normal = np.stack([-unit[:, 1], unit[:, 0]], axis=1)
    for sign in (1.0, -1.0):
        point = one.centre + reach[:, None] * unit + sign * half[:, None] * normal
        meets = within(one, point - one.centre) & within(two, point - two.centre)
        best.touch(point, crosses & meets)
