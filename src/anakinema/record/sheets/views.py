"""Bodies as they are seen on a sheet: square from above, and the room that a sheet has."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.depth.placed import PlacedSlab
from anakinema.document.model import PaperName
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import transform
from anakinema.record.sheets.layout import BLOCK, HIGH, LEFT, MARGIN, SCALES, scale_for
from anakinema.record.sheets.paper import THICK, Mark, Pen, Place, Shape, ring
from anakinema.record.sheets.papers import PAPERS, papers_up_to

Box = tuple[float, float, float, float]
"""Least x and y, greatest x and y."""


@dataclass(frozen=True, slots=True)
class Fit:
    """A paper, the scale on it, and where the plane's origin is on it, mm; ``room`` for it."""

    paper: PaperName
    scale: float
    shift: Place
    room: Box

    @property
    def has_room(self) -> bool:
        """Whether there is any."""
        return self.room[2] > self.room[0] and self.room[3] > self.room[1]

    def on_paper(self, x: float, y: float) -> Place:
        """A point of the plane."""
        return x * self.scale + self.shift[0], y * self.scale + self.shift[1]


def fitted(
    box: Box,
    largest: PaperName,
    aside: tuple[float, float, float, float],
    enough: float,
    *,
    to_scale: bool = True,
) -> Fit:
    """The smallest paper on which a box of the plane has a scale of at least ``enough``, or the
    largest; ``aside`` is what else is needed left, below, right and above of it, mm.

    It goes above the title block, or beside that where it gets larger so. Not ``to_scale`` it is as
    large as there is room.
    """
    left, below, right, above = aside
    wide, tall = max(box[2] - box[0], 1e-6), max(box[3] - box[1], 1e-6)

    def scale_in(room: Box) -> float:
        size = room[2] - room[0], room[3] - room[1]
        if min(size) <= 0.0:
            return 0.0
        return scale_for(wide, tall, size) if to_scale else min(size[0] / wide, size[1] / tall)

    for paper in papers_up_to(largest):
        width, height = PAPERS[paper]
        top, end = height - MARGIN - above, width - MARGIN - right
        over = LEFT + left, MARGIN + HIGH + below, end, top
        beside = LEFT + left, MARGIN + below, end - BLOCK, top
        room = max((over, beside), key=scale_in)
        # What has no room at all runs over the edge of the paper, as small as can be.
        scale = scale_in(room) or SCALES[-1]
        if scale >= enough or paper == largest:
            break
    x = (room[0] + room[2] - wide * scale) / 2 - box[0] * scale
    y = (room[1] + room[3] - tall * scale) / 2 - box[1] * scale
    return Fit(paper, scale, (x, y), room)


def from_above(slabs: list[PlacedSlab], poses: Floats, fit: Fit, pen: Pen = THICK) -> list[Mark]:
    """Slabs, each over those below it."""
    return [
        Shape(
            tuple(ring(c, poses[s.body], fit.scale, fit.shift) for c in s.slab.region.contours), pen
        )
        for s in slabs
    ]


def box_of(slabs: list[PlacedSlab]) -> Box:
    """What holds them all."""
    low_x, low_y, high_x, high_y = shapely.total_bounds([each.polygon for each in slabs])
    return float(low_x), float(low_y), float(high_x), float(high_y)


def swept_box(resolved: Resolved, poses: Floats) -> Box:
    """What holds all bodies of the first plane at all of poses (N, B, 3), within 0.005 mm."""
    lows, highs = [], []
    for k, body in enumerate(resolved.document.bodies):
        for slab in resolved.part_of(body).slabs if not resolved.planes.of[k] else ():
            rim = shapely.get_coordinates(slab.region.polygon.convex_hull)
            points = transform(rim, poses[:, k])
            lows.append(points.min(axis=(0, 1)))
            highs.append(points.max(axis=(0, 1)))
    low, high = np.min(lows, axis=0), np.max(highs, axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
