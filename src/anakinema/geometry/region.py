"""A slab's solid area: one outer contour, its holes, and what is needed to measure to it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import shapely
from shapely.validation import explain_validity

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Contour, Floats

FEW = 24
"""Circles that are not put together any more."""
RUN = 4
"""Circles that are put together into one at a time."""


_FLAWS = {
    "Hole lies outside shell": "a hole reaches over the outline",
    "Self-intersection": "the outline crosses itself or a hole",
    "Ring Self-intersection": "the outline touches itself",
    "Holes are nested": "one hole lies within another",
    "Nested holes": "one hole lies within another",
    "Interior is disconnected": "it would fall into pieces",
    "Too few points in geometry component": "too little of it is left",
}
"""What the geometry library calls a flaw, and what a designer does."""


@dataclass(frozen=True, slots=True, eq=False)
class Circles:
    """Bounding circles, reach (C,) mm, about the middles (C, 2) of edges (C,); each of a run of
    those a level finer, first and size (C,), one of which has the same middle."""

    middle: Floats
    reach: Floats
    edge: npt.NDArray[np.int64]
    first: npt.NDArray[np.int64]
    size: npt.NDArray[np.int64]

    def joined(self, ring: npt.NDArray[np.int64]) -> tuple[Circles, npt.NDArray[np.int64]]:
        """Circles of runs of these, of one contour (C,) each, and the contours of the runs."""
        count = len(self.reach)
        within = np.arange(count) - np.searchsorted(ring, ring)
        first = np.flatnonzero(within % RUN == 0)
        size = np.diff(np.append(first, count))
        about = first + size // 2
        middle = self.middle[about]
        owner = np.repeat(np.arange(len(first)), size)
        far = np.hypot(*(self.middle - middle[owner]).T) + self.reach
        reach = np.maximum.reduceat(far, first)
        return Circles(middle, reach, self.edge[about], first, size), ring[first]


def _levels(middle: Floats, reach: Floats, ring: npt.NDArray[np.int64]) -> tuple[Circles, ...]:
    """Circles of all edges, of runs of them, of runs of those and so on, until they are few."""
    each = np.arange(len(reach))
    found = [Circles(middle, reach, each, each, np.ones(len(reach), np.int64))]
    while len(found[-1].reach) > FEW:
        joined, ring = found[-1].joined(ring)
        if len(joined.reach) == len(found[-1].reach):
            break
        found.append(joined)
    return tuple(found)


@dataclass(frozen=True, slots=True, eq=False)
class Region:
    """All edges of a slab, outer contour first, then the holes.

    ring : (E,) contour of each edge: 0 outer, k the k-th hole.
    middle, reach : (E, 2), (E,) bounding circle of each edge, its middle on the edge.
    centre, radius : bounding circle of the whole region, mm.
    levels : circles about its edges, and about ever longer runs of them.
    turning_radius : mm that its points move for each radian it turns about the centre; none if all
    its edges are round about that.
    """

    edges: Contour
    ring: np.ndarray
    hole_names: tuple[str, ...]
    middle: Floats
    reach: Floats
    centre: Floats
    radius: float
    polygon: shapely.Polygon
    levels: tuple[Circles, ...]
    turning_radius: float

    @property
    def contours(self) -> tuple[Contour, ...]:
        """The outer contour, then those of the holes."""
        return tuple(self.edges.taken(self.ring == k) for k in range(int(self.ring[-1]) + 1))

    def turned_over(self) -> Region:
        """The region as seen from behind, turned over about x."""
        return _turned_over(self)

    @staticmethod
    def build(outer: Contour, holes: tuple[Contour, ...], names: tuple[str, ...]) -> Region:
        """Join contours; raises `GeometryError` if they cross themselves or one another."""
        polygon = shapely.Polygon(outer.polygon(), [hole.polygon() for hole in holes])
        if not polygon.is_valid:
            reason, _, place = explain_validity(polygon).rstrip("]").partition("[")
            near = ", ".join(f"{float(value):.2f}" for value in place.split())
            raise GeometryError(
                f"is not a plain closed shape: {_FLAWS.get(reason, reason)} near ({near}) mm.",
                where="the outline with its holes",
                remedy="Keep holes inside the outline and edges from crossing.",
            )
        contours = (outer, *holes)
        edges = Contour(
            np.concatenate([c.start for c in contours]),
            np.concatenate([c.end for c in contours]),
            np.concatenate([c.centre for c in contours]),
            np.concatenate([c.radius for c in contours]),
            np.concatenate([c.sweep for c in contours]),
            np.concatenate([c.piece for c in contours]),
        )
        middle = edges.middles()
        # An arc spans at most a quarter turn, so its ends are its farthest points from its middle.
        reach = np.maximum(np.hypot(*(edges.start - middle).T), np.hypot(*(edges.end - middle).T))
        low_x, low_y, high_x, high_y = outer.bounds()
        centre = np.array([(low_x + high_x) / 2, (low_y + high_y) / 2])
        outer_count = len(outer.radius)
        spread = np.hypot(*(middle[:outer_count] - centre).T) + reach[:outer_count]
        box = math.hypot(high_x - low_x, high_y - low_y) / 2
        ring = np.repeat(np.arange(len(contours)), [len(c.radius) for c in contours])
        radius = float(min(box, spread.max()))
        off = np.hypot(*(edges.centre - centre).T).max()
        is_round = bool(edges.is_arc.all()) and off <= 1e-12 * radius
        return Region(
            edges,
            ring,
            names,
            middle,
            reach,
            centre,
            radius,
            polygon,
            _levels(middle, reach, ring),
            0.0 if is_round else radius,
        )


@lru_cache(maxsize=256)
def _turned_over(region: Region) -> Region:
    outer, *holes = (contour.turned_over() for contour in region.contours)
    return Region.build(outer, tuple(holes), region.hole_names)
