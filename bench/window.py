"""Repainting the stage."""

from __future__ import annotations

import itertools
import statistics
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from PySide6.QtWidgets import QWidget
from tests import mechanisms as build
from tests.core.test_drag import chain

from anakinema.authoring import Trial
from anakinema.document import model as m
from anakinema.edits import SetDimension
from anakinema.files import read_document
from anakinema.parts.shelf import recipe
from anakinema.resources import demo_path
from anakinema.session import Calculator
from anakinema.ui.app import application, make_window
from anakinema.ui.workbench import Workbench
from bench.timing import median_ms, scaled_ms

LINKS = 120


def _chain_document() -> m.Document:
    """A chain of drawn links, the first pinned to the frame."""
    document = chain(LINKS)
    link = recipe("link").part("link", length="10 mm", width="5 mm", hole="2 mm")
    parts = tuple(link if part.id == "link" else part for part in document.parts)
    return document.model_copy(update={"parts": parts})


def drag_frame() -> list[str]:
    """One whole frame of dragging the end of a 120-link chain: solve, move, paint."""
    app = application()
    with tempfile.TemporaryDirectory() as folder:
        window = make_window(Path(folder))
        window.resize(1424, 890)
        window.show()
        window.workbench.session.start(_chain_document())
        window.workbench.begin()
        until = time.monotonic() + 60
        while window.workbench.busy and time.monotonic() < until:
            app.processEvents()
        stage, scene = window.stage, window.workbench.scene
        stage.resize(900, 600)
        assert scene is not None
        x, y, _ = scene.poses[LINKS].tolist()
        trial = Trial(scene, LINKS, x, y, frozenset())
        steps = itertools.cycle(range(20))

        def frame() -> None:
            k = next(steps)
            window.workbench.show_trial(trial.pull(x - 2.0 * k, y + 1.0 * k))
            stage.repaint()

        taken, spread = median_ms(frame, 60)
        repaint, _ = median_ms(stage.repaint, 60)
        window.workbench.show_trial(None)
        window.workbench.session.start(window.workbench.session.document)
        window.close()
    return [
        f"dragging {LINKS} drawn links, a whole frame with painting: {taken:.1f} ± {spread:.1f} ms,"
        f" of which painting {repaint:.1f} ms"
    ]


