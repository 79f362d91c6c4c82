"""The depth view by mouse and keys: turned, cut, pulled apart, and worked on."""

from __future__ import annotations

import math

import numpy as np
import pytest
from defusedxml import ElementTree
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu, QPushButton, QSlider, QSpinBox

from anakinema.authoring import all_snaps
from anakinema.depth import NoGraphicsError
from anakinema.files.native import read_document
from anakinema.record.bodies_in_space import COLOURS
from anakinema.ui.depth import drawing, plumb
from anakinema.ui.depth.measuring import FaceTool
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import CONTROL, LEFT, SHIFT, Hand, hand  # noqa: F401
from tests.waiting import until

RIGHT, MIDDLE = Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton


class Deep(Hand):
    """Mouse and keys on the depth view."""

    @property
    def view(self):  # type: ignore[no-untyped-def]
        return self.window.pair.deep

    def press(
        self, key: Qt.Key, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        self.window.activateWindow()
        until(self.window.isActiveWindow)
        self.qtbot.keyClick(self.view, key, keys)

    def move(self, point: QPointF | QPoint) -> None:
        self.qtbot.mouseMove(self.view, _whole(point))

    def tap(self, point: QPointF | QPoint, button=LEFT) -> None:  # type: ignore[no-untyped-def]
        self.move(point)
        self.qtbot.mouseClick(self.view, button, pos=_whole(point))

    def pull(self, start, *way, button=LEFT, release: bool = True, keys=None) -> None:  # type: ignore[no-untyped-def]
        held = keys or Qt.KeyboardModifier.NoModifier
        self.qtbot.mousePress(self.view, button, held, pos=_whole(start))
        for point in way:
            # A test's own move knows nothing of the keys that are held.
            self.qtbot.mouseMove(self.view, _whole(point))
        if release:
            self.qtbot.mouseRelease(self.view, button, held, pos=_whole(way[-1]))

    def seen(self, x: float, y: float, z: float) -> QPointF:
        return self.view.seen_at(np.array([x, y, z]))

    def rim(self, body: str, place: str, rise: float, turn: float) -> QPointF:
        """A pixel on the rim of a round at a place, ``rise`` above the body's datum."""
        snaps = all_snaps(self.bench.scene.resolved, self.bench.shown_poses())
        at = next(s for s in snaps if (s.body, s.snap.place.id) == (body, place))
        index = self.bench.scene.index(body)
        round_ = min(
            (r for r in self.view.space.rounds
             if r.body == index and math.hypot(r.x - at.snap.x, r.y - at.snap.y) < 1e-6),
            key=lambda r: r.radius,
        )  # fmt: skip
        return self.seen(
            at.x + round_.radius * math.cos(turn),
            at.y + round_.radius * math.sin(turn),
            self.view.space.height_of(body) + rise,
        )


def _whole(point: QPointF | QPoint) -> QPoint:
    return QPoint(round(point.x()), round(point.y()))


@pytest.fixture
def deep(qtbot, window, settled) -> Deep:  # type: ignore[no-untyped-def]
    """An empty stage, with the keys to go into depth."""
    found = Deep(qtbot, window, settled)
    found.press_button("start_blank")
    return found


def two_links(deep: Deep) -> None:
    """A base with two pins, and a link that lies beside it."""
    deep.place("base with two pins", 0, 0, spacing="100 mm", pin_length="10 mm")
    deep.place("link", -20, 90, length="80 mm")


def turn_deep(window, qtbot):  # type: ignore[no-untyped-def]
    """By its key into depth, and all of it on show."""
    qtbot.keyClick(window.stage, Qt.Key.Key_W)
    view = window.pair.deep
    # As large as it will be, before anything is aimed at.
    until(lambda: view.isVisible() and view.parentWidget().width() == window.middle.width())
    QApplication.processEvents()
    assert not window.stage.isVisible() and view.space.size == (view.width(), view.height())
    view.fit()
    return view


def into_depth(deep: Deep) -> None:
    turn_deep(deep.window, deep.qtbot)


def test_one_key_turns_into_depth_and_back_and_keeps_place_size_and_selection(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("vent-opener")
    bench = window.workbench
    bench.select(Selection("body", bench.session.document.bodies[1].id))
    bench.move_playhead(bench.playback.last / 3)
    window.stage.zoom(1.7)
    before, progress, selection = window.stage.view, bench.progress, bench.selection
    qtbot.keyClick(window.stage, Qt.Key.Key_W)
    view = window.pair.deep
    assert view.isVisible() and not window.stage.isVisible() and view.hasFocus()
    assert view.camera.scale == before.scale
    assert view.camera.target[:2] == pytest.approx((before.x, before.y))
    assert (bench.progress, bench.selection) == (progress, selection)
    qtbot.keyClick(view, Qt.Key.Key_1)
    middle = view.space.box()[:, 2].mean()
    # Square from above a place is where the stage has it.
    x, y = 12.0, -7.0
    deep_at = view.seen_at(np.array([x, y, middle]))
    qtbot.keyClick(view, Qt.Key.Key_W)
    assert window.stage.isVisible() and not view.isVisible()
    flat_at = window.stage.to_pixels(x, y)
    assert window.stage.view.scale == before.scale
    shift = (window.stage.width() - view.width()) / 2, (window.stage.height() - view.height()) / 2
    assert flat_at.x() == pytest.approx(deep_at.x() + shift[0], abs=1.0)
    assert flat_at.y() == pytest.approx(deep_at.y() + shift[1], abs=1.0)
    qtbot.keyClick(window.stage, Qt.Key.Key_W, SHIFT)
    assert window.stage.isVisible() and view.isVisible() and window.pair.is_both
    qtbot.keyClick(view, Qt.Key.Key_W, SHIFT)
    assert window.stage.isVisible() and not view.isVisible()


def test_what_is_under_the_pointer_stays_while_it_is_turned_and_zoomed(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("vent-opener")
    deep = Deep(qtbot, window, lambda _: None)
    view = turn_deep(window, qtbot)
    spot = next(
        QPoint(x, y)
        for x in range(40, view.width() - 120, 9)
        for y in range(40, view.height() - 40, 9)
        if view.hit_at(QPointF(x, y)) is not None
    )
    hit = view.hit_at(QPointF(spot))
    turn, tilt = view.camera.turn, view.camera.tilt
    deep.pull(spot, spot + QPoint(60, 0), spot + QPoint(60, 25), button=RIGHT)
    assert view.camera.turn != turn and view.camera.tilt > tilt
    assert view.seen_at(hit.point).toPoint() == spot
    for perspective in (False, True):
        if view.camera.is_perspective != perspective:
            qtbot.keyClick(view, Qt.Key.Key_5)
        hit = view.hit_at(QPointF(spot))
        scale = view.camera.scale
        wheel(view, spot, 240)
        assert view.camera.scale > scale
        at = view.seen_at(hit.point)
        assert math.hypot(at.x() - spot.x(), at.y() - spot.y()) < 1.0
    before = view.camera.target
    deep.pull(spot, spot + QPoint(30, 10), button=MIDDLE)
    assert view.camera.target != before


def wheel(view, at: QPoint, turn: int) -> None:  # type: ignore[no-untyped-def]
    from PySide6.QtGui import QWheelEvent

    QApplication.sendEvent(
        view,
        QWheelEvent(
            QPointF(at), QPointF(view.mapToGlobal(at)), QPoint(), QPoint(0, turn),
            Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase, False,
        ),
    )  # fmt: skip


def test_keys_buttons_and_the_plumb_look_square_along_from_a_corner_and_from_below(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("vent-opener")
    deep = Deep(qtbot, window, lambda _: None)
    view = turn_deep(window, qtbot)
    for key, name, tilt in (
        (Qt.Key.Key_1, "square", math.pi / 2),
        (Qt.Key.Key_2, "edge", 0.0),
        (Qt.Key.Key_4, "below", -math.pi / 2),
        (Qt.Key.Key_3, "corner", math.radians(40)),
    ):
        qtbot.keyClick(view, key)
        assert view.camera.tilt == pytest.approx(tilt)
        qtbot.keyClick(view, Qt.Key.Key_Up, SHIFT)
        button = window.findChild(QPushButton, f"depth_{name}")
        qtbot.mouseClick(button, LEFT)
        assert view.camera.tilt == pytest.approx(tilt)
    middle = plumb.plumb_middle(view.width(), view.height())
    ring = middle - QPointF(0, plumb.LINE * math.cos(view.camera.tilt))
    deep.tap(ring)
    assert view.camera.tilt == pytest.approx(math.pi / 2)
    deep.tap(middle)
    assert view.camera.tilt == pytest.approx(math.radians(40))
    deep.tap(middle + QPointF(0, plumb.LINE * math.cos(view.camera.tilt)))
    assert view.camera.tilt == pytest.approx(-math.pi / 2)
    deep.tap(middle)
    rim = middle + QPointF(plumb.DISC, 0)
    deep.tap(rim)
    assert view.camera.tilt == pytest.approx(0.0)
    turn = view.camera.turn
    deep.pull(middle + QPointF(8, 12), middle + QPointF(30, 12), middle + QPointF(58, 12))
    assert view.camera.turn != turn


def test_bodies_and_joints_are_picked_where_they_are_seen(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("plug-press")
    deep = Deep(qtbot, window, lambda _: None)
    bench, view = window.workbench, turn_deep(window, qtbot)
    for axis in view.space.axes()[:3]:
        deep.tap(axis.near)
        assert bench.selection.kind == "joint"
    seen = set()
    for x in range(20, view.width() - 110, 11):
        for y in range(20, view.height() - 20, 11):
            wanted = view.thing_at(QPointF(x, y))
            if wanted.kind == "body" and wanted.id not in seen:
                seen.add(wanted.id)
                deep.tap(QPoint(x, y))
                assert bench.selection == wanted
    assert len(seen) >= 5
    # From below other bodies are met first.
    qtbot.keyClick(view, Qt.Key.Key_4)
    spot = QPointF(view.seen_at(view.space.box().mean(axis=0)))
    assert view.hit_at(spot) is not None and view.hit_at(spot).normal[2] < 0


def test_a_right_click_gives_the_menu_of_what_is_there_and_a_right_drag_none(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("plug-press")
    deep = Deep(qtbot, window, lambda _: None)
    view, bench = turn_deep(window, qtbot), window.workbench
    asked: list[Selection] = []
    bench.menu_asked.connect(lambda selection, _: asked.append(selection))
    axis = view.space.axes()[0]
    deep.tap(axis.near, RIGHT)
    assert asked == [Selection("joint", axis.joint)] or asked[0].kind == "joint"
    for menu in window.findChildren(QMenu):
        menu.close()
    spot = _whole(axis.near)
    deep.pull(spot, spot + QPoint(40, 0), spot + QPoint(60, 5), button=RIGHT)
    assert len(asked) == 1


def test_two_rims_are_joined_so_that_those_two_faces_meet(deep: Deep) -> None:
    two_links(deep)
    into_depth(deep)
    bench, view = deep.bench, deep.view
    solid = bench.scene.resolved.part_of(
        bench.scene.resolved.document.bodies[bench.scene.index("link")]
    )
    top = max(slab.top for slab in solid.slabs)
    pins = bench.scene.resolved.part_of(
        bench.scene.resolved.document.bodies[bench.scene.index("base")]
    )
    high = max(slab.top for slab in pins.slabs)
    assert high > top
    deep.command("join")
    near = deep.rim("link", "a", top, -2.2)
    deep.move(near)
    assert view.tool.snap is not None and view.tool.snap.rise == pytest.approx(top)
    assert "near rim" in view.tool._finder.words
    deep.tap(near)
    second = deep.rim("base", "b", high, -2.2)
    deep.tap(second)
    deep.wait_for_join()
    draft = deep.window.drafts.join
    assert draft.wish.stack == pytest.approx(high - top)
    # The ghost stands at the height that will be: the near faces in one plane.
    ghost = draft.proposal.resolved
    heights = {b.id: ghost.heights[k] for k, b in enumerate(ghost.document.bodies)}
    assert heights["link"] + top == pytest.approx(heights["base"] + high)
    deep.press(Qt.Key.Key_Return)
    deep.settled(deep.window)
    scene = bench.scene
    assert scene.resolved.heights[scene.index("link")] + top == pytest.approx(
        scene.resolved.heights[scene.index("base")] + high
    )
    assert bench.session.document.joints[-1].kind == "revolute"
    deep.press(Qt.Key.Key_Z, CONTROL)
    assert not bench.session.document.joints


def test_the_far_rim_of_a_hole_is_another_height(deep: Deep) -> None:
    two_links(deep)
    into_depth(deep)
    bench, view = deep.bench, deep.view
    solid = bench.scene.resolved.part_of(
        bench.scene.resolved.document.bodies[bench.scene.index("link")]
    )
    top, bottom = max(s.top for s in solid.slabs), min(s.bottom for s in solid.slabs)
    view.zoom(3.0)
    view.look_at(view.camera.panned(*(
        float(v) for v in (np.array([view.width(), view.height()]) / 2
                           - np.array([deep.rim("link", "a", top, 0.0).x(),
                                       deep.rim("link", "a", top, 0.0).y()]))
    )))  # fmt: skip
    deep.command("join")
    rises = set()
    for rise in (top, bottom):
        for turn in np.linspace(0, 2 * math.pi, 25):
            deep.move(deep.rim("link", "a", rise, float(turn)))
            snap = view.tool.snap
            if snap is not None and snap.rise is not None:
                rises.add(round(snap.rise, 6))
    assert {round(top, 6), round(bottom, 6)} <= rises


def test_the_arrow_lifts_a_body_until_it_rests_on_another(deep: Deep) -> None:
    two_links(deep)
    into_depth(deep)
    bench, view = deep.bench, deep.view
    bench.select(Selection("body", "link"))
    before = bench.session.document
    foot, tip = view._arrow()
    grab = foot + (tip - foot) * 0.8
    per_mm = view.camera.scale * math.cos(view.camera.tilt)
    base = bench.scene.resolved.part_of(
        bench.scene.resolved.document.bodies[bench.scene.index("base")]
    )
    height = float(bench.scene.resolved.heights[bench.scene.index("link")])
    solid = bench.scene.resolved.part_of(
        bench.scene.resolved.document.bodies[bench.scene.index("link")]
    )
    bottom = min(s.bottom for s in solid.slabs)
    # The face of the base's plate, missed by 3 pixels.
    faces = sorted({s.top for s in base.slabs} - {height + bottom})
    target = faces[-1]
    lift = (target - (height + bottom)) * per_mm
    deep.pull(grab, grab - QPointF(0, lift / 2), grab - QPointF(0, lift + 3))
    deep.settled(deep.window)
    scene = bench.scene
    stands = float(scene.resolved.heights[scene.index("link")])
    mine = {stands + z for s in solid.slabs for z in (s.bottom, s.top)}
    other = {float(scene.resolved.heights[scene.index("base")]) + z
             for s in base.slabs for z in (s.bottom, s.top)}  # fmt: skip
    assert min(abs(a - b) for a in mine for b in other) < 1e-9
    assert stands != height
    deep.press(Qt.Key.Key_Z, CONTROL)
    assert bench.session.document == before


def test_esc_puts_a_lifted_body_back(deep: Deep) -> None:
    two_links(deep)
    into_depth(deep)
    deep.bench.select(Selection("body", "link"))
    before = deep.bench.session.document
    tip = deep.view._arrow()[1]
    deep.pull(tip, tip - QPointF(0, 20), tip - QPointF(0, 50), release=False)
    assert deep.bench.session.document != before
    deep.press(Qt.Key.Key_Escape)
    assert deep.bench.session.document == before
    deep.qtbot.mouseRelease(deep.view, LEFT, pos=_whole(tip))
    assert deep.bench.session.document == before


def test_a_joined_body_is_dragged_at_the_height_where_it_is_held(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("vent-opener")
    deep = Deep(qtbot, window, lambda _: None)
    bench = window.workbench
    bench.go_to_station("Assemble")
    view = turn_deep(window, qtbot)
    document = bench.session.document
    spot, hit = next(
        (QPointF(x, y), found)
        for x in range(30, view.width() - 110, 7)
        for y in range(30, view.height() - 30, 7)
        if (found := view.hit_at(QPointF(x, y))) is not None
        and found.face == "top"
        and not document.bodies[found.body].fixed
        and view.thing_at(QPointF(x, y)).kind == "body"
        and not view.snaps_at(type("P", (), {"pixel": QPointF(x, y)})(), 9)
    )
    start = bench.shown_poses().copy()
    goal = spot + QPointF(4, 6)
    deep.pull(spot, spot + QPointF(2, 4), spot + QPointF(3, 6), goal, release=False)
    tried = bench.shown_poses()
    assert np.abs(tried - start).max() > 0.05
    # The grabbed point of the body is under the pointer, as far as the joints let it.
    grabbed = view.tool._trial.grabbed_at()
    at = view.seen_at(np.array([*grabbed, hit.point[2]]))
    assert math.hypot(at.x() - goal.x(), at.y() - goal.y()) <= (
        view.tool._trial.away * view.camera.scale + 1.5
    )
    qtbot.mouseRelease(view, LEFT, pos=_whole(goal))
    assert bench.shown_poses() == pytest.approx(start)


def test_the_cut_is_dragged_and_turned_and_shows_hatched_faces(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("plug-press")
    deep = Deep(qtbot, window, lambda _: None)
    view, bench = turn_deep(window, qtbot), window.workbench
    bench.select(Selection("joint", bench.session.document.joints[0].id))
    qtbot.keyClick(view, Qt.Key.Key_6)
    assert view.section is not None
    assert window.findChild(QPushButton, "depth_section").isChecked()
    base, ball = handle(view)
    through = view.section.through
    deep.pull(base + (ball - base) * 0.5, base + (ball - base) * 0.7, base + ball - base)
    moved = np.subtract(view.section.through, through)
    assert np.linalg.norm(moved) > 1.0
    assert np.linalg.norm(np.cross(moved, view.section.normal)) < 1e-9
    base, ball = handle(view)
    rise = view.section.rise
    deep.pull(ball, ball - QPointF(0, 20), ball - QPointF(10, 45))
    assert view.section.rise != rise
    steps = math.degrees(view.section.rise) / 15
    assert steps == pytest.approx(round(steps))
    qtbot.keyClick(view, Qt.Key.Key_6)
    assert view.section is None


def handle(view):  # type: ignore[no-untyped-def]
    from anakinema.ui.depth.section import SHAFT

    section = view.section
    base = np.asarray(section.through)
    tip = base + section.normal * SHAFT / view.camera.scale
    return view.seen_at(base), view.seen_at(tip)


def test_bodies_are_pulled_apart_and_come_together_again(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("plug-press")
    view = window.pair.deep
    qtbot.keyClick(window.stage, Qt.Key.Key_W)
    slider = window.findChild(QSlider, "depth_apart")
    slider.setFocus()
    qtbot.keyClick(slider, Qt.Key.Key_End)
    apart = view.space.lifts()
    assert apart.max() > 20 and apart.min() == 0.0
    qtbot.keyClick(slider, Qt.Key.Key_PageDown)
    assert view.space.lifts() == pytest.approx(apart * slider.value() / 100)
    qtbot.keyClick(view, Qt.Key.Key_7)
    assert not view.space.lifts().any() and slider.value() == 0


def test_heights_and_distances_of_faces_and_rims_are_measured(deep: Deep) -> None:
    two_links(deep)
    into_depth(deep)
    bench, view = deep.bench, deep.view
    solid = bench.scene.resolved.part_of(
        bench.scene.resolved.document.bodies[bench.scene.index("link")]
    )
    top = max(s.top for s in solid.slabs)
    deep.command("measure")
    tool = view.tool
    assert isinstance(tool, FaceTool)
    for place in ("a", "b"):
        deep.tap(deep.rim("link", place, top, -2.2))
    assert dict(tool.found.values)["in the plane"] == pytest.approx(80.0)
    assert dict(tool.found.values)["height"] == pytest.approx(0.0)
    deep.press(Qt.Key.Key_Escape)
    assert tool.found is None and bench.tool == "measure"
    x, y = deep.point("link.a")
    u, v = deep.point("link.b")
    middle = ((x + u) / 2, (y + v) / 2)
    up = view.space.height_of("link") + top
    deep.tap(deep.seen(*middle, up))
    base = bench.scene.resolved.part_of(
        bench.scene.resolved.document.bodies[bench.scene.index("base")]
    )
    low = min(base.slabs, key=lambda s: s.top)
    (ax, ay), (bx, by) = deep.point("base.a"), deep.point("base.b")
    floor = view.space.height_of("base") + low.top
    deep.tap(deep.seen((ax + bx) / 2, (ay + by) / 2, floor))
    assert tool.found.values == (("height", pytest.approx(abs(up - floor))),)
    assert any("height" in row for row in tool.rows())


def test_what_is_hidden_is_not_seen_nor_met_and_only_what_a_joint_holds_can_be_shown(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("plug-press")
    deep = Deep(qtbot, window, lambda _: None)
    view, bench = turn_deep(window, qtbot), window.workbench
    joint = next(j for j in bench.session.document.joints if j.kind == "revolute")
    bench.select(Selection("joint", joint.id))
    deep.command("show_only")
    shown = {b.id for b in bench.session.document.bodies} - bench.hidden
    assert {joint.first.body, joint.second.body} <= shown
    assert len(shown) < len(bench.session.document.bodies)
    met = set()
    for x in range(5, view.width(), 15):
        for y in range(5, view.height(), 15):
            body = view.body_at(QPointF(x, y))
            met |= {body} if body else set()
    assert met and met <= shown


def test_where_there_is_no_graphics_library_it_is_painted_and_says_so(opened, qtbot, monkeypatch):  # type: ignore[no-untyped-def]
    def none() -> None:
        raise NoGraphicsError("eglInitialize failed")

    monkeypatch.setattr(drawing, "Renderer", none)
    window = opened("vent-opener")
    view = turn_deep(window, qtbot)
    image = view.grab().toImage()
    assert view.drawer.is_painted and "eglInitialize" in view.drawer.trouble
    until(lambda: not window.findChild(QPushButton, "depth_perspective").isEnabled())
    assert colours(image) > 12
    qtbot.keyClick(view, Qt.Key.Key_5)
    assert not view.camera.is_perspective
    # What is met is where it is painted.
    spot = next(
        QPoint(x, y)
        for x in range(40, view.width() - 120, 9)
        for y in range(60, view.height() - 40, 9)
        if view.hit_at(QPointF(x, y)) is not None
    )
    assert image.pixelColor(spot) != QColor(window.workbench.theme.stage)


def colours(image: QImage) -> int:
    return len({image.pixel(x, y) for x in range(0, image.width(), 5)
                for y in range(0, image.height(), 5)})  # fmt: skip


def test_it_plays_and_edits_come_through_and_reopening_shows_the_same(
    opened, qtbot, settled, tmp_path
):  # type: ignore[no-untyped-def]
    window = opened("vent-opener")
    bench, view = window.workbench, window.pair.deep
    qtbot.keyClick(window.stage, Qt.Key.Key_W)
    before = view.grab().toImage()
    bench.move_playhead(bench.playback.last / 2)
    assert view.grab().toImage() != before
    bench.play(True)
    bench.advance(0.2)
    bench.play(False)
    assert view.poses == pytest.approx(bench.shown_poses())
    saved = tmp_path / "kept.anakinema"
    bench.save(saved)
    assert read_document(saved) == bench.session.document
    bench.open(saved)
    settled(window)
    assert view.isVisible() and view.poses is not None
    assert colours(view.grab().toImage()) > 12


def test_both_themes_and_a_window_of_1024_by_700(opened, qtbot):  # type: ignore[no-untyped-def]
    window = opened("transfer-head")
    window.resize(1000, 640)
    view, bench = turn_deep(window, qtbot), window.workbench
    bright = view.grab().toImage()
    bench.desk.switch_theme()
    dark = view.grab().toImage()
    assert bright.pixelColor(5, 5).lightness() > 200 > dark.pixelColor(5, 5).lightness()
    assert window.width() == 1000 and view.width() > 300
    bench.desk.switch_theme()


def test_what_is_on_show_in_depth_is_written_as_png_and_as_lines(
    opened, qtbot, tmp_path, monkeypatch
):  # type: ignore[no-untyped-def]
    window = opened("plug-press")
    view, bench = turn_deep(window, qtbot), window.workbench
    qtbot.keyClick(view, Qt.Key.Key_7)
    bench.go_to_station("Record")
    picture, lines = tmp_path / "depth.png", tmp_path / "depth.svg"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(picture), ""))
    window.findChild(QSpinBox, "picture_width").setValue(2000)
    qtbot.mouseClick(window.findChild(QPushButton, "export_picture"), LEFT)
    image = QImage(str(picture))
    assert image.width() == 2000 and colours(image) > 12
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(lines), ""))
    qtbot.mouseClick(window.findChild(QPushButton, "export_depth"), LEFT)
    tree = ElementTree.parse(lines)
    paths = [node for node in tree.iter() if node.tag.endswith("path")]
    drawn = [node.get("fill") for node in paths]
    # Each body has at least its upper faces in its colour.
    parts = {b.part for b in bench.session.document.bodies}
    hues = {COLOURS[p.colour] for p in bench.session.document.parts if p.id in parts}
    assert hues <= set(drawn)
    # Of the pins apart there are trails, dashed.
    assert any(node.get("stroke-dasharray") for node in paths)
    qtbot.keyClick(view, Qt.Key.Key_7)
    qtbot.mouseClick(window.findChild(QPushButton, "export_depth"), LEFT)
    again = [n for n in ElementTree.parse(lines).iter() if n.tag.endswith("path")]
    assert not any(node.get("stroke-dasharray") for node in again)


def test_a_body_dragged_by_its_rim_onto_another_joins_there(deep: Deep) -> None:
    two_links(deep)
    into_depth(deep)
    solid = deep.bench.scene.resolved.part_of(
        deep.bench.scene.resolved.document.bodies[deep.bench.scene.index("link")]
    )
    top = max(s.top for s in solid.slabs)
    # With nothing selected there are no grips to take hold of instead.
    deep.bench.select(Selection())
    start, goal = deep.rim("link", "a", top, -2.2), deep.rim("base", "a", 10.0, -2.2)
    deep.pull(start, (start + goal) / 2, goal)
    deep.wait_for_join()
    wish = deep.window.drafts.join.wish
    assert (wish.first.body, wish.second.body) == ("link", "base")
    assert wish.stack == pytest.approx(10.0 - top)
    deep.press(Qt.Key.Key_Return)
    deep.settled(deep.window)
    assert deep.bench.session.document.joints[-1].kind == "revolute"
    deep.press(Qt.Key.Key_Z, CONTROL)
    assert not deep.bench.session.document.joints


def test_hardware_seats_itself_on_a_rim_and_nothing_is_met_where_nothing_stands(deep: Deep) -> None:
    deep.place("link", -20, 90, length="80 mm")
    into_depth(deep)
    view = deep.view
    x, y = deep.point("link.a")
    deep.bench.use_tool("place:shelf:spacer")
    solid = deep.bench.scene.resolved.part_of(deep.bench.scene.resolved.document.bodies[0])
    deep.tap(deep.rim("link", "a", max(s.top for s in solid.slabs), -2.2))
    deep.settled(deep.window)
    assert len(deep.bench.session.document.bodies) == 2
    new = deep.bench.selection.id
    assert deep.bench.scene.poses[deep.bench.scene.index(new)][:2] == pytest.approx((x, y))
    while deep.bench.session.document.bodies:
        deep.press(Qt.Key.Key_Z, CONTROL)
    deep.settled(deep.window)
    assert view.hit_at(QPointF(50, 50)) is None and not view.spoken()
    deep.pull(QPoint(60, 60), QPoint(90, 80))
    assert view.grab().toImage().width() > 0
