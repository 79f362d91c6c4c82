"""Where ball-ended rods are in space, bodies at places."""

from __future__ import annotations

import numpy as np

from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats


def rods_of(resolved: Resolved) -> tuple[int, ...]:
    """Indices of the joints that are rods."""
    return tuple(k for k, values in enumerate(resolved.joints) if values.rod is not None)


def rod_ends(resolved: Resolved, places: Floats) -> Floats:
    """(R, 2, 3) mm, the middles of the balls of all rods; bodies at places (B, 3, 4), heights above
    their planes in their frames."""
    document = resolved.document
    index = {body.id: k for k, body in enumerate(document.bodies)}
    found = np.zeros((len(rods_of(resolved)), 2, 3))
    for r, k in enumerate(rods_of(resolved)):
        rod, joint = resolved.joints[k].rod, document.joints[k]
        assert rod is not None
        rises = rod.first_height, rod.second_height
        for end, (side, rise) in enumerate(zip((joint.first, joint.second), rises, strict=True)):
            body = index[side.body]
            x, y, _ = resolved.part_of(document.bodies[body]).places[side.place]
            point = np.array([x, y, resolved.heights[body] + rise])
            found[r, end] = places[body, :, :3] @ point + places[body, :, 3]
    return found


def rod_places(resolved: Resolved, places: Floats) -> Floats:
    """(R, 3, 4) frames at the first balls whose x points to the second; where bodies are pulled
    apart a rod is drawn longer with them."""
    ends = rod_ends(resolved, places)
    found = np.zeros((len(ends), 3, 4))
    for r, k in enumerate(rods_of(resolved)):
        rod = resolved.joints[k].rod
        assert rod is not None
        along = ends[r, 1] - ends[r, 0]
        way = float(np.linalg.norm(along)) or 1.0
        unit = along / way
        across = np.cross(np.eye(3)[int(np.argmin(np.abs(unit)))], unit)
        across /= np.linalg.norm(across)
        found[r, :, 0] = unit * (way / rod.length)
        found[r, :, 1], found[r, :, 2] = across, np.cross(unit, across)
        found[r, :, 3] = ends[r, 0]
    return found
