"""All of the program behind a window, as its users have it."""

from __future__ import annotations

import gc
from pathlib import Path

from PySide6.QtCore import QTimer

from anakinema.document.model import Document
from anakinema.session import Calculator
from anakinema.ui.regions import furnish
from anakinema.ui.window import MainWindow


def make_whole(window: MainWindow, path: Path | None) -> Calculator:
    """Put in the regions, catch mistakes, open a file if one is given; gives the process that
    evaluates for it, which is to be stopped at the end."""
    calculator = Calculator()
    furnish(window, calculator)
    window.faults.install()
    # Beside the painting, not before it: the process, and how files are checked.
    QTimer.singleShot(0, calculator.start)
    QTimer.singleShot(0, Document)
    # What start-up made stays for good: spare the collector from walking it at every edit.
    gc.collect()
    gc.freeze()
    if path is not None:
        window.open_path(path)
    return calculator
