"""The path of a place: its length, and how straight or round it is."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import place_path, place_rates
from anakinema.analysis.places_in_space import place_against
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Curve, Unanswered
from anakinema.measures.distance import jets_of_length
from anakinema.measures.subject import Subject
from anakinema.measures.turning import Turning
from anakinema.measures.way import Way
from anakinema.motion.events import Jets
from anakinema.motion.motion import Motion, States

FLAT = 1e-6
"""Share of its length that a path must be wide, to be part of a circle at all."""
CLOSE = 1e-12
"""Share of the radius to which the centre of the narrowest ring is searched."""
MOST_POINTS = 721


@dataclass(frozen=True, eq=False)
class Path:
    """The length of the path that a place has travelled, mm: in its plane, or as the body sees it
    ``against`` which it is measured."""

    resolved: Resolved
    place: model.Side
    against: str | None = None

    @property
    def shown(self) -> Path:
        """A lane shows how it grows."""
        return self

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """Its whole length; the interval is how much half the steps would make of it."""
        grown, coarse = self._grown(subject.motion)
        if np.isnan(grown[-1]):
            return Unanswered("singular")
        most = float(grown[-1])
        off = abs(most - coarse)
        return Answer(most - off, most + off, float(subject.motion.last))

    def curve(self, subject: Subject, above: float | None = None) -> Curve:
        """The length up to each sample."""
        return Curve(subject.motion.progress, self._grown(subject.motion)[0])

    def _speed(self, at: States) -> Floats:
        if self.against is not None:
            speed = place_against(self.resolved, self.place, self.against, at)[1]
        else:
            speed = place_rates(self.resolved, self.place, at)[1]
        return np.asarray(np.linalg.norm(speed, axis=1))

    def _grown(self, motion: Motion) -> tuple[Floats, float]:
        """(N,) by Simpson's rule over every step, and the whole by one look at its middle only."""
        progress = motion.progress
        step = np.diff(progress)
        if not motion.segments:
            points = place_path(self.resolved, self.place, motion.poses)
            if self.against is not None:
                points = place_against(self.resolved, self.place, self.against, motion.samples)[0]
            steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
            chords = np.append(0.0, np.cumsum(steps))
            return chords, float(chords[-1])
        # A sample on the join of two stages has the speed of the one that ends there.
        inside = np.stack([progress[:-1] + 1e-9 * step, (progress[:-1] + progress[1:]) / 2])
        begun, middle = self._speed(motion.at(inside.ravel())).reshape(inside.shape)
        ends = self._speed(motion.samples)[1:]
        parts = step / 6 * (begun + 4 * middle + ends)
        return np.append(0.0, np.cumsum(parts)), float(np.sum(step * middle))


@dataclass(frozen=True, eq=False)
class FromPoint(Turning):
    """How far a place is from a point (2,) of the plane, mm."""

    resolved: Resolved
    place: model.Side
    point: Floats

    def values(self, at: States) -> Floats:
        """(N,) mm."""
        return np.asarray(
            np.hypot(*(place_path(self.resolved, self.place, at.poses) - self.point).T)
        )

    def jets(self, at: States) -> Jets:
        """Of the length of the line to the point."""
        point, speed, change = place_rates(self.resolved, self.place, at)
        return jets_of_length(point - self.point, speed, change)


