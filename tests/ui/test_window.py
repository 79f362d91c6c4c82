"""The window as a user has it: mouse and keys in, then what is to be seen."""

from __future__ import annotations

import math
import sys
import threading
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QObject, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QImage, QWheelEvent
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QFileDialog,
    QLabel,
    QLineEdit,
    QListWidget,
    QPushButton,
    QScrollArea,
    QWidget,
)

from anakinema.document import Going
from anakinema.document.model import Document
from anakinema.edits import SetName, SetParameter
from anakinema.edits.structure import Remove
from anakinema.files.native import read_document
from anakinema.findings import Outcome
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.resources import demo_names, demo_path
from anakinema.session import poses_at
from anakinema.ui.commands import CommandSearch
from anakinema.ui.drawers.check import FindingRow
from anakinema.ui.drawers.couplings import CouplingList
from anakinema.ui.drawers.gauge_bar import GaugeBar
from anakinema.ui.fields import QuantityField
from anakinema.ui.miniature import MiniatureCard
from anakinema.ui.stage.view import View, fitted, nice_step
from anakinema.ui.strip.events_row import GAP, Mark, placed_names
from anakinema.ui.theme import DARK, LIGHT
from anakinema.ui.workbench import Selection
from anakinema.wanted import still_wanted
from tests.conftest import some
from tests.waiting import answering, pressing, until

LEFT = Qt.MouseButton.LeftButton


def child(window: QWidget, kind: type, name: str):  # type: ignore[no-untyped-def]
    found = window.findChild(kind, name)
    assert found is not None, name
    return found


def words(window: QWidget, name: str) -> str:
    return str(child(window, QLabel, name).text())


def driver_degrees(window) -> float:  # type: ignore[no-untyped-def]
    text = child(window, QLineEdit, "driver_value").text()
    return float(text.rstrip("°").replace("−", "-"))


def retype(qtbot, field: QLineEdit, text: str) -> None:  # type: ignore[no-untyped-def]
    qtbot.mouseClick(field, LEFT)
    field.selectAll()
    qtbot.keyClicks(field, text)


def test_binding_does_not_lose_none_references(qapp) -> None:  # type: ignore[no-untyped-def]
    thing = QObject()
    thing.parent()
    before = sys.getrefcount(None)
    for _ in range(500):
        thing.parent()
    assert sys.getrefcount(None) >= before - 50


def test_start_page_opens_a_ready_mechanism_by_mouse(qtbot, window, settled) -> None:  # type: ignore[no-untyped-def]
    assert window.windowTitle() == "Anakinema"
    qtbot.mouseClick(child(window, MiniatureCard, "demo_tray-shuttle"), LEFT)
    settled(window)
    assert window.stage.isVisible()
    assert "Tray shuttle" in window.windowTitle()
    assert window.route.stations["Check"].words == "1 of 7 fails"
    assert window.route.stations["Assemble"].words == "6 bodies, 1 freedom"


def test_space_plays_through_the_whole_motion_and_stops(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    bench = window.workbench
    bench.speed, bench.loop = 4.0, False
    seen: list[float] = []
    bench.playhead_moved.connect(lambda: seen.append(bench.progress))
    window.stage.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_Space)
    assert bench.is_playing
    until(lambda: not bench.is_playing)
    assert seen[-1] == pytest.approx(1.0)
    assert seen == sorted(seen)
    assert driver_degrees(window) == pytest.approx(450.0)
    qtbot.keyClick(window, Qt.Key.Key_Space)
    until(lambda: bench.progress > 0.02)
    qtbot.keyClick(window, Qt.Key.Key_Space)
    assert not bench.is_playing


