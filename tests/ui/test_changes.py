"""Changes that would pass are tried and undone by hand; a number shows how far it may go."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QPushButton, QWidget

from anakinema.edits import SetParameter
from anakinema.files import read_document
from anakinema.findings import Outcome
from anakinema.resources import demo_path
from anakinema.ui.drawers.check import FindingRow
from anakinema.ui.fields import QuantityField
from anakinema.ui.miniature import MiniatureCard
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import CONTROL, Hand
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton


def opened_hand(qtbot, opened, settled, name: str) -> Hand:  # type: ignore[no-untyped-def]
    hand = Hand(qtbot, opened(name), settled)
    hand.bench.go_to_station("Check")
    hand.settled(hand.window)
    return hand


def outcome(hand: Hand, name: str) -> Outcome:
    found = next(f for f in hand.bench.evaluation.verdict.findings if f.id == name)
    return found.outcome


def look(hand: Hand, name: str) -> list[str]:
    """Click a finding, wait for its changes; what each says."""
    row = hand.child(FindingRow, f"finding_{name}")
    hand.qtbot.mouseClick(row, LEFT)
    until(lambda: not hand.bench.changes.is_looking and hand.bench.changes.found)
    panel = hand.child(QWidget, "changes")
    assert panel.isVisible()
    return [
        " ".join(
            each.text() for each in panel.findChild(QWidget, f"change_{k}").findChildren(QLabel)
        )
        for k in range(min(6, len(hand.bench.changes.found)))
    ]


def test_a_failing_tray_shuttle_is_brought_to_pass_by_a_click(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    assert outcome(hand, "post_gap") is Outcome.FAIL
    words = look(hand, "post_gap")
    assert len(words) >= 5
    assert words[0].startswith("rail height 132 mm → 133.7 mm gives 3.0")
    assert "Transmission angle, rod 47.9° → 47.0°" in words[0]
    before = hand.bench.session.document
    hand.press_button("try_0")
    assert outcome(hand, "post_gap") in (Outcome.PASS, Outcome.WARN)
    assert hand.bench.session.document.parameters != before.parameters
    # What was tried stays in the log when the change is taken back.
    hand.key(Qt.Key.Key_Z, CONTROL)
    document = hand.bench.session.document
    assert document.parameters == before.parameters
    assert [t.name for t in document.trials] == ["rail height 132 mm → 133.7 mm"]
    assert outcome(hand, "post_gap") is Outcome.FAIL
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before


def test_trials_are_kept_judged_compared_and_gone_back_to(  # type: ignore[no-untyped-def]
    qtbot, opened, settled, tmp_path: Path
) -> None:
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    hand.press_button("trial_keep")
    assert hand.bench.selection == Selection("trial", "trial_1")
    words = [each.text() for each in hand.child(QWidget, "trial_rows").findChildren(QLabel)]
    assert "2.14 mm" in words and "Gap rod to guard post" in words
    assert not any("now" in each for each in words)
    hand.bench.do(SetParameter("rod", "113.2 mm"))
    hand.bench.finish_gesture()
    hand.settled(hand.window)
    QApplication.processEvents()
    words = [each.text() for each in hand.child(QWidget, "trial_rows").findChildren(QLabel)]
    assert "118 mm, now 113.2 mm" in words
    assert any(each.startswith("2.14 mm, now 3.0") for each in words)
    hand.choose("trial_decision", "rejected")
    reason = hand.child(QLineEdit, "trial_reason")
    reason.setFocus()
    hand.qtbot.keyClicks(reason, "too near")
    hand.qtbot.keyClick(reason, Qt.Key.Key_Return)
    hand.press_button("trial_back")
    assert outcome(hand, "post_gap") is Outcome.FAIL
    path = tmp_path / "tried.anakinema"
    assert hand.bench.save(path)
    (trial,) = read_document(path).trials
    assert (trial.decision, trial.reason) == ("rejected", "too near")
    hand.press_button("trial_delete")
    assert hand.bench.session.document.trials == ()
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document.trials == (trial,)


def test_what_passes_has_no_changes_and_what_is_gone_takes_them_along(
    qtbot, opened, settled
) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    hand.qtbot.mouseClick(hand.child(FindingRow, "finding_stroke"), LEFT)
    assert not hand.child(QWidget, "changes").isVisible()
    hand.qtbot.mouseClick(hand.child(FindingRow, "finding_post_gap"), LEFT)
    hand.settled(hand.window)
    assert hand.bench.changes.is_looking or hand.bench.changes.found
    hand.key(Qt.Key.Key_Delete)
    hand.settled(hand.window)
    assert all(r.id != "post_gap" for r in hand.bench.session.document.requirements)
    until(lambda: not hand.bench.changes.is_looking)
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert look(hand, "post_gap")


def test_a_number_that_is_entered_shows_how_far_it_may_go(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "vent-opener")
    hand.bench.go_to_station("Assemble")
    hand.bench.select(Selection("body", "link"))
    hand.settled(hand.window)
    field = hand.child(QuantityField, "parameter_link")
    hand.window.activateWindow()
    until(hand.window.isActiveWindow)
    field.setFocus()
    card = hand.window.band

    def certified() -> bool:
        return card.band is not None and card.band.low.is_certified

    until(certified)
    assert card.isVisible()
    title, low, high, sure = card.words
    assert title.startswith("Keeps passing from 136.") and title.endswith(" mm")
    assert low == high == "Reserve at the hinge limits"
    assert sure == "both ends judged whole"
    assert not card.geometry().intersects(
        field.geometry().translated(field.mapTo(hand.window, field.rect().topLeft()))
    )
    field.selectAll()
    hand.qtbot.keyClicks(field, "150 mm")
    hand.settled(hand.window)
    assert card.isVisible() and card._present() == 150.0
    hand.qtbot.keyClick(field, Qt.Key.Key_Return)
    assert not card.isVisible()


def test_a_bare_mechanism_is_offered_what_is_worth_asking(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    for requirement in hand.bench.session.document.requirements:
        hand.qtbot.mouseClick(hand.child(FindingRow, f"finding_{requirement.id}"), LEFT)
        hand.key(Qt.Key.Key_Delete)
    assert hand.bench.session.document.requirements == ()
    until(lambda: hand.window.findChild(QPushButton, "worth_0") is not None)
    offered = hand.child(QPushButton, "worth_0")
    assert offered.accessibleName() == "ask: Travel of pusher on rail: 176.33 mm"
    hand.press_button("worth_0")
    (asked,) = hand.bench.session.document.requirements
    assert asked.least == "176.3 mm" and outcome(hand, asked.id) is Outcome.PASS
    assert hand.window.findChild(QPushButton, "worth_0") is None
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document.requirements == ()


def test_the_curve_before_an_edit_stays_as_a_ghost(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    lanes = hand.window.strip.lanes
    gap = next(k for k, lane in enumerate(lanes.shown) if lane.title == "Gap rod to guard post")
    before = lanes.shown[gap].values
    assert lanes.earlier(lanes.shown[gap]) is None
    plain = lanes.grab().toImage()
    hand.bench.do(SetParameter("rod", "112 mm"))
    hand.bench.finish_gesture()
    hand.settled(hand.window)
    ghost = lanes.earlier(lanes.shown[gap])
    assert ghost is not None and (ghost.values == before).all()
    hand.key(Qt.Key.Key_Z, CONTROL)
    ghost = lanes.earlier(lanes.shown[gap])
    assert ghost is not None and (ghost.values != before).any()
    assert lanes.grab().toImage() != plain
    hand.window.open_path(demo_path("tray-shuttle"))
    hand.settled(hand.window)
    assert lanes.earlier(lanes.shown[gap]) is None


def test_any_quantity_becomes_a_curve_and_goes_again(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "water-pump")
    hand.choose("ask_kind", "the speed of the point")
    hand.choose("ask_first", "plunger, pin")
    hand.press_button("ask_show")
    (kept,) = hand.bench.session.document.measures
    assert kept.measure.kind == "place_rate" and kept.title == "Speed of plunger, pin"
    lanes = hand.window.strip.lanes
    k, lane = next((k, each) for k, each in enumerate(lanes.shown) if each.title == kept.title)
    assert lane.values.max() > 10.0 and lane.values.min() >= 0.0
    box = lanes.lane_box(k)
    menu = lanes.menu_at(box.center())
    gone = next(action for action in menu.actions() if action.text() == "Show it no more")
    gone.trigger()
    hand.settled(hand.window)
    assert hand.bench.session.document.measures == ()
    assert all(each.title != kept.title for each in lanes.shown)
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document.measures == (kept,)


def test_a_check_is_brought_to_a_target_by_a_number(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    hand.qtbot.mouseClick(hand.child(FindingRow, "finding_stroke"), LEFT)
    hand.choose("solve_number", "rocker, length")
    target = hand.child(QuantityField, "solve_target")
    target.setFocus()
    hand.qtbot.keyClicks(target, "180")
    hand.press_button("solve_find")
    until(lambda: hand.window.findChild(QPushButton, "try_solved") is not None)
    hand.press_button("try_solved")
    stroke = next(f for f in hand.bench.evaluation.verdict.findings if f.id == "stroke")
    assert abs(stroke.value - 180.0) < 0.04
    assert hand.bench.session.document.part("rocker").dimensions[0].value == "234.783 mm"
    hand.key(Qt.Key.Key_Z, CONTROL)
    hand.qtbot.mouseClick(hand.child(FindingRow, "finding_stroke"), LEFT)
    target = hand.child(QuantityField, "solve_target")
    hand.qtbot.keyClicks(target, "9000 mm")
    hand.press_button("solve_find")
    panel = hand.child(QWidget, "solve_for")

    def told() -> bool:
        return any("the nearest gives" in each.text() for each in panel.findChildren(QLabel))

    until(told)
    assert hand.window.findChild(QPushButton, "try_solved") is None


def test_a_finding_is_no_wider_than_its_panel(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    look(hand, "post_gap")
    QApplication.processEvents()
    for name in ("changes", "solve_for"):
        widget = hand.child(QWidget, name)
        right = widget.mapTo(hand.window, widget.rect().topRight()).x()
        assert right < hand.window.width() - 4, name


def test_two_trials_are_compared_side_by_side_and_on_the_stage(  # type: ignore[no-untyped-def]
    qtbot, opened, settled
) -> None:
    hand = opened_hand(qtbot, opened, settled, "tray-shuttle")
    hand.press_button("trial_keep")
    hand.bench.do_once(SetParameter("rail_height", "140 mm"))
    hand.settled(hand.window)
    hand.press_button("trial_keep")
    until(lambda: hand.bench.comparison.shown is not None)
    # It moves as it did then: the same number of bodies, other places once a number changes.
    hand.bench.select(Selection("trial", "trial_1"))
    until(lambda: hand.bench.comparison.shown is not None)
    until(lambda: len(hand.window.findChildren(QComboBox, "trial_beside")) == 1)
    slide = hand.bench.evaluation.resolved.source.joint("slide").second.body
    body = [b.id for b in hand.bench.evaluation.document.bodies].index(slide)
    then, now = hand.bench.comparison.shown.poses[0], hand.bench.evaluation.motion.poses[0]
    assert abs(then[body, 1] - now[body, 1]) > 5.0
    assert hand.child(MiniatureCard, "trial_picture").is_drawn
    hand.choose("trial_beside", "Trial 2")
    words = [each.text() for each in hand.child(QWidget, "trial_rows").findChildren(QLabel)]
    assert "132 mm, 140 mm" in words
    gap = next(words[k + 1] for k, text in enumerate(words) if text == "Gap rod to guard post")
    assert gap.startswith("2.14 mm, ") and "now" not in gap
    hand.bench.select(Selection())
    assert hand.bench.comparison.shown is None
