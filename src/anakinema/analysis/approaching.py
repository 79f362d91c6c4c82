"""How fast outlines come nearer to one another, for the bounds of a gap."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import Distances, Question, distances
from anakinema.geometry.poses import relative_poses
from anakinema.geometry.region import Region
from anakinema.mechanism.slab_pairs import SlabPair
from anakinema.motion.motion import States


def question(item: SlabPair, poses: Floats) -> Question:
    """A comparison at poses (N, B, 3)."""
    relative = relative_poses(poses[:, item.first_body], poses[:, item.second_body])
    return Question(
        item.first.region, item.second.region, relative, item.compared, not item.enclosed
    )


def measured(item: SlabPair, poses: Floats) -> Distances:
    """Distances of a comparison at poses (N, B, 3)."""
    return distances([question(item, poses)])[0]


@dataclass(frozen=True, slots=True, eq=False)
class Approach:
    """How near and how fast the two slabs of a comparison can come around N poses.

    circles (N,): mm between their bounding circles. apart (N, 2): rate of the second slab's
    centre less the first's; loose (N, 2): how much it can change along x and y; rims (N,): what
    spin adds at the rims; speed (N,): bound whatever the direction; all mm per unit of progress
    over the whole stretch, NaN where unbounded.
    """

    item: SlabPair
    circles: Floats
    apart: Floats
    loose: Floats
    rims: Floats
    speed: Floats

    def taken(self, rows: npt.NDArray[np.int64]) -> Approach:
        """The same for some of the poses."""
        return Approach(
            self.item,
            self.circles[rows],
            self.apart[rows],
            self.loose[rows],
            self.rims[rows],
            self.speed[rows],
        )

    def low(self, distance: Floats, facing: Floats, poses: Floats, reach: Floats) -> Floats:
        """(N,) mm: the gap stays above this within ``reach`` (N,) of each pose; NaN if unknown.

        The better of two bounds: the gap less the path, or the width of the strip between the
        two slabs at right angles to the nearest points, less the path across that strip.
        distance (N,) and facing (N, 2) are those at the poses.
        """
        general = distance - self.speed * reach
        strip = self.strip(facing, poses, reach)
        return np.where(distance > 0, np.fmax(general, strip), general)

    def strip(self, facing: Floats, poses: Floats, reach: Floats) -> Floats:
        """(N,) mm: the same from the strip between the slabs at right angles to ``facing`` (N, 2),
        any directions in the first body; NaN where there is none or speeds are unbounded."""
        first, second = poses[:, self.item.first_body], poses[:, self.item.second_body]
        c, s = np.cos(first[:, 2]), np.sin(first[:, 2])
        x, y = facing.T
        normal = np.stack([c * x - s * y, s * x + c * y], axis=1)
        width = -_support(self.item.second.region, second, -normal)
        width = width - _support(self.item.first.region, first, normal)
        across = np.abs(np.sum(normal * self.apart, axis=1)) + self.rims
        across = across + np.sum(np.abs(normal) * self.loose, axis=1)
        return np.asarray(width - across * reach)


def facing_directions(found: Distances) -> Floats:
    """(N, 2) unit vectors from the first to the second nearest point, NaN where they touch."""
    between = found.second_point - found.first_point
    length = np.where(found.distance > 0.0, found.distance, np.nan)
    return np.asarray(between / length[:, None])


def approaches(items: list[SlabPair], states: States, reach: Floats) -> list[Approach]:
    """How near and fast the slabs of comparisons can come within ``reach`` (N,) of each state.

    The speed of any point of a slab is at most that of the slab's centre plus spin times
    bounding radius, both bounded over the whole stretch.
    """
    slabs: dict[tuple[int, int], tuple[Floats, ...]] = {}

    def slab_motion(body: int, region: Region) -> tuple[Floats, ...]:
        """Centre (N, 2), its rate (N, 2), how much that can change (N, 2), and rims (N,)."""
        key = (body, id(region))
        if key not in slabs:
            pose, v, most = states.poses[:, body], states.first[:, body], states.speed_most[:, body]
            c, s = np.cos(pose[:, 2]), np.sin(pose[:, 2])
            arm_x = c * region.centre[0] - s * region.centre[1]
            arm_y = s * region.centre[0] + c * region.centre[1]
            centre = np.stack([pose[:, 0] + arm_x, pose[:, 1] + arm_y], axis=1)
            rate = np.stack([v[:, 0] - v[:, 2] * arm_y, v[:, 1] + v[:, 2] * arm_x], axis=1)
            more = np.maximum(most - np.abs(v), 0.0)
            arm = float(np.hypot(*region.centre))
            rims = arm * (more[:, 2] + reach * most[:, 2] ** 2) + most[:, 2] * region.turning_radius
            slabs[key] = centre, rate, more[:, :2], rims
        return slabs[key]

    out = []
    for item in items:
        one = slab_motion(item.first_body, item.first.region)
        two = slab_motion(item.second_body, item.second.region)
        between, apart = two[0] - one[0], two[1] - one[1]
        loose, rims = one[2] + two[2], one[3] + two[3]
        circles = np.hypot(between[:, 0], between[:, 1])
        circles = circles - item.first.region.radius - item.second.region.radius
        speed = np.hypot(np.abs(apart[:, 0]) + loose[:, 0], np.abs(apart[:, 1]) + loose[:, 1])
        out.append(Approach(item, circles, apart, loose, rims, speed + rims))
    return out


def most_approach(move: Approach, known: Floats, progress: Floats, reach: Floats) -> Floats:
    """(N,) lower bounds around each sample, from the nearest samples whose gap is known.

    Between samples the gap falls by no more than the path, summed along the way.
    """
    measured = np.flatnonzero(~np.isnan(known))
    speed = move.speed
    path = np.append(0.0, np.cumsum(np.diff(progress) * np.maximum(speed[1:], speed[:-1])))
    path = np.where(np.isnan(path), np.inf, path)
    place = np.searchsorted(measured, np.arange(len(known)), side="right")
    before, after = (
        measured[np.maximum(place - 1, 0)],
        measured[np.minimum(place, len(measured) - 1)],
    )
    with np.errstate(invalid="ignore"):
        from_before = known[before] - np.abs(path - path[before])
        from_after = known[after] - np.abs(path[after] - path)
        bound = np.fmax(from_before, from_after) - speed * reach
    return np.where(np.isnan(bound), -np.inf, bound)


def rows_of_nearest(known: Floats, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """The known sample nearest to each of some rows."""
    measured = np.flatnonzero(~np.isnan(known))
    middles = (measured[1:] + measured[:-1]) / 2
    return measured[np.searchsorted(middles, rows)]


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
