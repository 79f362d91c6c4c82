"""What two outlines stay apart by because they keep to different rings about one centre.

A wheel may turn as fast as it likes: its outline stays between two circles about its middle. What
comes no nearer to that middle than the outer circle, or stays within the inner one, stays apart
from it, and only how the middle moves against it counts.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from anakinema.analysis.carried import carried_point, seen_from_body
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import outline_span
from anakinema.geometry.poses import seen_from
from anakinema.geometry.region import Region
from anakinema.mechanism.slab_pairs import SlabPair
from anakinema.motion.bounded import Bounded

STANDS = 1e-9
"""mm within which a point has not moved, but for rounding."""


def ring_bound(item: SlabPair, states: Bounded, half: Floats) -> Floats:
    """(N,) mm: the outlines stay apart by this within ``half`` (N,) of each state; NaN if unknown.

    Outlines only: one slab may lie in the material of the other all along.
    """
    one = (item.first_body, item.first.region)
    two = (item.second_body, item.second.region)
    bound = _between_middles(one, two, states, half)
    for (body, region), (other, its) in ((one, two), (two, one)):
        middle = carried_point(states, body, region.centre, half)
        path = half * seen_from_body(middle, other, states, half).speed
        near, far = _span(its, seen_from(states.poses[:, other], middle.at[:, None])[:, 0])
        inner, outer = _own_span(region)
        bound = np.fmax(bound, np.maximum(near - outer, inner - far) - path)
    return bound


def _span(region: Region, points: Floats) -> tuple[Floats, Floats]:
    """(N,) mm: nearest and farthest point of an outline from points (N, 2), never too favourable.

    From a point that stands where another stood they are the same but for that little.
    """
    moved = float(np.hypot(*np.ptp(points, axis=0)))
    if moved > STANDS:
        return outline_span(region, points)
    near, far = outline_span(region, points[:1])
    return np.repeat(near - moved, len(points)), np.repeat(far + moved, len(points))


def _between_middles(
    one: tuple[int, Region], two: tuple[int, Region], states: Bounded, half: Floats
) -> Floats:
    """(N,) mm: the same from the two rings alone, by how far their middles are apart.

    That changes by the velocity along their line, and by how far the line can turn.
    """
    a, b = (carried_point(states, body, region.centre, half) for body, region in (one, two))
    between, rate = b.at - a.at, b.rate - a.rate
    apart, loose = np.hypot(*between.T), a.loose + b.loose
    speed = np.hypot(*rate.T) + loose
    nearest = np.maximum(apart - half * speed, 1e-300)
    along = np.abs(np.sum(between * rate, axis=1)) / np.maximum(apart, 1e-300)
    path = half * np.minimum(speed, along + loose + speed * np.minimum(half * speed / nearest, 1.0))
    (inner1, outer1), (inner2, outer2) = _own_span(one[1]), _own_span(two[1])
    gaps = (apart - outer1 - outer2, inner1 - apart - outer2, inner2 - apart - outer1)
    bound = np.maximum.reduce(gaps) - path
    return np.asarray(bound)


@lru_cache(maxsize=1024)
def _own_span(region: Region) -> tuple[float, float]:
    """mm: nearest and farthest point of an outline from its middle."""
    near, far = outline_span(region, region.centre[None])
    return float(near[0]), float(far[0])
