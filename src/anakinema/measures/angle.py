"""The angle between the directions of two places."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places_in_space import directions_of_places
from anakinema.document import model
from anakinema.document.planes import across
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.turning import Turning
from anakinema.motion.events import Jets
from anakinema.motion.motion import Motion, States


@dataclass(frozen=True)
class Between(Turning):
    """How far the direction of a place of ``second`` is turned from one of ``first``, rad.

    ``turn`` is what it is more than the angle between the two bodies, in whole turns such that the
    mechanism as drawn shows at most half a turn.
    """

    first: int
    second: int
    turn: float

    def unit(self, motion: Motion) -> float:
        """Radians."""
        return 1.0

    def values(self, at: States) -> Floats:
        """(N,) rad, without jumps over the motion."""
        return np.asarray(at.poses[:, self.second, 2] - at.poses[:, self.first, 2] + self.turn)

    def jets(self, at: States) -> Jets:
        """The difference of the two turns."""
        first, second = (
            each[:, self.second, 2] - each[:, self.first, 2] for each in (at.first, at.second)
        )
        return Jets(self.values(at)[:, None], first[:, None], second[:, None])


LEVEL = 1e-9
"""Sine of the angle at which two directions are as good as parallel."""


@dataclass(frozen=True, eq=False)
class InSpace(Turning):
    """The angle between the directions of two places of different planes, 0 to half a turn, rad."""

    resolved: Resolved
    first: model.Side
    second: model.Side

    def unit(self, motion: Motion) -> float:
        """Radians."""
        return 1.0

    def values(self, at: States) -> Floats:
        """(N,) rad."""
        (one, _, _), (two, _, _) = directions_of_places(self.resolved, self.first, self.second, at)
        across = np.linalg.norm(np.cross(one, two), axis=1)
        return np.asarray(np.arctan2(across, (one * two).sum(axis=1)))

    def jets(self, at: States) -> Jets:
        """From c = u·v: a' = -c' / sin a, a'' = -(c'' + cos a a'^2) / sin a; none where the two
        are parallel."""
        one, two = directions_of_places(self.resolved, self.first, self.second, at)
        value = self.values(at)
        (u, du, ddu), (v, dv, ddv) = one, two
        slope = (du * v + u * dv).sum(axis=1)
        bend = (ddu * v + 2 * du * dv + u * ddv).sum(axis=1)
        sine = np.sin(value)
        sine = np.where(sine > LEVEL, sine, np.nan)
        first = -slope / sine
        second = -(bend + np.cos(value) * first**2) / sine
        return Jets(value[:, None], first[:, None], second[:, None])


def angle(resolved: Resolved, measure: model.AngleMeasure) -> Between | InSpace:
    """The measure of a resolved document."""
    if across(resolved.document, (measure.first.body, measure.second.body)):
        return InSpace(resolved, measure.first, measure.second)
    ids = [body.id for body in resolved.document.bodies]
    turned, bodies = [], []
    for side in (measure.first, measure.second):
        index = ids.index(side.body)
        bodies.append(index)
        turned.append(resolved.part_of(resolved.document.bodies[index]).places[side.place][2])
    turn = turned[1] - turned[0]
    drawn = resolved.poses[bodies[1], 2] - resolved.poses[bodies[0], 2] + turn
    return Between(bodies[0], bodies[1], turn - 2 * math.pi * round(drawn / (2 * math.pi)))
