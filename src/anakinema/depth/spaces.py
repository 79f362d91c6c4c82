"""Spaces that are shown in depth besides bodies: what one sweeps, and what two share."""

from __future__ import annotations

import numpy as np
import shapely

from anakinema.depth.meshes import polygons, rings_of, triangles
from anakinema.depth.placed import placed_slabs
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import transform
from anakinema.wanted import still_wanted

SAMPLES = 90
"""Poses at which a swept outline is looked at, at most."""
FINE = 0.15
"""mm that chords of a swept outline may miss it by."""


def swept_sheet(resolved: Resolved, poses: Floats, body: int) -> Floats:
    """(T, 3, 3) triangles over all that a body passes at sampled poses (N, B, 3) and, straight
    from one to the next, between them; level at its middle, as seen from its plane. None if it has
    no outline."""
    slabs = resolved.part_of(resolved.document.bodies[body]).slabs
    if not slabs:
        return np.zeros((0, 3, 3))
    step = max(1, -(-(len(poses) - 1) // SAMPLES))
    some = poses[np.unique(np.append(np.arange(0, len(poses), step), len(poses) - 1)), body]
    plan = shapely.union_all([slab.region.polygon for slab in slabs]).simplify(FINE)
    shapes = []
    for piece in polygons(plan):
        for ring in rings_of(piece):
            still_wanted()
            here = transform(ring, some)
            # Every edge between two poses: the hull of where it was and where it comes to.
            now, then = here[:-1], here[1:]
            quads = np.stack(
                [now, np.roll(now, -1, axis=1), np.roll(then, -1, axis=1), then], axis=2
            )
            shapes.append(
                shapely.union_all(shapely.convex_hull(shapely.multipoints(quads.reshape(-1, 4, 2))))
            )
        holes = [transform(ring, some) for ring in rings_of(piece)]
        shapes += [
            shapely.Polygon(outer, [hole[k] for hole in holes[1:]])
            for k, outer in enumerate(holes[0])
        ]
    low, high = min(s.bottom for s in slabs), max(s.top for s in slabs)
    z = float(resolved.heights[body]) + (low + high) / 2
    return _level(shapely.union_all(shapes).simplify(FINE), z)


def shared_space(resolved: Resolved, poses: Floats, one: int, other: int) -> Floats:
    """(T, 3, 3) triangles round the space that two bodies of one plane share at poses (B, 3), as
    seen from there."""
    slabs = placed_slabs(resolved, poses, resolved.planes.of[one])
    found = [np.zeros((0, 3, 3))]
    for a in (s for s in slabs if s.body == one):
        for b in (s for s in slabs if s.body == other):
            low, high = max(a.bottom, b.bottom), min(a.top, b.top)
            if high > low:
                area = shapely.intersection(a.polygon, b.polygon)
                found += [_level(area, low), _level(area, high), *_walls(area, low, high)]
    return np.concatenate(found)


def _level(area: shapely.Geometry, z: float) -> Floats:
    found = [np.zeros((0, 3, 3))]
    for piece in polygons(area):
        rings = rings_of(piece)
        flat = np.concatenate(rings)
        found.append(np.column_stack([flat, np.full(len(flat), z)])[triangles(rings)])
    return np.concatenate(found)


def _walls(area: shapely.Geometry, low: float, high: float) -> list[Floats]:
    found = []
    for piece in polygons(area):
        for ring in rings_of(piece):
            a, b = ring, np.roll(ring, -1, axis=0)
            at = [np.column_stack([p, np.full(len(p), z)]) for p in (a, b) for z in (low, high)]
            found.append(np.stack([at[0], at[2], at[3]], axis=1))
            found.append(np.stack([at[0], at[3], at[1]], axis=1))
    return found


def shared_in_space(resolved: Resolved, poses: Floats, one: int, other: int) -> Floats:
    """(T, 3, 3) triangles in space round what two bodies of different planes share at poses
    (B, 3)."""
    from manifold3d import CrossSection, FillRule, Manifold, OpType  # not needed at start

    places = resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))
    solids = []
    for body in (one, other):
        height = float(resolved.heights[body])
        prisms = []
        for slab in resolved.part_of(resolved.document.bodies[body]).slabs:
            rings = [contour.polygon(FINE) for contour in slab.region.contours]
            flat = CrossSection(rings, FillRule.EvenOdd)
            prism = Manifold.extrude(flat, slab.top - slab.bottom)
            prisms.append(prism.translate([0.0, 0.0, height + slab.bottom]))
        solids.append(Manifold.batch_boolean(prisms, OpType.Add).transform(places[body]))
    mesh = (solids[0] ^ solids[1]).to_mesh64()
    points = np.asarray(mesh.vert_properties, dtype=float).reshape(-1, 3)
    return np.asarray(points[np.asarray(mesh.tri_verts, dtype=np.int64)].reshape(-1, 3, 3))
