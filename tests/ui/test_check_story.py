"""From an empty Check station to a design that passes, by mouse and keys: asked, tried, pulled,
kept, compared, saved and open again."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QWidget

from anakinema.document import Going
from anakinema.edits import Remove
from anakinema.files import read_document
from anakinema.findings import Outcome
from anakinema.resources import demo_path
from anakinema.ui.drawers.check import FindingRow
from anakinema.ui.window import MainWindow
from tests.ui.test_assemble import CONTROL, Hand
from tests.ui.test_changes import opened_hand, outcome
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton
SHIFT = Qt.KeyboardModifier.ShiftModifier


def unasked(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    """The tray shuttle with nothing asked of it."""
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    asked = frozenset(each.id for each in hand.bench.session.document.requirements)
    hand.bench.do_once(Remove(Going(requirements=asked), "Delete"))
    hand.settled(hand.window)
    return hand


def click_body(hand: Hand, body: str, modifier: Qt.KeyboardModifier) -> None:
    spot = hand.window.stage.spot_of(body)
    assert spot is not None, body
    hand.qtbot.mouseClick(hand.window.stage, LEFT, modifier, spot.toPoint())


def pull(window: MainWindow, hand: Hand, by: float) -> None:
    """Take the ring on the strip and drag it, finely, by so many mm."""
    lanes = window.strip.lanes
    place, up = lanes.handle()
    start = place.toPoint()
    pixels = round(by / (0.1 * (up.high - up.low) / (up.end - up.start)))
    hand.qtbot.mousePress(lanes, LEFT, pos=start)
    at = start + QPoint(0, pixels)
    seen = lanes.mapToGlobal(at)
    moved = QMouseEvent(QEvent.Type.MouseMove, QPointF(at), seen, LEFT, LEFT, SHIFT)
    QApplication.sendEvent(lanes, moved)
    until(lambda: not hand.bench.busy and hand.bench.is_current)
    hand.settled(window)
    hand.qtbot.mouseRelease(lanes, LEFT, pos=at)


def test_from_nothing_asked_to_a_design_that_passes(  # type: ignore[no-untyped-def]
    qtbot, opened, settled, tmp_path: Path
) -> None:
    hand = unasked(qtbot, opened, settled)
    window = hand.window
    # What is worth asking stands there; the gap of two bodies is asked by clicking them.
    until(lambda: hand.child(QPushButton, "worth_0").isVisible())
    click_body(hand, "push_rod", Qt.KeyboardModifier.NoModifier)
    click_body(hand, "guard_post", SHIFT)
    until(lambda: window.bar.asking.now is not None)
    assert hand.child(QLabel, "ask_now").text() == "now 2.14 mm"
    hand.retype("ask_value", "3")
    hand.settled(window)
    (gap,) = hand.bench.session.document.requirements
    assert outcome(hand, gap.id) is Outcome.FAIL

    # A change that would pass is tried; undo leaves the trial.
    qtbot.mouseClick(hand.child(FindingRow, f"finding_{gap.id}"), LEFT)
    until(lambda: bool(hand.bench.changes.found) and not hand.bench.changes.is_looking)
    hand.press_button("try_0")
    assert outcome(hand, gap.id) is Outcome.PASS
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert outcome(hand, gap.id) is Outcome.FAIL
    assert len(hand.bench.session.document.trials) == 1

    # The result is pulled where it should be; the number chosen follows.
    qtbot.mouseClick(hand.child(FindingRow, f"finding_{gap.id}"), LEFT)
    hand.choose("solve_number", "rod")
    until(lambda: window.strip.lanes.handle() is not None)
    pull(window, hand, 1.5)
    hand.settled(window)
    until(lambda: outcome(hand, gap.id) is Outcome.PASS)
    hand.press_button("trial_keep")
    trials = hand.bench.session.document.trials
    assert len(trials) == 2
    hand.choose("trial_beside", trials[0].title)
    words = [each.text() for each in hand.child(QWidget, "trial_rows").findChildren(QLabel)]
    assert any(", 118 mm" in each for each in words) and "rod" in words

    path = tmp_path / "passes.anakinema"
    assert hand.bench.save(path)
    again = read_document(path)
    assert again.requirements == (gap,) and again.trials == trials
    window.open_path(demo_path("water-pump"))
    hand.settled(window)
    window.open_path(path)
    hand.settled(window)
    assert outcome(hand, gap.id) is Outcome.PASS
