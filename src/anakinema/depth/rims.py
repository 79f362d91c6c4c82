"""Holes, pins and roundings as they are seen in depth: picking a rim picks its height as well."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np

from anakinema.depth.camera import Camera
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats

POINTS = 48
"""Places round a rim that are compared with the pointer."""


class Side(Enum):
    """Which rim of a hole or pin it is, as it is seen."""

    NEAR = "near rim"
    MIDDLE = "middle"
    FAR = "far rim"


@dataclass(frozen=True, slots=True)
class Round:
    """A round outline or hole of a slab: its middle and radius in the body's frame, mm, and the
    heights of the slab's faces above the body's datum."""

    body: int
    x: float
    y: float
    radius: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Rim:
    """A rim as it stands: its middle (3,) mm in space, ``rise`` mm above its body's datum, which
    one it is, and how far from the pointer, pixels."""

    round: Round
    middle: tuple[float, float, float]
    rise: float
    side: Side
    away: float


def rounds_of(resolved: Resolved) -> tuple[Round, ...]:
    """All round holes and outlines of all bodies."""
    found = []
    for k, body in enumerate(resolved.document.bodies):
        for slab in resolved.part_of(body).slabs:
            for contour in slab.region.contours:
                whole = contour.circle
                if whole is not None:
                    found.append(Round(k, *whole, slab.bottom, slab.top))
                else:
                    found += [
                        Round(k, x, y, radius, slab.bottom, slab.top)
                        for x, y, radius in _ends(contour.centre, contour.radius, contour.sweep)
                    ]
    return tuple(found)


def _ends(centre: Floats, radius: Floats, sweep: Floats) -> list[tuple[float, float, float]]:
    """Circles of which an outline has a third of a turn or more, as the round ends of links."""
    turns: dict[tuple[float, float, float], float] = {}
    for (x, y), r, turn in zip(centre, radius, sweep, strict=True):
        if r > 0.0:
            key = round(float(x), 6), round(float(y), 6), round(float(r), 6)
            turns[key] = turns.get(key, 0.0) + float(turn)
    return [key for key, turn in turns.items() if abs(turn) > 2 * math.pi / 3]


def rims_near(
    rounds: Sequence[Round],
    resolved: Resolved,
    places: Floats,
    camera: Camera,
    at: tuple[float, float],
    size: tuple[float, float],
    reach: float,
) -> list[Rim]:
    """Rims within ``reach`` pixels of a pixel in a picture of a size, the nearest first."""
    if not rounds:
        return []
    turns = np.arange(POINTS) * (2 * math.pi / POINTS)
    circle = np.column_stack([np.cos(turns), np.sin(turns)])
    _, _, toward = camera.axes
    rows: list[tuple[Round, float, Side]] = []
    for each in rounds:
        is_above = float(places[each.body, :, 2] @ toward) >= 0.0
        near, far = (each.high, each.low) if is_above else (each.low, each.high)
        middle = (near + far) / 2
        rows += [(each, near, Side.NEAR), (each, middle, Side.MIDDLE), (each, far, Side.FAR)]
    own = np.array([[r.x, r.y, rise + resolved.heights[r.body]] for r, rise, _ in rows])
    stand = places[[r.body for r, _, _ in rows]]
    centre = np.einsum("rij,rj->ri", stand[:, :, :3], own) + stand[:, :, 3]
    radius = np.array([each.radius for each, _, _ in rows])
    points = np.repeat(centre[:, None], POINTS, axis=1)
    points += radius[:, None, None] * np.einsum("rij,pj->rpi", stand[:, :, :2], circle)
    seen = camera.seen(points, *size)[..., :2]
    away = _to_rings(seen, np.asarray(at))
    found = [
        Rim(each, (float(m[0]), float(m[1]), float(m[2])), rise, side, float(distance))
        for (each, rise, side), m, distance in zip(rows, centre, away, strict=True)
        if distance <= reach
    ]
    return sorted(found, key=lambda rim: rim.away)


def _to_rings(rings: Floats, at: Floats) -> Floats:
    """(R,) distance of a point from closed chains of lines (R, P, 2)."""
    along = np.roll(rings, -1, axis=1) - rings
    off = at - rings
    square = np.maximum((along**2).sum(-1), 1e-12)
    share = np.clip((off * along).sum(-1) / square, 0.0, 1.0)
    away: Floats = np.hypot(*np.moveaxis(off - share[..., None] * along, -1, 0)).min(axis=1)
    return away
