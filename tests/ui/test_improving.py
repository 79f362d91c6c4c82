"""Several numbers are improved by hand: chosen, run, stopped, tried and undone."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QLabel, QPushButton

from anakinema.findings import Outcome
from anakinema.ui.drawers.check import FindingRow
from anakinema.ui.fields import QuantityField
from tests.ui.test_assemble import Hand
from tests.ui.test_changes import opened_hand, outcome
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton


def asked(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    qtbot.mouseClick(hand.child(FindingRow, "finding_post_gap"), LEFT)
    hand.press_button("improve_open")
    return hand


def state(hand: Hand) -> str:
    return str(hand.child(QLabel, "improve_state").text())


def test_a_failing_gap_is_improved_and_undone(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = asked(qtbot, opened, settled)
    before = hand.bench.session.document
    boxes = {box.text(): box for box in hand.window.findChildren(QCheckBox)}
    assert boxes["rod"].isChecked() and not boxes["rocker, length"].isChecked()
    boxes["centres"].setFocus()
    qtbot.keyClick(boxes["centres"], Qt.Key.Key_Space)
    assert not boxes["centres"].isChecked()
    boxes["rail height"].click()
    hand.retype("improve_2_low", "110")
    hand.retype("improve_2_high", "120")
    qtbot.mouseClick(hand.child(QPushButton, "improve_run"), LEFT)
    until(lambda: "Ended" in state(hand))
    assert "not what is possible" in state(hand)
    hand.press_button("improve_try_0")
    assert outcome(hand, "post_gap") in (Outcome.PASS, Outcome.WARN)
    assert hand.bench.evaluation.verdict.exit_status == 0
    after = hand.bench.session.document
    assert len(after.trials) == 1 and "rod" in after.trials[0].name
    hand.bench.undo()
    hand.settled(hand.window)
    assert hand.bench.session.document.parameters == before.parameters
    assert len(hand.bench.session.document.trials) == 1


def test_a_search_is_stopped_and_wrong_ranges_are_said_at_their_field(
    qtbot, opened, settled
) -> None:  # type: ignore[no-untyped-def]
    hand = asked(qtbot, opened, settled)
    field = hand.child(QuantityField, "improve_0_low")
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "wide")
    qtbot.mouseClick(hand.child(QPushButton, "improve_run"), LEFT)
    assert hand.child(QPushButton, "improve_run").text() == "Improve"
    assert field.property("wrong") or field.toolTip()
    field.selectAll()
    qtbot.keyClicks(field, "130")
    qtbot.mouseClick(hand.child(QPushButton, "improve_run"), LEFT)
    until(lambda: "does not hold" in state(hand) or "around it" in state(hand))
    field.selectAll()
    qtbot.keyClicks(field, "100")
    qtbot.mouseClick(hand.child(QPushButton, "improve_run"), LEFT)
    assert hand.child(QPushButton, "improve_run").text() == "Stop"
    qtbot.mouseClick(hand.child(QPushButton, "improve_run"), LEFT)
    assert state(hand).startswith("Stopped")
