"""A real window on a fresh state folder."""

from __future__ import annotations

import zlib
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from anakinema.resources import demo_path
from anakinema.session import Calculator
from anakinema.ui.app import application, make_window
from anakinema.ui.window import MainWindow
from tests.conftest import FULL
from tests.waiting import until


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    """The application as users get it, with its fonts."""
    return application()


@pytest.fixture(scope="session")
def warm() -> Iterator[Calculator]:
    """A process that evaluates for one window after the other."""
    started = Calculator()
    started.start()
    yield started
    started.stop()


@pytest.fixture
def calculator(request: pytest.FixtureRequest) -> Calculator | None:
    """That process, as a user's window has one; in `make test` for a fixed fourth of the tests,
    the others evaluate in a thread, which has less to do for two workers on two cores."""
    wanted = FULL or zlib.crc32(request.node.nodeid.encode()) % 4 == 0
    return request.getfixturevalue("warm") if wanted else None


@pytest.fixture
def window(  # type: ignore[no-untyped-def]
    qtbot, qapp: QApplication, calculator: Calculator | None, tmp_path: Path
) -> Iterator[MainWindow]:
    """The main window, 1280x800, empty."""
    # As at the start of the program: what is put together under a style sheet is polished at
    # every step, which takes four times as long.
    qapp.setStyleSheet("")
    made = make_window(tmp_path / "state", calculator)
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
