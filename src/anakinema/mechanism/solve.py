"""Linear algebra for batches of constraint equations that may repeat one another."""

from __future__ import annotations

import contextlib

import numpy as np

from anakinema.geometry.contour import Floats

RANK_TOLERANCE = 1e-8
"""Singular values below this share of the largest count as zero."""


def pseudo_inverses(jacobians: Floats) -> Floats:
    """(N, n, R) left inverses of matrices (N, R, n) of full column rank.

    All consistent rows are used (least squares), so no choice of rows can invent a dead point.
    Exactly singular matrices give NaN.
    """
    rows, unknowns = jacobians.shape[-2:]

    def invert(matrices: Floats) -> Floats:
        if rows == unknowns:
            return np.asarray(np.linalg.inv(matrices))
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
                out[k] = invert(jacobians[k])
        return out


def apply(matrices: Floats, vectors: Floats) -> Floats:
    """(..., i) products of matrices (..., i, j) and vectors (..., j)."""
    return np.asarray((matrices @ vectors[..., None])[..., 0])


def null_space(jacobian: Floats) -> Floats:
    """(n, k) orthonormal directions that a matrix (R, n) maps to zero."""
    unknowns = jacobian.shape[1]
    if jacobian.shape[0] == 0:
        return np.eye(unknowns)
    _, singular, vectors = np.linalg.svd(jacobian, full_matrices=True)
    cut = RANK_TOLERANCE * max(1.0, float(singular[0]) if len(singular) else 1.0)
    rank = int(np.count_nonzero(singular > cut))
    return np.asarray(vectors[rank:].T)
