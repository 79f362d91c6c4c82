"""A first look at what touches: the poses before, closed anew by the same features."""

from __future__ import annotations

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.edits.values import SetDimension, SetParameter, SetPose
from anakinema.files.native import read_document
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.mechanism.contacts import Facing
from anakinema.motion.near import touches_again
from anakinema.resources import demo_path
from anakinema.session import answers
from tests import mechanisms as build
from tests.contacts import disc, ratchet, solid, touch

AWAY = 0.02
"""Share of a stage from what happens, within which the first look may tell it earlier or later."""


@pytest.mark.parametrize(
    ("demo", "edit"),
    [
        ("geneva-feeder", SetDimension("crank", "pin", "7.9 mm")),
        ("tray-indexer", SetDimension("wheel", "diameter", "100.1 mm")),
        ("tray-indexer", SetParameter("stroke", "stroke_was * 1.001")),
    ],
)
def test_it_is_near_the_exact_motion_away_from_what_happens(
    demo: str, edit: SetDimension | SetParameter
) -> None:
    document = read_document(demo_path(demo))
    if isinstance(edit, SetParameter):
        (old,) = [p.value for p in document.parameters if p.id == edit.parameter]
        edit = SetParameter(edit.parameter, str(edit.value).replace("stroke_was", f"({old})"))
    before = evaluate(document)
    changed = edit.apply(document)
    look, exact = first_look(changed, before), evaluate(changed)
    assert look is not None and not look.is_exact
    events = np.array([e.progress for e in (*exact.motion.events, *before.motion.events)])
    progress = look.motion.progress
    known = progress[progress <= exact.motion.last]
    free = np.abs(known[:, None] - events[None, :]).min(axis=1) > AWAY
    assert free.sum() > 8
    there = exact.motion.at(known[free]).poses
    off = np.abs(look.motion.poses[: len(known)][free] - there)
    assert np.quantile(off.max(axis=(1, 2)), 0.9) < 0.02
    assert np.median(off.max(axis=(1, 2))) < 2e-3


@pytest.mark.parametrize("demo", ["tray-shuttle", "tray-indexer", "geneva-feeder", "chain-take-up"])
def test_a_look_after_a_look_is_as_one_after_an_exact_answer(demo: str) -> None:
    """Who types on before the exact answer is there sees each value, at the poses that belong to
    it; and what is found exactly at last knows nothing of the looks between."""
    document = read_document(demo_path(demo))
    before, steps = evaluate(document), 3
    sizes = [(p.id, d) for p in document.parts for d in p.dimensions]
    part, size = next((p, d) for p, d in sizes if "mm" in str(d.value))
    number = float(str(size.value).split()[0])
    looks = [before]
    for k in range(1, steps + 1):
        value = f"{number * (1.0 + 0.0005 * k)} mm"
        changed = SetDimension(part, size.id, value).apply(document)
        once, again = first_look(changed, before), first_look(changed, looks[-1])
        assert once is not None and again is not None
        assert again.exact is before and not again.is_exact
        scale = again.mechanism.size
        assert np.abs(once.motion.poses - again.motion.poses).max() < 1e-5 * scale
        assert np.array_equal(again.followed.poses, again.motion.poses[0])
        looks.append(again)
    *_, exact, _ = answers(changed.model_copy(update={"name": "other"}), looks[-1])
    anew = evaluate(changed)
    assert isinstance(exact, Evaluation) and exact.is_exact
    assert exact.motion.poses.shape == anew.motion.poses.shape
    assert np.abs(exact.motion.poses - anew.motion.poses).max() < 1e-9 * anew.mechanism.size


def beside_a_four_bar() -> m.Document:
    """Bodies that nothing drives: a loose plate, a flag on a pin, and a block on a rail."""
    bar = build.four_bar(40, 100, 80, 90, 1.0)
    parts = [
        build.part("plate", o=(0.0, 0.0)),
        build.part("rail", p=(0.0, 150.0), r=(0.0, 200.0, 0.0)),
        build.part("flag", o=(0.0, 0.0)),
        build.part("block", r=(0.0, 0.0, 0.0)),
    ]
    bodies = [
        build.body("plate", 200.0, 50.0),
        build.body("rail", fixed=True),
        build.body("flag", 0.0, 150.0, 0.3),
        build.body("block", 25.0, 200.0),
    ]
    joints = [
        build.joint("pin", "revolute", "rail.p", "flag.o"),
        build.joint("slide", "prismatic", "rail.r", "block.r"),
    ]
    doc = bar.model_copy(
        update={
            "parts": (*bar.parts, *parts),
            "bodies": (*bar.bodies, *bodies),
            "joints": (*bar.joints, *joints),
        }
    )
    return build.driven(doc, ("crank_pivot", 1.0, 2.2), count=50)


