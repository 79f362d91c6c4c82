"""Belts at Drive: laid round wheels by keys, changed, what does not fit is said, taken away."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QLabel, QPushButton

from anakinema.files.native import read_document, write_document
from anakinema.ui.drawers.belts import BeltList
from anakinema.ui.fields import QuantityField
from tests import mechanisms as build
from tests.ui.test_assemble import CONTROL, Hand, refusal, select

TURN = 2 * math.pi


@pytest.fixture
def hand(qtbot, window, settled, tmp_path: Path) -> Hand:  # type: ignore[no-untyped-def]
    """Three wheels, the first driven by a full turn, at Drive."""
    path = tmp_path / "wheels.anakinema"
    doc = build.driven(
        build.wheels((0.0, 0.0), (300.0, 0.0), (150.0, 24.0)), ("j0", 0.0, TURN), count=24
    )
    write_document(doc, path)
    window.open_path(path)
    settled(window)
    found = Hand(qtbot, window, settled)
    found.key(Qt.Key.Key_2, CONTROL)
    return found


def turned(hand: Hand) -> list[float]:
    """Turns of all wheels over the program."""
    values = hand.bench.evaluation.motion.values
    return ((values[-1] - values[0]) / TURN).tolist()


def add(hand: Hand, joint: str, *, back: bool = False) -> None:
    hand.choose("loop_joint", joint)
    if back:
        box = hand.child(QCheckBox, "loop_back")
        box.setFocus()
        hand.qtbot.keyClick(box, Qt.Key.Key_Space)
    hand.press_button("loop_add")


def test_a_belt_is_laid_over_two_wheels_and_an_idler(hand: Hand, tmp_path: Path) -> None:
    words = hand.child(QLabel, "loop_words")
    assert "anticlockwise" in words.text()
    add(hand, "j0")
    add(hand, "j1")
    add(hand, "j2", back=True)
    assert "j0 → j1 → j2 (back)" in words.text()
    assert "long as drawn" in words.text()
    hand.press_button("loop_make")
    (belt,) = hand.bench.session.document.belts
    assert [wheel.back for wheel in belt.wheels] == [False, False, True]
    assert turned(hand) == pytest.approx([1.0, 1.0, -1.0], abs=1e-8)
    hand.press_button(f"pick_belt_{belt.id}")
    hand.retype(f"loop_{belt.id}_0", "40 mm")
    assert turned(hand) == pytest.approx([1.0, 2.0, -2.0], abs=1e-8)
    hand.retype(f"loop_thickness_{belt.id}", "-5 mm")
    assert refusal(hand)
    assert hand.child(QuantityField, f"loop_thickness_{belt.id}").whole == ""
    hand.retype(f"loop_thickness_{belt.id}", "5 mm")
    assert hand.bench.trouble is None
    path = tmp_path / "belt.anakinema"
    assert hand.bench.save(path)
    assert read_document(path) == hand.bench.session.document
    # Another length cannot be met while all axles are fixed: stated, and undone.
    hand.retype(f"loop_length_{belt.id}", "700 mm")
    assert f"belt '{belt.title}'" in str(hand.bench.trouble)
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.trouble is None
    hand.press_button(f"drop_loop_{belt.id}")
    assert turned(hand) == pytest.approx([1.0, 0.0, 0.0], abs=1e-8)
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert turned(hand) == pytest.approx([1.0, 2.0, -2.0], abs=1e-8)


def test_a_wheel_met_twice_is_told_before_it_is_laid(hand: Hand) -> None:
    add(hand, "j0")
    add(hand, "j0")
    assert not hand.child(QPushButton, "loop_make").isEnabled()
    assert "each once" in hand.child(QLabel, "loop_words").text()
    hand.press_button("loop_clear")
    assert "anticlockwise" in hand.child(QLabel, "loop_words").text()


def test_a_belt_goes_into_a_unit_and_works_in_its_second_use(hand: Hand) -> None:
    add(hand, "j0")
    add(hand, "j1")
    hand.press_button("loop_make")
    assert turned(hand)[:2] == pytest.approx([1.0, 1.0], abs=1e-8)
    hand.key(Qt.Key.Key_1, CONTROL)
    select(hand, "base", "w0", "w1")
    hand.key(Qt.Key.Key_U, CONTROL)
    document = hand.bench.session.document
    assert document.belts == () and len(document.subassemblies[0].belts) == 1
    hand.key(Qt.Key.Key_2, CONTROL)
    words = [box.text() for box in hand.window.findChild(BeltList).findChildren(QLabel)]
    assert any("Inside subassemblies: unit: belt round 2 wheels" in each for each in words)
    hand.key(Qt.Key.Key_1, CONTROL)
    hand.key(Qt.Key.Key_U, CONTROL | Qt.KeyboardModifier.ShiftModifier)
    assert len(hand.bench.evaluation.document.belts) == 2
    hand.key(Qt.Key.Key_Z, CONTROL)
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert len(hand.bench.session.document.belts) == 1
