"""Parts of the window on their own, the keyboard path, and one look at a real screen."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QFontInfo, QFontMetrics, QRawFont
from PySide6.QtWidgets import QApplication, QMenu, QPushButton

from anakinema.resources import demo_names, font_paths, icon_path
from anakinema.ui.drawers.check import FindingRow
from anakinema.ui.drawers.gauge_bar import GaugeBar
from anakinema.ui.fields import QuantityField, source_text
from anakinema.ui.route import STATIONS
from anakinema.ui.strip.lanes import LABELS
from anakinema.ui.theme import DARK, LIGHT, UI_FONT, font, icon_pixmap, style_sheet
from anakinema.ui.workbench import Selection
from anakinema.ui.worker import Worker
from anakinema.wanted import still_wanted
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def field(qtbot):  # type: ignore[no-untyped-def]
    made = QuantityField("46 mm", "radius")
    made.seen = []
    made.changing.connect(made.seen.append)
    qtbot.addWidget(made)
    made.show()
    return made


def test_field_nudges_the_last_digit_of_its_leading_number(qtbot, field) -> None:  # type: ignore[no-untyped-def]
    qtbot.keyClick(field, Qt.Key.Key_Up)
    assert field.text() == "47 mm"
    qtbot.keyClick(field, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert field.text() == "37 mm"
    field.setText("0.50*arm")
    qtbot.keyClick(field, Qt.Key.Key_Up)
    assert field.text() == "0.51*arm"
    field.setText("arm/2")
    qtbot.keyClick(field, Qt.Key.Key_Up)
    assert field.text() == "arm/2"
    assert field.seen == ["47 mm", "37 mm", "0.51*arm"]


def test_field_sends_only_what_can_be_read(qtbot, field) -> None:  # type: ignore[no-untyped-def]
    field.selectAll()
    qtbot.keyClicks(field, "3*(4")
    assert field.property("wrong") is True
    assert field.seen[-1] == "3"
    qtbot.keyClicks(field, ")")
    assert field.property("wrong") is False
    assert field.seen[-1] == "3*(4)"
    ended: list[str] = []
    field.cancelled.connect(lambda: ended.append("cancelled"))
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert ended == ["cancelled"]


def test_field_does_not_overwrite_what_is_being_typed(qtbot, field) -> None:  # type: ignore[no-untyped-def]
    field.show_source("48 mm")
    assert field.text() == "48 mm"
    field.selectAll()
    qtbot.keyClicks(field, "5")
    field.show_source("99 mm")
    assert field.text() == "5"
    ended: list[str] = []
    field.finished.connect(lambda: ended.append("finished"))
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert ended == ["finished"]
    field.show_source("99 mm")
    assert field.text() == "99 mm"


def test_quantities_are_shown_as_typed() -> None:
    assert [source_text(v) for v in (None, 40.0, 0.25, "3*crank", -1e-3)] == [
        "",
        "40",
        "0.25",
        "3*crank",
        "-0.001",
    ]


def test_worker_drops_stale_answers_and_survives_a_fault(qtbot) -> None:  # type: ignore[no-untyped-def]
    worker = Worker("evaluate")
    answers: list[object] = []
    faults: list[str] = []
    worker.answered.connect(lambda _, answer: answers.append(answer))
    worker.broke.connect(lambda _, error: faults.append(repr(error)))

    def endless():  # type: ignore[no-untyped-def]
        while True:
            still_wanted()
            yield from ()

    worker.request(endless)
    worker.request(lambda: ["newest"])
    until(lambda: answers == ["newest"])

    def fault():  # type: ignore[no-untyped-def]
        raise ZeroDivisionError("ours")
        yield

    worker.request(fault)
    until(lambda: faults == ["ZeroDivisionError('ours')"])
    worker.request(lambda: ["after"])
    until(lambda: len(answers) > 1)
    assert answers == ["newest", "after"]
    worker.stop()


def test_fonts_are_ours_with_tabular_figures_and_the_signs_we_use(qapp) -> None:  # type: ignore[no-untyped-def]
    assert len(font_paths()) == 2
    for strong in (False, True):
        used = font(13, strong=strong)
        assert QFontInfo(used).family().startswith(UI_FONT)
        metrics = QFontMetrics(used)
        assert metrics.horizontalAdvance("1111") == metrics.horizontalAdvance("8888")
        raw = QRawFont.fromFont(used)
        assert all(raw.supportsCharacter(ord(sign)) for sign in "°−×…–“”•Øåéµ")
    assert QFontInfo(font(13, strong=True)).weight() > QFontInfo(font(13)).weight()


def test_icons_take_the_colour_of_the_theme(qapp) -> None:  # type: ignore[no-untyped-def]
    for name in ("play", "pause", "chevron-left", "repeat"):
        assert icon_path(name).is_file()
        light = icon_pixmap(name, LIGHT.ink, 18, 2.0).toImage()
        dark = icon_pixmap(name, DARK.ink, 18, 2.0).toImage()
        assert light.size().width() == 36
        assert light != dark
    assert LIGHT.accent in style_sheet(LIGHT)


def test_whole_window_by_keyboard_only(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    bench = window.workbench
    for number, station in enumerate(STATIONS):
        key = Qt.Key(Qt.Key.Key_1.value + number)
        qtbot.keyClick(window, key, Qt.KeyboardModifier.ControlModifier)
        assert bench.station == station
        assert window.route.stations[station].isChecked()
        assert window.route.stations[station].accessibleName().startswith(f"{station}: ")
    qtbot.keyClick(window, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    row = window.findChild(FindingRow, "finding_stroke")
    row.setFocus()
    qtbot.keyClick(row, Qt.Key.Key_Return)
    assert bench.selection == Selection("finding", "stroke")
    qtbot.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    gauge = window.findChild(GaugeBar, "gauge_slide")
    gauge.setFocus()
    qtbot.keyClick(gauge, Qt.Key.Key_Return)
    assert bench.selection == Selection("joint", "slide")
    window.strip.lanes.setFocus()
    qtbot.keyClick(window.strip.lanes, Qt.Key.Key_End)
    assert bench.progress == 1.0
    window.stage.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_Left)
    assert bench.progress == pytest.approx(1 - 1 / 360)
    qtbot.keyClick(window, Qt.Key.Key_Home)
    assert bench.progress == 0.0
    qtbot.keyClick(window, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    assert bench.progress == pytest.approx((202.5398 - 90) / 360, abs=1e-4)


def test_lane_names_select_their_check(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("vent-opener")
    lanes = window.strip.lanes
    box = lanes.lane_box(1)
    qtbot.mouseClick(lanes, LEFT, pos=QPoint(LABELS // 3, round(box.center().y())))
    assert window.workbench.selection == Selection("finding", "post_gap")


def test_menu_offers_files_and_ready_mechanisms(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    qtbot.mouseClick(window.findChild(QPushButton, "menu_button"), LEFT)
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    groups = {action.text(): action.menu() for action in menu.actions() if action.menu()}
    labels = [action.text().split("\t")[0] for action in groups["File"].actions()]
    assert labels[:4] == ["New mechanism", "Open…", "Save", "Save as…"]
    named = [n for n in groups if n not in ("Recent", "Ready mechanisms")]
    assert all(1 <= len(groups[name].actions()) <= 9 for name in named)
    undo = next(a for a in groups["Edit"].actions() if a.text().startswith("Undo"))
    assert not undo.isEnabled()
    ready = next(a.menu() for a in menu.actions() if a.text() == "Ready mechanisms")
    assert len(ready.actions()) == len(demo_names())
    menu.close()


def test_hovering_names_the_body(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    before = window.stage.grab().toImage()
    at = window.stage.to_pixels(-30.0, -35.0).toPoint()
    qtbot.mouseMove(window.stage, at)
    window.stage.repaint()
    after = window.stage.grab().toImage()
    corner = [(x, y) for x in range(14, 60, 3) for y in range(16, 34, 3)]
    assert any(before.pixel(x, y) != after.pixel(x, y) for x, y in corner)


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="no virtual screen on this machine")
def test_window_opens_on_a_real_screen(tmp_path: Path) -> None:
    """The same program under X, not only offscreen: it opens a demo, paints, and ends."""
    code = (
        "import pathlib, sys; from anakinema.ui import app; from anakinema.resources import"
        " demo_path; a = app.application(); w = app.make_window(pathlib.Path(sys.argv[1]));"
        " w.show(); w.open_path(demo_path('tray-shuttle'))\n"
        "while w.workbench.busy: a.processEvents()\n"
        "a.processEvents(); print(w.route.stations['Check'].words,"
        " a.platformName(), w.grab().toImage().pixelColor(900, 10).name()); w.close()"
    )
    numbers, writing = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writing), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=(writing,),
        stderr=subprocess.DEVNULL,
    )
    try:
        os.close(writing)
        with os.fdopen(numbers) as file:
            display = file.readline().strip()
        done = subprocess.run(
            [sys.executable, "-c", code, str(tmp_path)],
            capture_output=True,
            text=True,
            check=True,
            env={**os.environ, "QT_QPA_PLATFORM": "xcb", "DISPLAY": f":{display}"},
        )
    finally:
        server.terminate()
        server.wait()
    assert done.stdout.startswith("1 of 7 fails xcb #f4f1e8")
