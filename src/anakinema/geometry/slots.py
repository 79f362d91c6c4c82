"""A slot along a curve: what lies within half its width, with round ends."""

from __future__ import annotations

import math

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Contour, ContourBuilder
from anakinema.geometry.curve import Curve
from anakinema.geometry.fitting import as_arcs

_Point = tuple[float, float]
NEAR = 1e-4
"""mm by which the middle of the arcs of a slot may stray from a spline."""


def slot_contour(curve: Curve, width: float) -> Contour:
    """The outline of a slot ``width`` mm wide along an open curve.

    Lines and arcs are offset exactly; a spline by arcs that keep within 1e-4 mm of it. Raises
    `GeometryError` if it is closed, or bends tighter than its width.
    """
    half = width / 2
    if curve.is_closed:
        raise GeometryError(
            "it runs into itself.", where="curved slot", remedy="Leave its ends apart."
        )
    if not half > 0 or curve.most_curvature * half >= 1:
        raise GeometryError(
            "it bends tighter than half its width.",
            where="curved slot",
            remedy="Give it less width, or gentler bends.",
        )
    rows = as_arcs(curve, NEAR)
    right: list[tuple[_Point, _Point, float]] = []
    left: list[tuple[_Point, _Point, float]] = []
    for (ax, ay, bulge), (bx, by, _) in zip(rows, rows[1:], strict=False):
        sweep = 4 * math.atan(bulge)
        chord = math.atan2(by - ay, bx - ax)
        ends = ((ax, ay, chord - sweep / 2), (bx, by, chord + sweep / 2))
        for side, out in ((-half, right), (half, left)):
            one, two = ((x - side * math.sin(d), y + side * math.cos(d)) for x, y, d in ends)
            out.append((one, two, bulge))
    builder = ContourBuilder()
    for one, two, bulge in right:
        builder.bulged(one, two, bulge)
    builder.bulged(right[-1][1], left[-1][1], 1.0)
    for one, two, bulge in reversed(left):
        builder.bulged(two, one, -bulge)
    builder.bulged(left[0][0], right[0][0], 1.0)
    return builder.close()
