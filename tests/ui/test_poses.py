"""Kept poses by mouse and keys: keep, go back, ghost, start, stage, limit, and after an edit."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QLabel, QLineEdit, QPushButton

from anakinema.edits import SetParameter
from anakinema.files.native import read_document
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import Hand
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def recording(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    """The tray shuttle at Record."""
    hand = Hand(qtbot, opened("tray-shuttle"), settled)
    press(hand, "station_record")
    return hand


def press(hand: Hand, name: str) -> None:
    hand.qtbot.mouseClick(hand.child(QPushButton, name) if not name.startswith("station")
                          else hand.window.route.stations["Record"], LEFT)  # fmt: skip
    hand.settled(hand.window)


def keep(hand: Hand, progress: float, name: str) -> np.ndarray:
    """Keep the pose at a progress under a name; the poses then on show."""
    hand.bench.move_playhead(progress)
    poses = hand.bench.shown_poses().copy()
    press(hand, "pose_keep")
    field = hand.child(QLineEdit, "pose_name")
    field.selectAll()
    hand.qtbot.keyClicks(field, name)
    hand.qtbot.keyClick(field, Qt.Key.Key_Return)
    hand.settled(hand.window)
    return poses


def on_show(hand: Hand, poses: np.ndarray) -> bool:
    return bool(np.abs(hand.bench.shown_poses() - poses).max() < 1e-3)


def test_poses_are_kept_gone_to_and_come_back_from_the_file(recording: Hand, tmp_path) -> None:  # type: ignore[no-untyped-def]
    hand = recording
    one = keep(hand, 0.4, "at the fork")
    other = keep(hand, 0.8, "drawn back")
    assert [p.title for p in hand.bench.session.document.poses] == ["at the fork", "drawn back"]
    press(hand, "pose_pose_1")
    until(lambda: on_show(hand, one))
    assert hand.bench.progress == pytest.approx(0.4, abs=1e-4)
    assert "crank" in hand.child(QLabel, "pose_words").text().lower()
    press(hand, "pose_pose_2")
    until(lambda: on_show(hand, other))
    file = tmp_path / "kept.anakinema"
    assert hand.bench.save(file)
    assert read_document(file).poses == hand.bench.session.document.poses
    hand.bench.undo()
    hand.bench.undo()
    assert [p.title for p in hand.bench.session.document.poses] == ["at the fork"]


def test_a_ghost_is_shown_and_a_pose_is_deleted(recording: Hand) -> None:
    hand = recording
    keep(hand, 0.4, "at the fork")
    hand.bench.move_playhead(0.0)
    before = hand.window.stage.grab().toImage()
    hand.qtbot.mouseClick(hand.child(QCheckBox, "pose_ghost"), LEFT)
    hand.settled(hand.window)
    after = hand.window.stage.grab().toImage()
    assert hand.bench.session.document.poses[0].ghost and before != after
    press(hand, "pose_delete")
    assert not hand.bench.session.document.poses
    assert hand.window.stage.grab().toImage() != after


def test_start_here_and_run_to_it_change_the_program(recording: Hand) -> None:
    hand = recording
    one = keep(hand, 0.25, "reached")
    stages = len(hand.bench.session.document.program.stages)
    press(hand, "pose_stage")
    until(lambda: not hand.bench.busy)
    assert len(hand.bench.session.document.program.stages) == stages + 1
    evaluation = hand.bench.evaluation
    assert evaluation is not None
    assert np.abs(evaluation.motion.poses[-1][:, :2] - one[:, :2]).max() < 1e-3
    hand.bench.undo()
    press(hand, "pose_start")
    until(lambda: not hand.bench.busy)
    assert np.abs(hand.bench.evaluation.motion.poses[0] - one).max() < 1e-3


def test_an_edit_that_a_pose_cannot_follow_says_so_in_the_list(recording: Hand) -> None:
    hand = recording
    keep(hand, 0.4, "at the fork")
    row = hand.child(QPushButton, "pose_pose_1")
    assert "any more" not in row.accessibleName()
    for rod in ("60 mm", "40 mm", "25 mm", "15 mm"):
        hand.bench.do_once(SetParameter("rod", rod))
        until(lambda: not hand.bench.busy)
        if hand.bench.scene.resolved.source is hand.bench.session.document:
            words = hand.child(QPushButton, "pose_pose_1").accessibleName()
            if "any more" in words:
                break
    assert "any more" in words
    press(hand, "pose_pose_1")
    assert hand.bench.trial is not None


def test_a_limit_is_set_from_a_pose_that_the_motion_does_not_pass(recording: Hand) -> None:
    hand = recording
    keep(hand, 0.3, "half way")
    hand.bench.do_once(SetParameter("rod", "119 mm"))
    until(lambda: not hand.bench.busy)
    press(hand, "pose_pose_1")
    until(lambda: hand.bench.progress == pytest.approx(0.3, abs=1e-3))
    joint = next(j for j in hand.bench.session.document.joints if j.kind == "prismatic")
    hand.bench.select(Selection("joint", joint.id))
    press(hand, "greatest_here")
    changed = next(j for j in hand.bench.session.document.joints if j.id == joint.id)
    assert changed.limits.greatest is not None and changed.limits != joint.limits
