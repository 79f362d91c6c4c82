"""Measures of which only values are known: extremes are closed in on between the samples."""

from __future__ import annotations

from collections.abc import Mapping
from weakref import WeakKeyDictionary

import numpy as np

from anakinema.document import model
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Looks, Unanswered
from anakinema.measures.located import Located
from anakinema.measures.subject import Subject
from anakinema.motion.motion import Motion, States

BESIDE = 1e-9
"""Progress from the join of two stages at which the one that begins there is looked at."""
SIDES: Mapping[model.Reduce, tuple[float, ...]] = {"greatest": (1.0,), "least": (-1.0,)}
"""Which extremes a reduction needs; both, where nothing is said."""
EVEN = 1e-9
"""Share of the greatest value by which looks may differ and be the same."""
MOST_PEAKS = 24
"""Peaks that are closed in on, the greatest first."""
POINTS = 15
"""Looks inside a bracket in each round; the bracket is an eighth after it."""
ROUNDS = 5
"""After them a bracket is under a thirty-thousandth of a step, and what the value can still miss
the square of that."""


_seen: WeakKeyDictionary[Motion, dict[int, States]] = WeakKeyDictionary()


def _between(motion: Motion, stage: int, points: Floats) -> States:
    """States at all looks of a stage: the same for every measure that is asked of a motion."""
    known = _seen.setdefault(motion, {})
    if stage not in known:
        known[stage] = motion.at(points)
    return known[stage]


class Bracketed(Located):
    """A measure that depends on time, or has no rates of its own that could be rooted."""

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """One answer made of it; none where it is not defined everywhere."""
        if np.isnan(self.over(subject.motion, subject.motion.samples)).any():
            return Unanswered("singular")
        return super().answer(reduce, subject, above)

    def looks(self, motion: Motion, reduce: model.Reduce) -> Looks:
        """Samples, and in every stage the extremes between them and their middles."""
        progress, values = motion.progress, self.over(motion, motion.samples)
        if not motion.segments or len(progress) < 2:
            return Looks(progress, values, np.empty(0))
        at, found, turns = [progress], [values], []
        for stage in range(int(np.ceil(motion.last))):
            points = self._within(motion, stage)
            here = self.over(motion, _between(motion, stage, points))
            at.append(points)
            found.append(here)
            for sign in SIDES.get(reduce, (1.0, -1.0)):
                where, value = self._peaks(motion, points, sign * here, sign)
                at.append(where)
                found.append(sign * value)
                turns.append(where)
        return Looks(np.concatenate(at), np.concatenate(found), np.sort(np.concatenate(turns)))

    def _within(self, motion: Motion, stage: int) -> Floats:
        """Samples of a stage and their middles; it begins beside the end of the one before it."""
        begin, end = float(stage), min(stage + 1.0, motion.last)
        inside = motion.progress[(motion.progress > begin) & (motion.progress < end)]
        first = begin + BESIDE if stage else begin
        points = np.concatenate([[first], inside, [end]])
        return np.sort(np.concatenate([points, (points[1:] + points[:-1]) / 2]))

    def _peaks(
        self, motion: Motion, progress: Floats, values: Floats, sign: float
    ) -> tuple[Floats, Floats]:
        """Greatest values beside looks that may be next to the greatest of all."""
        before, after = np.append(-np.inf, values[:-1]), np.append(values[1:], -np.inf)
        rise = values - np.where(np.isinf(before), after, np.minimum(before, after))
        rise = np.where(np.isinf(rise), values - before, rise)
        # A peak between two looks is above both by less than they are above those beside them.
        peak = (values >= before) & (values >= after) & (values + rise >= values.max())
        # What is even but for rounding has no peaks that could matter.
        rows = np.flatnonzero(peak & (rise > EVEN * float(np.abs(values).max())))
        rows = rows[np.argsort(-values[rows], kind="stable")[:MOST_PEAKS]]
        low = progress[np.maximum(rows - 1, 0)]
        top = progress[np.minimum(rows + 1, len(progress) - 1)]
        best, where = values[rows], progress[rows]
        share = np.linspace(0.0, 1.0, POINTS + 2)[1:-1]
        for _ in range(ROUNDS if len(rows) else 0):
            looks = low[:, None] + (top - low)[:, None] * share
            seen = sign * self.over(motion, motion.at(looks.ravel())).reshape(looks.shape)
            seen = np.where(np.isnan(seen), -np.inf, seen)
            k = np.argmax(seen, axis=1)
            mine = np.arange(len(rows))
            better = seen[mine, k] > best
            best = np.where(better, seen[mine, k], best)
            where = np.where(better, looks[mine, k], where)
            reach = (top - low) / (POINTS + 1)
            low, top = np.maximum(low, where - reach), np.minimum(top, where + reach)
        return where, best
