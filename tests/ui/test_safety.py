"""Work is never lost: recovery, conflicts over a file, mistakes of the program, as users see it."""

from __future__ import annotations

import os
import sys
import threading
import zlib
from pathlib import Path
from typing import NoReturn

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QListWidget,
    QMessageBox,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.depending import Going
from anakinema.document.model import Document
from anakinema.edits.structure import Remove
from anakinema.edits.values import SetName
from anakinema.errors import FileFormatError, MissingNameError
from anakinema.files.native import read_document, write_document
from anakinema.resources import demo_path
from anakinema.session import Session
from anakinema.ui.app import make_window
from anakinema.ui.fields import QuantityField
from anakinema.ui.inspector.form import Form
from anakinema.ui.reason import Reason
from anakinema.ui.stage.pictures import decoded, picture_from
from anakinema.ui.stage.stack import StackView
from anakinema.ui.window import MainWindow
from anakinema.ui.worker import Worker
from anakinema.wanted import doing, still_wanted
from tests.core.test_journal import WAIT, died
from tests.ui.test_window import LEFT, child, words
from tests.waiting import answering, pressing, until

CONTROL = Qt.KeyboardModifier.ControlModifier


def keys(qtbot, window: QWidget, key: Qt.Key) -> None:  # type: ignore[no-untyped-def]
    """A key with Control, once the window has the keyboard again."""
    window.activateWindow()
    until(window.isActiveWindow)
    qtbot.keyClick(window, key, CONTROL)


def left_by_a_dead_session(folder: Path, name: str) -> None:
    """A journal with two steps, as a process that was killed leaves it."""
    session = Session(folder)
    session.start(read_document(demo_path("water-pump")))
    for text in ("First", name):
        session.do(SetName(text))
        session.finish_gesture()
        assert session.wait_kept(WAIT)
    died(session)


def test_recovery_is_offered_and_taken_up_with_its_undo(qtbot, tmp_path, settled) -> None:  # type: ignore[no-untyped-def]
    folder = tmp_path / "state"
    left_by_a_dead_session(folder, "Half done")
    window = make_window(folder)
    window.show()
    assert "“Half done” was not saved" in words(window, "recovery_words")
    assert "2 steps" in words(window, "recovery_words")
    qtbot.mouseClick(child(window, QPushButton, "recover"), LEFT)
    settled(window)
    assert window.workbench.session.document.name == "Half done"
    assert window.workbench.session.is_changed
    window.setFocus()
    keys(qtbot, window, Qt.Key.Key_Z)
    assert window.workbench.session.document.name == "First"
    assert len(list((folder / "recovery").glob("*.journal"))) == 1
    window.workbench.session.start(window.workbench.session.document)
    window.close()


