"""States with bounds on the rates around them, which certified clearance rests on.

They are worked out when they are asked for: a motion alone needs none.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices
from anakinema.motion.dense import Solved
from anakinema.motion.motion import Batch, Motion, Segment, States, Stretch, batches, joined
from anakinema.motion.speed_bounds import speed_bounds, tried_first

Legs = list[tuple[Segment, Indices, Floats]]
"""Segments, which of some progress they own, and that progress within their stage."""
PIECES = 2
"""Into so many a stretch is cut whose rates cannot be bounded whole."""
SHORT = 1e-5
"""Progress; a shorter stretch is not cut."""


@dataclass(frozen=True, slots=True, eq=False)
class Bounded(States):
    """States, and what bounds the rates of bodies within some reach of their progress."""

    speed_most: Floats
    """(N, B, 3) no rate is larger; NaN where there is no bound."""

    def taken(self, keep: npt.NDArray[np.bool_] | Indices) -> Bounded:
        """Some of the states."""
        return with_bounds(States.taken(self, keep), self.speed_most[keep])


def with_bounds(states: States, most: Floats) -> Bounded:
    """States and bounds (N, B, 3) on the rates around them."""
    return Bounded(
        states.progress,
        states.poses,
        states.first,
        states.second,
        states.values,
        states.value_first,
        states.value_second,
        states.residual,
        most,
    )


_known: WeakKeyDictionary[Motion, Bounded] = WeakKeyDictionary()


def bounded_samples(motion: Motion) -> Bounded:
    """The samples of a motion, with bounds within the reach of each."""
    known = _known.get(motion)
    if known is None:
        most = _around_samples(motion) if motion.segments else _without_equations(motion)
        known = _known[motion] = with_bounds(motion.samples, most)
    return known


def bounded_at(motion: Motion, progress: Floats, reach: Floats) -> Bounded:
    """States of bodies at any progress (N,), with bounds over progress ± ``reach`` (N,)."""
    if not motion.segments:
        return bounded_samples(motion).taken(motion.nearest(progress))
    states, most, order = [], [], []
    for batch, rows in _batched(motion.by_segment(progress)):
        at = batch.solved()
        states.append(batch.states(motion.mechanism, None, at))
        most.append(_bounds(batch, at, reach[rows]))
        order.append(rows)
    found = with_bounds(joined(states), np.concatenate(most))
    back = np.argsort(np.concatenate(order))
    return found.taken(back)


def _batched(legs: Legs) -> Iterable[tuple[Batch, Indices]]:
    """What is solved together, and which of all progress that is."""
    order = np.concatenate([members for _, members, _ in legs])
    first = 0
    for part in batches([Stretch(segment, local) for segment, _, local in legs]):
        yield part, order[first : first + len(part)]
        first += len(part)


def _bounds(batch: Batch, at: Solved, reach: Floats) -> Floats:
    return speed_bounds(batch.system, at, reach) if reach.any() else np.abs(at.first)


def _without_equations(motion: Motion) -> Floats:
    """What stands still has no rates; of what only its samples are known nothing is."""
    stands = len(motion.progress) == 1 and motion.last == 0.0
    return np.full_like(motion.poses, 0.0 if stands else np.nan)


def _around_samples(motion: Motion) -> Floats:
    samples, reach = motion.samples, motion.reach
    legs = motion.by_segment(samples.progress)
    most = np.empty_like(samples.poses)
    for batch, of in _batched(legs):
        at = Solved(
            samples.poses[of], samples.first[of], samples.second[of], np.zeros(len(of)), None
        )
        most[of] = _bounds(batch, at, reach[of])
    _bound_by_pieces(motion, legs, most)
    return most


def _bound_by_pieces(motion: Motion, legs: Legs, most: Floats) -> None:
    """Bounds ``most`` (N, B, 3) of samples that have none, where all pieces of what they answer for
    have some: over the whole of it rates are no larger than the largest of those.

    Far out in a long chain what may change in each joint adds up until no speed is large enough
    to bound itself; over a shorter way less is added.
    """
    open_ = np.isnan(most).any(axis=(1, 2)) & np.isfinite(motion.samples.first).all(axis=(1, 2))
    open_ &= motion.reach > SHORT
    segment_of = {
        int(row): segment for segment, members, _ in legs for row in members[open_[members]]
    }
    for some in tried_first(np.flatnonzero(open_)):
        if not len(some):
            break
        pieces = [_cut(motion, segment_of[row], row) for row in some.tolist()]
        middles, halves = (np.concatenate(each) for each in zip(*pieces, strict=True))
        found = bounded_at(motion, middles, halves).speed_most
        bounds = found.reshape(len(some), PIECES, *most.shape[1:]).max(axis=1)
        known = np.isfinite(bounds).all(axis=(1, 2))
        most[some[known]] = bounds[known]
        if not known.any():
            break


def _cut(motion: Motion, segment: Segment, row: int) -> tuple[Floats, Floats]:
    """Middles of the pieces around a sample, within its segment, and half the length of each."""
    local, reach = motion.progress[row] - segment.stage, motion.reach[row]
    edges = np.linspace(
        max(segment.first, local - reach), min(segment.last, local + reach), PIECES + 1
    )
    half = np.diff(edges) / 2
    return segment.stage + edges[:-1] + half, half * (1 + 1e-9)
