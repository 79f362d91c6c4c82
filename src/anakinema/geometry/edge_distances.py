"""Distances of single edges, lines and arcs, in batches; their points are complex numbers."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from anakinema.geometry.complexes import Complexes, as_complex, cross, dot, unit
from anakinema.geometry.contour import Floats

Mask = npt.NDArray[np.bool_]
Indices = npt.NDArray[np.int64]
TINY = 1e-300
"""Keeps a length, or its square, from being zero where it divides."""


class Edges:
    """M edges picked for measuring, in one frame.

    ``points`` (4, M): start, end, centre and, of an arc, the unit vector from there towards its
    middle. ``sizes`` (2, M): radius, 0 of a line, and the cosine of half the sweep.
    """

    def __init__(self, points: Complexes, sizes: Floats) -> None:
        self.points, self.sizes = points, sizes
        self.start, self.end, self.centre, self.towards = points
        self.radius, self.cos_half = sizes

    def pick(self, chosen: Indices) -> Edges:
        return Edges(self.points.take(chosen, axis=1), self.sizes.take(chosen, axis=1))

    def placed(self, poses: Floats) -> Edges:
        """Each edge at a pose of its own (M, 3)."""
        points = self.points * unit(poses[:, 2])
        points[:3] += as_complex(poses[:, :2])
        return Edges(points, self.sizes)


def within(e: Edges, direction: Complexes) -> Mask:
    """Whether a direction from an arc's centre meets the arc (never for a line)."""
    length = np.abs(direction)
    meets = dot(direction, e.towards) >= length * (e.cos_half - 1e-12)
    return np.asarray(meets & (e.radius > 0) & (length > 0))


class _Best:
    """Keeps the nearest of all candidate point pairs, squared distance and both points."""

    def __init__(self, p: Complexes, q: Complexes) -> None:
        self.p, self.q = p.copy(), q.copy()
        self.squared = dot(p - q, p - q)

    def offer(self, p: Complexes, q: Complexes, valid: Mask | None = None) -> None:
        d = p - q
        squared = dot(d, d)
        better = squared < self.squared
        if valid is not None:
            better &= valid
        for into, found in ((self.squared, squared), (self.p, p), (self.q, q)):
            _put(into, found, better)

    def touch(self, point: Complexes, valid: Mask) -> None:
        self.squared[valid] = 0.0
        _put(self.p, point, valid)
        _put(self.q, point, valid)


def _put(into: npt.NDArray[Any], found: npt.NDArray[Any], where: Mask) -> None:
    np.copyto(into, found, where=where)


def project(e: Edges, points: Complexes) -> Complexes:
    """Nearest point of each edge to a point each (M,)."""
    along = e.end - e.start
    length2 = np.maximum(dot(along, along), TINY)
    t = np.clip(dot(points - e.start, along) / length2, 0.0, 1.0)
    nearest = e.start + t * along
    arcs = np.flatnonzero(e.radius > 0)
    if len(arcs):
        sub, point = e.pick(arcs), points[arcs]
        out = point - sub.centre
        on_arc = sub.centre + out * (sub.radius / np.maximum(np.abs(out), TINY))
        to_start, to_end = point - sub.start, point - sub.end
        start_nearer = dot(to_start, to_start) <= dot(to_end, to_end)
        end = np.where(start_nearer, sub.start, sub.end)
        nearest[arcs] = np.where(within(sub, out), on_arc, end)
    return np.asarray(nearest)


def edge_pairs(one: Edges, two: Edges) -> tuple[Floats, Complexes, Complexes]:
    """Squared distance (M,) and nearest points (M,) of M pairs of edges."""
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
        if len(chosen) == len(rows):
            measure(one, two, best)
        elif len(chosen):
            sub = _Best(best.p[chosen], best.q[chosen])
            measure(one.pick(chosen), two.pick(chosen), sub)
            best.squared[chosen], best.p[chosen], best.q[chosen] = sub.squared, sub.p, sub.q
    return best.squared, best.p, best.q


def _lines(one: Edges, two: Edges, best: _Best) -> None:
    along1, along2 = one.end - one.start, two.end - two.start
    between = two.start - one.start
    denominator = cross(along1, along2)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = cross(between, along2) / denominator
        u = cross(between, along1) / denominator
    meets = (denominator != 0) & (t >= 0) & (t <= 1) & (u >= 0) & (u <= 1)
    if meets.any():
        best.touch(one.start + np.where(meets, t, 0.0) * along1, meets)


def _arc_and_line(one: Edges, two: Edges, best: _Best) -> None:
    swapped = _Best(best.q, best.p)
    _line_and_arc(two, one, swapped)
    best.squared, best.p, best.q = swapped.squared, swapped.q, swapped.p


def _line_and_arc(line: Edges, arc: Edges, best: _Best) -> None:
    along = line.end - line.start
    length2 = np.maximum(dot(along, along), TINY)
    t = dot(arc.centre - line.start, along) / length2
    foot = line.start + t * along
    out = foot - arc.centre
    reach = np.abs(out)
    on_line = (t >= 0) & (t <= 1)
    on_arc = arc.centre + out * (arc.radius / np.maximum(reach, TINY))
    best.offer(foot, on_arc, on_line & within(arc, out))
    crosses = reach <= arc.radius
    if not crosses.any():
        return
    half = np.sqrt(np.maximum(arc.radius**2 - reach**2, 0.0)) / np.sqrt(length2)
    for sign in (1.0, -1.0):
        s = t + sign * half
        point = line.start + s * along
        best.touch(point, crosses & (s >= 0) & (s <= 1) & within(arc, point - arc.centre))


def _arcs(one: Edges, two: Edges, best: _Best) -> None:
    out = two.centre - one.centre
    span = np.abs(out)
    unit = out / np.maximum(span, TINY)
    apart = span > 0
    facing1 = {sign: apart & within(one, sign * unit) for sign in (1.0, -1.0)}
    facing2 = {sign: within(two, sign * unit) for sign in (1.0, -1.0)}
    for sign1, faces in facing1.items():
        for sign2, meets in facing2.items():
            p = one.centre + sign1 * one.radius * unit
            q = two.centre + sign2 * two.radius * unit
            best.offer(p, q, faces & meets)
    crosses = apart & (span <= one.radius + two.radius) & (span >= np.abs(one.radius - two.radius))
    if not crosses.any():
        return
    safe = np.where(crosses, span, 1.0)
    reach = (safe**2 + one.radius**2 - two.radius**2) / (2 * safe)
    half = np.sqrt(np.maximum(one.radius**2 - reach**2, 0.0))
    for sign in (1.0, -1.0):
        point = one.centre + (reach + 1j * sign * half) * unit
        meets = within(one, point - one.centre) & within(two, point - two.centre)
        best.touch(point, crosses & meets)
