"""What of an outline can touch: its lines, its rounds (convex arcs and corners) and its bowls.

Two outlines that are apart are nearest where a *pair* of features faces: a round and a line, two
rounds, or a round in a bowl. For such a pair the gap is a closed form, and it holds as long as
the nearest points lie within both features: that is its *margin*.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property

import numpy as np
import numpy.typing as npt

from anakinema.geometry.complexes import Complexes, as_complex, as_points, unit
from anakinema.geometry.contour import Floats
from anakinema.geometry.region import Region

Indices = npt.NDArray[np.int64]
SMOOTH = 1e-7
"""rad; edges that meet at a smaller angle pass into one another."""


class Feature(IntEnum):
    """Kinds of features."""

    ROUND = 0
    LINE = 1
    BOWL = 2


@dataclass(frozen=True, slots=True, eq=False)
class Features:
    """F features of an outline, in its part's frame.

    point : (F, 2) mm, centre of a round or bowl, start of a line; radius : (F,) mm, 0 for a
    corner. middle, half : (F,) rad, the directions in which a round faces, and a bowl lies, seen
    from its centre, as the middle one and half the span. direction : (F,) rad of a line, its
    material on the right; length : (F,) mm. before, after : (F,) the features it passes into,
    -1 where there is none, as in an inner corner.
    """

    kind: Indices
    point: Floats
    radius: Floats
    middle: Floats
    half: Floats
    direction: Floats
    length: Floats
    before: Indices
    after: Indices

    def centres(self) -> tuple[Floats, Floats]:
        """Circles (F, 2), (F,) that hold the features."""
        along = np.stack([np.cos(self.direction), np.sin(self.direction)], axis=1)
        is_line = self.kind == Feature.LINE
        middle = self.point + np.where(is_line, self.length / 2, 0.0)[:, None] * along
        return middle, np.where(is_line, self.length / 2, self.radius)

    def around(self, index: int) -> set[int]:
        """A feature and those it passes into."""
        return {index, int(self.before[index]), int(self.after[index])} - {-1}


def features_of(region: Region, chosen: npt.NDArray[np.bool_]) -> Features:
    """Features of the chosen edges (E,) of a region; corners between two chosen ones count."""
    rows: list[tuple[float, ...]] = []
    links: list[tuple[int, int]] = []
    for ring in np.unique(region.ring):
        _ring_features(region, np.flatnonzero(region.ring == ring), ring > 0, chosen, rows, links)
    table = np.array(rows).reshape(-1, 8)
    before, after = np.full(len(rows), -1), np.full(len(rows), -1)
    for one, two in links:
        after[one], before[two] = two, one
    return Features(
        table[:, 0].astype(np.int64),
        table[:, 1:3],
        table[:, 3],
        table[:, 4],
        table[:, 5],
        table[:, 6],
        table[:, 7],
        before,
        after,
    )


@dataclass(frozen=True, slots=True)
class _Edge:
    """An edge run with its material on the left."""

    start: tuple[float, float]
    end: tuple[float, float]
    centre: tuple[float, float]
    radius: float
    sweep: float
    chosen: bool

    @property
    def curvature(self) -> float:
        return math.copysign(1.0 / self.radius, self.sweep) if self.radius else 0.0

    def heading(self, *, at_end: bool) -> float:
        if self.radius == 0.0:
            return math.atan2(self.end[1] - self.start[1], self.end[0] - self.start[0])
        x, y = self.end if at_end else self.start
        angle = math.atan2(y - self.centre[1], x - self.centre[0])
        return angle + math.copysign(math.pi / 2, self.sweep)


def _ring_features(
    region: Region,
    members: Indices,
    is_hole: bool,
    chosen: npt.NDArray[np.bool_],
    rows: list[tuple[float, ...]],
    links: list[tuple[int, int]],
) -> None:
    edges = _merged(_run(region, members, is_hole, chosen))
    indices: list[int] = []
    corners: list[int | None] = []
    for k, edge in enumerate(edges):
        indices.append(len(rows) if edge.chosen else -1)
        if edge.chosen:
            rows.append(_edge_row(edge))
        following = edges[(k + 1) % len(edges)]
        turn = _turn(edge, following)
        both = edge.chosen and following.chosen
        if both and turn > SMOOTH and (len(edges) > 1 or edge.radius == 0.0):
            corners.append(len(rows))
            facing = edge.heading(at_end=True) - math.pi / 2
            rows.append((Feature.ROUND, *edge.end, 0.0, facing + turn / 2, turn / 2, 0.0, 0.0))
        else:
            corners.append(-1 if both and abs(turn) <= SMOOTH else None)
    for k, corner in enumerate(corners):
        here, there = indices[k], indices[(k + 1) % len(edges)]
        if corner is None or here == there:
            continue
        if corner == -1:
            links.append((here, there))
        else:
            links += [(here, corner), (corner, there)]


def _turn(edge: _Edge, following: _Edge) -> float:
    """rad by which the outline turns left from an edge to the next one."""
    turn = math.remainder(following.heading(at_end=False) - edge.heading(at_end=True), math.tau)
    if math.pi - abs(turn) > SMOOTH:
        return turn
    # Doubling back: a tip if what follows bends away on the material's side, else a cleft.
    return math.copysign(math.pi, -(edge.curvature + following.curvature))


def _run(
    region: Region, members: Indices, is_hole: bool, chosen: npt.NDArray[np.bool_]
) -> list[_Edge]:
    e = region.edges
    run = [
        _Edge(
            (float(e.start[i, 0]), float(e.start[i, 1])),
            (float(e.end[i, 0]), float(e.end[i, 1])),
            (float(e.centre[i, 0]), float(e.centre[i, 1])),
            float(e.radius[i]),
            float(e.sweep[i]),
            bool(chosen[i]),
        )
        for i in members
    ]
    if not is_hole:
        return run
    return [_Edge(x.end, x.start, x.centre, x.radius, -x.sweep, x.chosen) for x in reversed(run)]


def _merged(edges: list[_Edge]) -> list[_Edge]:
    """Arcs that were cut at quarter turns put together again."""

    def same(one: _Edge, two: _Edge) -> bool:
        return (
            one.radius > 0.0
            and abs(one.radius - two.radius) < 1e-9
            and math.dist(one.centre, two.centre) < 1e-9
            and one.sweep * two.sweep > 0
            and one.chosen == two.chosen
        )

    out: list[_Edge] = []
    for edge in edges:
        if out and same(out[-1], edge):
            last = out.pop()
            edge = _Edge(
                last.start, edge.end, edge.centre, edge.radius, last.sweep + edge.sweep, edge.chosen
            )
        out.append(edge)
    if len(out) > 1 and same(out[-1], out[0]):
        last = out.pop()
        out[0] = _Edge(
            last.start, out[0].end, last.centre, last.radius, last.sweep + out[0].sweep, last.chosen
        )
    return out


def _edge_row(edge: _Edge) -> tuple[float, ...]:
    if edge.radius == 0.0:
        # Run from its end, so that it faces to its left.
        direction = edge.heading(at_end=False) + math.pi
        length = math.dist(edge.start, edge.end)
        return (Feature.LINE, *edge.end, 0.0, 0.0, 0.0, direction, length)
    first = math.atan2(edge.start[1] - edge.centre[1], edge.start[0] - edge.centre[0])
    kind = Feature.ROUND if edge.sweep > 0 else Feature.BOWL
    half = min(abs(edge.sweep) / 2, math.pi)
    return (kind, *edge.centre, edge.radius, first + edge.sweep / 2, half, 0.0, 0.0)


@dataclass(frozen=True, eq=False)
class Pairs:
    """P pairs of features that can face one another: one of each of two outlines."""

    first: Features
    second: Features
    one: Indices
    two: Indices

    @staticmethod
    def all_of(first: Features, second: Features) -> Pairs:
        """Every pair of kinds that can touch; two corners meet, but do not stay in touch."""
        a, b = np.meshgrid(first.kind, second.kind, indexing="ij")
        able = (a == Feature.ROUND) | (b == Feature.ROUND)
        bowl = (a == Feature.BOWL) | (b == Feature.BOWL)
        fits = np.abs(first.radius[:, None] - second.radius[None, :]) > 1e-9
        able &= ~bowl | (
            fits & ((a == Feature.BOWL) == (first.radius[:, None] > second.radius[None, :]))
        )
        one, two = np.nonzero(able)
        return Pairs(first, second, one.astype(np.int64), two.astype(np.int64))

    def taken(self, rows: npt.NDArray[np.bool_] | Indices) -> Pairs:
        """Some of them."""
        return Pairs(self.first, self.second, self.one[rows], self.two[rows])

    def reach(self, poses: Floats) -> Floats:
        """(N, P) mm that the gaps are at least, at relative poses (N, 3) of the second."""
        (a, ra), (b, rb) = self.first.centres(), self.second.centres()
        apart = _placed(b, poses)[:, self.two] - as_complex(a)[self.one]
        return np.asarray(np.abs(apart) - ra[self.one] - rb[self.two])

    def witnesses(self, pair: int, pose: Floats) -> tuple[Floats, Floats]:
        """Nearest points (2,) of both features of a pair, in the first's frame."""
        i, j = int(self.one[pair]), int(self.two[pair])
        if self.second.kind[j] in (Feature.LINE, Feature.BOWL):
            mine, theirs = _nearest(self.second, self.first, j, i, _inverse(pose[None])[0])
            both = as_points(_placed(np.stack([theirs, mine]), pose[None])[0])
            return both[0], both[1]
        return _nearest(self.first, self.second, i, j, pose)

    def gaps(self, poses: Floats) -> tuple[Floats, Floats]:
        """Gap (mm, below zero past one another) and margin (mm or rad), both (N, P)."""
        gap = np.empty((len(poses), len(self.one)))
        margin = np.empty_like(gap)
        back = _inverse(poses)
        for kind in self._kinds:
            one, two = (self.second, self.first) if kind.swapped else (self.first, self.second)
            seen = back if kind.swapped else poses
            gap[:, kind.columns], margin[:, kind.columns] = kind.measure(
                one, two, kind.first, kind.second, seen
            )
        return gap, margin

    @cached_property
    def _kinds(self) -> list[_Kind]:
        """The pairs by what they are pairs of: asked at every look."""
        a, b = self.first.kind[self.one], self.second.kind[self.two]
        found = []
        for rows, measure, swapped in (
            ((a == Feature.ROUND) & (b == Feature.ROUND), _two_rounds, False),
            ((a == Feature.LINE), _line_and_round, False),
            ((b == Feature.LINE), _line_and_round, True),
            ((a == Feature.BOWL), _bowl_and_round, False),
            ((b == Feature.BOWL), _bowl_and_round, True),
        ):
            if rows.any():
                sides = self.one[rows], self.two[rows]
                first, second = reversed(sides) if swapped else sides
                columns = slice(None) if rows.all() else np.flatnonzero(rows)
                found.append(_Kind(columns, measure, swapped, first, second))
        return found


