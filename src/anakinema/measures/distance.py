"""The distance of two places."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import place_path, place_rates
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.turning import Turning
from anakinema.motion.events import Jets
from anakinema.motion.motion import States


@dataclass(frozen=True, eq=False)
class Distance(Turning):
    """How far two places are apart, mm."""

    resolved: Resolved
    first: model.Side
    second: model.Side

    def values(self, at: States) -> Floats:
        """(N,) mm."""
        one, two = (place_path(self.resolved, s, at.poses) for s in (self.first, self.second))
        return np.asarray(np.hypot(*(two - one).T))

    def jets(self, at: States) -> Jets:
        """d = |s|, d' = s·v / d, d'' = (v·v + s·a - d'^2) / d; no rates where both places meet."""
        one, two = (place_rates(self.resolved, side, at) for side in (self.first, self.second))
        apart, speed, change = (b - a for a, b in zip(one, two, strict=True))
        return jets_of_length(apart, speed, change)


def jets_of_length(apart: Floats, speed: Floats, change: Floats) -> Jets:
    """The length of vectors (N, 2) that have two rates."""
    value = np.hypot(*apart.T)
    with np.errstate(divide="ignore", invalid="ignore"):
        first = (apart * speed).sum(axis=1) / value
        second = ((speed**2 + apart * change).sum(axis=1) - first**2) / value
    return Jets(value[:, None], first[:, None], second[:, None])


def distance(resolved: Resolved, measure: model.DistanceMeasure) -> Distance:
    """The measure of a resolved document."""
    return Distance(resolved, measure.first, measure.second)
