"""Outlines of one plane: how far they are apart, and how fast they come nearer to one another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

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
    apart (N, 2): rate of the second slab's centre less the first's; loose (N, 2): how much it can
    change along x and y; rims (N,): what spin adds at the rims; speed (N,): bound whatever the
    direction; all mm per unit of progress over the whole stretch, NaN where unbounded.
    """

    item: SlabPair
    first: Floats
    second: Floats
    circles: Floats
    apart: Floats
    loose: Floats
    rims: Floats
    speed: Floats

    def taken(self, rows: npt.NDArray[np.int64]) -> _Approach:
        """The same for some of the poses."""
        return _Approach(
            self.item,
            self.first[rows],
            self.second[rows],
            self.circles[rows],
            self.apart[rows],
            self.loose[rows],
            self.rims[rows],
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
        any directions in the first body; NaN where there is none or speeds are unbounded."""
        first, second = self.first, self.second
        c, s = np.cos(first[:, 2]), np.sin(first[:, 2])
        x, y = facing.T
        normal = np.stack([c * x - s * y, s * x + c * y], axis=1)
        width = -_support(self.item.second.region, second, -normal)
        width = width - _support(self.item.first.region, first, normal)
        across = np.abs(np.sum(normal * self.apart, axis=1)) + self.rims
        across = across + np.sum(np.abs(normal) * self.loose, axis=1)
        return np.asarray(width - across * reach)


def _facing_directions(found: Distances) -> Floats:
    """(N, 2) unit vectors from the first to the second nearest point, NaN where they touch."""
    between = found.second_point - found.first_point
    length = np.where(found.distance > 0.0, found.distance, np.nan)
    return np.asarray(between / length[:, None])


class _Approaches(Sequence[_Approach]):
    """How near and fast the slabs of comparisons can come: see
    `anakinema.analysis.comparing.Approaches`.

    The speed of any point of a slab is at most that of the slab's centre plus spin times
    bounding radius, both bounded over the whole stretch.
    """

    def __init__(self, items: Sequence[SlabPair], states: Bounded, reach: Floats) -> None:
        self._items, self._states, self._reach = items, states, reach
        self._slabs: dict[tuple[int, int], _Slab] = {}
        shape = len(items), len(reach)
        self.circles, self.speed = np.empty(shape), np.empty(shape)
        for k, item in enumerate(items):
            one, two = self._both(item)
            between, apart, loose = (
                two.centre - one.centre,
                two.rate - one.rate,
                one.more + two.more,
            )
            radii = item.first.region.radius + item.second.region.radius
            self.circles[k] = np.abs(between) - radii
            widest = np.abs(apart.real) + loose.real, np.abs(apart.imag) + loose.imag
            self.speed[k] = np.hypot(*widest) + (one.rims + two.rims)

    def __len__(self) -> int:
        return len(self._items)

    def __getitem__(self, k: Any) -> Any:
        item = self._items[k]
        one, two = self._both(item)
        return _Approach(
            item,
            self._states.poses[:, item.first_body],
            self._states.poses[:, item.second_body],
            self.circles[k],
            _plane(two.rate - one.rate),
            _plane(one.more + two.more),
            one.rims + two.rims,
            self.speed[k],
        )

    def _both(self, item: SlabPair) -> tuple[_Slab, _Slab]:
        return (
            self._slab(item.first_body, item.first.region),
            self._slab(item.second_body, item.second.region),
        )

    def _slab(self, body: int, region: Region) -> _Slab:
        key = (body, id(region))
        if key not in self._slabs:
            states = self._states
            pose, v, most = states.poses[:, body], states.first[:, body], states.speed_most[:, body]
            c, s = np.cos(pose[:, 2]), np.sin(pose[:, 2])
            arm_x = c * region.centre[0] - s * region.centre[1]
            arm_y = s * region.centre[0] + c * region.centre[1]
            more = np.maximum(most - np.abs(v), 0.0)
            arm = float(np.hypot(*region.centre))
            turns = more[:, 2] + self._reach * most[:, 2] ** 2
            self._slabs[key] = _Slab(
                (pose[:, 0] + arm_x) + 1j * (pose[:, 1] + arm_y),
                (v[:, 0] - v[:, 2] * arm_y) + 1j * (v[:, 1] + v[:, 2] * arm_x),
                more[:, 0] + 1j * more[:, 1],
                arm * turns + most[:, 2] * region.turning_radius,
            )
        return self._slabs[key]


@dataclass(frozen=True, slots=True, eq=False)
class _Slab:
    """Of a slab in motion, as complex numbers (N,): its centre, the rate of that, and how much it
    can change along x and along y; and what spin adds at its rims (N,)."""

    centre: Complexes
    rate: Complexes
    more: Complexes
    rims: Floats


def _plane(numbers: Complexes) -> Floats:
    """(N, 2) of complex numbers (N,)."""
    return np.stack([numbers.real, numbers.imag], axis=1)


def _support(region: Region, poses: Floats, direction: Floats) -> Floats:
    """(N,) how far a region reaches along directions (N, 2), never too little."""
    edges = region.edges
    c, s = np.cos(poses[:, 2]), np.sin(poses[:, 2])
    x, y = direction.T
    along = np.stack([c * x + s * y, c * y - s * x], axis=1)
    # The direction is turned into the body's frame, so all outline points are one product.
    far = (along @ edges.start.T).max(axis=1)
    if edges.is_arc.any():
        arcs = edges.is_arc
        rims = along @ edges.centre[arcs].T + edges.radius[arcs]
        far = np.maximum(far, rims.max(axis=1))
    return np.asarray(far + x * poses[:, 0] + y * poses[:, 1])
