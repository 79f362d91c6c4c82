"""Pins and blocks on curves against closed forms and against the linkage that does the same."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.document.model import Curve, Document, Vertex
from anakinema.motion.branch_path import End
from anakinema.motion.motion import EventKind, Motion
from tests import mechanisms as build

WAVE = 12.0


def cam_plate(curve: Curve, travel: tuple[float, float], kind: str = "pin_on_curve") -> Document:
    """A plate pushed to the right under a pin that is guided upright; its curve lifts the pin."""
    plate = build.part("plate", p=(0.0, 0.0)).model_copy(update={"curves": (curve,)})
    doc = build.document(
        [
            build.part("frame", along=(0.0, 0.0, 0.0), up=(0.0, 0.0, math.pi / 2)),
            plate,
            build.part("pin", p=(0.0, 0.0, math.pi / 2)),
        ],
        [
            build.body("frame", fixed=True),
            build.body("plate", travel[0], 0.0),
            build.body("pin", 0.0, 3.0),
        ],
        [
            build.joint("push", "prismatic", "frame.along", "plate.p"),
            build.joint("guide", "prismatic", "frame.up", "pin.p"),
            build.joint("slot", kind, "plate.p", "pin.p", curve="c"),
        ],
    )
    return build.driven(doc, ("push", *travel))


def sine(count: int) -> Curve:
    x = np.linspace(-120, 120, count)
    vertices = tuple(Vertex(x=float(a), y=float(WAVE * np.sin(a / 20))) for a in x)
    return Curve(id="c", shape="spline", vertices=vertices)


def rate(motion: Motion, joint: str) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    k = motion.mechanism.joint_index(joint)
    at = motion.samples
    return at.values[:, k], at.value_first[:, k], at.value_second[:, k]


def test_pin_in_a_spline_slot_has_the_curves_own_derivatives() -> None:
    """y = f(x) with x driven evenly: y' = f', y'' = f'' (differentiation of the sine)."""
    motion = build.motion(cam_plate(sine(241), (60.0, -60.0)))
    assert motion.end is End.COMPLETE
    y, first, second = rate(motion, "guide")
    x, slope = 60.0 - 120.0 * motion.progress, 120.0
    assert y == pytest.approx(WAVE * np.sin(-x / 20), abs=1e-7)
    assert first == pytest.approx(slope / 20 * WAVE * np.cos(x / 20), abs=1e-6 * slope)
    assert second == pytest.approx(-((slope / 20) ** 2) * WAVE * np.sin(-x / 20), abs=1e-4 * slope)


def test_value_on_a_curve_is_the_length_passed() -> None:
    motion = build.motion(cam_plate(sine(241), (60.0, -60.0)))
    along, first, _ = rate(motion, "slot")
    x = 60.0 - 120.0 * motion.progress
    speed = 120.0 * np.sqrt(1 + (WAVE / 20 * np.cos(x / 20)) ** 2)
    assert first == pytest.approx(speed, rel=1e-6)
    fine = np.linspace(0, 1, 20001)
    whole = np.trapezoid(120 * np.sqrt(1 + (WAVE / 20 * np.cos((60 - 120 * fine) / 20)) ** 2), fine)
    assert along[-1] - along[0] == pytest.approx(whole, rel=1e-7)


def line_and_arc() -> Curve:
    """Level to x = 20, then an arc of 40 mm radius that rises, 60 degrees of it."""
    return Curve(
        id="c",
        vertices=(
            Vertex(x=-100.0, y=0.0),
            Vertex(x=20.0, y=0.0, bulge=math.tan(math.radians(15))),
            Vertex(x=20 + 40 * math.sin(math.radians(60)), y=40 * (1 - math.cos(math.radians(60)))),
        ),
    )


def test_pin_on_a_line_and_arc_path_is_level_and_then_on_the_circle() -> None:
    motion = build.motion(cam_plate(line_and_arc(), (60.0, -40.0)))
    y, first, second = rate(motion, "guide")
    x = -(60.0 - 100.0 * motion.progress)
    bent = np.clip(x - 20.0, 0.0, None)
    height = 40.0 - np.sqrt(40.0**2 - bent**2)
    assert y == pytest.approx(height, abs=1e-10)
    slope = bent / (40.0 - height)
    assert first == pytest.approx(100.0 * slope, abs=1e-8)
    on_arc = x > 20.0 + 1e-9
    curve = 100.0**2 * (1 + slope**2) / (40.0 - height)
    assert second[on_arc] == pytest.approx(curve[on_arc], rel=1e-9)
    assert second[x < 20.0 - 1e-9] == pytest.approx(0.0, abs=1e-9)


def test_the_open_end_of_a_curve_is_where_the_pin_leaves() -> None:
    motion = build.motion(cam_plate(line_and_arc(), (60.0, -80.0)))
    assert motion.end is End.LEFT
    (limit,) = [e for e in motion.events if e.kind is EventKind.LEAVES]
    assert limit.joint == motion.mechanism.joint_index("slot")
    pushed = motion.values[-1, motion.mechanism.joint_index("push")]
    assert pushed == pytest.approx(-(20 + 40 * math.sin(math.radians(60))), abs=1e-9)


def test_block_on_an_arc_path_does_what_a_block_on_an_arc_does() -> None:
    arc = Curve(
        id="c",
        vertices=(Vertex(x=-30.0, y=0.0, bulge=1.0), Vertex(x=30.0, y=0.0, bulge=1.0)),
        closed=True,
    )
    track = build.part("frame", o=(0.0, 0.0)).model_copy(update={"curves": (arc,)})
    parts = [track, build.part("block", p=(0.0, 0.0), q=(14.0, 5.0))]
    bodies = [build.body("frame", fixed=True), build.body("block", 30.0, 0.0, math.pi / 2)]
    on_track = build.document(
        parts, bodies, [build.joint("g", "block_on_curve", "frame.o", "block.p", curve="c")]
    )
    on_arc = build.document(
        parts, bodies, [build.joint("g", "block_on_arc", "frame.o", "block.p", radius=30.0)]
    )
    start = math.pi * 30.0
    one = build.motion(build.driven(on_track, ("g", start, start + 120.0)))
    two = build.motion(build.driven(on_arc, ("g", 0.0, 4.0)))
    assert one.end is two.end is End.COMPLETE
    assert one.poses == pytest.approx(two.poses, abs=1e-9)
    assert one.samples.second == pytest.approx(two.samples.second, abs=1e-8)


def test_values_run_on_round_a_closed_curve_and_round_a_pins_arc() -> None:
    """Two and a half turns one way never jump back, on a closed path or on a full arc."""
    ring = Curve(
        id="c",
        vertices=(Vertex(x=-30.0, y=0.0, bulge=1.0), Vertex(x=30.0, y=0.0, bulge=1.0)),
        closed=True,
    )
    frame = build.part("frame", o=(0.0, 0.0)).model_copy(update={"curves": (ring,)})
    parts = [frame, build.part("arm", o=(0.0, 0.0), p=(30.0, 0.0))]
    bodies = [build.body("frame", fixed=True), build.body("arm")]
    pivot = build.joint("o", "revolute", "frame.o", "arm.o")
    doc = build.document(
        parts,
        bodies,
        [
            pivot,
            build.joint("g", "pin_on_curve", "frame.o", "arm.p", curve="c"),
            build.joint("h", "pin_on_arc", "frame.o", "arm.p", radius=30.0),
        ],
    )
    motion = build.motion(build.driven(doc, ("o", 0.0, -5 * math.pi), count=500))
    angle = motion.values[:, 0]
    assert motion.values[:, 1] - motion.values[0, 1] == pytest.approx(30.0 * angle, abs=1e-8)
    assert motion.values[:, 2] == pytest.approx(angle, abs=1e-9)
