"""Belts round wheels and idlers against closed forms: lengths, ratios, take-up."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from anakinema.authoring.belting import belt_round
from anakinema.authoring.rejoining import rejoined
from anakinema.authoring.snap_points import placed_snap
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits.joints import ReverseJoint
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import evaluate
from anakinema.findings.finding import Outcome
from anakinema.mechanism.belts import belt_runs, drawn_length, wheels_on_axles
from anakinema.mechanism.system import System
from anakinema.motion.branch_path import End
from anakinema.motion.drag import Drag
from tests import mechanisms as build
from tests.contacts import disc, solid

TURN = 2 * math.pi


def belted(doc: m.Document, *over: tuple[str, float, bool], **more: object) -> m.Document:
    stated = tuple(m.BeltWheel(joint=j, radius=r, back=b) for j, r, b in over)
    return doc.model_copy(update={"belts": (m.Belt(id="belt", wheels=stated, **more),)})


def length(doc: m.Document) -> float:
    resolved = resolve(doc)
    return drawn_length(wheels_on_axles(resolved), belt_runs(resolved)[0])


def test_open_and_crossed_belts_are_as_long_as_the_handbooks_say() -> None:
    """D = 250, d = 100, C = 600: open 1759.16598, crossed 1801.19182 (recomputed)."""
    pair = build.wheels((0.0, 0.0), (600.0, 0.0))
    opened = belted(pair, ("j0", 125.0, False), ("j1", 50.0, False))
    crossed = belted(pair, ("j0", 125.0, False), ("j1", 50.0, True))
    assert length(opened) == pytest.approx(1759.16598, abs=1e-5)
    assert length(crossed) == pytest.approx(1801.19182, abs=1e-5)


@pytest.mark.parametrize(("back", "ratio"), [(False, 2.5), (True, -2.5)])
def test_wheels_turn_by_their_radii_many_turns_on(back: bool, ratio: float) -> None:
    doc = belted(build.wheels((0.0, 0.0), (600.0, 0.0)), ("j0", 125.0, False), ("j1", 50.0, back))
    motion = build.motion(build.driven(doc, ("j0", 0.0, 3 * TURN), count=60))
    assert motion.end is End.COMPLETE and motion.mobility.freedoms == 1
    turned = motion.values[:, 1] - motion.values[0, 1]
    assert turned == pytest.approx(ratio * (motion.values[:, 0] - motion.values[0, 0]), abs=1e-8)


def test_idler_on_its_back_turns_the_other_way_and_changes_no_ratio() -> None:
    doc = belted(
        build.wheels((0.0, 0.0), (300.0, 0.0), (150.0, 30.0)),
        ("j0", 60.0, False),
        ("j1", 40.0, False),
        ("j2", 15.0, True),
    )
    motion = build.motion(build.driven(doc, ("j0", 0.0, TURN), count=36))
    turned = motion.values[-1, :3] - motion.values[0, :3]
    assert turned / TURN == pytest.approx([1.0, 1.5, -4.0], abs=1e-9)


def tensioned(stated: float | None = None) -> m.Document:
    """Two wheels, the second on a slide along the line of centres, its belt of one length."""
    doc = build.document(
        [
            build.part("base", a=(0.0, 0.0)),
            build.part("wheel", o=(0.0, 0.0)),
            build.part("slide", p=(0.0, 0.0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("w0", part="wheel"),
            build.body("slide", 200.0, 0.0),
            build.body("w1", 200.0, 0.0, part="wheel"),
        ],
        [
            build.joint("j0", "revolute", "base.a", "w0.o"),
            build.joint("take", "prismatic", "base.a", "slide.p"),
            build.joint("j1", "revolute", "slide.p", "w1.o"),
        ],
    )
    return belted(doc, ("j0", 40.0, False), ("j1", 40.0, False), length=stated)


def test_take_up_follows_from_the_length() -> None:
    """Equal wheels: length 2 C + 2 π r, so 10 mm more belt is 5 mm more between the centres."""
    drawn = length(tensioned())
    assert drawn == pytest.approx(2 * 200 + 2 * math.pi * 40, abs=1e-9)
    longer = build.motion(build.driven(tensioned(drawn + 10.0), ("j0", 0.0, TURN), count=24))
    k = longer.mechanism.joint_index("take")
    assert longer.values[:, k] == pytest.approx(np.full(25, 205.0), abs=1e-8)
    assert longer.mobility.freedoms == 1


def swinging() -> m.Document:
    """A belt round two wheels that an idler on a swinging arm takes up with its back."""
    doc = build.document(
        [
            build.part("base", a=(0.0, 0.0), b=(240.0, 0.0), pivot=(70.0, 80.0)),
            build.part("wheel", o=(0.0, 0.0)),
            build.part("arm", o=(0.0, 0.0), tip=(0.0, -60.0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("w0", part="wheel"),
            build.body("w1", 240.0, 0.0, part="wheel"),
            build.body("arm", 70.0, 80.0, 0.6),
            build.body("idler", 103.878548404, 30.479863105, part="wheel"),
        ],
        [
            build.joint("j0", "revolute", "base.a", "w0.o"),
            build.joint("j1", "revolute", "base.b", "w1.o"),
            build.joint("swing", "revolute", "base.pivot", "arm.o"),
            build.joint("spin", "revolute", "arm.tip", "idler.o"),
        ],
    )
    return belted(doc, ("j0", 50.0, False), ("j1", 50.0, False), ("spin", 15.0, True))


def test_swinging_the_arm_takes_belt_from_the_wheels_or_is_held_by_it() -> None:
    """The belt holds the arm: length and two turns leave one freedom, the run of the belt."""
    doc = swinging()
    motion = build.motion(build.driven(doc, ("j0", 0.0, TURN), count=36))
    assert motion.end is End.COMPLETE
    assert motion.mobility.freedoms == 1
    k = motion.mechanism.joint_index("swing")
    assert motion.values[:, k] == pytest.approx(np.full(37, motion.values[0, k]), abs=1e-9)


def test_a_wheel_whose_centre_moves_rolls_in_its_belt() -> None:
    """With the first wheel held, a wheel carried round it by an arm turns as in a planetary belt:
    ω2 = ω_arm (1 − r1 / r2) (R. Willis)."""
    doc = build.document(
        [
            build.part("base", a=(0.0, 0.0)),
            build.part("wheel", o=(0.0, 0.0)),
            build.part("arm", o=(0.0, 0.0), tip=(180.0, 0.0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("sun", part="wheel"),
            build.body("arm"),
            build.body("out", 180.0, 0.0, part="wheel"),
        ],
        [
            build.joint("held", "revolute", "base.a", "sun.o"),
            build.joint("arm", "revolute", "base.a", "arm.o"),
            build.joint("spin", "revolute", "arm.tip", "out.o"),
        ],
    )
    doc = belted(doc, ("held", 50.0, False), ("spin", 20.0, False))
    driven = build.driven(doc, ("held", 0.0, 0.0), ("arm", 0.0, 1.2 * TURN), count=48)
    motion = build.motion(driven)
    assert motion.end is End.COMPLETE
    turned = motion.poses[:, 3, 2] - motion.poses[0, 3, 2]
    arm = motion.poses[:, 2, 2] - motion.poses[0, 2, 2]
    assert turned == pytest.approx(arm * (1 - 50.0 / 20.0), abs=1e-8)


def test_a_dragged_wheel_takes_the_belt_along() -> None:
    doc = belted(build.wheels((0.0, 0.0), (300.0, 0.0)), ("j0", 60.0, False), ("j1", 30.0, False))
    mechanism = build.mechanism(doc)
    drag = Drag(mechanism, mechanism.resolved.poses)
    poses = drag.pull(1, (20.0, 0.0), (20 * math.cos(0.4), 20 * math.sin(0.4))).poses
    assert poses[1, 2] == pytest.approx(0.4, abs=1e-6)
    assert poses[2, 2] - mechanism.resolved.poses[2, 2] == pytest.approx(0.8, abs=1e-6)


@pytest.mark.parametrize(
    ("over", "words"),
    [
        ((("j0", 60.0, False), ("gone", 30.0, False)), "no joint 'gone'"),
        ((("j0", 0.0, False), ("j1", 30.0, False)), "not above zero"),
        ((("j0", 400.0, False), ("j1", 30.0, False)), "no room"),
    ],
)
def test_what_cannot_be_looped_is_stated(over: tuple, words: str) -> None:  # type: ignore[type-arg]
    doc = belted(build.wheels((0.0, 0.0), (300.0, 0.0)), *over)
    with pytest.raises(AnakinemaError, match=words):
        build.motion(build.driven(doc, ("j0", 0.0, 1.0)))


def test_runs_count_in_the_clearance() -> None:
    """Open belt on equal wheels of 40: its upper run lies at y = 40, a post of 5 at y = 52 is 7
    away; at y = 41 it is cut."""
    for y, least in ((52.0, 7.0), (41.0, 0.0)):
        doc = build.wheels((0.0, 0.0), (300.0, 0.0))
        post = solid("post", disc(150.0, y, 5.0), o=(0.0, 0.0))
        rim = disc(0.0, 0.0, 38.0)
        parts = tuple(
            p.model_copy(update={"slabs": (rim,)}) if p.id == "wheel" else p for p in doc.parts
        )
        doc = doc.model_copy(
            update={
                "parts": (*parts, post),
                "bodies": (*doc.bodies, build.body("post", fixed=True)),
            }
        )
        doc = belted(doc, ("j0", 40.0, False), ("j1", 40.0, False))
        verdict = evaluate(build.driven(doc, ("j0", 0.0, TURN), count=24)).verdict
        found = next(f for f in verdict.findings if f.kind == "belt")
        assert found.value == pytest.approx(least, abs=6e-3)
        assert found.outcome is (Outcome.PASS if least else Outcome.FAIL)
        assert found.gap is not None and found.gap.second_body == 3


@pytest.mark.parametrize("which", [0, 1])
def test_a_loop_finds_the_wheel_on_either_side_of_its_joint(which: int) -> None:
    """Laid on joints stated from the wheel to the frame, or turned round after it was laid."""
    doc = build.wheels((0.0, 0.0), (300.0, 0.0))
    over = (("j0", False), ("j1", False))
    if which:
        doc = ReverseJoint("j1").apply(doc)
    laid = belt_round(resolve(doc), over, "belt").edit.apply(doc)
    if not which:
        laid = ReverseJoint("j1").apply(laid)
    motion = build.motion(build.driven(laid, ("j0", 0.0, TURN), count=36))
    assert motion.end is End.COMPLETE
    assert motion.poses[-1, 2, 2] - motion.poses[0, 2, 2] == pytest.approx(TURN, abs=1e-9)


def test_a_length_that_nothing_takes_up_is_told_of_the_loop() -> None:
    """Equal wheels of 40 on axles 300 apart need 600 + 80 π = 851.327 mm."""
    doc = build.wheels((0.0, 0.0), (300.0, 0.0))
    doc = belted(doc, ("j0", 40.0, False), ("j1", 40.0, False), length=871.327)
    with pytest.raises(
        AnakinemaError, match=r"belt 'belt': its stated length is 20\.00 mm too long"
    ):
        build.motion(build.driven(doc, ("j0", 0.0, 1.0)))


@pytest.mark.parametrize("to", ["base.p2", "w2"])
def test_a_wheel_moved_elsewhere_takes_its_belt_along(to: str) -> None:
    """Its joint on another axle, or another wheel on it: the belt runs as before, as long as
    it is drawn there."""
    doc = build.wheels((0.0, 0.0), (300.0, 0.0), (150.0, 100.0))
    doc = doc.model_copy(update={"joints": doc.joints[:2]})
    doc = belted(doc, ("j0", 60.0, False), ("j1", 30.0, False))
    resolved = resolve(doc)
    snap = placed_snap(resolved, resolved.poses, *(("w2", "o") if to == "w2" else ("base", "p2")))
    side = {"second" if to == "w2" else "first": snap}
    after = rejoined(resolved, resolved.poses, "j1", **side).edit.apply(doc)
    motion = build.motion(build.driven(after, ("j0", 0.0, TURN), count=24))
    wheel = 3 if to == "w2" else 2
    assert motion.end is End.COMPLETE
    assert motion.poses[-1, wheel, 2] - motion.poses[0, wheel, 2] == pytest.approx(2 * TURN)
    apart = 300.0 if to == "w2" else math.hypot(150.0, 100.0)
    reach = math.sqrt(apart**2 - 30.0**2)
    lean = math.asin(30.0 / apart)
    around = 60.0 * (math.pi + 2 * lean) + 30.0 * (math.pi - 2 * lean)
    assert length(after) == pytest.approx(2 * reach + around, abs=1e-9)


@pytest.mark.parametrize("seed", range(6))
def test_change_of_speed_of_runs_stays_within_its_bound(seed: int) -> None:
    """Along any move within the speeds claimed, J·v changes by no more than the bound."""
    random = np.random.default_rng(seed)
    document = swinging()
    parts = tuple(
        part if part.id != "wheel" else build.part("wheel", o=tuple(random.uniform(-3, 3, 2)))
        for part in document.parts
    )
    mechanism = build.mechanism(document.model_copy(update={"parts": parts}))
    system = System(mechanism, ())
    zero, poses = np.zeros(system.rows), mechanism.resolved.poses
    most_unknowns = random.uniform(0.1, 10.0, system.unknowns)
    reach = 0.05
    bound = system.change_bound(
        system.frames(poses), system.scaled_rates(most_unknowns), np.array(reach)
    )
    _, here = system.residual_jacobian(poses, zero)
    worst = np.zeros(system.rows)
    for _ in range(200):
        rate = random.uniform(-1, 1, system.unknowns) * most_unknowns
        path = random.uniform(-1, 1, system.unknowns) * most_unknowns * reach
        _, there = system.residual_jacobian(system.moved(poses, path), zero)
        worst = np.maximum(worst, np.abs(there @ rate - here @ rate))
    assert (worst <= bound + 1e-9).all()
    assert (worst[-3:] > 0).all()


def moved_apart(off: tuple[float, float], *, on_arm: bool, seed: int) -> m.Document:
    """Three wheels of one base, or of an arm on it, whose second axle has been moved since they
    were drawn."""
    random = np.random.default_rng(seed)
    turns = random.uniform(-3, 3, 3).tolist()
    places = ((0.0, 0.0), (260.0 + off[0], 20.0 + off[1]), (120.0, 150.0))
    drawn = ((0.0, 0.0), (260.0, 20.0), (120.0, 150.0))
    carrier = "arm" if on_arm else "base"
    parts = [
        build.part("base", o=(0.0, 0.0)),
        build.part(carrier, o=(0.0, 0.0), **{f"p{k}": at for k, at in enumerate(places)}),
        build.part("wheel", c=(3.0, -4.0)),
    ][1 - on_arm :]
    bodies, joints = [build.body("base", fixed=True)], []
    if on_arm:
        bodies.append(build.body("arm"))
        joints.append(build.joint("swing", "revolute", "base.o", "arm.o"))
    for k, ((x, y), turn) in enumerate(zip(drawn, turns, strict=True)):
        dx = 3 * math.cos(turn) + 4 * math.sin(turn)
        dy = 3 * math.sin(turn) - 4 * math.cos(turn)
        bodies.append(build.body(f"w{k}", x - dx, y - dy, turn, part="wheel"))
        joints.append(build.joint(f"j{k}", "revolute", f"{carrier}.p{k}", f"w{k}.c"))
    over = [(f"j{k}", radius, False) for k, radius in enumerate((40.0, 25.0, 15.0))]
    doc = belted(build.document(parts, bodies, joints), *over)
    return build.driven(doc, ("j0", turns[0], turns[0] + TURN), count=24)


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("on_arm", [False, True])
def test_a_loop_on_axles_that_were_moved_is_as_long_as_it_must_be(seed: int, on_arm: bool) -> None:
    """No length is stated, so none is kept: it closes, and no wheel is turned by the edit."""
    off = np.random.default_rng(50 + seed).uniform(-40, 60, 2)
    doc = moved_apart((float(off[0]), float(off[1])), on_arm=on_arm, seed=seed)
    evaluation = evaluate(doc)
    motion, resolved = evaluation.motion, evaluation.resolved
    assert motion.end is End.COMPLETE
    wheels = [k for k, body in enumerate(doc.bodies) if body.id.startswith("w")]
    assert motion.poses[0, wheels, 2] == pytest.approx(resolved.poses[wheels, 2], abs=1e-9)
    turned = motion.poses[-1, wheels, 2] - motion.poses[0, wheels, 2]
    ratio = np.array([1.0, 40 / 25, 40 / 15])
    arm = motion.poses[-1, 1, 2] - motion.poses[0, 1, 2] if on_arm else 0.0
    assert turned - arm == pytest.approx(ratio * (turned[0] - arm), abs=1e-8)
    lengths = [drawn_length(poses, belt_runs(resolved)[0]) for poses in motion.poses]
    assert lengths == pytest.approx(np.full(len(lengths), taut(doc)), abs=1e-6)


def taut(doc: m.Document) -> float:
    """mm of a taut line round three discs: the edge of their hull, finely flattened."""
    places = next(p for p in doc.parts if len(p.places) > 2).places[-3:]
    discs = [
        shapely.Point(float(p.x), float(p.y)).buffer(radius, quad_segs=20_000)
        for p, radius in zip(places, (40.0, 25.0, 15.0), strict=True)
    ]
    return float(shapely.union_all(discs).convex_hull.length)
