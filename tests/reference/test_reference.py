"""The kernel against published and recomputed values."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.geometry.contour import circle, hull, rectangle
from anakinema.geometry.distance import Question, distances
from anakinema.geometry.region import Region
from anakinema.mechanism.solve import apply, pseudo_inverses
from anakinema.mechanism.system import System
from anakinema.motion.assemble import close
from anakinema.motion.branch_path import End
from anakinema.motion.mobility import analyse_mobility
from anakinema.motion.motion import EventKind, Motion
from tests import mechanisms as build
from tests.reference.values import MOBILITY_SOURCE, VALUES, reference


def rates_at(doc, joint: str, omega: float, alpha: float):  # type: ignore[no-untyped-def]
    """Poses, body rates and body accelerations with one joint driven at omega and alpha."""
    mechanism = build.mechanism(doc)
    system = System(mechanism, (mechanism.joint_index(joint),))
    joints_only = System(mechanism)
    poses = close(joints_only, mechanism.resolved.poses, mechanism.row_target).poses
    _, jacobian = system.residual_jacobian(poses, np.zeros(system.rows))
    inverse = pseudo_inverses(jacobian[None])[0]
    first = system.scaled_rates(apply(inverse, system.target_rates(np.array([omega]))))
    right = system.quadratic(poses, first) + system.target_rates(np.array([alpha]))
    return mechanism, poses, first, system.scaled_rates(apply(inverse, right))


def extreme(motion: Motion, joint: str, side: int):  # type: ignore[no-untyped-def]
    index = motion.mechanism.joint_index(joint)
    return next(
        e
        for e in motion.events
        if e.kind is EventKind.EXTREME and e.joint == index and e.side == side
    )


def driver_at(motion: Motion, progress: float) -> float:
    return math.degrees(motion.at(np.array([progress])).values[0, motion.driver_joints[0]])


def test_every_value_has_a_source() -> None:
    assert len({value.name for value in VALUES}) == len(VALUES)
    for value in VALUES:
        assert value.source.strip(), value.name
        assert value.tolerance > 0


@pytest.mark.parametrize(
    ("name", "is_open"), [("four-bar open", True), ("four-bar crossed", False)]
)
def test_four_bar_position_velocity_acceleration(name: str, is_open: bool) -> None:
    ref = reference(name)
    i = ref.inputs
    doc = build.four_bar(
        i["a"], i["b"], i["c"], i["d"], math.radians(i["theta_deg"]), is_open=is_open
    )
    mechanism, poses, first, second = rates_at(doc, "crank_pivot", 25.0, 15.0)
    coupler, rocker = mechanism.body_index("coupler"), mechanism.body_index("rocker")
    angle = poses[rocker, 2]
    arm = i["c"] * np.array([math.cos(angle), math.sin(angle)])
    across = np.array([-arm[1], arm[0]])
    got = {
        "theta3_deg": math.degrees(poses[coupler, 2]),
        "theta4_deg": math.degrees(angle),
        "omega3": first[coupler, 2],
        "omega4": first[rocker, 2],
        "alpha3": second[coupler, 2],
        "alpha4": second[rocker, 2],
        "bx": i["d"] + arm[0],
        "by": arm[1],
    }
    velocity = first[rocker, 2] * across
    acceleration = second[rocker, 2] * across - first[rocker, 2] ** 2 * arm
    got |= dict(zip(("vbx", "vby", "abx", "aby"), (*velocity, *acceleration), strict=True))
    for key, expected in ref.expected.items():
        assert got[key] == pytest.approx(expected, abs=max(ref.tolerance, 1e-8 * abs(expected))), (
            key
        )
    # Not to the printed digits only: the closed form, to 1e-9.
    lengths = (i["a"], i["b"], i["c"], i["d"])
    theta3, theta4 = build.four_bar_angles(*lengths, math.radians(i["theta_deg"]), is_open=is_open)
    assert poses[[coupler, rocker], 2] == pytest.approx([theta3, theta4], abs=1e-9)


def test_four_bar_over_a_turn_agrees_with_closed_form() -> None:
    motion = build.motion(
        build.driven(build.four_bar(40, 120, 80, 100, 0.0), ("crank_pivot", 0.0, build.FULL_TURN))
    )
    exact = np.array([build.four_bar_angles(40, 120, 80, 100, t) for t in motion.values[:, 0]])
    assert np.abs(build.wrap(motion.poses[:, 2:4, 2] - exact)).max() < 1e-9
    # Speeds by the closed form: w4/w2 = a sin(t3 - t2) / (c sin(t3 - t4)).
    t2, t3, t4 = motion.values[:, 0], exact[:, 0], exact[:, 1]
    ratio = 40 * np.sin(t3 - t2) / (80 * np.sin(t3 - t4))
    assert motion.samples.first[:, 3, 2] / build.FULL_TURN == pytest.approx(ratio, abs=1e-9)


def test_rocker_dead_centres_and_transmission_extremes() -> None:
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.1), ("crank_pivot", 0.1, 0.1 + build.FULL_TURN), count=77
    )
    motion = build.motion(doc)
    ref = reference("rocker dead centres")
    least, greatest = extreme(motion, "rocker_pivot", -1), extreme(motion, "rocker_pivot", 1)
    assert math.degrees(least.value) == pytest.approx(ref.expected["least_deg"], abs=ref.tolerance)
    assert math.degrees(greatest.value) == pytest.approx(
        ref.expected["greatest_deg"], abs=ref.tolerance
    )
    first, last = driver_at(motion, least.progress), driver_at(motion, greatest.progress)
    assert first == pytest.approx(ref.expected["least_at_deg"], abs=1e-6)
    assert last == pytest.approx(ref.expected["greatest_at_deg"], abs=1e-6)
    ratio = (last - first) / (360 - (last - first))
    assert ratio == pytest.approx(ref.expected["time_ratio"], abs=1e-8)
    angle = reference("transmission angle")
    folded = [
        math.degrees(e.value) for e in motion.events if e.kind is EventKind.EXTREME and e.joint == 2
    ]
    assert sorted(folded) == pytest.approx(
        [angle.expected["at_0_deg"], angle.expected["at_180_deg"]], abs=angle.tolerance
    )


@pytest.mark.parametrize(
    ("name", "start", "key"),
    [("input limit b+c", 0.3, "limit_deg"), ("input limits both", 1.0, "outer_deg")],
)
def test_input_limits_are_dead_points(name: str, start: float, key: str) -> None:
    ref = reference(name)
    i = ref.inputs
    doc = build.four_bar(i["a"], i["b"], i["c"], i["d"], start)
    motion = build.motion(build.driven(doc, ("crank_pivot", start, start + build.FULL_TURN)))
    assert motion.end is End.DEAD_POINT
    assert math.degrees(motion.values[-1, 0]) == pytest.approx(ref.expected[key], abs=ref.tolerance)
    if "inner_deg" in ref.expected:
        back = build.motion(build.driven(doc, ("crank_pivot", start, start - build.FULL_TURN)))
        assert math.degrees(back.values[-1, 0]) == pytest.approx(
            ref.expected["inner_deg"], abs=ref.tolerance
        )


def test_input_limit_through_180() -> None:
    ref = reference("input limit b-c")
    doc = build.four_bar(100, 110, 45, 50, math.pi)
    motion = build.motion(build.driven(doc, ("crank_pivot", math.pi, math.pi + build.FULL_TURN)))
    expected = 360 - ref.expected["limit_deg"]
    assert math.degrees(motion.values[-1, 0]) == pytest.approx(expected, abs=ref.tolerance)


@pytest.mark.parametrize("name", ["in-line crank slider", "offset crank slider"])
def test_crank_slider_position_and_rates(name: str) -> None:
    ref = reference(name)
    i = ref.inputs
    doc = build.crank_slider(i["r"], i["l"], i["offset"], math.radians(i["theta_deg"]))
    mechanism, poses, first, second = rates_at(doc, "crank_pivot", i["omega"], i["alpha"])
    slide, rod = mechanism.body_index("slide"), mechanism.body_index("rod")
    got = {
        "x": poses[slide, 0],
        "v": first[slide, 0],
        "a": second[slide, 0],
        "rod_omega": first[rod, 2],
        "beta_deg": math.degrees(poses[rod, 2]),
    }
    for key, expected in ref.expected.items():
        if key in got:
            assert got[key] == pytest.approx(expected, abs=ref.tolerance), key
    if "x_left" in ref.expected:
        left = build.mechanism(
            build.crank_slider(i["r"], i["l"], i["offset"], math.radians(60), to_right=False)
        )
        poses = close(System(left), left.resolved.poses, left.row_target).poses
        assert poses[slide, 0] == pytest.approx(ref.expected["x_left"], abs=1e-6)


def test_offset_crank_slider_strokes() -> None:
    ref = reference("offset crank slider strokes")
    doc = build.crank_slider(40, 120, -20, 1.0)
    motion = build.motion(build.driven(doc, ("crank_pivot", 1.0, 1.0 + build.FULL_TURN), count=90))
    near, far = extreme(motion, "guide", -1), extreme(motion, "guide", 1)
    assert far.value == pytest.approx(ref.expected["far"], abs=ref.tolerance)
    assert near.value == pytest.approx(ref.expected["near"], abs=ref.tolerance)
    assert far.value - near.value == pytest.approx(ref.expected["stroke"], abs=ref.tolerance)
    assert driver_at(motion, far.progress) == pytest.approx(ref.expected["far_at_deg"], abs=1e-6)
    assert driver_at(motion, near.progress) == pytest.approx(ref.expected["near_at_deg"], abs=1e-6)
    share = far.progress - near.progress
    assert share / (1 - share) == pytest.approx(ref.expected["time_ratio"], abs=1e-6)


def test_crank_slider_that_cannot_turn_stops_at_both_ends() -> None:
    ref = reference("crank slider that cannot turn")
    doc = build.crank_slider(40, 50, 20, 0.5)
    ends = [
        math.degrees(
            build.motion(build.driven(doc, ("crank_pivot", 0.5, 0.5 + turn))).values[-1, 0]
        )
        for turn in (-build.FULL_TURN, build.FULL_TURN)
    ]
    assert ends == pytest.approx([ref.expected["low_deg"], ref.expected["high_deg"]], abs=1e-6)


def test_inverted_crank_slider_both_assemblies() -> None:
    ref = reference("inverted crank slider")
    for on_left, key in ((True, "left_deg"), (False, "right_deg")):
        doc = build.inverted_slider(6, 2, 4, math.radians(30), on_left=on_left)
        mechanism = build.mechanism(doc)
        poses = close(System(mechanism), mechanism.resolved.poses, mechanism.row_target).poses
        got = math.degrees(build.wrap(poses[2, 2]))
        assert got == pytest.approx(ref.expected[key], abs=ref.tolerance)
        distance = abs(mechanism.values(poses)[1])
        assert distance == pytest.approx(ref.expected["distance"], abs=ref.tolerance)


def test_whitworth_quick_return() -> None:
    ref = reference("Whitworth quick return")
    motion = build.motion(
        build.driven(
            build.slotted_arm(50, 20, 0.0), ("crank_pivot", 0.0, build.FULL_TURN), count=720
        )
    )
    ratio = motion.samples.first[:, 2, 2] / build.FULL_TURN
    assert ratio.min() == pytest.approx(ref.expected["least_speed_ratio"], abs=ref.tolerance)
    assert ratio.max() == pytest.approx(ref.expected["greatest_speed_ratio"], abs=ref.tolerance)
    assert math.degrees(motion.poses[90, 2, 2]) == pytest.approx(
        ref.expected["phi_45_deg"], abs=1e-6
    )
    assert ratio[450] == pytest.approx(ref.expected["ratio_225"], abs=1e-8)
    # The ram's ends are where the arm is level: from phi = 0 to 180 the crank is below its own
    # share of the turn.
    arm = motion.poses[:, 2, 2]
    crank = np.interp([math.pi, build.FULL_TURN], arm, motion.values[:, 0])
    quick = crank[1] - crank[0]
    assert (build.FULL_TURN - quick) / quick == pytest.approx(ref.expected["time_ratio"], abs=1e-4)


def test_crank_shaper() -> None:
    ref = reference("crank shaper")
    motion = build.motion(
        build.driven(build.slotted_arm(30, 100, 0.2), ("crank_pivot", 0.2, 0.2 + build.FULL_TURN))
    )
    low, high = extreme(motion, "arm_pivot", -1), extreme(motion, "arm_pivot", 1)
    swing = math.degrees(high.value - low.value) / 2
    assert swing == pytest.approx(ref.expected["half_swing_deg"], abs=1e-7)
    share = abs(high.progress - low.progress)
    ratio = max(share, 1 - share) / min(share, 1 - share)
    assert ratio == pytest.approx(ref.expected["time_ratio"], abs=ref.tolerance)
    at = motion.at(
        np.array([(math.pi / 2 - 0.2) / build.FULL_TURN, (1.5 * math.pi - 0.2) / build.FULL_TURN])
    )
    speed = np.abs(at.first[:, 2, 2]) / build.FULL_TURN
    assert speed == pytest.approx([ref.expected["slow"], ref.expected["fast"]], abs=ref.tolerance)


def boom(length: float):  # type: ignore[no-untyped-def]
    """A boom moved by a cylinder: pivot O, cylinder base B, rod pin P."""
    angle = math.acos((400**2 + 150**2 - length**2) / (2 * 400 * 150))
    p = (150 * math.cos(angle), 150 * math.sin(angle))
    lean = math.atan2(p[1], p[0] - 400)
    return build.document(
        [
            build.part("base", o=(0, 0), b=(400, 0)),
            build.part("boom", o=(0, 0), p=(150, 0)),
            build.part("barrel", b=(0, 0)),
            build.part("rod", p=(0, 0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("boom", 0, 0, angle),
            build.body("barrel", 400, 0, lean),
            build.body("rod", *p, lean),
        ],
        [
            build.joint("pivot", "revolute", "base.o", "boom.o"),
            build.joint("foot", "revolute", "base.b", "barrel.b"),
            build.joint("eye", "revolute", "boom.p", "rod.p"),
            build.joint("cylinder", "prismatic", "barrel.b", "rod.p"),
        ],
    )


def test_boom_driven_by_its_cylinder() -> None:
    ref = reference("driven boom")
    motion = build.motion(build.driven(boom(300), ("cylinder", 300, 500), count=200))
    angle = np.degrees(motion.values[:, 0])
    assert angle[[0, 100, 200]] == pytest.approx(
        [ref.expected[f"at_{k}_deg"] for k in (300, 400, 500)], abs=ref.tolerance
    )
    ends = [
        build.motion(build.driven(boom(400), ("cylinder", 400, target))).values[-1, 3]
        for target in (100, 700)
    ]
    assert ends == pytest.approx([ref.expected["least"], ref.expected["greatest"]], abs=1e-6)


def test_scotch_yoke() -> None:
    ref = reference("scotch yoke")
    theta = math.radians(50)
    doc = build.document(
        [
            build.part("base", a=(0, 0)),
            build.part("crank", a=(0, 0), b=(35, 0)),
            build.part("yoke", slot=(0, 0, math.pi / 2), axis=(0, 0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("crank", 0, 0, theta),
            build.body("yoke", 35 * math.cos(theta), 0),
        ],
        [
            build.joint("pivot", "revolute", "base.a", "crank.a"),
            build.joint("slot", "pin_in_slot", "yoke.slot", "crank.b"),
            build.joint("guide", "prismatic", "base.a", "yoke.axis"),
        ],
    )
    _, poses, first, second = rates_at(doc, "pivot", 12.0, 5.0)
    got = [poses[2, 0], first[2, 0], second[2, 0]]
    assert got == pytest.approx([ref.expected[k] for k in "xva"], abs=ref.tolerance)
    motion = build.motion(build.driven(doc, ("pivot", theta, theta + build.FULL_TURN)))
    stroke = extreme(motion, "guide", 1).value - extreme(motion, "guide", -1).value
    assert stroke == pytest.approx(ref.expected["stroke"], abs=1e-9)


def test_parallel_and_antiparallel_cranks() -> None:
    ref = reference("antiparallel")
    theta = math.radians(ref.inputs["theta_deg"])
    mechanism = build.mechanism(build.four_bar(40, 100, 40, 100, theta, is_open=False))
    poses = close(System(mechanism), mechanism.resolved.poses, mechanism.row_target).poses
    assert np.degrees(poses[[2, 3], 2]) == pytest.approx(
        [ref.expected["theta3_deg"], ref.expected["theta4_deg"]], abs=ref.tolerance
    )
    parallel = build.motion(
        build.driven(
            build.four_bar(40, 100, 40, 100, 0.5), ("crank_pivot", 0.5, 0.5 + 2 * build.FULL_TURN)
        )
    )
    assert parallel.end is End.COMPLETE
    assert np.abs(parallel.poses[:, 3, 2] - parallel.poses[:, 1, 2]).max() < 1e-8
    anti = build.motion(
        build.driven(
            build.four_bar(40, 100, 40, 100, 0.5, is_open=False),
            ("crank_pivot", 0.5, 0.5 + build.FULL_TURN),
        )
    )
    assert anti.end is End.COMPLETE
    assert anti.values[-1, 3] - anti.values[0, 3] == pytest.approx(-build.FULL_TURN, abs=1e-8)


SQUARE = {"A": (0.0, 0.0), "B": (100.0, 0.0), "C": (100.0, 100.0), "D": (0.0, 100.0)}
TRIANGLE = {"A": (0.0, 0.0), "B": (100.0, 0.0), "C": (40.0, 70.0)}


def peaucellier():  # type: ignore[no-untyped-def]
    """Straight-line linkage 14.8: eight links, ten pins, one freedom."""
    q = (72 * math.cos(0.25) ** 2, 36 * math.sin(0.5))
    direction = np.array(q) / math.hypot(*q)
    far = direction * 8400 / math.hypot(*q)
    middle = (np.array(q) + far) / 2
    reach = math.sqrt(40**2 - (math.hypot(*(far - q)) / 2) ** 2)
    normal = np.array([-direction[1], direction[0]])
    s, t = middle + reach * normal, middle - reach * normal
    points = {
        "O": (0.0, 0.0),
        "C": (36.0, 0.0),
        "Q": q,
        "P": tuple(far),
        "S": tuple(s),
        "T": tuple(t),
    }
    return build.bars(points, ["CQ", "OS", "OT", "SQ", "TQ", "SP", "TP"], ["O", "C"])


@pytest.mark.parametrize(
    ("doc", "count", "freedoms"),
    [
        (build.four_bar(40, 120, 80, 100, 0.7), 1, 1),
        (build.crank_slider(40, 120, 0, 0.7), 1, 1),
        (
            build.bars(
                {"A": (0, 0), "B": (30, 60), "C": (90, 80), "D": (140, 50), "E": (150, 0)},
                ["AB", "BC", "CD", "DE"],
                ["A", "E"],
            ),
            2,
            2,
        ),
        (build.bars(TRIANGLE, ["AC", "CB"], ["A", "B"]), 0, 0),
        (build.bars(SQUARE, ["BC", "CD", "DA", "AC", "BD"], ["A", "B"]), -1, 0),
        (peaucellier(), 1, 1),
        (build.parallel_cranks(40, 100, 0.6), 0, 1),
        (build.parallel_cranks(40, 100, 0.0), 0, 1),
        (build.bars({"A": (0, 0), "B": (50, 40), "C": (90, 10)}, ["AB", "BC"], ["A"]), 2, 2),
    ],
    ids=[
        "four-bar",
        "crank slider",
        "five-bar",
        "triangle",
        "braced square",
        "Peaucellier",
        "three cranks",
        "three cranks at their change point",
        "double pendulum",
    ],
)
def test_mobility_by_rank_and_by_formula(doc, count: int, freedoms: int) -> None:  # type: ignore[no-untyped-def]
    assert MOBILITY_SOURCE
    mechanism = build.mechanism(doc)
    poses = close(System(mechanism), mechanism.resolved.poses, mechanism.row_target).poses
    mobility = analyse_mobility(mechanism, poses, ())
    assert mobility.count_by_formula == count
    assert mobility.freedoms == freedoms


def test_three_cranks_with_a_longer_middle_one_lock() -> None:
    # At rest the three long constraints conflict a little; the middle rod 1 % long locks it.
    doc = build.parallel_cranks(40, 100, 0.6)
    long_crank = build.part("long", a=(0, 0), b=(40.4, 0))
    bodies = tuple(
        b.model_copy(update={"part": "long"}) if b.id == "crank1" else b for b in doc.bodies
    )
    doc = doc.model_copy(update={"parts": (*doc.parts, long_crank), "bodies": bodies})
    mechanism = build.mechanism(doc)
    closure = close(System(mechanism), mechanism.resolved.poses, mechanism.row_target)
    if closure.is_closed:
        assert analyse_mobility(mechanism, closure.poses, ()).freedoms == 0
    else:
        assert closure.joint is not None


def test_bar_past_a_post_and_thin_blade() -> None:
    ref = reference("bar past a post")
    bar = Region.build(hull([(0, 0, 6), (100, 0, 6)]), (), ())
    post = Region.build(circle(70, 40, 5), (), ())
    angles = np.radians([15.0, ref.expected["first_deg"], ref.expected["last_deg"]])
    poses = np.column_stack([np.zeros(3), np.zeros(3), angles])
    gap = distances([Question(post, bar, poses)])[0].distance
    assert gap == pytest.approx([ref.expected["at_15_deg"], 0.0, 0.0], abs=ref.tolerance)
    thin = reference("thin blade")
    blade = Region.build(rectangle(50, 0, 100, 0.4, 0, 0), (), ())
    needle = Region.build(circle(0, 99.5, 0.15), (), ())
    first = math.radians(thin.expected["first_deg"])
    near = np.array([[0, 0, first - 1e-6], [0, 0, first + 1e-6]])
    before, after = distances([Question(needle, blade, near)])[0].distance
    assert before > 0.0
    assert after == 0.0


def test_distance_of_two_rectangles() -> None:
    ref = reference("two rectangles")
    one = Region.build(rectangle(0, 0, 40, 20, 0, math.radians(ref.inputs["first_deg"])), (), ())
    other = Region.build(rectangle(0, 0, 30, 10, 0, 0), (), ())
    pose = np.array([[ref.inputs["x"], ref.inputs["y"], math.radians(ref.inputs["second_deg"])]])
    found = distances([Question(one, other, pose)])[0]
    assert found.distance[0] == pytest.approx(ref.expected["distance"], abs=ref.tolerance)
