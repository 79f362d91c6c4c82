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
from anakinema.mechanism.fields import Run
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.loops import Lay, lay
from anakinema.mechanism.passages import Passage
from anakinema.motion.motion import Motion, States
from anakinema.wanted import still_wanted


def run_gap(
    motion: Motion,
    passages: Sequence[Passage],
    *,
    threshold: float | None = None,
    tolerance: float = TOLERANCE,
    exact: bool = True,
) -> Gap | None:
    """The smallest gap between runs of one loop and what they pass; None if they pass nothing.

    From the surface of the belt, which has no thickness unless told. ``exact`` False looks at the
    samples only. ``threshold`` mm: also locate the stretches below it.
    """
    if not passages:
        return None
    return _Search(motion, passages, threshold, tolerance).found(exact)


def run_distances(motion: Motion, passages: Sequence[Passage], poses: Floats) -> Floats:
    """(N,) mm, smallest gap of runs of one loop at each of the poses (N, B, 3)."""
    laid = lay(motion.mechanism.loops[passages[0].loop], poses)
    found = [_distances(passage, laid, poses).distance - passage.half for passage in passages]
    return np.asarray(np.min(found, axis=0))


class _Search:
    def __init__(
        self, motion: Motion, passages: Sequence[Passage], threshold: float | None, tolerance: float
    ) -> None:
        self.motion, self.passages = motion, passages
        self.threshold, self.goal = threshold, Goal(tolerance, threshold)
        self.runs = motion.mechanism.loops[passages[0].loop]
        self.best, self.best_at = np.inf, (passages[0], float(motion.progress[0]))
        self.seen: list[tuple[Floats, Floats]] = []
        self.evaluations = 0

    def found(self, exact: bool) -> Gap:
        """Look at the samples and, if ``exact``, at what could hide between them."""
        motion = self.motion
        states, half = motion.samples, motion.reach
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
        passage, progress = self.best_at
        at = motion.at(np.array([progress])).poses
        near = _distances(passage, lay(self.runs, at), at)
        one, two = (
            transform(point, at[:, passage.body])[0, 0]
            for point in (near.first_point, near.second_point)
        )
        below: list[Span] = []
        if exact and self.threshold is not None:
            seen = [np.concatenate(each) for each in zip(*self.seen, strict=True)]
            below = spans_below(seen[0], seen[1], self.threshold, self.again)
        return Gap(
            passage.wheel,
            passage.body,
            self.best if self.best <= 0.0 else min(least, self.best),
            self.best,
            progress,
            (float(one[0]), float(one[1])),
            (float(two[0]), float(two[1])),
            tuple(below),
            joined_spans(sampled),
            self.evaluations,
            loop=passage.loop,
        )

    def again(self, progress: Floats) -> Floats:
        """(N,) mm, the gap at any progress (N,)."""
        return run_distances(self.motion, self.passages, self.motion.poses_at(progress))

    def look(self, states: States, half: Floats, exact: bool) -> tuple[Floats, Floats]:
        """(N,) mm each: gap at some states, and what it stays above within ``half`` (N,) of each.

        Infinite where circles show that it is no nearer than what was found elsewhere; the bound
        is NaN where speeds have none.
        """
        laid = lay(self.runs, states.poses)
        count = len(states.progress)
        distance, low = np.full(count, np.inf), np.full(count, np.inf)
        for passage in self.passages:
            still_wanted()
            path = _end_speed(passage, states, half) * half if exact else np.zeros(count)
            bound = _circle_distances(passage, laid, states.poses) - path
            wanted = self.best if self.threshold is None else max(self.best, self.threshold)
            rows = np.flatnonzero(~(bound >= wanted))
            if len(rows):
                near = _distances(passage, laid.taken(rows), states.poses[rows])
                gap = near.distance - passage.half
                off = FLATTENED if passage.before is not None else 0.0
                bound[rows] = gap - path[rows] - off
                distance[rows] = np.minimum(distance[rows], gap)
                k = int(np.argmin(gap))
                self.evaluations += len(rows)
                if gap[k] < self.best:
                    self.best = float(gap[k])
                    self.best_at = passage, float(states.progress[rows[k]])
            low = np.minimum(low, bound)
        self.seen.append((states.progress, distance))
        return distance, low

    def measured(self, cells: Cells, rows: Indices, progress: Floats, half: Floats) -> Cells:
        """Pieces of stretches, looked at anew."""
        return Cells(progress, half, *self.look(self.motion.at(progress, half), half, True))


