"""The plot: curves against one another, two cursors with their difference, out as a table."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication, QPixmap
from PySide6.QtWidgets import QComboBox, QFileDialog, QLabel, QPushButton, QTableWidget

from anakinema.edits import SetParameter
from anakinema.session import Plot, Series
from anakinema.ui.axes import Axis, with_room
from anakinema.ui.window import MainWindow
from anakinema.units import LENGTH
from tests.ui.test_assemble import Hand

LEFT = Qt.MouseButton.LeftButton
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def hand(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    window = opened("tray-shuttle")
    settled(window)
    qtbot.mouseClick(window.findChild(QPushButton, "strip_plot"), LEFT)
    return Hand(qtbot, window, settled)


def cells(window: MainWindow) -> list[list[str]]:
    table = window.findChild(QTableWidget, "plot_table")
    return [
        [table.item(row, column).text() for column in range(4)] for row in range(table.rowCount())
    ]


def number(words: str) -> float:
    return float(words.replace("−", "-").rstrip("° m"))


def test_two_cursors_and_their_difference(hand: Hand) -> None:
    window, canvas = hand.window, hand.window.plot.canvas
    assert canvas.isVisible() and not window.stage.isVisible()
    assert not window.strip.lanes.isVisible()
    hand.qtbot.mouseClick(canvas, LEFT, pos=QPoint(160, 80))
    hand.qtbot.mouseClick(canvas, LEFT, SHIFT, QPoint(300, 80))
    one, two = canvas.cursors
    assert one is not None and two is not None and two > one
    assert window.workbench.progress == one
    rows = cells(window)
    motion = window.workbench.evaluation.motion
    slide = motion.mechanism.joint_index("slide")
    shown = motion.at(np.array([one, two])).values[:, slide]
    row = next(row for row in rows if "pusher on rail" in row[0])
    assert number(row[1]) == pytest.approx(shown[0], abs=0.02)
    assert number(row[3]) == pytest.approx(shown[1] - shown[0], abs=0.04)
    # A step by the keys: the first cursor goes on, with Shift the second one.
    hand.qtbot.keyClick(canvas, Qt.Key.Key_Right)
    hand.qtbot.keyClick(canvas, Qt.Key.Key_Left, SHIFT)
    assert canvas.cursors[0] > one and canvas.cursors[1] < two
    hand.qtbot.keyClick(canvas, Qt.Key.Key_F10)
    assert window.stage.isVisible() and window.strip.lanes.isVisible()


def test_against_time_a_driver_or_another_curve_and_out_as_a_table(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = hand.window
    across = window.findChild(QComboBox, "plot_across")
    entries = [across.itemText(k) for k in range(across.count())]
    assert entries[:2] == ["crank bearing", "time"] and "pusher on rail" in entries
    across.setFocus()
    hand.qtbot.keyClick(across, Qt.Key.Key_Down)
    assert across.currentText() == "time"
    hand.qtbot.mouseClick(window.findChild(QPushButton, "plot_copy"), LEFT)
    lines = QGuiApplication.clipboard().text().splitlines()
    header = lines[0].split("\t")
    assert header[0] == "time (s)" and "pusher on rail (mm)" in header
    times = np.array([float(line.split("\t")[0]) for line in lines[1:]])
    motion = window.workbench.evaluation.motion
    assert times[0] == 0.0 and times[-1] == pytest.approx(motion.timing.total, rel=1e-9)
    # What is not drawn is not copied.
    table = window.findChild(QTableWidget, "plot_table")
    table.item(1, 0).setCheckState(Qt.CheckState.Unchecked)
    hand.qtbot.mouseClick(window.findChild(QPushButton, "plot_copy"), LEFT)
    assert len(QGuiApplication.clipboard().text().splitlines()[0].split("\t")) == len(header) - 1

    path = tmp_path / "curves.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(path), ""))
    across.setCurrentIndex(across.findText("pusher on rail"))
    across.activated.emit(across.currentIndex())
    hand.qtbot.mouseClick(window.findChild(QPushButton, "plot_save"), LEFT)
    rows = list(csv.reader(path.read_text("utf-8").splitlines()))
    slide = motion.mechanism.joint_index("slide")
    column = np.array([float(row[0]) for row in rows[1:]])
    assert column.min() == pytest.approx(motion.values[:, slide].min(), abs=0.01)
    assert len(rows) > len(motion.progress)
    blocked = tmp_path / "none" / "curves.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(blocked), ""))
    hand.qtbot.mouseClick(window.findChild(QPushButton, "plot_save"), LEFT)
    assert not blocked.exists()
    assert "curves.csv" in window.findChild(QLabel, "plot_hint").text()
    assert window.workbench.trouble is not None


def test_an_edit_shows_in_the_plot_and_a_document_that_stands_has_none(hand: Hand) -> None:
    window, canvas = hand.window, hand.window.plot.canvas
    before = canvas.plot.series[0].values.copy()
    hand.bench.do_once(SetParameter("rod", "130 mm"))
    hand.settled(window)
    assert np.abs(canvas.plot.series[0].values - before).max() > 5.0
    hand.bench.undo()
    hand.settled(window)
    assert canvas.plot.series[0].values == pytest.approx(before)
    window.new()
    hand.settled(window)
    assert window.plot.plot is None


@pytest.mark.parametrize("value", [0.0, 12.5, -3e7, 1e-12])
def test_what_stays_the_same_but_for_rounding_is_a_line_in_the_middle(
    hand: Hand, value: float
) -> None:
    """A sixteenth digit that differs is neither a curve nor a scale without values."""
    plot, canvas = hand.window.plot.canvas.plot, hand.window.plot.canvas
    values = np.full(len(plot.progress), value)
    values[::2] = np.nextafter(values[::2], np.inf)
    flat = Plot(plot.progress, plot.across, (Series("flat", LENGTH, values),))
    canvas.show_plot(flat, (0,), canvas._units)
    shown = QPixmap(canvas.size())
    canvas.render(shown)
    (_, series, box) = canvas.panels()[0]
    assert not shown.isNull()
    assert canvas.up(series, box).pixels(values) == pytest.approx(box.center().y(), abs=0.01)


@given(st.floats(-1e12, 1e12), st.floats(0.0, 1e6) | st.floats(0.0, 1e-9), st.floats(0.02, 0.1))
def test_every_range_has_room_at_both_ends(low: float, apart: float, share: float) -> None:
    high = low + apart
    least, greatest = with_room(low, high, share)
    assert least < low and high < greatest
    axis = Axis(least, greatest, 0.0, 100.0)
    there = axis.pixel(low), axis.pixel(high)
    assert 0.0 < there[0] <= there[1] < 100.0
    assert there[0] == pytest.approx(100.0 - there[1], abs=0.01)
