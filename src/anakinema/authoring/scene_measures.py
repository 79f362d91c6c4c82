"""What is measured of a scene at any of its poses."""

from __future__ import annotations

import math

from anakinema.authoring.measuring import Reading, at_spot, between_spots, gap_between
from anakinema.authoring.scene import Scene
from anakinema.authoring.spots import BodySpot, body_spot
from anakinema.document import model
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import Add
from anakinema.geometry.contour import Floats
from anakinema.units import LENGTH


def measure_now(scene: Scene, poses: Floats, spots: list[BodySpot]) -> Reading:
    """A reading of one spot or between two, where they are at these poses."""
    now = [body_spot_like(scene, poses, spot) for spot in spots]
    if len(now) == 1:
        return at_spot(scene.resolved, now[0])
    return between_spots(scene.resolved, now[0], now[1])


def body_spot_like(scene: Scene, poses: Floats, spot: BodySpot) -> BodySpot:
    """The same spot where it is at other poses; as it was if its part has lost it."""
    try:
        return body_spot(scene.resolved, poses, spot.body, spot.spot.place.id)
    except KeyError:
        return spot


def gap_now(scene: Scene, poses: Floats, first: str, second: str) -> Reading | None:
    """The smallest gap of two bodies at these poses; None for a body and itself."""
    one, two = scene.index(first), scene.index(second)
    if one is None or two is None or one == two:
        return None
    return gap_between(scene.resolved, poses, one, two)


def kept_measure(scene: Scene, one: BodySpot, two: BodySpot) -> Edit:
    """The edit that keeps a distance as a dimension and a lane."""
    document = scene.resolved.document
    edits: list[Edit] = []
    for spot in (one, two):
        if not spot.spot.known:
            edits.append(AddPlaces(document.body(spot.body).part, (spot.spot.place,)))
    titles = [document.body(spot.body).title for spot in (one, two)]
    taken = [measure.id for measure in scene.resolved.source.measures]
    sides = [model.Side(body=spot.body, place=spot.spot.place.id) for spot in (one, two)]
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
            spot = body_spot(scene.resolved, poses, side.body, side.place)
            points.append((spot.x, spot.y))
        words = scene.resolved.units.format(math.dist(points[0], points[1]), LENGTH)
        out.append((kept.id, words, points[0], points[1]))
    return out