@dataclass(frozen=True, slots=True, eq=False)
class _Kind:
    """Pairs of one kind: their columns among all, how they are measured, and the features on both
    sides, those of the second part first if ``swapped``."""

    columns: slice | Indices
    measure: Callable[[Features, Features, Indices, Indices, Floats], tuple[Floats, Floats]]
    swapped: bool
    first: Indices
    second: Indices


def _nearest(
    first: Features, second: Features, i: int, j: int, pose: Floats
) -> tuple[Floats, Floats]:
    """Nearest points of feature i and of the round j, in the first's frame."""
    centre = as_points(_placed(second.point[j : j + 1], pose[None])[0])[0]
    away = centre - first.point[i]
    if first.kind[i] == Feature.LINE:
        angle = float(first.direction[i])
        out = np.array([-math.sin(angle), math.cos(angle)])
        return centre - float(away @ out) * out, centre - second.radius[j] * out
    out = away / (float(np.hypot(*away)) or 1.0)
    inward = -1.0 if first.kind[i] == Feature.ROUND else 1.0
    return first.point[i] + first.radius[i] * out, centre + inward * second.radius[j] * out


def _placed(points: Floats, poses: Floats) -> Complexes:
    """(N, P) complex, points (P, 2) of a body at poses (N, 3)."""
    turn, origin = unit(poses[:, 2]), as_complex(poses[:, :2])
    return np.asarray(turn[:, None] * as_complex(points) + origin[:, None])


