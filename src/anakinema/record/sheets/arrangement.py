"""The general arrangement: all of it square from above, with item numbers and overall sizes."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from anakinema.depth.placed import PlacedSlab, placed_slabs
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.record.listed_parts import Row
from anakinema.record.sheets.cutting import cut_of
from anakinema.record.sheets.dimensions import STEP, Dimension, settled
from anakinema.record.sheets.layout import APART, BALLOON, LEFT, OFF, balloon, scale_words, spread
from anakinema.record.sheets.paper import CENTRE, THICK, Mark, Pen, Place, Text, straight
from anakinema.record.sheets.sheet import Drawn, Leaf
from anakinema.record.sheets.views import Fit, box_of, fitted, from_above, swept_box
from anakinema.units import LENGTH

SWEPT = Pen(0.18, dashes=(8.0, 1.5, 1.5, 1.5, 1.5, 1.5))
NOTE = "Square to the plane. Check sizes and clearances before cutting."
ENOUGH = 1.0
"""Scale from which on a smaller paper is enough."""


def arrangement(drawn: Drawn) -> Iterator[Leaf]:
    """One sheet, of anything that has an outline."""
    resolved, poses = drawn.evaluation.resolved, drawn.poses
    slabs = placed_slabs(resolved, poses)
    if not slabs:
        return
    now, swept = box_of(slabs), swept_box(resolved, drawn.evaluation.motion.poses)
    whole = (
        min(now[0], swept[0]),
        min(now[1], swept[1]),
        max(now[2], swept[2]),
        max(now[3], swept[3]),
    )
    travels = _travels(drawn)
    aside = (2 * BALLOON + 30, 28 + 4 * len(travels), 2 * BALLOON + 12, 12)
    fit = fitted(whole, drawn.settings.paper, aside, ENOUGH)
    marks: list[Mark] = []
    if not np.allclose(now, whole, atol=0.01):
        corners = [fit.on_paper(whole[i], whole[j]) for i, j in ((0, 1), (2, 1), (2, 3), (0, 3))]
        marks.append(straight(*corners, pen=SWEPT, closed=True))
    marks += from_above(slabs, poses, fit)
    dimensions = settled(_overall(now, whole, fit), drawn.settings.dimensions)
    for each in dimensions:
        marks += each.marks()
    marks += _cutting_line(drawn, fit)
    tips = {item: fit.on_paper(*tip) for item, tip in _tips(resolved, slabs, drawn.rows).items()}
    left = fit.on_paper(whole[0], 0.0)[0] - OFF - STEP - 12
    right = fit.on_paper(whole[2], 0.0)[0] + 14
    marks += _balloons(tips, left, right, fit.room[1], fit.room[3])
    for k, words in enumerate(travels):
        marks.append(Text((LEFT + 3, fit.room[1] - 20 - 4 * k), words, 2.5))
    yield Leaf(
        "arrangement",
        "General arrangement",
        "General arrangement",
        fit.paper,
        tuple(marks),
        scale_words(fit.scale),
        dimensions,
        NOTE if resolved.planes.is_one else f"Only what lies on the first plane. {NOTE}",
        projected=True,
    )


def _overall(
    now: tuple[float, float, float, float], whole: tuple[float, float, float, float], fit: Fit
) -> Iterator[Dimension]:
    (left, low), (right, high) = fit.on_paper(*whole[:2]), fit.on_paper(*whole[2:])
    x, y = fit.on_paper(*now[:2])
    u, v = fit.on_paper(*now[2:])
    yield Dimension("arrangement/width", (x, y), (u, y), low - OFF, now[2] - now[0])
    yield Dimension("arrangement/height", (x, y), (x, v), left - OFF, now[3] - now[1], False)
    key = "arrangement/swept"
    if whole[2] - whole[0] > now[2] - now[0] + 0.01:
        yield Dimension(f"{key} width", (left, low), (right, low), low - OFF, whole[2] - whole[0])
    if whole[3] - whole[1] > now[3] - now[1] + 0.01:
        yield Dimension(
            f"{key} height", (left, low), (left, high), left - OFF, whole[3] - whole[1], False
        )


def _travels(drawn: Drawn) -> list[str]:
    """How far slides and driven joints go."""
    evaluation = drawn.evaluation
    motion, units = evaluation.motion, evaluation.resolved.units
    found = []
    for k, joint in enumerate(evaluation.document.joints):
        spec = spec_of(joint.kind)
        values = motion.values[:, k]
        told = k in motion.driver_joints or spec.dimension == LENGTH
        if spec.moves and told and float(np.ptp(values)) > 0.0:
            low, high = (
                units.format(float(v), spec.dimension) for v in (values.min(), values.max())
            )
            size = units.format(float(np.ptp(values)), spec.dimension)
            found.append(f"{joint.title}: travel {size}, from {low} to {high}")
    return found[:8]


def _cutting_line(drawn: Drawn, fit: Fit) -> list[Mark]:
    """Where the sheet of the section is cut, with arrows' letters at its ends."""
    cut = cut_of(drawn)
    if cut is None:
        return []
    one, two = (fit.on_paper(*cut.place(at)) for at in (cut.start, cut.end))
    marks: list[Mark] = [straight(one, two, pen=CENTRE)]
    for end, other in ((one, two), (two, one)):
        length = max(float(np.hypot(other[0] - end[0], other[1] - end[1])), 1e-9)
        u = (end[0] - other[0]) / length, (end[1] - other[1]) / length
        tip = end[0] + 7 * u[0], end[1] + 7 * u[1]
        marks.append(straight(end, tip, pen=THICK))
        marks.append(Text((tip[0] + 2 * u[0], tip[1] + 2 * u[1]), "A", 3.5, "middle", True))
    return marks


def _tips(resolved: Resolved, slabs: list[PlacedSlab], rows: tuple[Row, ...]) -> dict[int, Place]:
    """By item number a place where one of its bodies is seen, or where it would be."""
    seen: dict[int, shapely.Geometry] = {}
    above = shapely.Polygon()
    for each in reversed(slabs):
        rest = each.polygon.difference(above)
        best = max(getattr(rest, "geoms", [rest]), key=lambda part: part.area)
        if each.body not in seen or best.area > seen[each.body].area:
            seen[each.body] = best if not best.is_empty else each.polygon
        above = above.union(each.polygon)
    tips: dict[int, Place] = {}
    for row in rows:
        bodies = [
            k for k, b in enumerate(resolved.document.bodies) if b.part == row.id and k in seen
        ]
        if bodies:
            largest = max(bodies, key=lambda k: seen[k].area)
            point = seen[largest].representative_point()
            tips[row.item] = (point.x, point.y)
    return tips


def _balloons(
    tips: dict[int, Place], left: float, right: float, low: float, high: float
) -> list[Mark]:
    """Half of them on each side, in the order of what they point at."""
    order = sorted(tips, key=lambda item: tips[item][0])
    sides = (left, order[: len(order) // 2]), (right, order[len(order) // 2 :])
    marks: list[Mark] = []
    for x, items in sides:
        rising = sorted(items, key=lambda item: tips[item][1])
        heights = spread([tips[item][1] for item in rising], APART, low, high)
        for item, y in zip(rising, heights, strict=True):
            marks += balloon((x, y), tips[item], item)
    return marks
