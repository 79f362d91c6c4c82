"""Measures of which only values are known: extremes are closed in on between the samples."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from anakinema.document import model
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Looks, Unanswered
from anakinema.measures.located import Located
from anakinema.measures.subject import Subject
from anakinema.mechanism.frames import Indices
from anakinema.motion.motion import Motion, States, joined

BESIDE = 1e-9
"""Progress from the join of two stages at which the one that begins there is looked at."""
SIDES: Mapping[model.Reduce, tuple[float, ...]] = {"greatest": (1.0,), "least": (-1.0,)}
"""Which extremes a reduction needs; both, where nothing is said."""
EVEN = 1e-9
"""Share of the greatest value by which looks may differ and be the same."""
MOST_PEAKS = 24
"""Peaks that are closed in on, the greatest first."""
FEW, MANY = 15, 63
"""Looks inside a bracket in each round, fewer where there are many brackets; after it a bracket is
two shares of one more."""
LOOKS = 240
"""In all brackets of a round, as long as each gets some."""
CLOSE = 1 / 30_000
"""Share of a step that a bracket is closed in to; what the value can still miss is the square."""


@dataclass(frozen=True, slots=True, eq=False)
class _Finer:
    """States (N,) at the samples and their middles, and the stage (N,) that each is looked at for.

    A stage begins beside the end of the one before it.
    """

    states: States
    stage: Indices


_seen: WeakKeyDictionary[Motion, _Finer] = WeakKeyDictionary()


def _finer(motion: Motion) -> _Finer:
    """The same for every measure that is asked of a motion."""
    known = _seen.get(motion)
    if known is None:
        known = _seen[motion] = _looked_at(motion)
    return known


def _looked_at(motion: Motion) -> _Finer:
    new, kept = [], np.zeros(len(motion.progress), dtype=bool)
    for stage in range(int(np.ceil(motion.last))):
        # A part of a motion may begin within a stage.
        begin, end = max(float(stage), motion.progress[0]), min(stage + 1.0, motion.last)
        if end <= begin:
            continue
        inside = (motion.progress > begin) & (motion.progress < end)
        kept |= inside
        first = begin + BESIDE if stage and begin == stage else begin
        points = np.concatenate([[first], motion.progress[inside], [end]])
        new += [[first, end], (points[1:] + points[:-1]) / 2]
    states = joined([motion.samples.taken(kept), motion.at(np.concatenate(new))])
    states = states.taken(np.argsort(states.progress, kind="stable"))
    # An end belongs to the stage that ends there.
    return _Finer(states, np.ceil(states.progress).astype(np.int64) - (states.progress > 0.0))


@dataclass(frozen=True, slots=True, eq=False)
class _Peaks:
    """Looks (P,) that may lie beside the greatest of all: where, how great, and between what."""

    where: Floats
    best: Floats
    low: Floats
    top: Floats
    sign: Floats


class Bracketed(Located):
    """A measure that depends on time, or has no rates of its own that could be rooted."""

    def states(self, motion: Motion, progress: Floats) -> States:
        """What it needs to know of a motion at progress (N,)."""
        return motion.at(progress)

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
        finer = _finer(motion)
        here = self.over(motion, finer.states)
        overall = reduce != "time_ratio"
        peaks = _joined(
            [_peaks(finer, sign * here, sign, overall) for sign in SIDES.get(reduce, (1.0, -1.0))]
        )
        where, best = self._closed_in(motion, peaks)
        return Looks(
            np.concatenate([progress, finer.states.progress, where]),
            np.concatenate([values, here, peaks.sign * best]),
            np.sort(where),
        )

    def _closed_in(self, motion: Motion, peaks: _Peaks) -> tuple[Floats, Floats]:
        """Where the peaks are, and how great."""
        where, best, low, top = peaks.where, peaks.best, peaks.low, peaks.top
        count = min(max(LOOKS // max(len(where), 1), FEW), MANY)
        rounds = math.ceil(math.log(CLOSE) / math.log(2 / (count + 1)))
        share = np.linspace(0.0, 1.0, count + 2)[1:-1]
        mine = np.arange(len(where))
        for _ in range(rounds if len(where) else 0):
            looks = low[:, None] + (top - low)[:, None] * share
            seen = self.over(motion, self.states(motion, looks.ravel())).reshape(looks.shape)
            seen = peaks.sign[:, None] * seen
            seen = np.where(np.isnan(seen), -np.inf, seen)
            k = np.argmax(seen, axis=1)
            better = seen[mine, k] > best
            best = np.where(better, seen[mine, k], best)
            where = np.where(better, looks[mine, k], where)
            reach = (top - low) / (count + 1)
            low, top = np.maximum(low, where - reach), np.minimum(top, where + reach)
        return where, best


def _peaks(finer: _Finer, values: Floats, sign: float, overall: bool) -> _Peaks:
    """Looks with greater values (N,) than their neighbours that may be next to the greatest:
    of ``overall`` the motion, or of each stage."""
    progress, stage = finer.states.progress, finer.stage
    breaks = stage[1:] != stage[:-1]
    before = np.append(-np.inf, np.where(breaks, -np.inf, values[:-1]))
    after = np.append(np.where(breaks, -np.inf, values[1:]), -np.inf)
    rise = values - np.where(np.isinf(before), after, np.minimum(before, after))
    rise = np.where(np.isinf(rise), values - before, rise)
    greatest = np.full(int(stage.max()) + 1, -np.inf)
    np.maximum.at(greatest, stage, values)
    if overall:
        greatest[:] = greatest.max()
    # A peak between two looks is above both by less than they are above those beside them.
    peak = (values >= before) & (values >= after) & (values + rise >= greatest[stage])
    # What is even but for rounding has no peaks that could matter.
    rows = np.flatnonzero(peak & (rise > EVEN * float(np.abs(values).max())))
    rows = rows[np.argsort(-values[rows], kind="stable")[:MOST_PEAKS]]
    low = np.where(np.isinf(before[rows]), rows, rows - 1)
    top = np.where(np.isinf(after[rows]), rows, rows + 1)
    return _Peaks(
        progress[rows], values[rows], progress[low], progress[top], np.full(len(rows), sign)
    )


def _joined(some: list[_Peaks]) -> _Peaks:
    return _Peaks(
        *(
            np.concatenate([getattr(peaks, name) for peaks in some])
            for name in ("where", "best", "low", "top", "sign")
        )
    )
