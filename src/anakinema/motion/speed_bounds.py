"""Bounds on the rates of all bodies around poses that are solved.

Proof in docs/methods.md, "Certified speeds".
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.blocks import Order
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.solve import apply
from anakinema.mechanism.system import System
from anakinema.motion.dense import Solved, batch_size, inverses
from anakinema.wanted import still_wanted

LARGE = 90
"""Unknowns from which on speeds are bounded block by block: for fewer the whole inverse, whose
bounds are closer, costs little more."""
TRIED = 6
"""What costs more is tried for so many first: where it bounds none, it is left at that."""


def speed_bounds(system: System, at: Solved, reach: Floats) -> Floats:
    """(N, B, 3) bounds on the rates over progress ± ``reach`` (N,), NaN where none is found.

    With P the inverse equations at the sample, v its rate and c(V) the most that J·v can change
    while speeds stay within V: any V with |v| + |P| c(V) <= V bounds the rates over the whole
    stretch. Proof in docs/methods.md, "Certified speeds".
    """
    open_ = np.asarray(np.isfinite(at.first).all(axis=(1, 2)))
    blocks = system.block_inverse(at.poses)
    most = batch_size(system)
    if blocks is None and len(reach) > most:
        # Whole matrices are not made for more poses at once.
        parts = [np.arange(k, min(k + most, len(reach))) for k in range(0, len(reach), most)]
        return np.concatenate([speed_bounds(system, at.taken(p), reach[p]) for p in parts])
    if blocks is None:
        magnitude = np.abs(inverses(system, at.poses) if at.inverses is None else at.inverses)

        def settled(rows: Indices, c: Floats) -> Floats:
            return apply(magnitude if len(rows) == len(magnitude) else magnitude[rows], c)

        return _bounded(system, at, reach, open_, settled)
    bound, left = np.full_like(at.first, np.nan), np.arange(len(reach))
    tried, rest = left[:0], left
    if system.unknowns >= LARGE:

        def by_blocks(rows: Indices, c: Floats) -> Floats:
            return blocks.taken(rows).most_changes(c)

        bound = _bounded(system, at, reach, open_, by_blocks)
        # Along a long chain these may run away where those of the whole inverse do not.
        left = np.flatnonzero(open_ & np.isnan(bound).any(axis=(1, 2)))
        tried, rest = tried_first(left)
    room = np.zeros((min(most, max(len(tried), len(rest))), system.unknowns, system.unknowns))
    for some in (tried, *(rest[k : k + most] for k in range(0, len(rest), most))):
        if not len(some):
            continue
        still_wanted()
        whole = blocks.taken(some).whole(room)
        bound[some] = _by_whole_inverse(system, blocks.order, whole, at.taken(some), reach[some])
        if some is tried and np.isnan(bound[some]).any(axis=(1, 2)).all():
            break
    return bound


def tried_first(rows: Indices) -> tuple[Indices, Indices]:
    """A few of some rows, spread over all of them, and the others."""
    few = np.zeros(len(rows), dtype=bool)
    few[:: -(-len(rows) // TRIED) or 1] = True
    return rows[few], rows[~few]


def _by_whole_inverse(
    system: System, order: Order, whole: Floats, at: Solved, reach: Floats
) -> Floats:
    """(N, B, 3) bounds on the rates by the whole inverse (N, n, R) that blocks make, whose signs
    are lost."""
    np.abs(whole, out=whole)

    def change(rows: Indices, c: Floats) -> Floats:
        return order.applied(whole if len(rows) == len(whole) else whole[rows], c)

    open_ = np.asarray(np.isfinite(at.first).all(axis=(1, 2)))
    return _bounded(system, at, reach, open_, change)


def _bounded(
    system: System,
    at: Solved,
    reach: Floats,
    open_: npt.NDArray[np.bool_],
    most_changes: Callable[[Indices, Floats], Floats],
) -> Floats:
    """(N, B, 3) bounds on the rates, NaN where none is found or not ``open_`` (N,).

    ``most_changes`` gives how much a solution can change (M, n) at some rows (M,), where equations
    change by up to (M, R).
    """
    scale = np.array([1.0, 1.0, system.mechanism.size])
    speed, open_ = np.abs(at.first), open_.copy()
    most = 1.02 * speed + 1e-9
    bound = np.full_like(speed, np.nan)
    for _ in range(8):
        rows = np.flatnonzero(open_)
        if not len(rows):
            break
        change = system.change_bound(at.poses[rows], most[rows], reach[rows])
        needed = speed[rows] + system.scaled_rates(most_changes(rows, change))
        holds = (needed * scale <= most[rows] * scale).all(axis=(1, 2))
        # What is needed bounds the rates as well, and says how little they change.
        bound[rows[holds]] = needed[holds]
        most[rows[~holds]] = 1.1 * needed[~holds] + 1e-9
        # Bounds that run away will not be met by more rounds.
        runs = (needed > 1e3 * speed[rows].max(axis=(1, 2), keepdims=True) + 1.0).any((1, 2))
        open_[rows[holds | runs]] = False
    return bound
