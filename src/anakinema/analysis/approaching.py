"""Outlines of one plane: how far they are apart, and how fast they come nearer to one another."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from anakinema.analysis.comparing import Approach, Approaches, Around, Point, Seen
from anakinema.analysis.depth import depth
from anakinema.analysis.moving_slabs import (
    MovingSlabs,
    closest,
    closing,
    closing_as_carried,
    rims_on_their_way,
)
from anakinema.analysis.rings import ring_bound
from anakinema.geometry.complexes import as_complex, dot, unit
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import Distances, Question, distances
from anakinema.geometry.poses import carried, relative_poses, transform
from anakinema.geometry.region import Region
from anakinema.mechanism.slab_pairs import SlabPair
from anakinema.motion.bounded import Bounded
from anakinema.wanted import still_wanted


def question(item: SlabPair, poses: Floats) -> Question:
    """A comparison at poses (N, B, 3)."""
    still_wanted()
    relative = relative_poses(poses[:, item.first_body], poses[:, item.second_body])
    return Question(
        item.first.region, item.second.region, relative, item.compared, not item.enclosed
    )


class InPlane:
    """How slabs of one plane are compared: see `anakinema.analysis.comparing.Comparing`."""

    directions = 2

    def seen(self, asked: Sequence[tuple[SlabPair, Floats]], enough: float = np.inf) -> list[Seen]:
        """Distances of pairs at poses (N, B, 3) each, exact for lines and arcs."""
        return [_seen(found) for found in distances([question(*each) for each in asked])]

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
        return _Approaches.of(items, states, reach)

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
    """See `anakinema.analysis.comparing.Approach`: of one pair of ``items`` each, ``which`` (N,) of
    them, and how its first slab moves and its second (N,)."""

    items: Sequence[SlabPair]
    which: npt.NDArray[np.int64]
    one: MovingSlabs
    two: MovingSlabs

    @staticmethod
    def around(items: Sequence[SlabPair], at: Around) -> _Approach:
        """Over stretches of several pairs."""
        one, two = (
            MovingSlabs.around(side, at)
            for side in zip(*(_sides(item) for item in items), strict=True)
        )
        return _Approach(items, at.which, one, two)

    def taken(self, rows: npt.NDArray[np.int64]) -> _Approach:
        """The same for some of the poses."""
        return _Approach(self.items, self.which[rows], self.one.taken(rows), self.two.taken(rows))

    def low(self, least: Floats, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm: the gap stays above this within ``reach`` (N,) of each pose; NaN if unknown.

        The better of two bounds: the gap less the path, or the width of the strip between the
        two slabs at right angles to the nearest points, less the path across that strip.
        """
        general = least - closest(self.one, self.two, reach) * reach
        return np.where(least > 0, np.fmax(general, self.strip(facing, reach)), general)

    def strip(self, facing: Floats, reach: Floats) -> Floats:
        """(N,) mm: the same from the strip between the slabs at right angles to ``facing`` (N, 2),
        any directions in the first body; NaN where there is none or speeds are unbounded.

        All points go on as they move now, but for what their rates can change: then the strip is
        narrowest at an end of the stretch (docs/methods.md, "Certified clearance").
        """
        one, two = self.one, self.two
        along = as_complex(facing)
        normal = along * unit(one.heading)
        width = dot(normal, two.centre - one.centre)
        way = reach * dot(normal, two.rate - one.rate)
        back = -normal * np.conj(unit(two.heading))
        rims = np.zeros((2, len(reach)))
        for side, (slab, direction) in enumerate(((one, along), (two, back))):
            turn = reach * slab.spin
            for region, rows in self._outlines(side):
                rims[:, rows] += rims_on_their_way(region, direction[rows], turn[rows])
        narrowest = np.minimum(way - rims[0], -way - rims[1])
        loose = one.more + two.more
        change = one.changing + two.changing
        change = change + np.abs(normal.real) * loose.real + np.abs(normal.imag) * loose.imag
        return np.asarray(width + narrowest - change * reach)

    def _outlines(self, side: int) -> list[tuple[Region, Any]]:
        """Outlines on one side, and the poses they are meant at."""
        regions = {id(region): region for _, region in (_sides(i)[side] for i in self.items)}
        if len(regions) == 1:
            return [(region, slice(None)) for region in regions.values()]
        meant = np.array([id(_sides(item)[side][1]) for item in self.items])[self.which]
        return [(regions[k], np.flatnonzero(meant == k)) for k in np.unique(meant).tolist()]


