"""What is seen of a mechanism square from a side: its edges and outlines, hidden ones left out.

Surfaces are painted into a raster of depths; of each line those stretches are kept that no surface
lies in front of. Ends of what is partly hidden are so known to a pixel of the raster.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from anakinema.depth.meshes import Meshes
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.wanted import still_wanted

PIXELS = 1400
"""Of the raster along its longer side."""
BIAS = 2.5
"""Pixels by which what lies on a surface may seem to lie behind it."""
GRAZING = 1e-6
"""Cosine below which a face is seen from its edge."""


@dataclass(frozen=True, slots=True, eq=False)
class Seen:
    """Lines (S, 2, 2) mm, across and up, and the box (2, 2) of all that is there."""

    lines: Floats
    box: Floats


def seen_from(meshes: Meshes, places: Floats, across: Floats, up: Floats) -> Seen:
    """Bodies at places (B, 3, 4) seen square, ``across`` and ``up`` (3,) as the picture has it."""
    towards = np.cross(across, up)
    frame = np.stack([across, up, towards])
    at = _placed(meshes.faces.at, meshes.faces.body, places) @ frame.T
    normal = _turned(meshes.faces.normal, meshes.faces.body, places) @ towards
    corners = meshes.faces.corners.astype(np.int64)
    box = np.array([at[:, :2].min(axis=0), at[:, :2].max(axis=0)])
    pixel = float(max(box[1] - box[0])) / PIXELS
    depths = _raster(at[corners], normal[corners].mean(axis=1), box, pixel)
    near = _least_around(depths)
    edges = meshes.edges
    left, right = (
        _turned(each, edges.body, places) @ towards for each in (edges.left, edges.right)
    )
    outline = (left > GRAZING) != (right > GRAZING)
    rows = np.flatnonzero(outline | ((edges.sharp > 0.5) & ((left > GRAZING) | (right > GRAZING))))
    start, end = (
        _placed(each[rows], edges.body[rows], places) @ frame.T for each in (edges.start, edges.end)
    )
    return Seen(_visible(start, end, near, box, pixel), box)


def rough_outline(
    resolved: Resolved, body: int, place: Floats, across: Floats, up: Floats
) -> list[Floats]:
    """(V, 2) mm each: what surrounds each slab of a body at a place (3, 4), heights above its plane
    in its frame, seen square; without its holes and hollows."""
    found = []
    height = float(resolved.heights[body])
    for slab in resolved.part_of(resolved.document.bodies[body]).slabs:
        rim = shapely.get_coordinates(slab.region.polygon.convex_hull)
        ends = [
            np.column_stack([rim, np.full(len(rim), height + z)]) for z in (slab.bottom, slab.top)
        ]
        there = np.concatenate(ends) @ place[:, :3].T + place[:, 3]
        flat = shapely.MultiPoint(np.column_stack([there @ across, there @ up])).convex_hull
        found.append(shapely.get_coordinates(flat))
    return found


def _placed(
    points: npt.NDArray[np.float32], body: npt.NDArray[np.uint32], places: Floats
) -> Floats:
    own = places[body]
    moved = np.einsum("nij,nj->ni", own[:, :, :3], points.astype(np.float64))
    return np.asarray(moved + own[:, :, 3])


def _turned(
    vectors: npt.NDArray[np.float32], body: npt.NDArray[np.uint32], places: Floats
) -> Floats:
    return np.asarray(np.einsum("nij,nj->ni", places[body][:, :, :3], vectors.astype(np.float64)))


def _raster(triangles: Floats, facing: Floats, box: Floats, pixel: float) -> Floats:
    """(H, W) the nearest depth of triangles (T, 3, 3) that face the eye, at middles of pixels."""
    wide, tall = (int(np.ceil(v / pixel)) + 2 for v in box[1] - box[0])
    depths = np.full((tall, wide), -np.inf)
    for corner in triangles[facing > GRAZING]:
        flat = (corner[:, :2] - box[0]) / pixel
        low = np.maximum(np.floor(flat.min(axis=0)).astype(int), 0)
        high = np.minimum(np.ceil(flat.max(axis=0)).astype(int) + 1, (wide, tall))
        (x0, y0), (x1, y1), (x2, y2) = flat
        area = (x1 - x0) * (y2 - y0) - (y1 - y0) * (x2 - x0)
        if abs(area) < 1e-12 or (high <= low).any():
            continue
        x = np.arange(low[0], high[0])[None, :] + 0.5
        y = np.arange(low[1], high[1])[:, None] + 0.5
        one = ((x1 - x) * (y2 - y) - (y1 - y) * (x2 - x)) / area
        two = ((x2 - x) * (y0 - y) - (y2 - y) * (x0 - x)) / area
        three = 1.0 - one - two
        inside = (one >= -1e-9) & (two >= -1e-9) & (three >= -1e-9)
        deep = one * corner[0, 2] + two * corner[1, 2] + three * corner[2, 2]
        part = depths[low[1] : high[1], low[0] : high[0]]
        np.maximum(part, np.where(inside, deep, -np.inf), out=part)
    still_wanted()
    return depths


def _least_around(depths: Floats) -> Floats:
    """(H, W) the least of every pixel and the eight round it, so that no outline hides itself."""
    wide = np.pad(depths, 1, constant_values=-np.inf)
    tall, across = depths.shape
    looks = [wide[y : y + tall, x : x + across] for y in range(3) for x in range(3)]
    return np.asarray(np.minimum.reduce(looks))


def _visible(start: Floats, end: Floats, near: Floats, box: Floats, pixel: float) -> Floats:
    """(S, 2, 2) the stretches of lines (E, 3) each that no surface hides."""
    found: list[Floats] = []
    tall, wide = near.shape
    for a, b in zip(start, end, strict=True):
        length = float(np.hypot(*(b - a)[:2])) / pixel
        if length < 0.5:
            continue
        count = max(2, int(np.ceil(length)) + 1)
        share = np.linspace(0.0, 1.0, count)
        points = a + share[:, None] * (b - a)
        spot = np.floor((points[:, :2] - box[0]) / pixel).astype(int)
        x, y = np.clip(spot[:, 0], 0, wide - 1), np.clip(spot[:, 1], 0, tall - 1)
        clear = points[:, 2] >= near[y, x] - BIAS * pixel
        steps = np.diff(np.concatenate([[0], clear.astype(int), [0]]))
        for first, last in zip(
            np.flatnonzero(steps == 1), np.flatnonzero(steps == -1) - 1, strict=True
        ):
            if last > first:
                found.append(np.array([points[first, :2], points[last, :2]]))
    return np.array(found).reshape(-1, 2, 2)
