"""Contact at Drive: bodies let touch, limits where they touch, a ratchet run both ways."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QCheckBox, QLabel, QListWidget, QPushButton

from anakinema.files.native import read_document, write_document
from anakinema.motion.motion import EventKind
from anakinema.ui.fields import QuantityField
from anakinema.ui.workbench import Selection
from tests import mechanisms as build
from tests import yielders
from tests.contacts import disc, slab, solid
from tests.core.test_guides import forked
from tests.ui.test_assemble import CONTROL, SHIFT, Hand, refusal
from tests.waiting import until


def arm_and_post() -> build.m.Document:
    """A bar of half-width 6 with round ends that turns towards a post of radius 5 at (70, 40)."""
    bar = slab([(0, -6), (100, -6, 1.0), (100, 6), (0, 6, 1.0)])
    doc = build.document(
        [
            build.part("frame", o=(0.0, 0.0)),
            solid("bar", bar, o=(0.0, 0.0)),
            solid("post", disc(70, 40, 5), o=(0.0, 0.0)),
        ],
        [build.body("frame", fixed=True), build.body("bar"), build.body("post", fixed=True)],
        [build.joint("pivot", "revolute", "frame.o", "bar.o")],
    )
    doc = doc.model_copy(update={"units": build.m.Units()})
    moved = build.driven(doc, ("pivot", 0.0, 90.0), count=30)
    drivers = tuple(d.model_copy(update={"rate": "30 rpm"}) for d in moved.program.drivers)
    return moved.model_copy(
        update={"program": moved.program.model_copy(update={"drivers": drivers})}
    )


@pytest.fixture
def hand(qtbot, window, settled, tmp_path: Path) -> Hand:  # type: ignore[no-untyped-def]
    """The arm and the post at Drive, nothing touching yet."""
    path = tmp_path / "arm.anakinema"
    write_document(arm_and_post(), path)
    window.open_path(path)
    settled(window)
    found = Hand(qtbot, window, settled)
    found.key(Qt.Key.Key_2, CONTROL)
    return found


def greatest(hand: Hand) -> float:
    return math.degrees(float(hand.bench.evaluation.motion.values[:, 0].max()))


def stated(hand: Hand) -> list[str]:
    found = hand.child(QListWidget, "events")
    return [found.item(k).text() for k in range(found.count())]


def test_two_bodies_are_let_stop_each_other_and_the_list_says_so(hand: Hand) -> None:
    assert greatest(hand) == pytest.approx(90.0)
    hand.choose("contact_first", "bar")
    hand.choose("contact_kind", "stops at")
    hand.choose("contact_second", "post")
    hand.press_button("contact_make")
    assert greatest(hand) == pytest.approx(21.9030886, abs=1e-6)
    assert any("bar stops at post" in line and "21.9°" in line for line in stated(hand))
    # A click on the event takes the playhead there.
    hand.bench.move_playhead(0.0)
    events = hand.child(QListWidget, "events")
    events.setCurrentRow(events.count() - 1)
    hand.qtbot.keyClick(events, Qt.Key.Key_Return)
    assert hand.bench.progress == pytest.approx(hand.bench.evaluation.motion.last)
    (contact,) = hand.bench.session.document.contacts
    hand.press_button(f"pick_contact_{contact.id}")
    hand.press_button(f"drop_contact_{contact.id}")
    assert greatest(hand) == pytest.approx(90.0)
    hand.key(Qt.Key.Key_Z, CONTROL)
    hand.settled(hand.window)
    assert greatest(hand) == pytest.approx(21.9030886, abs=1e-6)


def test_what_cannot_touch_is_said_before_it_is_made(hand: Hand) -> None:
    hand.choose("contact_first", "bar")
    hand.choose("contact_kind", "pushes")
    hand.choose("contact_second", "post")
    words = hand.child(QLabel, "contact_words")
    assert "nothing can be pushed yet" in words.text()
    hand.choose("contact_second", "bar")
    assert not hand.child(QPushButton, "contact_make").isEnabled()
    assert "Choose two bodies" in words.text()


def test_a_limit_is_set_where_it_touches(hand: Hand) -> None:
    hand.bench.select(Selection("joint", "pivot"))
    hand.settled(hand.window)
    hand.press_button("greatest_touch")
    words = hand.child(QLabel, "touch_words")
    until(lambda: "touches post" in words.text())
    hand.settled(hand.window)
    assert hand.bench.session.document.joint("pivot").limits.greatest is not None
    shown = float(hand.child(QuantityField, "limit_greatest").whole.split()[0])
    assert shown == pytest.approx(21.9030886, abs=1e-7)
    assert greatest(hand) == pytest.approx(shown, abs=1e-9)
    # From below the other end is met on the far side of the post.
    hand.press_button("least_touch")
    until(lambda: "least" in words.text())
    hand.settled(hand.window)
    least = float(hand.child(QuantityField, "limit_least").whole.split()[0])
    assert least == pytest.approx(37.586674 - 360.0, abs=1e-6)
    hand.key(Qt.Key.Key_Z, CONTROL)
    hand.key(Qt.Key.Key_Z, CONTROL)
    hand.settled(hand.window)
    assert hand.bench.session.document.joint("pivot").limits.greatest is None


def test_ratchet_clicks_on_one_way_and_is_blocked_the_other(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-indexer")
    hand = Hand(qtbot, window, settled)
    hand.key(Qt.Key.Key_2, CONTROL)
    assert sum("tooth passed" in line for line in stated(hand)) == 4
    # The wheel itself is driven backwards: the holding pawl blocks it.
    document = hand.bench.session.document
    hand.bench.select(Selection("joint", "wheel_bearing"))
    hand.settled(window)
    hand.choose("joint_yields", "no")
    settled(window)
    hand.press_button("joint_drive")
    program = hand.bench.session.document.program
    driver = next(d for d in program.drivers if d.joint == "wheel_bearing")
    stage = len(program.stages) - 1
    assert program.stages[stage].moves[0].driver == driver.id
    motion = hand.bench.evaluation.motion
    jam = [e for e in motion.events if e.kind is EventKind.JAM]
    assert jam, "the pawl did not hold the wheel"
    names = {hand.bench.evaluation.document.bodies[b].id for b in jam[-1].bodies or ()}
    assert "wheel" in names
    assert any("jam" in line for line in stated(hand))
    # One step back for the driver, one for every entry the choice went past.
    for _ in range(4):
        hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == document


def test_a_joint_gives_way_by_choice_and_keeps_its_rest(hand: Hand, tmp_path: Path) -> None:
    hand.bench.select(Selection("joint", "pivot"))
    hand.settled(hand.window)
    hand.choose("joint_yields", "a spring brings it back")
    hand.settled(hand.window)
    joint = hand.bench.session.document.joint("pivot")
    assert joint.yields == "spring"
    assert joint.limits.rest is not None
    path = tmp_path / "kept.anakinema"
    assert hand.bench.save(path)
    assert read_document(path) == hand.bench.session.document
    rest = hand.child(QuantityField, "limit_rest")
    rest.setFocus()
    rest.selectAll()
    hand.qtbot.keyClick(rest, Qt.Key.Key_Delete)
    hand.qtbot.keyClick(rest, Qt.Key.Key_Return)
    hand.settled(hand.window)
    # Refused at the field, where the last good value is back.
    assert "rest" in refusal(hand) and rest.whole
    assert hand.bench.session.document.joint("pivot") == joint


def test_contact_windows_stand_in_the_list_and_what_leans_in_the_inspector(hand: Hand) -> None:
    """A ball on a spring over a rack of one tooth, by the window alone."""
    case = yielders.Case(
        "rack",
        [(-40, -10), (40, -10), (40, 0), (10, 0), (0, 10), (-10, 0), (-40, 0)],
        yielders.circle(2.0),
        True,
        False,
        (0.0, 0.0),
        -30.0,
        60.0,
        15.0,
        5.0,
        1.0,
        2.0,
    )
    path = Path(hand.bench.session.path).with_name("rack.anakinema")
    write_document(yielders.document(case), path)
    hand.window.open_path(path)
    hand.settled(hand.window)
    hand.key(Qt.Key.Key_2, CONTROL)
    (row,) = [k for k, line in enumerate(stated(hand)) if "in touch from" in line]
    events = hand.child(QListWidget, "events")
    events.setCurrentRow(row)
    hand.qtbot.keyClick(events, Qt.Key.Key_Return)
    begin = 0.5 - (5 + 2 * math.sqrt(2)) / 60
    assert hand.bench.progress == pytest.approx(begin, abs=1e-6)
    hand.bench.select(Selection("joint", "give"))
    hand.bench.move_playhead(0.5)
    hand.settled(hand.window)
    assert "leaning" in hand.child(QLabel, "joint_standing").text()
    hand.bench.move_playhead(0.0)
    assert "at rest" in hand.child(QLabel, "joint_standing").text()


def test_a_pin_is_let_leave_its_fork_by_a_tick_and_undo_keeps_it_in(hand: Hand) -> None:
    path = Path(hand.bench.session.path).with_name("fork.anakinema")
    write_document(forked(may_leave=False), path)
    hand.window.open_path(path)
    hand.settled(hand.window)
    hand.key(Qt.Key.Key_2, CONTROL)
    hand.bench.select(Selection("joint", "ride"))
    hand.settled(hand.window)
    assert "leaves its guide at 40" in hand.child(QLabel, "joint_guide").text()
    assert any("leaves its guide" in line for line in stated(hand))
    assert hand.bench.evaluation.verdict.exit_status == 1
    box = hand.child(QCheckBox, "joint_may_leave")
    hand.qtbot.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
    hand.settled(hand.window)
    assert hand.bench.session.document.joint("ride").may_leave
    assert hand.bench.evaluation.motion.values[-1, 0] == pytest.approx(70.0)
    hand.key(Qt.Key.Key_Z, CONTROL)
    hand.settled(hand.window)
    assert not box.isChecked()
    assert hand.bench.evaluation.motion.values[-1, 0] == pytest.approx(40.0)
    hand.key(Qt.Key.Key_Z, CONTROL | SHIFT)
    hand.key(Qt.Key.Key_S, CONTROL)
    hand.window.open_path(path)
    hand.settled(hand.window)
    hand.bench.select(Selection("joint", "ride"))
    hand.settled(hand.window)
    assert hand.child(QCheckBox, "joint_may_leave").isChecked()
    assert hand.bench.evaluation.motion.values[-1, 0] == pytest.approx(70.0)
