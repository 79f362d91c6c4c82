"""Bodies as triangles with normals, and the edges that may be inked, for pictures in depth."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import shapely

from anakinema.depth.painters_order import CORNER
from anakinema.depth.rods import rod_mesh
from anakinema.depth.surfaces import Edges, Faces, joined_edges, joined_faces
from anakinema.document.resolve import Resolved
from anakinema.document.rods_in_space import rods_of
from anakinema.document.solids import SolidPart
from anakinema.geometry.contour import Floats

SAME, SLIVER = 1e-6, 1e-4
"""mm by which heights and corners are one; mm² of what is left of two that should be one."""
STRAIGHT = 2.5
"""Times as long as its neighbour an edge is straight beside chords of an arc."""


@dataclass(frozen=True, slots=True, eq=False)
class Meshes:
    """All bodies in their own frames, heights as they stand, and behind them all rods; ``fine`` mm
    are chords from arcs.

    box : (B + R, 2, 3) least and greatest x, y, z of each in its own frame; NaN where it has none.
    """

    faces: Faces
    edges: Edges
    box: Floats
    fine: float

    @staticmethod
    def build(resolved: Resolved, fine: float) -> Meshes:
        """Meshes of all bodies that have an outline."""
        faces: list[Faces] = []
        edges: list[Edges] = []
        count = len(resolved.document.bodies)
        rods = rods_of(resolved)
        box = np.full((count + len(rods), 2, 3), np.nan)
        for k, body in enumerate(resolved.document.bodies):
            solid = resolved.part_of(body)
            if not solid.slabs:
                continue
            own, rims = _part_mesh(solid, fine)
            up = np.array([0.0, 0.0, resolved.heights[k]], dtype=np.float32)
            one = np.uint32(k)
            faces.append(replace(own, at=own.at + up, body=own.body + one))
            edges.append(
                replace(rims, start=rims.start + up, end=rims.end + up, body=rims.body + one)
            )
            box[k] = (own.at + up).min(axis=0), (own.at + up).max(axis=0)
        for r, joint in enumerate(rods):
            rod = resolved.joints[joint].rod
            assert rod is not None
            own, rims = rod_mesh(rod, fine)
            one = np.uint32(count + r)
            faces.append(replace(own, body=own.body + one))
            edges.append(replace(rims, body=rims.body + one))
            box[count + r] = own.at.min(axis=0), own.at.max(axis=0)
        return Meshes(joined_faces(faces), joined_edges(edges), box, fine)

    def box_at(self, places: Floats, shown: npt.NDArray[np.bool_] | None = None) -> Floats:
        """(2, 3) what holds all bodies at places (B, 3, 4) in space; those ``shown`` (B,)."""
        here = ~np.isnan(self.box[: len(places), 0, 0])
        if shown is not None:
            here = here & shown
        if not here.any():
            return np.array([[-160.0, -100.0, 0.0], [160.0, 100.0, 10.0]])
        box, place = self.box[: len(places)][here], places[here]
        seen = []
        for pick in itertools.product((0, 1), repeat=3):
            corner = np.stack([box[:, end, axis] for axis, end in enumerate(pick)], axis=1)
            seen.append(np.einsum("bij,bj->bi", place[:, :, :3], corner) + place[:, :, 3])
        return np.array([np.min(seen, axis=(0, 1)), np.max(seen, axis=(0, 1))])


@lru_cache(maxsize=512)
def _part_mesh(solid: SolidPart, fine: float) -> tuple[Faces, Edges]:
    """The surface of all slabs of a part together, with no edge where they run into one another.

    Its heights are parted where slabs begin and end; between two of them it is upright over the
    union of the slabs there, and the level faces are what one layer has more than the next.
    """
    levels = sorted({round(z, 6) for slab in solid.slabs for z in (slab.bottom, slab.top)})
    flat = [
        # Short chords of fine curves, such as the flanks of teeth, become one.
        (slab.bottom, slab.top, shapely.Polygon(rings[0], rings[1:]).simplify(fine / 2))
        for slab in solid.slabs
        for rings in [[contour.polygon(fine / 2) for contour in slab.region.contours]]
    ]
    layers: list[shapely.Geometry] = [shapely.Polygon()]
    for low, high in pairwise(levels):
        some = [p for bottom, top, p in flat if bottom < high - SAME and top > low + SAME]
        whole = some[0] if len(some) == 1 else shapely.union_all(some, grid_size=SAME)
        layers.append(whole if some else shapely.Polygon())
    layers.append(shapely.Polygon())
    faces: list[Faces] = []
    edges: list[Edges] = []
    for k, z in enumerate(levels):
        below, above = layers[k], layers[k + 1]
        for area, other, up in ((below, above, 1.0), (above, below, -1.0)):
            for piece in polygons(_less(area, other)):
                faces.append(_level(piece, z, up))
                edges.append(_rims(piece, other, z, up))
        if k + 1 < len(levels):
            for piece in polygons(above):
                for ring in rings_of(piece):
                    walls, uprights = _upright(ring, z, levels[k + 1])
                    faces.append(walls)
                    edges.append(uprights)
    return joined_faces(faces), joined_edges(edges)


def _less(area: shapely.Geometry, other: shapely.Geometry) -> shapely.Geometry:
    if other.is_empty or not shapely.intersects(area, other):
        return area
    return shapely.difference(area, other, grid_size=SAME)


def polygons(shape: shapely.Geometry) -> list[shapely.Polygon]:
    """The polygons that a shape is made of, slivers left out."""
    return [
        each
        for each in getattr(shape, "geoms", [shape])
        if each.geom_type == "Polygon" and each.area > SLIVER
    ]


def rings_of(polygon: shapely.Polygon) -> list[Floats]:
    """(V, 2) of the outer ring, anticlockwise, then of the holes, clockwise."""
    turned = shapely.geometry.polygon.orient(polygon)
    return [np.asarray(ring.coords)[:-1] for ring in (turned.exterior, *turned.interiors)]


def triangles(rings: Sequence[Floats]) -> npt.NDArray[np.int64]:
    """(T, 3) corners among all points of rings, anticlockwise, that cover what is between them."""
    from manifold3d import triangulate  # not needed at start

    return np.asarray(triangulate([np.ascontiguousarray(ring, dtype=float) for ring in rings]))


def _level(piece: shapely.Polygon, z: float, up: float) -> Faces:
    rings = rings_of(piece)
    flat = np.concatenate(rings)
    order = (0, 1, 2) if up > 0 else (0, 2, 1)
    count = len(flat)
    return Faces(
        np.column_stack([flat, np.full(count, z)]).astype(np.float32),
        np.tile(np.array([0.0, 0.0, up], np.float32), (count, 1)),
        np.zeros(count, dtype=np.uint32),
        triangles(rings)[:, order].astype(np.uint32),
    )


def _rims(piece: shapely.Polygon, other: shapely.Geometry, z: float, up: float) -> Edges:
    """The edges round a level face: with walls that fall away from it, or that stand on it."""
    starts, ends, sides = [], [], []
    for ring in rings_of(piece):
        start, end, _, _, side, _ = _walls(ring)
        if not other.is_empty:
            beside = (start + end) / 2 + 0.01 * side
            stands = shapely.contains_xy(other, beside[:, 0], beside[:, 1])
            side = np.where(stands[:, None], -side, side)
        starts.append(start)
        ends.append(end)
        sides.append(side)
    start, end, side = (np.concatenate(rows) for rows in (starts, ends, sides))
    count = len(start)
    return Edges(
        np.column_stack([start, np.full(count, z)]).astype(np.float32),
        np.column_stack([end, np.full(count, z)]).astype(np.float32),
        np.column_stack([side, np.zeros(count)]).astype(np.float32),
        np.tile(np.array([0.0, 0.0, up], np.float32), (count, 1)),
        np.ones(count, np.float32),
        np.zeros(count, np.uint32),
    )


def _upright(ring: Floats, low: float, high: float) -> tuple[Faces, Edges]:
    """The walls over a ring between two heights, and the upright edges between them."""
    start, end, first, last, side, bent = _walls(ring)
    n = len(ring)
    at = [
        np.column_stack([points, np.full(n, z)])
        for points, z in ((start, low), (end, low), (end, high), (start, high))
    ]
    normal = [np.column_stack([across, np.zeros(n)]) for across in (first, last, last, first)]
    k = np.arange(n)
    corners = [np.column_stack([k, k + n, k + 2 * n]), np.column_stack([k, k + 2 * n, k + 3 * n])]
    faces = Faces(
        np.concatenate(at).astype(np.float32),
        np.concatenate(normal).astype(np.float32),
        np.zeros(4 * n, dtype=np.uint32),
        np.concatenate(corners).astype(np.uint32),
    )
    level = np.column_stack([side, np.zeros(n)]).astype(np.float32)
    edges = Edges(
        np.column_stack([start, np.full(n, low)]).astype(np.float32),
        np.column_stack([start, np.full(n, high)]).astype(np.float32),
        np.roll(level, 1, axis=0),
        level,
        bent.astype(np.float32),
        np.zeros(n, dtype=np.uint32),
    )
    return faces, edges


def _walls(ring: Floats) -> tuple[Floats, Floats, Floats, Floats, Floats, npt.NDArray[np.bool_]]:
    """Of every wall its ends, the normals there (round where the outline bends gently), its own
    normal, and whether there is a corner at its start."""
    end = np.roll(ring, -1, axis=0)
    along = end - ring
    size = np.maximum(np.hypot(*along.T), 1e-12)
    side = np.column_stack([along[:, 1], -along[:, 0]]) / size[:, None]
    before = np.roll(side, 1, axis=0)
    bent = (side * before).sum(axis=1) < math.cos(CORNER)
    # Where a straight edge runs into an arc the wall is square to the straight one.
    share = size / np.roll(size, 1)
    middle = side + before
    middle = middle / np.maximum(np.hypot(*middle.T), 1e-12)[:, None]
    middle = np.where((share > STRAIGHT)[:, None], side, middle)
    middle = np.where((share < 1 / STRAIGHT)[:, None], before, middle)
    first = np.where(bent[:, None], side, middle)
    last = np.where(np.roll(bent, -1)[:, None], side, np.roll(middle, -1, axis=0))
    return ring, end, first, last, side, bent
