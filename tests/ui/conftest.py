"""A real window on a fresh state folder."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from anakinema.resources import demo_path
from anakinema.ui.app import application, make_window
from anakinema.ui.window import MainWindow
from tests.waiting import until


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    """The application as users get it, with its fonts."""
    return application()


@pytest.fixture
def window(qtbot, qapp: QApplication, tmp_path: Path) -> Iterator[MainWindow]:  # type: ignore[no-untyped-def]
    """The main window, 1280x800, empty."""
    # As at the start of the program: what is put together under a style sheet is polished at
    # every step, which takes four times as long.
    qapp.setStyleSheet("")
    made = make_window(tmp_path / "state")
    made.resize(1280, 800)
    made.show()
    until(lambda: made.windowHandle() is not None and made.windowHandle().isExposed())
    yield made
    made.workbench.session.start(made.workbench.session.document)
    made.close()
    made.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def settled(qtbot) -> Callable[[MainWindow], None]:  # type: ignore[no-untyped-def]
    """Wait until an exact answer with its lanes is on show."""

    def wait(window: MainWindow) -> None:
        bench = window.workbench

        def done() -> None:
            assert not bench.busy
            assert bench.evaluation is not None or bench.trouble is not None

        until(done)

    return wait


@pytest.fixture
def opened(window: MainWindow, settled):  # type: ignore[no-untyped-def]
    """Open a ready mechanism and wait for its verdict."""

    def open_demo(name: str) -> MainWindow:
        window.open_path(demo_path(name))
        settled(window)
        return window

    return open_demo
