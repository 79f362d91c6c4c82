"""Stretches of progress split until nothing can hide in them: the one search of all that is
certified over a motion.

What is measured at the middle of a stretch, less the most that it can fall within it, bounds it
there. A stretch whose bound is high enough is settled; others are split and measured anew. Proof in
docs/methods.md, "Certified clearance".
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from anakinema.analysis.stretches import SPLIT, Span, in_pieces, pieces_of, spans_around
from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices
from anakinema.wanted import still_wanted

TOLERANCE = 0.0044
"""mm; default width of a certified gap."""
MOST_ROUNDS = 14
MOST_CELLS = 40_000
TINY = 2.5e-5
"""Progress; stretches without a bound are not split further."""
MANY_UNBOUNDED = 600
FRUITLESS = 0.9
"""Of so many stretches without a bound, once splitting has left so much of them without one again,
none is split: what has no bounds at all is no better known by more looks."""
NEAR_TOUCH = 1e-4
"""Progress; how closely is looked where touching is certain, or where a threshold is passed."""


@dataclass(eq=False)
class Cells:
    """Stretches (M,) around ``progress``, ``half`` to either side: the ``distance`` measured in
    the middle, and what it stays above all along (``low``), NaN without a bound."""

    progress: Floats
    half: Floats
    distance: Floats
    low: Floats


C = TypeVar("C", bound=Cells)


@dataclass(frozen=True, slots=True)
class Goal:
    """How well a least must be known: within ``tolerance``, and where it is below ``threshold``."""

    tolerance: float
    threshold: float | None


def split_until_known(
    cells: C,
    best: Callable[[], float],
    goal: Goal,
    within: Span,
    measured: Callable[[C, Indices, Floats, Floats], C],
) -> tuple[float, list[Span]]:
    """A bound on the least over all stretches (mm), and the spans that have none.

    ``best`` is the least measured so far. ``measured`` gives pieces around progress (P,) and half
    (P,), each of one of the rows (P,) of the cells, measured and bounded. No piece reaches out of
    ``within``.
    """
    least, sampled, before = np.inf, [], np.inf
    for turn in range(MOST_ROUNDS + 1):
        still_wanted()
        split = undecided(cells, best(), goal)
        if turn == MOST_ROUNDS or np.count_nonzero(split) * SPLIT > MOST_CELLS:
            split = np.zeros(len(split), dtype=bool)
        unbounded = np.isnan(cells.low)
        left = float(cells.half[unbounded].sum())
        if np.count_nonzero(unbounded) > MANY_UNBOUNDED and left > FRUITLESS * before:
            split &= ~unbounded
        before = left
        least = min(least, float(np.min(cells.low[~split & ~unbounded], initial=np.inf)))
        unknown = ~split & unbounded
        sampled += spans_around(cells.progress[unknown], cells.half[unknown])
        rows = np.flatnonzero(split)
        if not len(rows):
            break
        pieces = pieces_of(len(rows))
        progress, half = in_pieces(cells.progress[rows], cells.half[rows], pieces, *within)
        cells = measured(cells, np.repeat(rows, pieces), progress, half)
    return least, sampled


def undecided(cells: Cells, best: float, goal: Goal) -> npt.NDArray[np.bool_]:
    """(M,) stretches that could hide what the goal asks for."""
    low, unbounded = cells.low, np.isnan(cells.low)
    with np.errstate(invalid="ignore"):
        open_ = (low < max(best, 0.0) - goal.tolerance) & (cells.distance > 0)
        if best <= 0.0:
            # Touching is certain; what remains is to find where.
            open_ = (low <= 0.0) & (cells.distance > 0) & (cells.half > NEAR_TOUCH)
        if goal.threshold is not None:
            straddles = (low < goal.threshold) & (cells.distance > goal.threshold)
            open_ |= straddles & (cells.half > NEAR_TOUCH)
    # Without a bound a stretch is split until it is tiny.
    return np.asarray((open_ & ~unbounded) | (unbounded & (cells.half > TINY)))
