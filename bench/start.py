"""From the command to a usable window, and to all of it, against importing its libraries alone."""

from __future__ import annotations

import ast
import os
import subprocess
import sys
from pathlib import Path

import anakinema
from bench.timing import duel

PAGE = (
    "import pathlib, tempfile\nfrom anakinema.loading import loading\nwith loading():\n"
    " from anakinema.ui import app\n from anakinema.ui.desk import Desk\n"
    " from anakinema.ui.window import MainWindow\n"
    "a = app.application(); w = MainWindow(Desk(pathlib.Path(tempfile.mkdtemp())))\n"
    "w.dress(); w.show(); a.processEvents(); w.grab()\n"
)
"""The start page stands and is painted; a press is answered as soon as the rest is there."""
WHOLE = (
    "from PySide6.QtCore import QEventLoop\nfrom anakinema.ui.opening import Opening\n"
    "o, wait = Opening(w, None), QEventLoop.ProcessEventsFlag.WaitForMoreEvents\n"
    "while not w.is_furnished: a.processEvents(wait)\nw.grab(); import os; os._exit(0)\n"
)
"""All regions are in the window, which is painted again; what is wanted later still loads."""


def _library_imports() -> str:
    """The imports of other packages that our modules make when they load, Qt's last.

    By name, because Qt's binding and pydantic only load what is asked for by name.
    """
    lines = set()
    for path in Path(anakinema.__file__).parent.rglob("*.py"):
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.ImportFrom):
                foreign = (node.module or "").split(".")[0] not in ("anakinema", "__future__")
            else:
                foreign = isinstance(node, ast.Import)
            if foreign:
                lines.add(ast.unparse(node))
    return "\n".join(sorted(lines, key=lambda x: ("PySide" in x, x)))


def window_against_imports() -> list[str]:
    """Fresh processes, warm disk, modules compiled as they are after the first start."""
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def run(code: str) -> None:
        subprocess.run(
            [sys.executable, "-c", code], check=True, capture_output=True, env=environment
        )

    libraries = _library_imports()
    page, peer, ratio = duel(lambda: run(PAGE), lambda: run(libraries), 4)
    whole, other, slower = duel(lambda: run(PAGE + WHOLE), lambda: run(libraries), 4)
    return [
        f"start to usable window: {page:.0f} ms; importing its libraries alone: {peer:.0f} ms;"
        f" {1 / ratio:.2f}x (at most 1.8x, aim 1.3x)",
        f"start until all that it shows only later is there too: {whole:.0f} ms against"
        f" {other:.0f} ms; {1 / slower:.2f}x",
    ]
