"""Grips on the stage: taking hold of a part to change one of its dimensions."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

from anakinema.building.gripping import Grip, grips
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit
from anakinema.edits.values import SetDimension
from anakinema.geometry.contour import Floats
from anakinema.session.assembling import Scene
from anakinema.units import ANGLE, Dimension


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
    px, py, angle = poses[index].tolist()
    c, s = math.cos(angle), math.sin(angle)
    return tuple(
        StageGrip(
            part,
            g.name,
            g.value,
            g.dimension,
            px + c * g.x - s * g.y,
            py + s * g.x + c * g.y,
            c * g.dx - s * g.dy,
            s * g.dx + c * g.dy,
        )
        for g in _grips(scene.resolved, part)
    )
