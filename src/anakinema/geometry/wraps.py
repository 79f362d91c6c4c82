"""Distances of a flattened outline from arcs that change from pose to pose."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely

from anakinema.geometry.complexes import as_complex, unit
from anakinema.geometry.contour import Contour, Floats
from anakinema.geometry.edge_distances import Indices
from anakinema.geometry.region import Region

POINTS = 5
"""Points of an arc from which is seen how near an outline comes at the least."""
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
    owner, edge = _near(starts, stops, radius, centre, ends[:, 0], wrap)
    run = np.searchsorted(owner, np.arange(len(centre)))
    a, along = starts[edge] - centre[owner], (stops - starts)[edge]
    square = np.maximum(np.sum(along * along, axis=-1), 1e-300)
    first, turn = (ends[:, 0] - centre)[owner], wrap[owner]
    best = np.full(len(centre), np.inf)
    theirs, mine = ends[:, 0].copy(), ends[:, 0].copy()

    def take(points: Floats, away: Floats, on: Floats) -> None:
        """Points (M, 2) of the rim and on the arc, ``away`` (M,) mm; infinite if not there."""
        least = np.minimum.reduceat(away, run)
        k = np.flatnonzero(away == least[owner])
        rows, at = np.unique(owner[k], return_index=True)
        better = least[rows] < best[rows]
        rows, k = rows[better], k[at[better]]
        best[rows], mine[rows], theirs[rows] = away[k], on[k], points[k]

    def radial(share: Floats) -> None:
        """Points of the rim at shares (M,) of its edges, measured along their radius."""
        at = a + np.clip(share, 0.0, 1.0)[:, None] * along
        long = np.hypot(at[:, 0], at[:, 1])
        turned = np.arctan2(
            first[:, 0] * at[:, 1] - first[:, 1] * at[:, 0], np.sum(first * at, axis=-1)
        )
        turned = np.where(turn > 0, turned, -turned) % (2 * np.pi)
        there = (share >= 0.0) & (share <= 1.0) & (turned <= np.abs(turn))
        on = at * (radius / np.maximum(long, 1e-300))[:, None]
        away = np.where(there, np.abs(long - radius), np.inf)
        take(at + centre[owner], away, on + centre[owner])

    with np.errstate(divide="ignore", invalid="ignore"):
        radial(np.zeros(square.shape))
        foot = -np.sum(a * along, axis=-1) / square
        radial(foot)
        near = np.sum(a * a, axis=-1) - foot**2 * square
        half = np.sqrt((radius**2 - near) / square)
        for side in (half, -half):
            radial(np.where(np.isfinite(side), foot + side, -1.0))
        for ray in (first, (ends[:, 1] - centre)[owner]):
            across = a[:, 0] * ray[:, 1] - a[:, 1] * ray[:, 0]
            slope = along[:, 0] * ray[:, 1] - along[:, 1] * ray[:, 0]
            share = -across / slope
            radial(np.where(np.isfinite(share), share, -1.0))
    for end in (ends[:, 0][owner], ends[:, 1][owner]):
        share = np.clip(np.sum((end - starts[edge]) * along, axis=-1) / square, 0.0, 1.0)
        points = starts[edge] + share[:, None] * along
        take(points, np.hypot(*(end - points).T), end)
    inside = shapely.contains_xy(polygon, ends[:, 0, 0], ends[:, 0, 1])
    best[inside], theirs[inside], mine[inside] = 0.0, ends[inside, 0], ends[inside, 0]
    return best, mine, theirs


def _near(
    starts: Floats, stops: Floats, radius: float, centre: Floats, begins: Floats, wrap: Floats
) -> tuple[Indices, Indices]:
    """Arcs, in order, and straight edges (S, 2) of all pairs that could be the nearest of an arc.

    No point of an edge is nearer to the arc than its middle is to the whole circle, less half its
    length; and some edge is as near as a middle is to a point of the arc.
    """
    middle, half = as_complex((starts + stops) / 2), np.hypot(*(stops - starts).T) / 2
    around = as_complex(centre)
    first = as_complex(begins) - around
    away = middle - around[:, None]
    least = np.abs(np.abs(away) - radius) - half
    nearest = np.full(len(centre), np.inf)
    for share in np.linspace(0.0, 1.0, POINTS):
        point = first * unit(share * wrap)
        nearest = np.minimum(nearest, np.abs(away - point[:, None]).min(axis=1))
    owner, edge = np.nonzero(least <= nearest[:, None])
    return owner, edge
