"""The motion program by hand: laws, times, pauses and stages."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox

from tests.ui.test_assemble import CONTROL, Hand
from tests.waiting import until


@pytest.fixture
def hand(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    """The water pump at Drive."""
    window = opened("water-pump")
    found = Hand(qtbot, window, settled)
    found.key(Qt.Key.Key_2, CONTROL)
    return found


def test_a_stage_is_paced_by_keyboard(hand: Hand) -> None:
    before = hand.bench.session.document
    assert hand.bench.playback.duration == pytest.approx(1.0)
    hand.stage(0)
    hand.choose("law_0", "cycloidal")
    hand.settled(hand.window)
    assert hand.child(QComboBox, "law_0").currentText() == "cycloidal"
    assert hand.bench.playback.progress_at(0.25) == pytest.approx(0.25 - 1 / (2 * math.pi))
    hand.retype("lasts_0", "3")
    assert hand.bench.session.document.program.stages[0].lasts == "3 s"
    assert hand.bench.playback.duration == pytest.approx(3.0)
    hand.retype("pause_0", "0.5 s")
    assert hand.bench.playback.duration == pytest.approx(3.5)
    hand.retype("lasts_0", "0 s")
    assert "it lasts no time" in hand.bench.trouble.what
    assert "stage 1" in hand.bench.trouble.where
    while hand.bench.session.undo_label is not None:
        hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before
    assert hand.child(QComboBox, "law_0").currentText() == "constant velocity"


def test_stages_are_added_and_taken_out(hand: Hand) -> None:
    hand.press_button("stage_add")
    motion = hand.bench.evaluation.motion
    assert motion.stages == 2 and motion.last == 2.0
    joint = motion.driver_joints[0]
    assert motion.values[-1, joint] == pytest.approx(motion.values[0, joint])
    hand.retype("target_1_crank", "240 deg")
    assert hand.bench.evaluation.motion.values[-1, joint] == pytest.approx(math.radians(240))
    hand.press_button("stage_remove_1")
    assert hand.bench.evaluation.motion.last == 1.0
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.evaluation.motion.last == 2.0


def test_two_drivers_move_together_in_a_stage(hand: Hand, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("transfer-arm")
    before = window.workbench.session.document
    stages = before.program.stages
    k = next(k for k, stage in enumerate(stages) if len(stage.moves) == 1)
    (alone,) = stages[k].moves
    other = next(d for d in before.program.drivers if d.id != alone.driver)
    hand.stage(k)
    hand.press_button(f"move_add_{k}_{other.id}")
    moves = hand.bench.session.document.program.stages[k].moves
    assert [move.driver for move in moves] == [alone.driver, other.id]
    hand.retype(f"target_{k}_{other.id}", "12 deg")
    assert hand.bench.session.document.program.stages[k].moves[1].to == "12 deg"
    hand.press_button(f"move_drop_{k}_{other.id}")
    assert hand.bench.session.document == before


def test_playing_waits_in_a_pause_and_goes_on(hand: Hand, qtbot) -> None:  # type: ignore[no-untyped-def]
    hand.stage(0)
    hand.retype("lasts_0", "0.2 s")
    hand.retype("pause_0", "1 s")
    hand.press_button("stage_add")
    seen: list[float] = []
    hand.bench.playhead_moved.connect(lambda: seen.append(hand.bench.progress))
    hand.bench.loop = False
    for _ in range(13):
        hand.bench.advance(0.1)
    assert seen.count(1.0) >= 9
    assert np.all(np.diff(seen) >= 0)
    hand.bench.play(True)
    until(lambda: not hand.bench.is_playing)
    assert seen[-1] == pytest.approx(2.0)
