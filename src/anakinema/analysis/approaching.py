"""Outlines of one plane: how far they are apart, and how fast they come nearer to one another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from anakinema.analysis.comparing import Approach, Approaches, Around, Point, Seen
from anakinema.analysis.depth import depth
from anakinema.analysis.moving_slabs import (
    MovingSlabs,
    closing,
    closing_as_carried,
    rims_on_their_way,
)
from anakinema.analysis.rings import ring_bound
from anakinema.geometry.complexes import Complexes, as_complex, dot, unit
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import Distances, Question, distances
from anakinema.geometry.poses import carried, relative_poses, transform
from anakinema.geometry.region import Region
from anakinema.mechanism.slab_pairs import SlabPair
from anakinema.motion.bounded import Bounded


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

    def around(self, items: Sequence[SlabPair], at: Around) -> Approach:
        """The same over stretches of several pairs at once."""
        return _Approach.around(items, at)

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
    """See `anakinema.analysis.comparing.Approach`: of one pair at N poses, or each of its own.

    items, and which (N,) of them is meant. headings (2, N): rad, angles of both bodies. circles
    (N,): mm between the bounding circles. between (N,): mm from the first slab's centre to the
    second's; apart (N,): its rate now; loose (N,): how much the rates of the bodies' origins can
    change along x and along y, all three complex. spins (2, N): rad, turns of both now; swing (N,):
    what turning can change about the rate of any point. speed (N,): bound whatever the direction.
    All per unit of progress, NaN where unbounded.
    """

    items: Sequence[SlabPair]
    which: npt.NDArray[np.int64]
    headings: Floats
    circles: Floats
    between: Complexes
    apart: Complexes
    loose: Complexes
    spins: Floats
    swing: Floats
    speed: Floats

    @staticmethod
    def of(
        items: Sequence[SlabPair],
        which: npt.NDArray[np.int64],
        one: MovingSlabs,
        two: MovingSlabs,
        reach: Floats,
    ) -> _Approach:
        """From how both slabs move, (N,) each, and the reach (N,) of what bounds that."""
        radii = np.array([sum(region.radius for _, region in _sides(item)) for item in items])
        between = two.centre - one.centre
        return _Approach(
            items,
            which,
            np.stack([one.heading, two.heading]),
            np.abs(between) - radii[which],
            between,
            two.rate - one.rate,
            one.more + two.more,
            np.stack([one.spin, two.spin]),
            one.swing + one.far * one.turns + two.swing + two.far * two.turns,
            np.minimum(closing(one, two), closing_as_carried(one, two, reach)),
        )

    @staticmethod
    def around(items: Sequence[SlabPair], at: Around) -> _Approach:
        """Over stretches of several pairs."""
        one, two = (
            MovingSlabs.around(side, at)
            for side in zip(*(_sides(item) for item in items), strict=True)
        )
        return _Approach.of(items, at.which, one, two, at.half)

    def taken(self, rows: npt.NDArray[np.int64]) -> _Approach:
        """The same for some of the poses."""
        return _Approach(
            self.items,
            self.which[rows],
            self.headings[:, rows],
            self.circles[rows],
            self.between[rows],
            self.apart[rows],
            self.loose[rows],
            self.spins[:, rows],
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
        along = as_complex(facing)
        normal = along * unit(self.headings[0])
        width = dot(normal, self.between)
        way = reach * dot(normal, self.apart)
        back = -normal * np.conj(unit(self.headings[1]))
        rims = np.zeros((2, len(reach)))
        for side, direction in enumerate((along, back)):
            turn = reach * self.spins[side]
            for region, rows in self._outlines(side):
                rims[:, rows] += rims_on_their_way(region, direction[rows], turn[rows])
        narrowest = np.minimum(way - rims[0], -way - rims[1])
        change = self.swing + np.abs(normal.real) * self.loose.real
        change = change + np.abs(normal.imag) * self.loose.imag
        return np.asarray(width + narrowest - change * reach)

    def _outlines(self, side: int) -> list[tuple[Region, Any]]:
        """Outlines on one side, and the poses they are meant at."""
        regions = {id(region): region for _, region in (_sides(i)[side] for i in self.items)}
        if len(regions) == 1:
            return [(region, slice(None)) for region in regions.values()]
        meant = np.array([id(_sides(item)[side][1]) for item in self.items])[self.which]
        return [(regions[k], np.flatnonzero(meant == k)) for k in np.unique(meant).tolist()]


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
        self._items, self._reach = items, reach
        places: dict[tuple[int, int], int] = {}
        slabs: list[tuple[int, Region]] = []
        for body, region in (side for item in items for side in _sides(item)):
            if (body, id(region)) not in places:
                places[body, id(region)] = len(slabs)
                slabs.append((body, region))
        self._slabs = MovingSlabs.of(slabs, states, reach)
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
            self.speed[rows] = closing(one, two)

    def __len__(self) -> int:
        return len(self._items)

    def __getitem__(self, k: Any) -> Any:
        one, two = (self._slabs.taken(which) for which in self._which[k])
        which = np.zeros(len(self._reach), dtype=np.int64)
        return _Approach.of([self._items[k]], which, one, two, self._reach)


TOGETHER = 8_000
"""Comparisons at poses whose speeds are bounded at once."""


def _sides(item: SlabPair) -> tuple[tuple[int, Region], tuple[int, Region]]:
    return (item.first_body, item.first.region), (item.second_body, item.second.region)
