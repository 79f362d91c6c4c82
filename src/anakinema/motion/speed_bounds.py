"""Bounds on the rates of all bodies around poses that are solved.

Proof in docs/methods.md, "Certified speeds".
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.blocks import BlockInverse, Order, Room
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
    bound = np.full_like(at.first, np.nan)
    open_ = np.flatnonzero(np.isfinite(at.first).all(axis=(1, 2)))
    ways: tuple[Way, ...] = (_by_whole,)
    parts: tuple[Indices, ...] = (open_,)
    if system.unknowns >= LARGE:
        # Along a long chain bounds by blocks may run away where those of the whole inverse do not,
        # and both where there are none to be found.
        ways, parts = (_by_blocks, _by_whole), tried_first(open_)
    for some in parts:
        if len(some) and ways:
            slack = _slack(at.first, bound, reach)
            bound[some], ways = _found(system, at.taken(some), reach[some], ways, slack)
    return bound


def tried_first(rows: Indices) -> tuple[Indices, Indices]:
    """A few of some rows, spread over all of them, and the others."""
    few = np.zeros(len(rows), dtype=bool)
    few[:: -(-len(rows) // TRIED) or 1] = True
    return rows[few], rows[~few]


def _slack(first: Floats, bound: Floats, reach: Floats) -> Floats | None:
    """(B, 3) by how much bounds are above the rates for each unit of reach, at most where there are
    some; None if there are none."""
    known = np.isfinite(bound).all(axis=(1, 2)) & (reach > 0)
    if not known.any():
        return None
    above = (bound[known] - np.abs(first[known])) / reach[known, None, None]
    return np.asarray(above.max(axis=0))


Changes = Callable[[Indices, Floats], Floats]
"""How much solutions can change (M, n) at some rows (M,), where equations do by up to (M, R)."""


def _by_blocks(blocks: BlockInverse, room: Room) -> Changes:
    return lambda rows, change: blocks.taken(rows).most_changes(change)


def _by_whole(blocks: BlockInverse, room: Room) -> Changes:
    blocks.whole(room)
    magnitude = room.magnitude[: blocks.count]
    return lambda rows, change: _products(blocks.order, magnitude, rows, change)


Way = Callable[[BlockInverse, Room], Changes]


def _found(
    system: System, at: Solved, reach: Floats, ways: tuple[Way, ...], slack: Floats | None
) -> tuple[Floats, tuple[Way, ...]]:
    """Bounds (N, B, 3) at poses that all have rates, in the first way that gives some, and those
    of the ways that are no use here left out. ``slack``: see `_slack`."""
    framed = system.frames(at.poses)
    blocks = system.block_inverse(at.poses, framed)
    most = batch_size(system)
    if blocks is None and len(reach) > most:
        # Whole matrices are not made for more poses at once.
        parts = [np.arange(k, min(k + most, len(reach))) for k in range(0, len(reach), most)]
        found = [_found(system, at.taken(p), reach[p], ways, slack)[0] for p in parts]
        return np.concatenate(found), ways
    if blocks is None:
        magnitude = np.abs(inverses(system, at.poses) if at.inverses is None else at.inverses)

        def settled(rows: Indices, c: Floats) -> Floats:
            return apply(magnitude if len(rows) == len(magnitude) else magnitude[rows], c)

        return _bounded(system, framed, at.first, reach, settled, slack), ways
    bound, left, of_use = np.full_like(at.first, np.nan), np.arange(len(reach)), []
    room = Room(min(most, len(reach)), system.unknowns)
    for way in ways:
        together = most if way is _by_whole else max(len(left), 1)
        for some in (left[k : k + together] for k in range(0, len(left), together)):
            still_wanted()
            changes = way(blocks.taken(some), room)
            here = framed.taken(some), at.first[some], reach[some]
            bound[some] = _bounded(system, *here, changes, slack)
        known = np.isfinite(bound[left]).all(axis=(1, 2))
        if known.any() or not len(left):
            of_use.append(way)
        left = left[~known]
    return bound, tuple(of_use)


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
    most_changes: Changes,
    slack: Floats | None,
) -> Floats:
    """(N, B, 3) bounds on the rates, NaN where none is found.

    They are looked for from just above the rates; where it is known by how much bounds are above
    them elsewhere, from there, and from just above them where that is too far.
    """
    near = 1.02 * np.abs(first) + 1e-9
    if slack is None:
        return _rising(system, framed, first, reach, most_changes, near)
    begin = near + slack * reach[:, None, None]
    bound = _rising(system, framed, first, reach, most_changes, begin)
    lost = np.flatnonzero(np.isnan(bound).any(axis=(1, 2)))
    if len(lost):
        bound[lost] = _rising(
            system,
            framed.taken(lost),
            first[lost],
            reach[lost],
            lambda rows, change: most_changes(lost[rows], change),
            near[lost],
        )
    return bound


def _rising(
    system: System,
    framed: Frames,
    first: Floats,
    reach: Floats,
    most_changes: Changes,
    most: Floats,
) -> Floats:
    """Bounds looked for from ``most`` (N, B, 3) upwards."""
    scale = np.array([1.0, 1.0, system.mechanism.size])
    speed, open_ = np.abs(first), np.ones(len(first), dtype=bool)
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