def _distances(passage: Passage, laid: Lay, poses: Floats) -> Distances:
    """From the middle of the run, or of what lies on the wheel, in the frame of the body passed."""
    if passage.before is not None:
        return _from_wrap(passage, laid, poses)
    seen = seen_from(poses[:, passage.body], laid.ends[:, passage.run])
    return segment_distances(passage.slab.region, seen)


def _from_wrap(passage: Passage, laid: Lay, poses: Floats) -> Distances:
    """From the arc that lies on a wheel, the slab flattened."""
    r = passage.run
    ends = np.stack([laid.ends[:, r - 1, 1], laid.ends[:, r, 0]], axis=1)
    points = np.concatenate([laid.centres[:, r : r + 1], ends], axis=1)
    seen = seen_from(poses[:, passage.body], points)
    distance, first, second = arc_distances(
        fine_polygon(passage.slab.region),
        abs(float(laid.radii[r])),
        seen[:, 0],
        seen[:, 1:],
        laid.wraps[:, r],
    )
    return Distances(distance, first, second, distance <= 0.0)


def _circle_distances(passage: Passage, laid: Lay, poses: Floats) -> Floats:
    """(N,) mm, no more than the gap: from the run, or the wheel, to the circle round the slab."""
    region = passage.slab.region
    if passage.before is not None:
        centre = laid.centres[:, passage.run : passage.run + 1]
        seen = seen_from(poses[:, passage.body], centre)[:, 0] - region.centre
        rim = abs(float(laid.radii[passage.run])) + passage.half
        return np.asarray(np.hypot(*seen.T) - region.radius - rim)
    seen = seen_from(poses[:, passage.body], laid.ends[:, passage.run]) - region.centre
    along = seen[:, 1] - seen[:, 0]
    square = np.maximum(np.sum(along * along, axis=1), 1e-300)
    share = np.clip(-np.sum(seen[:, 0] * along, axis=1) / square, 0.0, 1.0)
    away = np.hypot(*(seen[:, 0] + share[:, None] * along).T)
    return np.asarray(away - region.radius - passage.half)


def _end_speed(passage: Passage, states: States, half: Floats) -> Floats:
    """(N,) mm per unit of progress: bound on how fast the run's points and the slab approach within
    ``half`` (N,) of each state; NaN where there is none.

    The better of two: seen from the body it passes, or from the slab's centre without turning.
    """
    body, region = passage.body, passage.slab.region
    ends = [carried_point(states, seat.body, seat.place, half) for seat in passage.seats]
    turning = [
        seen_from_body(end, body, states, half) if seat.body != body else end.still
        for seat, end in zip(passage.seats, ends, strict=True)
    ]
    centre = carried_point(states, body, region.centre, half)
    level = [seen_past(end, centre.rate, centre.loose) for end in ends]
    rim = states.speed_most[:, body, 2] * region.turning_radius
    one, two = (_ends_move(passage, seen, half) for seen in (turning, level))
    return np.asarray(np.fmin(one, two + rim))


def _ends_move(passage: Passage, seats: Sequence[Moving], half: Floats) -> Floats:
    """(N,) bound on the speed of the ends of a run, or of what lies on its wheel."""
    if passage.before is None:
        return _run_speed(passage.shape, seats, half)
    arrives = _run_speed(passage.before, seats[:2], half)
    return np.asarray(np.maximum(arrives, _run_speed(passage.shape, seats[1:], half)))


def _run_speed(shape: Run, ends: Sequence[Moving], half: Floats) -> Floats:
    """(N,) bound on the speed of the points of a run between wheels with such centres."""
    one, two = ends
    apart = np.hypot(*(two.rate - one.rate).T) + one.loose + two.loose
    nearest = np.maximum(np.hypot(*(two.at - one.at).T) - half * apart, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        turn = apart / np.sqrt(nearest**2 - shape.across**2)
    turn = np.where(np.isfinite(turn), turn, np.nan)
    return np.maximum(one.speed + abs(shape.first) * turn, two.speed + abs(shape.second) * turn)
