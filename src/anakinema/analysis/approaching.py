"""Outlines of one plane: how far they are apart, and how fast they come nearer to one another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt
import shapely

from anakinema.analysis.comparing import Approaches, Point, Seen
from anakinema.analysis.depth import depth
from anakinema.analysis.rings import ring_bound
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import Distances, Question, distances
from anakinema.geometry.poses import carried, relative_poses, transform
from anakinema.geometry.region import Region
from anakinema.mechanism.slab_pairs import SlabPair
from anakinema.motion.bounded import Bounded

Complexes = npt.NDArray[np.complex128]


def question(item: SlabPair, poses: Floats) -> Question:
    """A comparison at poses (N, B, 3)."""
    relative = relative_poses(poses[:, item.first_body], poses[:, item.second_body])
    return Question(
        item.first.region, item.second.region, relative, item.compared, not item.enclosed
    )


class InPlane:
    """How slabs of one plane are compared: see `anakinema.analysis.comparing.Comparing`."""

    directions = 2

    def seen(self, asked: Sequence[tuple[SlabPair, Floats]], enough: float = np.inf) -> list[Seen]:
        """Distances of pairs at poses (N, B, 3) each, exact for lines and arcs."""
        answers = distances([question(item, poses) for item, poses in asked])
        return [
            Seen(
                found.distance,
                found.distance,
                _facing_directions(found),
                found.first_point,
                found.second_point,
                np.ones(len(found.distance), dtype=bool),
            )
            for found in answers
        ]

    def curve(self, items: Sequence[SlabPair], poses: Floats) -> Floats:
        """(N,) mm, the smallest gap of pairs at each of the poses (N, B, 3)."""
        answers = distances([question(item, poses) for item in items])
        return np.asarray(np.min([found.distance for found in answers], axis=0))

    def circles(self, items: Sequence[SlabPair], poses: Floats) -> list[Floats]:
        """(N,) mm between the bounding circles of each pair at poses (N, B, 3)."""
        middles: dict[tuple[int, int], Floats] = {}

        def middle(body: int, region: Region) -> Floats:
            key = body, id(region)
            if key not in middles:
                middles[key] = transform(region.centre[None], poses[:, body])[:, 0]
            return middles[key]

        found = []
        for item in items:
            one, two = item.first.region, item.second.region
            between = middle(item.second_body, two) - middle(item.first_body, one)
            found.append(np.hypot(between[:, 0], between[:, 1]) - one.radius - two.radius)
        return found

    def approaches(self, items: Sequence[SlabPair], states: Bounded, reach: Floats) -> Approaches:
        """How near and fast slabs can come within ``reach`` (N,) of each state."""
        return _Approaches(items, states, reach)

    def rings(self, item: SlabPair, states: Bounded, half: Floats) -> Floats:
        """What rings about one middle keep the two apart by."""
        return ring_bound(item, states, half)

    def load(self, item: SlabPair) -> int:
        """Pairs of groups of edges, or of edges where only some count."""
        return question(item, np.zeros((0, 1 + max(item.bodies), 3))).load

    def depth(self, item: SlabPair, poses: Floats) -> float:
        """mm by which two slabs reach into one another at poses (B, 3)."""
        return depth(item, poses)

    def may_rest(self, item: SlabPair) -> bool:
        """A pin rests at the end of its slot."""
        return item.enclosed

    def points(self, item: SlabPair, seen: Seen, poses: Floats) -> tuple[Point, Point]:
        """The nearest points in the plane, seen at poses (B, 3) alone."""
        pose = poses[item.first_body]
        return carried(pose, seen.first[0]), carried(pose, seen.second[0])

    def near(self, item: SlabPair, poses: Floats) -> npt.NDArray[np.int64]:
        """Rows of poses (N, B, 3) at which the bounding circles of two slabs meet."""
        one, two = item.first.region, item.second.region
        seen = relative_poses(poses[:, item.first_body], poses[:, item.second_body])
        c, s = np.cos(seen[:, 2]), np.sin(seen[:, 2])
        x = seen[:, 0] + c * two.centre[0] - s * two.centre[1] - one.centre[0]
        y = seen[:, 1] + s * two.centre[0] + c * two.centre[1] - one.centre[1]
        return np.flatnonzero(np.hypot(x, y) <= one.radius + two.radius)


@dataclass(frozen=True, slots=True, eq=False)
class _Approach:
    """See `anakinema.analysis.comparing.Approach`.

    first, second (N, 3): poses of both bodies. circles (N,): mm between their bounding circles.
    between (N, 2): mm from the first slab's centre to the second's; apart (N, 2): its rate now;
    loose (N, 2): how much the rates of the bodies' origins can change along x and y. spins (N, 2):
    rad, turns of both now; swing (N,): what turning can change about the rate of any point. speed
    (N,): bound whatever the direction. All per unit of progress, NaN where unbounded.
    """

    item: SlabPair
    first: Floats
    second: Floats
    circles: Floats
    between: Floats
    apart: Floats
    loose: Floats
    spins: Floats
    swing: Floats
    speed: Floats

    def taken(self, rows: npt.NDArray[np.int64]) -> _Approach:
        """The same for some of the poses."""
        return _Approach(
            self.item,
            self.first[rows],
            self.second[rows],
            self.circles[rows],
            self.between[rows],
            self.apart[rows],
            self.loose[rows],
            self.spins[rows],
            self.swing[rows],
            self.speed[rows],
        )

    def low(self, least: Floats, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm: the gap stays above this within ``reach`` (N,) of each pose; NaN if unknown.

        The better of two bounds: the gap less the path, or the width of the strip between the
        two slabs at right angles to the nearest points, less the path across that strip.
        """
        general = least - self.speed * reach
        return np.where(least > 0, np.fmax(general, self.strip(facing, reach)), general)

    def strip(self, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm: the same from the strip between the slabs at right angles to ``facing`` (N, 2),
        any directions in the first body; NaN where there is none or speeds are unbounded.

        All points go on as they move now, but for what their rates can change: then the strip is
        narrowest at an end of the stretch (docs/methods.md, "Certified clearance").
        """
        normal = _turned(facing, self.first[:, 2])
        width = np.sum(normal * self.between, axis=1)
        way = reach * np.sum(normal * self.apart, axis=1)
        one, two = self.item.first.region, self.item.second.region
        rims = _rims(one, facing, reach * self.spins[:, 0])
        rims += _rims(two, _turned(-normal, -self.second[:, 2]), reach * self.spins[:, 1])
        narrowest = np.minimum(way - rims[0], -way - rims[1])
        change = self.swing + np.sum(np.abs(normal) * self.loose, axis=1)
        return np.asarray(width + narrowest - change * reach)


def _facing_directions(found: Distances) -> Floats:
    """(N, 2) unit vectors from the first to the second nearest point, NaN where they touch."""
    between = found.second_point - found.first_point
    length = np.where(found.distance > 0.0, found.distance, np.nan)
    return np.asarray(between / length[:, None])


class _Approaches(Sequence[_Approach]):
    """How near and fast the slabs of comparisons can come: see
    `anakinema.analysis.comparing.Approaches`.

    Points of two slabs come nearer to one another as fast whoever sees it: somebody who stands
    still, or somebody who turns with either slab. Of one comparison the least of three bounds
    counts, of all at once the first, which takes least to find.
    """

    def __init__(self, items: Sequence[SlabPair], states: Bounded, reach: Floats) -> None:
        self._items, self._states, self._reach = items, states, reach
        places: dict[tuple[int, int], int] = {}
        slabs: list[tuple[int, Region]] = []
        for body, region in (side for item in items for side in _sides(item)):
            if (body, id(region)) not in places:
                places[body, id(region)] = len(slabs)
                slabs.append((body, region))
        self._slabs = _Slabs.of(slabs, states, reach)
        self._which = np.array(
            [[places[body, id(region)] for body, region in _sides(item)] for item in items]
        )
        radii = np.array([[region.radius for _, region in _sides(item)] for item in items])
        shape = len(items), len(reach)
        self.circles, self.speed = np.empty(shape), np.empty(shape)
        step = max(1, TOGETHER // len(reach))
        for k in range(0, len(items), step):
            rows = slice(k, k + step)
            one, two = (self._slabs.taken(which) for which in self._which[rows].T)
            self.circles[rows] = np.abs(two.centre - one.centre) - radii[rows].sum(axis=1)[:, None]
            self.speed[rows] = _closing(one, two)

    def __len__(self) -> int:
        return len(self._items)

    def __getitem__(self, k: Any) -> Any:
        item = self._items[k]
        one, two = (self._slabs.taken(which) for which in self._which[k])
        return _Approach(
            item,
            self._states.poses[:, item.first_body],
            self._states.poses[:, item.second_body],
            self.circles[k],
            _plane(two.centre - one.centre),
            _plane(two.rate - one.rate),
            _plane(one.more + two.more),
            np.stack([one.spin, two.spin], axis=1),
            one.swing + one.far * one.turns + two.swing + two.far * two.turns,
            np.minimum(self.speed[k], _closing_as_carried(one, two, self._reach)),
        )


TOGETHER = 8_000
"""Comparisons at poses whose speeds are bounded at once."""


def _sides(item: SlabPair) -> tuple[tuple[int, Region], tuple[int, Region]]:
    return (item.first_body, item.first.region), (item.second_body, item.second.region)


@dataclass(frozen=True, slots=True, eq=False)
class _Slabs:
    """S slabs in motion at N poses; planar vectors are complex numbers.

    centre, rate (S, N): the middle of each and its rate now. more (S, N): by how much the rate of
    its body's origin can change, along x and along y. swing (S, N): by how much that of its centre
    changes by turning. spin (S, N): rad, its turn now; more_spin (S, N): by how much that can
    change; turns (S, N): what all that adds to the rate of a point, for each mm from the centre.
    far (S, 1): mm, how far its points are from there that turning moves.
    """

    centre: Complexes
    rate: Complexes
    more: Complexes
    swing: Floats
    spin: Floats
    more_spin: Floats
    turns: Floats
    far: Floats

    @staticmethod
    def of(slabs: list[tuple[int, Region]], states: Bounded, reach: Floats) -> _Slabs:
        """Outlines on bodies, and what bounds their rates within ``reach`` (N,) of some states."""
        bodies = [body for body, _ in slabs]
        x, y, angle = np.moveaxis(states.poses[:, bodies], 0, 2).swapaxes(0, 1)
        rate_x, rate_y, spin = np.moveaxis(states.first[:, bodies], 0, 2).swapaxes(0, 1)
        most = np.moveaxis(states.speed_most[:, bodies], 0, 2).swapaxes(0, 1)
        more = np.maximum(most - np.abs([rate_x, rate_y, spin]), 0.0)
        middle = np.array([complex(*region.centre) for _, region in slabs])[:, None]
        arm = middle * (np.cos(angle) + 1j * np.sin(angle))
        turns = more[2] + reach * most[2] ** 2
        return _Slabs(
            (x + 1j * y) + arm,
            (rate_x + 1j * rate_y) + 1j * spin * arm,
            more[0] + 1j * more[1],
            np.abs(middle) * turns,
            spin,
            more[2],
            turns,
            np.array([[region.turning_radius] for _, region in slabs]),
        )

    def taken(self, which: Any) -> _Slabs:
        """Some of them, or one."""
        return _Slabs(
            self.centre[which],
            self.rate[which],
            self.more[which],
            self.swing[which],
            self.spin[which],
            self.more_spin[which],
            self.turns[which],
            self.far[which],
        )


def _closing(one: _Slabs, two: _Slabs) -> Floats:
    """Bounds on how fast any points of two slabs come nearer to one another, as who stands still
    sees it."""
    apart, loose = two.rate - one.rate, one.more + two.more
    rims = sum(each.far * (np.abs(each.spin) + each.more_spin) for each in (one, two))
    widest = np.hypot(np.abs(apart.real) + loose.real, np.abs(apart.imag) + loose.imag)
    return np.asarray(widest + one.swing + two.swing + rims)


def _closing_as_carried(one: _Slabs, two: _Slabs, reach: Floats) -> Floats:
    """The same as seen by who turns with either, as fast as it turns now, the less of the two."""
    between, apart = two.centre - one.centre, two.rate - one.rate
    change = np.abs(one.more + two.more) + one.swing + two.swing
    drift = reach * (np.abs(apart) + change)
    rims = one.far * one.more_spin + two.far * two.more_spin
    seen = [
        np.abs(apart - 1j * carrier.spin * between)
        + np.abs(carrier.spin) * drift
        + other.far * np.abs(other.spin - carrier.spin)
        for carrier, other in ((one, two), (two, one))
    ]
    return np.asarray(np.minimum(*seen) + change + rims)


def _plane(numbers: Complexes) -> Floats:
    """(N, 2) of complex numbers (N,)."""
    return np.stack([numbers.real, numbers.imag], axis=1)


def _turned(vectors: Floats, angle: Floats) -> Floats:
    """Vectors (N, 2), each turned by an angle (N,)."""
    c, s = np.cos(angle), np.sin(angle)
    x, y = vectors.T
    return np.stack([c * x - s * y, s * x + c * y], axis=1)


def _rims(region: Region, along: Floats, turn: Floats) -> Floats:
    """(2, N) mm from its centre that a region reaches along directions (N, 2), never too little,
    once all its points have gone on straight as they go when it turns, by ``turn`` (N,) rad and by
    as much the other way."""
    x, y = along.T
    swung = np.stack([np.stack([x + t * y, y - t * x], axis=1) for t in (turn, -turn)])
    points, centres, radii = _hull(region)
    far = (swung @ points.T).max(axis=-1, initial=-np.inf)
    if len(radii):
        # Turning leaves a disc about the centre as it is.
        longer = np.hypot(1.0, turn) if region.turning_radius else np.ones(len(turn))
        far = np.maximum(far, (swung @ centres.T + longer[:, None] * radii).max(axis=-1))
    return np.asarray(far)


@lru_cache(maxsize=1024)
def _hull(region: Region) -> tuple[Floats, Floats, Floats]:
    """Points (P, 2), and centres (A, 2) and radii (A,) of discs, all from a region's centre, that
    hold it between them."""
    edges = region.edges
    starts = edges.start[~edges.is_arc]
    points = shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(starts)))
    arcs = edges.is_arc
    return points - region.centre, edges.centre[arcs] - region.centre, edges.radius[arcs]
