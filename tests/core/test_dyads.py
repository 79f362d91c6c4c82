"""Closed-form dyads against the general equations, which know nothing of them."""

from __future__ import annotations

import math
from dataclasses import fields, replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.mechanism.dyads import Dyads, decompose
from anakinema.mechanism.numbers import Numbers, numbers_of, with_numbers
from anakinema.mechanism.system import Hold, System
from anakinema.motion.assemble import close
from anakinema.motion.branch_path import End, Path
from anakinema.motion.direct import follow_directly
from anakinema.motion.follow import follow
from anakinema.motion.followed_program import follow_program
from anakinema.motion.sweep import sample, sweep
from tests import mechanisms as build
from tests.strategies import grashof_free_four_bars


def swapped(doc: m.Document, *joints: str) -> m.Document:
    """The same mechanism with the two sides of some joints exchanged."""
    changed = tuple(
        j.model_copy(update={"first": j.second, "second": j.first}) if j.id in joints else j
        for j in doc.joints
    )
    return doc.model_copy(update={"joints": changed})


def cylinder() -> m.Document:
    """A boom on a pin, a cylinder on another, its rod (offset 4 mm) pinned to the boom; the boom
    is driven."""
    boom = (90 * math.cos(0.9), 90 * math.sin(0.9))
    along = math.atan2(boom[1], boom[0] - 60) - math.asin(4 / math.hypot(boom[0] - 60, boom[1]))
    return build.document(
        [
            build.part("base", a=(0, 0), b=(60, 0)),
            build.part("boom", a=(0, 0), b=(90, 0)),
            build.part("barrel", a=(0, 0), axis=(20, 4)),
            build.part("rod", end=(0, 0), tail=(-40, 0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("boom", 0, 0, 0.9),
            build.body("barrel", 60, 0, along),
            build.body("rod", *boom, along),
        ],
        [
            build.joint("boom_pivot", "revolute", "base.a", "boom.a"),
            build.joint("barrel_pivot", "revolute", "base.b", "barrel.a"),
            build.joint("rod_pin", "revolute", "boom.b", "rod.end"),
            build.joint("bore", "prismatic", "barrel.axis", "rod.tail"),
        ],
    )


def yoke(*, slot_moves: bool) -> m.Document:
    """A crank pin and a slider held by a slot: the slot in the slider, or in a turning disc."""
    pin = (30 * math.cos(0.6), 30 * math.sin(0.6))
    if slot_moves:
        return build.document(
            [
                build.part("base", a=(0, 0), rail=(0, -50)),
                build.part("crank", a=(0, 0), b=(30, 0)),
                build.part("slide", foot=(0, 0), slot=(0, 50, math.pi / 2 + 0.2)),
            ],
            [
                build.body("base", fixed=True),
                build.body("crank", 0, 0, 0.6),
                build.body("slide", pin[0], -50),
            ],
            [
                build.joint("crank_pivot", "revolute", "base.a", "crank.a"),
                build.joint("rail", "prismatic", "base.rail", "slide.foot"),
                build.joint("slot", "pin_in_slot", "slide.slot", "crank.b"),
            ],
        )
    return build.document(
        [
            build.part("base", a=(0, 0), rail=(0, 40)),
            build.part("disc", a=(0, 0), slot=(0, 10, 0.2)),
            build.part("slide", foot=(0, 0), pin=(3, -5)),
        ],
        [
            build.body("base", fixed=True),
            build.body("disc", 0, 0, 0.7),
            build.body("slide", 30, 40),
        ],
        [
            build.joint("disc_pivot", "revolute", "base.a", "disc.a"),
            build.joint("rail", "prismatic", "base.rail", "slide.foot"),
            build.joint("slot", "pin_in_slot", "disc.slot", "slide.pin"),
        ],
    )


def lever_on_rail() -> m.Document:
    """A lever on a driven carriage; its end pin runs in a fixed slot; a plate rides on it."""
    return build.document(
        [
            build.part("base", rail=(0, 0), slot=(0, 30, 0.3)),
            build.part("cart", a=(0, 0), pin=(0, 8)),
            build.part("lever", a=(0, 0), b=(70, 5)),
            build.part("plate", a=(2, 1)),
        ],
        [
            build.body("base", fixed=True),
            build.body("cart", 10, 0),
            build.body("lever", 10, 8, 0.5),
            build.body("plate", 60, 30, 0.5),
        ],
        [
            build.joint("rail", "prismatic", "base.rail", "cart.a"),
            build.joint("lever_pin", "revolute", "cart.pin", "lever.a"),
            build.joint("slot", "pin_in_slot", "base.slot", "lever.b"),
            build.joint("bolted", "rigid", "lever.b", "plate.a"),
        ],
    )


CASES: dict[str, tuple[m.Document, tuple[str, float], tuple[str, ...]]] = {
    "four-bar": (
        build.four_bar(40, 120, 80, 100, 0.5),
        ("crank_pivot", 0.5),
        ("crank_pin", "rocker_pin", "rocker_pivot"),
    ),
    "crossed four-bar": (
        build.four_bar(40, 120, 80, 100, 0.5, is_open=False),
        ("crank_pivot", 0.5),
        ("rocker_pin",),
    ),
    "crank slider": (
        build.crank_slider(30, 90, 12, 0.4),
        ("crank_pivot", 0.4),
        ("guide", "slide_pin"),
    ),
    "crank slider to the left": (
        build.crank_slider(30, 90, 12, 0.4, to_right=False),
        ("crank_pivot", 0.4),
        ("crank_pin",),
    ),
    "inverted slider": (
        build.inverted_slider(100, 40, 15, 0.5),
        ("crank_pivot", 0.5),
        ("arm_pivot",),
    ),
    "inverted slider on the right": (
        build.inverted_slider(100, 40, 15, 0.5, on_left=False),
        ("crank_pivot", 0.5),
        (),
    ),
    "slotted arm": (build.slotted_arm(46, 120, 0.3), ("crank_pivot", 0.3), ("arm_pivot",)),
    "cylinder": (cylinder(), ("boom_pivot", 0.9), ("bore", "rod_pin")),
    "yoke": (yoke(slot_moves=True), ("crank_pivot", 0.6), ("rail",)),
    "disc with a slot": (yoke(slot_moves=False), ("disc_pivot", 0.7), ("rail",)),
    "lever on a rail": (lever_on_rail(), ("rail", 10.0), ("lever_pin", "bolted")),
    "ten-bar": (build.ten_bar(), ("pin_a1", 0.0), ()),
}


def dyads_of(doc: m.Document, driver: str) -> tuple[Dyads, np.ndarray, float]:
    """The decomposition, an assembled pose, and the raw driver value there."""
    mechanism = build.mechanism(doc)
    joint = mechanism.joint_index(driver)
    closed = close(System(mechanism), mechanism.resolved.poses, mechanism.row_target)
    assert closed.is_closed
    system = System(mechanism, (joint,))
    dyads = decompose(system)
    assert dyads is not None
    return dyads, closed.poses, float(mechanism.values(closed.poses)[joint])


@pytest.mark.parametrize("exchanged", [False, True])
@pytest.mark.parametrize("name", CASES)
def test_closed_forms_meet_the_general_equations(name: str, exchanged: bool) -> None:
    doc, (driver, _), joints = CASES[name]
    dyads, pose, value = dyads_of(swapped(doc, *joints) if exchanged else doc, driver)
    system, size = dyads.system, dyads.system.mechanism.size
    turn = 0.25 if dyads.system.mechanism.angular[system.drivers[0]] else 6.0
    values = value + turn * np.linspace(-1, 1, 9)[:, None]
    targets = system.targets(values, pose)
    rate = system.target_rates(np.array([2.0]))
    poses, first, second = dyads.solve(targets, rate, pose[None], dyads.sines(pose[None]))
    residual, jacobian = system.residual_jacobian(poses, targets)
    assert np.abs(residual).max() < 1e-12 * size
    assert np.abs(poses[4] - pose).max() < 1e-8 * size
    moving = np.einsum("nrk,nk->nr", jacobian, system.unknown_rates(first))
    assert np.abs(moving - rate).max() < 1e-10 * size
    pushed = np.einsum("nrk,nk->nr", jacobian, system.unknown_rates(second))
    scale = max(1.0, float(np.abs(second).max()))
    assert np.abs(pushed - system.quadratic(poses, first)).max() < 1e-11 * scale
    assert (np.sign(dyads.sines(poses)) == np.sign(dyads.sines(pose[None]))).all()


@pytest.mark.parametrize("name", CASES)
def test_variants_at_once_are_as_each_alone(name: str) -> None:
    """Places of joints moved at random by up to a fiftieth of the size."""
    doc, (driver, _), _ = CASES[name]
    dyads, pose, value = dyads_of(doc, driver)
    system, mechanism = dyads.system, dyads.system.mechanism
    random, nominal = np.random.default_rng(7), numbers_of(dyads.system.mechanism)
    spread = mechanism.size / 50

    def moved(points: np.ndarray) -> np.ndarray:
        return points + np.where(points == 0, 0, random.uniform(-spread, spread, points.shape))

    each = [
        replace(
            nominal,
            first_point=moved(nominal.first_point),
            second_point=moved(nominal.second_point),
            first_angle=nominal.first_angle + random.uniform(-0.02, 0.02),
        )
        for _ in range(5)
    ]
    stacked = Numbers(
        *(np.stack([getattr(n, f.name) for n in each])[:, None] for f in fields(Numbers))
    )
    values = value + np.linspace(-0.05, 0.05, 3)[:, None]
    rate = system.target_rates(np.array([2.0]))
    sides = dyads.sines(pose[None])
    together = System(with_numbers(mechanism, stacked), system.drivers)
    all_at_once = decompose(together)
    assert all_at_once is not None
    near = np.broadcast_to(pose, (5, 3, *pose.shape))
    targets = together.targets(np.broadcast_to(values, (5, 3, 1)), near)
    found = all_at_once.solve(targets, rate, near, sides)
    assert np.abs(together.residual(found[0], targets)).max() < 1e-12 * mechanism.size
    for k, numbers in enumerate(each):
        alone = System(with_numbers(mechanism, numbers), system.drivers)
        apart = decompose(alone)
        assert apart is not None
        expected = apart.solve(alone.targets(values, pose), rate, pose[None], sides)
        for have, want in zip(found, expected, strict=True):
            assert have[k] == pytest.approx(want, abs=1e-9 * mechanism.size)


@given(grashof_free_four_bars())
def test_the_side_tells_the_two_assemblies_apart(
    four: tuple[float, float, float, float, float],
) -> None:
    a, b, c, d, theta = four
    dyads, pose, value = dyads_of(build.four_bar(a, b, c, d, theta), "crank_pivot")
    targets = dyads.system.targets(np.array([[value]]), pose)
    rate, side = dyads.system.target_rates(np.ones(1)), dyads.sines(pose[None])
    other, _, _ = dyads.solve(targets, rate, pose[None], -side)
    theta3, theta4 = build.four_bar_angles(a, b, c, d, theta, is_open=False)
    away = np.angle(np.exp(1j * (other[0, 2:, 2] - np.array([theta3, theta4]))))
    assert np.abs(away).max() < 1e-9
    assert np.abs(dyads.system.residual(other, targets)).max() < 1e-10 * dyads.system.mechanism.size


@pytest.mark.parametrize("name", CASES)
def test_direct_knots_lie_on_the_followed_branch(name: str) -> None:
    doc, (driver, _), _ = CASES[name]
    dyads, pose, value = dyads_of(doc, driver)
    turn = 0.25 if dyads.system.mechanism.angular[dyads.system.drivers[0]] else 6.0
    path = Path(dyads.system, np.array([value]), np.array([value + turn]), pose)
    direct, walked = follow_directly(path, pose, 0.0), follow(path, pose)
    assert direct is not None
    assert direct.end is walked.end is End.COMPLETE
    end = path.targets(np.ones(1))
    last = close(dyads.system, walked.knots[-1].poses, path.targets(walked.knots[-1].p)).poses
    assert np.abs(dyads.system.residual(direct.knots[-1].poses[None], end)).max() < 1e-9
    if walked.knots[-1].p == pytest.approx(1.0, abs=1e-12):
        assert np.abs(direct.knots[-1].poses - last).max() < 1e-8
    # Arc length and derivatives are those that walking would give at the same place.
    assert np.abs(direct.knots[0].tangent - walked.knots[0].tangent).max() < 1e-9
    assert np.abs(direct.knots[0].bend - walked.knots[0].bend).max() < 1e-9
    poses = dyads.system.unknown_rates(np.diff(direct.knot_poses, axis=0))
    steps = np.column_stack([poses, np.diff(direct.progress) * direct.p_scale])
    chords = float(np.linalg.norm(steps, axis=1).sum())
    assert chords < direct.knots[-1].arc * (1 + 1e-12)
    assert direct.knots[-1].arc == pytest.approx(chords, rel=1e-3)


def test_a_dead_point_is_never_passed_directly() -> None:
    doc = build.driven(build.four_bar(80, 60, 50, 100, 0.5), ("crank_pivot", 0.5, 3.0), count=90)
    followed = follow_program(build.mechanism(doc))
    segment = followed.segments[-1]
    # B reaches farthest from the crank pivot's partner at coupler and rocker in line.
    limit = math.acos((80**2 + 100**2 - (60 + 50) ** 2) / (2 * 80 * 100))
    assert followed.end is End.DEAD_POINT
    assert 0.5 + segment.last * 2.5 == pytest.approx(limit, abs=1e-9)
    assert follow_directly(segment.branch_path.path, followed.poses, 0.0) is None


def test_near_a_dead_point_the_equations_take_over_without_a_seam() -> None:
    doc = build.driven(build.four_bar(80, 60, 50, 100, 0.5), ("crank_pivot", 0.5, 3.0), count=90)
    motion = sample(follow_program(build.mechanism(doc)))
    branch_path = motion.segments[-1].branch_path
    assert branch_path.is_regular[0]
    assert not branch_path.is_regular[-1]
    assert motion.samples.residual < 1e-10 * motion.mechanism.size
    theta3 = [build.four_bar_angles(80, 60, 50, 100, t)[0] for t in motion.poses[:-1, 1, 2]]
    assert np.abs(motion.poses[:-1, 2, 2] - np.array(theta3)).max() < 1e-8


@pytest.mark.parametrize("turns", [1.0, 7.5])
def test_angles_run_on_through_many_turns(turns: float) -> None:
    end = 0.5 + turns * build.FULL_TURN
    doc = build.driven(build.four_bar(40, 120, 80, 100, 0.5), ("crank_pivot", 0.5, end), count=400)
    motion = sweep(build.mechanism(doc))
    assert motion.values[-1, 0] == pytest.approx(end, abs=1e-10)
    assert np.ptp(motion.values[:, 3]) < math.pi
    drag = build.driven(build.four_bar(80, 70, 90, 40, 0.5), ("crank_pivot", 0.5, end), count=400)
    rocker = sweep(build.mechanism(drag)).poses[:, 3, 2]
    if turns == 1.0:
        assert rocker[-1] - rocker[0] == pytest.approx(build.FULL_TURN, abs=1e-9)
    else:
        assert abs(rocker[-1] - rocker[0]) > 7 * build.FULL_TURN


def _planetary() -> m.Document:
    """A driven arm that carries a planet, which rolls in a fixed ring and drives a sun; a second
    wheel of the sun drives one more on the base, that a crank slider hangs on."""
    crank = (150 + 12 * math.cos(0.3), 12 * math.sin(0.3))
    lean = math.asin(crank[1] / 70)
    parts = [
        build.part("base", o=(0, 0), far=(150, 0), rail=(0, 0)),
        build.part("arm", o=(0, 0), tip=(45, 0)),
        build.part("wheel", o=(0, 0), pin=(12, 0)),
        build.part("rod", a=(0, 0), b=(70, 0)),
        build.part("slide", c=(0, 0)),
    ]
    bodies = [
        build.body("base", fixed=True),
        build.body("arm", 0, 0, 0.4),
        build.body("planet", 45 * math.cos(0.4), 45 * math.sin(0.4), 0.9, part="wheel"),
        build.body("sun", 0, 0, -0.2, part="wheel"),
        build.body("last", 150, 0, 0.3, part="wheel"),
        build.body("rod", *crank, -lean),
        build.body("slide", crank[0] + 70 * math.cos(lean), 0.0),
    ]
    joints = [
        build.joint("arm_shaft", "revolute", "base.o", "arm.o"),
        build.joint("planet_pin", "revolute", "arm.tip", "planet.o"),
        build.joint("sun_shaft", "revolute", "base.o", "sun.o"),
        build.joint("last_shaft", "revolute", "base.far", "last.o"),
        build.joint("crank_pin", "revolute", "last.pin", "rod.a"),
        build.joint("slide_pin", "revolute", "rod.b", "slide.c"),
        build.joint("guide", "prismatic", "base.rail", "slide.c"),
    ]

    couplings = (
        build.coupling("ring", "internal_gears", "planet_pin", "arm_shaft", 18, 54, carrier="arm"),
        build.coupling("sun", "gears", "sun_shaft", "planet_pin", 18, 18, carrier="arm"),
        build.coupling("belt", "belt", "sun_shaft", "last_shaft", 20, 35),
    )
    return build.document(parts, bodies, joints).model_copy(update={"couplings": couplings})


def test_couplings_of_turns_are_closed_forms() -> None:
    """A planet in a ring, a sun and a belt behind it: closed forms, the equations and the sweep
    agree, through several turns, whatever the full turns of the bodies between."""
    doc = build.driven(_planetary(), ("arm_shaft", 0.4, 0.4 + 2.6 * build.FULL_TURN), count=200)
    dyads, pose, value = dyads_of(doc, "arm_shaft")
    system, size = dyads.system, dyads.system.mechanism.size
    values = value + np.linspace(0, 2.6 * build.FULL_TURN, 150)[:, None]
    targets = system.targets(values, pose)
    rate = system.target_rates(np.array([2.0]))
    poses, first, second = dyads.solve(targets, rate, pose[None], dyads.sines(pose[None]))
    residual, jacobian = system.residual_jacobian(poses, targets)
    assert np.abs(residual).max() < 1e-11 * size
    assert (
        np.abs(np.einsum("nrk,nk->nr", jacobian, system.unknown_rates(first)) - rate).max() < 1e-9
    )
    pushed = np.einsum("nrk,nk->nr", jacobian, system.unknown_rates(second))
    scale = max(1.0, float(np.abs(second).max()))
    assert np.abs(pushed - system.quadratic(poses, first)).max() < 1e-11 * scale
    path = Path(system, np.array([value]), values[-1], pose)
    walked = follow(path, pose)
    laid = follow_directly(path, pose, 0.0)
    assert laid is not None and walked.end is laid.end is End.COMPLETE
    # Willis: in a ring of 54 a planet of 18 turns by -2 for each turn of its arm, the sun by 4.
    turned = poses[-1, :, 2] - poses[0, :, 2]
    assert turned[2] == pytest.approx(-2 * turned[1], abs=1e-9)
    assert turned[3] == pytest.approx(4 * turned[1], abs=1e-9)
    assert turned[4] == pytest.approx(4 * turned[1] * 20 / 35, abs=1e-9)
    motion = sweep(build.mechanism(doc))
    assert motion.values[-1, 0] == pytest.approx(0.4 + 2.6 * build.FULL_TURN, abs=1e-9)
    assert np.abs(motion.poses[-1] - poses[-1])[:, :2].max() < 1e-8


def test_a_wheel_coupled_to_what_swings_is_left_to_the_equations() -> None:
    """How often a coupler has turned round is not known from one pose."""
    doc = build.four_bar(40, 120, 80, 100, 0.5)
    tip = doc.bodies[2].pose
    wheel = build.part("wheel", o=(0, 0))
    doc = doc.model_copy(
        update={
            "parts": (*doc.parts, wheel),
            "bodies": (*doc.bodies, build.body("wheel", float(tip.x), float(tip.y))),
            "joints": (*doc.joints, build.joint("shaft", "revolute", "crank.b", "wheel.o")),
        }
    )
    gears = m.Coupling(
        id="g",
        kind="gears",
        first="shaft",
        second="crank_pin",
        first_size=20,
        second_size=30,
        carrier="crank",
    )
    mechanism = build.mechanism(doc.model_copy(update={"couplings": (gears,)}))
    assert decompose(System(mechanism, (mechanism.joint_index("crank_pivot"),))) is None


def test_what_does_not_come_apart_is_left_to_the_equations() -> None:
    redundant = build.mechanism(build.parallel_cranks(30, 80, 0.7))
    assert decompose(System(redundant, (0,))) is None
    four_bar = build.mechanism(build.four_bar(40, 120, 80, 100, 0.5))
    assert decompose(System(four_bar)) is None
    assert decompose(System(four_bar, (0, 3))) is None
    # Driven at the coupler the loop has no dyad: no body can be placed first.
    assert decompose(System(four_bar, (1,))) is None


def test_a_held_attitude_is_a_closed_form_too() -> None:
    doc = build.document(
        [
            build.part("base", a=(0, 0)),
            build.part("arm", a=(0, 0), b=(60, 0)),
            build.part("tray", pin=(0, 20)),
        ],
        [
            build.body("base", fixed=True),
            build.body("arm", 0, 0, 0.3),
            build.body("tray", 60 * math.cos(0.3), 60 * math.sin(0.3) - 20),
        ],
        [
            build.joint("pivot", "revolute", "base.a", "arm.a"),
            build.joint("hang", "revolute", "arm.b", "tray.pin"),
        ],
    )
    mechanism = build.mechanism(doc)
    system = System(mechanism, (0,), (Hold("angle", 2),))
    dyads = decompose(system)
    assert dyads is not None
    pose = mechanism.resolved.poses
    targets = system.targets(np.array([[0.3], [1.2]]), pose)
    poses, first, _ = dyads.solve(
        targets, system.target_rates(np.ones(1)), pose[None], dyads.sines(pose[None])
    )
    assert poses[1, 2] == pytest.approx([60 * math.cos(1.2), 60 * math.sin(1.2) - 20, 0.0])
    assert first[1, 2] == pytest.approx([-60 * math.sin(1.2), 60 * math.cos(1.2), 0.0])
    held_place = System(mechanism, (0,), (Hold("x", 2),))
    assert decompose(held_place) is None


@given(st.floats(20.0, 60.0), st.floats(80.0, 140.0), st.floats(0.0, 15.0))
def test_a_crank_slider_follows_its_textbook_formula(r: float, rod: float, offset: float) -> None:
    doc = build.driven(
        build.crank_slider(r, rod, offset, 0.2),
        ("crank_pivot", 0.2, 0.2 + build.FULL_TURN),
        count=24,
    )
    motion = sweep(build.mechanism(doc))
    theta = motion.values[:, 0]
    # s = r cos θ + sqrt(l² - (r sin θ - e)²); any textbook on mechanisms.
    root = np.sqrt(rod**2 - (r * np.sin(theta) - offset) ** 2)
    assert np.abs(motion.poses[:, 3, 0] - r * np.cos(theta) - root).max() < 1e-9
    speed = -r * np.sin(theta) - (r * np.sin(theta) - offset) * r * np.cos(theta) / root
    assert np.abs(motion.samples.first[:, 3, 0] / build.FULL_TURN - speed).max() < 1e-7
