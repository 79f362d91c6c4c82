"""Every kernel against differences: Jacobian, velocity term, and the bound on its change."""

from __future__ import annotations

from typing import get_args

import numpy as np
import pytest

from anakinema.document.kinds import spec_of
from anakinema.document.model import Curve, JointKind, Vertex
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.system import Hold, System
from tests import mechanisms as build

FULL = 2 * 2 * np.arctan(0.2) + np.arctan2(33.3333333333333, 80.0) - 2 * np.arctan(0.2)
KINDS: tuple[JointKind, ...] = get_args(JointKind)


def wave(shape: str) -> Curve:
    """A gently bent curve that stays within its own evolute for 40 mm on both sides."""
    if shape == "spline":
        points = [(x, 12 * np.sin(x / 45), 0.0) for x in range(-90, 91, 15)]
    else:
        points = [(-90.0, 0.0, 0.0), (-20.0, 0.0, 0.2), (60.0, 33.3333333333333, 0.0)]
        points.append((60.0 + 40 * np.cos(FULL), 33.3333333333333 + 40 * np.sin(FULL), 0.0))
    vertices = tuple(Vertex(x=x, y=y, bulge=b) for x, y, b in points)
    return Curve(id="c", shape=shape, vertices=vertices)


def oval() -> Curve:
    """A closed spline that is round all over: what a face can lie on."""
    angles = 2 * np.pi * np.arange(12) / 12
    points = zip(30 * np.cos(angles), 22 * np.sin(angles), strict=True)
    return Curve(
        id="c",
        shape="spline",
        closed=True,
        vertices=tuple(Vertex(x=float(x), y=float(y)) for x, y in points),
    )


def on_curve(kind: JointKind, seed: int) -> tuple[Mechanism, np.ndarray]:
    """Two free bodies, the second's place some mm off a curve of the first."""
    random = np.random.default_rng(seed)
    first = build.part("a", p=(0.0, 0.0)).model_copy(
        update={
            "curves": (
                oval() if kind == "face_on_curve" else wave("spline" if seed % 2 else "path"),
            )
        }
    )
    x, y, angle = random.uniform(-40, 40, 3)
    u, v = random.uniform(-40, 40), random.uniform(-8, 8)
    c, s = np.cos(angle), np.sin(angle)
    doc = build.document(
        [first, build.part("b", p=(6.0, -4.0))],
        [build.body("a", x, y, angle), build.body("b", x + c * u - s * v, y + s * u + c * v, 1.3)],
        [build.joint("j", kind, "a.p", "b.p", curve="c")],
    )
    mechanism = build.mechanism(doc)
    return mechanism, mechanism.resolved.poses


def joined(kind: JointKind, seed: int) -> tuple[Mechanism, np.ndarray]:
    """Two free bodies at any pose with one joint of a kind, and that pose."""
    if spec_of(kind).has_curve:
        return on_curve(kind, seed)
    random = np.random.default_rng(seed)
    xy = random.uniform(-40, 40, (2, 3))
    places = random.uniform(-30, 30, (2, 3))
    lengths = {"radius": 27.0, "dead_length": 60.0, "stroke": 30.0, "length": 40.0}
    stated = {name: lengths[name] for name in spec_of(kind).stated if name in lengths}
    doc = build.document(
        [build.part("a", p=tuple(places[0])), build.part("b", p=tuple(places[1]))],
        [build.body("a", *xy[0]), build.body("b", *xy[1])],
        [build.joint("j", kind, "a.p", "b.p", **stated)],
    )
    mechanism = build.mechanism(doc)
    return mechanism, mechanism.resolved.poses


def system_of(mechanism: Mechanism, kind: JointKind) -> System:
    holds = (Hold("angle", 0), Hold("x", 1), Hold("y", 0))
    return System(mechanism, () if kind == "rigid" else (0,), holds)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("seed", range(4))
def test_jacobian_agrees_with_central_differences(kind: JointKind, seed: int) -> None:
    mechanism, poses = joined(kind, seed)
    system = system_of(mechanism, kind)
    zero = np.zeros(system.rows)
    _, jacobian = system.residual_jacobian(poses, zero)
    step = 1e-5
    for column in range(system.unknowns):
        unit = np.zeros(system.unknowns)
        unit[column] = step
        ahead = system.residual(system.moved(poses, unit), zero)
        behind = system.residual(system.moved(poses, -unit), zero)
        assert (ahead - behind) / (2 * step) == pytest.approx(jacobian[:, column], abs=2e-8)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("seed", range(4))
def test_velocity_term_is_the_second_difference_along_a_straight_move(
    kind: JointKind, seed: int
) -> None:
    mechanism, poses = joined(kind, seed)
    system = system_of(mechanism, kind)
    zero = np.zeros(system.rows)
    move = np.random.default_rng(seed + 99).uniform(-30, 30, system.unknowns)
    step = 1e-3
    values = [system.residual(system.moved(poses, k * step * move), zero) for k in (-1, 0, 1)]
    second = (values[0] - 2 * values[1] + values[2]) / step**2
    term = system.quadratic(poses, system.scaled_rates(move))
    assert second == pytest.approx(-term, abs=2e-3 * max(1.0, float(np.abs(term).max())))


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("seed", range(6))
def test_change_of_speed_equations_stays_within_its_bound(kind: JointKind, seed: int) -> None:
    """Along any move within the speeds claimed, J·v changes by no more than the bound."""
    mechanism, poses = joined(kind, seed)
    system = system_of(mechanism, kind)
    zero = np.zeros(system.rows)
    random = np.random.default_rng(seed + 7)
    most_unknowns = random.uniform(0.1, 20.0, system.unknowns)
    most = system.scaled_rates(most_unknowns)
    reach = 0.05
    bound = system.change_bound(system.frames(poses), most, np.array(reach))
    _, here = system.residual_jacobian(poses, zero)
    for _ in range(60):
        rate = random.uniform(-1, 1, system.unknowns) * most_unknowns
        path = random.uniform(-1, 1, system.unknowns) * most_unknowns * reach
        _, there = system.residual_jacobian(system.moved(poses, path), zero)
        assert (np.abs(there @ rate - here @ rate) <= bound + 1e-9).all()


def test_batches_give_the_same_as_single_poses() -> None:
    mechanism = build.mechanism(build.ten_bar())
    system = System(mechanism, (0,))
    batch = mechanism.resolved.poses + np.random.default_rng(3).normal(0, 0.1, (5, 1, 3))
    zero = np.zeros((5, system.rows))
    residual, jacobian = system.residual_jacobian(batch, zero)
    for k in range(5):
        one_residual, one_jacobian = system.residual_jacobian(batch[k], zero[k])
        # The same to the last digits: a batch turns vectors by products, one pose by its angles.
        assert np.allclose(residual[k], one_residual, rtol=0, atol=1e-14 * mechanism.size)
        assert np.allclose(jacobian[k], one_jacobian, rtol=0, atol=1e-14 * mechanism.size)
