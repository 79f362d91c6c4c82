"""Linear algebra for batches of constraint equations that may repeat one another."""

from __future__ import annotations

import contextlib

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.blocks import Order, inverse_by_blocks
from anakinema.wanted import still_wanted

MANY = 48
"""Matrices from which on they are inverted together, entry by entry."""
RANK_TOLERANCE = 1e-8
"""Singular values below this share of the largest count as zero."""
SURELY = 1e-6
"""Share of a matrix's size that its singular values must surely be above."""
LARGE = 300
"""Rows from which on a null space is first looked for without singular values."""


def pseudo_inverses(jacobians: Floats, order: Order | None = None) -> Floats:
    """(N, n, R) left inverses of matrices (N, R, n) of full column rank.

    All consistent rows are used (least squares), so no choice of rows can invent a dead point.
    Exactly singular matrices give NaN. ``order``: of the blocks that square ones come apart into.
    """
    rows, unknowns = jacobians.shape[-2:]

    def invert(matrices: Floats) -> Floats:
        if order is not None:
            return inverse_by_blocks(matrices, order, square_inverses)
        if rows == unknowns:
            return square_inverses(matrices)
        # Orthogonal factors, not the normal equations: those would square the condition.
        q, r = np.linalg.qr(matrices)
        return np.asarray(np.linalg.solve(r, np.swapaxes(q, -1, -2)))

    try:
        return invert(jacobians)
    except np.linalg.LinAlgError:
        # One singular matrix fails the whole batch: find it.
        out = np.full((len(jacobians), unknowns, rows), np.nan)
        for k in range(len(jacobians)):
            with contextlib.suppress(np.linalg.LinAlgError):
                out[k] = invert(jacobians[k : k + 1])[0]
        return out


def square_inverses(matrices: Floats) -> Floats:
    """(..., n, n) inverses; raises `numpy.linalg.LinAlgError` if one is singular."""
    if matrices.ndim == 3 and len(matrices) >= MANY:
        return _eliminated(matrices)
    return np.asarray(np.linalg.inv(matrices))


def _eliminated(matrices: Floats) -> Floats:
    """(N, n, n) inverses by Gauss-Jordan elimination in one order for all N, zeros left out.

    Loops couple few bodies, so most entries are zero and stay so: an elimination step is a
    handful of operations on vectors (N,), where a dense inverse costs a call for every matrix.
    The order takes pivots of few entries that are large throughout the batch (H. M. Markowitz,
    Management Science 3, 1957, from memory); matrices for which a pivot is small all the same
    are inverted one by one.
    """
    count, size, _ = matrices.shape
    left = [
        {
            int(j): matrices[:, i, j].copy()
            for j in np.flatnonzero(np.any(matrices[:, i] != 0, axis=0))
        }
        for i in range(size)
    ]
    right: list[dict[int, Floats]] = [{i: np.ones(count)} for i in range(size)]
    few = slice(None, None, max(1, count // 12))
    sure = [{j: float(np.abs(entry[few]).min()) for j, entry in row.items()} for row in left]
    order: list[tuple[int, int]] = []
    free = set(range(size))
    weak = np.zeros(count, dtype=bool)
    for _ in range(size):
        best = (0.0, -1, -1)
        for candidate in free:
            scale = len(left[candidate])
            for column, strength in sure[candidate].items():
                best = max(best, (strength / scale, candidate, column))
        _, i, j = best
        if i < 0:
            return np.asarray(np.linalg.inv(matrices))
        free.discard(i)
        order.append((i, j))
        pivot = left[i].pop(j)
        del sure[i][j]
        weak |= np.abs(pivot) < 1e-3
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            factor = 1.0 / pivot
            for row in (left[i], right[i]):
                for k in row:
                    row[k] = row[k] * factor
            for r in range(size):
                share = left[r].pop(j, None) if r != i else None
                if share is None:
                    continue
                for target, source in ((left[r], left[i]), (right[r], right[i])):
                    for k, value in source.items():
                        if k in target:
                            target[k] = target[k] - share * value
                        else:
                            target[k] = -share * value
                if r in free:
                    del sure[r][j]
                    for k in left[i]:
                        sure[r][k] = float(np.abs(left[r][k][few]).min())
    inverses = np.zeros(matrices.shape)
    for i, j in order:
        for k, value in right[i].items():
            inverses[:, j, k] = value
    if weak.any():
        inverses[weak] = np.linalg.inv(matrices[weak])
    return inverses


def apply(matrices: Floats, vectors: Floats) -> Floats:
    """(..., i) products of matrices (..., i, j) and vectors (..., j)."""
    return np.asarray((matrices @ vectors[..., None])[..., 0])


def null_space(jacobian: Floats, tolerance: float = RANK_TOLERANCE) -> Floats:
    """(n, k) orthonormal directions that a matrix (R, n) maps to (nearly) zero."""
    unknowns = jacobian.shape[1]
    if jacobian.shape[0] == 0:
        return np.eye(unknowns)
    if LARGE <= jacobian.shape[0] < unknowns:
        free = _left_over(jacobian)
        if free is not None:
            return free
    _, singular, vectors = np.linalg.svd(jacobian, full_matrices=True)
    cut = tolerance * max(1.0, float(singular[0]) if len(singular) else 1.0)
    rank = int(np.count_nonzero(singular > cut))
    return np.asarray(vectors[rank:].T)


def _left_over(matrix: Floats) -> Floats | None:
    """(n, n − R) the same where the rows of a matrix (R, n) are surely independent, for a quarter
    of the work; None where that is not sure.

    The smallest singular value is no smaller than the inverse of the norm of R⁻¹ of Q R.
    """
    rows = len(matrix)
    q, r = np.linalg.qr(matrix.T, mode="complete")
    try:
        inverse = np.linalg.inv(r[:rows])
    except np.linalg.LinAlgError:
        return None
    size = max(1.0, float(np.linalg.norm(matrix)))
    sure = float(np.linalg.norm(inverse)) * size * SURELY < 1.0
    return np.ascontiguousarray(q[:, rows:]) if sure else None


def sparse_basis(basis: Floats) -> Floats:
    """Column echelon form of a null space: the same space, stated in as few bodies as possible."""
    # By rows, one a direction; what is worked out on the way keeps its room.
    work, room = np.ascontiguousarray(basis.T), np.empty(basis.shape[::-1])
    used = np.zeros(work.shape[1], dtype=bool)
    for k in range(len(work)):
        still_wanted()
        rest = np.abs(work[k:], out=room[k:])
        rest[:, used] = 0.0
        # Of places as good the first by row of the basis, then by column.
        most = rest.max(axis=0)
        place = int(np.argmax(most))
        column = k + int(np.argmax(rest[:, place]))
        work[[k, column]] = work[[column, k]]
        work[k] /= work[k, place]
        shares = work[:, place].copy()
        shares[k] = 0.0
        np.multiply.outer(shares, work[k], out=room)
        work -= room
        used[place] = True
    return np.ascontiguousarray(work.T)
