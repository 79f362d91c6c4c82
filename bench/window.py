"""Repainting the stage."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from anakinema.resources import demo_path
from anakinema.ui.app import application, make_window
from bench.timing import median_ms


def stage_repaint() -> list[str]:
    """The tray shuttle at 900x600, a new pose each time; and only the playhead of the strip."""
    app = application()
    with tempfile.TemporaryDirectory() as folder:
        window = make_window(Path(folder))
        window.resize(1424, 890)
        window.show()
        window.open_path(demo_path("tray-shuttle"))
        until = time.monotonic() + 30
        while (window.workbench.busy or not window.workbench.lanes) and time.monotonic() < until:
            app.processEvents()
        stage = window.stage
        stage.resize(900, 600)
        progress = iter(range(10_000))

        def repaint() -> None:
            window.workbench.move_playhead((next(progress) % 700) / 700)
            stage.repaint()

        taken, spread = median_ms(repaint, 60)
        strip, _ = median_ms(window.strip.lanes.repaint, 60)
        window.close()
    return [
        f"new pose (re-solved exactly) and repaint, 6 bodies of 14 slabs: {taken:.1f} ±"
        f" {spread:.1f} ms (12 bodies: at most 6, aim 3)",
        f"travel strip with only the playhead moved: {strip:.2f} ms",
    ]
