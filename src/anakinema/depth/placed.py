"""Slabs of bodies at poses, as upright prisms."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely import affinity

from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidSlab
from anakinema.geometry.contour import Floats


@dataclass(frozen=True, slots=True)
class PlacedSlab:
    """A slab of a body at a pose: its polygon in the plane, and its faces, mm."""

    body: int
    slab: SolidSlab
    polygon: shapely.Polygon
    bottom: float
    top: float


def placed_slabs(resolved: Resolved, poses: Floats, plane: int = 0) -> list[PlacedSlab]:
    """All slabs of bodies of a plane at poses (B, 3) in it, the lowest first."""
    found = []
    for k, body in enumerate(resolved.document.bodies):
        if resolved.planes.of[k] != plane:
            continue
        height = float(resolved.heights[k])
        for slab in resolved.part_of(body).slabs:
            turned = affinity.rotate(slab.region.polygon, poses[k, 2], (0, 0), use_radians=True)
            polygon = affinity.translate(turned, poses[k, 0], poses[k, 1])
            found.append(PlacedSlab(k, slab, polygon, height + slab.bottom, height + slab.top))
    return sorted(found, key=lambda each: (each.top, each.body))


@dataclass(frozen=True, slots=True)
class Prism:
    """A slab as drawn: raised by ``lift`` mm; a ``faint`` one stands back."""

    slab: PlacedSlab
    lift: float = 0.0
    faint: bool = False

    @property
    def bottom(self) -> float:
        return self.slab.bottom + self.lift

    @property
    def top(self) -> float:
        return self.slab.top + self.lift


@dataclass(frozen=True, slots=True)
class Trail:
    """An upright line over a point of the plane, from one height to another, mm."""

    x: float
    y: float
    low: float
    high: float
