"""Exact distances between two regions of lines and arcs, at a batch of relative poses.

Nothing is flattened: every candidate pair of edges is measured in closed form (ends against
edges, feet of perpendiculars, lines of centres, intersections). Edge pairs that bounding circles
prove to be farther apart than another pair are left out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import relative_poses, transform
from anakinema.geometry.region import EdgeGroups, Region
from anakinema.wanted import still_wanted

Mask = npt.NDArray[np.bool_]
Indices = npt.NDArray[np.int64]
CHUNK = 400_000
"""Edge pairs measured at a time, to bound memory."""


@dataclass(frozen=True, slots=True, eq=False)
class Distances:
    """(N,) mm, 0 where the regions touch or overlap; nearest points (N, 2) in the first frame."""

    distance: Floats
    first_point: Floats
    second_point: Floats
    overlaps: Mask


class _Edges:
    """M edges picked for measuring, in one frame; ``towards`` points at an arc's middle.

    One row an edge, so that picking edges is one copy: start, end, centre, towards, radius,
    cosine of half the sweep.
    """

    def __init__(self, rows: Floats) -> None:
        self.rows = rows
        self.start, self.end = rows[:, 0:2], rows[:, 2:4]
        self.centre, self.towards = rows[:, 4:6], rows[:, 6:8]
        self.radius, self.cos_half = rows[:, 8], rows[:, 9]

    def pick(self, chosen: Indices) -> _Edges:
        return _Edges(self.rows.take(chosen, axis=0))


@dataclass(frozen=True, slots=True, eq=False)
class Question:
    """Two regions to measure at relative poses (N, 3) of the second in the first one's frame.

    ``compared`` (E1, E2) says which edge pairs count, None for all; ``test_inside``: also find
    a region that lies wholly in the other's material.
    """

    first: Region
    second: Region
    poses: Floats
    compared: Mask | None = None
    test_inside: bool = True

    @property
    def load(self) -> int:
        """Pairs of edges, or of groups of them, that a pose costs."""
        if self.compared is not None and not self.compared.all():
            return len(self.first.ring) * len(self.second.ring)
        return len(self.first.groups.size) * len(self.second.groups.size)


def distances(questions: Sequence[Question]) -> list[Distances]:
    """Distances of every question; small ones are measured together, large ones in pieces."""
    pieces: list[tuple[int, Question]] = []
    for index, question in enumerate(questions):
        size = max(1, CHUNK // question.load)
        for k in range(0, len(question.poses), size):
            pieces.append((index, replace(question, poses=question.poses[k : k + size])))
    measured: list[Distances] = []
    batch: list[Question] = []
    load = 0
    for _, piece in pieces:
        batch.append(piece)
        load += len(piece.poses) * piece.load
        if load > CHUNK:
            still_wanted()
            measured += _measure(batch)
            batch, load = [], 0
    measured += _measure(batch) if batch else []
    groups: list[list[Distances]] = [[] for _ in questions]
    for (index, _), found in zip(pieces, measured, strict=True):
        groups[index].append(found)
    return [group[0] if len(group) == 1 else _together(group) for group in groups]


def segment_distances(region: Region, ends: Floats) -> Distances:
    """From straight segments, ends (N, 2, 2) mm in the region's frame, to the region.

    The first points lie on the segments.
    """
    edges = _edges(region)
    count = len(edges.radius)
    size = max(1, CHUNK // count)
    groups = []
    for k in range(0, len(ends), size):
        some = ends[k : k + size]
        rows = np.zeros((len(some), 10))
        rows[:, :4], rows[:, 9] = some.reshape(-1, 4), 1.0
        squared, p, q = _edge_pairs(
            _Edges(np.repeat(rows, count, axis=0)), _Edges(np.tile(edges.rows, (len(some), 1)))
        )
        best = squared.reshape(-1, count).argmin(axis=1) + count * np.arange(len(some))
        inside = contains(region, some[:, 0])
        distance = np.where(inside, 0.0, np.sqrt(squared[best]))
        groups.append(Distances(distance, p[best], q[best], distance <= 0.0))
    return _together(groups)


def outline_span(region: Region, points: Floats) -> tuple[Floats, Floats]:
    """(N,) mm each: nearest and farthest point of all outlines of a region from points (N, 2)."""
    edges, count = _edges(region), len(region.reach)
    near, far = np.empty(len(points)), np.empty(len(points))
    size = max(1, CHUNK // count)
    for k in range(0, len(points), size):
        some = points[k : k + size]
        away = np.hypot(*np.moveaxis(some[:, None] - region.middle, 2, 0))
        # Only edges whose bounding circle reaches past the nearest, or farthest, middle matter.
        n, e = np.nonzero(away - region.reach <= away.min(axis=1)[:, None])
        square = np.sum((_project(edges.pick(e), some[n]) - some[n]) ** 2, axis=1)
        starts = np.searchsorted(n, np.arange(len(some)))
        near[k : k + size] = np.sqrt(np.minimum.reduceat(square, starts))
        n, e = np.nonzero(away + region.reach >= away.max(axis=1)[:, None])
        starts = np.searchsorted(n, np.arange(len(some)))
        far[k : k + size] = np.maximum.reduceat(_farthest(edges.pick(e), some[n]), starts)
    return near, far


def _farthest(e: _Edges, points: Floats) -> Floats:
    """Distance (M,) of the farthest point of each edge from a point each (M, 2)."""
    ends = np.maximum(np.hypot(*(e.start - points).T), np.hypot(*(e.end - points).T))
    out = e.centre - points
    across = np.hypot(out[:, 0], out[:, 1])
    return np.where(_within(e, out), across + e.radius, ends)


def _together(group: list[Distances]) -> Distances:
    if not group:
        nothing = np.zeros((0, 2))
        return Distances(np.zeros(0), nothing, nothing, np.zeros(0, dtype=bool))
    return Distances(
        np.concatenate([d.distance for d in group]),
        np.concatenate([d.first_point for d in group]),
        np.concatenate([d.second_point for d in group]),
        np.concatenate([d.overlaps for d in group]),
    )


def _measure(batch: list[Question]) -> list[Distances]:
    """All edge pairs of all questions in one go, then the nearest pair of each pose."""
    ones, twos, owners = [], [], []
    first_owner = 0
    for question in batch:
        n, i, j = _candidates(question)
        ones.append(_edges(question.first).pick(i))
        twos.append(_placed(_edges(question.second).pick(j), question.poses[n]))
        owners.append(n + first_owner)
        first_owner += len(question.poses)
    owner = np.concatenate(owners)
    squared, p, q = _edge_pairs(
        _Edges(np.concatenate([e.rows for e in ones])),
        _Edges(np.concatenate([e.rows for e in twos])),
    )
    starts = np.searchsorted(owner, np.arange(first_owner))
    smallest = np.minimum.reduceat(squared, starts)
    best = np.flatnonzero(squared == smallest[owner])
    best = best[np.unique(owner[best], return_index=True)[1]]
    distance, p, q = np.sqrt(smallest), p[best], q[best]
    out, k = [], 0
    for question in batch:
        rows = slice(k, k + len(question.poses))
        out.append(_with_inside(question, distance[rows], p[rows], q[rows]))
        k += len(question.poses)
    return out


def _candidates(question: Question) -> tuple[Indices, Indices, Indices]:
    """Pose, first edge and second edge of all pairs that could be the nearest."""
    first, second = question.first, question.second
    one, two = first.groups, second.groups
    if question.compared is not None and not question.compared.all():
        return _near_pairs(
            first.middle,
            first.reach,
            transform(second.middle, question.poses),
            second.reach,
            question.compared,
        )
    middle2 = transform(two.middle, question.poses)
    n, a, b = _near_pairs(one.middle, one.reach, middle2, two.reach)
    if len(one.size) == len(first.reach) and len(two.size) == len(second.reach):
        return n, a, b
    # All edge pairs of the group pairs left, then those that can be the nearest of their pose.
    owner, i, j = _expanded(one, two, a, b)
    pose = n[owner]
    away = _apart(first.middle[i], transform(second.middle, question.poses)[pose, j])
    nearest = np.minimum.reduceat(away, np.searchsorted(pose, np.arange(len(question.poses))))
    keep = away - (first.reach[i] + second.reach[j]) <= nearest[pose]
    return pose[keep], i[keep], j[keep]


def _apart(p: Floats, q: Floats) -> Floats:
    return np.asarray(np.hypot(p[:, 0] - q[:, 0], p[:, 1] - q[:, 1]))


def _expanded(
    one: EdgeGroups, two: EdgeGroups, a: Indices, b: Indices
) -> tuple[Indices, Indices, Indices]:
    """All edge pairs (M,) of pairs of groups: which pair, first edge, second edge."""
    counts = one.size[a] * two.size[b]
    owner = np.repeat(np.arange(len(a)), counts)
    offset = np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)
    row, column = np.divmod(offset, two.size[b][owner])
    return owner, one.first[a][owner] + row, two.first[b][owner] + column


def _near_pairs(
    middle1: Floats, reach1: Floats, middle2: Floats, reach2: Floats, compared: Mask | None = None
) -> tuple[Indices, Indices, Indices]:
    """Pairs of circles, (E1, 2) and (N, E2, 2), that may hold the nearest points of each pose.

    Middles lie on the outlines, so their distance is an upper bound.
    """
    # |a - b|² = |a|² + |b|² - 2 a·b: one matrix product a pose. What rounding costs is added to
    # the reach, so no pair that could be the nearest is left out.
    squares = np.sum(middle1**2, axis=1)[:, None] + np.sum(middle2**2, axis=2)[:, None, :]
    squares -= 2.0 * (middle1 @ np.swapaxes(middle2, 1, 2))
    away = np.sqrt(np.maximum(squares, 0.0, out=squares), out=squares)
    size = 1.0 + float(np.abs(middle1).max()) + float(np.abs(middle2).max(initial=0.0))
    least = away - (reach1[:, None] + reach2[None, :] + 2e-7 * size)
    if compared is not None:
        away = np.where(compared, away, np.inf)
        least = np.where(compared, least, np.inf)
    nearest = away.reshape(len(away), -1).min(axis=1)
    n, i, j = np.nonzero(least <= nearest[:, None, None])
    return n, i, j


def _with_inside(question: Question, distance: Floats, p: Floats, q: Floats) -> Distances:
    first, second, poses = question.first, question.second, question.poses
    overlaps = distance <= 0.0
    if question.test_inside:
        near = np.hypot(*(transform(second.centre[None], poses)[:, 0] - first.centre).T)
        close = np.flatnonzero(~overlaps & (near < first.radius + second.radius))
        if len(close):
            tip = transform(second.edges.start[:1], poses[close])[:, 0]
            inside = contains(first, tip)
            back = relative_poses(poses[close], np.zeros((len(close), 3)))
            inside |= contains(second, transform(first.edges.start[:1], back)[:, 0])
            overlaps[close] = inside
            distance = distance.copy()
            distance[close[inside]] = 0.0
    return Distances(distance, p, q, overlaps)


@lru_cache(maxsize=1024)
def _edges(region: Region) -> _Edges:
    e = region.edges
    safe = np.where(e.is_arc, e.radius, 1.0)
    towards = (region.middle - e.centre) / safe[:, None]
    return _Edges(
        np.column_stack([e.start, e.end, e.centre, towards, e.radius, np.cos(e.sweep / 2.0)])
    )


def _placed(edges: _Edges, poses: Floats) -> _Edges:
    """M edges, each at a pose of its own (M, 3)."""
    c, s = np.cos(poses[:, 2])[:, None], np.sin(poses[:, 2])[:, None]
    rows = np.empty(edges.rows.shape)
    x, y = edges.rows[:, 0:8:2], edges.rows[:, 1:8:2]
    rows[:, 0:8:2] = c * x - s * y
    rows[:, 1:8:2] = s * x + c * y
    rows[:, 0:6:2] += poses[:, 0:1]
    rows[:, 1:6:2] += poses[:, 1:2]
    rows[:, 8:] = edges.rows[:, 8:]
    return _Edges(rows)


def _dot(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[:, 0] * b[:, 0] + a[:, 1] * b[:, 1])


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])


def _within(e: _Edges, direction: Floats) -> Mask:
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


def _project(e: _Edges, points: Floats) -> Floats:
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
        nearest[arcs] = np.where(_within(sub, out)[:, None], on_arc, end)
    return nearest


def _edge_pairs(one: _Edges, two: _Edges) -> tuple[Floats, Floats, Floats]:
    """Squared distance (M,) and nearest points (M, 2) of M pairs of edges."""
    best = _Best(one.start, _project(two, one.start))
    best.offer(one.end, _project(two, one.end))
    best.offer(_project(one, two.start), two.start)
    best.offer(_project(one, two.end), two.end)
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


def _lines(one: _Edges, two: _Edges, best: _Best) -> None:
    along1, along2 = one.end - one.start, two.end - two.start
    between = two.start - one.start
    denominator = _cross(along1, along2)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = _cross(between, along2) / denominator
        u = _cross(between, along1) / denominator
    meets = (denominator != 0) & (t >= 0) & (t <= 1) & (u >= 0) & (u <= 1)
    best.touch(one.start + np.where(meets, t, 0.0)[:, None] * along1, meets)


def _arc_and_line(one: _Edges, two: _Edges, best: _Best) -> None:
    swapped = _Best(best.q, best.p)
    _line_and_arc(two, one, swapped)
    best.squared, best.p, best.q = swapped.squared, swapped.q, swapped.p


def _line_and_arc(line: _Edges, arc: _Edges, best: _Best) -> None:
    along = line.end - line.start
    length2 = np.maximum(_dot(along, along), 1e-300)
    t = _dot(arc.centre - line.start, along) / length2
    foot = line.start + t[:, None] * along
    out = foot - arc.centre
    reach = np.hypot(out[:, 0], out[:, 1])
    on_line = (t >= 0) & (t <= 1)
    on_arc = arc.centre + out * (arc.radius / np.maximum(reach, 1e-300))[:, None]
    best.offer(foot, on_arc, on_line & _within(arc, out))
    half = np.sqrt(np.maximum(arc.radius**2 - reach**2, 0.0)) / np.sqrt(length2)
    crosses = reach <= arc.radius
    for sign in (1.0, -1.0):
        s = t + sign * half
        point = line.start + s[:, None] * along
        best.touch(point, crosses & (s >= 0) & (s <= 1) & _within(arc, point - arc.centre))


def _arcs(one: _Edges, two: _Edges, best: _Best) -> None:
    out = two.centre - one.centre
    span = np.hypot(out[:, 0], out[:, 1])
    unit = out / np.maximum(span, 1e-300)[:, None]
    apart = span > 0
    for sign1 in (1.0, -1.0):
        for sign2 in (1.0, -1.0):
            valid = apart & _within(one, sign1 * unit) & _within(two, sign2 * unit)
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
        meets = _within(one, point - one.centre) & _within(two, point - two.centre)
        best.touch(point, crosses & meets)


def is_inside(region: Region, point: Floats, depth: float) -> bool:
    """Whether a point (2,) lies in the material, at least ``depth`` mm from every edge."""
    if not contains(region, point[None])[0]:
        return False
    edges = _edges(region)
    feet = _project(edges, np.broadcast_to(point, edges.start.shape))
    return float(np.hypot(*(feet - point).T).min()) >= depth


def contains(region: Region, points: Floats) -> Mask:
    """(N,) whether points (N, 2) lie in the region's material, by crossings of a level ray."""
    e = region.edges
    y, x = points[:, 1, None], points[:, 0, None]
    upward = (e.start[:, 1] <= y) & (e.end[:, 1] > y)
    downward = (e.end[:, 1] <= y) & (e.start[:, 1] > y)
    rise = e.end[:, 1] - e.start[:, 1]
    t = (y - e.start[:, 1]) / np.where(rise == 0.0, 1.0, rise)
    line_x = e.start[:, 0] + t * (e.end[:, 0] - e.start[:, 0])
    side = np.sign(region.middle[:, 0] - e.centre[:, 0])
    arc_x = e.centre[:, 0] + side * np.sqrt(np.maximum(e.radius**2 - (y - e.centre[:, 1]) ** 2, 0))
    crossing_x = np.where(e.is_arc, arc_x, line_x)
    hits = (upward | downward) & (crossing_x > x)
    return np.asarray(hits.sum(axis=1) % 2 == 1)