@dataclass(frozen=True, eq=False)
class Fitted:
    """A place against the narrowest strip or ring that holds its path at the samples.

    Its extremes against that one are located, so what is told is never too little.
    """

    resolved: Resolved
    place: model.Side
    is_round: bool

    @property
    def shown(self) -> Fitted:
        """A lane shows how far it is off."""
        return self

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """The width of the strip or ring."""
        fitted = self._against(subject.motion)
        if fitted is None:
            return Unanswered("no circle")
        return fitted.answer("range", subject, above)

    def curve(self, subject: Subject, above: float | None = None) -> Curve | None:
        """How far it is off the middle of the strip, or from the centre of the ring."""
        fitted = self._against(subject.motion)
        if fitted is None:
            return None
        curve = fitted.curve(subject)
        if self.is_round:
            return curve
        middle = (curve.values.min() + curve.values.max()) / 2
        return Curve(curve.progress, curve.values - middle)

    def _against(self, motion: Motion) -> Turning | None:
        points = place_path(self.resolved, self.place, motion.poses)
        if not self.is_round:
            return Way(self.resolved, self.place, narrowest_across(points))
        centre = narrowest_ring(points[:: 1 + len(points) // MOST_POINTS])
        return None if centre is None else FromPoint(self.resolved, self.place, centre)


def narrowest_across(points: Floats) -> Floats:
    """(2,) the direction across the narrowest strip that holds points (N, 2).

    It lies along a side of their convex hull (rotating calipers; G. Toussaint, Solving geometric
    problems with the rotating calipers, 1983, from memory).
    """
    from shapely import MultiPoint, get_coordinates

    hull = get_coordinates(MultiPoint(points).convex_hull)
    sides = np.diff(hull, axis=0) if len(hull) > 1 else np.array([[1.0, 0.0]])
    length = np.hypot(*sides.T)
    sides, length = sides[length > 0], length[length > 0]
    if not len(sides):
        return np.array([0.0, 1.0])
    across = np.stack([-sides[:, 1], sides[:, 0]], axis=1) / length[:, None]
    width = np.ptp(hull @ across.T, axis=0)
    found: Floats = across[int(np.argmin(width))]
    return found


def narrowest_ring(points: Floats) -> Floats | None:
    """(2,) the centre of the narrowest ring near points (N, 2); None where they lie in line.

    From the circle of least squares (I. Kåsa, IEEE Trans. IM 25, 1976, from memory), by linear
    programs: for a small move of the centre every radius changes by its share along the radius.
    """
    from scipy.optimize import linprog

    middle = points.mean(axis=0)
    away = points - middle
    size = float(np.hypot(*away.T).max())
    if size == 0.0 or np.linalg.svd(away, compute_uv=False)[-1] < FLAT * size * math.sqrt(
        len(away)
    ):
        return None
    # |p|² = 2 c·p + k is linear in the centre.
    rows = np.column_stack([2 * away, np.ones(len(away))])
    centre = np.linalg.lstsq(rows, (away**2).sum(axis=1), rcond=None)[0][:2]
    reach = float(np.hypot(*(away - centre).T).max())
    width = float(np.ptp(np.hypot(*(away - centre).T)))
    trust = max(width, CLOSE * reach)
    for _ in range(60):
        radius = np.hypot(*(away - centre).T)
        unit = (away - centre) / radius[:, None]
        # Unknown: the move of the centre, the least and the greatest radius.
        one = np.ones((len(away), 1))
        bound = np.vstack([np.hstack([unit, one, 0 * one]), np.hstack([-unit, 0 * one, -one])])
        limits = [(-trust, trust), (-trust, trust), (None, None), (None, None)]
        solved = linprog(
            [0, 0, -1, 1], A_ub=bound, b_ub=np.concatenate([radius, -radius]), bounds=limits
        )
        if not solved.success:
            break
        tried = centre + solved.x[:2]
        tried_width = float(np.ptp(np.hypot(*(away - tried).T)))
        if tried_width < width:
            centre, width = tried, tried_width
        else:
            trust /= 4
        if trust < CLOSE * reach:
            break
    found: Floats = centre + middle
    return found


def path(resolved: Resolved, measure: model.PathMeasure) -> Path:
    """The measure of a resolved document."""
    return Path(resolved, measure.place, measure.against)


def straight(resolved: Resolved, measure: model.StraightMeasure) -> Fitted:
    """The measure of a resolved document."""
    return Fitted(resolved, measure.place, False)


def round_path(resolved: Resolved, measure: model.RoundMeasure) -> Fitted:
    """The measure of a resolved document."""
    return Fitted(resolved, measure.place, True)
