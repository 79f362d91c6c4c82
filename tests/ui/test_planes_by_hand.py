"""Two planes built from nothing by mouse and keys, in the flat view and in depth."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QComboBox, QLabel, QListWidget, QMenu

from anakinema.depth.rays import Hit
from anakinema.document import rod_ends
from anakinema.files.native import read_document
from anakinema.record import whole_list
from anakinema.ui.depth.view import DepthView
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import CONTROL, LEFT, SHIFT, Hand, hand  # noqa: F401
from tests.ui.test_depth import RIGHT, _whole, turn_deep


def turntable(hand: Hand) -> None:  # noqa: F811
    """A crank on a base, driven; a plane square to it, carried by the crank."""
    hand.place("base with two pins", 0, 0, spacing="100 mm")
    hand.place("crank with pin", -20, 70, throw="40 mm")
    hand.join("crank.shaft", "base.a")
    hand.press_button("joint_drive")
    hand.bench.select(Selection("body", "crank"))
    hand.key(Qt.Key.Key_A, SHIFT)


def test_a_plane_carried_by_a_crank_is_built_on_and_turns_with_it(hand: Hand, tmp_path) -> None:  # type: ignore[no-untyped-def]  # noqa: F811
    turntable(hand)
    bench = hand.bench
    document = bench.session.document
    assert [(p.id, p.on) for p in document.planes] == [("main", None), ("plane", "crank")]
    assert bench.plane == "plane" and bench.selection == Selection("plane", "plane")
    hand.retype("plane_z", "30 mm")
    hand.place("base with two pins", 0, 0, spacing="60 mm")
    hand.place("link", 10, 50, length="60 mm")
    hand.join("link.a", "base_2.a")
    planes = {b.id: (b.plane, b.fixed) for b in bench.session.document.bodies}
    assert planes["base_2"] == ("plane", True) and planes["link"] == ("plane", False)
    assert bench.trouble is None
    evaluation = bench.evaluation
    index = {b.id: k for k, b in enumerate(evaluation.document.bodies)}
    heights = evaluation.resolved.heights
    planes_of = evaluation.resolved.planes
    ups = []
    for poses in evaluation.motion.poses[::90]:
        places = planes_of.places(poses, heights, np.zeros(len(poses)))
        ups.append(places[index["base_2"], :, 2])
        turn = poses[index["crank"], 2]
        # The plane's normal was along -y of the crank.
        wanted = [math.sin(turn), -math.cos(turn), 0.0]
        assert places[index["base_2"], :, 2] == pytest.approx(wanted, abs=1e-9)
        assert places[index["base_2"], 2, 3] == pytest.approx(30.0 + heights[index["crank"]])
    assert np.ptp(ups, axis=0).max() > 1.0
    path = tmp_path / "two-planes.anakinema"
    bench.save(path)
    assert read_document(path) == bench.session.document
    while bench.session.undo_label is not None:
        hand.key(Qt.Key.Key_Z, CONTROL)
    assert bench.plane == "main" and not bench.session.document.bodies
    while bench.session.redo_label is not None:
        hand.key(Qt.Key.Key_Z, CONTROL | SHIFT)
    assert read_document(path) == bench.session.document


def test_the_stage_takes_only_what_lies_on_the_plane_that_is_worked_on(hand: Hand) -> None:  # noqa: F811
    turntable(hand)
    stage, bench = hand.window.stage, hand.bench
    assert stage.body_at(stage.to_pixels(*hand.point("base.a"))) is None
    picture = stage.grab().toImage()
    hand.key(Qt.Key.Key_Q, SHIFT)
    assert bench.plane == "main"
    assert stage.body_at(stage.to_pixels(50, 15)) == "base"
    assert stage.grab().toImage() != picture
    hand.press_button("assemble_list")
    rows = hand.child(QListWidget, "plane_list")
    assert [rows.item(k).text() for k in range(rows.count())] == ["main plane, worked on", "plane"]
    at = rows.visualItemRect(rows.item(1)).center()
    hand.qtbot.mouseClick(rows.viewport(), LEFT, pos=at)
    hand.press_button("plane_work")
    assert bench.plane == "plane"


def test_what_cannot_be_with_planes_is_said_and_nothing_is_lost(hand: Hand) -> None:  # noqa: F811
    turntable(hand)
    bench = hand.bench
    hand.place("link", 0, 40)
    before = bench.session.document
    bench.select(Selection("plane", "plane"))
    hand.press_button("plane_delete")
    assert bench.session.document is before
    assert "link" in hand.child(QLabel, "trouble_words").text()
    bench.dismiss_trouble()
    bench.select(Selection("plane", "main"))
    assert hand.window.findChild(QComboBox, "plane_on") is None
    hand.press_button("plane_delete")
    assert bench.session.document is before
    bench.select(Selection("body", "link"))
    hand.choose("body_plane", "main plane")
    hand.settled(hand.window)
    assert bench.session.document.body("link").plane == "main"
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert bench.session.document == before


def _asked_of_a_wall(hand: Hand, view: DepthView, words: str) -> Hit:  # noqa: F811
    """Choose so from the menu of a wall that faces along y: what of it is under the pointer."""
    spot = next(
        QPointF(x, y)
        for y in range(view.height() - 20, 20, -2)
        for x in range(40, view.width() - 140, 5)
        if (hit := view.hit_at(QPointF(x, y))) is not None and hit.face == "wall"
        and abs(hit.normal[1]) > 0.99
    )  # fmt: skip
    hit = view.hit_at(spot)
    hand.qtbot.mouseMove(view, _whole(spot))
    hand.qtbot.mouseClick(view, RIGHT, pos=_whole(spot))
    menu = next(m for m in hand.window.findChildren(QMenu) if m.isVisible())
    next(a for a in menu.actions() if a.text() == words).trigger()
    menu.close()
    hand.settled(hand.window)
    return hit


def test_a_plane_is_laid_on_a_face_in_depth(hand: Hand) -> None:  # noqa: F811
    hand.place("base with two pins", 0, 0, spacing="100 mm")
    view = turn_deep(hand.window, hand.qtbot)
    bench = hand.bench
    hit = _asked_of_a_wall(hand, view, "New plane on this face")
    plane = bench.session.document.planes[1]
    assert plane.on == "base" and bench.plane == plane.id
    resolved = bench.scene.resolved
    frame = resolved.planes.frames(resolved.poses, resolved.heights)[1]
    assert frame[:, 2] == pytest.approx(hit.normal, abs=1e-6)
    assert (hit.point - frame[:, 3]) @ frame[:, 2] == pytest.approx(0.0, abs=1e-5)
    # What is put down in depth lies on it, where the pointer was.
    bench.use_tool("place:shelf:link")
    goal = view.seen_at(frame[:, :3] @ np.array([20.0, 30.0, 0.0]) + frame[:, 3])
    hand.qtbot.mouseMove(view, _whole(goal))
    hand.qtbot.mouseClick(view, LEFT, pos=_whole(goal))
    hand.settled(hand.window)
    link = bench.session.document.body("link")
    assert link.plane == plane.id
    assert (float(link.pose.x), float(link.pose.y)) == pytest.approx((20.0, 30.0), abs=3.0)


def two_cranks(hand: Hand) -> None:  # noqa: F811
    """A driven crank on a base; on a plane square to that another base with a lever."""
    hand.place("base with two pins", 0, 0, spacing="100 mm")
    hand.place("crank with pin", -20, 70, throw="24 mm")
    hand.join("crank.shaft", "base.a")
    hand.press_button("joint_drive")
    hand.bench.select(Selection())
    hand.key(Qt.Key.Key_A, SHIFT)
    for field, value in (("plane_x", "150 mm"), ("plane_y", "-10 mm"), ("plane_z", "50 mm")):
        hand.retype(field, value)
    hand.place("base with two pins", 0, 0, spacing="60 mm")
    hand.place("link", 10, 50, length="60 mm")
    hand.join("link.a", "base_2.a")
    assert hand.bench.trouble is None


def pick_in_lists(hand: Hand, first: str, second: str) -> None:  # noqa: F811
    """J, and both places from the lists of the panel: they hold those of all planes."""
    hand.window.stage.setFocus()
    hand.command("join")
    for name, place in (("join_first", first), ("join_second", second)):
        box = hand.child(QComboBox, name)
        data = [box.itemData(k) for k in range(box.count())]
        row = next(
            k for k, snap in enumerate(data)
            if snap is not None and f"{snap.body}.{snap.snap.place.id}" == place
        )  # fmt: skip
        box.setCurrentIndex(row)
        box.activated.emit(row)
    hand.wait_for_join()


def test_a_ball_ended_rod_ties_two_planes(hand: Hand, tmp_path) -> None:  # type: ignore[no-untyped-def]  # noqa: F811
    two_cranks(hand)
    bench = hand.bench
    before = bench.session.document
    pick_in_lists(hand, "link.b", "crank.pin")
    box = hand.child(QComboBox, "join_kind")
    assert box.currentText() == "ball-ended rod"
    hand.qtbot.keyClick(hand.window.stage, Qt.Key.Key_Return)
    hand.settled(hand.window)
    joint = bench.session.document.joints[-1]
    assert joint.kind == "ball_rod" and bench.selection == Selection("joint", joint.id)
    evaluation = bench.evaluation
    index = {b.id: k for k, b in enumerate(evaluation.document.bodies)}
    assert evaluation.motion.mobility.freedoms == 1
    lever = evaluation.motion.poses[:, index["link"], 2]
    assert np.ptp(lever) > 0.2
    # As long as it was apart, and so it stays: balls where both planes have them.
    resolved = evaluation.resolved
    for poses in evaluation.motion.poses[::60]:
        places = resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))
        ends = rod_ends(resolved, places)[0]
        assert np.linalg.norm(ends[1] - ends[0]) == pytest.approx(float(joint.length), abs=1e-8)
    assert "rod" in " ".join(row.title for row in whole_list(resolved))
    # Too short for its balls, then too short to reach: said at the place, nothing lost.
    made = bench.session.document
    hand.retype("joint_length", "11 mm")
    said = " ".join(w.text() for w in hand.window.findChildren(QLabel) if w.isVisible())
    assert "too short for its balls" in said
    if bench.session.document != made:
        hand.key(Qt.Key.Key_Z, CONTROL)
    assert bench.session.document == made and bench.trouble is None
    path = tmp_path / "rod.anakinema"
    bench.save(path)
    assert read_document(path) == made
    view = turn_deep(hand.window, hand.qtbot)
    picture = view.grab().toImage()
    hand.retype("joint_thickness", "16 mm")
    assert view.grab().toImage() != picture
    while bench.session.document != before:
        hand.key(Qt.Key.Key_Z, CONTROL)
    assert all(joint.kind == "revolute" for joint in bench.session.document.joints)


def test_no_other_joint_ties_two_planes(hand: Hand) -> None:  # noqa: F811
    two_cranks(hand)
    before = hand.bench.session.document
    pick_in_lists(hand, "link.b", "crank.pin")
    hand.choose("join_kind", "revolute")
    hand.wait_for_join()
    words = hand.child(QLabel, "join_words").text()
    assert "different planes" in words and "couple two joints" in words
    hand.qtbot.keyClick(hand.window.stage, Qt.Key.Key_Return)
    assert hand.bench.session.document is before


def bin_by_hand(hand: Hand) -> None:  # noqa: F811
    """A bin of one plate; a lid that turns about its back edge, a level arm about its front."""
    hand.place("plate with holes", 0, 0)
    hand.bench.select(Selection("body", "plate"))
    hand.key(Qt.Key.Key_A, SHIFT)
    for field, value in (("plane_x", "-70 mm"), ("plane_z", "160 mm")):
        hand.retype(field, value)
    hand.place("base with two pins", 0, 0, spacing="30 mm")
    hand.place("crank with pin", 10, 50, throw="90 mm")
    hand.join("crank.shaft", "base.a")
    hand.press_button("joint_drive")


def test_a_bin_with_a_lid_and_a_level_arm_is_built_from_nothing(hand: Hand) -> None:  # noqa: F811
    """Two axes that are not parallel on one body, each driven; the gap between both is asked."""
    bin_by_hand(hand)
    bench = hand.bench
    lid_plane = bench.plane
    hand.key(Qt.Key.Key_Q, SHIFT)
    bench.select(Selection())
    assert bench.plane == "main"
    hand.key(Qt.Key.Key_A, SHIFT)
    for field, value in (
        ("plane_x", "130 mm"), ("plane_z", "160 mm"),
        ("plane_turn", "90 deg"), ("plane_tilt", "90 deg"),
    ):  # fmt: skip
        hand.retype(field, value)
    arm_plane = bench.plane
    hand.place("base with two pins", 0, 0, spacing="30 mm")
    hand.place("crank with pin", 10, 50, throw="30 mm")
    hand.join("crank_2.shaft", "base_2.a")
    hand.press_button("joint_drive")
    document, evaluation = bench.session.document, bench.evaluation
    planes = {body.id: body.plane for body in document.bodies}
    assert planes["crank"] == lid_plane and planes["crank_2"] == arm_plane
    resolved = evaluation.resolved
    frames = resolved.planes.frames(resolved.poses, resolved.heights)
    ids = [plane.id for plane in resolved.planes.all]
    axes = [frames[ids.index(name)][:, 2] for name in (lid_plane, arm_plane)]
    assert abs(axes[0] @ axes[1]) < 1e-6
    assert evaluation.motion.mobility.freedoms == 2
    pairs = {
        frozenset(evaluation.document.bodies[k].id for k in pair.bodies)
        for pair in evaluation.gaps.compared.in_space
    }
    assert frozenset(("crank", "crank_2")) in pairs
    # Mirrored to the other side: on a plane of its own, turned over.
    bench.select(Selection("body", "crank_2"))
    hand.command("repeat")
    hand.choose("repeat_manner", "to the other side")
    hand.retype("repeat_lift", "90 mm")
    hand.press_button("repeat_make")
    image = bench.session.document.bodies[-1]
    resolved = bench.scene.resolved
    frames = resolved.planes.frames(resolved.poses, resolved.heights)
    ids = [plane.id for plane in resolved.planes.all]
    one, two = frames[ids.index(arm_plane)], frames[ids.index(image.plane)]
    assert one[:, 2] @ two[:, 2] == pytest.approx(-1.0)
    assert two[:, 3] - one[:, 3] == pytest.approx(-180.0 * one[:, 2], abs=1e-4)
    while bench.session.undo_label is not None:
        hand.key(Qt.Key.Key_Z, CONTROL)
    assert not bench.session.document.bodies


def test_a_plane_is_laid_across_an_edge_in_depth(hand: Hand) -> None:  # noqa: F811
    hand.place("base with two pins", 0, 0, spacing="100 mm")
    view = turn_deep(hand.window, hand.qtbot)
    bench = hand.bench
    hit = _asked_of_a_wall(hand, view, "New plane across this edge")
    plane = bench.session.document.planes[1]
    assert plane.on == "base" and bench.plane == plane.id
    resolved = bench.scene.resolved
    frame = resolved.planes.frames(resolved.poses, resolved.heights)[1]
    # It stands square to the wall's edge, its x in the wall and away from the edge.
    wall = hit.normal
    assert frame[:, 2] @ wall == pytest.approx(0.0, abs=1e-6)
    assert frame[:, 0] @ wall == pytest.approx(0.0, abs=1e-6)
    assert (hit.point - frame[:, 3]) @ frame[:, 0] >= 0.0
    assert frame[2, 2] == pytest.approx(0.0, abs=1e-6) or abs(frame[2, 2]) == pytest.approx(1.0)
