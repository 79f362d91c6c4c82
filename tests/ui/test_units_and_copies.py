"""Units in units, units from elsewhere, copies onto chosen places, joints that change bodies."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel, QListWidget, QPushButton

from anakinema.files.native import write_document
from anakinema.ui.taking import TakeDialog
from anakinema.ui.workbench import Selection
from tests.core.test_borrowing import lender
from tests.ui.test_assemble import CONTROL, LEFT, Hand, ready_four_bar, select


@pytest.fixture
def hand(qtbot, window, settled) -> Hand:  # type: ignore[no-untyped-def]
    """An empty stage."""
    found = Hand(qtbot, window, settled)
    found.press_button("start_blank")
    return found


def tick(hand: Hand, name: str, words: str) -> None:
    """Tick or untick a row by keyboard."""
    box = hand.child(QListWidget, name)
    row = next(k for k in range(box.count()) if words in box.item(k).text())
    box.setFocus()
    box.setCurrentRow(row)
    hand.qtbot.keyClick(box, Qt.Key.Key_Space)
    hand.settled(hand.window)


def test_units_are_nested_set_from_outside_and_driven(hand: Hand) -> None:
    ready_four_bar(hand)
    program = hand.bench.session.document.program
    select(hand, "link", "link_2")
    hand.key(Qt.Key.Key_U, CONTROL)
    select(hand, "crank", "unit__link")
    hand.key(Qt.Key.Key_U, CONTROL)
    document = hand.bench.session.document
    assert [use.id for use in document.instances] == ["unit_2"]
    assert len(document.subassemblies) == 2
    assert [d.joint for d in document.program.drivers] == ["crank_on_base"]
    assert hand.bench.evaluation.followed.mobility.freedoms == 1
    inner = next(
        j.id for j in hand.bench.evaluation.document.joints if j.id.startswith("unit_2__unit__")
    )
    hand.bench.select(Selection("body", "unit_2__unit__link"))
    hand.press_button(f"go_{inner}")
    assert hand.bench.selection == Selection("joint", inner)
    hand.retype("limit_rest", "12 deg")
    values = hand.bench.scene.resolved
    index = [j.id for j in values.document.joints].index(inner)
    assert values.joints[index].rest == pytest.approx(math.radians(12))
    assert all(j.limits.rest is None for u in document.subassemblies for j in u.joints)
    hand.bench.select(Selection("body", "unit_2__unit__link"))
    assert hand.window.findChild(QPushButton, f"drive_{inner}") is not None
    hand.press_button("use_apart")
    document = hand.bench.session.document
    assert [use.subassembly for use in document.instances] == ["unit"]
    assert hand.bench.evaluation.followed.mobility.freedoms == 1
    assert document.program.stages == program.stages


def test_a_joint_inside_a_use_is_driven_from_outside(hand: Hand) -> None:
    hand.place("base with two pins", -50, -40, spacing="100 mm")
    hand.place("crank with pin", -120, 60, throw="30 mm")
    hand.place("link", 40, 70, length="90 mm")
    hand.join("crank.shaft", "base.a")
    hand.join("link.a", "crank.pin")
    select(hand, "crank", "link")
    hand.key(Qt.Key.Key_U, CONTROL)
    inner = next(j.id for j in hand.bench.evaluation.document.joints if "__" in j.id)
    hand.bench.select(Selection("body", "unit__link"))
    hand.press_button(f"drive_{inner}")
    (driver,) = hand.bench.session.document.program.drivers
    assert driver.joint == inner
    motion = hand.bench.evaluation.motion
    used = motion.values[:, [j.id for j in hand.bench.evaluation.document.joints].index(inner)]
    assert used.max() - used.min() == pytest.approx(2 * math.pi, abs=1e-6)


def test_a_unit_is_taken_from_another_document_and_brought_up_to_date(
    hand: Hand, tmp_path: Path
) -> None:
    path = tmp_path / "arm.anakinema"
    write_document(lender(), path)
    hand.window.assembling.take_unit(path)
    dialog = hand.child(TakeDialog, "take_dialog")
    rows = dialog.findChild(QListWidget, "take_list")
    assert [rows.item(k).text() for k in range(rows.count())] == ["all of vent arm", "arm pair"]
    rows.setFocus()
    hand.qtbot.keyClick(rows, Qt.Key.Key_Down)
    hand.qtbot.mouseClick(dialog.findChild(QPushButton, "take_it"), LEFT)
    hand.settled(hand.window)
    assert [u.subassembly for u in hand.bench.session.document.instances] == ["arm_pair"]
    assert hand.bench.evaluation.followed.mobility.freedoms == 4
    longer = lender()
    parts = tuple(
        p.model_copy(
            update={
                "dimensions": tuple(
                    d.model_copy(update={"value": "150 mm"}) if d.id == "length" else d
                    for d in p.dimensions
                )
            }
        )
        if p.id == "coupler"
        else p
        for p in longer.parts
    )
    write_document(longer.model_copy(update={"parts": parts}), path)
    hand.press_button("unit_renew")
    assert hand.bench.scene.resolved.names["coupler.length"].value == 150.0
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.scene.resolved.names["coupler.length"].value == 120.0
    path.unlink()
    hand.press_button("unit_renew")
    assert "not there any more" in hand.child(QLabel, "trouble_words").text()
    path.write_text("nonsense")
    hand.window.assembling.take_unit(path)
    assert "arm.anakinema" in hand.child(QLabel, "trouble_words").text()


def test_a_pin_comes_onto_chosen_holes_and_one_joint_is_left_out(hand: Hand) -> None:
    plate = hand.place("plate with holes", 0, 0)
    hand.place("pin", 0, 120)
    scene = hand.bench.scene
    place = next(p for p in scene.resolved.parts["plate"].places if p != "middle")
    pin_place = next(iter(scene.resolved.parts["pin"].places))
    hand.join(f"pin.{pin_place}", f"{plate}.{place}")
    select(hand, "pin")
    hand.command("repeat")
    hand.choose("repeat_manner", "onto places")
    draft = hand.window.drafts.repeat
    assert draft.found is None and "no place is chosen" in draft.trouble
    assert len(draft.offered) == 3
    # One by keys in the list, one by a click on the stage.
    box = hand.child(QListWidget, "repeat_places")
    box.setFocus()
    box.setCurrentRow(0)
    hand.qtbot.keyClick(box, Qt.Key.Key_Space)
    second = draft.offered[1]
    hand.click(second.x, second.y)
    assert len(draft.wish.targets) == 2 and draft.found is not None
    hand.press_button("repeat_make")
    document = hand.bench.session.document
    assert [b.part for b in document.bodies] == ["plate", "pin", "pin", "pin"]
    assert len(document.joints) == 3
    hand.key(Qt.Key.Key_Z, CONTROL)
    select(hand, "pin")
    hand.command("repeat")
    hand.choose("repeat_manner", "onto places")
    hand.click(second.x, second.y)
    tick(hand, "repeat_joints", "pin on")
    hand.key(Qt.Key.Key_Return)
    document = hand.bench.session.document
    assert (len(document.bodies), len(document.joints)) == (3, 1)


def test_a_joint_goes_to_another_body_and_keeps_its_limits(hand: Hand) -> None:
    ready_four_bar(hand)
    hand.place("base with two pins", 20, -100, spacing="60 mm")
    hand.bench.select(Selection("joint", "link_2_on_base"))
    hand.retype("limit_greatest", "175 deg")
    before = hand.bench.session.document
    old = before.joint("link_2_on_base")
    choose_snap(hand, "joint_first", "base 2", "b")
    after = hand.bench.session.document
    joint = after.joint("link_2_on_base")
    assert (joint.first.body, joint.first.place) == ("base_2", "b")
    assert joint.limits == old.limits and after.program == before.program
    assert hand.bench.evaluation.followed.mobility.freedoms >= 1
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before


def choose_snap(hand: Hand, name: str, body: str, place: str) -> None:
    """Choose a snap of a body in a list by keyboard."""
    box = hand.child(QComboBox, name)
    wanted = next(
        k
        for k in range(box.count())
        if box.itemText(k).startswith(f"{body}: ") and box.itemData(k).snap.place.id == place
    )
    box.setFocus()
    box.setCurrentIndex(wanted - 1 if wanted else 1)
    hand.qtbot.keyClick(box, Qt.Key.Key_Down if wanted else Qt.Key.Key_Up)
    hand.settled(hand.window)
