"""From the command to a usable window, against importing its libraries alone."""

from __future__ import annotations

import ast
import os
import subprocess
import sys
from pathlib import Path

import anakinema
from bench.timing import duel

WINDOW = (
    "import pathlib, tempfile\nfrom anakinema.loading import loading\nwith loading():\n"
    " from anakinema.ui import app\na = app.application();"
    "w = app.make_window(pathlib.Path(tempfile.mkdtemp())); w.show(); a.processEvents();"
    "w.grab(); w.close()"
)


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
    return "\n".join(sorted(lines - {"import anakinema.session"}, key=lambda x: ("PySide" in x, x)))


def window_against_imports() -> list[str]:
    """Fresh processes, warm disk, modules compiled as they are after the first start."""
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def run(code: str) -> None:
        subprocess.run(
            [sys.executable, "-c", code], check=True, capture_output=True, env=environment
        )

    libraries = _library_imports()
    window, peer, ratio = duel(lambda: run(WINDOW), lambda: run(libraries), 4)
    return [
        f"start to usable window: {window:.0f} ms; importing its libraries alone: {peer:.0f} ms;"
        f" {1 / ratio:.2f}x (at most 1.8x, aim 1.3x)"
    ]
