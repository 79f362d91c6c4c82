"""Take the pictures in docs/screenshots from the ready mechanisms: ``make screenshots``."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QDeadlineTimer, QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QScrollArea, QWidget

import look
from anakinema.authoring import all_snaps, placed_at
from anakinema.document import model
from anakinema.edits.kept import SetKept
from anakinema.edits.parts import SetPart
from anakinema.edits.relations import AddRelation
from anakinema.edits.values import SetDimension
from anakinema.parts import material_named
from anakinema.resources import FOLDER as RESOURCES
from anakinema.resources import demo_path
from anakinema.ui.app import application, make_window
from anakinema.ui.depth.view import DepthView
from anakinema.ui.start import StartPage
from anakinema.ui.window import MainWindow
from anakinema.ui.workbench import Selection

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
GUIDE = RESOURCES / "guide"
IN_GUIDE = {
    "start": "start",
    "join-preview": "join",
    "drive": "drive",
    "asking": "check",
    "depth": "depth",
    "changes": "changes",
}
"""Pictures that the guide in the window shows, and their names there."""
VIEWS = {
    "check": ("tray-shuttle", "Check", "finding:post_gap", "", ""),
    "drive": ("vent-opener", "Drive", "joint:hinge", "0.5", ""),
    "record": ("water-pump", "Record", "", "0.2", ""),
}


def _chain_map(window: MainWindow) -> None:
    window.open_path(demo_path("tray-shuttle"))
    look.settle(window)
    window.workbench.go_to_station("Assemble")
    window.assemble.show_page("Map")
    window.workbench.select(Selection("joint", "crank_pin"))


def _start(window: MainWindow) -> None:
    """All miniatures drawn, one of them running."""
    page = window.findChild(StartPage)
    wait = QDeadlineTimer(60_000)
    while not all(card.is_drawn for card in page.cards) and not wait.hasExpired():
        look.settle(window, 0.1)
    page.cards[10].setFocus()


def _asking(window: MainWindow) -> None:
    """Two bodies chosen: the sentence says what is so now."""
    window.open_path(demo_path("tray-shuttle"))
    look.settle(window)
    window.workbench.select(Selection("body", "push_rod", ("guard_post",)))
    wait = QDeadlineTimer(10_000)
    while window.bar.asking.now is None and not wait.hasExpired():
        look.settle(window, 0.1)


def _changes(window: MainWindow) -> None:
    """What would let the failing gap pass, as it is found."""
    window.open_path(demo_path("tray-shuttle"))
    look.settle(window)
    bench = window.workbench
    bench.select(Selection("finding", "post_gap"))
    wait = QDeadlineTimer(60_000)
    while (bench.changes.is_looking or not bench.changes.found) and not wait.hasExpired():
        look.settle(window, 0.1)
    look.settle(window)


def _scroll_to(widget: QWidget) -> None:
    """Bring a part of a drawer into sight, its head at the top."""
    area = widget.parentWidget()
    while not isinstance(area, QScrollArea):
        area = area.parentWidget()
    top = widget.mapTo(area.widget(), QPoint(0, 0)).y()
    area.verticalScrollBar().setValue(top)


def _cam_studio(window: MainWindow) -> None:
    window.open_path(demo_path("cam-dibber"))
    look.settle(window)
    window.assembling.open_cams()
    window.studio.canvas.turn_to(70)


def _half_built(window: MainWindow) -> None:
    """A vent crank of Fernhill Nursery, all joined but for the last pin."""
    bench = window.workbench
    window.new()
    for item, x, y, size, value in (
        ("base", -50, -40, "spacing", "100 mm"),
        ("crank", -120, 60, "throw", "32 mm"),
        ("link", -20, 80, "length", "95 mm"),
        ("link", 70, 50, "length", "70 mm"),
    ):
        edit, body = placed_at(bench.session.document, f"shelf:{item}", x, y)
        bench.do(edit)
        bench.do(SetDimension(bench.session.document.body(body).part, size, value))
        bench.finish_gesture()
    look.settle(window)
    for first, second in (
        ("crank.shaft", "base.a"),
        ("link_2.a", "base.b"),
        ("link.a", "crank.pin"),
    ):
        _pick(window, first, second)
        window.drafts.join.commit()
        look.settle(window)


def _pick(window: MainWindow, *names: str) -> None:
    """Pick places for a join and wait for what it would come to."""
    bench, draft = window.workbench, window.drafts.join
    bench.use_tool("join")
    assert bench.scene is not None
    snaps = {
        f"{s.body}.{s.snap.place.id}": s for s in all_snaps(bench.scene.resolved, bench.scene.poses)
    }
    for name in names:
        draft.pick(snaps[name])
    wait = QDeadlineTimer(10_000)
    while draft.proposal is None and not wait.hasExpired():
        look.settle(window, 0.1)


def _join_preview(window: MainWindow) -> None:
    _half_built(window)
    _pick(window, "link.b", "link_2.b")


def _stack(window: MainWindow) -> None:
    _chain_map(window)
    window.workbench.select(Selection("body", "crank"))
    window.middle.setCurrentWidget(window.stack)


def _outline(window: MainWindow) -> None:
    """The vent lever as a path whose edges run smoothly into one another, drawn in place."""
    window.open_path(demo_path("vent-opener"))
    look.settle(window)
    window.workbench.go_to_station("Assemble")
    window.workbench.select(Selection("body", "vent_lever"))
    window.assembling.edit_outline()
    look.settle(window)
    editor = window.outline
    editor.operate("path")
    look.settle(window)
    key, part = editor.canvas.key, editor.part()
    assert key is not None and part is not None
    edges = [model.Element(kind="edge", slab=key.slab, index=k) for k in range(4)]
    for k in range(4):
        relation = model.Relation(kind="tangent", of=(edges[k], edges[(k + 1) % 4]))
        editor.offer(AddRelation(part.id, relation), k)
        look.settle(window)
    editor.canvas.pick(edges[1])
    editor.canvas.pick(edges[3], more=True)


def _parts(window: MainWindow) -> None:
    """The parts list of the tray shuttle, with materials and numbers of its own."""
    window.open_path(demo_path("tray-shuttle"))
    look.settle(window)
    bench = window.workbench
    bench.go_to_station("Record")
    for progress, name in ((0.15, "tray loaded"), (0.55, "drawn back")):
        bench.move_playhead(progress)
        bench.poses.keep()
        bench.do_once(SetKept("poses", bench.selection.id, "name", name))
    materials = ("plywood", "steel", "steel", "aluminium", "aluminium", "acetal")
    for part, material in zip(bench.session.document.parts, materials, strict=False):
        bench.do_once(SetPart(part.id, "material", material_named(material)))
    bench.do_once(SetPart(bench.session.document.parts[-1].id, "supply", "bought"))
    look.settle(window)
    window.turn_parts()


def _sheets(window: MainWindow) -> None:
    """The transfer head pulled apart on paper."""
    window.open_path(demo_path("transfer-head"))
    look.settle(window)
    window.workbench.go_to_station("Record")
    window.turn_sheets()
    look.settle(window)
    page = window.sheets
    while not page.sheets:
        look.settle(window)
    page.list.setCurrentRow([s.leaf.key for s in page.sheets].index("exploded"))


def _review(window: MainWindow) -> None:
    """Stopped where the gap is too small."""
    window.open_path(demo_path("tray-shuttle"))
    look.settle(window)
    window.review.turn()
    window.review.hold_at(1)


def _in_depth(window: MainWindow, demo: str) -> DepthView:
    """A ready mechanism in depth, all of it on show."""
    window.open_path(demo_path(demo))
    look.settle(window)
    window.workbench.go_to_station("Assemble")
    window.pair.turn()
    look.settle(window)
    window.pair.deep.fit()
    return window.pair.deep


def _depth(window: MainWindow) -> None:
    """The near rims of two holes picked: the ghost at the height where they meet."""
    _half_built(window)
    window.pair.turn()
    look.settle(window)
    view = window.pair.deep
    view.fit()
    bench, draft = window.workbench, window.drafts.join
    bench.use_tool("join")
    assert bench.scene is not None
    for body, place, rise in (("link", "b", 0.0), ("link_2", "b", 6.0)):
        snaps = all_snaps(bench.scene.resolved, bench.scene.poses)
        snap = next(s for s in snaps if (s.body, s.snap.place.id) == (body, place))
        draft.pick(replace(snap, rise=rise, rim="near rim"))
    wait = QDeadlineTimer(10_000)
    while draft.proposal is None and not wait.hasExpired():
        look.settle(window, 0.1)


def _depth_section(window: MainWindow) -> None:
    """Cut open along the crank pin."""
    view = _in_depth(window, "plug-press")
    view.zoom(1.5)
    window.workbench.select(Selection("joint", "crank_pin"))
    view.switch_section()


def _planes(name: str, body: str) -> Callable[[MainWindow], None]:
    """The stage and depth side by side, of a mechanism on several planes."""

    def show(window: MainWindow) -> None:
        window.open_path(demo_path(name))
        look.settle(window)
        window.workbench.go_to_station("Assemble")
        window.workbench.work_on(window.workbench.session.document.planes[1].id)
        window.workbench.select(Selection("body", body))
        window.pair.turn_both()
        look.settle(window)
        window.workbench.move_playhead(0.35)
        window.pair.deep.fit()
        window.stage.fit()

    return show


def _dark(window: MainWindow) -> None:
    """The transfer head in the dark, in perspective, one body chosen."""
    window.workbench.desk.switch_theme()
    view = _in_depth(window, "transfer-head")
    view.switch_perspective()
    view.fit()
    window.workbench.select(Selection("body", "carriage"))
    view.zoom(1.25)


SCENES: dict[str, Callable[[MainWindow], None]] = {
    "start": _start,
    "asking": _asking,
    "changes": _changes,
    "assemble": _chain_map,
    "join-preview": _join_preview,
    "stack": _stack,
    "outline": _outline,
    "depth": _depth,
    "depth-section": _depth_section,
    "planes-bin": _planes("seed-bin", "lid"),
    "planes-rod": _planes("rake-rocker", "rake"),
    "dark": _dark,
    "cam-studio": _cam_studio,
    "parts": _parts,
    "sheets": _sheets,
    "review": _review,
}


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, view in VIEWS.items():
        look.main([str(FOLDER / f"{name}.png"), *view])
    application()
    for name, scene in SCENES.items():
        with tempfile.TemporaryDirectory() as folder:
            window = make_window(Path(folder))
            window.resize(1280, 800)
            window.show()
            look.settle(window)
            scene(window)
            look.settle(window)
            window.grab().save(str(FOLDER / f"{name}.png"))
            window.workbench.session.start(window.workbench.session.document)
            window.close()
    for name, page in IN_GUIDE.items():
        picture = QImage(str(FOLDER / f"{name}.png"))
        small = picture.scaledToWidth(640, Qt.TransformationMode.SmoothTransformation)
        small.convertToFormat(QImage.Format.Format_Indexed8).save(str(GUIDE / f"{page}.png"))


if __name__ == "__main__":
    main()
