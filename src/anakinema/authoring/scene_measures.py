"""What is measured of a scene at any of its poses."""

from __future__ import annotations

import math

from anakinema.authoring.measuring import Reading, at_snap, between_snaps, gap_between
from anakinema.authoring.scene import Scene
from anakinema.authoring.snap_points import PlacedSnap, placed_snap
from anakinema.document import model
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import Add
from anakinema.geometry.contour import Floats
from anakinema.units import LENGTH


def measure_now(scene: Scene, poses: Floats, snaps: list[PlacedSnap]) -> Reading:
    """A reading of one snap or between two, where they are at these poses."""
    now = [placed_snap_like(scene, poses, snap) for snap in snaps]
    if len(now) == 1:
        return at_snap(scene.resolved, now[0])
    return between_snaps(scene.resolved, now[0], now[1])


def placed_snap_like(scene: Scene, poses: Floats, snap: PlacedSnap) -> PlacedSnap:
    """The same snap where it is at other poses; as it was if its part has lost it."""
    try:
        return placed_snap(scene.resolved, poses, snap.body, snap.snap.place.id)
    except KeyError:
        return snap


def gap_now(scene: Scene, poses: Floats, first: str, second: str) -> Reading | None:
    """The smallest gap of two bodies at these poses; None for a body and itself."""
    one, two = scene.index(first), scene.index(second)
    if one is None or two is None or one == two:
        return None
    return gap_between(scene.resolved, poses, one, two)


def kept_measure(scene: Scene, one: PlacedSnap, two: PlacedSnap) -> Edit:
    """The edit that keeps a distance as a dimension and a lane."""
    document = scene.resolved.document
    edits: list[Edit] = []
    for snap in (one, two):
        if not snap.snap.known:
            edits.append(AddPlaces(document.body(snap.body).part, (snap.snap.place,)))
    titles = [document.body(snap.body).title for snap in (one, two)]
    taken = [measure.id for measure in scene.resolved.source.measures]
    sides = [model.Side(body=snap.body, place=snap.snap.place.id) for snap in (one, two)]
    measure = model.KeptMeasure(
        id=fresh_id(f"{titles[0]} to {titles[1]}", taken),
        name=f"{titles[0]} to {titles[1]}",
        measure=model.DistanceMeasure(kind="distance", first=sides[0], second=sides[1]),
    )
    edits.append(Add("Keep measure", measures=(measure,)))
    return Together("Keep measure", tuple(edits))


def measures_now(
    scene: Scene, poses: Floats
) -> list[tuple[str, str, tuple[float, float], tuple[float, float]]]:
    """Kept distances: id, value in words, and both points (mm) at these poses."""
    out = []
    for kept in scene.resolved.document.measures:
        if not isinstance(kept.measure, model.DistanceMeasure):
            continue
        points = []
        for side in (kept.measure.first, kept.measure.second):
            snap = placed_snap(scene.resolved, poses, side.body, side.place)
            points.append((snap.x, snap.y))
        words = scene.resolved.units.format(math.dist(points[0], points[1]), LENGTH)
        out.append((kept.id, words, points[0], points[1]))
    return out
