"""Dimensioned between places and bodies: at one pose in words, or over a motion as a curve."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.in_space import InSpace
from anakinema.authoring.snap_points import PlacedSnap
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import Question, distances
from anakinema.geometry.poses import carried, relative_poses
from anakinema.mechanism.slab_pairs import slab_pairs
from anakinema.mechanism.space_pairs import space_pairs
from anakinema.units import ANGLE, LENGTH


@dataclass(frozen=True, slots=True)
class Reading:
    """A measured value in words, and the two points (mm) that it is drawn between: of the plane, or
    three numbers each, in space."""

    rows: tuple[tuple[str, str], ...]
    first: tuple[float, ...]
    second: tuple[float, ...]


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


def point_in_space(resolved: Resolved, poses: Floats, snap: PlacedSnap) -> Floats:
    """(3,) mm, where a snap is: at the height it was picked at, else at its body's datum."""
    k = [body.id for body in resolved.document.bodies].index(snap.body)
    frame = resolved.planes.frames(poses, resolved.heights)[resolved.planes.of[k]]
    z = float(resolved.heights[k]) + (snap.rise or 0.0)
    return np.asarray(frame[:, :3] @ np.array([snap.x, snap.y, z]) + frame[:, 3])


def between_planes(resolved: Resolved, poses: Floats, one: PlacedSnap, two: PlacedSnap) -> Reading:
    """Distance of two snaps of different planes at poses (B, 3), and its shares in space."""
    units = resolved.units
    ends = [point_in_space(resolved, poses, snap) for snap in (one, two)]
    apart = ends[1] - ends[0]
    rows = [("Distance in space", units.format(float(np.linalg.norm(apart)), LENGTH))]
    rows += [
        (f"in {axis}", units.format(float(share), LENGTH))
        for axis, share in zip("xyz", apart, strict=True)
    ]
    return Reading(tuple(rows), tuple(ends[0].tolist()), tuple(ends[1].tolist()))


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
    """The smallest gap of two bodies at a pose: at shared heights, else in the plane alone; of
    different planes in space."""
    if resolved.planes.of[first] != resolved.planes.of[second]:
        return _gap_in_space(resolved, poses, frozenset((first, second)))
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
    words = gap_words(resolved, gap)
    ends = [carried(poses[low], p) for p in (best.first_point[0], best.second_point[0])]
    return Reading((("Smallest gap", words), ("Counted", note)), ends[0], ends[1])


def _gap_in_space(resolved: Resolved, poses: Floats, bodies: frozenset[int]) -> Reading:
    pairs, means = [c for c in space_pairs(resolved) if c.about == bodies], InSpace(resolved)
    if not pairs:
        nothing = "nothing to compare: they are one piece, or have no outlines"
        return Reading((("Gap", nothing),), (0.0, 0.0), (0.0, 0.0))
    seen = means.seen([(pair, poses[None]) for pair in pairs])
    best = min(range(len(pairs)), key=lambda k: float(seen[k].distance[0]))
    gap = float(seen[best].distance[0])
    words = gap_words(resolved, gap)
    ends = means.points(pairs[best], seen[best], poses)
    return Reading((("Smallest gap", words), ("Counted", "as solids in space")), *ends)


def gap_words(resolved: Resolved, gap: float) -> str:
    """A gap at one pose in words."""
    return resolved.units.format(gap, LENGTH) if gap > 0 else "they overlap"
