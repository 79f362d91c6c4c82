"""Sheets in the window: turned over, their dimensions dragged, hidden and added, issued, stale."""

from __future__ import annotations

from pathlib import Path

import pypdfium2 as pdfium
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QFileDialog, QLabel, QLineEdit, QListWidget, QPushButton

from anakinema.edits import SetDimension
from anakinema.files.native import read_document
from anakinema.record import Dimension
from anakinema.ui.sheets.page import SheetsPage
from tests.ui.test_assemble import Hand
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton


class Paper(Hand):
    """A hand at the page of sheets."""

    @property
    def page(self) -> SheetsPage:
        return self.window.sheets

    def drawn(self) -> None:
        """Wait until all sheets are those of the present document."""
        self.settled(self.window)
        until(lambda: bool(self.page.sheets) and self.child(QLabel, "sheets_state").text() == "")

    def turn_to(self, title: str) -> None:
        rows = [k for k, sheet in enumerate(self.page.sheets) if sheet.title == title]
        listed = self.child(QListWidget, "sheets_list")
        spot = listed.visualItemRect(listed.item(rows[0])).center()
        self.qtbot.mouseClick(listed.viewport(), LEFT, pos=spot)
        assert self.page.view.sheet is self.page.sheets[rows[0]]

    def sizes(self) -> dict[str, Dimension]:
        """Dimensions of the sheet on show, by the last word of their key."""
        sheet = self.page.view.sheet
        assert sheet is not None
        return {each.key.rpartition("/")[2]: each for each in sheet.leaf.dimensions}

    def spot(self, name: str) -> QPoint:
        """Pixels in the middle of a dimension's line."""
        each = self.sizes()[name]
        return self.page.view.place(*each.at(sum(each.span) / 2)).toPoint()

    def press(self, name: str) -> None:
        self.qtbot.mouseClick(self.child(QPushButton, name), LEFT)
        self.drawn()

    def enter(self, name: str, text: str) -> None:
        field = self.child(QLineEdit, name)
        field.setFocus()
        field.selectAll()
        self.qtbot.keyClicks(field, text)
        self.qtbot.keyClick(field, Qt.Key.Key_Return)
        self.drawn()


@pytest.fixture
def paper(qtbot, opened, settled) -> Paper:  # type: ignore[no-untyped-def]
    """The tray shuttle with its sheets open, by key."""
    hand = Paper(qtbot, opened("tray-shuttle"), settled)
    qtbot.keyClick(hand.window, Qt.Key.Key_F12)
    until(hand.page.isVisible)
    hand.drawn()
    return hand


def test_sheets_open_by_key_and_are_turned_over(paper: Paper) -> None:
    listed = paper.child(QListWidget, "sheets_list")
    titles = [listed.item(k).text().split("  ", 1)[1] for k in range(listed.count())]
    wanted = ["Cover", "General arrangement", "Section A-A", "Exploded view", "Assembly steps"]
    assert titles[:5] == wanted
    assert listed.currentRow() == 1, "the arrangement comes first"
    paper.turn_to("Exploded view")
    picture = paper.page.view.grab().toImage()
    colours = {
        picture.pixelColor(x, y).name()
        for x in range(0, picture.width(), 3)
        for y in range(0, picture.height(), 3)
    }
    assert "#ffffff" in colours and len(colours) > 4
    paper.qtbot.mouseClick(paper.child(QPushButton, "sheets_back"), LEFT)
    assert paper.window.stage.isVisible() and not paper.page.isVisible()


