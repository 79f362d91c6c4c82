"""Points that bodies carry: their velocities, and how much those can change over a stretch.

States bound the rates of bodies over progress ± half; with v a rate now and V its bound, it
changes by no more than V − |v| (docs/methods.md, "Certified speeds").
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import transform
from anakinema.motion.bounded import Bounded


@dataclass(frozen=True, slots=True, eq=False)
class Moving:
    """Points (N, 2), their velocities (N, 2), and the most by which those can change (N,)."""

    at: Floats
    rate: Floats
    loose: Floats

    @property
    def speed(self) -> Floats:
        """(N,) bound on the speed."""
        return np.asarray(np.hypot(*self.rate.T) + self.loose)

    @property
    def still(self) -> Moving:
        """The same as seen from what carries it."""
        return Moving(self.at, np.zeros_like(self.rate), np.zeros_like(self.loose))


def carried_point(
    states: Bounded, body: int, place: tuple[float, float] | Floats, half: Floats
) -> Moving:
    """A place (mm) on a body, in the plane."""
    at = transform(np.array([place], dtype=np.float64), states.poses[:, body])[:, 0]
    far = np.hypot(*(at - states.poses[:, body, :2]).T)
    return Moving(at, *_carried(states, body, at, half * states.speed_most[:, body, 2] * far))


def seen_past(point: Moving, rate: Floats, loose: Floats) -> Moving:
    """A point as seen from what has a velocity of its own there."""
    return replace(point, rate=point.rate - rate, loose=point.loose + loose)


def seen_from_body(point: Moving, body: int, states: Bounded, half: Floats) -> Moving:
    """A point as seen from a body, turning with it."""
    origin_speed = np.hypot(*states.speed_most[:, body, :2].T)
    drift = half * (point.speed + origin_speed)
    return seen_past(point, *_carried(states, body, point.at, drift))


def _carried(states: Bounded, body: int, points: Floats, drift: Floats) -> tuple[Floats, Floats]:
    """Velocity (N, 2) that a body gives to points (N, 2), and the most by which it can change
    while their arms from the body's origin change by no more than ``drift`` (N,) mm."""
    rate, most = states.first[:, body], states.speed_most[:, body]
    more = np.maximum(most - np.abs(rate), 0.0)
    x, y = (points - states.poses[:, body, :2]).T
    velocity = rate[:, :2] + rate[:, 2:] * np.stack([-y, x], axis=1)
    loose = np.hypot(more[:, 0], more[:, 1]) + np.hypot(x, y) * more[:, 2] + drift * most[:, 2]
    return velocity, loose
