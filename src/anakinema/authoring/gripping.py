"""Grips: where a part can be taken hold of on the stage to change one of its dimensions.

Found from the part itself: each dimension is changed a little, and the point of the outlines
that moves most with it becomes its grip. Heights and what other expressions set have none.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.contours import contour_of
from anakinema.document.reading import Reader, named_quantities
from anakinema.document.relations import settled
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit
from anakinema.edits.values import SetDimension
from anakinema.errors import AnakinemaError
from anakinema.expressions import parse
from anakinema.geometry.contour import Contour, Floats
from anakinema.geometry.poses import carried, turned
from anakinema.geometry.region import Region
from anakinema.units import ANGLE, LENGTH, Dimension

FAR = {LENGTH: 1.0, ANGLE: 0.02}
"""mm or rad over which a grip must keep to its point."""
SLIP = 0.02
"""mm that it may stray meanwhile."""
MOST_TRIED = 40
STEPS: dict[Dimension, float] = {LENGTH: 1e-4, ANGLE: 1e-6}
"""mm or rad that a dimension is changed by to see what moves."""
LEAST_MOVE = 0.05
"""mm per mm (or a share of the part's size per rad) that a grip must move."""


@dataclass(frozen=True, slots=True)
class Grip:
    """A point x, y (mm, in the part) that moves by dx, dy (mm per mm, or mm per rad) with a
    dimension of that value."""

    name: str
    value: float
    dimension: Dimension
    x: float
    y: float
    dx: float
    dy: float


def grips(resolved: Resolved, part_id: str) -> tuple[Grip, ...]:
    """A grip for every dimension of a part that is a number of its own and moves an outline.

    They are kept apart: where two would be close, the later takes its next best.
    """
    part = resolved.document.part(part_id)
    here = _points(resolved.document, part, resolved)
    if here is None or not len(here):
        return ()
    centre, size = here.mean(axis=0), max(1.0, float(np.ptp(here, axis=0).max()))
    found: list[Grip] = []
    for dimension in part.dimensions:
        if isinstance(dimension.value, str) and parse(dimension.value).names:
            continue
        quantity = resolved.names[f"{part_id}.{dimension.id}"]
        step = STEPS.get(quantity.dimension)
        if step is None:
            continue
        unit = "rad" if quantity.dimension == ANGLE else "mm"
        changed = _with_value(part, dimension.id, f"{quantity.value + step!r} {unit}")
        there = _points(resolved.document, changed, resolved)
        if there is None or there.shape != here.shape:
            continue
        moves = (there - here) / step
        far = FAR[quantity.dimension]
        farther = _with_value(part, dimension.id, f"{quantity.value + far!r} {unit}")
        rims = [_rim(c) for c in _contours(resolved.document, farther, resolved) or ()]
        reach = np.hypot(*moves.T)
        away = np.hypot(*(here - centre).T)
        order = np.lexsort((-away, -np.round(reach, 3)))
        least = LEAST_MOVE * (size if quantity.dimension == ANGLE else 1.0)
        best = float(reach.max())
        free = [
            k
            for spread in (0.2, 0.02)
            for k in order.tolist()
            if reach[k] >= max(least, 0.6 * best)
            and all(math.dist(here[k], (g.x, g.y)) > spread * size for g in found)
        ]
        # A point that leaves the rim as that moves on would slip from under the pointer.
        free = [
            k for k in free[:MOST_TRIED] if not rims or _off(rims, here[k] + far * moves[k]) < SLIP
        ]
        if free:
            (x, y), (dx, dy) = here[free[0]].tolist(), moves[free[0]].tolist()
            found.append(Grip(dimension.id, quantity.value, quantity.dimension, x, y, dx, dy))
    return tuple(found)


def _with_value(part: model.Part, name: str, value: str) -> model.Part:
    dimensions = tuple(
        d.model_copy(update={"value": value}) if d.id == name else d for d in part.dimensions
    )
    return part.model_copy(update={"dimensions": dimensions})


def _rim(contour: Contour) -> shapely.Geometry:
    return Region.build(contour, (), ()).polygon.boundary


def _off(rims: list[shapely.Geometry], point: Floats) -> float:
    """mm from a point to the nearest rim."""
    return float(min(shapely.distance(rim, shapely.Point(*point.tolist())) for rim in rims))


def _points(document: model.Document, part: model.Part, resolved: Resolved) -> Floats | None:
    """(P, 2) mm: ends and middles of all edges of a part; None if it cannot be so."""
    contours = _contours(document, part, resolved)
    if contours is None:
        return None
    if not contours:
        return np.zeros((0, 2))
    return np.concatenate([np.concatenate([c.start, c.middles()]) for c in contours])


def _contours(
    document: model.Document, part: model.Part, resolved: Resolved
) -> list[Contour] | None:
    """All outlines of a part; None if it cannot be so."""
    parts = tuple(part if old.id == part.id else old for old in document.parts)
    try:
        names = named_quantities(document.model_copy(update={"parts": parts}))
        reader = Reader(resolved.units, names).within(part)
        moved = settled(part, reader)
        where = f"part '{part.title}'"
        return [
            contour_of(outline, reader, where, is_opening=k > 0)
            for slab in moved.slabs
            for k, outline in enumerate((slab.outline, *(hole.outline for hole in slab.holes)))
        ]
    except AnakinemaError:
        return None


@dataclass(frozen=True, slots=True)
class StageGrip:
    """A grip of a body where it stands: x, y (mm) in the plane, and how it moves there."""

    part: str
    name: str
    value: float
    dimension: Dimension
    x: float
    y: float
    dx: float
    dy: float

    def dragged(self, x: float, y: float, step: float) -> Edit:
        """The edit for the grip dragged to x, y mm: the value brought to a whole ``step`` mm."""
        along = ((x - self.x) * self.dx + (y - self.y) * self.dy) / (self.dx**2 + self.dy**2)
        value = self.value + along
        if self.dimension == ANGLE:
            return SetDimension(self.part, self.name, f"{round(math.degrees(value), 1):.10g} deg")
        return SetDimension(self.part, self.name, f"{round(value / step) * step:.10g} mm")


@lru_cache(maxsize=8)
def _grips(resolved: Resolved, part: str) -> tuple[Grip, ...]:
    return grips(resolved, part)


def stage_grips(scene: Scene, poses: Floats, body_id: str) -> tuple[StageGrip, ...]:
    """The grips of a body at these poses."""
    index = scene.index(body_id)
    if index is None:
        return ()
    part = scene.resolved.document.bodies[index].part
    pose = poses[index]
    return tuple(
        StageGrip(
            part,
            g.name,
            g.value,
            g.dimension,
            *carried(pose, (g.x, g.y)),
            *turned((g.dx, g.dy), float(pose[2])),
        )
        for g in _grips(scene.resolved, part)
    )
