"""The faces that a cut leaves of bodies: filled, hatched and rimmed."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.depth.cutting import Plane, cut_area
from anakinema.depth.meshes import polygons, rings_of, triangles
from anakinema.depth.placed import placed_slabs
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats


@dataclass(frozen=True, slots=True, eq=False)
class Cap:
    """Of a body: triangles (T, 3, 3) and the rim (E, 2, 3) of its cut face, mm; ``area`` mm²."""

    body: int
    corners: Floats
    rim: Floats
    area: float


def caps_of(
    resolved: Resolved, poses: Floats, lifts: Floats, plane: Plane, hidden: Collection[int] = ()
) -> tuple[Cap, ...]:
    """Where a plane cuts bodies at poses (B, 3) raised by ``lifts`` (B,) mm."""
    cut: dict[int, list[shapely.Polygon]] = {}
    for slab in placed_slabs(resolved, poses):
        if slab.body not in hidden:
            up = float(lifts[slab.body])
            found = cut_area(slab.polygon, slab.bottom + up, slab.top + up, plane)
            cut.setdefault(slab.body, []).extend(found)
    return tuple(_cap(body, pieces, plane) for body, pieces in cut.items() if pieces)


def _cap(body: int, pieces: list[shapely.Polygon], plane: Plane) -> Cap:
    whole = pieces[0] if len(pieces) == 1 else shapely.union_all(pieces)
    corners, rims = [], []
    for piece in polygons(whole):
        rings = rings_of(piece)
        flat = plane.in_space(np.concatenate(rings))
        corners.append(flat[triangles(rings)])
        for ring in rings:
            ends = plane.in_space(ring)
            rims.append(np.stack([ends, np.roll(ends, -1, axis=0)], axis=1))
    none = np.zeros((0, 3, 3)), np.zeros((0, 2, 3))
    return Cap(
        body,
        np.concatenate(corners) if corners else none[0],
        np.concatenate(rims) if rims else none[1],
        float(whole.area),
    )
