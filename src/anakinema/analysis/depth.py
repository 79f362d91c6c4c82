"""How deep bodies that overlap reach into one another, at a pose and at worst over a motion."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import shapely
from shapely import affinity

from anakinema.geometry.contour import Floats
from anakinema.geometry.features import Pairs, features_of
from anakinema.geometry.poses import relative_poses
from anakinema.mechanism.slab_pairs import SlabPair
from anakinema.motion.motion import Motion
from anakinema.wanted import still_wanted

LOOKS = 96
"""Poses of a motion at which every pair that comes near is looked at for its depth."""
FINER = 24
"""Poses looked at between those about the deepest, three times over."""


def depth(item: SlabPair, poses: Floats) -> float:
    """mm one slab reaches into the other at poses (B, 3).

    What lies in a hole by a joint: exactly, by how far its features are past those it faces.
    Otherwise sampled on outlines flattened to 0.005 mm: the deepest corner of either in the other.
    """
    relative = relative_poses(poses[None, item.first_body], poses[None, item.second_body])
    if item.enclosed and _in_a_hole(item):
        return _past_one_another(item, relative)
    a = item.first.region.polygon
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
    for polygon, other in ((a, b), (b, a)):
        points = shapely.points(shapely.get_coordinates(polygon))
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
    what is past one of them is in the material."""
    one, two = item.compared.any(axis=1), item.compared.any(axis=0)
    return bool((item.first.region.ring[one] > 0).all() or (item.second.region.ring[two] > 0).all())


def _past_one_another(item: SlabPair, relative: Floats) -> float:
    """mm by which the deepest pair of facing features of an enclosed pair is past one another."""
    first = features_of(item.first.region, np.asarray(item.compared.any(axis=1)))
    second = features_of(item.second.region, np.asarray(item.compared.any(axis=0)))
    gap, margin = Pairs.all_of(first, second).gaps(relative)
    return max(0.0, -float(np.where(margin >= 0.0, gap, np.inf).min(initial=np.inf)))


def deepest(
    motion: Motion,
    items: Sequence[SlabPair],
    touching: Callable[[int, Floats, Floats], Floats],
    known: Sequence[tuple[int, float]],
) -> tuple[int, float, float]:
    """Which comparison reaches deepest over a motion, at what progress, and how deep (mm).

    ``touching(which, poses, progress)`` gives distances (N,) of a comparison; ``known`` are
    overlaps (which, progress) already seen.
    """
    rows = np.unique(np.linspace(0, len(motion.progress) - 1, LOOKS).round().astype(int))
    progress, poses = motion.progress[rows], motion.poses[rows]
    best = (known[0][0], known[0][1], 0.0)
    at_known: dict[int, list[float]] = {}
    for which, place in known:
        at_known.setdefault(which, []).append(place)
    for which in range(len(items)):
        still_wanted()
        near = _near(items[which], poses)
        zero = near[touching(which, poses[near], progress[near]) <= 0.0] if len(near) else near
        places = np.append(progress[zero], at_known.get(which, [])[:LOOKS])
        if not len(places):
            continue
        deep = np.array([depth(items[which], pose) for pose in motion.poses_at(places)])
        k = int(np.argmax(deep))
        if deep[k] > best[2]:
            best = which, float(places[k]), float(deep[k])
    return _refined(motion, items[best[0]], best, float(np.diff(progress).max(initial=0.0)))


def _near(item: SlabPair, poses: Floats) -> np.ndarray:
    """Rows of poses (N, B, 3) at which the bounding circles of two slabs meet."""
    one, two = item.first.region, item.second.region
    seen = relative_poses(poses[:, item.first_body], poses[:, item.second_body])
    c, s = np.cos(seen[:, 2]), np.sin(seen[:, 2])
    x = seen[:, 0] + c * two.centre[0] - s * two.centre[1] - one.centre[0]
    y = seen[:, 1] + s * two.centre[0] + c * two.centre[1] - one.centre[1]
    return np.flatnonzero(np.hypot(x, y) <= one.radius + two.radius)


def _refined(
    motion: Motion, item: SlabPair, best: tuple[int, float, float], step: float
) -> tuple[int, float, float]:
    """The deepest place found to within a small share of a step."""
    which, place, most = best
    for _ in range(3):
        low = max(float(motion.progress[0]), place - step)
        high = min(motion.last, place + step)
        around = np.linspace(low, high, FINER + 1)
        deep = np.array([depth(item, pose) for pose in motion.poses_at(around)])
        k = int(np.argmax(deep))
        if deep[k] > most:
            place, most = float(around[k]), float(deep[k])
        step = 2.0 * (high - low) / FINER
    return which, place, most
