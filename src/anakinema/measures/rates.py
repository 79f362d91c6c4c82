"""Speed and acceleration in time: of a joint, signed; of a place, their size."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import place_rates
from anakinema.analysis.places_in_space import place_against
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.bracketed import Bracketed
from anakinema.motion.motion import Motion, States


def in_time(motion: Motion, at: States, first: Floats, second: Floats, order: int) -> Floats:
    """A rate by time of what has rates by progress: q' p', or q'' p'² + q' p'' (the chain rule).

    first, second are (N,), (N, 2) or (N, 3).
    """
    speed, change = motion.progress_rates(at.progress)
    if first.ndim == 2:
        speed, change = speed[:, None], change[:, None]
    return np.asarray(first * speed if order == 1 else second * speed**2 + first * change)


def by_steps(motion: Motion, values: Floats, order: int) -> Floats:
    """The same of a preview, which knows no rates: differences of its steps (N,) or (N, 2)."""
    time = motion.time(motion.progress)
    if len(time) < 2 or np.diff(time).min() <= 0.0:
        # What stands still has no rate; where two steps are at one time nothing can be told.
        return np.zeros_like(values) if len(time) < 2 else np.full_like(values, np.nan)
    for _ in range(order):
        values = np.gradient(values, time, axis=0)
    return values


@dataclass(frozen=True)
class JointRate(Bracketed):
    """How fast the value of a joint changes, rad or mm and seconds."""

    joint: int
    order: int

    @property
    def about(self) -> int:
        """The joint."""
        return self.joint

    def over(self, motion: Motion, at: States) -> Floats:
        """(N,) signed."""
        if not motion.segments:
            return by_steps(motion, at.values[:, self.joint], self.order)
        first, second = at.value_first[:, self.joint], at.value_second[:, self.joint]
        return in_time(motion, at, first, second, self.order)


@dataclass(frozen=True, eq=False)
class PlaceRate(Bracketed):
    """The size of a place's speed or acceleration, mm and seconds: in its plane, or as the body
    sees it ``against`` which it is measured."""

    resolved: Resolved
    place: model.Side
    order: int
    against: str | None = None

    def states(self, motion: Motion, progress: Floats) -> States:
        """Bodies are enough."""
        return motion.moving_at(progress)

    def over(self, motion: Motion, at: States) -> Floats:
        """(N,) not negative."""
        if not motion.segments:
            points = self._rates(at)[0]
            return np.asarray(np.linalg.norm(by_steps(motion, points, self.order), axis=1))
        _, first, second = self._rates(at)
        return np.asarray(np.linalg.norm(in_time(motion, at, first, second, self.order), axis=1))

    def _rates(self, at: States) -> tuple[Floats, Floats, Floats]:
        if self.against is not None:
            return place_against(self.resolved, self.place, self.against, at)
        return place_rates(self.resolved, self.place, at)


def joint_rate(resolved: Resolved, measure: model.JointRateMeasure) -> JointRate:
    """The measure of a resolved document."""
    joint = [each.id for each in resolved.document.joints].index(measure.joint)
    return JointRate(joint, measure.order)


def place_rate(resolved: Resolved, measure: model.PlaceRateMeasure) -> PlaceRate:
    """The measure of a resolved document."""
    return PlaceRate(resolved, measure.place, measure.order, measure.against)
