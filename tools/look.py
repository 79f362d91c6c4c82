"""Write one picture of the window.

python tools/look.py OUT DEMO [STATION] [SELECTION] [PROGRESS] [THEME]
"""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QDeadlineTimer, QEventLoop

from anakinema.resources import demo_path
from anakinema.ui.app import application, make_window
from anakinema.ui.window import MainWindow
from anakinema.ui.workbench import Selection


def settle(window: MainWindow, seconds: float = 20.0) -> None:
    """Let the window work until nothing is being computed."""
    app, deadline = application(), QDeadlineTimer(int(seconds * 1000))
    for _ in range(3):
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 50)
    shelf = window.assemble.shelf
    while (
        window.workbench.busy or (shelf.isVisible() and not shelf.is_drawn)
    ) and not deadline.hasExpired():
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 50)
    for _ in range(6):
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 50)


def main(arguments: list[str]) -> None:
    out, demo, station, chosen, progress, theme = (*arguments, *[""] * 6)[:6]
    application()
    with tempfile.TemporaryDirectory() as folder:
        window = make_window(Path(folder))
        if theme == "dark":
            window.workbench.desk.switch_theme()
        window.resize(1280, 800)
        window.show()
        if demo:
            window.open_path(demo_path(demo))
        settle(window)
        if station:
            window.workbench.go_to_station(station)
        if chosen:
            kind, _, name = chosen.partition(":")
            window.workbench.select(Selection(kind, name))
            evaluation = window.workbench.evaluation
            found = [f for f in evaluation.verdict.findings if f.id == name] if evaluation else []
            if found and found[0].progress is not None:
                window.workbench.move_playhead(found[0].progress)
        if progress:
            window.workbench.move_playhead(float(progress))
        settle(window)
        wait = QDeadlineTimer(1500)
        while station == "Drive" and not window.workbench.reach and not wait.hasExpired():
            application().processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 50)
        window.grab().save(out)
        window.close()


if __name__ == "__main__":
    main(sys.argv[1:])
