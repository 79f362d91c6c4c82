"""How far a place has come along a direction."""

from __future__ import annotations

import math
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
class Way(Turning):
    """The share of a place's position along a direction (2,) of length 1, mm."""

    resolved: Resolved
    place: model.Side
    along: Floats

    def values(self, at: States) -> Floats:
        """(N,) mm."""
        return np.asarray(place_path(self.resolved, self.place, at.poses) @ self.along)

    def jets(self, at: States) -> Jets:
        """The same share of position, speed and acceleration."""
        value, first, second = (
            (each @ self.along)[:, None] for each in place_rates(self.resolved, self.place, at)
        )
        return Jets(value, first, second)


def way(resolved: Resolved, measure: model.WayMeasure) -> Way:
    """The measure of a resolved document; raises an `AnakinemaError` at an angle it cannot read."""
    angle = resolved.reader.field(measure, "along", f"way of '{measure.place.place}'")
    return Way(resolved, measure.place, np.array([math.cos(angle), math.sin(angle)]))
