"""Inverses of batches: the same as one by one, whatever is sparse, weak, singular or repeated."""

from __future__ import annotations

import numpy as np
import pytest

from anakinema.mechanism.solve import MANY, apply, null_space, pseudo_inverses, sparse_basis
from anakinema.mechanism.system import System
from anakinema.motion.sweep import sweep
from tests import mechanisms as build


@pytest.mark.parametrize("count", [3, MANY + 20])
@pytest.mark.parametrize("size", [1, 4, 9])
def test_sparse_batches_are_inverted_exactly(count: int, size: int) -> None:
    random = np.random.default_rng(size)
    pattern = (random.random((size, size)) < 0.35) | np.eye(size, dtype=bool)[
        random.permutation(size)
    ]
    matrices = random.uniform(-2, 2, (count, size, size)) * pattern
    matrices += 0.5 * pattern * np.sign(matrices)
    found = pseudo_inverses(matrices)
    sound = np.linalg.cond(matrices) < 1e8
    assert sound.any()
    one = np.eye(size)
    assert np.abs((found @ matrices - one)[sound]).max() < 1e-6


def test_equations_of_a_real_motion_are_inverted_to_rounding() -> None:
    motion = sweep(build.mechanism(build.driven(build.ten_bar(), ("pin_a1", 0.0, 1.2), count=90)))
    system = System(motion.mechanism, (0,))
    _, jacobian = system.residual_jacobian(motion.poses, np.zeros((91, system.rows)))
    assert np.abs(pseudo_inverses(jacobian) - np.linalg.inv(jacobian)).max() < 1e-12


def test_singular_matrices_in_a_batch_are_told_from_sound_ones() -> None:
    random = np.random.default_rng(2)
    matrices = random.uniform(-1, 1, (MANY + 10, 5, 5)) + 3 * np.eye(5)
    matrices[7, 2] = 0.0
    matrices[30, :, 1] = matrices[30, :, 3]
    found = pseudo_inverses(matrices)
    sound = np.isfinite(found).all(axis=(1, 2)) & (np.abs(found).max(axis=(1, 2)) < 1e6)
    assert np.flatnonzero(~sound).tolist() == [7, 30]
    assert np.abs(found[sound] @ matrices[sound] - np.eye(5)).max() < 1e-10


def test_a_pivot_that_vanishes_for_some_matrices_costs_no_accuracy() -> None:
    matrices = np.zeros((MANY + 30, 2, 2))
    angle = np.linspace(0.0, 2 * np.pi, len(matrices))
    matrices[:, 0, 0], matrices[:, 0, 1] = np.cos(angle), -np.sin(angle)
    matrices[:, 1, 0], matrices[:, 1, 1] = np.sin(angle), np.cos(angle)
    assert np.abs(pseudo_inverses(matrices) - np.swapaxes(matrices, 1, 2)).max() < 1e-12


def test_repeated_rows_are_solved_together() -> None:
    random = np.random.default_rng(4)
    base = random.uniform(-1, 1, (6, 4, 4)) + 2 * np.eye(4)
    tall = np.concatenate([base, base[:, :2] + base[:, 2:]], axis=1)
    wanted = random.uniform(-1, 1, (6, 4))
    right = apply(tall, wanted)
    assert apply(pseudo_inverses(tall), right) == pytest.approx(wanted, abs=1e-12)


def test_null_space_is_what_maps_to_zero() -> None:
    matrix = np.array([[1.0, 1.0, 0.0], [2.0, 2.0, 0.0]])
    basis = null_space(matrix)
    assert basis.shape == (3, 2)
    assert np.abs(matrix @ basis).max() < 1e-12
    assert null_space(np.zeros((0, 3))).shape == (3, 3)
    assert null_space(np.eye(3)).shape == (3, 0)


@pytest.mark.parametrize("repeats", [False, True])
def test_null_space_of_many_rows_whether_or_not_they_repeat(repeats: bool) -> None:
    """A long chain of equations in pairs of neighbours; repeated ones are told by their singular
    values."""
    random = np.random.default_rng(8)
    matrix = np.eye(320, 330) + 0.3 * np.eye(320, 330, 1) * random.uniform(-1, 1, 330)
    if repeats:
        matrix[40] = matrix[41] - 2 * matrix[42]
    basis = null_space(matrix)
    rank = np.linalg.matrix_rank(matrix)
    assert basis.shape == (330, 330 - rank)
    assert np.abs(matrix @ basis).max() < 1e-12
    assert basis.T @ basis == pytest.approx(np.eye(330 - rank), abs=1e-12)


def test_a_sparse_basis_spans_the_same_in_single_unknowns() -> None:
    random = np.random.default_rng(5)
    spread = np.linalg.qr(random.standard_normal((9, 3)))[0]
    told = sparse_basis(spread)
    # Column echelon: each direction alone moves the unknown that it is told by.
    own = [
        int(np.flatnonzero((told == 1.0)[:, k] & (np.abs(told).sum(axis=1) < 1 + 1e-9))[0])
        for k in range(3)
    ]
    assert told[own] == pytest.approx(np.eye(3), abs=1e-12)
    assert np.linalg.matrix_rank(np.hstack([spread, told]), tol=1e-9) == 3