@pytest.mark.parametrize(
    ("body", "field", "values"),
    [
        ("plate", "x", ("215 mm", "230 mm")),
        ("plate", "angle", ("20 deg", "200 deg")),
        ("flag", "angle", ("40 deg", "-170 deg")),
        ("block", "x", ("31 mm", "-60 mm")),
        ("rail", "y", ("5 mm", "-12 mm")),
    ],
)
def test_what_nothing_drives_is_looked_at_where_it_is_drawn(
    body: str, field: str, values: tuple[str, str]
) -> None:
    """Put elsewhere, and elsewhere again before the exact answer is there."""
    document = beside_a_four_bar()
    look = before = evaluate(document)
    for value in values:
        document = SetPose(body, field, value).apply(document)
        found = first_look(document, look)
        assert found is not None and not found.is_exact
        look, exact = found, evaluate(document)
        there = exact.motion.at(look.motion.progress).poses
        assert np.abs(look.motion.poses - there).max() < 1e-6
        index = [b.id for b in document.bodies].index(body)
        assert np.abs(look.followed.poses - before.followed.poses)[index].max() > 0.1


def touched(facing: Facing, motion_poses: np.ndarray) -> np.ndarray:
    """(N,) mm, the least gap of what faces at poses."""
    one, two = motion_poses[:, facing.first_body], motion_poses[:, facing.second_body]
    c, s = np.cos(one[:, 2]), np.sin(one[:, 2])
    dx, dy = two[:, 0] - one[:, 0], two[:, 1] - one[:, 1]
    relative = np.stack([c * dx + s * dy, c * dy - s * dx, two[:, 2] - one[:, 2]], axis=1)
    gap, margin = facing.pairs.gaps(relative)
    return np.where(margin >= -1e-6, gap, np.inf).min(axis=1)


def lifted(radius: float) -> m.Document:
    """An eccentric under a roller that its weight keeps on it."""
    parts = [
        build.part("frame", o=(0.0, 0.0), up=(0.0, 0.0, np.pi / 2)),
        solid("cam", disc(0.0, 12.0, radius), o=(0.0, 0.0)),
        solid("tappet", disc(0.0, 0.0, 8.0), p=(0.0, 0.0, np.pi / 2)),
    ]
    bodies = [build.body("frame", fixed=True), build.body("cam"), build.body("tappet", 0.0, 50.0)]
    joints = [
        build.joint("spin", "revolute", "frame.o", "cam.o"),
        build.joint(
            "lift", "prismatic", "frame.up", "tappet.p", yields="gravity", limits=m.Limits(rest=0.0)
        ),
    ]
    doc = build.document(parts, bodies, joints, contacts=(touch("push", "cam", "tappet"),))
    return build.driven(doc, ("spin", 0.1, 6.0), count=60)


@pytest.mark.parametrize("radius", [29.0, 30.5, 33.0])
def test_what_touched_touches_the_changed_outline(radius: float) -> None:
    """The roller lies on the new disc exactly: its centre is both radii from the disc's."""
    before = evaluate(lifted(30.0))
    look = first_look(lifted(radius), before)
    assert look is not None
    (facing,) = look.mechanism.facings
    assert touched(facing, look.motion.poses) == pytest.approx(0.0, abs=1e-4)
    cam, tappet = look.motion.poses[:, 1], look.motion.poses[:, 2]
    centre = cam[:, :2] + 12.0 * np.stack([-np.sin(cam[:, 2]), np.cos(cam[:, 2])], axis=1)
    apart = np.hypot(*(tappet[:, :2] - centre).T)
    assert apart == pytest.approx(radius + 8.0, abs=1e-4)


def test_what_rolls_or_has_other_features_has_no_first_look() -> None:
    before = evaluate(lifted(30.0))
    (segment, *_) = before.motion.segments
    touches = segment.branch_path.path.system.touches
    assert touches_again(before.mechanism, before.mechanism, touches) == touches
    rolling = before.mechanism.facings[0].roll(0, before.mechanism.size)
    assert rolling is not None
    assert touches_again(before.mechanism, before.mechanism, (rolling,)) is None
    wheel = ratchet([0.0, -1.0])
    assert first_look(lifted(30.0), evaluate(wheel)) is None
