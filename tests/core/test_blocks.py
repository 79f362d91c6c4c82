"""Equations taken apart into blocks, against whole matrices."""

from __future__ import annotations

import numpy as np
import pytest
from bench import growth
from hypothesis import given
from hypothesis import strategies as st

from anakinema.mechanism.blocks import BlockInverse, Order, blocks_of, inverse_by_blocks
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.solve import square_inverses
from anakinema.mechanism.system import Hold, System
from anakinema.motion.bounded import bounded_samples
from anakinema.motion.dense import Solved
from anakinema.motion.speed_bounds import speed_bounds
from anakinema.motion.sweep import sweep
from tests import mechanisms as build


@st.composite
def scattered(draw: st.DrawFn) -> np.ndarray:
    """Matrices (N, n, n) of few entries, rows and columns in any order, that have inverses."""
    size, seed = draw(st.integers(1, 14)), draw(st.integers(0, 2**32 - 1))
    random = np.random.default_rng(seed)
    lower = np.tril(random.uniform(size=(size, size)) < draw(st.floats(0.0, 0.6)), -1)
    pattern = lower | (random.uniform(size=(size, size)) < draw(st.floats(0.0, 0.08)))
    values = np.where(pattern, random.normal(size=(5, size, size)), 0.0)
    values[:, np.arange(size), np.arange(size)] = 3.0 + random.uniform(size=(5, size))
    return np.asarray(values[:, random.permutation(size)][:, :, random.permutation(size)])


@given(scattered())
def test_the_inverse_by_blocks_is_the_inverse(matrices: np.ndarray) -> None:
    """Whatever comes apart, and whatever does not."""
    blocks = blocks_of((matrices != 0.0).any(axis=0))
    assert blocks is not None
    order = Order(blocks)
    assert sorted(order.unknowns.tolist()) == list(range(matrices.shape[1]))
    settled: set[int] = set()
    for block in blocks:
        assert settled.issuperset(block.before.tolist())
        settled.update(block.own.tolist())
    scale = np.abs(np.linalg.inv(matrices)).max()
    found = inverse_by_blocks(matrices, order, square_inverses)
    assert np.abs(found - np.linalg.inv(matrices)).max() <= 1e-9 * scale


@given(scattered(), st.integers(0, 2**32 - 1))
def test_no_change_is_larger_than_its_bound(matrices: np.ndarray, seed: int) -> None:
    """Blocks bound what a solution can change by no less than the whole inverse does; both are met
    by no right-hand side within the changes."""
    blocks = blocks_of((matrices != 0.0).any(axis=0))
    assert blocks is not None
    order, random = Order(blocks), np.random.default_rng(seed)
    by_blocks = BlockInverse(
        order,
        [matrices[:, b.rows[:, None], b.own] for b in blocks],
        [matrices[:, b.rows[:, None], b.before] for b in blocks],
        square_inverses,
    )
    change = random.uniform(size=matrices.shape[:2])
    most = by_blocks.most_changes(change)
    whole = order.applied(np.abs(by_blocks.whole()), change)
    exact = (np.abs(np.linalg.inv(matrices)) @ change[..., None])[..., 0]
    assert np.allclose(whole, exact, rtol=1e-9)
    assert (most >= exact * (1 - 1e-9)).all()
    for _ in range(5):
        right = change * random.uniform(-1.0, 1.0, size=change.shape)
        solution = np.linalg.solve(matrices, right[..., None])[..., 0]
        assert (np.abs(solution) <= most * (1 + 1e-9) + 1e-12).all()
    some = np.array([3, 1])
    assert np.array_equal(by_blocks.taken(some).most_changes(change[some]), most[some])


def test_what_no_numbers_could_solve_has_no_blocks() -> None:
    """Two rows that ask the same unknown only."""
    assert blocks_of(np.array([[True, False], [True, False]])) is None


FAMILIES = [(name, make) for name, make in growth.FAMILIES.items()]


def _mechanism(make, count: int) -> Mechanism:  # type: ignore[no-untyped-def]
    return build.mechanism(make(count))


@pytest.mark.parametrize(("name", "make"), FAMILIES)
def test_blocks_of_mechanisms_are_made_of_the_same_derivatives(name: str, make) -> None:  # type: ignore[no-untyped-def]
    """Filled from single entries, the inverse is that of the whole matrix."""
    mechanism = _mechanism(make, 18 if "four" in name else 13 if "dyads" in name else 12)
    motion = sweep(mechanism)
    system = motion.segments[0].branch_path.path.system
    poses = motion.poses[::30]
    inverse = system.block_inverse(poses)
    assert inverse is not None and len(inverse.order.blocks) > 2
    _, jacobian = system.residual_jacobian(poses, np.zeros((len(poses), system.rows)))
    exact = np.linalg.inv(jacobian)
    whole = np.empty_like(exact)
    whole[:, inverse.order.unknowns[:, None], inverse.order.rows] = inverse.whole()
    assert np.abs(whole - exact).max() <= 1e-9 * np.abs(exact).max()
    assert np.abs(system.inverses(jacobian) - exact).max() <= 1e-9 * np.abs(exact).max()


