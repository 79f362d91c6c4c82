"""Slabs in motion: how fast two of them can come nearer, and how far they reach on their way.

Rates are bounded over the whole of a stretch; proofs in docs/methods.md, "Certified clearance".
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import shapely

from anakinema.analysis.comparing import Around
from anakinema.geometry.complexes import Complexes, as_points, unit
from anakinema.geometry.contour import Floats
from anakinema.geometry.region import Region
from anakinema.motion.bounded import Bounded


def _middles(regions: Sequence[Region]) -> tuple[Complexes, Floats]:
    """Centres (R,) of outlines in their bodies, as complex numbers, and how far (R,) mm their
    points are from there that turning moves."""
    middle = np.array([complex(*region.centre) for region in regions])
    return middle, np.array([region.turning_radius for region in regions])


@dataclass(frozen=True, slots=True, eq=False)
class MovingSlabs:
    """Slabs in motion, all (...); planar vectors are complex numbers.

    centre, rate: the middle of each and its rate now. heading: rad, its body's angle. more: by how
    much the rate of its body's origin can change, along x and along y. swing: by how much that of
    its centre changes by turning. spin: rad, its turn now; more_spin: by how much that can change;
    turns: what all that adds to the rate of a point, for each mm from the centre. far: mm, how far
    its points are from there that turning moves.
    """

    centre: Complexes
    rate: Complexes
    heading: Floats
    more: Complexes
    swing: Floats
    spin: Floats
    more_spin: Floats
    turns: Floats
    far: Floats

    @staticmethod
    def of(slabs: Sequence[tuple[int, Region]], states: Bounded, reach: Floats) -> MovingSlabs:
        """S outlines on bodies at N states, (S, N) each."""
        bodies = [body for body, _ in slabs]
        pose, rates, most = (
            np.moveaxis(each[:, bodies], 0, 2).swapaxes(0, 1)
            for each in (states.poses, states.first, states.speed_most)
        )
        middle, far = _middles([region for _, region in slabs])
        far = np.broadcast_to(far[:, None], pose.shape[1:])
        return MovingSlabs.moving(pose, rates, most, reach, middle[:, None], far)

    @staticmethod
    def around(slabs: Sequence[tuple[int, Region]], at: Around) -> MovingSlabs:
        """Outlines on bodies, one of them in the middle of each of M stretches, (M,) each."""
        body = np.array([body for body, _ in slabs])[at.which]
        middle, far = _middles([region for _, region in slabs])
        return MovingSlabs.moving(
            at.states.poses[at.row, body].T,
            at.states.first[at.row, body].T,
            at.bounds[at.most, body].T,
            at.half,
            middle[at.which],
            far[at.which],
        )

    @staticmethod
    def moving(
        pose: Floats, rates: Floats, most: Floats, reach: Floats, middle: Complexes, far: Floats
    ) -> MovingSlabs:
        """Outlines about ``middle`` on bodies at a pose (3, ...), with rates (3, ...) now that are
        bounded by ``most`` (3, ...) within ``reach`` (...)."""
        x, y, heading = pose
        rate_x, rate_y, spin = rates
        more = np.maximum(most - np.abs(rates), 0.0)
        arm = middle * unit(heading)
        turns = more[2] + reach * most[2] ** 2
        return MovingSlabs(
            (x + 1j * y) + arm,
            (rate_x + 1j * rate_y) + 1j * spin * arm,
            heading,
            more[0] + 1j * more[1],
            np.abs(middle) * turns,
            spin,
            more[2],
            turns,
            far,
        )

    @property
    def changing(self) -> Floats:
        """(...) by how much turning can change the rate of any of its points."""
        return self.swing + self.far * self.turns

    def taken(self, which: Any) -> MovingSlabs:
        """Some of them, or one."""
        return MovingSlabs(
            self.centre[which],
            self.rate[which],
            self.heading[which],
            self.more[which],
            self.swing[which],
            self.spin[which],
            self.more_spin[which],
            self.turns[which],
            self.far[which],
        )


def closing(one: MovingSlabs, two: MovingSlabs) -> Floats:
    """Bounds on how fast any points of two slabs come nearer to one another, as who stands still
    sees it."""
    apart, loose = two.rate - one.rate, one.more + two.more
    rims = sum(each.far * (np.abs(each.spin) + each.more_spin) for each in (one, two))
    widest = np.hypot(np.abs(apart.real) + loose.real, np.abs(apart.imag) + loose.imag)
    return np.asarray(widest + one.swing + two.swing + rims)


def closing_as_carried(one: MovingSlabs, two: MovingSlabs, reach: Floats) -> Floats:
    """The same as seen by who turns with either, as fast as it turns now, the less of the two."""
    between, apart = two.centre - one.centre, two.rate - one.rate
    change = np.abs(one.more + two.more) + one.swing + two.swing
    drift = reach * (np.abs(apart) + change)
    rims = one.far * one.more_spin + two.far * two.more_spin
    seen = [
        np.abs(apart - 1j * carrier.spin * between)
        + np.abs(carrier.spin) * drift
        + other.far * np.abs(other.spin - carrier.spin)
        for carrier, other in ((one, two), (two, one))
    ]
    return np.asarray(np.minimum(*seen) + change + rims)


def closest(one: MovingSlabs, two: MovingSlabs, reach: Floats) -> Floats:
    """The least of both."""
    return np.minimum(closing(one, two), closing_as_carried(one, two, reach))


def rims_on_their_way(region: Region, along: Complexes, turn: Floats) -> Floats:
    """(2, N) mm from its centre that a region reaches along directions (N,), never too little, once
    all its points have gone on straight as they go when it turns, by ``turn`` (N,) rad and by as
    much the other way."""
    points, centres, radii = _hull(region)
    # Products that stay near the processor are found in half the time.
    step = max(1, NEAR // max(len(points), len(centres)))
    far = np.empty((2, len(along)))
    for rows in (slice(k, k + step) for k in range(0, len(along), step)):
        swung = as_points(along[rows] * (1.0 + np.array([[-1j], [1j]]) * turn[rows]))
        far[:, rows] = (swung @ points.T).max(axis=-1, initial=-np.inf)
        if len(radii):
            # Turning leaves a disc about the centre as it is.
            longer = np.hypot(1.0, turn[rows]) if region.turning_radius else np.ones(1)
            discs = (swung @ centres.T + longer[:, None] * radii).max(axis=-1)
            far[:, rows] = np.maximum(far[:, rows], discs)
    return far


NEAR = 60_000
"""Products of directions and points that are found at once."""


@lru_cache(maxsize=1024)
def _hull(region: Region) -> tuple[Floats, Floats, Floats]:
    """Points (P, 2), and centres (A, 2) and radii (A,) of discs, all from a region's centre, that
    hold it between them."""
    edges = region.edges
    starts = edges.start[~edges.is_arc]
    points = shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(starts)))
    arcs = edges.is_arc
    return points - region.centre, edges.centre[arcs] - region.centre, edges.radius[arcs]
