"""The distance of two places."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import place_path, place_rates
from anakinema.analysis.places_in_space import between_places
from anakinema.document import model
from anakinema.document.planes import across
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.turning import Turning
from anakinema.motion.events import Jets
from anakinema.motion.motion import States


@dataclass(frozen=True, eq=False)
class Distance(Turning):
    """How far two places are apart, mm; those of different planes at their bodies' datums."""

    resolved: Resolved
    first: model.Side
    second: model.Side
    is_across: bool = False
    """Whether their bodies lie on different planes."""

    def values(self, at: States) -> Floats:
        """(N,) mm."""
        if self.is_across:
            apart, _, _ = between_places(self.resolved, self.first, self.second, at)
            return np.asarray(np.linalg.norm(apart, axis=1))
        one, two = (place_path(self.resolved, s, at.poses) for s in (self.first, self.second))
        return np.asarray(np.hypot(*(two - one).T))

    def jets(self, at: States) -> Jets:
        """d = |s|, d' = s·v / d, d'' = (v·v + s·a - d'^2) / d; no rates where both places meet."""
        if self.is_across:
            return jets_of_length(*between_places(self.resolved, self.first, self.second, at))
        one, two = (place_rates(self.resolved, side, at) for side in (self.first, self.second))
        apart, speed, change = (b - a for a, b in zip(one, two, strict=True))
        return jets_of_length(apart, speed, change)


def jets_of_length(apart: Floats, speed: Floats, change: Floats) -> Jets:
    """The length of vectors (N, 2) or (N, 3) that have two rates."""
    value = np.sqrt((apart**2).sum(axis=1))
    with np.errstate(divide="ignore", invalid="ignore"):
        first = (apart * speed).sum(axis=1) / value
        second = ((speed**2 + apart * change).sum(axis=1) - first**2) / value
    return Jets(value[:, None], first[:, None], second[:, None])


def distance(resolved: Resolved, measure: model.DistanceMeasure) -> Distance:
    """The measure of a resolved document."""
    bodies = (measure.first.body, measure.second.body)
    return Distance(resolved, measure.first, measure.second, across(resolved.document, bodies))
