"""The stage: the mechanism at the present pose, with its findings drawn where they are.

One long class: a widget with its events of mouse, wheel and keys; what it paints and what tools do
stand in modules of their own.
"""

from __future__ import annotations

import math
from functools import partial

import numpy as np
from PySide6.QtCore import QElapsedTimer, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from anakinema.authoring import PlacedSnap, all_snaps, belt_near, connection_marks, snaps_at
from anakinema.document import spec_of
from anakinema.ui.drafts import Drafts
from anakinema.ui.guarded import guarded
from anakinema.ui.roles import Spoken
from anakinema.ui.stage import overlays
from anakinema.ui.stage.annotations import Annotations
from anakinema.ui.stage.beyond import draw_beyond, planes_at
from anakinema.ui.stage.bodies import BodyPainter
from anakinema.ui.stage.hand import ToolHand
from anakinema.ui.stage.levels import Flat, Levels
from anakinema.ui.stage.pictures import PicturePainter
from anakinema.ui.stage.surface import Pointer
from anakinema.ui.stage.tools.base import Tool
from anakinema.ui.stage.tools.measure import MeasureTool
from anakinema.ui.stage.tools.place import ITEM, PlaceTool
from anakinema.ui.stage.view import View, fitted, nice_step
from anakinema.ui.theme import font
from anakinema.ui.workbench import Selection, Workbench
from anakinema.units import LENGTH, UnitSystem

QUICK, ENOUGH = 120, 3
"""ms within which poses follow one another in a motion, and how many of them make one."""
REST = 220
"""ms without another pose after which lines have their whole width again."""
SPOTS = ((12, 4), (30, 2))
"""Places across a body that are tried for a click, and pixels that must be clear round one."""


