"""How deep outlines that overlap reach into one another at a pose."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import affinity

from anakinema.geometry.contour import Floats
from anakinema.geometry.features import Pairs, features_of
from anakinema.geometry.poses import relative_poses
from anakinema.mechanism.slab_pairs import SlabPair

ROUND = 1e-6
"""mm; more than rounding can put a corner out of what two outlines share."""

PAIRS = 20_000
"""Pairs of edges up to which something lies in a plain hole or slot."""


def depth(item: SlabPair, poses: Floats) -> float:
    """mm one slab reaches into the other at poses (B, 3).

    What lies in a hole by a joint: exactly, by how far its features are past those it faces.
    Otherwise sampled on outlines flattened to 0.005 mm: the deepest corner of either in the other.
    """
    relative = relative_poses(poses[None, item.first_body], poses[None, item.second_body])
    if item.enclosed and _in_a_hole(item):
        return _past_one_another(item, relative)
    # A copy: what is prepared must not be shared with other threads.
    a = shapely.transform(item.first.region.polygon, np.copy)
    b = affinity.translate(
        affinity.rotate(
            item.second.region.polygon, relative[0, 2], origin=(0, 0), use_radians=True
        ),
        relative[0, 0],
        relative[0, 1],
    )
    shared = shapely.intersection(a, b)
    if shared.is_empty or shared.area == 0.0:
        return 0.0
    found = 0.0
    low_x, low_y, high_x, high_y = shared.bounds
    for polygon, other in ((a, b), (b, a)):
        x, y = shapely.get_coordinates(polygon).T
        near = (x >= low_x - ROUND) & (x <= high_x + ROUND)
        near &= (y >= low_y - ROUND) & (y <= high_y + ROUND)
        shapely.prepare(other)
        points = shapely.points(x[near], y[near])
        inside = points[shapely.contains_properly(other, points)]
        if len(inside):
            found = max(found, float(shapely.distance(inside, other.boundary).max()))
    if found == 0.0:
        box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shared))
        if len(box) >= 3:
            found = float(min(np.hypot(*(box[1] - box[0])), np.hypot(*(box[2] - box[1]))))
    return found


def _in_a_hole(item: SlabPair) -> bool:
    """Whether all that is compared of one slab are edges of its holes: those look inwards, so that
    what is past one of them is in the material. Not so among the many edges of a toothed ring,
    where flanks look past one another to and fro."""
    one, two = item.compared.any(axis=1), item.compared.any(axis=0)
    if np.count_nonzero(one) * np.count_nonzero(two) > PAIRS:
        return False
    return bool((item.first.region.ring[one] > 0).all() or (item.second.region.ring[two] > 0).all())


def _past_one_another(item: SlabPair, relative: Floats) -> float:
    """mm by which the deepest pair of facing features of an enclosed pair is past one another."""
    first = features_of(item.first.region, np.asarray(item.compared.any(axis=1)))
    second = features_of(item.second.region, np.asarray(item.compared.any(axis=0)))
    gap, margin = Pairs.all_of(first, second).gaps(relative)
    return max(0.0, -float(np.where(margin >= 0.0, gap, np.inf).min(initial=np.inf)))
