"""Certified clearance of belts and chains: of their runs, and of what lies on their wheels.

The points of a run move no faster than the faster of its two ends, those of what lies on a wheel no
faster than the faster of the two ends there; how fast those can move over a whole stretch follows
from the certified speeds of the bodies.
Stretches are split until the gap is known (`anakinema.analysis.splitting`). Proof in
docs/methods.md, "Clearance of runs".
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anakinema.analysis.carried import Moving, carried_point, seen_from_body, seen_past
from anakinema.analysis.gap import Gap
from anakinema.analysis.splitting import TOLERANCE, Cells, Goal, split_until_known
from anakinema.analysis.stretches import Span, joined_spans, spans_below
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import Distances, segment_distances
from anakinema.geometry.poses import seen_from, transform
from anakinema.geometry.wraps import FLATTENED, arc_distances, fine_polygon
from anakinema.mechanism.belt_pairs import BeltPair
from anakinema.mechanism.belts import Lay, lay
from anakinema.mechanism.fields import Run
from anakinema.mechanism.frames import Indices
from anakinema.motion.bounded import Bounded, bounded_at, bounded_samples
from anakinema.motion.motion import Motion
from anakinema.wanted import still_wanted


def run_gap(
    motion: Motion,
    belt_pairs: Sequence[BeltPair],
    *,
    threshold: float | None = None,
    tolerance: float = TOLERANCE,
    exact: bool = True,
) -> Gap | None:
    """The smallest gap between runs of one loop and what they pass; None if they pass nothing.

    From the surface of the belt, which has no thickness unless stated. ``exact`` False looks at the
    samples only. ``threshold`` mm: also locate the stretches below it.
    """
    if not belt_pairs:
        return None
    return _Search(motion, belt_pairs, threshold, tolerance).found(exact)


def run_distances(motion: Motion, belt_pairs: Sequence[BeltPair], poses: Floats) -> Floats:
    """(N,) mm, smallest gap of runs of one loop at each of the poses (N, B, 3)."""
    laid = lay(motion.mechanism.belts[belt_pairs[0].belt], poses)
    found = [
        _distances(belt_pair, laid, poses).distance - belt_pair.half for belt_pair in belt_pairs
    ]
    return np.asarray(np.min(found, axis=0))


class _Search:
    def __init__(
        self,
        motion: Motion,
        belt_pairs: Sequence[BeltPair],
        threshold: float | None,
        tolerance: float,
    ) -> None:
        self.motion, self.belt_pairs = motion, belt_pairs
        self.threshold, self.goal = threshold, Goal(tolerance, threshold)
        self.runs = motion.mechanism.belts[belt_pairs[0].belt]
        self.best, self.best_at = np.inf, (belt_pairs[0], float(motion.progress[0]))
        self.seen: list[tuple[Floats, Floats]] = []
        self.evaluations = 0

    def found(self, exact: bool) -> Gap:
        """Look at the samples and, if ``exact``, at what could hide between them."""
        motion = self.motion
        states, half = bounded_samples(motion), motion.reach
        distance, low = self.look(states, half, exact)
        least, sampled = -np.inf, [(float(motion.progress[0]), motion.last)]
        if exact:
            least, sampled = split_until_known(
                Cells(states.progress, half, distance, low),
                lambda: self.best,
                self.goal,
                (float(motion.progress[0]), motion.last),
                self.measured,
            )
        belt_pair, progress = self.best_at
        at = motion.at(np.array([progress])).poses
        near = _distances(belt_pair, lay(self.runs, at), at)
        one, two = (
            transform(point, at[:, belt_pair.body])[0, 0]
            for point in (near.first_point, near.second_point)
        )
        below: list[Span] = []
        if exact and self.threshold is not None:
            seen = [np.concatenate(each) for each in zip(*self.seen, strict=True)]
            below = spans_below(seen[0], seen[1], self.threshold, self.again)
        return Gap(
            belt_pair.wheel,
            belt_pair.body,
            self.best if self.best <= 0.0 else min(least, self.best),
            self.best,
            progress,
            (float(one[0]), float(one[1])),
            (float(two[0]), float(two[1])),
            tuple(below),
            joined_spans(sampled),
            self.evaluations,
            belt=belt_pair.belt,
        )

    def again(self, progress: Floats) -> Floats:
        """(N,) mm, the gap at any progress (N,)."""
        return run_distances(self.motion, self.belt_pairs, self.motion.poses_at(progress))

    def look(self, states: Bounded, half: Floats, exact: bool) -> tuple[Floats, Floats]:
        """(N,) mm each: gap at some states, and what it stays above within ``half`` (N,) of each.

        Infinite where circles show that it is no nearer than what was found elsewhere; the bound
        is NaN where speeds have none.
        """
        laid = lay(self.runs, states.poses)
        count = len(states.progress)
        distance, low = np.full(count, np.inf), np.full(count, np.inf)
        for belt_pair in self.belt_pairs:
            still_wanted()
            path = _end_speed(belt_pair, states, half) * half if exact else np.zeros(count)
            circles = _circle_distances(belt_pair, laid, states.poses)
            bound = circles - path
            wanted = self.best if self.threshold is None else max(self.best, self.threshold)
            # Without a bound only what is near now can be of interest.
            rows = np.flatnonzero(~((bound >= wanted) | (np.isnan(bound) & (circles >= wanted))))
            if len(rows):
                near = _distances(belt_pair, laid.taken(rows), states.poses[rows])
                gap = near.distance - belt_pair.half
                off = FLATTENED if belt_pair.before is not None else 0.0
                bound[rows] = gap - path[rows] - off
                distance[rows] = np.minimum(distance[rows], gap)
                k = int(np.argmin(gap))
                self.evaluations += len(rows)
                if gap[k] < self.best:
                    self.best = float(gap[k])
                    self.best_at = belt_pair, float(states.progress[rows[k]])
            low = np.minimum(low, bound)
        self.seen.append((states.progress, distance))
        return distance, low

    def measured(self, cells: Cells, rows: Indices, progress: Floats, half: Floats) -> Cells:
        """Pieces of stretches, looked at anew."""
        there = bounded_at(self.motion, progress, half)
        return Cells(progress, half, *self.look(there, half, True))


def _distances(belt_pair: BeltPair, laid: Lay, poses: Floats) -> Distances:
    """From the middle of the run, or of what lies on the wheel, in the frame of the body passed."""
    if belt_pair.before is not None:
        return _from_wrap(belt_pair, laid, poses)
    seen = seen_from(poses[:, belt_pair.body], laid.ends[:, belt_pair.run])
    return segment_distances(belt_pair.slab.region, seen)


def _from_wrap(belt_pair: BeltPair, laid: Lay, poses: Floats) -> Distances:
    """From the arc that lies on a wheel, the slab flattened."""
    r = belt_pair.run
    ends = np.stack([laid.ends[:, r - 1, 1], laid.ends[:, r, 0]], axis=1)
    points = np.concatenate([laid.centres[:, r : r + 1], ends], axis=1)
    seen = seen_from(poses[:, belt_pair.body], points)
    distance, first, second = arc_distances(
        fine_polygon(belt_pair.slab.region),
        abs(float(laid.radii[r])),
        seen[:, 0],
        seen[:, 1:],
        laid.wraps[:, r],
    )
    return Distances(distance, first, second, distance <= 0.0)


def _circle_distances(belt_pair: BeltPair, laid: Lay, poses: Floats) -> Floats:
    """(N,) mm, no more than the gap: from the run, or the wheel, to the circle round the slab."""
    region = belt_pair.slab.region
    if belt_pair.before is not None:
        centre = laid.centres[:, belt_pair.run : belt_pair.run + 1]
        seen = seen_from(poses[:, belt_pair.body], centre)[:, 0] - region.centre
        rim = abs(float(laid.radii[belt_pair.run])) + belt_pair.half
        return np.asarray(np.hypot(*seen.T) - region.radius - rim)
    seen = seen_from(poses[:, belt_pair.body], laid.ends[:, belt_pair.run]) - region.centre
    along = seen[:, 1] - seen[:, 0]
    square = np.maximum(np.sum(along * along, axis=1), 1e-300)
    share = np.clip(-np.sum(seen[:, 0] * along, axis=1) / square, 0.0, 1.0)
    away = np.hypot(*(seen[:, 0] + share[:, None] * along).T)
    return np.asarray(away - region.radius - belt_pair.half)


def _end_speed(belt_pair: BeltPair, states: Bounded, half: Floats) -> Floats:
    """(N,) mm per unit of progress: bound on how fast the run's points and the slab approach within
    ``half`` (N,) of each state; NaN where there is none.

    The better of two: seen from the body it passes, or from the slab's centre without turning.
    """
    body, region = belt_pair.body, belt_pair.slab.region
    ends = [carried_point(states, seat.body, seat.place, half) for seat in belt_pair.seats]
    turning = [
        seen_from_body(end, body, states, half) if seat.body != body else end.still
        for seat, end in zip(belt_pair.seats, ends, strict=True)
    ]
    centre = carried_point(states, body, region.centre, half)
    level = [seen_past(end, centre.rate, centre.loose) for end in ends]
    rim = states.speed_most[:, body, 2] * region.turning_radius
    one, two = (_ends_move(belt_pair, seen, half) for seen in (turning, level))
    return np.asarray(np.fmin(one, two + rim))


def _ends_move(belt_pair: BeltPair, seats: Sequence[Moving], half: Floats) -> Floats:
    """(N,) bound on the speed of the ends of a run, or of what lies on its wheel."""
    if belt_pair.before is None:
        return _run_speed(belt_pair.shape, seats, half)
    arrives = _run_speed(belt_pair.before, seats[:2], half)
    return np.asarray(np.maximum(arrives, _run_speed(belt_pair.shape, seats[1:], half)))


def _run_speed(shape: Run, ends: Sequence[Moving], half: Floats) -> Floats:
    """(N,) bound on the speed of the points of a run between wheels with such centres."""
    one, two = ends
    apart = np.hypot(*(two.rate - one.rate).T) + one.loose + two.loose
    nearest = np.maximum(np.hypot(*(two.at - one.at).T) - half * apart, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        turn = apart / np.sqrt(nearest**2 - shape.across**2)
    turn = np.where(np.isfinite(turn), turn, np.nan)
    return np.maximum(one.speed + abs(shape.first) * turn, two.speed + abs(shape.second) * turn)
