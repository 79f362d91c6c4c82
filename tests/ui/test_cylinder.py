"""A cylinder from the shelf, sized, joined and driven by mouse and keyboard."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel

from anakinema.files.native import read_document
from anakinema.ui.fields import QuantityField
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import CONTROL, Hand, hand, refusal  # noqa: F401


def test_an_arm_is_lifted_by_a_cylinder_from_the_shelf(hand: Hand, tmp_path: Path) -> None:  # noqa: F811
    hand.place("base with two pins", -80, -20, spacing="150 mm")
    hand.place("link", -140, 70, length="120 mm")
    barrel = hand.place("cylinder", -60, -80)
    assert barrel == "cylinder_barrel"
    assert [body.id for body in hand.bench.session.document.bodies][2:] == [
        "cylinder_barrel",
        "cylinder_rod",
    ]
    hand.retype("dimension_cylinder_barrel_dead_length", "130 mm")
    hand.join("link.a", "base.a")
    hand.join("cylinder_barrel.pivot", "base.b")
    hand.command("fit")
    hand.join("cylinder_rod.eye", "link.b")
    hand.bench.select(Selection("joint", "cylinder_slide"))
    hand.settled(hand.window)
    words = hand.child(QLabel, "joint_guide").text()
    assert "130.00 mm from pivot to pivot pushed in, 210.00 mm out" in words
    hand.press_button("joint_drive")
    assert hand.window.route.stations["Assemble"].words == "4 bodies, 1 freedom"
    evaluation = hand.bench.evaluation
    joints = [joint.id for joint in evaluation.document.joints]
    push = evaluation.motion.values[:, joints.index("cylinder_slide")]
    arm = evaluation.motion.values[:, joints.index("link_on_base")]
    assert 0.0 <= push.min() < push.max() <= 80.0 + 1e-9
    # A triangle of base, arm and cylinder: the law of cosines.
    sides = (150.0, 120.0)

    def corner(third: float) -> float:
        a, b = sides
        return math.acos((a * a + b * b - third * third) / (2 * a * b))

    turned = [corner(130.0 + float(v)) for v in (push[0], push[-1])]
    assert abs(arm[-1] - arm[0]) == pytest.approx(abs(turned[1] - turned[0]), abs=1e-9)
    built = hand.bench.session.document
    hand.bench.select(Selection("joint", "cylinder_slide"))
    hand.settled(hand.window)
    hand.retype("joint_stroke", "300 mm")
    assert "does not go into a dead length" in refusal(hand)
    hand.retype("joint_stroke", "50 mm")
    assert hand.bench.trouble is None
    assert hand.bench.scene.resolved.joints[joints.index("cylinder_slide")].greatest == 50.0
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == built
    path = tmp_path / "lifted.anakinema"
    hand.bench.save(path)
    assert read_document(path) == built


def test_its_kind_is_shown_but_not_offered_where_places_are_joined(hand: Hand) -> None:  # noqa: F811
    hand.place("cylinder", 0, 0)
    hand.bench.select(Selection("joint", "cylinder_slide"))
    hand.settled(hand.window)
    box = hand.child(QComboBox, "joint_kind")
    assert box.currentText() == "cylinder"
    hand.bench.use_tool("join")
    assert hand.child(QComboBox, "join_kind").findText("cylinder") < 0
    hand.bench.use_tool("")
    assert hand.child(QuantityField, "joint_dead_length").text() == "cylinder_barrel.dead_length"
    # By mouse: keys would try every kind on the way, also those that need a curve.
    box.setCurrentIndex(box.findText("prismatic"))
    box.activated.emit(box.currentIndex())
    hand.settled(hand.window)
    assert hand.bench.session.document.joints[0].kind == "prismatic"
    assert hand.child(QComboBox, "joint_kind").findText("cylinder") < 0
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document.joints[0].kind == "cylinder"
