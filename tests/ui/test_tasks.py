"""Whole tasks from an empty document, with mouse and keys only; their gestures are counted.

A gesture is a click, a drag, a key chord or a typed field. The four-bar by the guide stands in
`test_guided`.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel, QLineEdit

from anakinema.findings import Outcome
from anakinema.ui.miniature import MiniatureCard
from anakinema.ui.stage.tools.place import ITEM
from tests import mechanisms as build
from tests.ui.test_assemble import CONTROL, SHIFT, Hand, hand, poses_of, refusal, repeat  # noqa: F401
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton


def bring(hand: Hand, first: str, second: str, kind: str = "") -> None:  # noqa: F811
    """Drag a place of a part onto a place of another; Enter joins them."""
    stage = hand.window.stage
    start, end = hand.point(first), hand.point(second)
    hand.gestures += 1
    one, two = hand.pixel(*start), hand.pixel(*end)
    hand.qtbot.mousePress(stage, LEFT, pos=one)
    for share in (0.3, 0.6, 0.9, 1.0):
        hand.qtbot.mouseMove(stage, one + (two - one) * share)
    tool = stage.tool
    for _ in range(12):
        meets = tool._meets
        if meets is not None and f"{meets.body}.{meets.snap.place.id}" == second:
            break
        # Tab goes through the places that lie together, while the button is held.
        hand.gestures += 1
        tool._finder.cycle()
        tool.move(stage._last)
    assert meets is not None and f"{meets.body}.{meets.snap.place.id}" == second, (
        meets,
        second,
        tool._held,
        tool._grip,
        tool._body,
        tool._carried,
    )
    hand.qtbot.mouseRelease(stage, LEFT, pos=two)
    hand.wait_for_join()
    if kind:
        hand.choose("join_kind", kind)
    hand.key(Qt.Key.Key_Return)
    assert hand.bench.tool == "", hand.bench.trouble


def pick_bodies(hand: Hand, *bodies: str) -> None:  # noqa: F811
    """Click bodies on the stage, with Ctrl after the first."""
    for k, body in enumerate(bodies):
        spot = hand.window.stage.spot_of(body)
        assert spot is not None, body
        hand.gestures += 1
        hand.qtbot.mouseClick(
            hand.window.stage,
            LEFT,
            CONTROL if k else Qt.KeyboardModifier.NoModifier,
            spot.toPoint(),
        )
        hand.settled(hand.window)
    assert set(hand.bench.selection.bodies) == set(bodies)


def pick_joint(hand: Hand, joint: str) -> None:  # noqa: F811
    """Find a joint by name and select it."""
    title = hand.bench.session.document.joint(joint).title
    hand.key(Qt.Key.Key_K, CONTROL)
    fields = hand.window.findChildren(QLineEdit, "command_field")
    field = next(each for each in fields if each.isVisible())
    hand.gestures += 1
    hand.qtbot.keyClicks(field, f"{title} (joint)")
    hand.gestures += 1
    hand.qtbot.keyClick(field, Qt.Key.Key_Return)
    until(lambda: hand.bench.selection.id == joint)


def test_a_parallel_gripper_with_limits_where_it_touches(hand: Hand) -> None:  # noqa: F811
    sizes = {"length": "100 mm", "width": "100 mm", "spacing_x": "60 mm", "spacing_y": "60 mm"}
    hand.place("plate with holes", 0, 0, **sizes)
    for k, place in enumerate(("d", "c")):
        hand.place("link", -60 + 90 * k, 100, length="50 mm")
        hand.retype("pose_angle", "70 deg")
        bring(hand, f"{'link' if not k else 'link_2'}.a", f"plate.{place}")
    hand.place("link", -20, 130, length="60 mm")
    bring(hand, "link_3.a", "link.b")
    hand.join("link_3.b", "link_2.b")
    pick_bodies(hand, "link", "link_2")
    repeat(hand, "along the stack", lift="20 mm")
    side = [b.id for b in hand.bench.session.document.bodies if b.id != "plate"]
    hand.gestures += 1
    hand.bench.select(type(hand.bench.selection)("body", side[0], tuple(side[1:])))
    repeat(hand, "mirrored", angle="0 deg")
    document = hand.bench.session.document
    assert (len(document.bodies), len(document.joints)) == (11, 16)
    pick_joint(hand, "link_on_plate")
    hand.press_button("joint_drive")
    words = hand.child(QLabel, "touch_words")
    for which in ("least", "greatest"):
        hand.press_button(f"{which}_touch")
        until(lambda which=which: words.text().startswith(f"link on plate {which}"))
        hand.settled(hand.window)
    limits = hand.bench.session.document.joint("link_on_plate").limits
    least, greatest = (float(str(v).split()[0]) for v in (limits.least, limits.greatest))
    # Two bars between equal pins touch alike on both sides.
    assert 0 < least < 25 and least + greatest == pytest.approx(180.0, abs=1e-6)
    poses = poses_of(hand)
    assert poses["link_3"][:, 2] == pytest.approx(poses["link_3"][0, 2], abs=1e-7)
    moved, doubled = poses["link"][:, 2], poses["link_4"][:, 2]
    assert build.wrap(doubled - moved) == pytest.approx(0, abs=1e-7)
    assert hand.gestures <= 90, hand.gestures


def test_a_two_stage_scissor_with_slot_and_platform(hand: Hand) -> None:  # noqa: F811
    hand.place("base with two pins", 0, -70, spacing="60 mm")
    for x, angle in ((-90, "60 deg"), (70, "120 deg")):
        hand.place("link with three holes", x, 60, length="100 mm", middle="50 mm")
        hand.retype("pose_angle", angle)
    bring(hand, "long_link_2.b", "long_link.b")
    pick_bodies(hand, "long_link", "long_link_2")
    hand.key(Qt.Key.Key_U, CONTROL)
    hand.join("unit__long_link.a", "base.a")
    hand.join("unit__long_link_2.a", "base.middle", "pin in slot")
    hand.gestures += 1
    hand.bench.select(type(hand.bench.selection)("body", "unit__long_link"))
    hand.key(Qt.Key.Key_U, CONTROL | SHIFT)
    second = hand.bench.session.document.instances[-1].id
    hand.join(f"{second}__long_link.a", "unit__long_link_2.c")
    hand.join(f"{second}__long_link_2.a", "unit__long_link.c")
    hand.place("slotted link", 0, 190, length="120 mm")
    platform = hand.bench.session.document.bodies[-1].id
    hand.join(f"{platform}.a", f"{second}__long_link_2.c")
    hand.join(f"{second}__long_link.c", f"{platform}.slot", "pin in slot")
    assert hand.bench.evaluation.followed.mobility.freedoms == 1
    hand.gestures += 1
    hand.bench.select(type(hand.bench.selection)("joint", "unit_long_link_on_base"))
    hand.press_button("joint_drive")
    poses = poses_of(hand)
    # The platform stays level, twice the height of one crossed pair above the base.
    level = poses[platform][:, 2]
    assert build.wrap(level - level[0]) == pytest.approx(0, abs=1e-6)
    lean = poses["unit__long_link"][:, 2]
    x, y = places_of(hand, platform, "a")
    assert y - poses["base"][:, 1] == pytest.approx(200 * np.sin(lean), abs=1e-5)
    assert np.isfinite(x).all()
    assert hand.gestures <= 70, hand.gestures


def places_of(hand: Hand, body: str, place: str) -> tuple[np.ndarray, np.ndarray]:  # noqa: F811
    """x and y of a place over the motion, mm."""
    evaluation = hand.bench.evaluation
    part = evaluation.document.body(body).part
    px, py, _ = evaluation.resolved.parts[part].places[place]
    pose = poses_of(hand)[body]
    c, s = np.cos(pose[:, 2]), np.sin(pose[:, 2])
    return pose[:, 0] + c * px - s * py, pose[:, 1] + s * px + c * py


def test_the_tray_shuttle_is_brought_to_pass_with_one_more_check_and_a_table(
    qtbot, window, settled, tmp_path: Path, monkeypatch
) -> None:  # type: ignore[no-untyped-def]
    shuttle = Hand(qtbot, window, settled)
    shuttle.gestures += 1
    qtbot.mouseClick(window.findChild(MiniatureCard, "demo_tray-shuttle"), LEFT)
    settled(window)
    assert window.route.stations["Check"].words == "1 of 7 fails"
    # A shorter rod keeps clear of the post.
    shuttle.retype("parameter_rod", "104 mm")
    assert window.workbench.evaluation.verdict.outcome is not Outcome.FAIL
    # Another question: the gap of the rod to all others, as it is now.
    pick_bodies(shuttle, "push_rod")
    asking = window.bar.asking
    until(lambda: asking.now is not None)
    shuttle.press_button("ask_commit")
    until(lambda: len(window.workbench.session.document.requirements) == 6)
    settled(window)
    assert window.workbench.evaluation.verdict.outcome is not Outcome.FAIL
    path = tmp_path / "shuttle.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    shuttle.key(Qt.Key.Key_4, CONTROL)
    shuttle.press_button("export_table")
    done = shuttle.child(QLabel, "record_done")
    until(lambda: done.text() == "Written to shuttle.csv.")
    assert path.read_text().count("\n") > 700
    assert shuttle.gestures <= 20, shuttle.gestures


def test_a_ratchet_with_its_pawl_is_turned_both_ways(hand: Hand) -> None:  # noqa: F811
    hand.place("base with two pins", -60, -40, spacing="62 mm", pin="5 mm")
    hand.place("ratchet wheel", -60, 80, bore="5.2 mm")
    bring(hand, "ratchet_wheel.centre", "base.a")
    hand.place("pawl", 60, 60, bore="5.2 mm")
    hand.retype("pose_angle", "-120 deg")
    bring(hand, "pawl.pivot", "base.b")
    hand.choose("joint_yields", "a spring brings it back")
    hand.retype("limit_rest", "-150 deg")
    # The wheel and the pawl are related by the join tool, without a joint.
    hand.command("join")
    hand.pick("ratchet_wheel.tip")
    hand.pick("pawl.tip")
    hand.wait_for_join()
    hand.press_button("tie_contact_push")
    pick_joint(hand, "ratchet_wheel_on_base")
    hand.press_button("joint_drive")
    clicks = [happened(hand, -1), happened(hand, 1)]
    assert sorted(clicks) == [False, True], clicks
    assert hand.gestures <= 40, hand.gestures


def happened(hand: Hand, way: int) -> bool:  # noqa: F811
    """Turn the wheel by a fifth of a turn one way: whether the pawl let teeth pass."""
    hand.stage(0)
    driver = hand.bench.session.document.program.drivers[0]
    hand.retype(f"target_0_{driver.id}", f"{driver.start} + {way * 72} deg")
    motion = hand.bench.evaluation.motion
    passed = any(event.kind.value == "tooth passed" for event in motion.events)
    assert passed or motion.last < 1.0
    return passed


def test_a_stack_of_levers_with_hardware(hand: Hand) -> None:  # noqa: F811
    hand.place("base with two pins", -100, -40, pin_length="40 mm", spacing="260 mm")
    for item, spot in (("spacer", "base.a"), ("washer", "base.b")):
        hand.place(item, *hand.point(spot))
    hand.place("link", 0, 60, length="100 mm")
    hand.join("link.a", "spacer.axis")
    hand.place("collar", *hand.point("link.a"), bore="8.4 mm")
    hand.place("bolt", *hand.point("link.b"))
    hand.place("link", 90, 60)
    hand.join("link_2.a", "washer.axis")
    hand.place("bearing", *hand.point("link_2.b"))
    # Dropped into the section, a washer lies on top of the collar that is there already.
    pick_joint(hand, "link_on_spacer")
    hand.command("stack")
    view = hand.window.stack
    until(lambda: view.section is not None and bool(view.section.axes))
    axis = next(a for a in view.section.axes if a.joint == "link_on_spacer")
    _, up, _, floor = view._scales()
    x = view._box(axis.at, axis.at, floor, floor).x()
    at = QPointF(x + 3, view.height() - 80 - (20.0 - floor) * up)
    data = QMimeData()
    data.setData(ITEM, b"shelf:washer")
    allowed, held = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    hand.gestures += 1
    enter = QDragEnterEvent(at.toPoint(), allowed, data, held, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(view, enter)
    assert enter.isAccepted()
    drop = QDropEvent(at, allowed, data, held, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(view, drop)
    hand.settled(hand.window)
    top = hand.bench.selection.id
    hand.gestures += 1
    hand.window.activateWindow()
    until(hand.window.isActiveWindow)
    view.setFocus()
    hand.qtbot.keyClick(view, Qt.Key.Key_Q)
    assert hand.window.stage.isVisible()
    document = hand.bench.session.document
    rigid = [joint for joint in document.joints if joint.kind == "rigid"]
    assert len(rigid) == 6 and len(document.bodies) == 9
    scene = hand.bench.scene
    heights = {b.id: float(scene.resolved.heights[k]) for k, b in enumerate(document.bodies)}
    # Each lies on the face of what carries it.
    assert heights["spacer"] == 0.0 and heights["link"] == 6.0 and heights["collar"] == 12.0
    assert heights[top] == 20.0 and top == "washer_2"
    assert heights["washer"] == 0.0 and heights["link_2"] == pytest.approx(1.6)
    pick_joint(hand, "link_on_spacer")
    hand.press_button("joint_drive")
    verdict = hand.bench.evaluation.verdict
    share = next(f for f in verdict.findings if f.kind == "overlap")
    assert share.outcome is not Outcome.FAIL
    assert hand.bench.evaluation.followed.mobility.freedoms == 2
    assert hand.gestures <= 60, hand.gestures


def test_an_eccentric_with_a_flat_follower_is_read(hand: Hand) -> None:  # noqa: F811
    """A flat face on an eccentric rises by e(1 - cos θ): harmonic over half a turn."""
    hand.command("cams")
    hand.choose("cam_face", "flat face")
    hand.retype("cam_lift", "20 mm")
    hand.press_button("cam_make")
    hand.press_button("segment_3_drop")
    hand.press_button("segment_1_drop")
    for k in (0, 1):
        hand.retype(f"segment_{k}_turn", "180 deg")
        hand.choose(f"segment_{k}_law", "harmonic")
    assert "Lift: 20.00 mm" in hand.child(QLabel, "cam_facts").text()
    diagrams = {each.title: each for each in hand.window.studio.canvas._view.diagrams}
    name = next(key for key in diagrams if "acceleration" in key.lower())
    # By the turn: e cos θ, so 10 mm for each square radian at its ends.
    assert np.abs(diagrams[name].values).max() == pytest.approx(10.0, rel=1e-3)
    hand.key(Qt.Key.Key_Escape)
    hand.settled(hand.window)
    motion = hand.bench.evaluation.motion
    lift = motion.values[:, 1]
    turn = motion.values[:, 0] - motion.values[0, 0]
    assert lift - lift.min() == pytest.approx(10 * (1 - np.cos(turn)), abs=1e-6)
    assert hand.gestures <= 30, hand.gestures


MISTAKES = (
    ("pose_x", "12 deg", "length"),
    ("pose_angle", "3 mm", "angle"),
    ("pose_x", "1e99", ""),
    ("pose_y", "5 +", "number or name"),
    ("pose_y", "nothing*2", "nothing"),
    ("dimension_link_length", "-4 mm", ""),
    ("dimension_link_length", "0 mm", ""),
    ("dimension_link_hole", "30 mm", "hole"),
    ("dimension_link_width", "5 mm", "hole"),
    ("dimension_link_thickness", "-6 mm", ""),
    ("dimension_link_thickness", "0/0", ""),
    ("pose_angle", "(30 deg", ""),
)


def test_a_dozen_mistakes_are_each_answered_in_place(hand: Hand) -> None:  # noqa: F811
    """Each says why right at its field, and the last good value is back."""
    hand.place("link", 0, 0)
    before = hand.bench.session.document
    for name, text, words in MISTAKES:
        hand.retype(name, text)
        assert words in refusal(hand), (name, text, refusal(hand))
        assert len(refusal(hand)) > 10, (name, text)
        assert hand.bench.session.document == before, (name, text)
        hand.click(40, 0)
    assert len(MISTAKES) == 12
