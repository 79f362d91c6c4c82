"""The arrangement from three sides, where it does not lie on one plane."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from anakinema.depth.meshes import Meshes
from anakinema.depth.outlines import Seen, seen_from
from anakinema.document.rods_in_space import rod_places, rods_of
from anakinema.geometry.contour import Floats
from anakinema.record.sheets.layout import scale_words
from anakinema.record.sheets.paper import Mark, Pen, Text, straight
from anakinema.record.sheets.sheet import Drawn, Leaf
from anakinema.record.sheets.views import fitted
from anakinema.units import LENGTH

INK = Pen(0.35)
FINE = 0.05
"""mm that chords may miss arcs by."""
BETWEEN = 0.12
"""Share of the largest view that lies between two."""
ENOUGH = 1.0
X, Y, Z = np.eye(3)
FRONT, ABOVE, LEFT, RIGHT = (X, Z), (X, Y), (-Y, Z), (Y, Z)
"""Directions across and up in space: seen against y, against z, along x and against x."""


def standard_views(drawn: Drawn) -> Iterator[Leaf]:
    """One sheet with front, top and side, of what lies on several planes or has rods."""
    resolved, poses = drawn.evaluation.resolved, drawn.poses
    if resolved.planes.is_one and not rods_of(resolved):
        return
    if not any(part.slabs for part in resolved.parts.values()):
        return
    places = resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))
    places = np.concatenate([places, rod_places(resolved, places)])
    meshes = Meshes.build(resolved, FINE)
    first = drawn.settings.projection == "first"
    side = LEFT if first else RIGHT
    front, above, beside = (seen_from(meshes, places, *way) for way in (FRONT, ABOVE, side))
    wide, deep, tall = (
        float(seen.box[1, axis] - seen.box[0, axis])
        for seen, axis in ((front, 0), (beside, 0), (front, 1))
    )
    gap = BETWEEN * max(wide, deep, tall) + 8.0
    # Of the first method what is seen from above stands below, of the third above.
    low = deep + gap if first else 0.0
    top = 0.0 if first else tall + gap
    corners = (
        ("Front", front, (0.0, low)),
        ("From above", above, (0.0, top)),
        ("From the left" if first else "From the right", beside, (wide + gap, low)),
    )
    box = 0.0, 0.0, wide + gap + deep, tall + gap + deep
    fit = fitted(box, drawn.settings.paper, (10, 12, 10, 10), ENOUGH)
    marks: list[Mark] = []
    for words, seen, corner in corners:
        marks += _lines(seen, np.array(corner), fit.scale, np.array(fit.shift))
        x, y = fit.on_paper(*corner)
        marks.append(Text((x, y - 5.0), words, 3.0))
    units = resolved.units
    sizes = " × ".join(units.format(size, LENGTH) for size in (wide, deep, tall))
    marks.append(Text((fit.room[0], fit.room[1] - 10), f"Overall {sizes} at this pose", 3.0))
    title = "Arrangement from three sides"
    yield Leaf(
        "views", title, title, fit.paper, tuple(marks), scale_words(fit.scale), projected=True
    )


def _lines(seen: Seen, corner: Floats, scale: float, shift: Floats) -> list[Mark]:
    """The lines of a view whose box has its lower left corner at ``corner`` (2,)."""
    points = (seen.lines - seen.box[0] + corner) * scale + shift
    return [
        straight((float(a[0]), float(a[1])), (float(b[0]), float(b[1])), pen=INK) for a, b in points
    ]
