"""Bounds on the rates of all bodies around poses that are solved.

Proof in docs/methods.md, "Certified speeds".
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.blocks import Order, Room
from anakinema.mechanism.frames import Frames, Indices
from anakinema.mechanism.solve import apply
from anakinema.mechanism.system import System
from anakinema.motion.dense import Solved, batch_size, inverses
from anakinema.wanted import still_wanted

Singles = npt.NDArray[np.float32]

LARGE = 90
"""Unknowns from which on speeds are bounded block by block: for fewer the whole inverse, whose
bounds are closer, costs little more."""
SINGLE, SMALLEST = 2.0**-24, 1e-30
"""How far numbers in single precision are rounded, for each 1, and more than what is lost of
numbers that are too small for it."""
TRIED = 6
"""What may be in vain is tried for so many first: where it bounds none, it is left at that."""


def speed_bounds(system: System, at: Solved, reach: Floats) -> Floats:
    """(N, B, 3) bounds on the rates over progress ± ``reach`` (N,), NaN where none is found.

    With P the inverse equations at the sample, v its rate and c(V) the most that J·v can change
    while speeds stay within V: any V with |v| + |P| c(V) <= V bounds the rates over the whole
    stretch. Proof in docs/methods.md, "Certified speeds".
    """
    open_ = np.asarray(np.isfinite(at.first).all(axis=(1, 2)))
    framed = system.frames(at.poses)
    blocks = system.block_inverse(at.poses, framed)
    most = batch_size(system)
    if blocks is None and len(reach) > most:
        # Whole matrices are not made for more poses at once.
        parts = [np.arange(k, min(k + most, len(reach))) for k in range(0, len(reach), most)]
        return np.concatenate([speed_bounds(system, at.taken(p), reach[p]) for p in parts])
    if blocks is None:
        magnitude = np.abs(inverses(system, at.poses) if at.inverses is None else at.inverses)

        def settled(rows: Indices, c: Floats) -> Floats:
            return apply(magnitude if len(rows) == len(magnitude) else magnitude[rows], c)

        return _bounded(system, framed, at.first, reach, open_, settled)

    def by_blocks(some: Indices) -> Floats:
        own = blocks.taken(some)
        return bounded_by(some, lambda rows, c: own.taken(rows).most_changes(c))

    room = Room(min(most, len(reach)), system.unknowns)

    def by_whole(some: Indices) -> Floats:
        blocks.taken(some).whole(room)
        magnitude = room.magnitude[: len(some)]
        return bounded_by(some, lambda rows, c: _products(blocks.order, magnitude, rows, c))

    def bounded_by(some: Indices, most_changes: Callable[[Indices, Floats], Floats]) -> Floats:
        here = framed.taken(some), at.first[some], reach[some], open_[some]
        return _bounded(system, *here, most_changes)

    bound, left = np.full_like(at.first, np.nan), np.flatnonzero(open_)
    if system.unknowns < LARGE:
        for k in range(0, len(left), most):
            bound[left[k : k + most]] = by_whole(left[k : k + most])
        return bound
    # Along a long chain those of blocks may run away where those of the whole inverse do not.
    for way, together in ((by_blocks, len(left)), (by_whole, most)):
        few, rest = tried_first(left, together)
        for some in (few, *(rest[k : k + together] for k in range(0, len(rest), together))):
            still_wanted()
            bound[some] = way(some)
            if some is few and np.isnan(bound[few]).any(axis=(1, 2)).all():
                break
        left = left[np.isnan(bound[left]).any(axis=(1, 2))]
    return bound


def tried_first(rows: Indices, most: int = TRIED) -> tuple[Indices, Indices]:
    """A few of some rows, no more than ``most``, spread over all of them, and the others."""
    few = np.zeros(len(rows), dtype=bool)
    few[:: -(-len(rows) // min(TRIED, most)) or 1] = True
    return rows[few], rows[~few]


def _products(order: Order, magnitude: Singles, rows: Indices, change: Floats) -> Floats:
    """(M, n) never less than the products of some of the magnitudes (N, n, R) of whole inverses, in
    the order of solving, with changes (M, R) of the equations."""
    some = magnitude if len(rows) == len(magnitude) else magnitude[rows]
    with np.errstate(over="ignore", under="ignore", invalid="ignore"):
        found = order.applied(some, change.astype(np.float32)).astype(np.float64)
    # Sums of so many terms that are none below zero are off by less.
    return np.asarray(found * (1.0 + 2 * SINGLE * change.shape[1]) + SMALLEST)


def _bounded(
    system: System,
    framed: Frames,
    first: Floats,
    reach: Floats,
    open_: npt.NDArray[np.bool_],
    most_changes: Callable[[Indices, Floats], Floats],
) -> Floats:
    """(N, B, 3) bounds on the rates, NaN where none is found or not ``open_`` (N,).

    ``most_changes`` gives how much a solution can change (M, n) at some rows (M,), where equations
    change by up to (M, R).
    """
    scale = np.array([1.0, 1.0, system.mechanism.size])
    speed, open_ = np.abs(first), open_.copy()
    most = 1.02 * speed + 1e-9
    bound = np.full_like(speed, np.nan)
    for _ in range(8):
        rows = np.flatnonzero(open_)
        if not len(rows):
            break
        here = framed if len(rows) == len(reach) else framed.taken(rows)
        change = system.change_bound(here, most[rows], reach[rows])
        needed = speed[rows] + system.scaled_rates(most_changes(rows, change))
        holds = (needed * scale <= most[rows] * scale).all(axis=(1, 2))
        # What is needed bounds the rates as well, and says how little they change.
        bound[rows[holds]] = needed[holds]
        most[rows[~holds]] = 1.1 * needed[~holds] + 1e-9
        # Bounds that run away will not be met by more rounds.
        runs = (needed > 1e3 * speed[rows].max(axis=(1, 2), keepdims=True) + 1.0).any((1, 2))
        open_[rows[holds | runs]] = False
    return bound
