"""The faces that a cut leaves of bodies: filled, hatched and rimmed."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.depth.cutting import Plane, cut_area
from anakinema.depth.meshes import polygons, rings_of, triangles
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
    resolved: Resolved, places: Floats, plane: Plane, hidden: Collection[int] = ()
) -> tuple[Cap, ...]:
    """Where a plane cuts bodies at places (B, 3, 4) in space."""
    found = []
    for k, body in enumerate(resolved.document.bodies):
        if k in hidden:
            continue
        own = _as_seen_from(plane, places[k])
        height = float(resolved.heights[k])
        pieces = [
            piece
            for slab in resolved.part_of(body).slabs
            for piece in cut_area(slab.region.polygon, height + slab.bottom, height + slab.top, own)
        ]
        if pieces:
            found.append(_cap(k, pieces, own, places[k]))
    return tuple(found)


def _as_seen_from(plane: Plane, place: Floats) -> Plane:
    """A plane in the frame of a body."""
    normal = np.asarray(plane.normal) @ place[:, :3]
    x, y, z = (float(v) for v in normal / np.linalg.norm(normal))
    return Plane((x, y, z), plane.offset - float(np.asarray(plane.normal) @ place[:, 3]))


def _cap(body: int, pieces: list[shapely.Polygon], plane: Plane, place: Floats) -> Cap:
    whole = pieces[0] if len(pieces) == 1 else shapely.union_all(pieces)
    corners, rims = [np.zeros((0, 3, 3))], [np.zeros((0, 2, 3))]

    def in_space(places: Floats) -> Floats:
        points: Floats = plane.in_space(places) @ place[:, :3].T + place[:, 3]
        return points

    for piece in polygons(whole):
        rings = rings_of(piece)
        corners.append(in_space(np.concatenate(rings))[triangles(rings)])
        for ring in rings:
            ends = in_space(ring)
            rims.append(np.stack([ends, np.roll(ends, -1, axis=0)], axis=1))
    return Cap(body, np.concatenate(corners), np.concatenate(rims), float(whole.area))
