"""What a line of sight meets first: exactly, on the outlines and between the heights of slabs."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.depth.camera import Ray
from anakinema.depth.cutting import Plane
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidSlab
from anakinema.geometry.contour import Floats

TOP, BOTTOM, WALL, CUT = "top", "bottom", "wall", "cut"


@dataclass(frozen=True, slots=True)
class Hit:
    """Where a ray meets a body: ``way`` mm along it, at a ``point`` (3,), on a face with a
    ``normal`` (3,); ``face`` is one of TOP, BOTTOM, WALL, CUT. ``slab`` is the slab's index."""

    body: int
    slab: int
    way: float
    point: Floats
    normal: Floats
    face: str


@dataclass(frozen=True, slots=True, eq=False)
class _Target:
    """A slab of a body to be met: its walls as (E, 2) starts and ways, its circle (x, y, r)."""

    body: int
    index: int
    slab: SolidSlab
    low: float
    high: float
    start: Floats
    along: Floats
    circle: tuple[float, float, float]


class Targets:
    """All slabs of a mechanism, to be met by rays at any poses."""

    def __init__(self, resolved: Resolved) -> None:
        self._all: list[_Target] = []
        for k, body in enumerate(resolved.document.bodies):
            height = float(resolved.heights[k])
            for i, slab in enumerate(resolved.part_of(body).slabs):
                polygon = slab.region.polygon
                shapely.prepare(polygon)
                rings = [np.asarray(r.coords) for r in (polygon.exterior, *polygon.interiors)]
                start = np.concatenate([ring[:-1] for ring in rings])
                along = np.concatenate([np.diff(ring, axis=0) for ring in rings])
                x, y = (float(v) for v in slab.region.centre)
                reach = float(np.hypot(*(start - (x, y)).T).max())
                low, high = height + slab.bottom, height + slab.top
                self._all.append(_Target(k, i, slab, low, high, start, along, (x, y, reach)))

    def hit(
        self, ray: Ray, places: Floats, hidden: Collection[int] = (), cut: Plane | None = None
    ) -> Hit | None:
        """The first face met of bodies at places (B, 3, 4) in space; what a plane cuts away is not
        there, and its cut faces are."""
        best: Hit | None = None
        for target in self._all:
            if target.body in hidden:
                continue
            found = _met(target, ray, places[target.body], cut)
            if found is not None and (best is None or found.way < best.way):
                best = found
        return best


def _met(target: _Target, ray: Ray, place: Floats, cut: Plane | None) -> Hit | None:
    turned = place[:, :3]
    # As it is seen from the body.
    own_start, own_along = (ray.start - place[:, 3]) @ turned, ray.along @ turned
    start, along = own_start[:2], own_along[:2]
    z, az = float(own_start[2]), float(own_along[2])
    level = float(np.hypot(*along))
    x, y, reach = target.circle
    dx, dy = x - start[0], y - start[1]
    if level > 1e-12 and abs(dx * along[1] - dy * along[0]) > reach * level + 1e-9:
        return None
    low, high = target.low, target.high
    # All places where the ray goes into or out of the prism, in their order.
    ways: list[tuple[float, str, int]] = []
    for height, face in ((high, TOP), (low, BOTTOM)):
        if abs(az) > 1e-12:
            way = (height - z) / az
            at = start + way * along
            if shapely.contains_xy(target.slab.region.polygon, at[0], at[1]):
                ways.append((way, face, -1))
    if level > 1e-12:
        # start + way along = wall start + share wall
        cross = along[0] * target.along[:, 1] - along[1] * target.along[:, 0]
        off = target.start - start
        with np.errstate(divide="ignore", invalid="ignore"):
            way = (off[:, 0] * target.along[:, 1] - off[:, 1] * target.along[:, 0]) / cross
            share = (off[:, 0] * along[1] - off[:, 1] * along[0]) / cross
            height = z + way * az
        there = (share >= 0) & (share < 1) & (height >= low) & (height <= high)
        ways += [(float(way[k]), WALL, int(k)) for k in np.flatnonzero(there)]
    ways.sort()
    # In and out by turns: what is met is where the ray goes in.
    for k in range(0, len(ways), 2):
        way, face, wall = ways[k]
        if way < ray.least:
            continue
        if cut is not None and cut.beyond(ray.at(way)) > 1e-9:
            # Cut away here; it begins at the cut if the ray comes into what is left of it.
            if k + 1 >= len(ways) or cut.beyond(ray.at(ways[k + 1][0])) > 1e-9:
                continue
            slope = float(ray.along @ np.asarray(cut.normal))
            way = way - float(cut.beyond(ray.at(way))) / slope
            return Hit(target.body, target.index, way, ray.at(way), np.asarray(cut.normal), CUT)
        normal = np.array([0.0, 0.0, 1.0 if face == TOP else -1.0])
        if face == WALL:
            wx, wy = target.along[wall] / np.hypot(*target.along[wall])
            normal = np.array([wy, -wx, 0.0])
            # Rings may run either way round: the wall looks towards the eye.
            normal = -normal if normal @ own_along > 0 else normal
        return Hit(target.body, target.index, way, ray.at(way), turned @ normal, face)
    return None
