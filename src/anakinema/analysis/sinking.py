"""How deep slabs of different planes that overlap reach into one another."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely

from anakinema.geometry.contour import Floats
from anakinema.geometry.convex import Convex, Solid
from anakinema.geometry.region import Region

COARSE = 0.05
"""mm by which the chords stand off arcs on which points are looked at."""
LEVELS = 7
"""Heights of a slab at which points of its outline are looked at."""
FEW_EDGES = 48
"""Edges whose common normals are tried; of more only those of walls and faces."""
ALONG = 1e-9
"""Edges nearer to parallel than this share no normal of their own."""
ROUND = 24
"""Directions tried all round a round wall."""


def sunk(one: Solid, two: Solid, place: Floats) -> float:
    """mm that one slab reaches into the other, which stands at a place (3, 4) as the first sees it.

    Sampled: the deepest of many points on the outlines of either in the other. Where none lies in
    it, as of two thin blades that cross, and of rods, how far their wraps must be moved apart.
    """
    turned, origin = place[:, :3], place[:, 3]
    found = 0.0
    if one.region is not None and two.region is not None:
        found = _deepest(two, two.region, (_points(one, one.region) - origin) @ turned)
        back = _points(two, two.region) @ turned.T + origin
        found = max(found, _deepest(one, one.region, back))
    return found or _moved_apart(one.wrap, two.wrap, place)


def _deepest(solid: Solid, region: Region, points: Floats) -> float:
    """mm that the deepest of some points (V, 3) lies in a slab, 0 if none does."""
    heights = np.minimum(points[:, 2] - solid.bottom, solid.top - points[:, 2])
    near = np.hypot(*(points[:, :2] - region.centre).T) < region.radius
    rows = np.flatnonzero(near & (heights > 0.0))
    flat = shapely.points(points[rows, :2])
    inside = shapely.contains_properly(region.polygon, flat)
    if not inside.any():
        return 0.0
    walls = shapely.distance(region.polygon.boundary, flat[inside])
    return float(np.minimum(walls, heights[rows][inside]).max())


def _points(solid: Solid, region: Region) -> Floats:
    """(V, 3) points on the outlines of a slab at some heights."""
    flat = _outline_points(region)
    heights = np.linspace(solid.bottom, solid.top, LEVELS)
    return np.column_stack([np.tile(flat, (LEVELS, 1)), np.repeat(heights, len(flat))])


@lru_cache(maxsize=512)
def _outline_points(region: Region) -> Floats:
    """(V, 2) points on the outlines of a region, corners and some between them."""
    rings = [shapely.LinearRing(contour.polygon(COARSE)) for contour in region.contours]
    step = max(2 * region.radius / 40, COARSE)
    return np.concatenate(
        [shapely.get_coordinates(shapely.segmentize(ring, step))[:-1] for ring in rings]
    )


def _moved_apart(one: Convex, two: Convex, place: Floats) -> float:
    """mm by which one must be moved to come clear of the other; 0 if they share no space.

    The least over the normals of all walls and faces, and of pairs of edges where those are few
    (separating axes, S. Gottschalk, M. Lin and D. Manocha, SIGGRAPH 1996, from memory).
    """
    turned, origin = place[:, :3], place[:, 3]
    walls1, edges1 = _walls(one)
    walls2, edges2 = _walls(two)
    walls2, edges2 = walls2 @ turned.T, edges2 @ turned.T
    tried = [walls1, walls2]
    if max(len(edges1), len(edges2)) <= FEW_EDGES:
        crossed = np.cross(edges1[:, None], edges2[None]).reshape(-1, 3)
        length = np.linalg.norm(crossed, axis=1)
        steep = length > ALONG
        tried.append(crossed[steep] / length[steep, None])
    normals = np.concatenate(tried)
    normals = np.concatenate([normals, -normals])
    overlap = one.reach(normals) + two.reach(-normals @ turned) - normals @ origin
    return max(0.0, float(overlap.min()))


def _walls(shape: Convex) -> tuple[Floats, Floats]:
    """Normals of walls and faces (W, 3), and directions of edges (E, 3), as unit vectors."""
    sides = np.roll(shape.points, -1, axis=0) - shape.points
    sides = sides[np.hypot(*sides.T) > ALONG]
    sides = sides / np.hypot(*sides.T)[:, None]
    angle = np.arange(ROUND) * (2 * np.pi / ROUND)
    if shape.arcs is not None:
        sides = np.concatenate([sides, np.column_stack([np.cos(angle), np.sin(angle)])])
    if shape.swell:
        # All round a rod.
        around = np.column_stack([np.zeros(ROUND), np.cos(angle), np.sin(angle)])
        return around, np.column_stack([sides, np.zeros(len(sides))])
    flat = np.zeros(len(sides))
    normals = np.column_stack([sides[:, 1], -sides[:, 0], flat])
    up = np.array([[0.0, 0.0, 1.0]])
    return np.concatenate([normals, up]), np.concatenate([np.column_stack([sides, flat]), up])
