"""Gear trains, racks, belts and screws against published and recomputed values."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.edits.joints import ReverseJoint
from anakinema.errors import ValueOutOfRangeError
from anakinema.mechanism.system import Hold, System
from anakinema.motion.branch_path import End
from anakinema.motion.drag import Drag
from tests import mechanisms as build
from tests.reference.values import reference

TURN = 2 * math.pi


def coupled(doc: m.Document, *couplings: m.Coupling) -> m.Document:
    return doc.model_copy(update={"couplings": couplings})


def planetary(sun: int, planet: int, ring: int) -> m.Document:
    """Sun, carrier and ring about one axis, a planet on the carrier."""
    module = 2.0
    away = module * (sun + planet) / 2
    parts = [
        build.part("base", o=(0, 0)),
        build.part("wheel", o=(0, 0)),
        build.part("carrier", o=(0, 0), pin=(away, 0)),
    ]
    bodies = [
        build.body("base", fixed=True),
        build.body("sun", part="wheel"),
        build.body("arm", part="carrier"),
        build.body("planet", away, 0, part="wheel"),
        build.body("ring", part="wheel"),
    ]
    joints = [
        build.joint("sun_axis", "revolute", "base.o", "sun.o"),
        build.joint("arm_axis", "revolute", "base.o", "arm.o"),
        build.joint("planet_axis", "revolute", "arm.pin", "planet.o"),
        build.joint("ring_axis", "revolute", "base.o", "ring.o"),
    ]
    return coupled(
        build.document(parts, bodies, joints),
        build.coupling("inner", "gears", "sun_axis", "planet_axis", sun, planet, carrier="arm"),
        build.coupling(
            "outer", "internal_gears", "planet_axis", "ring_axis", planet, ring, carrier="arm"
        ),
    )


def turns(doc: m.Document, *moves: tuple[str, float, float]) -> dict[str, float]:
    """How far every body has turned at the end, as a share of the longest move."""
    motion = build.motion(build.driven(doc, *moves, count=48))
    assert motion.end is End.COMPLETE and motion.mobility.freedoms == len(moves)
    assert motion.samples.residual < 1e-9
    ids = [b.id for b in motion.mechanism.resolved.document.bodies]
    return {b: float(motion.poses[-1, k, 2] - motion.poses[0, k, 2]) for k, b in enumerate(ids)}


def test_planetary_sets_obey_willis() -> None:
    case = reference("planetary, arm and sun driven")
    doc = planetary(40, 20, 80)
    got = turns(doc, ("arm_axis", 0.0, 2 * TURN), ("sun_axis", 0.0, TURN))
    assert got["ring"] / TURN * 100 == pytest.approx(case.expected["ring_rpm"], abs=1e-6)
    assert got["planet"] / TURN * 100 == pytest.approx(case.expected["planet_rpm"], abs=1e-6)
    held = (*doc.bodies[:-1], doc.bodies[-1].model_copy(update={"fixed": True}))
    joints = doc.joints[:-1]
    # A ring that stands still has no joint of its own: the planet meshes with one on the arm.
    case = reference("planetary, ring held")
    back = build.joint("ring_back", "revolute", "arm.o", "ring.o")
    outer = build.coupling("outer", "internal_gears", "planet_axis", "ring_back", 20, 80)
    still = doc.model_copy(
        update={"bodies": held, "joints": (*joints, back), "couplings": (doc.couplings[0], outer)}
    )
    motion = build.motion(build.driven(still, ("sun_axis", 0.0, TURN), count=24))
    arm = motion.poses[-1, 2, 2] - motion.poses[0, 2, 2]
    assert arm / TURN * 100 == pytest.approx(case.expected["arm_rpm"], abs=1e-6)
    case = reference("planetary, arm held")
    got = turns(doc, ("sun_axis", 0.0, TURN), ("arm_axis", 0.0, 1e-9))
    assert got["ring"] / TURN * 100 == pytest.approx(case.expected["ring_rpm"], abs=1e-5)


@pytest.mark.parametrize("teeth", [99, 100, 101])
def test_fergusons_paradox(teeth: int) -> None:
    parts = [
        build.part("base", o=(0, 0)),
        build.part("wheel", o=(0, 0)),
        build.part("arm", o=(0, 0), pin=(60, 0)),
    ]
    bodies = [
        build.body("base", fixed=True),
        build.body("arm"),
        build.body("idler", 60, part="wheel"),
        build.body("free", part="wheel"),
    ]
    joints = [
        build.joint("arm_axis", "revolute", "base.o", "arm.o"),
        build.joint("idler_axis", "revolute", "arm.pin", "idler.o"),
        build.joint("free_axis", "revolute", "arm.o", "free.o"),
    ]
    # The fixed sun is the base itself: seen from the arm it turns back.
    doc = coupled(
        build.document(parts, bodies, joints),
        build.coupling("still", "gears", "arm_axis", "idler_axis", 100, 20, carrier="arm"),
        build.coupling("moving", "gears", "idler_axis", "free_axis", 20, teeth),
    )
    got = turns(doc, ("arm_axis", 0.0, TURN))
    wanted = reference("Ferguson's paradox").expected[f"free_{teeth}"]
    assert got["free"] / TURN == pytest.approx(wanted, abs=1e-9)


@pytest.mark.parametrize(
    ("kind", "ratio"),
    [
        ("gears", -20 / 40),
        ("chain", 20 / 40),
        ("belt", 20 / 40),
        ("crossed_belt", -20 / 40),
        ("internal_gears", 20 / 40),
    ],
)
def test_wheels_turn_by_their_ratio_many_turns_on(kind: str, ratio: float) -> None:
    doc = coupled(build.wheels((0, 0), (90, 10)), build.coupling("c", kind, "j0", "j1", 20, 40))
    got = turns(doc, ("j0", 0.0, 5 * TURN))
    assert got["w1"] == pytest.approx(5 * TURN * ratio, abs=1e-9)


def rack(above: float, axis: float) -> m.Document:
    """A pinion of 20 mm on the origin, its rack ``above`` it on a slide along ``axis``."""
    foot = (-math.sin(axis) * above, math.cos(axis) * above)
    parts = [
        build.part("base", o=(0, 0), rail=(*foot, axis)),
        build.part("wheel", o=(0, 0)),
        build.part("rack", o=(0, 0, 0)),
    ]
    bodies = [build.body("base", fixed=True), build.body("wheel"), build.body("rack", *foot, axis)]
    joints = [
        build.joint("axle", "revolute", "base.o", "wheel.o"),
        build.joint("slide", "prismatic", "base.rail", "rack.o"),
    ]
    return coupled(
        build.document(parts, bodies, joints), build.coupling("c", "rack", "axle", "slide", 20)
    )


@pytest.mark.parametrize("above", [20.0, -20.0])
@pytest.mark.parametrize("axis", [0.0, 0.4, math.pi])
def test_a_rack_runs_with_the_rim_of_its_pinion(above: float, axis: float) -> None:
    """However the rack lies and whichever way its slide counts: no slip where they touch."""
    case = reference("rack and pinion")
    doc = rack(above, axis)
    foot = (-math.sin(axis) * above, math.cos(axis) * above)
    turn = math.radians(case.inputs["turn_deg"])
    motion = build.motion(build.driven(doc, ("axle", 0.0, turn), count=30))
    moved = motion.poses[-1, 2, :2] - motion.poses[0, 2, :2]
    # The rim at the foot moves square to the radius, anticlockwise.
    rim = np.array([-foot[1], foot[0]]) / 20.0
    assert moved == pytest.approx(rim * case.expected["travel"], abs=1e-6)
    whole = build.motion(build.driven(doc, ("axle", 0.0, TURN), count=30))
    along = np.hypot(*(whole.poses[-1, 2, :2] - whole.poses[0, 2, :2]))
    assert along == pytest.approx(case.expected["per_turn"], abs=1e-5)


def screw(lead: float) -> m.Document:
    """A turn on the base, and a nut on a slide that moves ``lead`` mm a turn."""
    parts = [
        build.part("base", o=(0, 0), rail=(0, 30, 0)),
        build.part("wheel", o=(0, 0)),
        build.part("nut", o=(0, 0, 0)),
    ]
    doc = build.document(
        parts,
        [build.body("base", fixed=True), build.body("wheel"), build.body("nut", 0, 30)],
        [
            build.joint("turn", "revolute", "base.o", "wheel.o"),
            build.joint("slide", "prismatic", "base.rail", "nut.o"),
        ],
    )
    return coupled(doc, build.coupling("c", "ratio", "turn", "slide", TURN, lead))


def test_a_ratio_couples_a_turn_to_a_slide_like_a_screw() -> None:
    case = reference("screw")
    doc = screw(case.inputs["lead"])
    motion = build.motion(build.driven(doc, ("turn", 0.0, 3 * TURN), count=60))
    rate = motion.samples.value_first[:, 1] / motion.samples.value_first[:, 0]
    assert case.inputs["handle"] / rate == pytest.approx(case.expected["advantage"], abs=1e-6)
    assert motion.values[-1, 1] - motion.values[0, 1] == pytest.approx(12.0)


def test_rows_of_couplings_agree_with_differences_and_batches() -> None:
    doc = planetary(40, 20, 80)
    mechanism = build.mechanism(doc)
    system = System(mechanism, (0,), (Hold("angle", 2), Hold("x", 4)))
    zero = np.zeros(system.rows)
    poses = mechanism.resolved.poses + np.random.default_rng(2).normal(0, 0.3, (5, 3))
    poses[0] = 0.0
    residual, jacobian = system.residual_jacobian(poses, zero)
    batch_residual, batch_jacobian = system.residual_jacobian(poses[None], zero[None])
    assert batch_residual[0] == pytest.approx(residual, abs=1e-12)
    assert batch_jacobian[0] == pytest.approx(jacobian, abs=1e-12)
    step = 1e-6
    for column in range(system.unknowns):
        unit = np.zeros(system.unknowns)
        unit[column] = step
        ahead = system.residual(system.moved(poses, unit), zero)
        behind = system.residual(system.moved(poses, -unit), zero)
        assert (ahead - behind) / (2 * step) == pytest.approx(jacobian[:, column], abs=1e-7)
    rate = np.random.default_rng(3).normal(0, 20, system.unknowns)
    values = [system.residual(system.moved(poses, k * 1e-3 * rate), zero) for k in (-1, 0, 1)]
    second = (values[0] - 2 * values[1] + values[2]) / 1e-6
    term = system.quadratic(poses, system.scaled_rates(rate))
    assert second == pytest.approx(-term, abs=2e-3 * max(1.0, float(np.abs(term).max())))
    batch = system.quadratic(poses[None], system.scaled_rates(rate)[None])[0]
    assert batch == pytest.approx(term, abs=1e-9)


def test_a_dragged_wheel_takes_all_that_is_coupled_along() -> None:
    doc = coupled(
        build.wheels((0, 0), (60, 0), (120, 0)),
        build.coupling("a", "gears", "j0", "j1", 20, 40),
        build.coupling("b", "gears", "j1", "j2", 40, 20),
    )
    mechanism = build.mechanism(doc)
    drag = Drag(mechanism, mechanism.resolved.poses)
    pulled = drag.pull(1, (20.0, 0.0), (20 * math.cos(0.8), 20 * math.sin(0.8)))
    turned = pulled.poses[:, 2] - mechanism.resolved.poses[:, 2]
    assert pulled.away < 1e-4
    assert turned[1:] == pytest.approx([0.8, -0.4, 0.8], abs=1e-4)
    residual = System(mechanism).residual(pulled.poses, mechanism.row_target)
    assert float(np.abs(residual).max()) < 1e-7


def test_a_train_that_contradicts_itself_is_locked() -> None:
    """Three wheels that all mesh with one another cannot turn."""
    axes = ((0.0, 0.0), (60.0, 0.0), (30.0, 50.0))
    pairs = (("j0", "j1"), ("j1", "j2"), ("j2", "j0"))
    doc = coupled(
        build.wheels(*axes),
        *(build.coupling(f"c{k}", "gears", a, b, 30, 30) for k, (a, b) in enumerate(pairs)),
    )
    motion = build.motion(build.driven(doc, ("j0", 0.0, 1.0), count=12))
    assert motion.mobility.freedoms == 0
    assert motion.end is not End.COMPLETE


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"first_size": 2.5}, "no number of teeth"),
        ({"first_size": 3}, "no number of teeth"),
        ({"first_size": -20}, "no number of teeth"),
        ({"second_size": None}, "second size is"),
        ({"second": "j0"}, "both of its joints are one"),
        ({"second": "gone"}, "no joint 'gone'"),
        ({"kind": "rack"}, "not prismatic"),
        ({"carrier": "gone"}, "no body 'gone'"),
        ({"kind": "belt", "first_size": 0.0}, "not above zero"),
        ({"kind": "internal_gears", "first_size": 60}, "does not fit into a ring"),
        ({"kind": "ratio", "first_size": 0.0}, "would not move"),
        ({"carrier": "loose"}, "no joints lead"),
    ],
)
def test_what_cannot_be_coupled_is_stated(change: dict[str, object], words: str) -> None:
    doc = build.wheels((0, 0), (60, 0))
    doc = doc.model_copy(update={"bodies": (*doc.bodies, build.body("loose", part="wheel"))})
    wrong = build.coupling("c", "gears", "j0", "j1", 20, 40).model_copy(update=change)
    with pytest.raises((ValueOutOfRangeError, LookupError), match=words):
        build.mechanism(coupled(doc, wrong))


@pytest.mark.parametrize(
    ("doc", "moves"),
    [
        (planetary(40, 20, 80), (("arm_axis", 0.0, 2.0), ("sun_axis", 0.0, 1.0))),
        (rack(20.0, 0.4), (("axle", 0.0, 2.0),)),
        (rack(-20.0, 0.0), (("axle", 0.0, 2.0),)),
        (screw(5.0), (("turn", 0.0, 9.0),)),
        (
            coupled(
                build.wheels((0, 0), (60, 0)), build.coupling("c", "gears", "j0", "j1", 20, 40)
            ),
            (("j0", 0.0, 3.0),),
        ),
    ],
)
def test_which_way_round_a_joint_was_made_changes_nothing(
    doc: m.Document, moves: tuple[tuple[str, float, float], ...]
) -> None:
    driven = build.driven(doc, *moves, count=12)
    before = build.motion(driven)
    names = [joint.id for joint in doc.joints]
    for chosen in (*([name] for name in names), names):
        turned = driven
        for name in chosen:
            turned = ReverseJoint(name).apply(turned)
        after = build.motion(turned)
        assert after.end is End.COMPLETE
        assert after.poses[-1] == pytest.approx(before.poses[-1], abs=1e-8)


def test_wheels_on_two_fixed_bodies_are_coupled_as_on_one() -> None:
    doc = coupled(build.wheels((0, 0), (60, 0)), build.coupling("c", "gears", "j0", "j1", 20, 40))
    other = build.body("base2", fixed=True, part="base")
    moved = doc.joints[1].model_copy(
        update={"first": doc.joints[1].first.model_copy(update={"body": "base2"})}
    )
    apart = doc.model_copy(
        update={"bodies": (*doc.bodies, other), "joints": (doc.joints[0], moved)}
    )
    got = turns(apart, ("j0", 0.0, TURN))
    assert got["w1"] == pytest.approx(-TURN / 2, abs=1e-9)


def test_universal_joint_runs_unevenly_as_the_formula_says() -> None:
    """tan θ2 = tan θ1 / cos β at β = 30°: greatest ratio 1/cos β, least cos β (recomputed)."""
    doc = coupled(
        build.wheels((0, 0), (80, 0)),
        build.coupling("bent", "angled_shafts", "j0", "j1", math.radians(30)),
    )
    joints = tuple(j.model_copy(update={"zero": 0.1 * k}) for k, j in enumerate(doc.joints))
    doc = doc.model_copy(update={"joints": joints})
    motion = build.motion(build.driven(doc, ("j0", 0.0, 3 * TURN), count=540))
    assert motion.end is End.COMPLETE and motion.mobility.freedoms == 1
    first, second = motion.values[:, 0], motion.values[:, 1]
    shown = second - second[0]
    true = np.unwrap(np.arctan2(np.sin(first) / math.cos(math.pi / 6), np.cos(first)))
    assert shown == pytest.approx(true, abs=1e-9)
    ratio = motion.samples.value_first[:, 1] / motion.samples.value_first[:, 0]
    assert float(ratio.max()) == pytest.approx(1.15470054, rel=1e-8)
    assert float(ratio.min()) == pytest.approx(0.866025404, rel=1e-8)
    at = motion.at(np.array([40.0 / 360.0 / 3.0]))
    assert math.degrees(at.values[0, 1] - second[0]) == pytest.approx(44.0953127, abs=1e-6)
    # Accelerations against differences of the rates.
    rates = motion.samples.value_first[:, 1]
    change = np.gradient(rates, motion.progress)
    bend = motion.samples.value_second[:, 1]
    assert bend[2:-2] == pytest.approx(change[2:-2], abs=2e-3 * float(np.abs(bend).max()))


def test_shafts_too_far_apart_in_angle_are_stated() -> None:
    doc = coupled(
        build.wheels((0, 0), (80, 0)),
        build.coupling("bent", "angled_shafts", "j0", "j1", math.radians(75)),
    )
    with pytest.raises(ValueOutOfRangeError, match="75° cannot turn by one universal joint"):
        build.mechanism(doc)
