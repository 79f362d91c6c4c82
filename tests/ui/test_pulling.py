"""A result is pulled on the strip to where it should be; one number follows; undo is one step."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QComboBox

from anakinema.ui.drawers.check import FindingRow
from anakinema.ui.strip.lanes import Lanes
from tests.ui.test_assemble import CONTROL, Hand
from tests.ui.test_changes import opened_hand
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton


def ready(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    qtbot.mouseClick(hand.child(FindingRow, "finding_post_gap"), LEFT)
    hand.choose("solve_number", "rod")
    until(lambda: hand.window.strip.lanes.handle() is not None)
    return hand


def gap(hand: Hand) -> float:
    return next(f.value for f in hand.bench.evaluation.verdict.findings if f.id == "post_gap")


def rod(hand: Hand) -> str | float:
    return next(p.value for p in hand.bench.session.document.parameters if p.id == "rod")


def move(lanes: Lanes, at: QPoint, modifier: Qt.KeyboardModifier) -> None:
    """The pointer with the left button down."""
    QApplication.sendEvent(
        lanes,
        QMouseEvent(
            QEvent.Type.MouseMove, QPointF(at), lanes.mapToGlobal(at), LEFT, LEFT, modifier
        ),
    )


@pytest.mark.parametrize(("pixels", "fine"), [(-6, True), (-2, False)])
def test_the_closest_gap_is_pulled_to_a_value(  # type: ignore[no-untyped-def]
    qtbot, opened, settled, pixels: int, fine: bool
) -> None:
    hand = ready(qtbot, opened, settled)
    lanes = hand.window.strip.lanes
    at, up = lanes.handle()
    before, begun = hand.bench.session.document, gap(hand)
    start = at.toPoint()
    qtbot.mousePress(lanes, LEFT, pos=start)
    modifier = Qt.KeyboardModifier.ShiftModifier if fine else Qt.KeyboardModifier.NoModifier
    for share in (0.5, 1.0):
        move(lanes, start + QPoint(0, round(share * pixels)), modifier)
    said = begun + pixels * (up.high - up.low) / (up.end - up.start) * (0.1 if fine else 1.0)
    wanted = start + QPoint(0, pixels)
    until(lambda: not hand.bench.busy and abs(gap(hand) - said) <= 4e-3 * max(abs(said), 1.0))
    assert hand.bench.evaluation.is_exact
    qtbot.mouseRelease(lanes, LEFT, pos=wanted)
    hand.settled(hand.window)
    assert gap(hand) == pytest.approx(said, abs=8e-3 * max(abs(said), 1.0))
    assert rod(hand) != "118 mm"
    # All others are as they were, and one undo takes it back.
    after = hand.bench.session.document
    assert [p for p in after.parameters if p.id != "rod"] == [
        p for p in before.parameters if p.id != "rod"
    ]
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before


def test_escape_puts_it_back_and_what_passes_can_be_pulled_too(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = ready(qtbot, opened, settled)
    lanes, before = hand.window.strip.lanes, hand.bench.session.document
    at, _ = lanes.handle()
    qtbot.mousePress(lanes, LEFT, pos=at.toPoint())
    move(lanes, at.toPoint() - QPoint(0, 3), Qt.KeyboardModifier.NoModifier)
    until(lambda: rod(hand) != "118 mm")
    qtbot.keyClick(lanes, Qt.Key.Key_Escape)
    assert hand.bench.session.document == before
    qtbot.mouseRelease(lanes, LEFT, pos=at.toPoint())
    assert hand.bench.session.document == before
    qtbot.mouseClick(hand.child(FindingRow, "finding_push_angle"), LEFT)
    until(lambda: lanes.handle() is not None)
    assert hand.child(QComboBox, "solve_number").count() > 2
    # A range is no place on its curve: nothing to take hold of.
    qtbot.mouseClick(hand.child(FindingRow, "finding_stroke"), LEFT)
    assert lanes.handle() is None
