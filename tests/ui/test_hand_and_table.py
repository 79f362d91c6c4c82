"""Driving by hand on the stage, and a program taken from a table."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPlainTextEdit

from tests.ui.test_assemble import CONTROL, Hand


@pytest.fixture
def hand(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    """The tray shuttle at Drive."""
    window = opened("tray-shuttle")
    found = Hand(qtbot, window, settled)
    found.key(Qt.Key.Key_2, CONTROL)
    return found


def crank(hand: Hand) -> float:
    """Degrees of the crank at the playhead."""
    at = hand.bench.evaluation.motion.at(np.array([hand.bench.progress]))
    joint = hand.bench.evaluation.resolved.program.joints[0]
    return math.degrees(float(at.values[0, joint]))


def on_crank(hand: Hand, degrees: float) -> tuple[float, float]:
    """A point of the crank, 40 mm out, when it stands at an angle."""
    evaluation = hand.bench.evaluation
    index = [b.id for b in evaluation.document.bodies].index("crank")
    motion = evaluation.motion
    joint = evaluation.resolved.program.joints[0]
    progress = float(np.interp(math.radians(degrees), motion.values[:, joint], motion.progress))
    x, y, angle = motion.poses_at(np.array([progress]))[0, index].tolist()
    return x + 40 * math.cos(angle), y + 40 * math.sin(angle)


def test_the_crank_is_dragged_and_stays_where_it_is_let_go(hand: Hand) -> None:
    motion = hand.bench.evaluation.motion
    joint = hand.bench.evaluation.resolved.program.joints[0]
    begin = math.degrees(float(motion.values[0, joint]))
    hand.bench.move_playhead(0.0)
    before = hand.bench.session.document
    way = [on_crank(hand, begin + step) for step in range(5, 125, 5)]
    hand.drag(on_crank(hand, begin), way)
    assert crank(hand) == pytest.approx(begin + 120, abs=1.5)
    assert hand.bench.session.document == before
    # Back again, and past the beginning it stays at the end.
    hand.drag(way[-1], [on_crank(hand, begin + step) for step in range(115, -1, -5)])
    assert crank(hand) == pytest.approx(begin, abs=1.5)


def test_a_table_becomes_the_program_and_a_wrong_line_is_named(hand: Hand) -> None:
    table = hand.child(QPlainTextEdit, "program_table")
    table.setPlainText("0\t0\n1\tninety\n")
    hand.press_button("program_paste")
    assert hand.bench.trouble.where == "line 2"
    before = hand.bench.session.document
    table = hand.child(QPlainTextEdit, "program_table")
    table.setPlainText("0\t0\n1\t90\n1.5\t90\n4\t-30\n")
    hand.press_button("program_paste")
    motion = hand.bench.evaluation.motion
    joint = hand.bench.evaluation.resolved.program.joints[0]
    assert motion.timing.total == pytest.approx(4.0)
    for seconds, degrees in ((0.5, 45.0), (1.0, 90.0), (1.25, 90.0), (2.75, 30.0), (4.0, -30.0)):
        at = motion.at(np.array([motion.timing.progress_at(seconds)]))
        assert math.degrees(float(at.values[0, joint])) == pytest.approx(degrees, abs=1e-6)
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before
