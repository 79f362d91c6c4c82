"""Distances of a flattened outline from arcs that change from pose to pose."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely

from anakinema.geometry.contour import Contour, Floats
from anakinema.geometry.region import Region

FLATTENED = 2.5e-4
"""mm by which chords may stand off the arcs of an outline that is measured here."""


@lru_cache(maxsize=512)
def fine_polygon(region: Region) -> shapely.Polygon:
    """A region with its arcs in chords that stand off by less than ``FLATTENED``."""
    e = region.edges
    rings = []
    for ring in np.unique(region.ring):
        rows = region.ring == ring
        contour = Contour(
            e.start[rows], e.end[rows], e.centre[rows], e.radius[rows], e.sweep[rows], e.piece[rows]
        )
        rings.append(contour.polygon(FLATTENED))
    return shapely.Polygon(rings[0], rings[1:])


def arc_distances(
    polygon: shapely.Polygon, radius: float, centre: Floats, ends: Floats, wrap: Floats
) -> tuple[Floats, Floats, Floats]:
    """(N,) mm between a polygon and arcs, 0 where they meet; the nearest points (N, 2) of both.

    The arcs have one radius (mm), centres (N, 2), run from the first to the second of ``ends``
    (N, 2, 2) and turn by ``wrap`` (N,) rad. Nearest is a point of the rim that a radius within the
    arc's sector meets squarely, a corner in the sector, where the sector cuts the rim, or an end.
    """
    rings = [polygon.exterior, *polygon.interiors]
    starts, stops = (
        np.concatenate([np.asarray(ring.coords)[rows] for ring in rings])
        for rows in (slice(None, -1), slice(1, None))
    )
    a = starts - centre[:, None]
    along = np.broadcast_to(stops - starts, a.shape)
    square = np.maximum(np.sum(along * along, axis=-1), 1e-300)
    first = ends[:, 0] - centre
    best = np.full(len(centre), np.inf)
    theirs, mine = ends[:, 0].copy(), ends[:, 0].copy()

    def take(points: Floats, away: Floats, on: Floats) -> None:
        """Points (N, S, 2) of the rim and on the arc, ``away`` (N, S) mm; infinite if not there."""
        k = np.argmin(away, axis=1)
        rows = np.arange(len(k))
        better = away[rows, k] < best
        best[better] = away[rows, k][better]
        mine[better], theirs[better] = on[rows, k][better], points[rows, k][better]

    def radial(share: Floats) -> None:
        """Points of the rim at shares (N, S) of its edges, measured along their radius."""
        at = a + np.clip(share, 0.0, 1.0)[..., None] * along
        long = np.hypot(at[..., 0], at[..., 1])
        turned = np.arctan2(
            first[:, None, 0] * at[..., 1] - first[:, None, 1] * at[..., 0],
            np.sum(first[:, None] * at, axis=-1),
        )
        turned = np.where(wrap[:, None] > 0, turned, -turned) % (2 * np.pi)
        there = (share >= 0.0) & (share <= 1.0) & (turned <= np.abs(wrap)[:, None])
        on = at * (radius / np.maximum(long, 1e-300))[..., None]
        away = np.where(there, np.abs(long - radius), np.inf)
        take(at + centre[:, None], away, on + centre[:, None])

    with np.errstate(divide="ignore", invalid="ignore"):
        radial(np.zeros(square.shape))
        foot = -np.sum(a * along, axis=-1) / square
        radial(foot)
        near = np.sum(a * a, axis=-1) - foot**2 * square
        half = np.sqrt((radius**2 - near) / square)
        for side in (half, -half):
            radial(np.where(np.isfinite(side), foot + side, -1.0))
        for ray in (first, ends[:, 1] - centre):
            across = a[..., 0] * ray[:, None, 1] - a[..., 1] * ray[:, None, 0]
            slope = along[..., 0] * ray[:, None, 1] - along[..., 1] * ray[:, None, 0]
            share = -across / slope
            radial(np.where(np.isfinite(share), share, -1.0))
    for k in (0, 1):
        away = ends[:, k][:, None] - starts
        share = np.clip(np.sum(away * along, axis=-1) / square, 0.0, 1.0)
        points = starts + share[..., None] * along
        off = np.hypot(*np.moveaxis(ends[:, k][:, None] - points, -1, 0))
        take(points, off, np.broadcast_to(ends[:, k][:, None], points.shape))
    inside = shapely.contains_xy(polygon, ends[:, 0, 0], ends[:, 0, 1])
    best[inside], theirs[inside], mine[inside] = 0.0, ends[inside, 0], ends[inside, 0]
    return best, mine, theirs
