"""First touches of random bodies, and what yields, against brute force that shares no code."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.analysis.overrun import pressed
from anakinema.findings.evaluate import evaluate
from anakinema.findings.finding import Outcome
from anakinema.geometry.poses import relative_poses
from anakinema.motion.branch_path import End
from anakinema.motion.closing import Spread, closing, nearing
from anakinema.motion.motion import Event, EventKind, Motion
from anakinema.motion.windows import contact_windows
from tests import mechanisms as build
from tests import touches, yielders
from tests.conftest import share
from tests.contacts import disc, slab, solid, touch

PARTS = 10
"""Tests that a campaign is cut into."""
TOUCHES = 2000
YIELDS = 300


def one_touch(seed: int) -> bool:
    """A random run against conservative advancement; whether it touches."""
    random = np.random.default_rng(seed)
    while True:
        run = touches.random_run(random)
        truth = touches.Truth(run)
        if truth.at(run.start)[0] > 1e-3:
            break
    step = math.radians(float(10 ** random.uniform(-1, 1.5)))
    stages = int(random.choice([1, 1, 3, 7]))
    far = float(random.choice([1.0, 300.0, 5000.0]))
    wide = step if run.swings else 50 * step
    count = int(np.clip(round(abs(run.travel) / wide / stages), 2, 2000))
    motion = build.motion(touches.document(run, count, stages, far))
    first, plain = truth.first()
    reached = float(motion.values[-1, 0]) if motion.end is End.TOUCHED else None
    if first is None or reached is None:
        # A graze within a hair may be judged either way.
        assert not plain or first == reached, (seed, reached, first)
        return False
    assert abs(reached - first) < 1e-6 * abs(run.travel), (seed, reached, first)
    return True


@pytest.mark.campaign
@pytest.mark.parametrize("part", range(PARTS))
def test_nothing_passes_through_whatever_steps_and_stages(part: int) -> None:
    """2,000 round, pointed and thin tips (`make prove`) on arms and slides against walls, ends of
    bars, corners and rounds; steps of 0.1 to 30 degrees, one to seven stages, an unrelated joint
    up to 5 m away."""
    each = share(TOUCHES // PARTS, 10)
    first = part * (TOUCHES // PARTS)
    met = sum(one_touch(first + k) for k in range(each))
    assert met > each / 4
    print(f"touches {part + 1}/{PARTS}: {each} runs, {met} touch, none passed through")


def falls(motion: Motion) -> list[Event]:
    return [e for e in motion.events if e.kind in (EventKind.DROP, EventKind.TOOTH)]


def one_yield(seed: int) -> bool:
    """A random detent, pawl or latch against brute force; whether it jams."""
    random = np.random.default_rng(seed)
    case = yielders.sound_case(random)
    stages = int(random.choice([1, 1, 2, 5]))
    motion = build.motion(yielders.document(case, stages=stages, count=int(random.choice([5, 60]))))
    steps = share(500, 250)
    true = yielders.Force(case, steps).run()
    step = abs(case.travel) / steps
    drive, give = (motion.mechanism.joint_index(name) for name in ("drive", "give"))
    reached = float(motion.values[-1, drive])
    assert (motion.end is End.COMPLETE) == (true.jam is None), (seed, case.name, motion.end)
    if true.jam is not None:
        assert motion.events[-1].kind is EventKind.JAM, seed
        assert abs(reached - true.jam) < 2.5 * step, (seed, case.name, reached, true.jam)
    last = min(len(true.at), int(abs(reached - case.start) / step))
    at, values = np.array(true.at[:last]), np.array(true.values[:last])
    if last > 1:
        progress = (at - case.start) / case.travel * stages
        found = motion.at(np.clip(progress, 0.0, motion.last)).values[:, give]
        off = np.abs(found - values) * case.reach
        steep = np.abs(np.gradient(values)) * case.reach
        drops = [x for x, _ in true.drops]
        drops += [
            case.start + case.travel * p / stages for p in [e.progress for e in falls(motion)]
        ]
        plain = steep < 0.2 * case.small
        for drop in drops:
            plain &= np.abs(at - drop) > 2.5 * step
        # The brute force's outlines are stated in chords.
        assert (off[plain] < 2e-3 + 1e-3 * steep[plain]).all(), (seed, case.name, off.max())
    least = 1e-5 * case.small / case.reach
    assert all((e.value or 0.0) > least for e in falls(motion)), seed
    return true.jam is not None


@pytest.mark.campaign
@pytest.mark.parametrize("part", range(PARTS // 2))
def test_what_yields_jams_and_falls_as_brute_force_says(part: int) -> None:
    """300 detents, pawls, latches and racks (`make prove`), forwards and back, in one to five
    stages: no false jam, no missed drop."""
    whole = YIELDS // (PARTS // 2)
    each = share(whole, 1)
    jams = [one_yield(part * whole + k) for k in range(each)]
    # A fair share of all cases jams, and a fair share does not.
    assert each < whole or 0 < sum(jams) < each
    print(f"yielding {part + 1}/{PARTS // 2}: {each} cases, {sum(jams)} jam, as brute force says")


@given(
    st.lists(st.floats(-40.0, 40.0), min_size=6, max_size=6),
    st.lists(st.floats(-3.0, 3.0), min_size=6, max_size=6),
    st.lists(st.floats(0.0, 0.5), min_size=6, max_size=6),
    st.floats(1e-3, 0.2),
    st.integers(0, 2**31),
)
@hypothesis_settings(max_examples=60)
def test_gaps_and_margins_change_by_no_more_than_the_bounds(
    places: list[float], rates: list[float], loose: list[float], half: float, seed: int
) -> None:
    """Two outlines of lines, rounds and bowls moved with rates that waver within their bounds."""
    one = slab([(-10, -6), (10, -6, 0.4), (10, 6), (2, 6, -0.8), (-4, 6), (-10, 6)])
    two = slab([(-8, 0, 0.7), (5, -3), (9, 4), (-2, 7)])
    doc = build.document(
        [build.part("frame", o=(0, 0)), solid("a", one, o=(0, 0)), solid("b", two, o=(0, 0))],
        [build.body("frame", fixed=True), build.body("a"), build.body("b")],
        [
            build.joint("ja", "revolute", "frame.o", "a.o"),
            build.joint("jb", "revolute", "frame.o", "b.o"),
        ],
        contacts=(touch("stop", "a", "b"),),
    )
    (facing,) = build.mechanism(doc).facings
    pose, first = (np.zeros((1, 3, 3)) for _ in range(2))
    pose[0, 1:] = np.array(places).reshape(2, 3) * (1, 1, 0.05)
    first[0, 1:] = np.array(rates).reshape(2, 3)
    more = np.zeros((1, 3, 3))
    more[0, 1:] = np.array(loose).reshape(2, 3)
    at = Spread(pose, first, np.abs(first) + more, np.array([half]))
    change, turning = closing(facing, facing.pairs, at)
    random = np.random.default_rng(seed)
    steps = 200
    waver = np.cumsum(random.uniform(-1, 1, (steps, 3, 3)), axis=0)
    waver *= more / np.maximum(np.abs(waver).max(axis=0), 1e-9)
    path = pose[0] + np.cumsum((first[0] + waver) * half / steps, axis=0)
    a, b = facing.bodies
    gap0, margin0 = facing.pairs.gaps(relative_poses(pose[:, a], pose[:, b]))
    gap, margin = facing.pairs.gaps(relative_poses(path[:, a], path[:, b]))
    assert (np.abs(gap - gap0) <= change * half + 1e-9).all()
    # A margin of a full round jumps by no more than the angle wraps.
    rises = margin - margin0 <= turning * half + 1e-9
    assert rises[:, np.abs(margin0[0]) < math.pi / 2].all()
    reach = facing.pairs.reach(relative_poses(pose[:, a], pose[:, b]))
    later = facing.pairs.reach(relative_poses(path[:, a], path[:, b]))
    assert (later >= reach - nearing(facing, at)[:, None] * half - 1e-9).all()


def standing(angle: float) -> build.m.Document:
    """A tip of radius 3.8 on an arm of 87 mm, and a fixed bar that stands 2 mm in its way."""
    c, s = math.cos(angle), math.sin(angle)
    corners = ((88.8, -6), (100, -6), (100, 6), (88.8, 6))
    points = [(c * x - s * y, s * x + c * y) for x, y in corners]
    doc = build.document(
        [
            build.part("frame", o=(0, 0)).model_copy(update={"slabs": (slab(points),)}),
            solid("arm", disc(87.0, 0.0, 3.8), o=(0, 0)),
        ],
        [build.body("frame", fixed=True), build.body("arm")],
        [build.joint("spin", "revolute", "frame.o", "arm.o")],
        contacts=(touch("stop", "arm", "frame"),),
    )
    return build.driven(doc, ("spin", 0.0, 2 * math.pi), count=72)


@pytest.mark.parametrize("turn", np.linspace(1.0, 5.5, 12).tolist())
def test_a_tip_is_stopped_by_a_bar_that_stands_a_little_in_its_way(turn: float) -> None:
    """The corner that comes first lies (88.8, -6) from the shaft as the bar does; the tip's rim
    meets it by the cosine rule."""
    evaluation = evaluate(standing(turn))
    assert evaluation.motion.end is End.TOUCHED
    assert evaluation.verdict.findings[0].outcome is Outcome.FAIL
    far = math.hypot(88.8, 6.0)
    apart = math.acos((87.0**2 + far**2 - 3.8**2) / (2 * 87.0 * far))
    met = turn - math.atan2(6.0, 88.8) - apart
    assert evaluation.motion.values[-1, 0] == pytest.approx(met, abs=1e-9)


def test_a_dog_takes_a_loose_bar_on_its_own_shaft_along() -> None:
    """All joints lie at one point, so that only the outlines say how large the machine is."""
    bar = slab([(0, -4), (40, -4), (40, 4), (0, 4)])
    doc = build.document(
        [
            build.part("frame", o=(0, 0)),
            solid("dog", disc(30, 0, 3), o=(0, 0)),
            solid("bar", bar, o=(0, 0)),
        ],
        [build.body("frame", fixed=True), build.body("dog"), build.body("bar", angle=math.pi / 2)],
        [
            build.joint("spin", "revolute", "frame.o", "dog.o"),
            build.joint("free", "revolute", "frame.o", "bar.o", yields="friction"),
        ],
        contacts=(touch("push", "dog", "bar"),),
    )
    motion = build.motion(build.driven(doc, ("spin", 0.0, 4 * math.pi), count=90))
    assert motion.end is End.COMPLETE
    # The dog's rim meets the bar's side when its centre is 7 mm off the bar's middle.
    lag = math.asin(7 / 30)
    (met,) = [e for e in motion.events if e.kind is EventKind.TOUCH]
    assert met.progress * 4 * math.pi == pytest.approx(math.pi / 2 - lag, abs=1e-9)
    assert motion.values[-1, 1] == pytest.approx(4 * math.pi + lag - math.pi / 2, abs=1e-9) or (
        motion.poses[-1, 2, 2] == pytest.approx(4 * math.pi + lag, abs=1e-9)
    )


def test_contact_windows_say_from_where_to_where() -> None:
    """A cam's nose of radius 5 lifts a tappet that otherwise hangs at its rest."""
    case = yielders.Case(
        "rack",
        [(-40, -10), (40, -10), (40, 0), (10, 0), (0, 10), (-10, 0), (-40, 0)],
        yielders.circle(2.0),
        True,
        False,
        (0.0, 0.0),
        -30.0,
        60.0,
        15.0,
        5.0,
        1.0,
        2.0,
    )
    motion = build.motion(yielders.document(case))
    (window,) = contact_windows(motion)
    # At rest the ball's middle stands 5 mm high; flanks at 45 degrees meet it 2·sqrt(2) aside.
    half = 10 - 5 + 2 * math.sqrt(2)
    drive = [-30 + 60 * p for p in (window.begin, window.end)]
    assert drive == pytest.approx([-half, half], abs=1e-8)


