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

from anakinema.geometry.complexes import Complexes, as_complex, as_points
from anakinema.geometry.contour import Floats
from anakinema.geometry.edge_distances import Edges, Indices, Mask, edge_pairs, project, within
from anakinema.geometry.poses import relative_poses, transform
from anakinema.geometry.region import Circles, Region
from anakinema.wanted import still_wanted

CHUNK = 400_000
"""Edge pairs measured at a time, to bound memory."""
OPENED = 500
"""Pairs looked at where runs of edges are opened for those they are made of, about."""


@dataclass(frozen=True, slots=True, eq=False)
class Distances:
    """(N,) mm, 0 where the regions touch or overlap; nearest points (N, 2) in the first frame."""

    distance: Floats
    first_point: Floats
    second_point: Floats
    overlaps: Mask

    def taken(self, rows: slice) -> Distances:
        """Those at some of the poses."""
        return Distances(
            self.distance[rows],
            self.first_point[rows],
            self.second_point[rows],
            self.overlaps[rows],
        )


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
    def is_partial(self) -> bool:
        """Whether only some edge pairs count."""
        return self.compared is not None and not self.compared.all()

    @property
    def load(self) -> int:
        """Pairs of edges, or of runs of them, that a pose costs, about."""
        one, two = self.first.levels, self.second.levels
        return len(one[-1].reach) * len(two[-1].reach) + OPENED * (max(len(one), len(two)) - 1)


def distances(questions: Sequence[Question]) -> list[Distances]:
    """Distances of every question; those about the same outlines are one, small ones are measured
    together, large ones in pieces."""
    alike: dict[tuple[int, int, int, bool], list[int]] = {}
    for k, each in enumerate(questions):
        key = id(each.first), id(each.second), id(each.compared), each.test_inside
        alike.setdefault(key, []).append(k)
    if len(alike) == len(questions):
        return _all_distances(questions)
    poses = [[questions[k].poses for k in group] for group in alike.values()]
    answers = _all_distances(
        [
            replace(questions[group[0]], poses=np.concatenate(some))
            for group, some in zip(alike.values(), poses, strict=True)
        ]
    )
    out: dict[int, Distances] = {}
    for group, some, answer in zip(alike.values(), poses, answers, strict=True):
        ends = np.cumsum([len(each) for each in some]).tolist()
        for k, begin, end in zip(group, [0, *ends], ends, strict=False):
            out[k] = answer.taken(slice(begin, end))
    return [out[k] for k in range(len(questions))]


def _all_distances(questions: Sequence[Question]) -> list[Distances]:
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
        lines = Edges(np.zeros((4, len(some)), complex), np.zeros((2, len(some))))
        lines.points[:2] = as_complex(some).T
        lines.sizes[1] = 1.0
        segment, edge = np.divmod(np.arange(len(some) * count), count)
        squared, p, q = edge_pairs(lines.pick(segment), edges.pick(edge))
        best = squared.reshape(-1, count).argmin(axis=1) + count * np.arange(len(some))
        inside = contains(region, some[:, 0])
        distance = np.where(inside, 0.0, np.sqrt(squared[best]))
        groups.append(Distances(distance, as_points(p[best]), as_points(q[best]), distance <= 0.0))
    return _together(groups)


