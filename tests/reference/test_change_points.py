"""Change points: random machines against their closed form, and the special cases one by one."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest

from anakinema.findings.evaluate import evaluate
from anakinema.findings.event_wording import event_words
from anakinema.motion.branch_path import End
from anakinema.motion.motion import EventKind, Motion
from tests import mechanisms as build
from tests.conftest import share
from tests.rods import (
    FULL_TURN,
    Coupling,
    Machine,
    Slider,
    Wheel,
    document,
    random_machine,
    truth,
    turns,
)

MACHINES = 3000
PARTS = 10


def sides_taken(machine: Machine, motion: Motion, travel: float) -> tuple[float, list[float]]:
    """The assemblies that fit a motion best, and by how much of a turn they are off."""
    ids = [body.id for body in motion.mechanism.resolved.document.bodies]
    rows = [ids.index(f"w{k}") for k in range(len(machine.wheels))]
    best = (math.inf, machine.sides)
    for signs in itertools.product((1.0, -1.0), repeat=len(machine.wheels) - 1):
        exact = turns(machine, machine.start + travel * motion.progress, list(signs))
        off = float(np.abs(np.sin((motion.poses[:, rows, 2].T - exact) / 2)).max())
        best = min(best, (off, list(signs)), key=lambda each: each[0])
    return best


def check(seed: int) -> tuple[int, int]:
    """One random machine against its closed form; gives its change points and extremes."""
    random = np.random.default_rng(seed)
    machine = random_machine(random)
    travel = float(random.choice([1, -1])) * float(random.uniform(1.0, 13.0))
    step = math.radians(float(10 ** random.uniform(-1, math.log10(30))))
    count = int(np.clip(round(abs(travel) / step), 2, 2000))
    motion = build.motion(document(machine, travel, count))
    assert motion.end is End.COMPLETE, (seed, motion)
    off, sides = sides_taken(machine, motion, travel)
    assert 2 * off < 1e-9, (seed, off)
    true = truth(machine, travel, sides)
    changes = [e.progress for e in motion.events if e.kind is EventKind.CHANGE_POINT]
    wanted: list[float] = []
    for place in true.changes:
        if not wanted or place - wanted[-1] > 1e-9:
            wanted.append(place)
    assert len(changes) == len(wanted), (seed, changes, wanted)
    assert np.abs(np.subtract(changes, wanted)).max(initial=0.0) < 1e-9, seed
    joints = [joint.id for joint in motion.mechanism.resolved.document.joints]
    extremes = 0
    for name, places in true.extremes.items():
        found = [
            e.progress
            for e in motion.events
            if e.kind is EventKind.EXTREME
            and e.joint == joints.index(name)
            and 1e-7 < e.progress < 1 - 1e-7
        ]
        assert len(found) == len(places), (seed, name, found, places)
        # The truth's own places are roots of difference quotients.
        assert np.abs(np.subtract(found, places)).max(initial=0.0) < 3e-9, (seed, name)
        extremes += len(places)
    return len(wanted), extremes


@pytest.mark.campaign
@pytest.mark.parametrize("part", range(PARTS))
def test_random_machines_of_coupled_loops_keep_their_branch(part: int) -> None:
    """3,000 machines (`make prove`) of two to four coupled parallel, crossed and kite loops with
    ratios up to 30 and crossheads, begun anywhere and stepped by 0.1 to 30 degrees."""
    each = share(MACHINES // PARTS, 2)
    counts = [check(part * (MACHINES // PARTS) + k) for k in range(each)]
    changes, extremes = np.sum(counts, axis=0)
    assert changes + extremes > 0
    print(f"machines {part + 1}/{PARTS}: {each}, {changes} change points, {extremes} extremes")


def rods(*radii: float, start: float = 0.0, far: int = 1, length: float = 120.0) -> Machine:
    """Wheel w0 drives ``far`` wheels by rods at the given radii, all in phase."""
    wheels = [Wheel(0.0, 0.0)]
    for k in range(far):
        x = length * (k + 1) * (1 if k % 2 == 0 else -1)
        chosen = radii if far == 1 else radii[k : k + 1]
        direction = 0.0 if x > 0 else math.pi
        couplings = [Coupling(0, r, 0.0, abs(x), r) for r in chosen]
        wheels.append(Wheel(x, 0.0, couplings, direction, abs(x)))
    return Machine(wheels, [], start, [1.0] * far)


def turned_alike(motion: Motion, far: int) -> bool:
    """Whether all wheels turn as the first does."""
    ids = [body.id for body in motion.mechanism.resolved.document.bodies]
    angles = motion.poses[:, [ids.index(f"w{k}") for k in range(far + 1)], 2]
    turned = angles - angles[:1]
    return bool(np.abs(turned - turned[:, :1]).max() < 1e-9)


@pytest.mark.parametrize("radii", [(30.0,), (30.0, 1.0), (40.0, 13.0, 1.5), (2.0, 60.0, 9.0)])
@pytest.mark.parametrize("start", [0.0, math.pi, 0.4])
def test_rods_side_by_side_go_through_together_and_are_told_once(
    radii: tuple[float, ...], start: float
) -> None:
    """Parallel rods in phase on very unequal cranks, drawn at their change point too."""
    machine = rods(*radii, start=start)
    motion = build.motion(document(machine, FULL_TURN, 90))
    assert motion.end is End.COMPLETE
    assert turned_alike(motion, 1)
    places = [
        start + e.progress * FULL_TURN for e in motion.events if e.kind is EventKind.CHANGE_POINT
    ]
    wanted = [k * math.pi for k in range(4) if start - 1e-9 <= k * math.pi <= start + FULL_TURN]
    assert places == pytest.approx(wanted, abs=1e-9)
    assert not [
        e
        for e in motion.events
        if e.kind is EventKind.EXTREME and 1e-9 < e.progress < 1 - 1e-9 and "axle" in str(e.joint)
    ]


@pytest.mark.parametrize("step", [0.1, 0.8, 1.0, 7.0, 30.0])
def test_dead_centres_that_fall_on_change_points_are_found_whatever_the_step(step: float) -> None:
    """A crosshead on the far wheel stands at 0 and 180 degrees, right where the rods change."""
    machine = rods(32.0)
    machine.sliders = [Slider(1, 32.0, 0.0, 150.0, math.pi)]
    motion = build.motion(document(machine, 1.5 * FULL_TURN, round(540 / step)))
    guide = motion.mechanism.joint_index("guide0")
    dead = [e for e in motion.events if e.kind is EventKind.EXTREME and e.joint == guide]
    assert [e.progress * 540 for e in dead] == pytest.approx([0, 180, 360, 540], abs=1e-6)
    spread = [e.value for e in dead]
    assert np.abs(np.diff(spread)) == pytest.approx([64.0] * 3, abs=1e-9)


def test_each_change_point_names_its_loops() -> None:
    """Two wheels driven by a rod each: stated once, and both loops are named."""
    evaluation = evaluate(document(rods(30.0, 30.0, start=0.5, far=2), FULL_TURN, 60))
    found = [e for e in evaluation.motion.events if e.kind is EventKind.CHANGE_POINT]
    assert len(found) == 2
    names = [body.id for body in evaluation.document.bodies]
    for event in found:
        loops = {frozenset(names[b] for b in loop) for loop in event.loops}
        assert loops == {frozenset({"w0", "rod1_0", "w1"}), frozenset({"w0", "rod2_0", "w2"})}
        words = event_words(evaluation, event)
        assert "w0–w1–rod1 0" in words and "w0–w2–rod2 0" in words


def scissor(stages: int, lean: float, arm: float = 50.0) -> build.m.Document:
    """Crossed bars of 2 ``arm``, the first pivoted at the base, its partner on a slide."""
    parts = [
        build.part("base", o=(0, 0), s=(0, 0, 0)),
        build.part("bar", a=(0, 0), m=(arm, 0), b=(2 * arm, 0)),
        build.part("shoe", o=(0, 0)),
    ]
    bodies = [build.body("base", fixed=True)]
    joints = []
    wide, high = 2 * arm * math.cos(lean), 2 * arm * math.sin(lean)
    for k in range(stages):
        bodies.append(build.body(f"a{k}", 0, k * high, lean, part="bar"))
        bodies.append(build.body(f"b{k}", wide, k * high, math.pi - lean, part="bar"))
        joints.append(build.joint(f"mid{k}", "revolute", f"a{k}.m", f"b{k}.m"))
        if k:
            joints.append(build.joint(f"l{k}", "revolute", f"b{k - 1}.b", f"a{k}.a"))
            joints.append(build.joint(f"r{k}", "revolute", f"a{k - 1}.b", f"b{k}.a"))
    bodies.append(build.body("shoe", wide, 0, 0))
    joints += [
        build.joint("piv", "revolute", "base.o", "a0.a"),
        build.joint("run", "prismatic", "base.s", "shoe.o"),
        build.joint("sp", "revolute", "shoe.o", "b0.a"),
    ]
    return build.document(parts, bodies, joints)


@pytest.mark.parametrize("stages", [2, 3, 4, 5])
@pytest.mark.parametrize(("start", "end"), [(0.6, -0.6), (0.0, -0.6), (0.6, 0.0)])
def test_scissor_goes_through_flat_with_any_number_of_stages(
    stages: int, start: float, end: float
) -> None:
    """All bars of one hand turn alike; flat is a change point of every loop at once."""
    doc = build.driven(scissor(stages, start), ("piv", start, end), count=40)
    motion = build.motion(doc)
    assert motion.end is End.COMPLETE and motion.mobility.freedoms == 1
    ids = [body.id for body in motion.mechanism.resolved.document.bodies]
    lean = motion.poses[:, ids.index("a0"), 2]
    for k in range(stages):
        assert np.abs(np.sin(motion.poses[:, ids.index(f"a{k}"), 2] - lean)).max() < 1e-9
        assert np.abs(np.sin(motion.poses[:, ids.index(f"b{k}"), 2] + lean)).max() < 1e-9
    (change,) = [e for e in motion.events if e.kind is EventKind.CHANGE_POINT]
    assert change.progress == pytest.approx((0.0 - start) / (end - start), abs=1e-9)
    assert len(change.loops) == stages - 1


def test_program_cut_at_a_change_point_goes_on_as_uncut() -> None:
    """Stages that end and begin exactly there keep the branch, crossed rods too."""
    machine = Machine(
        [Wheel(0, 0), Wheel(100, 0, [Coupling(0, 40.0, 0.0, 100.0, 40.0)], 0.0, 100.0)],
        [],
        0.6,
        [-1.0],
    )
    uncut = build.motion(document(machine, 3 * math.pi, 200))
    doc = document(machine, 3 * math.pi, 200)
    stages = tuple(
        build.m.Stage(moves=(build.m.Move(driver="d0", to=to),), count=50)
        for to in (math.pi, 2 * math.pi, 0.6 + 3 * math.pi)
    )
    cut = build.motion(
        doc.model_copy(update={"program": doc.program.model_copy(update={"stages": stages})})
    )
    assert cut.end is End.COMPLETE
    driver = cut.values[:, 0]
    there = uncut.at((driver - 0.6) / (3 * math.pi))
    assert np.abs(np.sin((there.poses[..., 2] - cut.poses[..., 2]) / 2)).max() < 1e-9
    kinds = [e.kind for e in cut.events if e.kind is EventKind.CHANGE_POINT]
    assert len(kinds) == 3


def test_kite_whose_crank_meets_the_other_axle_is_drawn_there() -> None:
    """As long as the frame, the crank's end lies on the other axle: the rod there could turn by
    itself, but the driver moves it on, once round in two turns of the crank."""
    machine = Machine(
        [Wheel(0, 0), Wheel(60, 0, [Coupling(0, 60.0, 0.0, 90.0, 90.0)], 0.0, 60.0)], [], 0.0, [1.0]
    )
    motion = build.motion(document(machine, 2 * FULL_TURN, 200))
    assert motion.end is End.COMPLETE and not motion.mobility.undriven
    off, _ = sides_taken(machine, motion, 2 * FULL_TURN)
    assert off < 1e-9
    assert abs(motion.values[-1, 1] - motion.values[0, 1]) == pytest.approx(FULL_TURN, abs=1e-9)


def test_driver_dead_point_beside_a_change_point_still_ends_the_motion() -> None:
    """A slide that drives a crank stands at its dead centre just as the rods change."""
    machine = rods(30.0, start=0.7)
    machine.sliders = [Slider(0, 30.0, 0.0, 100.0, 0.0)]
    doc = document(machine, 1.0, 60)
    mechanism = build.mechanism(doc)
    k = mechanism.joint_index("guide0")
    begin = float(mechanism.values(mechanism.resolved.poses)[k])
    motion = build.motion(build.driven(doc, ("guide0", begin, 140.0), count=60))
    assert motion.end is End.DEAD_POINT
    # Crank and rod in line: 30 + 100 mm.
    assert motion.values[-1, k] == pytest.approx(130.0, abs=1e-7)


def test_loop_that_stands_at_its_change_point_all_along_stops_nothing() -> None:
    """Crank and rod equally long turn about one axle and leave the far wheel still; what hangs on
    that, rod and cranks in line, can shake there but never moves."""
    wheels = [
        Wheel(0, 0),
        Wheel(27.5, 0, [Coupling(0, 9.7, 0.0, 9.7, 27.5)], 0.0, 27.5),
        Wheel(225.5, 0, [Coupling(1, 17.0, 0.0, 198.0, 17.0)], 0.0, 198.0),
    ]
    still = next(
        side
        for side in (1.0, -1.0)
        if np.ptp(
            turns(Machine(wheels, [], -2.0, [side, 1.0]), np.linspace(-2, 2, 50), [side, 1.0])[1]
        )
        < 1e-9
    )
    motion = build.motion(document(Machine(wheels, [], -2.0, [still, 1.0]), 4.0, 60))
    assert motion.end is End.COMPLETE
    axles = [motion.mechanism.joint_index(f"axle{k}") for k in range(3)]
    assert np.ptp(motion.values[:, axles], axis=0) == pytest.approx([4.0, 0.0, 0.0], abs=1e-9)


@pytest.mark.parametrize("start", [math.pi, 0.0, -2.0])
@pytest.mark.parametrize("side", [1.0, -1.0])
def test_drawn_on_a_change_point_while_another_loop_stands_at_its_own(
    start: float, side: float
) -> None:
    """Parallel rods drive a crank and rod equally long about one axle; the loop behind those
    stands at its change point all along, and the rods are drawn at theirs."""
    machine = Machine(
        [
            Wheel(0, 0),
            Wheel(67.0, 0, [Coupling(0, 26.8, 0.0, 67.0, 26.8)], 0.0, 67.0),
            Wheel(477.0, 0, [Coupling(1, 15.4, 0.0, 15.4, 410.0)], 0.0, 410.0),
            Wheel(526.0, 0, [Coupling(2, 7.7, 0.0, 25.9, 49.0 + 7.7 - 25.9)], 0.0, 49.0),
        ],
        [],
        start,
        [1.0, side, 1.0],
    )
    motion = build.motion(document(machine, -3.7, 300))
    assert motion.end is End.COMPLETE
    off, _ = sides_taken(machine, motion, -3.7)
    assert off < 1e-9