@pytest.mark.parametrize(("name", "make"), FAMILIES)
def test_no_speed_leaves_its_bounds(name: str, make) -> None:  # type: ignore[no-untyped-def]
    """Looked at between the samples, forty times as densely, also where only pieces are bounded."""
    mechanism = _mechanism(make, 18 if "four" in name else 21 if "dyads" in name else 60)
    motion = sweep(mechanism)
    rows = np.arange(3, len(motion.progress) - 3, 29)
    bounds = bounded_samples(motion).speed_most[rows]
    assert np.isfinite(bounds).all()
    for share in np.linspace(-1.0, 1.0, 41):
        there = motion.at(motion.progress[rows] + share * motion.reach[rows])
        assert (np.abs(there.first) <= bounds * (1 + 1e-9) + 1e-9).all()


def test_holds_of_bodies_are_in_the_blocks() -> None:
    """A chain of loose bars: the angles that are held are equations of their own."""
    count = 9
    parts = [build.part("base", a=(0.0, 0.0)), build.part("bar", a=(0.0, 0.0), b=(30.0, 0.0))]
    bodies = [build.body("base", fixed=True)]
    bodies += [build.body(f"l{k}", 30.0 * k, 0.0, part="bar") for k in range(count)]
    joints = [
        build.joint(f"j{k}", "revolute", f"l{k - 1}.b" if k else "base.a", f"l{k}.a")
        for k in range(count)
    ]
    mechanism = build.mechanism(build.document(parts, bodies, joints))
    system = System(mechanism, (0,), tuple(Hold("angle", 2 + k) for k in range(count - 1)))
    poses = mechanism.resolved.poses[None]
    _, jacobian = system.residual_jacobian(poses, np.zeros((1, system.rows)))
    found = system.block_inverse(poses)
    assert found is not None
    inverse = np.empty_like(jacobian)
    inverse[:, found.order.unknowns[:, None], found.order.rows] = found.whole()
    assert np.abs(inverse @ jacobian - np.eye(system.unknowns)).max() < 1e-9


def test_one_singular_pose_leaves_the_others_their_bounds() -> None:
    """Where the blocks have no inverse at some pose, the others are bounded as without it."""
    mechanism = _mechanism(growth.dyads, 101)
    motion = sweep(mechanism)
    system = motion.segments[0].branch_path.path.system
    samples, rows = motion.samples, np.arange(0, 120)
    at = Solved(samples.poses[rows], samples.first[rows], samples.second[rows], np.zeros(120), None)
    sound = speed_bounds(system, at, motion.reach[rows])
    # Both bars of the first dyad in one line, their pins in one place: it may turn as it likes.
    flat = at.poses.copy()
    flat[50] = 0.0
    bounds = speed_bounds(
        system, Solved(flat, at.first, at.second, at.residual, None), motion.reach[rows]
    )
    others = rows != 50
    assert np.isfinite(sound).all() and np.isfinite(bounds[others]).all()
    # Those of the whole inverse are no farther away than those of blocks.
    assert (bounds[others] <= sound[others] * (1 + 1e-9) + 1e-9).all()
    assert (bounds[others] >= np.abs(at.first[others])).all()


def test_bounds_looked_for_from_too_far_are_looked_for_from_near(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """How far bounds are above the rates elsewhere is a guess: a wild one costs none of them."""
    mechanism = _mechanism(growth.scissor, 60)
    motion = sweep(mechanism)
    system, samples = motion.segments[0].branch_path.path.system, motion.samples
    rows = np.arange(0, len(motion.progress), 7)
    at = Solved(
        samples.poses[rows], samples.first[rows], samples.second[rows], np.zeros(len(rows)), None
    )
    reach = motion.reach[rows] / 4
    guessed = speed_bounds(system, at, reach)
    monkeypatch.setattr("anakinema.motion.speed_bounds._slack", lambda *_: None)
    near = speed_bounds(system, at, reach)
    wild = np.full(at.first.shape[1:], 1e6)
    monkeypatch.setattr("anakinema.motion.speed_bounds._slack", lambda *_: wild)
    far = speed_bounds(system, at, reach)
    assert np.isfinite(near).all() and np.array_equal(far, near)
    assert np.isfinite(guessed).all() and guessed.sum() <= near.sum() * 1.01


@pytest.mark.parametrize("bodies", [3, 21, 101])
def test_where_nothing_has_a_rate_nothing_is_bounded(bodies: int) -> None:
    mechanism = _mechanism(growth.dyads, bodies)
    system = sweep(mechanism).segments[0].branch_path.path.system
    poses = np.broadcast_to(mechanism.resolved.poses, (4, *mechanism.resolved.poses.shape))
    none = np.full_like(poses, np.nan)
    at = Solved(poses.copy(), none, none, np.zeros(4), None)
    assert np.isnan(speed_bounds(system, at, np.full(4, 1e-3))).all()