def outline_span(region: Region, points: Floats) -> tuple[Floats, Floats]:
    """(N,) mm each: nearest and farthest point of all outlines of a region from points (N, 2)."""
    edges, count, middle = _edges(region), len(region.reach), as_complex(region.middle)
    places = as_complex(points)
    near, far = np.empty(len(points)), np.empty(len(points))
    size = max(1, CHUNK // count)
    for k in range(0, len(points), size):
        some = places[k : k + size]
        away = np.abs(some[:, None] - middle)
        # Only edges whose bounding circle reaches past the nearest, or farthest, middle matter.
        n, e = np.nonzero(away - region.reach <= away.min(axis=1)[:, None])
        short = np.abs(project(edges.pick(e), some[n]) - some[n])
        starts = np.searchsorted(n, np.arange(len(some)))
        near[k : k + size] = np.minimum.reduceat(short, starts)
        n, e = np.nonzero(away + region.reach >= away.max(axis=1)[:, None])
        starts = np.searchsorted(n, np.arange(len(some)))
        far[k : k + size] = np.maximum.reduceat(_farthest(edges.pick(e), some[n]), starts)
    return near, far


def _farthest(e: Edges, points: Complexes) -> Floats:
    """Distance (M,) of the farthest point of each edge from a point each (M,)."""
    ends = np.maximum(np.abs(e.start - points), np.abs(e.end - points))
    out = e.centre - points
    return np.asarray(np.where(within(e, out), np.abs(out) + e.radius, ends))


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
    ones, twos, owners, pairs = [], [], [], []
    first_owner = 0
    for question in batch:
        n, i, j = _candidates(question)
        ones.append(_edges(question.first).pick(i))
        twos.append(_edges(question.second).pick(j).placed(question.poses[n]))
        owners.append(n + first_owner)
        pairs.append(i * len(question.second.ring) + j)
        first_owner += len(question.poses)
    owner = np.concatenate(owners)
    squared, p, q = edge_pairs(_side_by_side(ones), _side_by_side(twos))
    starts = np.searchsorted(owner, np.arange(first_owner))
    smallest = np.minimum.reduceat(squared, starts)
    # Of several that are as near the first by its edges, in whatever order they were come upon.
    best = np.flatnonzero(squared == smallest[owner])
    best = best[np.lexsort((np.concatenate(pairs)[best], owner[best]))]
    best = best[np.unique(owner[best], return_index=True)[1]]
    distance, ends = np.sqrt(smallest), (as_points(p[best]), as_points(q[best]))
    out, k = [], 0
    for question in batch:
        rows = slice(k, k + len(question.poses))
        out.append(_with_inside(question, distance[rows], ends[0][rows], ends[1][rows]))
        k += len(question.poses)
    return out


def _side_by_side(parts: list[Edges]) -> Edges:
    if len(parts) == 1:
        return parts[0]
    return Edges(
        np.concatenate([e.points for e in parts], axis=1),
        np.concatenate([e.sizes for e in parts], axis=1),
    )


def _candidates(question: Question) -> tuple[Indices, Indices, Indices]:
    """Pose, first edge and second edge of all pairs that could be the nearest."""
    one, two, poses = question.first.levels, question.second.levels, question.poses
    level = max(len(one), len(two)) - 1
    holding = _holding(question, level)
    firsts, seconds = _at_level(one, level), _at_level(two, level)
    n, i, j = _near_pairs(firsts, seconds, poses, holding)
    # A run's middle is that of one of its parts: on the way down none that is nearest is left out.
    while level:
        n, i, j = _opened(firsts, i, n, j) if level < len(one) else (n, i, j)
        n, j, i = _opened(seconds, j, n, i) if level < len(two) else (n, j, i)
        level -= 1
        firsts, seconds = _at_level(one, level), _at_level(two, level)
        if holding:
            kept = np.flatnonzero(holding[level][i, j])
            n, i, j = n[kept], i[kept], j[kept]
        placed = as_complex(transform(seconds.middle, poses))
        away = np.abs(as_complex(firsts.middle)[i] - placed[n, j])
        least = away - (firsts.reach[i] + seconds.reach[j])
        if holding:
            away = np.where(holding[0][firsts.edge[i], seconds.edge[j]], away, np.inf)
        nearest = np.minimum.reduceat(away, np.searchsorted(n, np.arange(len(poses))))
        kept = np.flatnonzero(least <= nearest[n])
        n, i, j = n[kept], i[kept], j[kept]
    return n, i, j


def _at_level(levels: tuple[Circles, ...], level: int) -> Circles:
    return levels[min(level, len(levels) - 1)]


def _holding(question: Question, most: int) -> list[Mask]:
    """At each level up to ``most`` which pairs of circles hold pairs of edges that count; nothing
    if all do."""
    if question.compared is None or not question.is_partial:
        return []
    one, two = question.first.levels, question.second.levels
    found = [question.compared]
    for level in range(1, most + 1):
        mask = found[-1]
        if level < len(one):
            mask = np.logical_or.reduceat(mask, one[level].first, axis=0)
        if level < len(two):
            mask = np.logical_or.reduceat(mask, two[level].first, axis=1)
        found.append(mask)
    return found


def _opened(
    runs: Circles, chosen: Indices, pose: Indices, other: Indices
) -> tuple[Indices, Indices, Indices]:
    """For each run chosen (M,) all that it is made of: pose, part and what the other side has."""
    counts = runs.size[chosen]
    ends = np.cumsum(counts)
    part = np.arange(ends[-1]) + np.repeat(runs.first[chosen] - (ends - counts), counts)
    return np.repeat(pose, counts), part, np.repeat(other, counts)


def _near_pairs(
    firsts: Circles, seconds: Circles, poses: Floats, holding: list[Mask]
) -> tuple[Indices, Indices, Indices]:
    """Pairs of circles that may hold the nearest points of each pose, of all that there are.

    Middles lie on the outlines, so their distance is an upper bound, where those edges count.
    """
    middle1, middle2 = firsts.middle, transform(seconds.middle, poses)
    # |a - b|² = |a|² + |b|² - 2 a·b: one matrix product a pose. What rounding costs is added to
    # the reach, so no pair that could be the nearest is left out.
    squares = np.sum(middle1**2, axis=1)[:, None] + np.sum(middle2**2, axis=2)[:, None, :]
    squares -= 2.0 * (middle1 @ np.swapaxes(middle2, 1, 2))
    away = np.sqrt(np.maximum(squares, 0.0, out=squares), out=squares)
    size = 1.0 + float(np.abs(middle1).max()) + float(np.abs(middle2).max(initial=0.0))
    least = away - (firsts.reach[:, None] + seconds.reach[None, :] + 2e-7 * size)
    if holding:
        away = np.where(holding[0][np.ix_(firsts.edge, seconds.edge)], away, np.inf)
    nearest = away.reshape(len(away), -1).min(axis=1)
    near = least <= nearest[:, None, None]
    n, i, j = np.nonzero(near & holding[-1] if holding else near)
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
def _edges(region: Region) -> Edges:
    e = region.edges
    safe = np.where(e.is_arc, e.radius, 1.0)
    towards = (region.middle - e.centre) / safe[:, None]
    return Edges(
        np.stack([as_complex(each) for each in (e.start, e.end, e.centre, towards)]),
        np.stack([e.radius, np.cos(e.sweep / 2.0)]),
    )


def is_inside(region: Region, point: Floats, depth: float) -> bool:
    """Whether a point (2,) lies in the material, at least ``depth`` mm from every edge."""
    if not contains(region, point[None])[0]:
        return False
    edges = _edges(region)
    place = as_complex(point)
    feet = project(edges, np.broadcast_to(place, edges.start.shape))
    return float(np.abs(feet - place).min()) >= depth


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