def test_a_dimension_is_dragged_hidden_shown_and_undone(paper: Paper) -> None:
    view = paper.page.view
    before, spot = paper.sizes()["width"], paper.spot("width")
    QTest.mousePress(view, LEFT, pos=spot)
    for down in (8, 16, 24):
        QTest.mouseMove(view, spot + QPoint(0, down))
    QTest.mouseRelease(view, LEFT, pos=spot + QPoint(0, 24))
    paper.drawn()
    after = paper.sizes()["width"]
    assert before.line - after.line == pytest.approx(24 / view.scale, abs=0.02)
    assert after.value == before.value
    assert view.picked == "arrangement/width"
    view.setFocus()
    paper.qtbot.keyClick(view, Qt.Key.Key_Delete)
    paper.drawn()
    assert "width" not in paper.sizes()
    ticks = paper.child(QListWidget, "sheets_dimensions")
    (row,) = [k for k in range(ticks.count()) if ticks.item(k).text() == "width"]
    assert ticks.item(row).checkState() is Qt.CheckState.Unchecked
    box = ticks.visualItemRect(ticks.item(row))
    paper.qtbot.mouseClick(ticks.viewport(), LEFT, pos=QPoint(box.left() + 12, box.center().y()))
    paper.drawn()
    assert paper.sizes()["width"].line == pytest.approx(after.line)
    for _ in range(3):
        paper.qtbot.keyClick(paper.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        paper.drawn()
    assert paper.sizes()["width"] == before
    assert not paper.window.workbench.session.is_changed


def test_what_is_said_stands_on_the_sheets_and_in_the_file(
    paper: Paper, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    paper.enter("sheets_revision", "B")
    paper.enter("sheets_drawn_by", "Fernhill workshop")
    box = paper.child(QComboBox, "sheets_paper")
    box.setFocus()
    paper.qtbot.keyClick(box, Qt.Key.Key_Down)
    box.activated.emit(box.currentIndex())
    paper.drawn()
    assert paper.window.workbench.session.document.sheets.paper == "A2"
    target = tmp_path / "set of sheets.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    paper.qtbot.mouseClick(paper.child(QPushButton, "sheets_write"), LEFT)
    until(target.exists)
    until(lambda: "Written" in paper.child(QLabel, "record_done").text())
    pages = pdfium.PdfDocument(target.read_bytes())
    words = pages[1].get_textpage().get_text_range()
    assert "Fernhill workshop" in words and "General arrangement" in words
    saved = tmp_path / "kept.anakinema"
    paper.window.workbench.session.save(saved)
    assert read_document(saved).sheets.revision == "B"


def test_issued_sheets_say_in_the_list_what_changed(paper: Paper) -> None:
    paper.enter("sheets_revision", "A")
    paper.press("sheets_issue")
    assert "all sheets are as they were" in paper.child(QLabel, "sheets_issued").text()
    document = paper.window.workbench.session.document
    part = next(p for p in document.parts if p.id == "rocker")
    length = next(d for d in part.dimensions if d.id == "length").value
    paper.window.workbench.do_once(SetDimension("rocker", "length", f"{length} + 2 mm"))
    paper.drawn()
    listed = paper.child(QListWidget, "sheets_list")
    texts = [listed.item(k).text() for k in range(listed.count())]
    (rocker,) = [text for text in texts if " rocker" in text]
    assert " to " in rocker.partition("\n")[2]
    assert "are otherwise" in paper.child(QLabel, "sheets_issued").text()


def test_a_dimension_between_two_places_is_added_and_taken_away(paper: Paper) -> None:
    paper.press("sheets_add")
    assert "part on show" in str(paper.window.workbench.trouble)
    title = next(s.title for s in paper.page.sheets if s.leaf.key == "part/rocker")
    paper.turn_to(title)
    before = set(paper.sizes())
    paper.press("sheets_add")
    (new,) = set(paper.sizes()) - before
    ticks = paper.child(QListWidget, "sheets_dimensions")
    rows = [
        k for k in range(ticks.count()) if ticks.item(k).text().startswith(new.replace("_", " "))
    ]
    paper.qtbot.mouseClick(
        ticks.viewport(), LEFT, pos=ticks.visualItemRect(ticks.item(rows[0])).center()
    )
    paper.press("sheets_remove")
    assert set(paper.sizes()) == before
