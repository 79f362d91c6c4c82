"""Where places of bodies are over a motion, and how they move."""

from __future__ import annotations

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import transform
from anakinema.motion.motion import States


def place_path(resolved: Resolved, side: model.Side, poses: Floats) -> Floats:
    """(N, 2) mm: a place of a body at poses (N, B, 3)."""
    index = [body.id for body in resolved.document.bodies].index(side.body)
    place = resolved.part_of(resolved.document.bodies[index]).places[side.place]
    return np.asarray(transform(np.array([place[:2]]), poses[:, index])[:, 0])


def place_rates(resolved: Resolved, side: model.Side, at: States) -> tuple[Floats, Floats, Floats]:
    """(N, 2) each: a place of a body (mm) and its first and second rates by progress."""
    index = [body.id for body in resolved.document.bodies].index(side.body)
    points = place_path(resolved, side, at.poses)
    arm = points - at.poses[:, index, :2]
    across = np.stack([-arm[:, 1], arm[:, 0]], axis=1)
    first, second = at.first[:, index], at.second[:, index]
    speed = first[:, :2] + first[:, 2:] * across
    change = second[:, :2] + second[:, 2:] * across - first[:, 2:] ** 2 * arm
    return points, speed, change
