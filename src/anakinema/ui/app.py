"""Start the application."""

from __future__ import annotations

import os
import signal
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_state_path
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from anakinema.resources import application_icon
from anakinema.ui import roles
from anakinema.ui.desk import Desk
from anakinema.ui.opening import Opening
from anakinema.ui.theme import font, load_fonts
from anakinema.ui.window import MainWindow

if TYPE_CHECKING:
    from anakinema.session import Calculator


def state_folder() -> Path:
    """Where settings and recovery files are kept; ANAKINEMA_STATE overrides it."""
    override = os.environ.get("ANAKINEMA_STATE")
    return Path(override) if override else user_state_path("anakinema", appauthor=False)


def application() -> QApplication:
    """The application object with its fonts and style."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    app.setApplicationName("Anakinema")
    app.setDesktopFileName("anakinema")
    app.setStyle("Fusion")
    load_fonts()
    roles.install()
    app.setFont(font())
    app.setWindowIcon(QIcon(str(application_icon())))
    return app


def make_window(folder: Path, calculator: Calculator | None = None) -> MainWindow:
    """A window on a state folder with all its regions at once; without a ``calculator``
    everything is computed in a thread of it."""
    from anakinema.ui.regions import furnish  # loads the core, which `run` does beside the window

    window = MainWindow(Desk(folder))
    furnish(window, calculator)
    return window


def run(path: Path | None) -> int:
    """Open the window, with a file if one is given, and stay until it is closed."""
    # Ctrl+C in the terminal ends it at once, as a kill does; the next start offers unsaved work.
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    app = application()
    window = MainWindow(Desk(state_folder()))
    if path is not None:
        window.expect(path)
    window.dress()
    window.show()
    opening = Opening(window, path)
    status = app.exec()
    opening.leave()
    return status
