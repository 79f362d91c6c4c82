"""From the command to a usable window, against importing its libraries alone."""

from __future__ import annotations

import subprocess
import sys

from bench.timing import median_ms

LIBRARIES = (
    "import numpy, shapely, pydantic, platformdirs;"
    "from PySide6 import QtCore, QtGui, QtWidgets, QtSvg"
)
WINDOW = (
    "import pathlib, tempfile; from anakinema.ui import app; a = app.application();"
    "w = app.make_window(pathlib.Path(tempfile.mkdtemp())); w.show(); a.processEvents();"
    "w.grab(); w.close()"
)


def window_against_imports() -> list[str]:
    """Fresh processes, warm disk."""

    def run(code: str) -> None:
        subprocess.run([sys.executable, "-c", code], check=True, capture_output=True)

    libraries, _ = median_ms(lambda: run(LIBRARIES), 5)
    window, spread = median_ms(lambda: run(WINDOW), 5)
    return [
        f"start to usable window: {window:.0f} ± {spread:.0f} ms; importing its libraries alone:"
        f" {libraries:.0f} ms; {window / libraries:.2f}x (at most 2x, aim 1.3x)"
    ]