def _inverse(poses: Floats) -> Floats:
    out = np.empty(poses.shape)
    out[:, :2] = as_points(-as_complex(poses[:, :2]) * unit(-poses[:, 2]))
    out[:, 2] = -poses[:, 2]
    return out


def _inside(angle: Floats, middle: Floats, half: Floats) -> Floats:
    away = (angle - middle + math.pi) % (2 * math.pi) - math.pi
    return np.asarray(half - np.abs(away))


def _two_rounds(
    first: Features, second: Features, i: Indices, j: Indices, poses: Floats
) -> tuple[Floats, Floats]:
    apart = _placed(second.point[j], poses) - as_complex(first.point[i])
    gap = np.abs(apart) - first.radius[i] - second.radius[j]
    angle = np.angle(apart)
    seen = angle + math.pi - poses[:, 2, None]
    margin = np.minimum(
        _inside(angle, first.middle[i], first.half[i]),
        _inside(seen, second.middle[j], second.half[j]),
    )
    return gap, margin


def _line_and_round(
    first: Features, second: Features, i: Indices, j: Indices, poses: Floats
) -> tuple[Floats, Floats]:
    apart = _placed(second.point[j], poses) - as_complex(first.point[i])
    apart = apart * unit(-first.direction[i])
    along, gap = apart.real, apart.imag - second.radius[j]
    seen = first.direction[i] - math.pi / 2 - poses[:, 2, None]
    margin = np.minimum(
        np.minimum(along, first.length[i] - along), _inside(seen, second.middle[j], second.half[j])
    )
    return gap, margin


def _bowl_and_round(
    first: Features, second: Features, i: Indices, j: Indices, poses: Floats
) -> tuple[Floats, Floats]:
    apart = _placed(second.point[j], poses) - as_complex(first.point[i])
    gap = first.radius[i] - np.abs(apart) - second.radius[j]
    angle = np.angle(apart)
    margin = np.minimum(
        _inside(angle, first.middle[i], first.half[i]),
        _inside(angle - poses[:, 2, None], second.middle[j], second.half[j]),
    )
    return gap, margin