def test_scrub_on_the_strip_and_see_the_body_there(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    lanes = window.strip.lanes
    at = QPoint(round(lanes.x_of(0.25)), lanes.height() // 2)
    qtbot.mousePress(lanes, LEFT, pos=at)
    assert window.workbench.progress == pytest.approx(0.25, abs=2e-3)
    qtbot.mouseMove(lanes, QPoint(round(lanes.x_of(0.75)), at.y()))
    qtbot.mouseRelease(lanes, LEFT, pos=QPoint(round(lanes.x_of(0.75)), at.y()))
    assert window.workbench.progress == pytest.approx(0.75, abs=2e-3)
    assert driver_degrees(window) == pytest.approx(360.0, abs=0.8)
    crank = window.stage.poses[2]
    angle = math.degrees(crank[2])
    assert angle == pytest.approx(90 + 360 * window.workbench.progress, abs=1e-6)


def test_a_step_finds_its_pose_once_for_all_that_show_it(opened, settled, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    """Stage, stack and grips show one pose; after an edit it is that of the new motion."""
    window = opened("tray-shuttle")
    bench = window.workbench
    bench.go_to_station("Assemble")
    bench.select(Selection("body", bench.session.document.bodies[1].id))
    found = []

    def counted(evaluation: Evaluation, progress: float) -> np.ndarray:
        found.append(progress)
        return poses_at(evaluation, progress)

    monkeypatch.setattr("anakinema.ui.workbench.poses_at", counted)
    for progress in (0.31, 0.62):
        bench.move_playhead(progress)
        window.stage.repaint()
    assert found == [0.31, 0.62]
    before = bench.shown_poses()
    assert np.array_equal(before, poses_at(bench.evaluation, 0.62))
    bench.do(SetParameter("rod", "119 mm"))
    settled(window)
    assert bench.trouble is None and bench.progress == 0.62
    shown = bench.shown_poses()
    assert np.array_equal(shown, poses_at(bench.evaluation, 0.62))
    assert np.abs(shown - before).max() > 0.01
    bench.undo()
    settled(window)
    assert np.array_equal(bench.shown_poses(), before)


def test_the_strip_is_drawn_anew_when_its_size_changes(window, settled, qtbot) -> None:  # type: ignore[no-untyped-def]
    """What it shows after a change is what it shows when drawn from nothing."""
    window.open_path(demo_path("tray-shuttle"))
    settled(window)
    lanes = window.strip.lanes
    wide = lanes.grab().toImage()
    window.resize(window.width() - 200, window.height() - 120)
    settled(window)
    after = lanes.grab().toImage()
    assert after.size() != wide.size()
    window.workbench.desk.switch_theme()
    window.workbench.desk.switch_theme()
    assert lanes.grab().toImage() == after


def test_step_exactly_type_a_value_and_jump_to_events(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    bench = window.workbench
    step = child(window, QLineEdit, "step_size")
    retype(qtbot, step, "0.35 deg")
    qtbot.keyClick(step, Qt.Key.Key_Return)
    window.stage.setFocus()
    for _ in range(3):
        qtbot.keyClick(window, Qt.Key.Key_Period, Qt.KeyboardModifier.NoModifier)
        qtbot.mouseClick(child(window, QPushButton, "step_on"), LEFT)
    assert bench.progress * 360 == pytest.approx(3 * 0.35, abs=1e-9)
    qtbot.mouseClick(child(window, QPushButton, "step_back"), LEFT)
    assert bench.progress * 360 == pytest.approx(2 * 0.35, abs=1e-9)
    value = child(window, QLineEdit, "driver_value")
    retype(qtbot, value, "214.6 deg")
    qtbot.keyClick(value, Qt.Key.Key_Return)
    assert 90 + 360 * bench.progress == pytest.approx(214.6, abs=1e-9)
    qtbot.mouseClick(child(window, QPushButton, "next_event"), LEFT)
    assert driver_degrees(window) == pytest.approx(270.0, abs=0.05)
    retype(qtbot, value, "4 apples")
    qtbot.keyClick(value, Qt.Key.Key_Return)
    assert "not expected" in words(window, "trouble_words")
    qtbot.mouseClick(child(window, QPushButton, "trouble_close"), LEFT)
    assert not child(window, QWidget, "trouble").isVisible()


def test_click_an_event_mark_goes_there(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("vent-opener")
    evaluation = window.workbench.evaluation
    gap = next(f.gap for f in evaluation.verdict.findings if f.kind == "gap")
    lanes = window.strip.lanes
    qtbot.mouseClick(
        lanes, LEFT, pos=QPoint(round(lanes.x_of(gap.progress)) + 3, lanes.events_top + 9)
    )
    assert window.workbench.progress == pytest.approx(gap.progress, abs=1e-12)


def test_length_edit_refreshes_everything_while_typing_then_undo_and_redo(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    bench = window.workbench
    before = bench.session.document
    # Pick the crank on the stage, inside its disc and clear of everything above it.
    at = window.stage.to_pixels(-30.0, -35.0)
    qtbot.mouseClick(window.stage, LEFT, pos=at.toPoint())
    assert bench.selection == Selection("body", "crank")
    coarse: list[bool] = []
    bench.evaluated.connect(lambda: coarse.append(bench.evaluation.is_exact))
    field = child(window, QuantityField, "dimension_crank_radius")
    retype(qtbot, field, "44 mm")
    until(lambda: not bench.busy)
    found = {f.id: f for f in bench.evaluation.verdict.findings}
    half = math.asin(44 / 120)
    assert found["quick_return"].value == pytest.approx((math.pi + 2 * half) / (math.pi - 2 * half))
    assert found["post_gap"].outcome is not Outcome.FAIL
    failed = {f.id for f in found.values() if f.outcome is Outcome.FAIL}
    assert failed == {"stroke"}
    assert window.route.stations["Check"].words == "1 of 7 fails"
    assert coarse[-1]
    qtbot.keyClick(field, Qt.Key.Key_Return)
    for _ in range(3):
        qtbot.keyClick(field, Qt.Key.Key_Up)
    assert field.text() == "47 mm"
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "44 mm"
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert bench.session.document is before
    until(lambda: not bench.busy)
    assert window.route.stations["Check"].words == "1 of 7 fails"
    assert field.text() == "46 mm"
    both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    qtbot.keyClick(window, Qt.Key.Key_Z, both)
    assert bench.session.document.part("crank").dimensions[0].value == "44 mm"


def test_wrong_and_impossible_numbers_are_told_and_nothing_is_lost(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    bench = window.workbench
    field = child(window, QuantityField, "parameter_rod")
    retype(qtbot, field, "118 mm +")
    assert field.property("wrong") is True
    assert "expected" in field.toolTip()
    assert bench.session.document.parameters[2].value == "118 mm "
    retype(qtbot, field, "18 mm")
    settled(window)
    until(lambda: bench.trouble is not None)
    text = words(window, "trouble_words")
    assert "cannot close" in text
    assert "apart at the start pose" in text
    assert window.stage.poses is not None
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    until(lambda: bench.trouble is None and not bench.busy)
    assert field.text() == "118 mm"
    assert not child(window, QWidget, "trouble").isVisible()


def test_save_and_reopen_gives_the_same_work(qtbot, opened, settled, tmp_path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    bench = window.workbench
    field = child(window, QuantityField, "parameter_throw")
    retype(qtbot, field, "31 mm")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    settled(window)
    path = tmp_path / "pump.anakinema"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    qtbot.keyClick(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert read_document(path) == bench.session.document
    assert not bench.session.is_changed
    assert "*" not in window.windowTitle()
    verdict = [f.value for f in bench.evaluation.verdict.findings]
    window.open_path(demo_path("side-rods"))
    settled(window)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    qtbot.keyClick(window, Qt.Key.Key_O, Qt.KeyboardModifier.ControlModifier)
    settled(window)
    until(lambda: bench.evaluation.document.name == "Water pump")
    assert [f.value for f in bench.evaluation.verdict.findings] == verdict
    assert [Path(p).name for p in bench.settings.recent] == ["pump.anakinema"]


def test_a_broken_file_is_reported_and_what_was_open_stays(qtbot, opened, tmp_path) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    before = window.workbench.session.document
    broken = tmp_path / "broken.anakinema"
    broken.write_bytes(b"\x00\x01\xff")
    window.open_path(broken)
    assert "not text" in words(window, "trouble_words")
    assert window.workbench.session.document is before


def test_unsaved_work_is_asked_about_and_staying_keeps_it(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    field = child(window, QuantityField, "parameter_throw")
    retype(qtbot, field, "32 mm")
    qtbot.keyClick(field, Qt.Key.Key_Return)

    with answering(pressing("Stay")):
        window.open_path(demo_path("side-rods"))
    assert window.workbench.session.document.name == "Water pump"
    assert window.workbench.session.is_changed


def test_checks_read_as_a_user_would(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    row = child(window, FindingRow, "finding_post_gap")
    assert row.accessibleName() == "fail: Gap rod to guard post, 2.14 mm, at least 3.00 mm"
    qtbot.mouseClick(row, LEFT)
    shown = " ".join(label.text() for label in window.inspector.findChildren(QLabel))
    for expected in ("push rod", "guard post", "certified", "crank 202.", "Too small from"):
        assert expected in shown, expected
    gap = next(f.gap for f in window.workbench.evaluation.verdict.findings if f.id == "post_gap")
    assert window.workbench.progress == pytest.approx(gap.progress)
    picture = window.stage.grab().toImage()
    point = window.stage.to_pixels(*gap.first_point).toPoint()
    near = {
        picture.pixelColor(point + QPoint(dx, dy)).name()
        for dx in range(-14, 15)
        for dy in range(-14, 15)
    }
    assert QColor(LIGHT.fail).name() in near
    field = child(window, QuantityField, "asked_least")
    retype(qtbot, field, "2 mm")
    until(lambda: not window.workbench.busy)
    assert row.accessibleName().startswith("warn: Gap rod")


def test_drive_station_gauges_program_limits_and_reach(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("vent-opener")
    bench = window.workbench
    qtbot.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    assert bench.station == "Drive"
    until(lambda: "reaches" in words(window, "reach"))
    assert "limit of vent hinge" in words(window, "reach")
    qtbot.mouseClick(child(window, GaugeBar, "gauge_hinge"), LEFT)
    assert bench.selection == Selection("joint", "hinge")
    assert words(window, "live_used_greatest") == "130.2°"
    field = child(window, QuantityField, "limit_greatest")
    retype(qtbot, field, "120 deg")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    until(lambda: not bench.busy)
    assert bench.evaluation.motion.values[-1, 3] == pytest.approx(math.radians(120), abs=1e-9)
    assert words(window, "live_used_greatest") == "120.0°"
    qtbot.mouseClick(child(window, QCheckBox, "past_limits"), LEFT, pos=QPoint(8, 8))
    until(lambda: not bench.busy)
    assert bench.evaluation.motion.last == pytest.approx(2.0)
    lanes = window.strip.lanes
    block = lanes.blocks()[0].box.center()
    qtbot.mouseClick(lanes, LEFT, pos=QPoint(round(block.x()), round(block.y())))
    target = child(window, QuantityField, "target_0_motor")
    retype(qtbot, target, "100 deg")
    until(lambda: not bench.busy)
    assert math.degrees(bench.evaluation.motion.values[:, 0].max()) == pytest.approx(100)


def test_ranges_follow_the_drivers_there_are(opened, settled) -> None:  # type: ignore[no-untyped-def]
    """What was found for drivers before an edit is not said of those after it."""
    window = opened("transfer-arm")
    bench = window.workbench
    bench.go_to_station("Drive")
    until(lambda: "elbow reaches" in words(window, "reach"))
    bench.go_to_station("Assemble")
    bench.do(Remove(Going(joints=frozenset(("elbow",))), "Delete"))
    settled(window)
    assert [d.id for d in bench.evaluation.document.program.drivers] == ["shoulder"]
    bench.go_to_station("Drive")
    assert "elbow" not in words(window, "reach")
    until(lambda: "shoulder reaches" in words(window, "reach"))
    bench.undo()
    settled(window)
    until(lambda: "elbow reaches" in words(window, "reach"))
    window.open_path(demo_path("vent-opener"))
    settled(window)
    assert "shoulder" not in words(window, "reach")
    until(lambda: "reaches" in words(window, "reach"))


def test_assemble_station_lists_and_says_what_is_free(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("transfer-arm")
    qtbot.mouseClick(window.route.stations["Assemble"], LEFT)
    assert "drip tray hangs free" in words(window, "mobility")
    bodies = child(window, QListWidget, "body_list")
    assert [bodies.item(i).text() for i in range(bodies.count())][:2] == [
        "column, fixed",
        "rack, fixed",
    ]
    box = bodies.visualItemRect(bodies.item(2))
    qtbot.mouseClick(bodies.viewport(), LEFT, pos=box.center())
    assert window.workbench.selection == Selection("body", "upper_arm")


def test_record_station_writes_table_report_and_words(qtbot, opened, tmp_path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    qtbot.keyClick(window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    starts = ("progress,time_s", "{", "Water pump: ")
    for name, start in zip(("export_table", "export_report", "export_words"), starts, strict=True):
        path = tmp_path / name
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, p=path, **k: (str(p), ""))
        qtbot.mouseClick(child(window, QPushButton, name), LEFT)
        until(lambda n=name: f"Written to {n}" in words(window, "record_done"))
        assert path.read_text("utf-8").startswith(start)


def test_command_search_by_keyboard(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    qtbot.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    search = child(window, CommandSearch, "command_search")
    until(search.isVisible)
    field = child(search, QLineEdit, "command_field")
    qtbot.keyClicks(field, "ready side")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    until(lambda: window.workbench.session.document.name == "Side rods")
    settled(window)
    assert window.route.stations["Check"].words == "1 of 4 fails"


def test_a_command_that_asks_is_found_and_run_by_keyboard(qtbot, opened, settled) -> None:  # type: ignore[no-untyped-def]
    """The search is gone before the question comes: closed within its own key, its field was
    destroyed while it handled that, and the program ended."""
    window = opened("water-pump")
    window.workbench.do_once(SetName("long pump"))
    settled(window)
    changed = window.workbench.session.document
    for answer, kept in ((pressing("Stay"), True), (pressing("Do not save"), False)):
        next(each for each in window.commands if each.id == "search").run()
        field = next(
            each for each in window.findChildren(QLineEdit, "command_field") if each.isVisible()
        )
        qtbot.keyClicks(field, "new mechanism")
        with answering(answer):
            qtbot.keyClick(field, Qt.Key.Key_Return, Qt.KeyboardModifier.AltModifier)
            until(lambda: not window.findChildren(CommandSearch))
            until(lambda: QApplication.activeModalWidget() is None)
        assert (window.workbench.session.document is changed) == kept
    settled(window)


def test_zoom_pan_fit_and_theme(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("side-rods")
    stage = window.stage
    view = stage.view
    centre = QPointF(stage.width() / 2, stage.height() / 2)
    wheel = QWheelEvent(
        centre,
        stage.mapToGlobal(centre),
        QPoint(),
        QPoint(0, 240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(stage, wheel)
    assert stage.view.scale > view.scale * 1.2
    qtbot.mousePress(stage, LEFT, pos=QPoint(20, 20))
    qtbot.mouseMove(stage, QPoint(80, 60))
    qtbot.mouseRelease(stage, LEFT, pos=QPoint(80, 60))
    assert stage.view.x < view.x
    stage.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_R)
    assert stage.view.scale == pytest.approx(view.scale, rel=0.05)
    qtbot.keyClick(window, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    corner = window.stage.grab().toImage().pixelColor(3, 3).name()
    assert corner in (QColor(DARK.stage).name(), QColor(DARK.grid).name())
    assert window.workbench.settings.theme == "dark"
    assert window.route.stations["Check"].words == "1 of 4 fails"


def test_every_value_is_looked_at_while_none_is_worked_out_yet(qtbot, opened, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    """Typed on and on before any exact answer comes: each shows, and what comes last is exact."""
    window = opened("tray-indexer")
    bench = window.workbench
    free = threading.Event()

    def held(document: Document, *, earlier: Evaluation | None = None) -> Evaluation:
        while not free.wait(0.005):
            still_wanted()
        return evaluate(document, earlier=earlier)

    monkeypatch.setattr("anakinema.session.session.evaluate", held)
    before = bench.evaluation
    field = child(window, QuantityField, "parameter_stroke")
    for value in ("38.1 deg", "38.2 deg", "38.3 deg"):
        retype(qtbot, field, value)
        until(lambda: bench.evaluation.source is bench.session.document)
        assert bench.busy and bench.evaluation.exact is before
        assert bench.evaluation.resolved.names["stroke"].value == pytest.approx(
            math.radians(float(value.split()[0]))
        )
    free.set()
    until(lambda: not bench.busy)
    assert bench.evaluation.is_exact and bench.evaluation is not before
    assert bench.evaluation.source is bench.session.document


def test_newest_request_wins_and_cancel_keeps_the_last_answer(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    bench = window.workbench
    field = child(window, QuantityField, "parameter_rod")
    for value in ("119 mm", "120 mm", "121 mm"):
        retype(qtbot, field, value)
    until(lambda: not bench.busy)
    assert bench.evaluation.document is bench.session.document
    assert bench.evaluation.resolved.names["rod"].value == 121.0
    last = bench.evaluation
    retype(qtbot, field, "122 mm")
    bench.cancel()
    qtbot.wait(50)
    assert not bench.busy
    assert bench.evaluation is last or not bench.evaluation.is_exact


def test_view_arithmetic() -> None:
    view = fitted((0, 0, 100, 50), 800, 600)
    at = view.transform(800, 600).map(QPointF(100, 50))
    assert view.to_plane(at, 800, 600) == pytest.approx((100, 50))
    zoomed = view.zoomed(2.0, at, 800, 600)
    assert zoomed.transform(800, 600).map(QPointF(100, 50)) == at
    assert nice_step(1.0, 44) == pytest.approx(50)
    assert isinstance(View().panned(1, 1), View)


@pytest.mark.campaign
@pytest.mark.parametrize("station", some(["Assemble", "Drive", "Check", "Record"], 2))
def test_another_theme_and_back_shows_the_same(opened, settled, station: str) -> None:  # type: ignore[no-untyped-def]
    """What is selected, zoomed and in hand stays; the other theme has other colours."""
    window = opened("geared-vent")
    bench = window.workbench
    bench.go_to_station(station)
    bench.select(Selection("body", "pinion"))
    bench.move_playhead(0.3)
    window.stage.zoom(1.4)
    settled(window)

    def shown() -> list[QImage]:
        settled(window)
        for _ in range(3):  # what is laid out anew asks for another layout
            QApplication.processEvents()
        return [w.grab().toImage() for w in (window.stage, window.strip, window.route)]

    before = shown()
    bench.desk.switch_theme()
    dark = shown()
    bench.desk.switch_theme()
    assert shown() == before
    for one, other in zip(dark, before, strict=True):
        assert one.pixelColor(3, 3).lightness() < other.pixelColor(3, 3).lightness() - 100


@pytest.mark.campaign
def test_no_drawer_is_wider_than_its_place(opened, settled) -> None:  # type: ignore[no-untyped-def]
    """Fields end before the scroll bar, whatever a mechanism has to list."""
    for name in some(demo_names(), 6):
        window = opened(name)
        for station in ("Assemble", "Drive", "Check", "Record"):
            window.workbench.go_to_station(station)
            settled(window)
            QApplication.processEvents()
            drawer = window.findChild(QWidget, "drawer")
            area = next(each for each in drawer.findChildren(QScrollArea) if each.isVisible())
            assert area.widget().width() <= area.viewport().width(), (name, station)
            if station == "Assemble":
                # Its pages scroll by themselves.
                assert area.widget().height() <= area.viewport().height(), name


@given(st.lists(st.tuples(st.floats(0.0, 900.0), st.integers(3, 300)), min_size=1, max_size=20))
def test_names_of_events_never_collide_nor_hide_a_mark(places: list[tuple[float, int]]) -> None:
    kinds = ("limit", "touch", "extreme", "dead point")
    marks = [
        Mark(x, x, kinds[k % 4], f"event {k}", QColor("black"))
        for k, (x, _) in enumerate(sorted(places))
    ]
    width = {mark.words: float(w) for mark, (_, w) in zip(marks, sorted(places), strict=True)}
    names = placed_names(marks, width, -40.0, 940.0)
    assert names or min(w for _, w in places) > 40
    for k, one in enumerate(names):
        span = one.left, one.left + width[one.mark.words]
        assert span[0] > -40 and span[1] < 940
        for other in names[k + 1 :]:
            if other.row == one.row:
                far = other.left, other.left + width[other.mark.words]
                assert span[1] + GAP < far[0] or far[1] + GAP < span[0]
        if one.row == 0:
            assert not any(span[0] < m.x < span[1] for m in marks)


def test_chips_of_bodies_follow_the_theme(opened, settled) -> None:  # type: ignore[no-untyped-def]
    window = opened("geared-vent")
    window.workbench.go_to_station("Assemble")
    settled(window)
    bodies = window.findChild(QListWidget, "body_list")

    def chips() -> list[QColor]:
        icons = [bodies.item(k).icon() for k in range(bodies.count())]
        return [icon.pixmap(14, 14).toImage().pixelColor(7, 7) for icon in icons]

    before = chips()
    window.workbench.desk.switch_theme()
    parts = {b.id: b.part for b in window.workbench.session.document.bodies}
    colours = {p.id: p.colour for p in window.workbench.session.document.parts}
    dark = [QColor(DARK.bodies[colours[part]]) for part in parts.values()]
    assert chips() == dark != before


@pytest.mark.campaign
def test_other_documents_open_one_after_the_other_at_every_station(opened) -> None:  # type: ignore[no-untyped-def]
    """Lists of the one before are gone with it."""
    window = opened("geared-vent")
    for station in some(("Drive", "Assemble", "Check", "Record"), 2):
        window.workbench.go_to_station(station)
        # Cams and pawls, which take their time, once; what is quick at every station.
        slow = ("cam-dibber", "tray-indexer") if station == "Drive" else ("lid-latch",)
        for name in ("head-belt", *slow, "geared-vent"):
            window = opened(name)
            listed = window.findChild(CouplingList)
            shown = {
                button.objectName().removeprefix("pick_coupling_")
                for button in listed.findChildren(QPushButton)
                if button.objectName().startswith("pick_")
            }
            if station == "Drive":
                assert shown == {c.id for c in window.workbench.session.document.couplings}


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
def test_text_contrast_is_at_least_four_and_a_half(theme) -> None:  # type: ignore[no-untyped-def]
    """WCAG 2.1, success criterion 1.4.3 (W3C)."""

    def light(name: str) -> float:
        c = np.array(QColor(name).getRgbF()[:3])
        linear = np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)
        return float(linear @ [0.2126, 0.7152, 0.0722])

    for text in (theme.ink, theme.quiet, theme.passed, theme.warn, theme.fail):
        for paper in (theme.stage, theme.panel, theme.card):
            low, high = sorted((light(text), light(paper)))
            assert (high + 0.05) / (low + 0.05) >= 4.5, (text, paper)
