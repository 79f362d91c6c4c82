"""Assembly, limits and reachable ranges."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from anakinema.analysis.reach import reachable_range
from anakinema.document import model as m
from anakinema.errors import AssemblyError
from anakinema.files.native import read_document
from anakinema.motion.branch_path import End
from anakinema.motion.followed_program import assemble
from anakinema.motion.motion import EventKind
from anakinema.motion.preview import preview
from anakinema.resources import demo_path
from tests import mechanisms as build


def limited(joint: str, least: float | None, greatest: float | None) -> m.Document:
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 1.0), ("crank_pivot", 1.0, 1.0 + build.FULL_TURN), count=72
    )
    limits = m.Limits(least=least, greatest=greatest)
    joints = tuple(
        j.model_copy(update={"limits": limits}) if j.id == joint else j for j in doc.joints
    )
    return doc.model_copy(update={"joints": joints})


@pytest.mark.parametrize("count", [24, 72, 500])
def test_limit_stops_the_motion_at_the_same_place_whatever_the_step(count: int) -> None:
    doc = limited("rocker_pivot", None, math.radians(100))
    stage = doc.program.stages[0].model_copy(update={"count": count})
    doc = doc.model_copy(update={"program": doc.program.model_copy(update={"stages": (stage,)})})
    motion = build.motion(doc)
    assert motion.end is End.HELD
    (event,) = [e for e in motion.events if e.kind is EventKind.LIMIT]
    assert motion.values[-1, 3] == pytest.approx(math.radians(100), abs=1e-9)
    # Independent: the crank angle at which the closed-form rocker angle is 100 degrees.
    low, high = 1.0, 3.0
    for _ in range(80):
        middle = (low + high) / 2
        reached = build.four_bar_angles(40, 120, 80, 100, middle)[1] >= math.radians(100)
        low, high = (low, middle) if reached else (middle, high)
    assert motion.values[-1, 0] == pytest.approx(low, abs=1e-9)
    assert event.progress == pytest.approx((low - 1.0) / build.FULL_TURN, abs=1e-9)


def test_limit_touched_and_left_within_one_step_is_found() -> None:
    top = math.radians(128.682187) - 1e-5
    doc = limited("rocker_pivot", None, top)
    stage = doc.program.stages[0].model_copy(update={"count": 12})
    doc = doc.model_copy(update={"program": doc.program.model_copy(update={"stages": (stage,)})})
    motion = build.motion(doc)
    assert motion.end is End.HELD
    assert motion.values[-1, 3] == pytest.approx(top, abs=1e-9)


def test_running_past_limits_reports_and_goes_on() -> None:
    doc = limited("rocker_pivot", math.radians(60), math.radians(120))
    past = doc.program.model_copy(update={"past_limits": True})
    motion = build.motion(doc.model_copy(update={"program": past}))
    assert motion.end is End.COMPLETE
    sides = [e.side for e in motion.events if e.kind is EventKind.LIMIT]
    assert sorted(sides) == [-1, 1]


def test_slightly_open_file_is_closed_to_the_nearest_pose() -> None:
    doc = build.four_bar(40, 120, 80, 100, 1.0)
    exact = assemble(build.mechanism(doc)).poses
    shaken = doc.bodies[2].model_copy(
        update={
            "pose": m.Pose(
                x=float(doc.bodies[2].pose.x) + 0.8,
                y=float(doc.bodies[2].pose.y) - 0.5,
                angle=float(doc.bodies[2].pose.angle) + 0.01,
            )
        }
    )
    bodies = (*doc.bodies[:2], shaken, doc.bodies[3])
    closed = assemble(build.mechanism(doc.model_copy(update={"bodies": bodies})))
    assert closed.open_by < 1e-9
    assert np.abs(closed.poses - exact)[:, :2].max() < 2.0


def test_loop_that_cannot_close_names_joint_and_opening() -> None:
    doc = build.four_bar(40, 120, 80, 100, 1.0)
    short = m.Part(id="coupler", places=(m.Place(id="a"), m.Place(id="b", x=5.0)))
    parts = tuple(short if p.id == "coupler" else p for p in doc.parts)
    far = tuple(m.Place(id=p.id, x=400.0) if p.id == "b" else p for p in doc.parts[0].places)
    parts = (parts[0].model_copy(update={"places": far}), *parts[1:])
    with pytest.raises(AssemblyError, match="stay .* mm apart") as caught:
        assemble(build.mechanism(doc.model_copy(update={"parts": parts})))
    assert "joint" in caught.value.where


def test_start_value_out_of_reach_says_how_far_it_comes() -> None:
    doc = build.driven(build.four_bar(80, 60, 70, 120, 0.5), ("crank_pivot", 2.5, 3.0))
    with pytest.raises(AssemblyError, match="comes as far as 1.366 rad") as caught:
        build.motion(doc)
    assert "crank pivot" in caught.value.where


def test_a_pose_that_cannot_be_assembled_anew_has_no_range_that_could_be_stated() -> None:
    drawn = build.four_bar(30, 80, 70, 90, 0.3)
    motion = build.motion(build.driven(drawn, ("crank_pivot", 0.3, 1.0)))
    torn = replace(
        motion.mechanism,
        table=replace(
            motion.mechanism.table, second_point=motion.mechanism.table.second_point + 200.0
        ),
    )
    reach = reachable_range(torn, motion.poses[0], motion.values[0], 0)
    assert (reach.low.reason, reach.high.reason) == ("undecided", "undecided")
    assert reach.low.value == reach.start == reach.high.value


def test_reachable_range_and_its_reasons() -> None:
    doc = build.driven(build.four_bar(80, 60, 70, 120, 0.5), ("crank_pivot", 0.5, 0.6))
    motion = build.motion(doc)
    reach = reachable_range(motion.mechanism, motion.poses[0], motion.values[0], 0)
    limit = math.radians(78.2802397)
    assert (reach.low.value, reach.high.value) == pytest.approx((-limit, limit), abs=1e-7)
    assert (reach.low.reason, reach.high.reason) == ("dead point", "dead point")
    motion = build.motion(limited("rocker_pivot", None, math.radians(100)))
    reach = reachable_range(motion.mechanism, motion.poses[0], motion.values[0], 0)
    assert reach.high.reason == "limit"
    assert reach.high.joint == 3


def test_a_glimpse_is_near_the_exact_motion_of_the_changed_mechanism() -> None:
    doc = build.driven(build.four_bar(40, 120, 80, 100, 1.0), ("crank_pivot", 1.0, 7.0))
    earlier = build.motion(doc)
    other = build.driven(build.four_bar(41.5, 120, 80, 100, 1.0), ("crank_pivot", 1.0, 7.0))
    changed = doc.model_copy(update={"parts": other.parts})
    look = preview(build.mechanism(changed), earlier)
    assert look is not None
    exact = build.motion(changed)
    for progress, poses in zip(look.progress, look.poses, strict=True):
        assert exact.poses_at(np.array([progress]))[0] == pytest.approx(poses, abs=1e-3)
    assert preview(build.mechanism(build.hung_weight(10)), earlier) is None


@pytest.mark.parametrize("apart", [0.3, 0.03, 0.003])
def test_two_extremes_within_one_step_are_found(apart: float) -> None:
    """x = 40 cos t + 20 cos(2t + f) stands where sin t + sin(2t + f) = 0, factored by hand."""
    lead = math.pi / 2 + apart
    doc = build.document(
        [
            build.part("base", a=(0, 0)),
            build.part("arm", a=(0, 0), b=(40, 0)),
            build.part("tip", a=(0, 0), b=(20, 0)),
            build.part("slide", along=(0, 0, 0), slot=(0, 0, math.pi / 2)),
        ],
        [
            build.body("base", fixed=True),
            build.body("arm"),
            build.body("tip", 40, 0, lead),
            build.body("slide", 40 + 20 * math.cos(lead), 0),
        ],
        [
            build.joint("shoulder", "revolute", "base.a", "arm.a"),
            build.joint("elbow", "revolute", "arm.b", "tip.a"),
            build.joint("pin", "pin_in_slot", "slide.slot", "tip.b"),
            build.joint("out", "prismatic", "base.a", "slide.along"),
        ],
    )
    turn = build.FULL_TURN
    doc = build.driven(doc, ("shoulder", 0.0, turn), ("elbow", lead, lead + turn), count=12)
    motion = build.motion(doc)
    out = motion.mechanism.joint_index("out")
    found = [
        e.progress * turn for e in motion.events if e.kind is EventKind.EXTREME and e.joint == out
    ]
    wanted = [*((build.FULL_TURN * n - lead) / 3 for n in (1, 2, 3)), math.pi - lead]
    assert found == pytest.approx(sorted(wanted), abs=1e-8)


@pytest.mark.parametrize("count", [36, 72, 361, 720])
def test_a_value_that_stands_before_it_turns_back_is_greatest_where_it_comes_to_stand(
    count: int,
) -> None:
    """The dibber's cam lifts 20 mm within 100 degrees, rests to 160 and lowers until 260."""
    doc = read_document(demo_path("cam-dibber"))
    stage = doc.program.stages[0].model_copy(update={"count": count, "step": None})
    program = doc.program.model_copy(update={"stages": (stage,)})
    motion = build.motion(doc.model_copy(update={"program": program}))
    guide = motion.mechanism.joint_index("guide")
    found = [e for e in motion.events if e.kind is EventKind.EXTREME and e.joint == guide]
    assert [event.side for event in found] == [1, -1]
    assert [event.value for event in found] == pytest.approx([20.0, 0.0], abs=1e-6)
    for event, stands in zip(found, (100 / 360, 260 / 360), strict=True):
        assert -1e-3 <= event.progress - stands <= 1 / count + 1e-9
