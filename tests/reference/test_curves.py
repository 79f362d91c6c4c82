"""Coupler curves, straight lines and couplings against their closed forms."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.mechanism.compile import System
from anakinema.mechanism.solve import apply, pseudo_inverses
from anakinema.motion.assemble import close
from anakinema.motion.follow import End
from anakinema.motion.motion import EventKind, Motion
from tests import mechanisms as build
from tests.reference.values import VALUES, reference


def point_of(motion: Motion, poses: np.ndarray, body: str, x: float, y: float) -> np.ndarray:
    """(N, 2) path of a point of a body at poses (N, B, 3)."""
    pose = poses[:, motion.mechanism.body_index(body)]
    c, s = np.cos(pose[:, 2]), np.sin(pose[:, 2])
    return np.column_stack([pose[:, 0] + c * x - s * y, pose[:, 1] + s * x + c * y])


def crank_at(motion: Motion, degrees: float) -> np.ndarray:
    """Progress (1,) at which the first driver has an angle."""
    first, last = motion.values[[0, -1], motion.driver_joints[0]]
    return np.array([(math.radians(degrees) - first) / (last - first)])


def coupler(reach: float, angle_deg: float) -> tuple[float, float]:
    angle = math.radians(angle_deg)
    return reach * math.cos(angle), reach * math.sin(angle)


def test_every_curve_value_is_checked_somewhere() -> None:
    folder = Path(__file__).parent
    text = "".join(file.read_text("utf-8") for file in folder.glob("test_*.py"))
    unchecked = [value.name for value in VALUES if f'"{value.name}"' not in text]
    assert not unchecked


def test_coupler_point_position_velocity_acceleration() -> None:
    ref = reference("coupler point")
    doc = build.four_bar(40, 120, 80, 100, math.radians(ref.inputs["theta_deg"]))
    mechanism = build.mechanism(doc)
    system = System(mechanism, (0,))
    poses = close(System(mechanism), mechanism.resolved.poses, mechanism.row_target).poses
    _, jacobian = system.residual_jacobian(poses, np.zeros(system.rows))
    inverse = pseudo_inverses(jacobian[None])[0]
    first = system.scaled_rates(apply(inverse, system.target_rates(np.array([25.0]))))
    right = system.quadratic(poses, first) + system.target_rates(np.array([15.0]))
    second = system.scaled_rates(apply(inverse, right))
    x, y = coupler(ref.inputs["reach"], ref.inputs["angle_deg"])
    angle = poses[2, 2]
    arm = np.array([math.cos(angle) * x - math.sin(angle) * y,
                    math.sin(angle) * x + math.cos(angle) * y])  # fmt: skip
    across = np.array([-arm[1], arm[0]])
    point = poses[2, :2] + arm
    velocity = first[2, :2] + first[2, 2] * across
    acceleration = second[2, :2] + second[2, 2] * across - first[2, 2] ** 2 * arm
    got = dict(zip(("x", "y", "vx", "vy", "ax", "ay"),
                   (*point, *velocity, *acceleration), strict=True))  # fmt: skip
    for key, expected in ref.expected.items():
        assert got[key] == pytest.approx(expected, abs=max(ref.tolerance, 1e-8 * abs(expected)))


def test_coupler_curve_extremes_and_nearest_pass() -> None:
    ref = reference("coupler curve extremes")
    motion = build.motion(
        build.driven(build.four_bar(40, 120, 80, 100, 0.0), ("crank_pivot", 0.0, build.FULL_TURN))
    )
    x, y = coupler(ref.inputs["reach"], ref.inputs["angle_deg"])
    fine = motion.poses_at(np.linspace(0, 1, 36001))
    path = point_of(motion, fine, "coupler", x, y)
    got = {
        "left": path[:, 0].min(), "right": path[:, 0].max(), "low": path[:, 1].min(),
        "high": path[:, 1].max(),
    }  # fmt: skip
    for key, value in got.items():
        assert value == pytest.approx(ref.expected[key], abs=ref.tolerance)
    away = np.hypot(*(path - [60, 60]).T)
    assert away.min() == pytest.approx(ref.expected["near_60_60"], abs=ref.tolerance)
    assert np.argmin(away) / 100 == pytest.approx(ref.expected["near_at_deg"], abs=0.02)


def trammel() -> m.Document:
    """A bar whose ends slide on two crossed lines."""
    phi = 0.3
    return build.document(
        [build.part("base", x=(0, 0, 0), y=(0, 0, math.pi / 2)),
         build.part("bar", q=(0, 0), p=(60, 0), t=(90, 0))],
        [build.body("base", fixed=True),
         build.body("bar", 0, -60 * math.sin(phi), phi)],
        [build.joint("across", "pin_in_slot", "base.x", "bar.p"),
         build.joint("upright", "pin_in_slot", "base.y", "bar.q")],
    )  # fmt: skip


def test_elliptic_trammel_draws_its_ellipse() -> None:
    ref = reference("elliptic trammel")
    start = 60 * math.cos(0.3)
    end = 60 * math.cos(math.radians(ref.inputs["phi_deg"]))
    motion = build.motion(build.driven(trammel(), ("across", start, end), count=40))
    assert motion.end is End.COMPLETE
    tracer = point_of(motion, motion.poses, "bar", 90, 0)
    assert (tracer[:, 0] / 90) ** 2 + (tracer[:, 1] / 30) ** 2 == pytest.approx(1.0, abs=1e-10)
    assert tracer[-1] == pytest.approx([ref.expected["tx"], ref.expected["ty"]], abs=1e-6)
    assert motion.values[-1, 0] == pytest.approx(ref.expected["px"], abs=1e-6)
    assert motion.values[-1, 1] == pytest.approx(ref.expected["qy"], abs=1e-6)


def oldham(theta: float) -> m.Document:
    """Two discs on offset shafts and a middle piece that slides on both, crosswise."""
    middle = (6 + 6 * math.cos(2 * theta), 6 * math.sin(2 * theta))
    return build.document(
        [build.part("base", a=(0, 0), b=(12, 0)), build.part("first", o=(0, 0)),
         build.part("middle", o=(0, 0), crossed=(0, 0, math.pi / 2)),
         build.part("second", o=(0, 0), slot=(0, 0, math.pi / 2))],
        [build.body("base", fixed=True), build.body("first", 0, 0, theta),
         build.body("middle", *middle, theta), build.body("second", 12, 0, theta)],
        [build.joint("input", "revolute", "base.a", "first.o"),
         build.joint("slide1", "prismatic", "first.o", "middle.o"),
         build.joint("slide2", "prismatic", "second.slot", "middle.crossed"),
         build.joint("output", "revolute", "base.b", "second.o")],
    )  # fmt: skip


def test_oldham_coupling_turns_its_output_exactly() -> None:
    ref = reference("Oldham coupling")
    theta = math.radians(ref.inputs["theta_deg"])
    motion = build.motion(
        build.driven(oldham(theta), ("input", theta, theta + build.FULL_TURN), count=180)
    )
    assert motion.end is End.COMPLETE
    assert np.abs(motion.values[:, 3] - motion.values[:, 0]).max() < 1e-9
    assert motion.poses[0, 2, :2] == pytest.approx([ref.expected["mx"], ref.expected["my"]])
    assert np.hypot(motion.poses[:, 2, 0] - 6, motion.poses[:, 2, 1]) == pytest.approx(6.0)
    assert abs(motion.values[0, 1]) == pytest.approx(ref.expected["first"], abs=1e-6)
    assert abs(motion.values[0, 2]) == pytest.approx(ref.expected["second"], abs=1e-6)
    speed = np.hypot(*motion.samples.first[:, 2, :2].T) / build.FULL_TURN
    assert speed == pytest.approx(12.0)


def test_pantograph_copies_three_times_as_large() -> None:
    ref = reference("pantograph")
    angle = 0.4
    spread = 2.0
    a = np.array([40 * math.cos(angle + spread), 40 * math.sin(angle + spread)])
    along = np.array([math.cos(angle), math.sin(angle)])
    far, b = 3 * a, 3 * a + 40 * along
    p, q = a + 40 * along, 3 * a + 120 * along
    parts = [
        build.part("base", o=(0, 0)), build.part("long", o=(0, 0), a=(40, 0), far=(120, 0)),
        build.part("top", far=(0, 0), b=(40, 0), q=(120, 0)),
        build.part("low", a=(0, 0), p=(40, 0)),
        build.part("rise", b=(0, 0), p=(80, 0)),
    ]  # fmt: skip
    down = math.atan2(*(p - b)[::-1])
    bodies = [
        build.body("base", fixed=True), build.body("long", 0, 0, angle + spread),
        build.body("top", *far, angle), build.body("low", *a, angle), build.body("rise", *b, down),
    ]  # fmt: skip
    joints = [
        build.joint("o", "revolute", "base.o", "long.o"),
        build.joint("far", "revolute", "long.far", "top.far"),
        build.joint("a", "revolute", "long.a", "low.a"),
        build.joint("b", "revolute", "top.b", "rise.b"),
        build.joint("p", "revolute", "low.p", "rise.p"),
    ]
    doc = build.document(parts, bodies, joints)
    motion = build.motion(
        build.driven(doc, ("o", angle + spread, 1.2), ("far", -spread, -1.1), count=60)
    )
    assert motion.mobility.freedoms == 2
    small = point_of(motion, motion.poses, "low", 40, 0)
    large = point_of(motion, motion.poses, "top", 120, 0)
    assert large == pytest.approx(3 * small, abs=1e-9)
    assert q == pytest.approx(3 * p)
    scale = ref.expected["qx"] / ref.inputs["x"]
    assert (scale, ref.expected["qy"] / ref.inputs["y"]) == (3.0, 3.0)


def test_peaucellier_draws_a_straight_line_to_its_limit() -> None:
    ref = reference("Peaucellier-Lipkin")
    half = 0.25
    q = np.array([72 * math.cos(half) ** 2, 36 * math.sin(2 * half)])
    direction = q / np.hypot(*q)
    far = direction * 8400 / np.hypot(*q)
    reach = math.sqrt(40**2 - (np.hypot(*(far - q)) / 2) ** 2)
    normal = np.array([-direction[1], direction[0]])
    points = {
        "O": (0.0, 0.0), "C": (36.0, 0.0), "Q": tuple(q), "P": tuple(far),
        "S": tuple((q + far) / 2 + reach * normal), "T": tuple((q + far) / 2 - reach * normal),
    }  # fmt: skip
    doc = build.bars(points, ["CQ", "OS", "OT", "SQ", "TQ", "SP", "TP"], ["O", "C"])
    motion = build.motion(build.driven(doc, ("pin_c1", 2 * half, 2.0), count=150))
    path = point_of(motion, motion.poses, "lsp", 40, 0)
    assert np.abs(path[:, 0] - ref.expected["px"]).max() < 1e-6
    assert motion.end is End.DEAD_POINT
    limit = math.degrees(motion.values[-1, motion.driver_joints[0]])
    # Both dyads fold at once there: a double dead point, located to the root of the usual error.
    assert limit == pytest.approx(ref.expected["limit_deg"], abs=1e-4)
    at = motion.poses_at(np.array([(math.radians(30) - 2 * half) / (2.0 - 2 * half)]))
    assert point_of(motion, at, "lsp", 40, 0)[0, 1] == pytest.approx(ref.expected["py"], abs=1e-5)


def test_chebyshev_straight_line() -> None:
    ref = reference("Chebyshev linkage")
    doc = build.bars(
        {"A": (0, 0), "B": (75, 100), "C": (25, 100), "D": (100, 0)}, ["AB", "BC", "DC"],
        ["A", "D"],
    )  # fmt: skip
    start, end = math.radians(90), math.acos(0.8)
    middle = math.atan2(100, 75)
    motion = build.motion(build.driven(doc, ("pin_a1", middle, start), count=400))
    other = build.motion(build.driven(doc, ("pin_a1", middle, end), count=400))
    ys = []
    for half, x in ((motion, 0.0), (other, 100.0)):
        path = point_of(half, half.poses, "lbc", 25, 0)
        assert path[0] == pytest.approx([50.0, ref.expected["y_middle"]], abs=1e-9)
        # (100, 100) is a dead point: there the rounding of the angle counts as its root.
        assert path[-1] == pytest.approx([x, 100.0], abs=1e-6 if x == 0 else 2e-4)
        ys.append(path[:, 1])
    heights = np.concatenate(ys)
    assert heights.max() - heights.min() == pytest.approx(ref.expected["band"], abs=1e-5)


def test_watt_straight_line() -> None:
    ref = reference("Watt linkage")
    doc = build.bars(
        {"A": (-50, 20), "B": (0, 20), "C": (0, -20), "D": (50, -20)}, ["AB", "BC", "DC"],
        ["A", "D"],
    )  # fmt: skip
    motion = build.motion(build.driven(doc, ("pin_a1", 0.0, math.radians(24)), count=2400))
    path = point_of(motion, motion.poses, "lbc", 20, 0)
    for height in (5, 10, 20):
        x = float(np.interp(height, path[:, 1], np.abs(path[:, 0])))
        assert x == pytest.approx(ref.expected[f"x_at_{height}"], abs=3e-6)


def test_hoeken_straight_line() -> None:
    ref = reference("Hoeken linkage")
    doc = build.four_bar(40, 100, 100, 80, math.radians(10))
    motion = build.motion(
        build.driven(doc, ("crank_pivot", math.radians(10), math.radians(370)), count=720)
    )
    for degrees in (90, 135, 180):
        at = motion.poses_at(crank_at(motion, degrees))
        x, y = point_of(motion, at, "coupler", 200, 0)[0]
        assert x == pytest.approx(ref.expected[f"x_{degrees}"], abs=1e-6)
        assert y == pytest.approx(ref.expected[f"y_{degrees}"], abs=1e-6)
    last = point_of(motion, motion.poses_at(crank_at(motion, 360)), "coupler", 200, 0)[0]
    assert last == pytest.approx([ref.expected["x_0"], ref.expected["y_0"]], abs=1e-6)
    path = point_of(motion, motion.poses_at(np.linspace(80, 260, 4001) / 360), "coupler", 200, 0)
    assert path[:, 1].max() == pytest.approx(ref.expected["highest"], abs=1e-6)
    assert path[:, 1].min() == pytest.approx(160.0, abs=1e-6)


def test_toggle_press_dead_point_is_an_extreme_of_the_ram() -> None:
    """Two equal links in line: the ram stands at its lowest exactly there (by symmetry)."""
    doc = build.crank_slider(60, 60, 0.0, 1.0)
    motion = build.motion(build.driven(doc, ("crank_pivot", 1.0, -1.0), count=33))
    (extreme,) = [e for e in motion.events if e.kind is EventKind.EXTREME and e.joint == 3]
    assert extreme.value == pytest.approx(120.0, abs=1e-12)
    assert motion.at(np.array([extreme.progress])).values[0, 0] == pytest.approx(0.0, abs=1e-9)
