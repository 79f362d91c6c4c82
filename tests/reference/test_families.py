"""Mechanisms as they are built, behaving as the real thing does: contact, cams and couplings."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.findings.evaluate import evaluate
from anakinema.findings.finding import Outcome
from anakinema.motion.branch_path import End
from anakinema.motion.motion import EventKind, Motion
from anakinema.parts.shelf import recipe
from tests import mechanisms as build
from tests.contacts import disc, slab, solid, touch

FULL_TURN = 2 * math.pi
UP = math.pi / 2


def values(motion: Motion, joint: str) -> np.ndarray:
    return np.asarray(motion.values[:, motion.mechanism.joint_index(joint)])


def test_crank_slider_stops_at_its_end_wall_and_says_so() -> None:
    """In-line slider crank, 40 and 120 mm, a block of half-length 10, a wall at x = 160."""
    block = slab([(-10, -8), (10, -8), (10, 8), (-10, 8)])
    wall = slab([(160, -20), (170, -20), (170, 20), (160, 20)])
    doc = build.document(
        [
            build.part("frame", o=(0.0, 0.0)),
            build.part("crank", o=(0.0, 0.0), pin=(40.0, 0.0)),
            build.part("rod", a=(0.0, 0.0), b=(120.0, 0.0)),
            solid("piston", block, p=(0.0, 0.0)),
            solid("wall", wall, o=(0.0, 0.0)),
        ],
        [
            build.body("frame", fixed=True),
            build.body("crank", angle=UP),
            build.body("rod", 0.0, 40.0, -0.34),
            build.body("piston", 113.0, 0.0),
            build.body("wall", fixed=True),
        ],
        [
            build.joint("spin", "revolute", "frame.o", "crank.o"),
            build.joint("low", "revolute", "crank.pin", "rod.a"),
            build.joint("high", "revolute", "rod.b", "piston.p"),
            build.joint("slide", "prismatic", "frame.o", "piston.p"),
        ],
        contacts=(touch("stop", "piston", "wall"),),
    )
    motion = build.motion(build.driven(doc, ("spin", UP, -UP), count=90))
    assert motion.end is End.TOUCHED
    # The piston's face is at x = 150 + 10: 40 cos θ + √(120² − 40² sin² θ) = 150.
    assert values(motion, "slide")[-1] == pytest.approx(150.0, abs=1e-6)
    cosine = (40**2 + 150**2 - 120**2) / (2 * 40 * 150)
    assert values(motion, "spin")[-1] == pytest.approx(math.acos(cosine), abs=1e-7)
    assert motion.events[-1].kind is EventKind.STOP


def lifted(cam: m.Part, rest: float, count: int = 180) -> Motion:
    """A shelf cam turned once under a roller of 6 mm that its own weight brings down."""
    doc = build.document(
        [
            build.part("frame", o=(0.0, 0.0), up=(0.0, 0.0, UP)),
            cam.model_copy(update={"id": "cam"}),
            solid("tappet", disc(0, 0, 6), p=(0.0, 0.0, UP)),
        ],
        [build.body("frame", fixed=True), build.body("cam"), build.body("tappet", 0.0, 80.0)],
        [
            build.joint("spin", "revolute", "frame.o", "cam.centre"),
            build.joint(
                "lift",
                "prismatic",
                "frame.up",
                "tappet.p",
                yields="gravity",
                limits=m.Limits(rest=rest),
            ),
        ],
        contacts=(touch("push", "cam", "tappet"),),
    )
    turned = build.driven(doc, ("spin", 0.0, FULL_TURN), count=count)
    return build.motion(turned)


@pytest.mark.parametrize(
    ("name", "low", "high"),
    [
        ("pear_cam", 20.0, 32.0),
        ("drop_cam", 20.0, 36.0),
        ("arc_cam", 22.0, 32.0),
        ("square_cam", None, None),
        ("six_sided_cam", None, None),
    ],
)
def test_given_cams_lift_their_follower(name: str, low: float | None, high: float | None) -> None:
    """A pear's base and nose by its sizes; a polygon's flats and rounded corners by geometry."""
    motion = lifted(recipe(name).part("cam"), 0.0)
    assert motion.end is End.COMPLETE
    lift = values(motion, "lift")
    if low is None or high is None:
        corners = {"square_cam": (4, 30.0, 5.0), "six_sided_cam": (6, 30.0, 3.0)}[name]
        count, radius, fillet = corners
        half = math.pi / count
        low = radius * math.cos(half)
        high = radius - fillet / math.cos(half) + fillet
        assert lift.max() == pytest.approx(high + 6.0, abs=1e-2)
    else:
        assert lift.max() == pytest.approx(high + 6.0, abs=2e-2)
    assert lift.min() == pytest.approx(low + 6.0, abs=1e-2)


def test_three_cams_on_one_axle_lift_three_followers() -> None:
    """A round, a polygon and a pear cam turn as one; each follower has its own lift."""
    names = ("pear_cam", "square_cam", "six_sided_cam")
    parts = [build.part("frame", o=(0.0, 0.0), up=(0.0, 0.0, UP))]
    bodies, joints, contacts = [build.body("frame", fixed=True)], [], []
    for k, name in enumerate(names):
        parts.append(recipe(name).part(name))
        parts.append(solid(f"t{k}", disc(0, 0, 6), p=(0.0, 0.0, UP)))
        bodies.append(build.body(name).model_copy(update={"height": 20.0 * k}))
        tappet = build.body(f"t{k}", 0.0, 80.0).model_copy(update={"height": 20.0 * k})
        bodies.append(tappet)
        first = "frame.o" if k == 0 else f"{names[0]}.centre"
        joints.append(
            build.joint(f"spin{k}", "revolute" if k == 0 else "rigid", first, f"{name}.centre")
        )
        joints.append(
            build.joint(
                f"lift{k}",
                "prismatic",
                "frame.up",
                f"t{k}.p",
                yields="gravity",
                limits=m.Limits(rest=0.0),
            )
        )
        contacts.append(touch("push", name, f"t{k}"))
    doc = build.document(parts, bodies, joints, contacts=tuple(contacts))
    motion = build.motion(build.driven(doc, ("spin0", 0.0, FULL_TURN), count=120))
    assert motion.end is End.COMPLETE
    alone = [values(lifted(recipe(name).part("cam"), 0.0), "lift") for name in names]
    for k in range(3):
        lift = values(motion, f"lift{k}")
        assert (lift.min(), lift.max()) == pytest.approx((alone[k].min(), alone[k].max()), abs=3e-2)


def test_what_is_pushed_pushes_on() -> None:
    """A slide pushes a sprung block, which pushes another: both move by what is pushed in."""
    block = slab([(-10, -8), (10, -8), (10, 8), (-10, 8)])
    names = ("slide", "one", "two")
    at = (0.0, 30.0, 60.0)
    parts = [build.part("frame", o=(0.0, 0.0))]
    bodies, joints = [build.body("frame", fixed=True)], []
    for name, x in zip(names, at, strict=True):
        parts.append(solid(name, block, p=(0.0, 0.0)))
        bodies.append(build.body(name, x))
        more = {} if name == "slide" else {"yields": "spring", "limits": m.Limits(rest=x)}
        joints.append(build.joint(name, "prismatic", "frame.o", f"{name}.p", **more))
    doc = build.document(
        parts, bodies, joints, contacts=(touch("push", "slide", "one"), touch("push", "one", "two"))
    )
    driven = build.driven(doc, ("slide", 0.0, 40.0), count=40)
    motion = build.motion(driven)
    assert motion.end is End.COMPLETE
    x = values(motion, "slide")
    assert values(motion, "one") == pytest.approx(np.maximum(30.0, x + 20), abs=1e-7)
    assert values(motion, "two") == pytest.approx(np.maximum(60.0, x + 40), abs=1e-7)
    made = [e for e in motion.events if e.kind is EventKind.TOUCH]
    assert [40 * e.progress for e in made] == pytest.approx([10.0, 20.0], abs=1e-5)


def test_half_disc_rolls_on_a_wheel_while_its_block_follows_a_curved_guide() -> None:
    """The block runs on an arc about the wheel; the half-disc it carries rolls on the wheel."""
    wheel_radius, disc_radius = 30.0, 20.0
    reach = wheel_radius + disc_radius
    arc = m.Curve(
        id="guide",
        vertices=(
            m.Vertex(x=reach, y=0.0, bulge=math.tan(math.radians(120) / 4)),
            m.Vertex(x=reach * math.cos(math.radians(120)), y=reach * math.sin(math.radians(120))),
        ),
    )
    half = slab([(0, -disc_radius, 1.0), (0, disc_radius)])
    doc = build.document(
        [
            solid("wheel", disc(0, 0, wheel_radius), o=(0.0, 0.0)).model_copy(
                update={"curves": (arc,)}
            ),
            build.part("block", p=(0.0, 0.0)),
            solid("half", half, o=(0.0, 0.0)),
        ],
        [
            build.body("wheel", fixed=True),
            build.body("block", reach, 0.0, UP),
            build.body("half", reach, 0.0, math.pi - 0.5),
        ],
        [
            build.joint("ride", "block_on_curve", "wheel.o", "block.p", curve="guide"),
            build.joint("axle", "revolute", "block.p", "half.o"),
        ],
        contacts=(touch("keep", "wheel", "half", rolling=True),),
    )
    # Its round faces right of the flat side: it can roll half a turn of its own.
    turned = [
        b.model_copy(update={"pose": m.Pose(x=reach, y=0.0, angle=UP + 0.2)})
        if b.id == "half"
        else b
        for b in doc.bodies
    ]
    doc = doc.model_copy(update={"bodies": tuple(turned)})
    motion = build.motion(build.driven(doc, ("ride", 0.0, reach * math.radians(60)), count=60))
    assert motion.mobility.freedoms == 1
    angle = motion.poses[:, 2, 2] - motion.poses[0, 2, 2]
    way = values(motion, "ride") / reach
    assert angle == pytest.approx(way * (1 + wheel_radius / disc_radius), abs=1e-8)
    # The round ends half a turn on: there the touch would be lost, and it is stated.
    far = build.motion(build.driven(doc, ("ride", 0.0, reach * math.radians(118)), count=60))
    assert far.end is End.TOUCHED
    assert far.events[-1].kind is EventKind.RELEASE


def test_grooved_cam_drives_its_roller_and_leaves_it_room() -> None:
    """Island and opening are the cam and what lies twice the roller's radius beyond it."""
    program = (("150 deg", 12.0), ("30 deg", 12.0), ("150 deg", 0.0), ("30 deg", 0.0))
    segments = tuple(m.CamSegment(turn=turn, to=to) for turn, to in program)
    follower = m.CamFollower(radius=6.0, returns="groove")
    cam = m.Cam(id="lobe", base=30.0, follower=follower, segments=segments)
    opening = m.Hole(id="groove", outline=m.CamOutline(shape="cam", cam="lobe", beyond=12.2))
    plate = build.part("plate", o=(0.0, 0.0)).model_copy(
        update={
            "cams": (cam,),
            "slabs": (
                m.Slab(
                    id="rim",
                    top=5.0,
                    outline=m.Circle(shape="circle", radius=70.0),
                    holes=(opening,),
                ),
                m.Slab(
                    id="island", top=5.0, outline=m.CamOutline(shape="cam", cam="lobe", beyond=-0.1)
                ),
            ),
        }
    )
    doc = build.document(
        [
            build.part("frame", o=(0.0, 0.0), up=(0.0, 0.0, UP)),
            plate,
            solid("roller", disc(0, 0, 6), p=(0.0, 0.0, UP)),
        ],
        [build.body("frame", fixed=True), build.body("plate"), build.body("roller", 0.0, 36.0)],
        [
            build.joint("spin", "revolute", "frame.o", "plate.o"),
            build.joint("lift", "prismatic", "frame.up", "roller.p"),
            build.joint("ride", "pin_on_curve", "plate.o", "roller.p", curve="lobe_path"),
        ],
    )
    evaluation = evaluate(build.driven(doc, ("spin", 0.0, FULL_TURN), count=60))
    lift = values(evaluation.motion, "lift")
    assert (lift.min(), lift.max()) == pytest.approx((36.0, 48.0), abs=1e-6)
    found = next(f for f in evaluation.verdict.findings if f.id == "built_in.overlap")
    assert found.outcome is not Outcome.FAIL
    assert found.gap is not None
    assert found.gap.most == pytest.approx(0.1, abs=1e-3)
