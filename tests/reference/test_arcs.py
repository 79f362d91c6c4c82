"""Arc guides against what they are equal to: a pin on an arc is a rocker without its bar."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.errors import ValueOutOfRangeError
from anakinema.motion.branch_path import End
from anakinema.motion.motion import EventKind
from tests import mechanisms as build


def arc_bar(
    a: float, b: float, c: float, d: float, theta: float, *, kind: str, is_open: bool = True
) -> m.Document:
    """The four-bar with its rocker taken out: the coupler's end runs on an arc of radius c."""
    theta3, theta4 = build.four_bar_angles(a, b, c, d, theta, is_open=is_open)
    bodies = [
        build.body("base", fixed=True),
        build.body("crank", 0, 0, theta),
        build.body("coupler", a * math.cos(theta), a * math.sin(theta), theta3),
    ]
    parts = [
        build.part("base", a=(0, 0), b=(d, 0)),
        build.part("crank", a=(0, 0), b=(a, 0)),
        build.part("coupler", a=(0, 0), b=(b, 0)),
    ]
    joints = [
        build.joint("crank_pivot", "revolute", "base.a", "crank.a"),
        build.joint("crank_pin", "revolute", "crank.b", "coupler.a"),
    ]
    if kind == "pin_on_arc":
        joints.append(build.joint("arc", kind, "base.b", "coupler.b", radius=c))
    else:
        parts.append(build.part("block", mid=(0, 0)))
        x, y = d + c * math.cos(theta4), c * math.sin(theta4)
        bodies.append(build.body("block", x, y, theta4 + math.pi / 2))
        joints.append(build.joint("block_pin", "revolute", "coupler.b", "block.mid"))
        joints.append(build.joint("arc", kind, "base.b", "block.mid", radius=c))
    return build.document(parts, bodies, joints)


@pytest.mark.parametrize("kind", ["pin_on_arc", "block_on_arc"])
@pytest.mark.parametrize("is_open", [True, False])
def test_motion_rates_and_values_are_those_of_the_four_bar(kind: str, is_open: bool) -> None:
    start = 0.7
    turn = ("crank_pivot", start, start + build.FULL_TURN)
    bars = build.motion(
        build.driven(build.four_bar(40, 120, 80, 100, start, is_open=is_open), turn, count=120)
    )
    arcs = build.motion(
        build.driven(arc_bar(40, 120, 80, 100, start, kind=kind, is_open=is_open), turn, count=120)
    )
    assert arcs.end is End.COMPLETE
    assert arcs.samples.residual < 1e-9
    # Base, crank and coupler are the first three bodies of both.
    assert arcs.poses[:, :3] == pytest.approx(bars.poses[:, :3], abs=1e-8)
    assert arcs.samples.first[:, :3] == pytest.approx(bars.samples.first[:, :3], abs=1e-6)
    assert arcs.samples.second[:, :3] == pytest.approx(bars.samples.second[:, :3], abs=1e-4)
    joint = arcs.mechanism.joint_index("arc")
    rocker = bars.mechanism.joint_index("rocker_pivot")
    assert build.wrap(arcs.values[:, joint] - bars.values[:, rocker]) == pytest.approx(0, abs=1e-9)
    for rates in ("value_first", "value_second"):
        ours = getattr(arcs.samples, rates)[:, joint]
        theirs = getattr(bars.samples, rates)[:, rocker]
        assert ours == pytest.approx(theirs, abs=1e-5)


@pytest.mark.parametrize("kind", ["pin_on_arc", "block_on_arc"])
def test_the_end_of_an_arc_stops_the_motion_where_the_rocker_would(kind: str) -> None:
    bound = math.radians(110)
    doc = build.driven(
        arc_bar(40, 120, 80, 100, 0.7, kind=kind),
        ("crank_pivot", 0.7, 0.7 + build.FULL_TURN),
        count=60,
    )
    joints = tuple(
        j.model_copy(update={"limits": m.Limits(greatest=bound)}) if j.id == "arc" else j
        for j in doc.joints
    )
    motion = build.motion(doc.model_copy(update={"joints": joints}))
    assert motion.end is End.HELD
    (event,) = [e for e in motion.events if e.kind is EventKind.LIMIT]
    joint = motion.mechanism.joint_index("arc")
    assert event.joint == joint
    assert motion.values[-1, joint] == pytest.approx(bound, abs=1e-9)
    crank = float(motion.values[-1, 0])
    rocker = build.four_bar_angles(40, 120, 80, 100, crank)[1]
    assert rocker == pytest.approx(bound, abs=1e-8)


@given(st.floats(20, 200), st.floats(-2.5, 2.5), st.floats(-2.5, 2.5))
@hypothesis_settings(max_examples=25)
def test_an_arc_can_be_driven(radius: float, start: float, end: float) -> None:
    """The pin goes along its circle at the speed asked, pulling a free rod behind it."""
    if abs(start - end) < 0.05:
        return
    at = (radius * math.cos(start), radius * math.sin(start))
    doc = build.document(
        [build.part("base", c=(0, 0)), build.part("rod", p=(0, 0))],
        [build.body("base", fixed=True), build.body("rod", *at)],
        [build.joint("arc", "pin_on_arc", "base.c", "rod.p", radius=radius)],
    )
    motion = build.motion(build.driven(doc, ("arc", start, end), count=20))
    assert motion.end is End.COMPLETE
    wanted = start + (end - start) * motion.progress
    place = motion.poses[:, 1, :2]
    assert np.hypot(*place.T) == pytest.approx(np.full(len(place), radius), abs=1e-7)
    assert np.arctan2(place[:, 1], place[:, 0]) == pytest.approx(wanted, abs=1e-8)
    speed = np.hypot(*motion.samples.first[:, 1, :2].T)
    assert speed == pytest.approx(np.full(len(place), radius * abs(end - start)), rel=1e-7)
    assert motion.poses[:, 1, 2] == pytest.approx(np.zeros(len(place)), abs=1e-9)


@pytest.mark.parametrize(
    ("radius", "words"), [(None, "no radius"), (0.0, "not above zero"), (-4.0, "not above zero")]
)
def test_an_arc_without_a_size_is_refused(radius: float | None, words: str) -> None:
    doc = arc_bar(40, 120, 80, 100, 0.7, kind="pin_on_arc")
    joints = tuple(
        j.model_copy(update={"radius": radius}) if j.id == "arc" else j for j in doc.joints
    )
    with pytest.raises(ValueOutOfRangeError, match=words) as caught:
        build.mechanism(doc.model_copy(update={"joints": joints}))
    assert "arc" in caught.value.where
