"""Where ball-ended rods are in space, bodies at places."""

from __future__ import annotations

import numpy as np

from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats


def rods_of(resolved: Resolved) -> tuple[int, ...]:
    """Indices of the joints that are rods."""
    return tuple(k for k, values in enumerate(resolved.joints) if values.rod is not None)


def balls_of(resolved: Resolved, joint: int) -> list[tuple[int, Floats]]:
    """Of both balls of a rod the body that holds it, and its middle (3,) mm in that body's frame,
    height above the plane."""
    document, rod = resolved.document, resolved.joints[joint].rod
    assert rod is not None
    index = {body.id: k for k, body in enumerate(document.bodies)}
    found = []
    sides = document.joints[joint].first, document.joints[joint].second
    for side, rise in zip(sides, (rod.first_height, rod.second_height), strict=True):
        k = index[side.body]
        x, y, _ = resolved.part_of(document.bodies[k]).places[side.place]
        found.append((k, np.array([x, y, resolved.heights[k] + rise])))
    return found


def frames_along(first: Floats, second: Floats) -> Floats:
    """(N, 3, 4) frames at points (N, 3) whose x points to others (N, 3), anywhere if these are the
    same points."""
    along = second - first
    way = np.linalg.norm(along, axis=1)[:, None]
    along = np.where(way > 0.0, along / np.where(way > 0.0, way, 1.0), np.eye(3)[0])
    least = np.eye(3)[np.argmin(np.abs(along), axis=1)]
    across = np.cross(least, along)
    across = across / np.linalg.norm(across, axis=1)[:, None]
    return np.stack([along, across, np.cross(along, across), first], axis=2)


def rod_ends(resolved: Resolved, places: Floats) -> Floats:
    """(R, 2, 3) mm, the middles of the balls of all rods; bodies at places (B, 3, 4), heights above
    their planes in their frames."""
    rods = rods_of(resolved)
    found = np.zeros((len(rods), 2, 3))
    for r, k in enumerate(rods):
        for end, (body, point) in enumerate(balls_of(resolved, k)):
            found[r, end] = places[body, :, :3] @ point + places[body, :, 3]
    return found


def rod_places(resolved: Resolved, places: Floats) -> Floats:
    """(R, 3, 4) frames at the first balls whose x points to the second; where bodies are pulled
    apart a rod is drawn longer with them."""
    ends = rod_ends(resolved, places)
    found = frames_along(ends[:, 0], ends[:, 1])
    ways = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    for r, k in enumerate(rods_of(resolved)):
        rod = resolved.joints[k].rod
        assert rod is not None
        found[r, :, 0] *= ways[r] / rod.length
    return found