def _seen(found: Distances) -> Seen:
    """Facing (N, 2) are unit vectors from the first to the second point, NaN where they touch."""
    still_wanted()
    away = found.second_point - found.first_point
    length = np.where(found.distance > 0.0, found.distance, np.nan)
    exact = np.ones(len(length), dtype=bool)
    return Seen(
        found.distance,
        found.distance,
        away / length[:, None],
        found.first_point,
        found.second_point,
        exact,
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Approaches:
    """How near and fast the slabs of comparisons can come: see
    `anakinema.analysis.comparing.Approaches`.

    Of comparisons that are kept the least of three bounds of speeds counts, of all the first, which
    takes least to find. slabs: all outlines (S, N) that move, and which (I, 2) each item compares.
    """

    items: Sequence[SlabPair]
    slabs: MovingSlabs
    which: npt.NDArray[np.int64]
    reach: Floats
    circles: Floats
    speed: Floats

    @staticmethod
    def of(items: Sequence[SlabPair], states: Bounded, reach: Floats) -> _Approaches:
        """From how the bodies move."""
        places: dict[tuple[int, int], int] = {}
        slabs: list[tuple[int, Region]] = []
        for body, region in (side for item in items for side in _sides(item)):
            if (body, id(region)) not in places:
                places[body, id(region)] = len(slabs)
                slabs.append((body, region))
        moving = MovingSlabs.of(slabs, states, reach)
        which = np.array(
            [[places[body, id(region)] for body, region in _sides(item)] for item in items]
        )
        radii = np.array([region.radius for _, region in slabs])[which].sum(axis=1)
        circles, speed = np.empty((2, len(items), len(reach)))
        for rows, one, two in _some(moving, which, len(reach)):
            circles[rows] = np.abs(two.centre - one.centre) - radii[rows, None]
            speed[rows] = closing(one, two)
        return _Approaches(items, moving, which, reach, circles, speed)

    def closer(self, kept: npt.NDArray[np.int64]) -> _Approaches:
        """Those of some of the comparisons."""
        which, speed = self.which[kept], self.speed[kept]
        for rows, one, two in _some(self.slabs, which, len(self.reach)):
            still_wanted()
            speed[rows] = np.minimum(speed[rows], closing_as_carried(one, two, self.reach))
        items = [self.items[k] for k in kept.tolist()]
        return _Approaches(items, self.slabs, which, self.reach, self.circles[kept], speed)

    def at(self, which: npt.NDArray[np.int64], rows: npt.NDArray[np.int64]) -> _Approach:
        """Of comparisons at states."""
        one, two = (self.slabs.taken((slab, rows)) for slab in self.which[which].T)
        return _Approach(self.items, which, one, two)


def _some(
    slabs: MovingSlabs, which: npt.NDArray[np.int64], count: int
) -> Iterator[tuple[slice, MovingSlabs, MovingSlabs]]:
    """A few rows of ``which`` (I, 2) slabs, at ``count`` states, after another."""
    step = max(1, TOGETHER // count)
    for k in range(0, len(which), step):
        rows = slice(k, k + step)
        one, two = (slabs.taken(some) for some in which[rows].T)
        yield rows, one, two


TOGETHER = 8_000
"""Comparisons at poses whose speeds are bounded at once."""


def _sides(item: SlabPair) -> tuple[tuple[int, Region], tuple[int, Region]]:
    return (item.first_body, item.first.region), (item.second_body, item.second.region)
