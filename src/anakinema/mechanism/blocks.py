"""Square equations in blocks that can be solved one after the other.

Loops of a large mechanism hang on one another in one direction: a crank moves a dyad, that the
next one. A matching of rows with unknowns, and the strongly connected groups of what it leaves,
put the equations in block triangular form (A. L. Dulmage and N. S. Mendelsohn, Canadian Journal
of Mathematics 10, 1958, from memory). What is worked out block by block costs in proportion to
the number of bodies, their whole inverse with its square.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass
from itertools import pairwise
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices

Reals = TypeVar("Reals", npt.NDArray[np.float64], npt.NDArray[np.float32])
STRIPS = 6
"""Parts in which a whole inverse is applied, the zeros behind each left out."""


@dataclass(frozen=True, slots=True, eq=False)
class Block:
    """Rows that settle as many unknowns ``own``, from unknowns ``before`` that are settled."""

    rows: Indices
    own: Indices
    before: Indices


def blocks_of(pattern: npt.NDArray[np.bool_]) -> tuple[Block, ...] | None:
    """Blocks in an order of solving, for where a square matrix (n, n) can be other than zero.

    None if it is singular whatever stands there.
    """
    import networkx as nx  # slow to import, so not at start

    count = len(pattern)
    rows, columns = (side.tolist() for side in np.nonzero(pattern))
    both: nx.Graph[int] = nx.Graph()
    both.add_nodes_from(range(2 * count))
    both.add_edges_from((row, count + column) for row, column in zip(rows, columns, strict=True))
    found = nx.bipartite.maximum_matching(both, top_nodes=range(count))
    if any(row not in found for row in range(count)):
        return None
    settles = {row: found[row] - count for row in range(count)}
    by_unknown = {unknown: row for row, unknown in settles.items()}
    needs: nx.DiGraph[int] = nx.DiGraph()
    needs.add_nodes_from(range(count))
    needs.add_edges_from(
        (row, by_unknown[column])
        for row, column in zip(rows, columns, strict=True)
        if by_unknown[column] != row
    )
    out = []
    # What a group needs comes before it.
    for group in nx.strongly_connected_components(needs):
        members = np.array(sorted(group), dtype=np.int64)
        own = np.array(sorted(settles[row] for row in group), dtype=np.int64)
        asked = np.flatnonzero(pattern[members].any(axis=0))
        out.append(Block(members, own, np.setdiff1d(asked, own)))
    return tuple(out)


_kept: dict[bytes, Filling | None] = {}
"""The newest fillings, by what they were made from: an edit of a number changes none."""
MOST_KEPT = 64


def filling_of(
    size: int, row: Indices, column: Indices, entry: Indices, factor: Floats
) -> Filling | None:
    """How the blocks of a square matrix (size, size) are made of entries, as `Filling` has it; None
    if it does not come apart."""
    key = b"".join(each.tobytes() for each in (row, column, entry, factor))
    # Another thread may throw them away in between.
    with suppress(KeyError):
        return _kept[key]
    pattern = np.zeros((size, size), dtype=bool)
    pattern[row, column] = True
    blocks, found = blocks_of(pattern), None
    if blocks is not None and len(blocks) > 1:
        found = Filling(Order(blocks), row, column, entry, factor)
    if len(_kept) >= MOST_KEPT:
        _kept.clear()
    _kept[key] = found
    return found


@dataclass(frozen=True, slots=True, eq=False)
class _Layer:
    """Which entries go where in the matrices of one block, no place twice."""

    entries: Indices
    factors: Floats
    places: Indices


class Order:
    """Blocks in an order of solving, and where they stand in it.

    unknowns, rows (n,): all of them in that order. starts (K + 1,): where the unknowns of blocks
    begin. before: of each block, where the unknowns it needs are.
    """

    def __init__(self, blocks: tuple[Block, ...]) -> None:
        self.blocks = blocks
        self.unknowns = np.concatenate([block.own for block in blocks])
        self.rows = np.concatenate([block.rows for block in blocks])
        place = np.empty(len(self.unknowns), dtype=np.int64)
        place[self.unknowns] = np.arange(len(self.unknowns))
        self.starts: list[int] = np.cumsum([0, *(len(block.own) for block in blocks)]).tolist()
        self.before = [_run(place[block.before]) for block in blocks]

    def solved(self, found: Reals) -> Reals:
        """(..., n) by unknowns of what stands in the order of solving (..., n)."""
        out = np.empty_like(found)
        out[..., self.unknowns] = found
        return out

    def applied(self, inverses: Reals, right: Reals) -> Reals:
        """(N, n) products of whole inverses (N, n, R) in the order of solving with (N, R).

        What stands behind a block's rows is zero, so strips are taken that end at blocks.
        """
        right = right[:, self.rows]
        step: int = max(1, len(self.blocks) // STRIPS)
        edges = [*self.starts[:-1:step], self.starts[-1]]
        parts = [
            (inverses[:, low:high, :high] @ right[:, :high, None])[..., 0]
            for low, high in pairwise(edges)
        ]
        return self.solved(np.concatenate(parts, axis=1))


def _run(places: Indices) -> Indices | slice:
    """The same as a slice where they stand side by side, which takes no copy."""
    if len(places) and (np.diff(places) == 1).all():
        return slice(int(places[0]), int(places[-1]) + 1)
    return places


class Filling:
    """How the matrices of blocks are made of sums of ``entries`` times ``factors``, each of which
    stands in a row and a column of the whole matrix (all (E,))."""

    def __init__(
        self, order: Order, row: Indices, column: Indices, entry: Indices, factor: Floats
    ) -> None:
        self.order = order
        block_of_row = np.empty(len(order.rows), dtype=np.int64)
        for k, block in enumerate(order.blocks):
            block_of_row[block.rows] = k
        by_block = np.argsort(block_of_row[row], kind="stable")
        ends = np.searchsorted(block_of_row[row][by_block], np.arange(len(order.blocks) + 1))
        self._layers: list[list[_Layer]] = []
        for k, block in enumerate(order.blocks):
            mine = by_block[ends[k] : ends[k + 1]]
            columns = np.concatenate([block.own, block.before])
            sorter = np.argsort(columns)
            at = sorter[np.searchsorted(columns, column[mine], sorter=sorter)]
            flat = np.searchsorted(block.rows, row[mine]) * len(columns) + at
            self._layers.append(_layers(entry[mine], factor[mine], flat))

    def filled(self, entries: Floats) -> list[Floats]:
        """(N, b, b + m) of each block, own unknowns first, for entries (N, E)."""
        out = []
        for block, layers in zip(self.order.blocks, self._layers, strict=True):
            width = len(block.own) + len(block.before)
            flat = np.zeros((len(entries), len(block.rows) * width))
            for layer in layers:
                flat[:, layer.places] += layer.factors * entries[:, layer.entries]
            out.append(flat.reshape(len(entries), len(block.rows), width))
        return out


def _layers(entries: Indices, factors: Floats, places: Indices) -> list[_Layer]:
    """Layers that together put all entries in their places."""
    out = []
    while len(places):
        now = np.unique(places, return_index=True)[1]
        out.append(_Layer(entries[now], factors[now], places[now]))
        rest = np.setdiff1d(np.arange(len(places)), now)
        entries, factors, places = entries[rest], factors[rest], places[rest]
    return out


class Room:
    """Where whole inverses (N, n, R) of one order after the other are put, and their magnitudes in
    single precision: new memory costs as much as the numbers."""

    def __init__(self, count: int, size: int) -> None:
        self.whole = np.zeros((count, size, size))
        self.magnitude = np.zeros((count, size, size), dtype=np.float32)


class BlockInverse:
    """Square equations at N poses, solved block by block.

    ``own``, ``before``: of each block the matrices (N, b, b) by its own unknowns and (N, b, m) by
    those before; ``invert`` is for the small ones, None if ``own`` are inverses already.
    """

    def __init__(
        self,
        order: Order,
        own: Iterable[Floats],
        before: Iterable[Floats],
        invert: Callable[[Floats], Floats] | None,
    ) -> None:
        self.order = order
        self._own = [matrices if invert is None else invert(matrices) for matrices in own]
        self._before = list(before)

    @property
    def count(self) -> int:
        """At how many poses."""
        return len(self._own[0])

    def taken(self, rows: Indices) -> BlockInverse:
        """Those at some of the poses."""
        if len(rows) == self.count:
            return self
        own, before = ([each[rows] for each in side] for side in (self._own, self._before))
        return BlockInverse(self.order, own, before, None)

    def most_changes(self, change: Floats) -> Floats:
        """(N, n) how much a solution can change at most where rows change by up to ``change``
        (N, R): never less than with the whole inverse, and often no more."""
        order = self.order
        found = np.empty((len(change), len(order.unknowns)))
        for k, block in enumerate(order.blocks):
            right = change[:, block.rows, None]
            if len(block.before):
                right = right + np.abs(self._before[k]) @ found[:, order.before[k], None]
            own = slice(order.starts[k], order.starts[k + 1])
            found[:, own] = (np.abs(self._own[k]) @ right)[..., 0]
        return order.solved(found)

    def whole(self, room: Room | None = None) -> Floats:
        """(N, n, R) the whole inverse, unknowns and rows in the order of solving.

        ``room``: where to put it, and its magnitude.
        """
        order, count = self.order, self.count
        size = len(order.unknowns)
        inverse = np.zeros((count, size, size)) if room is None else room.whole[:count]
        for k, block in enumerate(order.blocks):
            first, last = order.starts[k], order.starts[k + 1]
            if len(block.before):
                through = -(self._own[k] @ self._before[k])
                earlier = inverse[:, order.before[k], :first]
                np.matmul(through, earlier, out=inverse[:, first:last, :first])
            inverse[:, first:last, first:last] = self._own[k]
            if room is not None:
                settled = inverse[:, first:last, :last]
                np.abs(settled, out=room.magnitude[:count, first:last, :last], casting="same_kind")
        return inverse


def inverse_by_blocks(matrices: Floats, order: Order, invert: Callable[[Floats], Floats]) -> Floats:
    """(N, n, n) inverses of matrices (N, n, n) that come apart into blocks."""
    found = BlockInverse(
        order,
        (matrices[:, b.rows[:, None], b.own] for b in order.blocks),
        (matrices[:, b.rows[:, None], b.before] for b in order.blocks),
        invert,
    ).whole()
    out = np.empty_like(found)
    out[:, order.unknowns[:, None], order.rows] = found
    return out
