"""Dimensioned between places and bodies: at one pose in words, or over a motion as a curve."""

from __future__ import annotations

import math
from dataclasses import dataclass

from anakinema.authoring.snap_points import PlacedSnap
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import Question, distances
from anakinema.geometry.poses import carried, relative_poses
from anakinema.mechanism.slab_pairs import slab_pairs
from anakinema.units import ANGLE, LENGTH


@dataclass(frozen=True, slots=True)
class Reading:
    """A measured value in words, and the two points (mm) that it is drawn between."""

    rows: tuple[tuple[str, str], ...]
    first: tuple[float, float]
    second: tuple[float, float]


def between_snaps(resolved: Resolved, one: PlacedSnap, two: PlacedSnap) -> Reading:
    """Distance, its shares in x and y, and the angle between the two directions."""
    units = resolved.units
    dx, dy = two.x - one.x, two.y - one.y
    turn = math.degrees(two.angle - one.angle) % 360.0
    turn = min(turn, 360.0 - turn)
    rows = [
        ("Distance", units.format(math.hypot(dx, dy), LENGTH)),
        ("in x", units.format(dx, LENGTH)),
        ("in y", units.format(dy, LENGTH)),
        ("Angle of the line", units.format(math.atan2(dy, dx), ANGLE)),
        ("Angle between directions", units.format(math.radians(turn), ANGLE)),
    ]
    return Reading(tuple(rows), (one.x, one.y), (two.x, two.y))


def at_snap(resolved: Resolved, snap: PlacedSnap) -> Reading:
    """Where a snap is, and its size if it is round."""
    units = resolved.units
    rows = [
        ("Place", snap.snap.words),
        ("x", units.format(snap.x, LENGTH)),
        ("y", units.format(snap.y, LENGTH)),
    ]
    return Reading(tuple(rows), (snap.x, snap.y), (snap.x, snap.y))


def gap_between(resolved: Resolved, poses: Floats, first: int, second: int) -> Reading:
    """The smallest gap of two bodies at a pose: at shared heights, else in the plane alone."""
    units = resolved.units
    low, high = min(first, second), max(first, second)
    shared = [c for c in slab_pairs(resolved) if c.bodies == (low, high)]
    pose = relative_poses(poses[None, low], poses[None, high])
    if shared:
        questions = [
            Question(c.first.region, c.second.region, pose, c.compared, not c.enclosed)
            for c in shared
        ]
        note = "at shared heights"
    else:
        document = resolved.document
        questions = [
            Question(a.region, b.region, pose)
            for a in resolved.part_of(document.bodies[low]).slabs
            for b in resolved.part_of(document.bodies[high]).slabs
        ]
        note = "seen from above: they share no height"
    if not questions:
        return Reading((("Gap", "nothing to compare"),), (0.0, 0.0), (0.0, 0.0))
    found = distances(questions)
    best = min(found, key=lambda each: float(each.distance[0]))
    gap = float(best.distance[0])
    words = units.format(gap, LENGTH) if gap > 0 else "they overlap"
    ends = [carried(poses[low], p) for p in (best.first_point[0], best.second_point[0])]
    return Reading((("Smallest gap", words), ("Counted", note)), ends[0], ends[1])
