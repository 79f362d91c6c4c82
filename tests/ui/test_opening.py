"""The window stands before the program is loaded, and loses nothing that comes meanwhile."""

from __future__ import annotations

import gc
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from anakinema.resources import demo_path
from anakinema.session import left_behind
from anakinema.ui.desk import Desk
from anakinema.ui.opening import Opening
from anakinema.ui.window import MainWindow
from tests.ui.test_safety import left_by_a_dead_session
from tests.waiting import until

Open = Callable[..., tuple[MainWindow, Opening]]
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def opened_at_once(qapp, tmp_path, monkeypatch) -> Iterator[Open]:  # type: ignore[no-untyped-def]
    """The window as the program starts it, nothing of the rest in it yet."""
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    made: list[tuple[MainWindow, Opening]] = []

    def start(path: Path | None = None) -> tuple[MainWindow, Opening]:
        window = MainWindow(Desk(tmp_path / "state"))
        if path is not None:
            window.expect(path)
        window.dress()
        window.show()
        window.activateWindow()
        until(window.isActiveWindow)
        made.append((window, Opening(window, path)))
        return made[-1]

    yield start
    for window, opening in made:
        if window.is_furnished:
            window.workbench.session.start(window.workbench.session.document)
        window.close()
        opening.leave()
        window.deleteLater()
    gc.unfreeze()


def shown(window: MainWindow, name: str) -> str:
    """What a label says, if it can be seen."""
    label = window.findChild(QLabel, name)
    return label.text() if label is not None and label.isVisible() else ""


def test_the_front_loads_nothing_of_the_core() -> None:
    code = (
        "import pathlib, sys; from anakinema.ui import app; from anakinema.ui.desk import Desk;"
        "from anakinema.ui.window import MainWindow; a = app.application();"
        "w = MainWindow(Desk(pathlib.Path(sys.argv[1]))); w.dress(); w.show(); a.processEvents();"
        "print(*sorted(sys.modules))"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, "/nowhere"], capture_output=True, text=True, check=True
    )
    loaded = done.stdout.split()
    assert "anakinema.ui.start" in loaded
    heavy = ("numpy", "scipy", "pydantic", "shapely", "anakinema.document", "anakinema.session")
    assert not set(heavy) & set(loaded)


def test_a_click_before_all_is_loaded_is_answered(qtbot, opened_at_once: Open) -> None:  # type: ignore[no-untyped-def]
    window, _ = opened_at_once()
    assert not window.is_furnished
    qtbot.mouseClick(window.findChild(QPushButton, "start_blank"), LEFT)
    assert window.is_furnished and window.workbench.has_document
    assert window.stage.isVisible() and not window.start.isVisible()


def test_a_key_before_all_is_loaded_is_answered(qtbot, opened_at_once: Open) -> None:  # type: ignore[no-untyped-def]
    window, _ = opened_at_once()
    assert not window.is_furnished
    qtbot.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    assert window.is_furnished and window.workbench.has_document


def test_all_is_there_soon_without_a_press(opened_at_once: Open) -> None:
    window, opening = opened_at_once()
    choice, before = window.focusWidget(), window.grab().toImage()
    opening.finish()
    assert window.is_furnished and window.grab().toImage() == before, "nothing jumps"
    assert window.start.isVisible() and not window.workbench.has_document
    assert window.focusWidget() is choice and choice.objectName() == "start_guided"
    until(lambda: all(card.is_drawn for card in window.start.cards[:3]))
    assert opening.calculator is not None
    until(lambda: opening.calculator.is_ready)


def test_a_file_that_is_asked_for_is_opened_once_all_is_there(opened_at_once: Open) -> None:
    window, _ = opened_at_once(demo_path("water-pump"))
    assert not window.start.cards[0].isVisible()
    assert "water-pump" in [label.text() for label in window.route.findChildren(QLabel)]
    until(lambda: window.is_furnished and window.workbench.evaluation is not None)
    until(lambda: not window.workbench.busy)
    assert window.route.stations["Check"].words == "all 5 pass"


def test_a_file_that_cannot_be_read_leaves_the_start_page(opened_at_once: Open) -> None:
    window, _ = opened_at_once(Path("/nowhere/shuttle.anakinema"))
    until(lambda: window.is_furnished)
    assert window.start.cards[0].isVisible()
    assert "shuttle.anakinema" in shown(window, "trouble_words")
    assert "Anakinema" in [label.text() for label in window.route.findChildren(QLabel)]


def test_work_left_behind_is_offered_once_all_is_there(tmp_path, opened_at_once: Open) -> None:  # type: ignore[no-untyped-def]
    left_by_a_dead_session(tmp_path / "state", "Half done")
    window, _ = opened_at_once()
    until(lambda: window.is_furnished)
    assert "“Half done” was not saved" in shown(window, "recovery_words")


def test_a_window_closed_before_all_is_loaded_leaves_nothing(
    tmp_path, opened_at_once: Open
) -> None:  # type: ignore[no-untyped-def]
    window, opening = opened_at_once()
    assert window.close()
    opening.leave()
    QApplication.processEvents()
    assert not window.is_furnished and opening.calculator is None
    assert not [thread for thread in threading.enumerate() if thread.name == "loading"]
    assert not list(left_behind(tmp_path / "state" / "recovery"))
