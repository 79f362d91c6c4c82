"""What is measured of a scene at any of its poses."""

from __future__ import annotations

import math

from anakinema.authoring.measuring import (
    Reading,
    at_snap,
    between_planes,
    between_snaps,
    gap_between,
    point_in_space,
)
from anakinema.authoring.scene import Scene
from anakinema.authoring.snap_points import PlacedSnap, placed_snap
from anakinema.authoring.wishes import is_across
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
    if is_across(scene.resolved, now[0], now[1]):
        return between_planes(scene.resolved, poses, now[0], now[1])
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
) -> list[tuple[str, str, tuple[float, ...], tuple[float, ...]]]:
    """Kept distances: id, value in words, and both points (mm) at these poses: of the plane, or in
    space where there are several."""
    resolved, out = scene.resolved, []
    is_one = len(resolved.document.planes) == 1
    for kept in resolved.document.measures:
        if not isinstance(kept.measure, model.DistanceMeasure):
            continue
        one, two = (
            placed_snap(resolved, poses, side.body, side.place)
            for side in (kept.measure.first, kept.measure.second)
        )
        ends: list[tuple[float, ...]] = [(one.x, one.y), (two.x, two.y)]
        far = math.dist(*ends)
        if not is_one:
            ends = [tuple(point_in_space(resolved, poses, each).tolist()) for each in (one, two)]
            if is_across(resolved, one, two):
                far = math.dist(*ends)
        out.append((kept.id, resolved.units.format(far, LENGTH), ends[0], ends[1]))
    return out