@guarded
class Stage(QWidget):
    """Shows and picks; drag moves the paper, the wheel zooms."""

    painted = Signal()
    look_changed = Signal()

    def __init__(self, workbench: Workbench, drafts: Drafts) -> None:
        super().__init__()
        self.setObjectName("stage")
        self.setAccessibleName("stage")
        self.setMinimumSize(160, 220)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.workbench = workbench
        self.drafts = drafts
        self._view = View()
        self._is_fitted = self._is_new = True
        self._box: tuple[float, float, float, float] | None = None
        self._bodies: BodyPainter | None = None
        self._poses: np.ndarray | None = None
        self._drag: QPointF | None = None
        self._moved = False
        self._tooled = False
        self.shows_joints = True
        self.each_its_own = self.see_through = False
        self.notes = Annotations(workbench)
        # Runs while poses follow one another; then all is drawn as finely as it can be.
        self._still = QTimer(self)
        self._still.setSingleShot(True)
        self._still.setInterval(REST)
        self._since, self._follow_on = QElapsedTimer(), 0
        self._pose_seen: tuple[float, int] | None = None
        self._still.timeout.connect(self.update)
        self._pictures = PicturePainter()
        self._hand = ToolHand(self, self, MeasureTool)
        self._hovered: int | None = None
        self._grid: tuple[object, QPixmap] | None = None
        workbench.comparison.changed.connect(self.update)
        workbench.scene_changed.connect(self._refresh)
        workbench.document_changed.connect(self._document_changed)
        workbench.trial_changed.connect(self._move)
        workbench.marks_changed.connect(self.update)
        workbench.plane_changed.connect(self.fit)
        workbench.playhead_moved.connect(self._move)
        workbench.selection_changed.connect(self.update)
        workbench.station_changed.connect(self.update)
        workbench.trouble_changed.connect(self.update)
        workbench.selection_changed.connect(self._describe)

    @property
    def view(self) -> View:
        """What part of the plane is shown."""
        return self._view

    @property
    def poses(self) -> np.ndarray | None:
        """(B, 3) poses on show."""
        return self._poses

    @property
    def tool(self) -> Tool:
        """The tool in hand."""
        return self._hand.tool

    @property
    def bodies(self) -> BodyPainter | None:
        """What draws the bodies of the scene."""
        return self._bodies

    @property
    def units(self) -> UnitSystem | None:
        """Units of the document on show."""
        scene = self.workbench.scene
        return scene.resolved.units if scene is not None else None

    def _describe(self) -> None:
        """Say what is selected to those who do not see it."""
        scene, selection = self.workbench.scene, self.workbench.selection
        titles = {}
        if scene is not None:
            document = scene.resolved.document
            titles = {body.id: body.title for body in document.bodies}
            titles |= {joint.id: joint.title for joint in document.joints}
        named = [titles[i] for i in (selection.bodies or (selection.id,)) if i in titles]
        self.setAccessibleDescription(f"selected: {', '.join(named)}" if named else "")

    def snapped(self, value: float) -> float:
        """A length (mm) brought to the nearest tenth of the grid."""
        step = self.snapped_step()
        return round(value / step) * step

    def snapped_step(self) -> float:
        """mm; a tenth of the grid, at most what can be told apart on the stage."""
        return nice_step(self._view.scale, 44) / 10

    def fit_soon(self) -> None:
        """Show all of it once what has just been brought in is drawn."""
        self._is_fitted = self._is_new = True

    def _document_changed(self) -> None:
        if self.workbench.scene is None:
            self._bodies, self._poses = None, None
            self.fit_soon()
            self.update()

    def _refresh(self) -> None:
        scene = self.workbench.scene
        if scene is None:
            return
        self._bodies = BodyPainter(scene.resolved)
        self._repose()
        if self._is_new:
            self.fit()
            # Fitted to what is drawn at first, and once more when the whole motion is known.
            evaluation = self.workbench.evaluation
            self._is_new = evaluation is None and bool(self._bodies.count)

    def _move(self) -> None:
        """Another pose; several in quick succession are a motion, drawn with thin lines."""
        now = (self.workbench.progress, id(self.workbench.trial))
        if now != self._pose_seen:
            follows = self._since.isValid() and self._since.elapsed() < QUICK
            self._follow_on = self._follow_on + 1 if follows else 0
            self._pose_seen = now
            self._since.start()
            if self._follow_on >= ENOUGH:
                self._still.start()
        self._repose()

    def _repose(self) -> None:
        self._poses = self.workbench.shown_poses()
        self.update()

    def fit(self) -> None:
        """Show the whole motion."""
        evaluation, scene = self.workbench.evaluation, self.workbench.scene
        if scene is None or self._bodies is None:
            return
        some = scene.poses[None]
        if evaluation is not None and evaluation.resolved is scene.resolved:
            poses = evaluation.motion.poses
            some = poses[:: max(1, len(poses) // 24)]
        self._box = self._bodies.bounds(some, self.workbench.off_plane())
        self._view = fitted(self._box, self.width(), self.height())
        self._is_fitted = True
        self.update()

    def zoom(self, factor: float) -> None:
        """Zoom about the middle."""
        middle = QPointF(self.width() / 2, self.height() / 2)
        self._view = self._view.zoomed(factor, middle, self.width(), self.height())
        self._is_fitted = False
        self.update()

    def to_pixels(self, x: float, y: float) -> QPointF:
        """Where a place of the plane (mm) is on the stage."""
        return self._view.transform(self.width(), self.height()).map(QPointF(x, y))

    def snaps_at(self, at: Pointer, reach: float) -> tuple[PlacedSnap, ...]:
        """Places within ``reach`` pixels of the pointer, the nearest first."""
        scene, poses = self.workbench.scene, self.workbench.shown_poses()
        if scene is None or poses is None:
            return ()
        found = snaps_at(scene.resolved, poses, at.x, at.y, reach / self._view.scale)
        beyond = self.workbench.off_plane()
        return tuple(snap for snap in found if scene.index(snap.body) not in beyond)

    @property
    def levels(self) -> Levels:
        """From places of the plane to pixels."""
        view = self._view.transform(self.width(), self.height())
        beyond = self.workbench.off_plane()
        return Flat(view, beyond, partial(planes_at, self.workbench) if beyond else None)

    def look(self, **looks: bool) -> None:
        """Show it otherwise: ``shows_joints``, ``each_its_own`` or ``see_through``."""
        for name, on in looks.items():
            setattr(self, name, on)
        self.update()
        self.look_changed.emit()

    def show_view(self, view: View) -> None:
        """Show a part of the plane."""
        self._view, self._is_fitted = view, False
        self.update()

    def spot_of(self, body: str) -> QPointF | None:
        """A pixel at which a click takes a body and nothing else, well inside it."""
        scene = self.workbench.scene
        index = scene.index(body) if scene is not None else None
        if index is None or self._bodies is None or self._poses is None:
            return None
        box = self._bodies.extent(index, self._poses)
        if box is None:
            return None
        middle = self.to_pixels(box.center().x(), box.center().y())
        for count, margin in SPOTS:
            spots = [
                self.to_pixels(
                    box.left() + box.width() * a / count, box.top() + box.height() * b / count
                )
                for a in range(1, count)
                for b in range(1, count)
            ]
            for spot in sorted(spots, key=lambda s: (s - middle).manhattanLength()):
                if self._is_clear(spot, margin, Selection("body", body)):
                    return spot
        return None

    def _is_clear(self, spot: QPointF, margin: int, wish: Selection) -> bool:
        """Whether a click takes the same all round a pixel."""
        steps = (0, -margin, margin)
        return all(self.thing_at(spot + QPointF(dx, dy)) == wish for dx in steps for dy in steps)

    # Events --------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._is_fitted and self._box is not None:
            # What was shown before, whatever has come since: an edit never moves the paper.
            self._view = fitted(self._box, self.width(), self.height())

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.0015 ** event.angleDelta().y()
        self._view = self._view.zoomed(factor, event.position(), self.width(), self.height())
        self._is_fitted = False
        self.update()

    def _pointer(self, event: QMouseEvent) -> Pointer:
        x, y = self._view.to_plane(event.position(), self.width(), self.height())
        self._hand.last = Pointer(event.position(), x, y, event.modifiers())
        return self._hand.last

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._drag = event.position()
        self._moved = False
        is_left = event.button() is Qt.MouseButton.LeftButton
        self._tooled = is_left and self.tool.press(self._pointer(event))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None or self._tooled:
            self.tool.move(self._pointer(event))
        if self._tooled:
            return
        if self._drag is not None:
            delta = event.position() - self._drag
            if self._moved or math.hypot(delta.x(), delta.y()) > 4:
                self._moved = True
                self._view = self._view.panned(delta.x(), delta.y())
                self._is_fitted = False
                self._drag = event.position()
                self.update()
            return
        hovered = self._body_under(event.position())
        if hovered != self._hovered:
            self._hovered = hovered
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        is_click = self._drag is not None and not self._moved
        if self._tooled or (is_click and event.button() is Qt.MouseButton.LeftButton):
            self.tool.release(self._pointer(event))
        self._drag, self._tooled = None, False

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """The menu of what is under the pointer; by key that of what is selected."""
        selection = self.workbench.selection
        if event.reason() is not QContextMenuEvent.Reason.Keyboard:
            selection = self.thing_at(QPointF(event.pos()))
        self.workbench.menu_asked.emit(selection, event.globalPos())

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(ITEM):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A part dragged from the shelf is put down."""
        item = bytes(event.mimeData().data(ITEM).data()).decode()
        x, y = self._view.to_plane(event.position(), self.width(), self.height())
        tool = PlaceTool(self, item)
        tool.release(Pointer(event.position(), x, y, Qt.KeyboardModifier.NoModifier))
        event.acceptProposedAction()

    def focusNextPrevChild(self, forward: bool) -> bool:
        # Tab belongs to a tool that uses it before it moves the focus.
        return False if self.tool.wants_tab else super().focusNextPrevChild(forward)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.tool.key(event):
            return
        # With Shift: plain Left and Right step the motion wherever the focus is.
        pans = {
            Qt.Key.Key_Left: (40, 0),
            Qt.Key.Key_Right: (-40, 0),
            Qt.Key.Key_Up: (0, 40),
            Qt.Key.Key_Down: (0, -40),
        }
        key = Qt.Key(event.key())
        if key in pans and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._view = self._view.panned(*pans[key])
            self._is_fitted = False
            self.update()
        else:
            super().keyPressEvent(event)

    def _body_under(self, point: QPointF) -> int | None:
        if self._bodies is None or self._poses is None:
            return None
        x, y = self._view.to_plane(point, self.width(), self.height())
        near = 5.0 / self._view.scale
        return self._bodies.body_at(x, y, self._poses, near, self._hidden())

    def _hidden(self) -> frozenset[int]:
        return self.workbench.off_plane() | self.workbench.out_of_sight()

    def body_at(self, point: QPointF) -> str | None:
        """Id of the body under a pixel."""
        index, scene = self._body_under(point), self.workbench.scene
        if index is None or scene is None:
            return None
        return scene.resolved.document.bodies[index].id

    def thing_at(self, point: QPointF) -> Selection:
        """What a click on a pixel means: a joint before what ties bodies, that before a body."""
        joint = self._joint_at(point)
        if joint is not None:
            return Selection("joint", joint)
        tie = self._connection_at(point)
        if tie is not None:
            return Selection(*tie)
        body = self.body_at(point)
        return Selection() if body is None else Selection("body", body)

    def _joint_at(self, point: QPointF) -> str | None:
        """Id of the joint whose symbol is under a pixel."""
        scene, poses = self.workbench.scene, self._poses
        if scene is None or poses is None or not self.shows_joints:
            return None
        view = self._view.transform(self.width(), self.height())
        beyond = self.workbench.off_plane()
        for joint in reversed(scene.resolved.document.joints):
            if scene.index(joint.second.body) in beyond:
                continue
            x, y, _ = overlays.joint_places(scene.resolved, joint, poses)[1]
            away = view.map(QPointF(x, y)) - point
            if math.hypot(away.x(), away.y()) <= 7:
                return joint.id
        return None

    def _connection_at(self, point: QPointF) -> tuple[str, str] | None:
        """Kind and id of the coupling, contact or belt under a pixel."""
        scene, poses = self.workbench.scene, self._poses
        if scene is None or poses is None or not self.shows_joints:
            return None
        view = self._view.transform(self.width(), self.height())
        if self._shows_marks:
            for mark in connection_marks(scene.resolved, poses, self.workbench.plane):
                away = view.map(QPointF(mark.x, mark.y)) - point
                if math.hypot(away.x(), away.y()) <= overlays.MARK:
                    return mark.kind, mark.id
        if not scene.resolved.document.belts:
            return None
        x, y = self._view.to_plane(point, self.width(), self.height())
        belt = belt_near(scene.resolved, poses, x, y, 4.0 / self._view.scale)
        return ("belt", belt) if belt is not None else None

    @property
    def _shows_marks(self) -> bool:
        """Whether couplings and contacts are marked: where they are made, not while it plays."""
        return self.workbench.station in ("Assemble", "Drive") and not self.workbench.is_playing

    def bodies_in(self, box: QRectF) -> list[str]:
        """Ids of the bodies whose every point lies in a box of pixels."""
        scene, bodies, poses = self.workbench.scene, self._bodies, self._poses
        if scene is None or bodies is None or poses is None:
            return []
        view = self._view.transform(self.width(), self.height())
        found = []
        for index, body in enumerate(scene.resolved.document.bodies):
            extent = bodies.extent(index, poses)
            if extent is not None and box.contains(view.mapRect(extent)):
                found.append(body.id)
        return found

    def spoken(self) -> list[Spoken]:
        """Bodies and joints on the stage, for those who do not see them."""
        scene, bodies, poses = self.workbench.scene, self._bodies, self._poses
        if scene is None or bodies is None or poses is None:
            return []
        view, chosen = self._view.transform(self.width(), self.height()), self.workbench.selection
        found = []
        for index, body in enumerate(scene.resolved.document.bodies):
            extent = bodies.extent(index, poses)
            box = view.mapRect(extent).toRect() if extent is not None else QRect()
            name = f"{body.title}, body{', fixed' if body.fixed else ''}"
            found.append(Spoken(name, box, body.id in chosen.bodies))
        ends = {
            f"{snap.body}.{snap.snap.place.id}": snap for snap in all_snaps(scene.resolved, poses)
        }
        for joint in scene.resolved.document.joints:
            at = ends.get(f"{joint.first.body}.{joint.first.place}")
            box = QRect()
            if at is not None:
                point = self.to_pixels(at.x, at.y).toPoint()
                box = QRect(point.x() - 8, point.y() - 8, 16, 16)
            name = f"{joint.title}, {spec_of(joint.kind).words} joint"
            found.append(Spoken(name, box, (chosen.kind, chosen.id) == ("joint", joint.id)))
        return found

    # Painting ------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)
        self.painted.emit()

    def _paint(self, painter: QPainter) -> None:
        painter.drawPixmap(0, 0, self._paper())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scene = self.workbench.scene
        if scene is not None and scene.resolved.pictures:
            view = self._view.transform(self.width(), self.height())
            self._pictures.draw(painter, view, scene)
        if self._bodies is not None and self._poses is not None:
            self._draw_mechanism(painter)
        self.tool.paint(
            painter, self._view.transform(self.width(), self.height()), self.workbench.theme
        )
        self.notes.draw_hint(painter, self.tool.hint, QRectF(self.rect()))

    def _paper(self) -> QPixmap:
        """Paper and grid, drawn once per view."""
        ratio = self.devicePixelRatioF()
        key = (self._view, self.width(), self.height(), ratio, self.workbench.theme.name)
        if self._grid is not None and self._grid[0] == key:
            return self._grid[1]
        pixmap = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(QColor(self.workbench.theme.stage))
        painter = QPainter(pixmap)
        step = nice_step(self._view.scale, 44)
        painter.setPen(QPen(QColor(self.workbench.theme.grid), 1))
        transform = self._view.transform(self.width(), self.height())
        low = self._view.to_plane(QPointF(0, self.height()), self.width(), self.height())
        high = self._view.to_plane(QPointF(self.width(), 0), self.width(), self.height())
        for k in range(math.floor(low[0] / step), math.ceil(high[0] / step) + 1):
            x = transform.map(QPointF(k * step, 0)).x()
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        for k in range(math.floor(low[1] / step), math.ceil(high[1] / step) + 1):
            y = transform.map(QPointF(0, k * step)).y()
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        units = self.units
        if units is not None:
            painter.setFont(font(12))
            painter.setPen(QColor(self.workbench.theme.quiet))
            painter.drawText(12, self.height() - 12, f"grid {units.format(step, LENGTH, 0)}")
        painter.end()
        self._grid = (key, pixmap)
        return pixmap

    def _draw_mechanism(self, painter: QPainter) -> None:
        theme = self.workbench.theme
        scene, bodies, poses = self.workbench.scene, self._bodies, self._poses
        if scene is None or bodies is None or poses is None or len(poses) != len(scene.poses):
            return
        resolved = scene.resolved
        view = self._view.transform(self.width(), self.height())
        area, flat = QRectF(self.rect()), self.levels
        selection = self.workbench.selection
        ids = [body.id for body in resolved.document.bodies]
        selected = frozenset(ids.index(body) for body in selection.bodies if body in ids)
        hidden = self._hidden()
        draw_beyond(painter, self.workbench, flat, bodies, poses, self.workbench.out_of_sight())
        self.notes.draw_extremes(painter, flat, bodies)
        if self.see_through:
            painter.setOpacity(0.45)
        moving = self._still.isActive()
        bodies.draw(painter, view, poses, theme, selected, hidden, self.each_its_own, moving)
        painter.setOpacity(1.0)
        joint = selection.id if selection.kind == "joint" else ""
        overlays.draw_belts(painter, view, resolved, poses, theme, self.workbench.plane)
        if self.shows_joints and self._shows_marks:
            marks = connection_marks(resolved, poses, self.workbench.plane)
            overlays.draw_connections(painter, view, marks, theme, (selection.kind, selection.id))
        if self.shows_joints:
            overlays.draw_joints(painter, view, resolved, poses, theme, joint, hidden)
        chosen = next((j for j in resolved.document.joints if j.id == joint), None)
        if chosen is not None and spec_of(chosen.kind).moves:
            overlays.draw_direction(painter, view, resolved, chosen, poses, theme)
        self.notes.draw(painter, flat, bodies, poses, self._view.scale, area)
        self._draw_first_step(painter)
        self.notes.draw_name(painter, self._hovered)
        self.notes.draw_note(painter, area)

    def _draw_first_step(self, painter: QPainter) -> None:
        """What to do on a stage on which nothing stands."""
        scene = self.workbench.scene
        if scene is None or scene.resolved.document.bodies or self.workbench.tool:
            return
        painter.setFont(font(13))
        painter.setPen(QColor(self.workbench.theme.quiet))
        words = "Nothing stands here yet: press A or click a part on the left, then click here."
        painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, words)
