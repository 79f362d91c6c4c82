"""Drag to try: what is grabbed follows, loops stay closed, limits hold, branches do not flip."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.system import System
from anakinema.motion.drag import Drag
from anakinema.motion.mobility import analyse_mobility
from tests import mechanisms as build
from tests.conftest import share


def chain(count: int, pitch: float = 10.0) -> m.Document:
    """Equal links in slack waves, the first pinned to the frame."""
    bodies = [build.body("base", fixed=True)]
    joints = []
    x = y = 0.0
    for k in range(count):
        angle = 0.9 * math.sin(0.2 * k)
        bodies.append(build.body(f"link{k}", x, y, angle, part="link"))
        before = "base.a" if k == 0 else f"link{k - 1}.b"
        joints.append(build.joint(f"pin{k}", "revolute", before, f"link{k}.a"))
        x, y = x + pitch * math.cos(angle), y + pitch * math.sin(angle)
    return build.document(
        [build.part("base", a=(0, 0)), build.part("link", a=(0, 0), b=(pitch, 0))], bodies, joints
    )


def open_by(mechanism: Mechanism, poses: np.ndarray) -> float:
    """Largest opening of any joint, by the general equations, mm."""
    system = System(mechanism)
    return float(np.abs(system.residual(poses, mechanism.row_target)).max())


def place_of(poses: np.ndarray, body: int, point: tuple[float, float]) -> np.ndarray:
    x, y, angle = poses[body]
    c, s = math.cos(angle), math.sin(angle)
    return np.array([x + c * point[0] - s * point[1], y + s * point[0] + c * point[1]])


def test_a_long_chain_follows_completely_and_stays_whole() -> None:
    mechanism = build.mechanism(chain(120))
    drag = Drag(mechanism, mechanism.resolved.poses)
    tip = place_of(mechanism.resolved.poses, 120, (10, 0))
    for step in range(1, 31):
        target = tip + step * np.array([-12.0, 9.0])
        pulled = drag.pull(120, (10, 0), (float(target[0]), float(target[1])))
        assert pulled.away < 1e-3
    assert open_by(mechanism, pulled.poses) < 1e-9
    moved = np.abs(pulled.poses - mechanism.resolved.poses)[1:]
    assert (moved.max(axis=1) > 1e-3).all()  # no link is left behind


def test_a_chain_of_a_thousand_links_follows_and_stays_whole() -> None:
    mechanism = build.mechanism(chain(1000))
    drag = Drag(mechanism, mechanism.resolved.poses)
    tip = place_of(mechanism.resolved.poses, 1000, (10, 0))
    for step in range(1, 6):
        target = tip + step * np.array([-12.0, 9.0])
        pulled = drag.pull(1000, (10, 0), (float(target[0]), float(target[1])))
        assert pulled.away < 1e-6 * mechanism.size
    assert open_by(mechanism, pulled.poses) < 1e-12 * mechanism.size


def test_all_freedoms_of_a_loose_chain_are_held() -> None:
    """A hundred and more bars: as many freedoms, and as many angles that keep them still."""
    mechanism = build.mechanism(chain(160))
    poses = mechanism.resolved.poses
    mobility = analyse_mobility(mechanism, poses, ())
    assert mobility.freedoms == len(mobility.undriven) == len(mobility.holds) == 160
    assert {hold.kind for hold in mobility.holds} == {"angle"}
    held = System(mechanism, (), mobility.holds)
    _, jacobian = held.residual_jacobian(poses, np.zeros(held.rows))
    assert np.linalg.matrix_rank(jacobian) == mechanism.unknowns


def test_a_chain_pulled_too_far_stretches_straight() -> None:
    mechanism = build.mechanism(chain(12))
    drag = Drag(mechanism, mechanism.resolved.poses)
    for reach in np.linspace(100, 400, 60):
        pulled = drag.pull(12, (10, 0), (float(reach), 0.0))
    assert place_of(pulled.poses, 12, (10, 0)) == pytest.approx([120.0, 0.0], abs=0.5)
    assert open_by(mechanism, pulled.poses) < 1e-9


@pytest.mark.campaign
@given(st.integers(0, 10_000))
@hypothesis_settings(max_examples=share(40, 8), deadline=None)
def test_a_four_bar_dragged_round_keeps_its_loop_and_its_branch(seed: int) -> None:
    random = np.random.default_rng(seed)
    is_open = bool(random.integers(2))
    doc = build.four_bar(40, 120, 80, 100, 1.0, is_open=is_open)
    mechanism = build.mechanism(doc)
    drag = Drag(mechanism, mechanism.resolved.poses)
    angle = 1.0
    for _ in range(40):
        angle += float(random.uniform(-0.25, 0.25))
        far = float(random.uniform(30, 60))
        pulled = drag.pull(1, (40, 0), (far * math.cos(angle), far * math.sin(angle)))
        assert open_by(mechanism, pulled.poses) < 1e-8
        reached = float(pulled.poses[1, 2])
        wanted = build.four_bar_angles(40, 120, 80, 100, reached, is_open=is_open)
        assert build.wrap(pulled.poses[2:, 2] - np.array(wanted)) == pytest.approx(0, abs=1e-8)
    assert build.wrap(reached - angle) == pytest.approx(0, abs=2e-3)


def test_redundant_loops_are_dragged_as_one() -> None:
    mechanism = build.mechanism(build.parallel_cranks(40, 90, 1.0))
    drag = Drag(mechanism, mechanism.resolved.poses)
    for k in range(1, 41):
        angle = 1.0 + 0.04 * k
        pulled = drag.pull(4, (0, 0), (40 * math.cos(angle), 40 * math.sin(angle)))
        assert pulled.away < 1e-4
    assert pulled.poses[1:4, 2] == pytest.approx([angle] * 3, abs=1e-5)
    assert pulled.poses[4, 2] == pytest.approx(0.0, abs=1e-8)


@pytest.mark.parametrize("joint", [0, 3])
def test_a_limit_holds_whoever_pulls(joint: int) -> None:
    """Index 0 is the driven crank (in the tree), 3 the rocker (a cut joint or in the tree)."""
    doc = build.four_bar(40, 120, 80, 100, 1.0)
    start = (1.0, None, None, build.four_bar_angles(40, 120, 80, 100, 1.0)[1])[joint]
    limits = m.Limits(greatest=start + 0.2)
    joints = tuple(
        j.model_copy(update={"limits": limits}) if k == joint else j
        for k, j in enumerate(doc.joints)
    )
    mechanism = build.mechanism(doc.model_copy(update={"joints": joints}))
    drag = Drag(mechanism, mechanism.resolved.poses)
    for k in range(1, 60):
        angle = 1.0 + 0.03 * k
        pulled = drag.pull(1, (40, 0), (40 * math.cos(angle), 40 * math.sin(angle)))
        assert mechanism.values(pulled.poses)[joint] < start + 0.2 + 1e-7
    assert mechanism.values(pulled.poses)[joint] == pytest.approx(start + 0.2, abs=1e-6)
    assert pulled.held_by == (joint,)
    assert open_by(mechanism, pulled.poses) < 1e-8


def test_slots_slides_and_arcs_are_followed() -> None:
    mechanism = build.mechanism(build.slotted_arm(40, 100, 0.3))
    drag = Drag(mechanism, mechanism.resolved.poses)
    pulled = drag.pull(2, (120, 0), (20.0, 10.0))
    assert open_by(mechanism, pulled.poses) < 1e-8
    mechanism = build.mechanism(build.crank_slider(30, 90, 10, 0.7))
    drag = Drag(mechanism, mechanism.resolved.poses)
    x = float(mechanism.resolved.poses[3, 0])
    pulled = drag.pull(3, (0, 0), (x - 8.0, 44.0))
    assert pulled.poses[3] == pytest.approx([x - 8.0, 10.0, 0.0], abs=1e-4)
    arc = build.document(
        [build.part("base", a=(0, 0)), build.part("pin", p=(3, 0))],
        [build.body("base", fixed=True), build.body("pin", 47, 0)],
        [build.joint("arc", "pin_on_arc", "base.a", "pin.p", radius=50.0)],
    )
    mechanism = build.mechanism(arc)
    drag = Drag(mechanism, mechanism.resolved.poses)
    pulled = drag.pull(1, (3, 0), (30.0, 40.0))
    assert place_of(pulled.poses, 1, (3, 0)) == pytest.approx([30.0, 40.0], abs=1e-4)


def test_held_and_fixed_bodies_stay_and_loose_ones_are_carried() -> None:
    doc = build.four_bar(40, 120, 80, 100, 1.0)
    mechanism = build.mechanism(doc)
    start = mechanism.resolved.poses
    for held, grabbed in ((frozenset({1}), 3), (frozenset(), 0)):
        pulled = Drag(mechanism, start, held).pull(grabbed, (10, 0), (500.0, 500.0))
        assert pulled.poses == pytest.approx(start, abs=1e-9)
        assert pulled.away > 100
    loose = build.document([build.part("a", p=(0, 0))], [build.body("a")], [])
    mechanism = build.mechanism(loose)
    pulled = Drag(mechanism, mechanism.resolved.poses).pull(0, (5, 5), (25.0, 15.0))
    assert place_of(pulled.poses, 0, (5, 5)) == pytest.approx([25.0, 15.0], abs=1e-4)


def test_a_straight_chain_pushed_along_itself_gives_way() -> None:
    """No joint can turn the tip inwards to first order; a real chain buckles."""
    mechanism = build.mechanism(chain(4, 20.0))
    poses = np.array([(0.0, 0.0, 0.0), *((20.0 * k, 0.0, 0.0) for k in range(4))])
    drag = Drag(mechanism, poses)
    pulled = drag.pull(4, (20.0, 0.0), (55.0, 0.0))
    assert pulled.away < 1e-3
    assert open_by(mechanism, pulled.poses) < 1e-7
    # Pulled beyond its reach it goes straight again, and stays there.
    for target in (100.0, 101.0):
        pulled = drag.pull(4, (20.0, 0.0), (target, 0.0))
    assert pulled.away == pytest.approx(target - 80.0, abs=0.2)
