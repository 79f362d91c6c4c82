"""Certified clearance: the smallest gap over the whole motion, not only at its samples.

Over a stretch of progress two bodies approach by no more than the paths their points can travel,
and speeds are bounded over the whole stretch (`anakinema.motion.speed_bounds`). A
stretch whose gap exceeds that path is safe; others are split until the gap is known within the
tolerance. Where no speed bound exists (next to a singular pose) the answer is only sampled, and
says so. Proof in docs/methods.md, "Certified clearance".
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Generic

import numpy as np
import numpy.typing as npt

from anakinema.analysis.comparing import Approaches, Around, C, Comparing, Seen
from anakinema.analysis.deepest import deepest
from anakinema.analysis.gap import Gap
from anakinema.analysis.looks import Known, Looks
from anakinema.analysis.sample_bounds import circles_apart, most_approach, nearest_known
from anakinema.analysis.splitting import TOLERANCE, Cells, Goal, split_until_known
from anakinema.analysis.stretches import Span, joined_spans, spans_below
from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices
from anakinema.motion.bounded import bounded_at, bounded_samples
from anakinema.motion.motion import Motion
from anakinema.wanted import still_wanted

FIRST_LOOKS = 2
STRIDES = (48, 6, 1)
COARSE = (3,)
"""Samples are measured coarsely first; the finer ones only where the path leaves room."""
MANY = 0.3
"""Share of the samples that nothing rules out from which on rings are tried."""
EVEN = 1e-9
"""mm by which two gaps are as small."""
HEAVY = 1000
"""Pairs of edges a look at which rings are tried before a second one."""
TOGETHER = 8_000
"""Comparisons at samples that are bounded at once."""
MANY_ITEMS = 4
"""Comparisons from which on those that are never near are left out before anything else."""
RESTS = 1e-6
"""mm; a pin this deep in the end of its slot rests there."""

Met = dict[int, tuple[Indices, Seen]]
"""Comparisons that were looked at once, at what sample and what was seen."""


@dataclass(eq=False)
class _Cells(Cells):
    """Stretches of progress still of interest for one comparison each (``which``).

    ``facing`` (M, D): direction of the nearest points in the first body, NaN where they touch.
    ``most`` (M,): which of the known bounds on the rates of all bodies holds over the stretch.
    """

    which: Indices
    facing: Floats
    most: Indices


def smallest_gap(
    motion: Motion,
    items: Sequence[C],
    means: Comparing[C],
    *,
    threshold: float | None = None,
    tolerance: float = TOLERANCE,
    exact: bool = True,
    looks: Looks[C] | None = None,
) -> Gap | None:
    """The smallest gap among comparisons over the motion; None if there is nothing to compare.

    ``means`` is how they are compared.
    ``exact`` False looks at the samples only (coarse, nothing certified). ``threshold`` mm: also
    locate the stretches below it. ``looks``: what other searches have seen at the samples.
    """
    kind = Kind(items, means, looks or Looks(motion, means.directions))
    found = smallest_gaps(motion, [kind], threshold=threshold, tolerance=tolerance, exact=exact)
    return found[0] if found else None


@dataclass(frozen=True, eq=False)
class Kind(Generic[C]):
    """Comparisons of one kind: how they are made, and what other searches have seen of them."""

    items: Sequence[C]
    means: Comparing[C]
    looks: Looks[C]


def smallest_gaps(
    motion: Motion,
    kinds: Sequence[Kind[Any]],
    *,
    threshold: float | None = None,
    tolerance: float = TOLERANCE,
    exact: bool = True,
) -> list[Gap]:
    """The smallest gap of each kind that has comparisons; only that of all of them, and what is
    below the ``threshold``, is told exactly: of the others only that they are no smaller."""
    shared = _Shared()
    searches = [
        _Search(motion, kind, threshold, tolerance, exact, shared) for kind in kinds if kind.items
    ]
    for search in searches:
        search.sample()
    if exact:
        for search in searches:
            search.refine()
    return [search.result() for search in searches]


@dataclass
class _Shared:
    """The smallest distance that any of several searches has seen."""

    best: float = np.inf


class _Samples(Generic[C]):
    """What a search knows of its comparisons at the samples.

    ``lows`` (I, N) mm: the gap stays above this around each sample. ``kept`` (I, N): looks that
    are worth keeping; ``fresh`` (I,): comparisons that have been looked at just now.
    """

    def __init__(self, search: _Search[C]) -> None:
        self.search, self.motion = search, search.motion
        self.moves: Approaches | None = None
        self.met: Met = {}
        if search.exact:
            self.moves, self.met = search.approaching()
            self.circles, self.speed = self.moves.circles, self.moves.speed
            self.lows = circles_apart(self.moves, self.motion.reach)
        else:
            self.circles = np.array(search.means.circles(search.items, self.motion.poses))
            self.lows = self.circles
        self.seen = search.looks.known(search.items)
        self.kept = ~np.isnan(self.seen.distance)
        self.fresh = np.zeros(len(search.items), dtype=bool)
        for w in np.flatnonzero(self.kept.any(axis=1)).tolist():
            rows = self.kept[w]
            search.remember(w, self.motion.progress[rows], self.seen.distance[w, rows])

    @property
    def unseen(self) -> npt.NDArray[np.bool_]:
        """(I, N) where nobody looked."""
        return np.isnan(self.seen.distance)

    @property
    def open(self) -> npt.NDArray[np.bool_]:
        """(I, N) around which something that matters could be."""
        return self.lows < self.search.wanted()

    @property
    def least(self) -> float:
        """mm that no gap is below around samples that were not looked at."""
        return float(np.min(self.lows, where=self.unseen, initial=np.inf))

    def first_looks(self) -> None:
        """Look at those whose circles come nearest, if nothing is known yet."""
        search, circles = self.search, self.circles
        if len(circles) == 1 or np.isfinite(search.best):
            return
        for w, (row, found) in self.met.items():
            search.count(w, self.motion.progress[row], found.distance)
            self._note(w, row, found)
        nearest = circles.argmin(axis=1)
        order = np.argsort(circles[np.arange(len(circles)), nearest])
        first = np.array([w for w in order[:FIRST_LOOKS] if w not in self.met], int)
        self._look(first, nearest[first])
        if self.moves is not None:
            # What goes round in a ring need not be measured all the way round.
            loads = {
                w: search.means.load(search.items[w]) for w in np.flatnonzero(self.fresh).tolist()
            }
            heavy = np.array([w for w, load in loads.items() if load > HEAVY], int)
            self._tighten(self.moves, heavy, may_keep_apart=True)

    def at_every(self, stride: int) -> None:
        """Look at every so many samples where something is open, and bound what is around them."""
        turn = np.zeros(len(self.motion.progress), dtype=bool)
        turn[::stride], turn[-1] = True, True
        which, rows = np.nonzero(turn & self.open & self.unseen)
        self._look(which, rows)
        if self.moves is None or stride == STRIDES[-1]:
            return
        coarse = stride == STRIDES[0]
        meant = ~self.fresh if coarse else np.zeros(len(self.fresh), dtype=bool)
        meant[which] = True
        meant &= self.open.any(axis=1) & ~self.unseen.all(axis=1)
        self._tighten(self.moves, np.flatnonzero(meant), may_keep_apart=coarse)

    def around_best(self) -> None:
        """Look at the samples about the smallest gap seen."""
        which, progress = self.search.best_at
        middle = int(np.searchsorted(self.motion.progress, progress))
        around = np.arange(max(0, middle - 2), min(len(self.motion.progress), middle + 3))
        rows = around[self.unseen[which, around]]
        self._look(np.full(len(rows), which), rows)

    def keep(self) -> None:
        """Remember for other searches what was seen."""
        for w in np.flatnonzero(self.fresh).tolist():
            self.search.looks.keep(self.search.items[w], self.seen, w, self.kept[w])

    def _look(self, which: Indices, rows: Indices) -> None:
        motion = self.motion
        order = np.argsort(which, kind="stable")
        present, starts = np.unique(which[order], return_index=True)
        asked = list(zip(present.tolist(), np.split(rows[order], starts)[1:], strict=True))
        answers = self.search.measure(
            [(w, motion.poses[rows], motion.progress[rows]) for w, rows in asked]
        )
        for (w, rows), found in zip(asked, answers, strict=True):
            still_wanted()
            self._note(w, rows, found)

    def _note(self, w: int, rows: Indices, found: Seen) -> None:
        seen = self.seen
        seen.distance[w, rows], seen.least[w, rows] = found.distance, found.least
        seen.facing[w, rows], self.kept[w, rows] = found.facing, found.is_exact
        self.fresh[w] = True

    def _tighten(self, moves: Approaches, chosen: Indices, *, may_keep_apart: bool) -> None:
        """Better bounds of comparisons (K,) around all samples, seen or not."""
        motion, seen, lows = self.motion, self.seen, self.lows
        reach = motion.reach
        step = max(1, TOGETHER // len(reach))
        for some in (chosen[k : k + step] for k in range(0, len(chosen), step)):
            still_wanted()
            path = most_approach(self.speed[some], seen.least[some], motion.progress, reach)
            lows[some] = np.fmax(lows[some], path)
            place, rows = np.nonzero(lows[some] < self.search.wanted())
            which = some[place]
            nearest = nearest_known(~np.isnan(seen.distance[some]))[place, rows]
            strip = moves.at(which, rows).strip(seen.facing[which, nearest], reach[rows])
            lows[which, rows] = np.fmax(lows[which, rows], strip)
            if not may_keep_apart:
                continue
            narrow = np.bincount(which[strip < self.search.wanted()], minlength=len(lows))
            for w in np.flatnonzero(narrow > MANY * len(reach)).tolist():
                bound = self.search.kept_apart(w, seen.distance[w])
                lows[w] = lows[w] if bound is None else np.maximum(lows[w], bound)


class _Search(Generic[C]):
    def __init__(
        self,
        motion: Motion,
        kind: Kind[C],
        threshold: float | None,
        tolerance: float,
        exact: bool,
        shared: _Shared,
    ) -> None:
        self.means, self.items, self.looks = kind.means, kind.items, kind.looks
        self.motion, self.exact, self.shared = motion, exact, shared
        # (K, B, 3), NaN where unbounded: those around the samples, then those found since.
        self.samples = bounded_samples(motion)
        self.most = self.samples.speed_most
        self.threshold = threshold
        self.goal = Goal(tolerance, threshold)
        self.best = np.inf
        self.best_at = (0, float(motion.progress[0]))
        self.evaluations = 0
        self.seen_progress: list[Floats] = []
        self.seen_distance: list[Floats] = []
        self.seen_which: list[np.ndarray] = []
        self.cells: _Cells | None = None
        self.sampled: list[Span] = []
        self.least = np.inf
        self.apart: set[int] = set()
        """Comparisons whose outlines keep to different rings, so that no pose is an overlap."""

    def measure(self, asked: list[tuple[int, Floats, Floats]]) -> list[Seen]:
        """Distances for (comparison, poses (N, B, 3), progress (N,)); remembers the smallest."""
        # Of what is farther than all that matters it need not be known how far.
        enough = max(self.shared.best, 0.0 if self.threshold is None else self.threshold, 0.0)
        answers = self.means.seen([(self.items[w], poses) for w, poses, _ in asked], enough)
        for (which, _, progress), found in zip(asked, answers, strict=True):
            still_wanted()
            if len(progress):
                self.count(which, progress, found.distance)
        return answers

    def count(self, which: int, progress: Floats, distance: Floats) -> None:
        self.evaluations += len(progress)
        self.remember(which, progress, distance)

    def remember(self, which: int, progress: Floats, distance: Floats) -> None:
        k = int(np.argmin(distance))
        if distance[k] < self.best:
            self.best, self.best_at = float(distance[k]), (which, float(progress[k]))
            self.shared.best = min(self.shared.best, self.best)
        self.seen_which.append(np.full(len(progress), which))
        self.seen_progress.append(progress)
        self.seen_distance.append(distance)

    def wanted(self, met: float = np.inf) -> float:
        """Distances below this matter: the best so far, or ``met``, less the tolerance, and the
        threshold's stretches."""
        goal = min(self.shared.best, met) - self.goal.tolerance
        return goal if self.threshold is None else max(goal, self.threshold)

    def sample(self) -> None:
        """Measure the samples that bounding circles and motion bounds cannot rule out.

        First the pairs whose circles come nearest, once each; then coarsely, where circles leave
        room for less than the best so far; then finer wherever neither the path from there nor
        the strip across the nearest points there rules out less. What other searches have
        measured counts from the beginning.
        """
        samples = _Samples(self)
        samples.first_looks()
        for stride in STRIDES if self.exact else COARSE:
            samples.at_every(stride)
        if not self.exact:
            samples.around_best()
        self.least = min(self.least, samples.least)
        samples.keep()
        if self.exact:
            self.cells = self._cells_around(samples.seen, samples.lows)

    def approaching(self) -> tuple[Approaches, Met]:
        """How comparisons come nearer, leaving out those that stay farther apart than two others
        are once; and of those two the sample they were looked at and what was seen."""
        motion, met = self.motion, {}
        moves = self.means.approaches(self.items, self.samples, motion.reach)
        kept = np.arange(len(self.items))
        if len(kept) > MANY_ITEMS:
            lows = circles_apart(moves, motion.reach)
            nearest = moves.circles.argmin(axis=1)
            order = np.argsort(moves.circles[kept, nearest], kind="stable")
            first = order[:FIRST_LOOKS].tolist()
            looked = [(self.items[k], motion.poses[nearest[k], None]) for k in first]
            seen = dict(zip(first, self.means.seen(looked), strict=True))
            least = min(float(found.distance[0]) for found in seen.values())
            near = np.asarray((lows < self.wanted(least)).any(axis=1))
            near[first] = True
            kept = np.flatnonzero(near)
            self.least = min(self.least, float(lows[~near].min(initial=np.inf)))
            self.items = [self.items[k] for k in kept.tolist()]
            met = {w: (nearest[k, None], seen[k]) for w, k in enumerate(kept.tolist()) if k in seen}
        return moves.closer(kept), met

    def _cells_around(self, seen: Known, bounds: Floats) -> _Cells:
        """The stretches around all samples that are seen of comparisons, of which ``bounds`` (I, N)
        mm have been found already."""
        motion = self.motion
        which, rows = np.nonzero(~np.isnan(seen.distance))
        reach, facing = motion.reach[rows], seen.facing[which, rows]
        low = bounds[which, rows]
        if len(rows):
            at = Around(which, self.samples, rows, self.most, rows, reach)
            move = self.means.around(self.items, at)
            low = np.fmax(low, move.low(seen.least[which, rows], facing, reach))
        return _Cells(
            motion.progress[rows], reach, seen.distance[which, rows], low, which, facing, rows
        )

    def kept_apart(self, which: int, known: Floats) -> Floats | None:
        """(N,) mm, bounds around all samples of a pair whose outlines keep to different rings all
        the motion long; None if they do not, or not at every sample known (N,) to be apart.

        Apart at one pose they are apart at all: to get into one another they would have to cross.
        """
        motion, item = self.motion, self.items[which]
        few = np.arange(0, len(motion.progress), STRIDES[0])
        # Most outlines leave their rings somewhere, which a few samples tell.
        first = self.means.rings(item, self.samples.taken(few), motion.reach[few])
        if first is None or not first.min() > 0.0:
            return None
        bound = self.means.rings(item, self.samples, motion.reach)
        if bound is None or not (bound.min() > 0.0 and np.nanmin(known) > 0.0):
            return None
        self.apart.add(which)
        return bound

    def refine(self) -> None:
        """Split the stretches that could hide a smaller gap, until none can."""
        assert self.cells is not None
        ends = (float(self.motion.progress[0]), self.motion.last)
        least, self.sampled = split_until_known(
            self.cells, lambda: self.shared.best, self.goal, ends, self._pieces
        )
        self.least = min(self.least, least)

    def _pieces(self, cells: _Cells, rows: Indices, progress: Floats, half: Floats) -> _Cells:
        """Pieces of stretches, measured with what is known of the whole ones."""
        unknown, unbounded = np.full(len(rows), np.inf), np.full(len(rows), np.nan)
        which, facing, most = cells.which[rows], cells.facing[rows], cells.most[rows]
        return self._measured(_Cells(progress, half, unknown, unbounded, which, facing, most))

    def _find_bounds(self, cells: _Cells) -> None:
        """The parent's speed bounds hold for its pieces; only where it had none are they looked
        for."""
        unbounded = np.asarray(np.isnan(self.most).any(axis=(1, 2)))
        rows = np.flatnonzero(unbounded[cells.most])
        if len(rows):
            found = bounded_at(self.motion, cells.progress[rows], cells.half[rows]).speed_most
            cells.most[rows] = len(self.most) + np.arange(len(rows))
            self.most = np.concatenate([self.most, found])

    def _measured(self, cells: _Cells) -> _Cells:
        """Bounds of new stretches: from where their parent's nearest points faced if that
        settles them, else measured."""
        self._find_bounds(cells)
        progress, back = np.unique(cells.progress, return_inverse=True)
        states = self.motion.moving_at(progress)
        floor = max(self.shared.best, 0.0) - self.goal.tolerance
        if self.threshold is not None:
            floor = max(floor, self.threshold)
        at = Around(cells.which, states, back, self.most, cells.most, cells.half)
        move = self.means.around(self.items, at)
        cells.low = move.strip(cells.facing, cells.half)
        if self.apart:
            self._ring(cells, at, floor)
        open_ = np.flatnonzero(~((cells.low >= floor) & (cells.low > 0.0)))
        meant, least = cells.which[open_], np.full(len(cells.low), np.nan)
        chosen = [(k, open_[meant == k]) for k in np.unique(meant).tolist()]
        answers = self.measure(
            [(item, states.poses[back[rows]], cells.progress[rows]) for item, rows in chosen]
        )
        for (_, rows), found in zip(chosen, answers, strict=True):
            cells.distance[rows], cells.facing[rows] = found.distance, found.facing
            least[rows] = found.least
        low = move.taken(open_).low(least[open_], cells.facing[open_], cells.half[open_])
        ringed = np.isin(meant, list(self.apart))
        cells.low[open_] = np.where(ringed, np.fmax(cells.low[open_], low), low)
        return cells

    def _ring(self, cells: _Cells, at: Around, floor: float) -> None:
        """Bounds by rings, which cost more than strips: only where those settle nothing."""
        for item, rows in at.grouped():
            few = rows[~(cells.low[rows] >= floor)] if item in self.apart else rows[:0]
            if len(few):
                rings = self.means.rings(self.items[item], at.bounded(few), cells.half[few])
                cells.low[few] = np.fmax(cells.low[few], np.nan if rings is None else rings)

    def result(self) -> Gap:
        exact = self.exact
        motion = self.motion
        which, progress = self._first_place()
        deep = 0.0
        if self.best <= 0.0 and motion.segments:
            which, progress, deep = deepest(
                motion, self.means, self.items, self._distances, self._overlaps_seen()
            )
        item = self.items[which]
        poses = motion.poses_at(np.array([progress]))
        found = self.means.seen([(item, poses)])[0]
        most = self.best
        if most <= 0.0:
            most = -(deep or self.means.depth(item, poses[0]))
        rests = most > -RESTS and most <= 0.0 and self.means.may_rest(item)
        most = 0.0 if rests else most
        first, second = self.means.points(item, found, poses[0])
        least = min(self.least, self.best) if exact else -np.inf
        if most <= 0.0:
            least = most
        return Gap(
            *item.bodies,
            least,
            most,
            progress,
            first,
            second,
            self._stretches() if exact else (),
            joined_spans(self.sampled) if exact else ((float(motion.progress[0]), motion.last),),
            self.evaluations,
            rests=rests,
            rod=item.rod,
        )

    def _first_place(self) -> tuple[int, float]:
        """The comparison and progress at which the least is first seen: where a gap stands for a
        while, only rounding would say where it is least."""
        which, progress = np.concatenate(self.seen_which), np.concatenate(self.seen_progress)
        rows = np.flatnonzero(np.concatenate(self.seen_distance) <= self.best + EVEN)
        k = rows[np.lexsort((which[rows], progress[rows]))[0]]
        return int(which[k]), float(progress[k])

    def _distances(self, which: int, poses: Floats, progress: Floats) -> Floats:
        return self.measure([(which, poses, progress)])[0].distance

    def _overlaps_seen(self) -> list[tuple[int, float]]:
        """Comparisons and progress at which an overlap was seen."""
        which, progress = np.concatenate(self.seen_which), np.concatenate(self.seen_progress)
        rows = np.flatnonzero(np.concatenate(self.seen_distance) <= 0.0)
        return list(zip(which[rows].tolist(), progress[rows].tolist(), strict=True))

    def _stretches(self) -> tuple[tuple[float, float], ...]:
        """Where the gap is below the threshold, ends located by re-solving."""
        if self.threshold is None:
            return ()
        which = np.concatenate(self.seen_which)
        progress = np.concatenate(self.seen_progress)
        distance = np.concatenate(self.seen_distance)
        spans: list[Span] = []
        for k in np.unique(which):
            item, rows = self.items[int(k)], which == k

            def again(at: Floats, item: C = item) -> Floats:
                return self.means.seen([(item, self.motion.poses_at(at))])[0].distance

            spans += spans_below(progress[rows], distance[rows], self.threshold, again)
        return joined_spans(spans)
