"""A slab's solid area: one outer contour, its holes, and what is needed to measure to it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely.validation import explain_validity

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Contour, Floats

FEW_EDGES = 24


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
class EdgeGroups:
    """Runs of neighbouring edges with bounding circles, to rule many out at once.

    first, size : (G,) run of edges; middle (G, 2) a point on one of them; reach (G,) mm.
    """

    first: np.ndarray
    size: np.ndarray
    middle: Floats
    reach: Floats

    @staticmethod
    def build(middle: Floats, reach: Floats) -> EdgeGroups:
        """Runs of about a third of the root of the number of edges, single edges if few."""
        count = len(reach)
        step = 1 if count <= FEW_EDGES else math.ceil(math.sqrt(count) / 3)
        first = np.arange(0, count, step)
        size = np.minimum(step, count - first)
        centre = middle[first + size // 2]
        owner = np.repeat(np.arange(len(first)), size)
        far = np.hypot(*(middle - centre[owner]).T) + reach
        return EdgeGroups(first, size, centre, np.maximum.reduceat(far, first))


@dataclass(frozen=True, slots=True, eq=False)
class Region:
    """All edges of a slab, outer contour first, then the holes.

    ring : (E,) contour of each edge: 0 outer, k the k-th hole.
    middle, reach : (E, 2), (E,) bounding circle of each edge, its middle on the edge.
    centre, radius : bounding circle of the whole region, mm.
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
    groups: EdgeGroups
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
            EdgeGroups.build(middle, reach),
            0.0 if is_round else radius,
        )


@lru_cache(maxsize=256)
def _turned_over(region: Region) -> Region:
    outer, *holes = (contour.turned_over() for contour in region.contours)
    return Region.build(outer, tuple(holes), region.hole_names)
