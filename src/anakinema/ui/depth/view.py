"""The mechanism in depth, live: turned in the hand, cut, pulled apart, and worked on.

One long class: a widget with its events of mouse, wheel and keys, as the stage is; what it draws
and what its handles do stand in modules of their own.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QElapsedTimer, QPoint, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from anakinema.analysis import Gap
from anakinema.authoring import PlacedSnap, connection_marks
from anakinema.depth import CORNER, Camera, Hit, Sheet, Sight, shared_in_space, shared_space
from anakinema.document import rod_places, spec_of
from anakinema.errors import FileFormatError
from anakinema.record import depth_picture
from anakinema.session import poses_at
from anakinema.ui.depth import plumb
from anakinema.ui.depth.bodies import DepthBodies
from anakinema.ui.depth.drawing import DepthDrawer, Shot
from anakinema.ui.depth.ground import draw_floor, draw_rim, draw_trails
from anakinema.ui.depth.lifting import LiftArrow
from anakinema.ui.depth.measuring import FaceTool
from anakinema.ui.depth.section import (
    MOVE,
    Section,
    draw_section,
    first_section,
    held_part,
    pulled,
    tilted,
)
from anakinema.ui.depth.space import Space
from anakinema.ui.depth.sweeping import Sweeper
from anakinema.ui.depth.symbols import draw_axes
from anakinema.ui.drafts import Drafts
from anakinema.ui.guarded import guarded
from anakinema.ui.roles import Spoken
from anakinema.ui.stage import overlays
from anakinema.ui.stage.annotations import Annotations
from anakinema.ui.stage.hand import ToolHand
from anakinema.ui.stage.levels import Levels
from anakinema.ui.stage.pictures import PicturePainter
from anakinema.ui.stage.stage import Stage
from anakinema.ui.stage.surface import Pointer
from anakinema.ui.stage.tools.base import Tool
from anakinema.ui.stage.tools.place import ITEM, PlaceTool
from anakinema.ui.stage.tools.select import SelectTool
from anakinema.ui.stage.view import View, nice_step
from anakinema.ui.theme import font
from anakinema.ui.workbench import Selection, Workbench
from anakinema.units import UnitSystem

TURN, KEY_TURN, PAN = 0.008, math.radians(15.0), 40.0
"""Rad for each pixel of a drag, rad for each key, pixels for each key."""
Where = tuple[float, int | None]
"""A height (mm) over the plane of a body; over the plane being worked on, of none."""
REST = 220
"""ms without a change after which the picture is drawn as finely as it can be."""
SLOW = 26.0
"""ms of a whole picture above which it is drawn at half as many pixels while it moves."""
SHEET = 0.22
"""Opacity of spaces that are shown besides bodies."""
LOOKS = {
    plumb.SQUARE: (0.0, math.pi / 2),
    plumb.EDGE: (0.0, 0.0),
    plumb.CORNER: CORNER,
    plumb.BELOW: (0.0, -math.pi / 2),
}
"""Turn and tilt of the looks that a key or a click on the plumb gives."""


@guarded
class DepthView(QWidget):
    """Drag on the paper turns, the wheel zooms; bodies, joints and places are taken as on stage."""

    changed = Signal()
    """How it is looked at: what the bar beside it shows."""
    painted = Signal()

    def __init__(self, workbench: Workbench, drafts: Drafts, stage: Stage) -> None:
        """``stage`` : the flat one, which knows what else is on show."""
        super().__init__()
        self.setObjectName("depth")
        self.setAccessibleName("depth view")
        self.setMinimumSize(160, 120)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        # A menu comes when the button goes up again where it went down: between, it turns.
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.PreventContextMenu)
        self.workbench, self.drafts = workbench, drafts
        self._stage = stage
        self.drawer = DepthDrawer()
        self.space = Space(workbench, self.drawer.meshes_near, lambda: stage.shows_joints)
        self.hidden_edges = self.shows_swept = False
        self.shows_floor = True
        self.notes = Annotations(workbench)
        self._lift = LiftArrow(workbench)
        self._pictures = PicturePainter()
        self._shared: tuple[object, np.ndarray] | None = None
        self._sweeper = Sweeper(workbench.broke.emit, self.update, self)
        self._hovered: int | None = None
        self._held: Where | None = None
        self._over: Where = (0.0, None)
        self._gesture = ""
        self._press: QPointF | None = None
        self._moved = False
        self._about = np.zeros(3)
        self._hand = ToolHand(self, self, FaceTool)  # type: ignore[arg-type]
        self._is_moving, self._cost = False, 0.0
        self._still = QTimer(self)
        self._still.setSingleShot(True)
        self._still.setInterval(REST)
        self._still.timeout.connect(self._come_to_rest)
        self._clock = QElapsedTimer()
        workbench.scene_changed.connect(self._refresh)
        workbench.document_changed.connect(self._document_changed)
        workbench.trial_changed.connect(self._repose)
        workbench.playhead_moved.connect(self._repose)
        workbench.comparison.changed.connect(self.update)
        for happened in (
            workbench.marks_changed,
            workbench.selection_changed,
            workbench.station_changed,
            workbench.trouble_changed,
            workbench.plane_changed,
            stage.look_changed,
        ):
            happened.connect(self.update)

    # What tools ask -----------------------------------------------------------------------------

    @property
    def tool(self) -> Tool:
        """The tool in hand."""
        return self._hand.tool

    @property
    def poses(self) -> np.ndarray | None:
        """(B, 3) poses on show."""
        return self.space.poses

    @property
    def bodies(self) -> DepthBodies | None:
        """What draws ghosts of bodies."""
        return self.space.bodies

    @property
    def units(self) -> UnitSystem | None:
        """Units of the document on show."""
        scene = self.workbench.scene
        return scene.resolved.units if scene is not None else None

    @property
    def view(self) -> View:
        """The part of the plane in the middle of the picture, as the stage would show it."""
        ray = self.camera.ray(self.width() / 2, self.height() / 2, *self._size)
        at = ray.on_plane(self.space.frame_of(None), 0.0)
        x, y = at if at is not None else self.camera.target[:2]
        return View(x, y, self.camera.scale)

    @property
    def camera(self) -> Camera:
        """From where it is looked at."""
        return self.space.camera

    @property
    def section(self) -> Section | None:
        """The plane that cuts it open."""
        return self.space.section

    @property
    def levels(self) -> Levels:
        """Where places are in the picture."""
        return self.space

    def seen_at(self, place: np.ndarray) -> QPointF:
        """The pixel of a place (3,) mm."""
        return self.space.seen_at(place)

    def place_of(self, snap: PlacedSnap) -> np.ndarray:
        """(3,) mm, where a place that was picked is in space."""
        return self.space.place_of(snap)

    def hit_at(self, point: QPointF) -> Hit | None:
        """The face under a pixel."""
        return self.space.hit_at(point)

    def body_at(self, point: QPointF) -> str | None:
        """Id of the body under a pixel."""
        return self.space.body_at(point)

    def thing_at(self, point: QPointF) -> Selection:
        """What a click on a pixel means: a joint before a body."""
        return self.space.thing_at(point)

    def bodies_in(self, box: QRectF) -> list[str]:
        """Ids of the bodies whose every corner lies in a box of pixels."""
        return self.space.bodies_in(box)

    def snaps_at(self, at: Pointer, reach: float) -> tuple[PlacedSnap, ...]:
        """Places near the pointer, rims with their heights."""
        return self.space.snaps_at(at, reach)

    def snapped(self, value: float) -> float:
        """A length (mm) brought to the nearest tenth of the grid."""
        step = self.snapped_step()
        return round(value / step) * step

    def snapped_step(self) -> float:
        """mm; a tenth of the grid."""
        return nice_step(self.camera.scale, 44) / 10

    def to_pixels(self, x: float, y: float) -> QPointF:
        """Where a place is, on the level that the pointer works on."""
        return self._working_level().map(QPointF(x, y))

    # The scene ----------------------------------------------------------------------------------

    @property
    def _size(self) -> tuple[float, float]:
        return self.space.size

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.space.size = float(self.width()), float(self.height())

    def _document_changed(self) -> None:
        if self.workbench.scene is None:
            self.space.forget()
            self._sweeper.forget()
            self.changed.emit()
            self.update()

    def _refresh(self) -> None:
        scene = self.workbench.scene
        if scene is not None and self.isVisible():
            self.space.take(scene)
            self._repose()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self._refresh()

    def _repose(self) -> None:
        if not self.isVisible():
            return
        poses = self.workbench.shown_poses()
        if self.space.poses is not None and poses is not None and self.workbench.is_playing:
            self._stir()
        self.space.take_poses(poses)
        self.update()

    def _stir(self) -> None:
        """It moves: what is drawn may be coarser until it rests."""
        self._is_moving = True
        self._still.start()

    def _come_to_rest(self) -> None:
        self._is_moving = False
        self.update()

    # How it is looked at ------------------------------------------------------------------------

    def look_at(self, camera: Camera) -> None:
        """Look from elsewhere."""
        if camera != self.camera:
            self.space.camera = camera
            self._stir()
            self.update()
            self.changed.emit()

    def turn_to(self, look: str) -> None:
        """Square from above, along the plane, from a corner or from below, about the middle."""
        middle = self.space.box().mean(axis=0)
        x, y, z = (float(v) for v in middle)
        centred = replace(self.camera, target=(x, y, z))
        keep = self.camera if self._middle_is_shown(middle) else centred
        self.look_at(keep.facing(*LOOKS[look], middle))

    def _middle_is_shown(self, middle: np.ndarray) -> bool:
        return QRectF(self.rect()).contains(self.space.seen_at(middle))

    def take_view(self, view: View) -> None:
        """Look at the part of the plane that the stage shows, as large."""
        z = float(self.space.box()[:, 2].mean())
        self.look_at(replace(self.camera, target=(view.x, view.y, z), scale=view.scale))

    def fit(self) -> None:
        """Show all that stands."""
        width, height = self._size
        self.look_at(self.camera.fitted(self.space.box(), width, height, 46.0))

    def zoom(self, factor: float) -> None:
        """Zoom about the middle."""
        width, height = self._size
        self.look_at(self.camera.zoomed(factor, width / 2, height / 2, width, height))

    def switch_perspective(self) -> None:
        """Perspective, or parallel again."""
        if not self.drawer.is_painted:
            self.look_at(replace(self.camera, is_perspective=not self.camera.is_perspective))

    def switch_section(self) -> None:
        """Cut it open through the selected joint or the middle, or close it again."""
        if self.section is not None:
            self.cut(None)
            return
        scene, through = self.workbench.scene, None
        selection = self.workbench.selection
        if scene is not None and self.space.poses is not None and selection.kind == "joint":
            for joint in scene.resolved.document.joints:
                if joint.id == selection.id:
                    x, y, _ = overlays.joint_places(scene.resolved, joint, self.space.poses)[1]
                    body = scene.index(joint.first.body)
                    frame = self.space.frame_of(body)
                    through = frame[:, :3] @ np.array([x, y, 0.0]) + frame[:, 3]
        self.cut(first_section(self.camera, self.space.box(), through))

    def cut(self, section: Section | None) -> None:
        """Cut by another plane, or by none."""
        self.space.section = section
        self._stir()
        self.update()
        self.changed.emit()

    def pull_apart(self, share: float) -> None:
        """Raise bodies off one another along the pins, from not at all to wholly."""
        self.space.share_apart = min(max(share, 0.0), 1.0)
        self._stir()
        self.update()
        self.changed.emit()

    def show_looks(self, **looks: bool) -> None:
        """``hidden_edges``, ``shows_floor`` or ``shows_swept``."""
        for name, on in looks.items():
            setattr(self, name, on)
        self.update()
        self.changed.emit()

    def in_lines(self) -> bytes:
        """As SVG, from where it is looked at; raises `FileFormatError` where nothing stands."""
        scene = self.workbench.scene
        self.space.take_poses(self.workbench.shown_poses())
        if scene is not None:
            self.space.take(scene)
        if self.space.standing is None:
            raise FileFormatError(
                "nothing stands there yet.", where="the depth view", remedy="Wait for its answer."
            )
        scene, poses = self.space.standing
        sight, up = Sight(self.camera.turn, self.camera.tilt), self.space.lifts()
        hidden = self.space.hidden()
        return depth_picture(scene.resolved, poses, up, sight, self.space.trails(), hidden)

    # Events -------------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.0015 ** event.angleDelta().y()
        at = event.position()
        hit = self.space.hit_at(at)
        camera = self.camera
        if hit is not None:
            # What is under the pointer stays there, however deep it is.
            camera = camera.facing(camera.turn, camera.tilt, hit.point)
            before = camera.seen(hit.point, *self._size)
            zoomed = camera.zoomed(factor, at.x(), at.y(), *self._size)
            after = zoomed.seen(hit.point, *self._size)
            self.look_at(zoomed.panned(*(float(v) for v in (before - after)[:2])))
            return
        self.look_at(camera.zoomed(factor, at.x(), at.y(), *self._size))

    def _working(self) -> Where:
        """Where the pointer works: as high as what was pressed, for the grips of a selected body at
        its near face, else as what is under the pointer."""
        if self._held is not None:
            return self._held
        scene, bodies = self.workbench.scene, self.workbench.selection.bodies
        index = scene.index(bodies[0]) if scene is not None and len(bodies) == 1 else None
        if index is not None and not self.workbench.tool:
            return self.space.near_face(index), index
        return self._over

    def _working_level(self) -> QTransform:
        """From where the pointer works to pixels."""
        z, body = self._working()
        return self.space.level(z, self.space.frame_of(body))

    def _pointer(self, event: QMouseEvent) -> Pointer:
        point = event.position()
        where = self._held
        if where is None:
            where = self._over = self._where_under(point)
        ray = self.camera.ray(point.x(), point.y(), *self._size)
        at = ray.on_plane(self.space.frame_of(where[1]), where[0])
        x, y = at if at is not None else self.camera.target[:2]
        self._hand.last = Pointer(point, x, y, event.modifiers())
        return self._hand.last

    def _where_under(self, point: QPointF) -> Where:
        """The height of what is under a pixel; of the plane itself for what is put down on it."""
        if self.workbench.tool.startswith("place"):
            return 0.0, None
        hit = self.space.hit_at(point)
        if hit is not None:
            frame = self.space.frame_of(hit.body)
            return float((hit.point - frame[:, 3]) @ frame[:, 2]), hit.body
        frame = self.space.frame_of(None)
        return float((self.space.box().mean(axis=0) - frame[:, 3]) @ frame[:, 2]), None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        point = event.position()
        self._press, self._moved, self._gesture = point, False, ""
        left = event.button() is Qt.MouseButton.LeftButton
        if event.button() is Qt.MouseButton.MiddleButton:
            self._gesture = "pan"
            return
        middle = plumb.plumb_middle(*self._size)
        on_it = plumb.has_room(*self._size) and plumb.on_plumb(self.camera, middle, point)
        if left and on_it:
            self._gesture, self._about = "plumb", self.space.box().mean(axis=0)
            return
        if left and self.section is not None:
            part = held_part(self.section, self.camera, self._size, point)
            if part is not None:
                self._gesture = f"section {part}"
                return
        if left and self._lift.press(point, self._arrow()):
            self._gesture = "lift"
            return
        if left:
            tool = self.tool
            on_grip = isinstance(tool, SelectTool) and tool.grip_at(point) is not None
            self._held = self._working() if on_grip else self._where_under(point)
            if tool.press(self._pointer(event)):
                self._gesture = "tool"
                return
        hit = self.space.hit_at(point)
        self._about = hit.point if hit is not None else self.space.box().mean(axis=0)
        self._gesture = "turn"

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if self._press is None:
            self._hover(event)
            return
        delta = point - self._press
        if not self._moved and math.hypot(delta.x(), delta.y()) <= 4 and self._gesture != "tool":
            return
        self._moved = True
        if self._gesture == "tool":
            self.tool.move(self._pointer(event))
            return
        if self._gesture == "lift":
            self._lift.pull(point, self.camera, self._size)
            return
        self._press = point
        if self._gesture == "pan":
            self.look_at(self.camera.panned(delta.x(), delta.y()))
        elif self._gesture in ("turn", "plumb"):
            self.look_at(self.camera.turned(-delta.x() * TURN, delta.y() * TURN, self._about))
        elif self.section is not None and self._gesture == f"section {MOVE}":
            self.cut(pulled(self.section, self.camera, self._size, delta))
        elif self.section is not None:
            ray = self.camera.ray(point.x(), point.y(), *self._size)
            free = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.cut(tilted(self.section, self.camera, ray, free=free))

    def _hover(self, event: QMouseEvent) -> None:
        at = self._pointer(event)
        self.tool.move(at)
        hit = self.space.hit_at(at.pixel)
        hovered = hit.body if hit is not None else None
        if hovered != self._hovered:
            self._hovered = hovered
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        gesture, point = self._gesture, event.position()
        if gesture == "tool":
            self.tool.release(self._pointer(event))
        elif gesture == "lift":
            self._lift.let_go()
        elif gesture == "plumb" and not self._moved:
            look = plumb.on_plumb(self.camera, plumb.plumb_middle(*self._size), point)
            if look is not None:
                self.turn_to(look)
        elif gesture == "turn" and not self._moved:
            if event.button() is Qt.MouseButton.RightButton:
                self.workbench.face = self.space.face_at(point)
                self._ask_menu(self.space.thing_at(point), event.globalPosition().toPoint())
                self.workbench.face = None
            elif event.button() is Qt.MouseButton.LeftButton:
                self.tool.release(self._pointer(event))
        self._press, self._held, self._gesture = None, None, ""
        self.update()

    def _ask_menu(self, selection: Selection, at: QPoint) -> None:
        self.workbench.menu_asked.emit(selection, at)

    def leaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().leaveEvent(event)
        if self._hovered is not None:
            self._hovered = None
            self.update()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(ITEM):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A part dragged from the shelf is put down on the plane."""
        item = bytes(event.mimeData().data(ITEM).data()).decode()
        point = event.position()
        ray = self.camera.ray(point.x(), point.y(), *self._size)
        at = ray.on_plane(self.space.frame_of(None), 0.0)
        x, y = at if at is not None else self.camera.target[:2]
        tool = PlaceTool(self, item)
        tool.release(Pointer(point, x, y, Qt.KeyboardModifier.NoModifier))
        event.acceptProposedAction()

    def focusNextPrevChild(self, forward: bool) -> bool:
        # Tab belongs to a tool that uses it before it moves the focus.
        return False if self.tool.wants_tab else super().focusNextPrevChild(forward)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._lift.put_back():
            self._gesture = ""
            return
        if self.tool.key(event):
            return
        steps = {
            Qt.Key.Key_Left: (1, 0),
            Qt.Key.Key_Right: (-1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        key, keys = Qt.Key(event.key()), event.modifiers()
        shift = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        control = bool(keys & Qt.KeyboardModifier.ControlModifier)
        if key in steps and shift and control:
            dx, dy = steps[key]
            self.look_at(self.camera.panned(PAN * dx, PAN * dy))
        elif key in steps and shift:
            # With Shift: plain Left and Right step the motion wherever the focus is.
            dx, dy = steps[key]
            middle = self.space.box().mean(axis=0)
            self.look_at(self.camera.turned(-dx * KEY_TURN, dy * KEY_TURN, middle))
        elif key == Qt.Key.Key_Menu or (key == Qt.Key.Key_F10 and shift):
            self._ask_menu(self.workbench.selection, self.mapToGlobal(self.rect().center()))
        else:
            super().keyPressEvent(event)

    def stop(self) -> None:
        """End the thread."""
        self._sweeper.stop()

    def spoken(self) -> list[Spoken]:
        """Bodies and joints, for those who do not see them."""
        scene = self.workbench.scene
        if scene is None or self.space.poses is None or len(self.space.poses) != len(scene.poses):
            return []
        chosen = self.workbench.selection
        found = []
        for k, body in enumerate(scene.resolved.document.bodies):
            extent = self.space.extent(k)
            box = extent.toRect() if extent is not None else QRect()
            name = f"{body.title}, body{', fixed' if body.fixed else ''}"
            found.append(Spoken(name, box, body.id in chosen.bodies))
        titles = {joint.id: joint for joint in scene.resolved.document.joints}
        for axis in self.space.axes():
            joint, point = titles[axis.joint], axis.near.toPoint()
            box = QRect(point.x() - 8, point.y() - 8, 16, 16)
            name = f"{joint.title}, {spec_of(joint.kind).words} joint"
            found.append(Spoken(name, box, (chosen.kind, chosen.id) == ("joint", joint.id)))
        return found

    # Painting -----------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)
        self.painted.emit()

    def _shot(self) -> Shot:
        """What is to be seen."""
        scene, poses = self.workbench.scene, self.space.poses
        assert scene is not None and poses is not None
        bench, stage = self.workbench, self._stage
        places, raised = self.space.places(), self.space.lifts()
        rods = rod_places(scene.resolved, places)
        standing = np.concatenate([places, rods]) if len(rods) else places
        shot = Shot(scene, poses, raised, standing, self.camera, bench.theme)
        ids = {body.id: k for k, body in enumerate(scene.resolved.document.bodies)}
        chosen = frozenset(ids[body] for body in bench.selection.bodies if body in ids)
        return replace(
            shot,
            selected=chosen,
            hovered=self._hovered,
            hidden=self.space.hidden(),
            each_its_own=stage.each_its_own,
            see_through=stage.see_through,
            hidden_edges=self.hidden_edges,
            cut=self.section.plane if self.section is not None else None,
            sheets=self._sheets(),
        )

    def _sheets(self) -> tuple[Sheet, ...]:
        """What is swept by the selected body, and what the bodies of a finding share."""
        bench, found = self.workbench, []
        scene, evaluation, poses = bench.scene, bench.evaluation, self.space.poses
        if scene is None or evaluation is None or evaluation.resolved is not scene.resolved:
            return ()
        bodies = bench.selection.bodies
        index = scene.index(bodies[0]) if bodies else None
        if self.shows_swept and index is not None:
            swept = self._sweeper.sheet(evaluation, index)
            if swept is not None:
                frame = self.space.frame_of(index)
                found.append(
                    Sheet(_in_space(swept, frame), _seen_through(QColor(bench.theme.accent)))
                )
        finding = self.notes.finding()
        if finding is not None and finding.gap is not None and finding.gap.overlaps:
            gap = finding.gap
            at = poses_at(evaluation, gap.progress)
            colour = overlays.outcome_colour(finding.outcome, bench.theme)
            if poses is not None and np.allclose(at, poses, atol=1e-6):
                if self._shared is None or self._shared[0] is not gap:
                    pair = gap.first_body, gap.second_body
                    self._shared = gap, self._shared_by(gap, at, pair)
                space = self._shared[1]
                if len(gap.first_point) == 2:
                    space = _in_space(space, self.space.frame_of(gap.first_body))
                found.append(Sheet(space, _seen_through(colour, 0.7)))
        return tuple(found)

    def _shared_by(self, gap: Gap, at: np.ndarray, pair: tuple[int, int]) -> np.ndarray:
        """What two bodies share, as their plane has it, or in space; nothing of a rod."""
        scene = self.workbench.scene
        if scene is None or gap.rod is not None:
            return np.zeros((0, 3, 3))
        share = shared_space if len(gap.first_point) == 2 else shared_in_space
        return share(scene.resolved, at, *pair)

    def _arrow(self) -> tuple[QPointF, QPointF] | None:
        if self.space.poses is None or self.workbench.scene is None:
            return None
        return self._lift.ends(self.space.poses, self.space.places(), self.camera, self._size)

    def _paint(self, painter: QPainter) -> None:
        bench = self.workbench
        theme, area = bench.theme, QRectF(self.rect())
        painter.fillRect(self.rect(), QColor(theme.stage))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        standing, bodies = self.space.standing, self.space.bodies
        if standing is None or bodies is None:
            return
        scene, poses = standing
        is_above = self.camera.tilt >= 0.0
        if self.shows_floor and is_above:
            draw_floor(painter, self.space, theme)
        if scene.resolved.pictures:
            self._pictures.draw(painter, self.space.level(0.0, self.space.frame_of(None)), scene)
        painter.drawImage(QRectF(self.rect()), self._image(painter))
        if self.shows_floor and not is_above:
            draw_floor(painter, self.space, theme)
        self._draw_over(painter, bodies, poses)
        self.notes.draw_name(painter, self._hovered)
        self.notes.draw_note(painter, area)
        self._draw_looks(painter)
        if plumb.has_room(*self._size):
            plumb.draw_plumb(painter, self.camera, plumb.plumb_middle(*self._size), theme)
        self.notes.draw_hint(painter, self._words_now(), area)

    def _words_now(self) -> str:
        if self._gesture.startswith("section") and self.section is not None:
            return f"Section {self.section.words}. Shift turns it freely."
        return self.tool.hint

    def _image(self, painter: QPainter) -> QImage:
        """The bodies, at fewer pixels while they move if that would take too long."""
        ratio = painter.device().devicePixelRatioF()
        share = ratio
        if self._is_moving and self._cost > SLOW:
            share = ratio / 2
        width = max(1, round(self.width() * share))
        height = max(1, round(self.height() * share))
        most = 16_000 * 16_000
        if width * height > most:
            share *= math.sqrt(most / (width * height))
            width, height = round(self.width() * share), round(self.height() * share)
        self._clock.start()
        image = self.drawer.image(
            self._shot(), width, height, width / max(self.width(), 1), moving=self._is_moving
        )
        spent = self._clock.nsecsElapsed() / 1e6
        if share == ratio:
            self._cost = spent
        if self._is_moving:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, share == ratio)
        return image

    def _draw_over(self, painter: QPainter, bodies: DepthBodies, poses: np.ndarray) -> None:
        """All that lies over the bodies."""
        bench, stage = self.workbench, self._stage
        scene, theme, selection = bench.scene, bench.theme, bench.selection
        assert scene is not None
        ids = [body.id for body in scene.resolved.document.bodies]
        chosen = frozenset(ids.index(b) for b in selection.bodies if b in ids)
        self.notes.draw_extremes(painter, self.space, bodies)
        bodies.draw_sticks(painter, poses, chosen, (QColor(theme.shade), QColor(theme.accent)))
        overlays.draw_belts(painter, self.space.of(None), scene.resolved, poses, theme, bench.plane)
        if self.space.share_apart > 0.0:
            draw_trails(painter, self.space, theme)
        if stage.shows_joints:
            joint = selection.id if selection.kind == "joint" else ""
            frames = self.space.frames()
            draw_axes(
                painter,
                self.space.axes(),
                scene.resolved,
                poses,
                frames,
                self.camera,
                self._size,
                theme,
                joint,
            )
            if bench.station in ("Assemble", "Drive") and not bench.is_playing:
                marks = connection_marks(scene.resolved, poses, bench.plane)
                picked = selection.kind, selection.id
                overlays.draw_connections(painter, self.space.of(None), marks, theme, picked)
        self.notes.mass.on = stage.notes.mass.on
        self.notes.draw(painter, self.space, bodies, poses, self.camera.scale, QRectF(self.rect()))
        if self.section is not None:
            draw_section(painter, self.section, self.camera, self._size, self.space.box(), theme)
        self._lift.draw(painter, self._arrow(), theme)
        self.tool.paint(painter, self._working_level(), theme)
        snap = getattr(self.tool, "snap", None)
        if isinstance(snap, PlacedSnap) and snap.rise is not None:
            draw_rim(painter, self.space, snap, theme)

    def _draw_looks(self, painter: QPainter) -> None:
        """Said once, where pictures are painted."""
        if not self.drawer.is_painted:
            return
        painter.setFont(font(12))
        painter.setPen(QColor(self.workbench.theme.quiet))
        words = "No graphics library here: painted, in parallel projection, without a section."
        painter.drawText(QRectF(self.rect()).adjusted(12, 30, -12, 0), words)


def _in_space(corners: np.ndarray, frame: np.ndarray) -> np.ndarray:
    """(T, 3, 3) triangles of a plane with a frame."""
    return np.asarray(corners @ frame[:, :3].T + frame[:, 3])


def _seen_through(colour: QColor, share: float = SHEET) -> tuple[float, float, float, float]:
    return colour.redF(), colour.greenF(), colour.blueF(), share
