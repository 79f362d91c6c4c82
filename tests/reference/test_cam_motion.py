"""Cams as ordinary bodies: the follower moves by its law through the general joint code."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.errors import AnakinemaError
from anakinema.motion.branch_path import End
from anakinema.motion.motion import Motion
from tests import mechanisms as build
from tests.conftest import some

FULL_TURN = 2 * math.pi
LAWS = (
    "harmonic",
    "cycloidal",
    "modified_trapezoid",
    "modified_sine",
    "polynomial_345",
    "polynomial_4567",
    "constant",
    "parabolic",
)


def cam_of(
    law: str, follower: m.CamFollower, height: float = 20.0, base: float = 40.0, turn: float = 110.0
) -> m.Cam:
    """A rise and a return, of 110 degrees each unless given otherwise, two dwells."""
    rise, rest = math.radians(turn), math.radians(180 - turn)
    return m.Cam(
        id="cam",
        base=base,
        follower=follower,
        ease="30 deg",
        segments=(
            m.CamSegment(turn=rise, to=height, law=law),
            m.CamSegment(turn=rest, to=height),
            m.CamSegment(turn=rise, to=0.0, law=law),
            m.CamSegment(turn=rest, to=0.0),
        ),
    )


def running(cam: m.Cam, count: int = 720) -> Motion:
    """A cam turned once under its translating or swinging follower."""
    stated = cam.follower
    outline = m.CamOutline(shape="cam", cam="cam")
    disc = build.part("cam", o=(0.0, 0.0)).model_copy(
        update={"cams": (cam,), "slabs": (m.Slab(id="s", top=5.0, outline=outline),)}
    )
    radius = float(stated.radius)
    places = {"o": (0.0, 0.0), "up": (float(stated.offset), 0.0, math.pi / 2)}
    face, kind, more = (0.0, 0.0, 0.0), "pin_on_curve", {"offset": -radius}
    if stated.face == "flat":
        kind, more = "face_on_curve", {}
        face = (0.0, 0.0, -math.pi / 2)
    if stated.moves == "translating":
        follower = build.part("tappet", axis=(0.0, 0.0, math.pi / 2), face=face)
        height = math.sqrt((float(cam.base) + radius) ** 2 - float(stated.offset) ** 2)
        start = build.body("tappet", float(stated.offset), height)
        guide = build.joint("lift", "prismatic", "frame.up", "tappet.axis")
    else:
        c, arm = float(stated.centres), float(stated.arm)
        places["up"] = (c, 0.0)
        if stated.face == "flat":
            face = (0.0, float(stated.offset), -math.pi / 2)
            angle = math.pi - math.asin((float(cam.base) - float(stated.offset)) / c)
            # The face looks at the cam: to the left of an arm that leans to the upper left.
            face = (0.0, -float(stated.offset), math.pi / 2)
        else:
            face = (arm, 0.0)
            prime = float(cam.base) + radius
            angle = math.pi - math.acos((c * c + arm * arm - prime**2) / (2 * c * arm))
        follower = build.part("tappet", axis=(0.0, 0.0), face=face)
        start = build.body("tappet", c, 0.0, angle)
        guide = build.joint("lift", "revolute", "frame.up", "tappet.axis")
    doc = build.document(
        [build.part("frame", **places), disc, follower],
        [build.body("frame", fixed=True), build.body("cam"), start],
        [
            build.joint("spin", "revolute", "frame.o", "cam.o"),
            guide,
            build.joint("ride", kind, "cam.o", "tappet.face", curve="cam", **more),
        ],
    )
    return build.motion(build.driven(doc, ("spin", 0.0, FULL_TURN), count=count))


def lift_of(motion: Motion) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Lift from its least, with the first two derivatives by the cam's angle."""
    k = motion.mechanism.joint_index("lift")
    at = motion.samples
    s = at.values[:, k] - at.values[0, k]
    return s, at.value_first[:, k] / FULL_TURN, at.value_second[:, k] / FULL_TURN**2


FOLLOWERS = {
    "roller": m.CamFollower(radius=10.0),
    "offset roller": m.CamFollower(radius=8.0, offset=9.0),
    "knife": m.CamFollower(face="knife"),
    "flat": m.CamFollower(face="flat"),
    "swinging roller": m.CamFollower(radius=8.0, moves="swinging", arm=70.0, centres=80.0),
    "swinging face": m.CamFollower(face="flat", moves="swinging", centres=80.0, offset=4.0),
}


@pytest.mark.campaign
@pytest.mark.parametrize(("name", "law"), some([(n, law) for law in LAWS for n in FOLLOWERS], 3))
def test_follower_moves_by_the_law_of_the_program(name: str, law: str) -> None:
    """Position within 1e-6 of the lift; speed and acceleration within 1e-4 of their peaks.

    The law itself is checked against published values in test_laws.py.
    """
    from anakinema.geometry.lift import Segment, segments_lift

    stated = FOLLOWERS[name]
    swings, flat = stated.moves == "swinging", stated.face == "flat"
    height = 0.25 if swings else 20.0
    motion = running(cam_of(law, stated, height, 60.0 if flat else 40.0), count=120)
    assert motion.end is End.COMPLETE
    turn, rest = math.radians(110), math.radians(70)
    lift = segments_lift(
        [
            Segment(turn, height, law),
            Segment(rest, height),
            Segment(turn, 0.0, law),
            Segment(rest, 0.0),
        ],
        math.radians(30),
    )
    angle = motion.progress * FULL_TURN
    away = np.abs(angle[:, None] - lift.breaks[None, :]).min(axis=1) > 1e-6
    known = lift.at(angle)
    sign = -1.0 if swings else 1.0
    for found, order, tolerance in zip(lift_of(motion), range(3), (1e-6, 1e-4, 1e-4), strict=True):
        true = sign * known[:, order]
        scale = height if order == 0 else float(np.abs(true).max())
        assert found[away] == pytest.approx(true[away], abs=tolerance * scale)


def test_both_accelerations_are_given_where_a_law_jumps() -> None:
    """Parabolic: +4h/β² before the middle of the rise, −4h/β² after it."""
    motion = running(cam_of("parabolic", FOLLOWERS["roller"]))
    _, _, second = lift_of(motion)
    middle = 55.0 / 360.0
    beside = np.flatnonzero(np.abs(motion.progress - middle) < 1e-8)
    assert len(beside) == 2
    peak = 4 * 20.0 / math.radians(110) ** 2
    assert second[beside] == pytest.approx([peak, -peak], rel=1e-4)


def test_cam_the_roller_cannot_follow_is_named_with_a_way_out() -> None:
    with pytest.raises(AnakinemaError, match=r"part 'cam'.*undercut.*below"):
        running(cam_of("cycloidal", m.CamFollower(radius=25.0), 20.0, 5.0, 40.0))


def test_face_on_an_open_or_hollow_curve_is_refused() -> None:
    cam = cam_of("cycloidal", FOLLOWERS["roller"])
    hollow = cam_of("cycloidal", m.CamFollower(radius=2.0), 20.0, 20.0, 60.0)
    doc = running(cam).mechanism.resolved.document
    joints = tuple(
        j.model_copy(update={"kind": "face_on_curve"}) if j.id == "ride" else j for j in doc.joints
    )
    parts = tuple(
        p.model_copy(update={"cams": (hollow,)}) if p.id == "cam" else p for p in doc.parts
    )
    with pytest.raises(AnakinemaError, match="round all over"):
        build.motion(doc.model_copy(update={"joints": joints, "parts": parts}))
