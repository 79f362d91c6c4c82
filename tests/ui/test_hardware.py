"""Hardware put on a pin in the inspector, changed, kept in step, taken off, saved and reopened."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel, QPushButton

from anakinema.edits import RemoveHardware, SetSlab
from anakinema.files.native import read_document
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import Hand

LEFT = Qt.MouseButton.LeftButton


class Bench(Hand):
    """A hand at the crank pin of the plug press, which has no hardware any more."""

    def press(self, name: str) -> None:
        self.qtbot.mouseClick(self.child(QPushButton, name), LEFT)
        self.settled(self.window)

    def choose(self, name: str, key: str) -> None:
        box = self.child(QComboBox, name)
        box.setFocus()
        box.setCurrentIndex(box.findData(key))
        box.activated.emit(box.currentIndex())

    @property
    def parts(self) -> list[str]:
        """Titles of what the hardware of the pin consists of."""
        document = self.window.workbench.session.document
        sets = [each for each in document.hardware if each.joint == "crank_pin"]
        names = {body.id: document.part(body.part).title for body in document.bodies}
        return [names[body] for each in sets for body in each.bodies]

    def words(self, name: str) -> str:
        return str(self.child(QLabel, name).text())


@pytest.fixture
def hand(qtbot, opened, settled) -> Bench:  # type: ignore[no-untyped-def]
    bench = Bench(qtbot, opened("plug-press"), settled)
    work = bench.window.workbench
    work.go_to_station("Assemble")
    work.do_once(RemoveHardware("crank_pin"))
    settled(bench.window)
    work.select(Selection("joint", "crank_pin"))
    return bench


def test_a_pin_gets_its_screw_nut_and_washers_by_a_click_and_loses_them(hand: Bench) -> None:
    assert hand.parts == [] and "M8 x 35 ISO 4762" in hand.words("pin_lines")
    before = hand.window.workbench.session.document
    hand.press("pin_add")
    assert hand.parts == [
        "M8 x 35 ISO 4762", "M8 washer ISO 7089", "M8 washer ISO 7089", "M8 nut ISO 4032",
    ]  # fmt: skip
    assert "held by M8 x 35 ISO 4762" in hand.words("pin_lines")
    hand.choose("pin_head", "countersunk")
    hand.press("pin_add")
    assert hand.parts[0] == "M8 x 35 ISO 10642" and len(hand.parts) == 3
    assert "4.0 threads" in hand.words("pin_lines") and "too long" in hand.words("pin_faults")
    hand.press("pin_remove")
    assert hand.parts == []
    for _ in range(3):
        hand.qtbot.keyClick(hand.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        hand.settled(hand.window)
    assert hand.window.workbench.session.document == before


def test_a_thicker_layer_brings_the_next_screw_in_the_same_step_and_stays_saved(
    hand: Bench, tmp_path: Path
) -> None:
    hand.press("pin_add")
    work = hand.window.workbench
    assert work.do_once(SetSlab("rod", "bar", "top", "53.6 mm"))
    hand.settled(hand.window)
    assert hand.parts[0] == "M8 x 40 ISO 4762"
    file = tmp_path / "press.anakinema"
    work.session.save(file)
    assert read_document(file) == work.session.document
    hand.qtbot.keyClick(hand.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    hand.settled(hand.window)
    assert hand.parts[0] == "M8 x 35 ISO 4762"


def test_what_no_screw_holds_is_said_and_nothing_is_made(hand: Bench) -> None:
    hand.window.workbench.do_once(SetSlab("rod", "bar", "top", "539 mm"))
    hand.settled(hand.window)
    assert "no usual screw" in hand.words("pin_faults")
    bodies = len(hand.window.workbench.session.document.bodies)
    hand.press("pin_add")
    assert "no usual screw" in str(hand.window.workbench.trouble)
    assert len(hand.window.workbench.session.document.bodies) == bodies
