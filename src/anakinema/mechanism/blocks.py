"""Square equations in blocks that can be solved one after the other.

Loops of a large mechanism hang on one another in one direction: a crank moves a dyad, that the
next one. A matching of rows with unknowns, and the strongly connected groups of what it leaves,
put the equations in block triangular form (A. L. Dulmage and N. S. Mendelsohn, Canadian Journal
of Mathematics 10, 1958, from memory). The inverse is then found block by block: its cost grows
with the square of the number of bodies at most, and in proportion where loops stand alone.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices


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


def inverse_by_blocks(
    matrices: Floats, blocks: Sequence[Block], invert: Callable[[Floats], Floats]
) -> Floats:
    """(N, n, n) inverses of matrices (N, n, n) that come apart into blocks; ``invert`` is for the
    small matrices (N, k, k) of one block."""
    inverses = np.zeros(matrices.shape)
    # Rows of the right-hand side that each unknown depends on.
    reached: dict[int, Indices] = {}
    for block in blocks:
        here = matrices[:, block.rows]
        own = invert(here[:, :, block.own])
        depends = block.rows
        if len(block.before):
            behind = np.unique(np.concatenate([reached[int(k)] for k in block.before]))
            earlier = inverses[:, block.before[:, None], behind]
            through = own @ (here[:, :, block.before] @ earlier)
            inverses[:, block.own[:, None], behind] = -through
            depends = np.union1d(behind, block.rows)
        inverses[:, block.own[:, None], block.rows] = own
        for k in block.own.tolist():
            reached[k] = depends
    return inverses