def _wheels_of_four_slabs(count: int, stepped: bool = False) -> m.Document:
    """Driven levers on a base, each of four slabs with a hole, the uppermost the largest; or
    ``stepped``, the lowest, so that a part of each is seen."""
    document = build.wheels(*[(70.0 * (k % 8), 70.0 * (k // 8)) for k in range(count)])
    bore = m.Hole(id="bore", outline=m.Circle(shape="circle", radius=3.0))
    slabs = tuple(
        m.Slab(
            id=f"s{level}",
            bottom=4.0 * level,
            top=4.0 * level + 4.0,
            outline=m.Hull(
                shape="hull", rounds=(m.Round(radius=14 + 2 * k), m.Round(x=20 + k, radius=8))
            ),
            holes=(bore,),
        )
        for level in range(4)
        for k in (3 - level if stepped else level,)
    )
    parts = tuple(
        part.model_copy(update={"slabs": slabs}) if part.id == "wheel" else part
        for part in document.parts
    )
    document = document.model_copy(update={"parts": parts})
    return build.driven(document, *[(f"j{k}", 0.1 * k, 0.1 * k + 1.0) for k in range(count)])


REPAINTS = {(12, False): 6.0, (48, False): 16.0, (48, True): 16.0}
"""ms at most, by bodies and whether all of their slabs are seen."""


def stage_repaint() -> list[str]:
    """The stage at 900x600 after a new pose each time; and only the playhead of the strip."""
    app = application()
    lines = []
    for (count, stepped), most in REPAINTS.items():
        with tempfile.TemporaryDirectory() as folder:
            window = make_window(Path(folder))
            window.resize(1424, 890)
            window.show()
            bench = window.workbench
            bench.session.start(_wheels_of_four_slabs(count, stepped))
            bench.begin()
            until = time.monotonic() + 60
            while (bench.busy or bench.evaluation is None) and time.monotonic() < until:
                app.processEvents()
            window.stage.resize(900, 600)
            progress = itertools.cycle(range(350))

            def repaint(
                bench: Workbench = bench,
                stage: QWidget = window.stage,
                progress: Iterator[int] = progress,
            ) -> None:
                bench.move_playhead(next(progress) / 360)
                stage.repaint()

            taken = scaled_ms(repaint, 60)
            strip, _ = median_ms(window.strip.lanes.repaint, 60)
            bench.session.start(bench.session.document)
            window.close()
        lines.append(
            f"new pose (solved exactly) and repaint, {count} bodies of 4 slabs"
            f"{', all seen' if stepped else ''}: {taken:.1f} ms (at most {most:.0f});"
            f" strip with only the playhead moved: {strip:.2f} ms"
        )
    return lines


def _doubled() -> m.Document:
    """Two tray shuttles side by side, both driven: twelve bodies."""
    document = read_document(demo_path("tray-shuttle"))

    def again(side: m.Side) -> m.Side:
        return side.model_copy(update={"body": f"{side.body}_2"})

    bodies = tuple(b.model_copy(update={"id": f"{b.id}_2", "off": False}) for b in document.bodies)
    joints = tuple(
        j.model_copy(update={"id": f"{j.id}_2", "first": again(j.first), "second": again(j.second)})
        for j in document.joints
    )
    program = document.program
    (driver,) = program.drivers
    other = driver.model_copy(update={"id": "crank_2", "joint": f"{driver.joint}_2"})
    (stage,) = program.stages
    moves = (*stage.moves, stage.moves[0].model_copy(update={"driver": "crank_2"}))
    stages = (stage.model_copy(update={"moves": moves}),)
    both = program.model_copy(update={"drivers": (driver, other), "stages": stages})
    return document.model_copy(
        update={
            "bodies": (*document.bodies, *bodies),
            "joints": (*document.joints, *joints),
            "program": both,
            "requirements": (),
        }
    )


BUSY_EDITS = 8
"""Edits while whose evaluation frames are counted."""


def playing_while_evaluating() -> list[str]:
    """Frames of the whole window while it plays and an edit is being evaluated exactly, against
    the same frames at rest; by the process of the calculator, and by a thread of the window."""
    app = application()
    lines = []
    for by_process in (True, False):
        calculator = Calculator() if by_process else None
        if calculator is not None:
            calculator.start()
            while not calculator.is_ready:
                time.sleep(0.01)
        with tempfile.TemporaryDirectory() as folder:
            window = make_window(Path(folder), calculator)
            window.resize(1280, 800)
            window.show()
            bench = window.workbench

            def settle(bench: Workbench = bench) -> None:
                until = time.monotonic() + 60
                while (bench.busy or not bench.lanes) and time.monotonic() < until:
                    app.processEvents()

            window.open_path(demo_path("geneva-feeder"))
            settle()
            bench.go_to_station("Drive")
            progress = itertools.cycle(range(700))

            def frame(bench: Workbench = bench, progress: Iterator[int] = progress) -> float:
                begin = time.perf_counter()
                bench.move_playhead(next(progress) / 700 * bench.evaluation.motion.last)
                app.processEvents()
                return time.perf_counter() - begin

            idle: list[float] = []
            busy: list[float] = []
            for k in range(BUSY_EDITS):
                idle += [frame() for _ in range(30)]
                bench.do_once(SetDimension("crank", "pin", f"{7.9 + 0.002 * k:.3f} mm"))
                while bench.busy:
                    busy.append(frame())
                settle()
            bench.session.start(bench.session.document)
            window.close()
        if calculator is not None:
            calculator.stop()
        mine, peer = (statistics.median(each) * 1e3 for each in (busy, idle))
        late = statistics.quantiles(busy, n=10)[-1] * 1e3
        lines.append(
            f"by {'a process' if by_process else 'a thread'}: a frame while evaluating"
            f" {mine:.1f} ms (one in ten {late:.0f} or more), at rest {peer:.1f} ms:"
            f" {mine / peer:.2f}x" + (" (at most 1.2x, aim 1.05x)" if by_process else "")
        )
    return lines


def playing() -> list[str]:
    """A frame of the whole window while twelve bodies play: stage, strip, panels."""
    app = application()
    with tempfile.TemporaryDirectory() as folder:
        window = make_window(Path(folder))
        window.resize(1280, 800)
        window.show()
        window.workbench.session.start(_doubled())
        window.workbench.begin()
        until = time.monotonic() + 60
        while (window.workbench.busy or not window.workbench.lanes) and time.monotonic() < until:
            app.processEvents()
        window.workbench.go_to_station("Drive")
        progress = iter(range(10_000))

        def frame() -> None:
            window.workbench.move_playhead((next(progress) % 700) / 700)
            app.processEvents()

        taken, spread = median_ms(frame, 60)
        window.workbench.session.start(window.workbench.session.document)
        window.close()
    return [
        f"a frame of the whole window while 12 bodies play: {taken:.1f} ± {spread:.1f} ms"
        " (30 frames a second: at most 33)"
    ]
