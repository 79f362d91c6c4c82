"""Start the application."""

from __future__ import annotations

import gc
import os
import sys
from pathlib import Path

from platformdirs import user_state_path
from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from anakinema.document.model import Document
from anakinema.resources import application_icon
from anakinema.session import Calculator, Settings
from anakinema.ui import roles
from anakinema.ui.theme import font, load_fonts
from anakinema.ui.window import MainWindow
from anakinema.ui.workbench import Workbench


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
    """A window on a state folder; without a ``calculator`` all is computed in a thread of its."""
    return MainWindow(Workbench(folder, Settings.load(folder), calculator))


def run(path: Path | None) -> int:
    """Open the window, with a file if one is given, and stay until it is closed."""
    app = application()
    calculator = Calculator()
    window = make_window(state_folder(), calculator)
    window.faults.install()
    window.show()
    # Beside the first painting, not before it: the process, and how files are checked.
    QTimer.singleShot(0, calculator.start)
    QTimer.singleShot(0, Document)
    # What start-up made stays for good: spare the collector from walking it at every edit.
    gc.collect()
    gc.freeze()
    if path is not None:
        window.open_path(path)
    status = app.exec()
    calculator.stop()
    return status