def test_where_every_pair_is_in_contact_a_sound_mechanism_passes() -> None:
    random = np.random.default_rng(3)
    case = next(c for c in iter(lambda: yielders.sound_case(random), None) if c.name == "detent")
    evaluation = evaluate(yielders.document(case))
    assert evaluation.verdict.exit_status == 0
    (overlap,) = [f for f in evaluation.verdict.findings if f.kind == "overlap"]
    assert overlap.outcome is Outcome.PASS and overlap.reason == "all in contact"


def test_kept_bodies_that_meet_elsewhere_are_stopped() -> None:
    """A roller kept on a rail runs against the rail's own end stop."""
    rail = slab([(-50, -5), (60, -5), (60, 20), (50, 20), (50, 0), (-50, 0)])
    doc = build.document(
        [
            build.part("frame", o=(0, 0), along=(0, 0, 0)).model_copy(update={"slabs": (rail,)}),
            build.part("cart", o=(0, 0, 0), up=(0, 0, math.pi / 2)),
            solid("roller", disc(0, 0, 6), o=(0, 0, math.pi / 2)),
        ],
        [build.body("frame", fixed=True), build.body("cart"), build.body("roller", 0, 6.0)],
        [
            build.joint("push", "prismatic", "frame.along", "cart.o"),
            build.joint("rise", "prismatic", "cart.up", "roller.o"),
        ],
        contacts=(touch("keep", "frame", "roller"),),
    )
    motion = build.motion(build.driven(doc, ("push", 0.0, 80.0), count=20))
    assert motion.end is End.TOUCHED
    assert motion.values[-1, 0] == pytest.approx(44.0, abs=1e-6)


def test_bodies_in_contact_that_overlapped_all_the_same_would_be_stated() -> None:
    """The net under the search: the same motion without contact, held against those outlines."""
    doc = standing(2.0)
    through = build.motion(doc.model_copy(update={"contacts": ()}))
    assert through.end is End.COMPLETE and pressed(through) == []
    (gap,) = pressed(replace(through, mechanism=build.mechanism(doc)))
    # The tip reaches 2 mm into the bar.
    assert gap.overlaps and gap.most == pytest.approx(-2.0, abs=0.05)
    assert pressed(build.motion(doc)) == []
