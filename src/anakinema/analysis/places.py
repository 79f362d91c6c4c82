"""Where places of bodies are over a motion, and the distances of two."""

from __future__ import annotations

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import transform


def place_path(resolved: Resolved, side: model.Side, poses: Floats) -> Floats:
    """(N, 2) mm: a place of a body at poses (N, B, 3)."""
    index = [body.id for body in resolved.document.bodies].index(side.body)
    place = resolved.part_of(resolved.document.bodies[index]).places[side.place]
    return np.asarray(transform(np.array([place[:2]]), poses[:, index])[:, 0])


def measure_curve(resolved: Resolved, measure: model.Measure, poses: Floats) -> Floats:
    """(N,) mm: a kept distance at poses (N, B, 3)."""
    one, two = (place_path(resolved, side, poses) for side in (measure.first, measure.second))
    return np.asarray(np.hypot(*(two - one).T))
