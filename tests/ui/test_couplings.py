"""Coupling two wheels in the Drive drawer, and what is stated, changed and taken out there."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QPushButton

from anakinema.files.native import read_document, write_document
from anakinema.ui.fields import QuantityField
from tests.core.test_coupling_built import moving, train
from tests.ui.test_assemble import CONTROL, Hand, refusal


@pytest.fixture
def hand(qtbot, window, settled, tmp_path: Path) -> Hand:  # type: ignore[no-untyped-def]
    """Two wheels of 20 and 40 teeth at the right distance, the first driven, at Drive."""
    path = tmp_path / "wheels.anakinema"
    write_document(moving(train(teeth="40")), path)
    window.open_path(path)
    settled(window)
    found = Hand(qtbot, window, settled)
    found.key(Qt.Key.Key_2, CONTROL)
    assert window.workbench.station == "Drive"
    return found


def turned(hand: Hand) -> list[float]:
    """How far base, first and second wheel have turned from start to end, rad."""
    poses = hand.bench.evaluation.motion.poses
    return (poses[-1, :, 2] - poses[0, :, 2]).tolist()


def words(hand: Hand) -> str:
    return hand.child(QLabel, "couple_words").text()


def test_two_wheels_are_coupled_by_keyboard_and_uncoupled(hand: Hand, tmp_path: Path) -> None:
    assert turned(hand)[2] == 0
    assert hand.child(QComboBox, "couple_kind").currentText() == "wheels in mesh"
    assert hand.child(QuantityField, "couple_first_size").text() == "pinion.teeth"
    make = hand.child(QPushButton, "couple_make")
    assert make.isEnabled()
    make.setFocus()
    hand.qtbot.keyClick(make, Qt.Key.Key_Space)
    hand.settled(hand.window)
    assert turned(hand)[2] == pytest.approx(-math.pi, abs=1e-8)
    assert hand.bench.evaluation.followed.mobility.freedoms == 1

    path = tmp_path / "coupled.anakinema"
    assert hand.bench.save(path)
    assert read_document(path) == hand.bench.session.document
    (coupling,) = hand.bench.session.document.couplings
    hand.press_button(f"pick_coupling_{coupling.id}")
    hand.retype(f"second_size_{coupling.id}", "20")
    assert turned(hand)[2] == pytest.approx(-2 * math.pi, abs=1e-8)
    hand.retype(f"second_size_{coupling.id}", "2.5")
    # Refused at the field, where the last good value is back.
    assert "2.5 is no number of teeth" in refusal(hand)
    assert hand.child(QuantityField, f"second_size_{coupling.id}").whole == "20"
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert turned(hand)[2] == pytest.approx(-math.pi, abs=1e-8)

    in_force = hand.child(QCheckBox, f"in_force_{coupling.id}")
    in_force.setFocus()
    hand.qtbot.keyClick(in_force, Qt.Key.Key_Space)
    hand.settled(hand.window)
    assert turned(hand)[2] == 0
    assert hand.window.findChild(QuantityField, f"second_size_{coupling.id}") is not None
    hand.press_button(f"drop_{coupling.id}")
    assert hand.bench.session.document.couplings == ()
    hand.key(Qt.Key.Key_Z, CONTROL)
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert turned(hand)[2] == pytest.approx(-math.pi, abs=1e-8)


def test_what_does_not_fit_is_said_before_it_is_made(hand: Hand) -> None:
    hand.retype("couple_second_size", "2.5")
    assert "2.5 is no number of teeth" in words(hand)
    assert not hand.child(QPushButton, "couple_make").isEnabled()
    hand.choose("couple_kind", "open belt")
    assert words(hand) == ""
    hand.retype("couple_first_size", "10")
    hand.retype("couple_second_size", "40 mm")
    hand.press_button("couple_make")
    (belt,) = hand.bench.session.document.couplings
    assert (belt.kind, belt.second_size) == ("belt", "40 mm")
    assert turned(hand)[2] == pytest.approx(math.pi / 2, abs=1e-8)
    # A second coupling of the same two would repeat or fight the first: stated, not made.
    assert "coupled already" in words(hand)
    assert not hand.child(QPushButton, "couple_make").isEnabled()
    hand.choose("couple_second", "pinion axis")
    assert "Choose two joints" in words(hand)
    assert not hand.child(QPushButton, "couple_make").isEnabled()
