"""Frames of the depth view, against painting the flat stage of the same mechanism."""

from __future__ import annotations

import tempfile
import time
from functools import partial
from pathlib import Path

from anakinema.document import model as m
from anakinema.parts.shelf import recipe
from anakinema.resources import demo_path
from anakinema.ui.app import application, make_window
from anakinema.ui.window import MainWindow
from bench.timing import median_ms

WIDE, HIGH = 1280, 800


def _stack(count: int) -> m.Document:
    """Links, plates with holes and toothed wheels of 16 to 40 teeth, in layers that spread out."""
    parts: list[m.Part] = []
    bodies: list[m.Body] = []
    for k in range(count):
        kind = k % 3
        if kind == 0:
            part = recipe("link").part(f"part_{k}", length=f"{60 + k} mm")
        elif kind == 1:
            part = recipe("plate").part(f"part_{k}")
        else:
            outline = m.ToothedWheel(
                shape="toothed_wheel", teeth=16 + k * 24 // count, module="2 mm"
            )
            bore = m.Hole(id="bore", outline=m.Circle(shape="circle", radius="5 mm"))
            slab = m.Slab(id="wheel", bottom=0, top="8 mm", outline=outline, holes=(bore,))
            part = m.Part(id=f"part_{k}", slabs=(slab,))
        parts.append(part)
        row, column = divmod(k, 10)
        pose = m.Pose(x=f"{column * 46} mm", y=f"{row * 60} mm", angle=f"{17 * k} deg")
        bodies.append(m.Body(id=f"body_{k}", part=part.id, pose=pose, height=f"{9 * (k % 5)} mm"))
    bodies[0] = bodies[0].model_copy(update={"fixed": True})
    return m.Document(name="stack", parts=tuple(parts), bodies=tuple(bodies))


def _shown(window: MainWindow, document: m.Document) -> None:
    app = application()
    window.resize(WIDE + 20, HIGH + 160)
    window.show()
    window.workbench.session.start(document)
    window.workbench.begin()
    until = time.monotonic() + 60
    while window.workbench.busy and time.monotonic() < until:
        app.processEvents()
    window.fold("left", "right", "strip")
    app.processEvents()


def frames() -> list[str]:
    """12, 20 and 60 bodies: turned by a little each time, and at rest."""
    app, lines = application(), []
    for count in (12, 20, 60):
        with tempfile.TemporaryDirectory() as folder:
            window = make_window(Path(folder))
            _shown(window, _stack(count))
            window.stage.fit()
            flat, _ = median_ms(window.stage.repaint, 20)
            begin = time.perf_counter()
            window.pair.turn()
            view = window.pair.deep
            view.repaint()
            first = 1000.0 * (time.perf_counter() - begin)
            app.processEvents()
            view.fit()
            middle = view.space.box().mean(axis=0)

            moving, spread = median_ms(partial(_turned, view, middle), 30)
            view._come_to_rest()
            rest, _ = median_ms(view.repaint, 20)
            size = f"{view.width()}x{view.height()}"
            corners = len(view.drawer.meshes_near(*_seen(view)).faces.corners)
            window.workbench.session.start(window.workbench.session.document)
            window.close()
        asked = {12: "", 20: " (at most 33)", 60: " (at most 66)"}[count]
        lines.append(
            f"{count} bodies, {corners} triangles at {size}: turning {moving:.1f} ± {spread:.1f} ms"
            f"{asked}, at rest {rest:.1f} ms, the flat stage {flat:.1f} ms;"
            f" first switch into depth {first:.0f} ms (at most 700)"
        )
    return [*lines, _playing()]


def _playing() -> str:
    """The transfer head while it plays in depth: new poses, all regions of the window."""
    app = application()
    with tempfile.TemporaryDirectory() as folder:
        window = make_window(Path(folder))
        window.resize(WIDE, HIGH)
        window.show()
        window.open_path(demo_path("transfer-head"))
        until = time.monotonic() + 60
        while (window.workbench.busy or not window.workbench.lanes) and time.monotonic() < until:
            app.processEvents()
        window.pair.turn()
        app.processEvents()
        window.pair.deep.fit()
        progress = iter(range(10_000))

        def frame() -> None:
            window.workbench.move_playhead((next(progress) % 700) / 700)
            app.processEvents()

        taken, spread = median_ms(frame, 60)
        window.close()
    return f"a frame of the whole window while 12 bodies play: {taken:.1f} ± {spread:.1f} ms"


def _turned(view, middle) -> None:  # type: ignore[no-untyped-def]
    view.look_at(view.camera.turned(0.02, 0.003, middle))
    view.repaint()


def _seen(view):  # type: ignore[no-untyped-def]
    return view.workbench.scene, view.camera
