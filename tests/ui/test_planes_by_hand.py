"""Two planes built from nothing by mouse and keys, in the flat view and in depth."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QComboBox, QLabel, QListWidget, QMenu

from anakinema.files.native import read_document
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


def test_a_plane_is_laid_on_a_face_in_depth(hand: Hand) -> None:  # noqa: F811
    hand.place("base with two pins", 0, 0, spacing="100 mm")
    view = turn_deep(hand.window, hand.qtbot)
    bench = hand.bench
    spot = next(
        QPointF(x, y)
        for y in range(view.height() - 20, 20, -3)
        for x in range(40, view.width() - 140, 7)
        if (hit := view.hit_at(QPointF(x, y))) is not None and hit.face == "wall"
        and abs(hit.normal[1]) > 0.99
    )  # fmt: skip
    hit = view.hit_at(spot)
    hand.qtbot.mouseMove(view, _whole(spot))
    hand.qtbot.mouseClick(view, RIGHT, pos=_whole(spot))
    menu = next(m for m in hand.window.findChildren(QMenu) if m.isVisible())
    next(a for a in menu.actions() if a.text() == "New plane on this face").trigger()
    menu.close()
    hand.settled(hand.window)
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
