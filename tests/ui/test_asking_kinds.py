"""The newer kinds are asked by hand: at a value of a joint, through a size, of a formula."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit

from anakinema.document import model
from anakinema.files import read_document
from anakinema.findings import Outcome
from tests.ui.test_assemble import CONTROL, Hand
from tests.ui.test_changes import opened_hand, outcome
from tests.waiting import until


def at_check(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "transfer-head")
    now(hand)
    return hand


def now(hand: Hand) -> str:
    label = hand.child(QLabel, "ask_now")
    until(lambda: bool(label.text()) and not hand.bench.busy)
    return str(label.text())


def asked(hand: Hand) -> model.Requirement:
    return hand.bench.session.document.requirements[-1]


def test_a_distance_is_asked_where_the_grip_is_closed(qtbot, opened, settled, tmp_path) -> None:  # type: ignore[no-untyped-def]
    hand = at_check(qtbot, opened, settled)
    hand.choose("ask_kind", "the greatest distance of")
    hand.choose("ask_first", "left pad, back")
    hand.choose("ask_second", "right pad, back")
    hand.choose("ask_when", "where grip is")
    at = hand.child(QLineEdit, "ask_at")
    at.setFocus()
    qtbot.keyClicks(at, "4")
    until(lambda: now(hand) == "now 34.83 mm")
    hand.retype("ask_value", "35")
    hand.settled(hand.window)
    made = asked(hand)
    assert made.at == model.Moment(joint="grip", value="4 mm")
    assert made.greatest == "35 mm" and made.name.endswith("at 4 mm")
    assert outcome(hand, made.id) is Outcome.PASS
    path = tmp_path / "asked.anakinema"
    assert hand.bench.save(path)
    assert read_document(path).requirements[-1] == made
    # Its own sentence stands in the line again to be changed.
    hand.window.bar.asking.edit(made.id)
    assert hand.child(QComboBox, "ask_when").currentText() == "where grip is"
    assert hand.child(QLineEdit, "ask_at").text() == "4 mm"
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert all(each.id != made.id for each in hand.bench.session.document.requirements)


def test_a_formula_of_kept_curves_is_asked_and_a_wrong_one_is_said(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = at_check(qtbot, opened, settled)
    for kind in ("the greatest distance of", "the least distance of"):
        hand.choose("ask_kind", kind)
        now(hand)
        hand.press_button("ask_show")
    kept = [each.id for each in hand.bench.session.document.measures]
    assert kept == ["far", "near"]
    hand.choose("ask_kind", "the greatest of")
    line = hand.child(QLineEdit, "ask_formula")
    for text, words in (
        ("far + 2", "plain number"),
        ("far - nothing", "nothing"),
        ("far / 2 + near", "now"),
    ):
        line.setFocus()
        line.selectAll()
        qtbot.keyClicks(line, text)
        qtbot.keyClick(line, Qt.Key.Key_Return)
        until(lambda words=words: words in hand.child(QLabel, "ask_now").text())
    hand.retype("ask_value", "1000")
    hand.settled(hand.window)
    made = asked(hand)
    assert isinstance(made.measure, model.FormulaMeasure)
    assert (made.measure.text, made.measure.gives) == ("far / 2 + near", "mm")
    assert outcome(hand, made.id) is Outcome.PASS


def test_gaps_that_close_on_a_hand_are_counted(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = at_check(qtbot, opened, settled)
    hand.choose("ask_kind", "how often gaps close at")
    hand.choose("ask_first", "left pad")
    hand.choose("ask_second", "25 mm, a finger")
    until(lambda: now(hand).startswith("now "))
    hand.retype("ask_value", "0")
    hand.settled(hand.window)
    assert outcome(hand, asked(hand).id) is Outcome.FAIL
