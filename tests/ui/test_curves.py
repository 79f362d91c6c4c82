"""Curved slots by mouse and keys: drawn, bent, and a pin joined into one."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QLabel

from anakinema.document import model as m
from anakinema.edits.outline import OutlineKey
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import CONTROL, Hand


@pytest.fixture
def hand(qtbot, window, settled) -> Hand:  # type: ignore[no-untyped-def]
    """A fixed plate and a pin from the shelf."""
    window.new()
    settled(window)
    found = Hand(qtbot, window, settled)
    body = found.place("plate with holes", 0, 0, length="150 mm", width="90 mm")
    assert body == "plate"
    fixed = found.child(QCheckBox, "body_fixed")
    fixed.setFocus()
    qtbot.keyClick(fixed, Qt.Key.Key_Space)
    settled(window)
    return found


def slotted(hand: Hand) -> m.SlotAlong:
    part = hand.bench.session.document.part("plate")
    return next(h.outline for h in part.slabs[0].holes if isinstance(h.outline, m.SlotAlong))


def test_a_curved_slot_is_drawn_bent_and_followed_by_a_pin(hand: Hand) -> None:
    hand.bench.select(Selection("body", "plate"))
    hand.command("outline")
    hand.press_button("add_curved_slot")
    editor = hand.window.outline
    assert editor.canvas.key == OutlineKey("plate", "plate", "curved_slot")
    assert len(slotted(hand).vertices) == 4
    hand.retype("shape_width", "6 mm")
    editor.canvas.pick(m.Element(kind="corner", slab="plate", hole="curved_slot", index=3))
    hand.settled(hand.window)
    hand.retype("corner_y", "15 mm")
    assert slotted(hand).vertices[3].y == "15 mm"
    # Straight from corner to corner it would have no one direction there: stated, and put back.
    smooth = hand.child(QCheckBox, "slot_spline")
    smooth.setFocus()
    hand.qtbot.keyClick(smooth, Qt.Key.Key_Space)
    hand.settled(hand.window)
    assert "curved_slot" in hand.bench.trouble.where
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert slotted(hand).spline
    hand.press_button("outline_done")

    pin = hand.place("pin", 10, 60, diameter="5.8 mm")
    hand.window.stage.setFocus()
    hand.command("join")
    hand.pick(f"{pin}.axis")
    hand.pick("plate.curved_slot")
    hand.wait_for_join()
    hand.choose("join_kind", "pin on curve")
    hand.wait_for_join()
    stated = hand.child(QLabel, "join_words").text()
    assert "5.80" in stated and "6.00" in stated, stated
    hand.press_button("join_make")
    (joint,) = hand.bench.session.document.joints
    assert (joint.kind, joint.curve) == ("pin_on_curve", "curved_slot")
    assert [p.hole for p in joint.first.pieces] == ["curved_slot"]
    scene = hand.bench.scene
    curve = scene.resolved.part_of(scene.resolved.document.bodies[0]).curves["curved_slot"]
    x, y, _ = scene.poses[1].tolist()
    assert float(curve.foot(np.array([[x, y]])).distance[0]) == pytest.approx(0.0, abs=1e-8)
    # Driven along it, it stops at both ends of the slot.
    hand.press_button("joint_drive")
    motion = hand.bench.evaluation.motion
    assert motion.values[0, 0] >= -1e-9
    # The slot is 0.1 mm wider to each side than the pin, and so is its end.
    assert motion.values[-1, 0] == pytest.approx(curve.length + 0.1, abs=1e-6)
    distances = curve.foot(motion.poses[:, 1, :2]).distance
    assert distances == pytest.approx(np.zeros(len(distances)), abs=1e-8)


def test_a_part_without_a_curve_is_named(hand: Hand) -> None:
    pin = hand.place("pin", 10, 60, diameter="5.8 mm")
    hand.window.stage.setFocus()
    hand.command("join")
    hand.pick(f"{pin}.axis")
    hand.pick("plate.middle")
    hand.wait_for_join()
    hand.choose("join_kind", "pin on curve")
    hand.wait_for_join()
    assert "no curve to follow" in hand.window.drafts.join.trouble.what