def test_a_damaged_journal_is_named_and_kept(qtbot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    folder = tmp_path / "state"
    left_by_a_dead_session(folder, "Half done")
    (file,) = (folder / "recovery").glob("*.journal")
    content = file.read_bytes()
    file.write_bytes(content[:-5])
    (folder / "recovery" / "a.journal").write_bytes(b"rubbish\n")
    window = make_window(folder)
    window.show()
    stated = []
    for _ in range(2):
        stated.append(words(window, "recovery_words"))
        qtbot.mouseClick(child(window, QPushButton, "forget_recovery"), LEFT)
    assert any("cut short" in each and "“First”" in each for each in stated)
    assert any("cannot be read" in each for each in stated)
    assert not window.notices.isVisible()
    kept = sorted((folder / "recovery" / "set-aside").iterdir())
    assert [each.read_bytes() for each in kept] == [content[:-5], b"rubbish\n"]
    assert str(kept[1].parent) in words(window, "trouble_words")
    window.close()


def test_a_full_disk_is_shown_and_goes_when_there_is_room(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    window.workbench.journal_stated.emit("no space left on device")
    assert "no space left on device" in words(window, "journal_notice")
    assert window.notices.isVisible()
    window.workbench.journal_stated.emit("")
    assert not window.notices.isVisible()


def test_a_file_changed_by_another_is_asked_about(qtbot, window, settled, tmp_path) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "pump.anakinema"
    pump = read_document(demo_path("water-pump"))
    write_document(pump, path)
    window.open_path(path)
    settled(window)
    bench = window.workbench

    def both_change(name: str) -> None:
        bench.do(SetName(name))
        bench.finish_gesture()
        write_document(pump.model_copy(update={"name": f"Not {name}"}), path)

    both_change("One")
    with answering(pressing("Cancel")):
        keys(qtbot, window, Qt.Key.Key_S)
    assert bench.session.is_changed and read_document(path).name == "Not One"
    with answering(pressing("Keep mine")):
        keys(qtbot, window, Qt.Key.Key_S)
    assert read_document(path).name == "One" and not bench.session.is_changed
    both_change("Two")
    with answering(pressing("Take theirs")):
        keys(qtbot, window, Qt.Key.Key_S)
    assert bench.session.document.name == "Not Two" and not bench.session.is_changed
    keys(qtbot, window, Qt.Key.Key_Z)
    assert bench.session.document.name == "Two"
    both_change("Three")
    with answering(pressing("Save beside, as pump (mine)")):
        keys(qtbot, window, Qt.Key.Key_S)
    assert read_document(path).name == "Not Three"
    assert read_document(tmp_path / "pump (mine).anakinema").name == "Three"
    assert not bench.session.is_changed
    settled(window)


def test_a_file_deleted_while_open_is_asked_about_on_leaving(window, settled, tmp_path) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "pump.anakinema"
    write_document(read_document(demo_path("water-pump")), path)
    window.open_path(path)
    settled(window)
    path.unlink()
    asked: list[str] = []

    def answer(box: QDialog) -> None:
        assert isinstance(box, QMessageBox)
        asked.append(box.text())
        pressing("Save")(box)

    with answering(answer):
        window.open_path(demo_path("side-rods"))
    assert "pump.anakinema has been deleted" in asked[0]
    assert read_document(path).name == "Water pump"
    settled(window)


def test_a_file_open_in_two_windows_is_stated(qtbot, window, settled, tmp_path) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "pump.anakinema"
    write_document(read_document(demo_path("water-pump")), path)
    other = Session(window.workbench.desk.folder)
    other.open(path)
    window.open_path(path)
    settled(window)
    assert "open in another window" in words(window, "shared_notice")
    window.workbench.do(SetName("Mine"))
    other.close()
    keys(qtbot, window, Qt.Key.Key_S)
    assert not window.notices.isVisible()
    assert read_document(path).name == "Mine"


def test_a_mistake_of_the_program_is_told_in_a_line_and_reported(window, opened) -> None:  # type: ignore[no-untyped-def]
    opened("water-pump")
    before = window.workbench.session.document
    old = sys.excepthook
    window.faults.install()
    try:
        error = ZeroDivisionError("in a slot")
        sys.excepthook(ZeroDivisionError, error, None)
        stated = words(window, "trouble_words")
        assert "ZeroDivisionError: in a slot" in stated and "Your work is kept" in stated
        (report,) = (window.workbench.desk.folder / "reports").iterdir()
        assert str(report) in stated
        assert "ZeroDivisionError: in a slot" in report.read_text()
        # What a user can mend is no mistake of the program.
        sys.excepthook(FileFormatError, FileFormatError("bad.", where="file x"), None)
        assert words(window, "trouble_words").startswith("File x: bad.")
        assert len(list((window.workbench.desk.folder / "reports").iterdir())) == 1
    finally:
        sys.excepthook = old
    assert window.workbench.session.document is before


def test_an_override_that_fails_neither_ends_the_program_nor_the_painting(window, opened) -> None:  # type: ignore[no-untyped-def]
    opened("water-pump")
    caught: list[BaseException] = []
    old, sys.excepthook = sys.excepthook, lambda _, error, __: caught.append(error)
    stage = window.stage
    try:
        stage._draw_mechanism = lambda _painter: next(iter(()))
        stage.repaint()
        assert len(caught) >= 1 and isinstance(caught[0], StopIteration)
        del stage._draw_mechanism
        caught.clear()
        stage.repaint()
        assert not caught
    finally:
        sys.excepthook = old


def test_stopping_says_what_was_going_on(qtbot, window, settled) -> None:  # type: ignore[no-untyped-def]
    started = threading.Event()

    def endless():  # type: ignore[no-untyped-def]
        doing("following the motion")
        started.set()
        while True:
            still_wanted()
            yield from ()

    window.open_path(demo_path("water-pump"))
    settled(window)
    bench = window.workbench
    bench._set_busy(True)
    bench._worker.request(endless)
    until(started.is_set)
    keys(qtbot, window, Qt.Key.Key_Period)
    assert "Stopped while following the motion" in words(window, "trouble_words")
    assert not bench.busy


def test_a_task_that_cannot_be_asked_is_left_to_itself() -> None:
    let_go = threading.Event()
    worker = Worker("evaluate")
    answers: list[object] = []
    worker.answered.connect(lambda _, answer: answers.append(answer))
    begun = threading.Event()

    def deaf():  # type: ignore[no-untyped-def]
        begun.set()
        let_go.wait()
        yield "too late"

    worker.request(deaf)
    until(begun.is_set)
    worker.request(lambda: ["newest"])
    until(lambda: answers == ["newest"])
    let_go.set()
    worker.stop()
    until(lambda: sum(t.name == "evaluate" for t in threading.enumerate()) == 0)
    assert answers == ["newest"]


def test_what_the_model_refuses_is_shown_at_the_field_and_in_a_line(qtbot, opened) -> None:  # type: ignore[no-untyped-def]
    window = opened("water-pump")
    before = window.workbench.session.document
    field = child(window, QuantityField, "parameter_throw")
    field.setFocus()
    field.selectAll()
    qtbot.keyClick(field, Qt.Key.Key_Delete)
    assert field.property("wrong") is True
    assert "empty" in words(window, "trouble_words")
    assert window.workbench.session.document is before
    qtbot.keyClicks(field, "33 mm")
    assert field.property("wrong") is False
    assert window.workbench.session.document is not before


def test_playing_goes_on_when_its_only_stage_goes(window, opened, settled) -> None:  # type: ignore[no-untyped-def]
    opened("water-pump")
    bench = window.workbench
    bench.play(True)
    assert bench.is_playing
    driven = bench.session.document.program.drivers[0].joint
    bench.do(Remove(Going(joints=frozenset((driven,)))))
    assert not bench.session.document.program.stages
    settled(window)
    bench.advance(0.016)
    assert not bench.is_playing
    bench.undo()
    settled(window)
    bench.play(True)
    assert bench.is_playing
    bench.play(False)


def test_a_title_on_the_shelf_is_nothing_to_take(qtbot, window, opened) -> None:  # type: ignore[no-untyped-def]
    opened("water-pump")
    window.workbench.go_to_station("Assemble")
    window.assemble.show_page("Parts")
    shelf = child(window, QListWidget, "shelf")
    titles = [k for k in range(shelf.count()) if not shelf.item(k).data(Qt.ItemDataRole.UserRole)]
    assert len(titles) > 2
    shelf.itemClicked.emit(shelf.item(titles[0]))
    assert window.workbench.tool == ""


def test_a_picture_is_what_its_content_says(tmp_path: Path, qapp) -> None:  # type: ignore[no-untyped-def]
    svg = tmp_path / "drawing.png"
    svg.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">'
        f'<image xlink:href="{tmp_path}/secret.png" width="9" height="9"/></svg>'
    )
    huge = QImage(200, 100, QImage.Format.Format_RGB32)
    huge.fill(0)
    sound = tmp_path / "sound.jpg"
    huge.save(str(sound), "PNG")
    content = sound.read_bytes()
    # A header that says 60,000 by 60,000 pixels over the same few bytes.
    bomb = tmp_path / "bomb.png"
    head = b"IHDR" + (60_000).to_bytes(4, "big") * 2 + content[24:29]
    bomb.write_bytes(content[:12] + head + zlib.crc32(head).to_bytes(4, "big") + content[33:])
    pipe = tmp_path / "pipe.png"
    os.mkfifo(pipe)
    for path in (svg, bomb, pipe):
        with pytest.raises(FileFormatError):
            picture_from(path, Document())
    assert picture_from(sound, Document()).name == "sound"
    assert decoded(svg.read_bytes()).isNull()


def test_a_form_outlives_what_it_shows(qtbot, window: MainWindow) -> None:  # type: ignore[no-untyped-def]
    """Whatever kind of row: between undo and the new list, what is gone is asked for in vain."""
    panel = QWidget()
    form = Form(window.workbench, QVBoxLayout(panel))
    known = {"size": "12 mm", "kind": "stop", "on": True}
    refused = MissingNameError("it is gone.", where="contact")

    def gone(_: object) -> NoReturn:
        raise refused

    form.quantity("size", "gone_size", lambda: str(known["size"]), gone)
    form.choice(
        "kind",
        "gone_kind",
        [("stop", "stops"), ("push", "pushes")],
        lambda: str(known["kind"]),
        gone,
    )
    form.check("on", "gone_on", lambda: bool(known["on"]), gone)
    qtbot.addWidget(panel)
    panel.show()
    known.clear()
    field, box = child(panel, QuantityField, "gone_size"), child(panel, QComboBox, "gone_kind")
    qtbot.keyClicks(field, "3")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    qtbot.keyClick(box, Qt.Key.Key_Down)
    child(panel, QCheckBox, "gone_on").click()
    form.refresh()
    assert window.workbench.trouble is refused
    assert field.text().startswith("12 mm")


def test_what_goes_while_it_is_held_in_the_stack_is_let_go(  # type: ignore[no-untyped-def]
    qtbot, opened, settled
) -> None:
    window = opened("water-pump")
    bench = window.workbench
    bench.go_to_station("Assemble")
    window.stage.setFocus()
    qtbot.keyClick(window.stage, Qt.Key.Key_Q)
    settled(window)
    view = child(window, StackView, "stack_view")
    inside = (QPoint(x, y) for y in range(5, view.height(), 5) for x in range(5, view.width(), 5))
    at = next(p for p in inside if view._body_under(QPointF(p)) == "crank")
    qtbot.mousePress(view, LEFT, pos=at)
    qtbot.mouseMove(view, at - QPoint(0, 20))
    bench.do(Remove(Going(bodies=frozenset(("crank",)))))
    settled(window)
    gone = bench.session.document
    qtbot.mouseMove(view, at - QPoint(0, 40))
    qtbot.mouseRelease(view, LEFT, pos=at - QPoint(0, 40))
    assert bench.session.document is gone
    assert all(body.id != "crank" for body in gone.bodies)


def test_a_reason_goes_with_its_field(window, qtbot) -> None:  # type: ignore[no-untyped-def]
    """The field is gone before the reason would have been taken away."""
    field = QuantityField("3 mm", "a_field")
    field.setParent(window)
    field.show()
    field.refuse("it is too long")
    assert [each.text() for each in window.findChildren(Reason)] == ["it is too long"]
    field.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert window.findChildren(Reason) == []
