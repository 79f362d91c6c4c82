"""The stage: the mechanism at the present pose, with its findings drawn where they are.

One long class: a widget with its events of mouse, wheel and keys; what it paints and what tools do
stand in modules of their own.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
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
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from anakinema.analysis import ends_of_travel
from anakinema.authoring import (
    Trace,
    all_snaps,
    belt_near,
    connection_marks,
    kept_paths,
    measures_now,
    traced_point,
)
from anakinema.document import spec_of
from anakinema.findings import Evaluation, Finding, Miniature, Outcome, value_words
from anakinema.session import poses_at
from anakinema.ui.drafts import Drafts
from anakinema.ui.guarded import guarded
from anakinema.ui.roles import Spoken
from anakinema.ui.stage import overlays
from anakinema.ui.stage.bodies import BodyPainter
from anakinema.ui.stage.mass import MassPath
from anakinema.ui.stage.pictures import PicturePainter, ScaleTool
from anakinema.ui.stage.relief import ReliefPainter
from anakinema.ui.stage.tools.base import Pointer, Tool
from anakinema.ui.stage.tools.join import JoinTool
from anakinema.ui.stage.tools.mark import MarkTool
from anakinema.ui.stage.tools.measure import MeasureTool
from anakinema.ui.stage.tools.place import ITEM, PlaceTool
from anakinema.ui.stage.tools.repeat import RepeatTool
from anakinema.ui.stage.tools.select import SelectTool
from anakinema.ui.stage.tools.stick import StickTool
from anakinema.ui.stage.traces import draw_trace, draw_traced_point
from anakinema.ui.stage.view import View, fitted, nice_step
from anakinema.ui.theme import font
from anakinema.ui.workbench import Selection, Workbench
from anakinema.units import LENGTH, UnitSystem

SPOTS = ((12, 4), (30, 2))
"""Places across a body that are tried for a click, and pixels that must be clear round one."""


@guarded
class Stage(QWidget):
    """Shows and picks; drag moves the paper, the wheel zooms."""

    painted = Signal()

    def __init__(self, workbench: Workbench, drafts: Drafts) -> None:
        super().__init__()
        self.setObjectName("stage")
        self.setAccessibleName("stage")
        self.setMinimumSize(320, 220)
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
        self._last: Pointer | None = None
        self.shows_joints = True
        self.each_its_own = False
        self.in_relief = self.see_through = False
        self.mass = MassPath(workbench)
        self._relief: ReliefPainter | None = None
        self._pictures = PicturePainter()
        self._tool: Tool = SelectTool(self)
        self._hovered: int | None = None
        self._grid: tuple[object, QPixmap] | None = None
        self._compared: tuple[Miniature, BodyPainter] | None = None
        workbench.comparison.changed.connect(self.update)
        self._traces: tuple[Evaluation, tuple[Trace, ...]] | None = None
        self._closest: tuple[object, np.ndarray] | None = None
        workbench.scene_changed.connect(self._refresh)
        workbench.document_changed.connect(self._document_changed)
        workbench.trial_changed.connect(self._repose)
        workbench.tool_changed.connect(self._take_tool)
        workbench.marks_changed.connect(self.update)
        workbench.playhead_moved.connect(self._repose)
        workbench.selection_changed.connect(self.update)
        workbench.station_changed.connect(self.update)
        workbench.trouble_changed.connect(self.update)
        workbench.selection_changed.connect(self._describe)
        for happened in (
            workbench.document_changed,
            workbench.selection_changed,
            workbench.station_changed,
            workbench.playhead_moved,
        ):
            happened.connect(lambda *_: self._tool.interrupt())

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
        return self._tool

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

    def _take_tool(self) -> None:
        self._tool.leave()
        kind, _, rest = self.workbench.tool.partition(":")
        makers: dict[str, Callable[[], Tool]] = {
            "place": lambda: PlaceTool(self, rest),
            "join": lambda: JoinTool(self),
            "repeat": lambda: RepeatTool(self),
            "measure": lambda: MeasureTool(self),
            "mark": lambda: MarkTool(self),
            "stick": lambda: StickTool(self),
            "scale": lambda: ScaleTool(self, rest),
        }
        self._tool = makers.get(kind, lambda: SelectTool(self))()
        if self._last is not None:
            # The pointer may already stand where the tool is wanted.
            self._tool.move(self._last)
        self.setCursor(Qt.CursorShape.CrossCursor if kind else Qt.CursorShape.ArrowCursor)
        self.update()

    def show_relief(self, on: bool) -> None:
        """Show the assembly from a corner, every slab with its height; or from above again."""
        self.in_relief = on
        if on:
            self.workbench.use_tool("")
        scene = self.workbench.scene
        self._relief = ReliefPainter(scene.resolved) if on and scene is not None else None
        self.update()

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
        self._relief = ReliefPainter(scene.resolved) if self.in_relief else None
        self._repose()
        if self._is_new:
            self.fit()
            # Fitted to what is drawn at first, and once more when the whole motion is known.
            evaluation = self.workbench.evaluation
            self._is_new = evaluation is None and bool(self._bodies.count)

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
        self._box = self._bodies.bounds(some)
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
        self._last = Pointer(event.position(), x, y, event.modifiers())
        return self._last

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._drag = event.position()
        self._moved = False
        is_left = event.button() is Qt.MouseButton.LeftButton and not self.in_relief
        self._tooled = is_left and self._tool.press(self._pointer(event))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None or self._tooled:
            self._tool.move(self._pointer(event))
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
        is_click = self._drag is not None and not self._moved and not self.in_relief
        if self._tooled or (is_click and event.button() is Qt.MouseButton.LeftButton):
            self._tool.release(self._pointer(event))
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
        return False if self._tool.wants_tab else super().focusNextPrevChild(forward)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._tool.key(event):
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
        if self._bodies is None or self._poses is None or self.in_relief:
            return None
        x, y = self._view.to_plane(point, self.width(), self.height())
        near = 5.0 / self._view.scale
        return self._bodies.body_at(x, y, self._poses, near, self._hidden())

    def _hidden(self) -> frozenset[int]:
        scene, hidden = self.workbench.scene, self.workbench.hidden
        if scene is None or not hidden:
            return frozenset()
        return frozenset(
            k for k, body in enumerate(scene.resolved.document.bodies) if body.id in hidden
        )

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
        for joint in reversed(scene.resolved.document.joints):
            x, y, _ = overlays.joint_places(scene.resolved, joint, poses)[1]
            away = view.map(QPointF(x, y)) - point
            if math.hypot(away.x(), away.y()) <= 7:
                return joint.id
        return None

    def _connection_at(self, point: QPointF) -> tuple[str, str] | None:
        """Kind and id of the coupling, contact or belt under a pixel."""
        scene, poses = self.workbench.scene, self._poses
        if scene is None or poses is None or not self.shows_joints or self.in_relief:
            return None
        view = self._view.transform(self.width(), self.height())
        if self._shows_marks:
            for mark in connection_marks(scene.resolved, poses):
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
        relief = self._relief if self.in_relief else None
        if relief is not None and self._poses is not None:
            view = self._view.transform(self.width(), self.height())
            relief.draw(painter, view, self._poses, self.workbench.theme, self._hidden())
            return
        if self._bodies is not None and self._poses is not None:
            self._draw_mechanism(painter)
        self._tool.paint(
            painter, self._view.transform(self.width(), self.height()), self.workbench.theme
        )
        self._draw_hint(painter)

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
        evaluation, bodies, poses = self.workbench.evaluation, self._bodies, self._poses
        scene = self.workbench.scene
        if scene is None or bodies is None or poses is None or len(poses) != len(scene.poses):
            return
        resolved = scene.resolved
        is_whole = evaluation is not None and evaluation.resolved is resolved
        view = self._view.transform(self.width(), self.height())
        area = QRectF(self.rect())
        selection = self.workbench.selection
        ids = [body.id for body in resolved.document.bodies]
        selected = frozenset(ids.index(body) for body in selection.bodies if body in ids)
        hidden = self._hidden()
        finding = self.shown_finding() if is_whole else None
        if finding is not None and finding.joint is not None and finding.kind == "travel":
            self._draw_extremes(painter, finding)
        if self.see_through:
            painter.setOpacity(0.45)
        bodies.draw(painter, view, poses, theme, selected, hidden, self.each_its_own)
        painter.setOpacity(1.0)
        joint = selection.id if selection.kind == "joint" else ""
        overlays.draw_belts(painter, view, resolved, poses, theme)
        if self.shows_joints and self._shows_marks:
            marks = connection_marks(resolved, poses)
            overlays.draw_connections(painter, view, marks, theme, (selection.kind, selection.id))
        if self.shows_joints:
            overlays.draw_joints(painter, view, resolved, poses, theme, joint, hidden)
        chosen = next((j for j in resolved.document.joints if j.id == joint), None)
        if chosen is not None and spec_of(chosen.kind).moves:
            overlays.draw_direction(painter, view, resolved, chosen, poses, theme)
        self._draw_held(painter, view, ids, poses)
        if is_whole:
            self._draw_traces(painter, view)
            self.mass.draw(painter, view, poses)
        for _, words, one, two in measures_now(scene, poses):
            lift = 26.0 + 8.0 * self._view.scale
            overlays.draw_travel(painter, view, (one, two), words, theme, lift)
        if finding is not None and finding.kind == "travel":
            self._draw_travel(painter, finding)
        if finding is not None and finding.gap is not None and evaluation is not None:
            self._draw_closest_pose(painter, finding)
            overlays.draw_gap(painter, view, evaluation, finding, theme, area)
        self._draw_compared(painter, view)
        self._draw_kept_poses(painter, view)
        self._draw_first_step(painter)
        self._draw_name(painter)
        note = ""
        if evaluation is not None and is_whole and not evaluation.is_exact:
            note = "first look, refining…"
        if self.workbench.trouble is not None and not self.workbench.is_current:
            note = "shown as before the fault"
        painter.setFont(font(12))
        painter.setPen(QColor(theme.quiet))
        painter.drawText(area.adjusted(12, 10, -12, -10), Qt.AlignmentFlag.AlignRight, note)

    def _draw_compared(self, painter: QPainter, view: QTransform) -> None:
        """The trial that is selected, as outlines at the same share of its time."""
        shown, playback = self.workbench.comparison.shown, self.workbench.playback
        if shown is None or playback is None:
            return
        if self._compared is None or self._compared[0] is not shown:
            self._compared = shown, BodyPainter(shown.resolved)
        share = playback.time_at(self.workbench.progress) / max(playback.duration, 1e-9)
        row = min(round(share * (len(shown.poses) - 1)), len(shown.poses) - 1)
        every = set(range(shown.poses.shape[1]))
        ink = QColor(self.workbench.theme.accent)
        self._compared[1].draw_ghost(painter, view, shown.poses[row], every, ink)

    def _draw_kept_poses(self, painter: QPainter, view: QTransform) -> None:
        """Poses that are kept as ghosts, with their names."""
        bench, bodies = self.workbench, self._bodies
        if bench.scene is None or bodies is None:
            return
        moving = {k for k, b in enumerate(bench.scene.resolved.document.bodies) if not b.fixed}
        ink = QColor(bench.theme.quiet)
        for pose in bench.session.document.poses:
            found = bench.poses.standing(pose) if pose.ghost else None
            if found is None or len(found.poses) != bodies.count:
                continue
            bodies.draw_ghost(painter, view, found.poses, moving, ink)
            boxes = [b for k in moving if (b := bodies.extent(k, found.poses)) is not None]
            if boxes:
                high = max(boxes, key=lambda box: box.bottom())
                painter.setFont(font(12))
                painter.setPen(ink)
                painter.drawText(view.map(QPointF(high.center().x(), high.bottom())), pose.title)

    def _draw_traces(self, painter: QPainter, view: QTransform) -> None:
        """Kept paths; of the one that is selected, or whose body is, how its point moves now."""
        bench, evaluation = self.workbench, self.workbench.evaluation
        assert evaluation is not None
        kept = self._traces
        if kept is None or kept[0] is not evaluation:
            kept = self._traces = evaluation, kept_paths(evaluation)
        selection, paths = bench.selection, kept[1]
        for trace in paths:
            draw_trace(painter, view, trace, bench.theme)
            chosen = (selection.kind, selection.id) == ("measure", trace.id)
            if chosen or trace.place.body in selection.bodies:
                now = traced_point(evaluation, trace, bench.progress)
                if now is not None:
                    units = evaluation.resolved.units
                    draw_traced_point(painter, view, trace, now, bench.theme, units)

    def _draw_held(
        self, painter: QPainter, view: QTransform, ids: list[str], poses: np.ndarray
    ) -> None:
        """A peg on every body that is held for the moment."""
        for body in self.workbench.held:
            if body not in ids or self._bodies is None:
                continue
            extent = self._bodies.extent(ids.index(body), poses)
            if extent is None:
                continue
            box = QRectF(0, 0, 40, 18)
            box.moveCenter(view.map(extent.center()))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(self.workbench.theme.ink))
            painter.drawRoundedRect(box, 9, 9)
            painter.setFont(font(12, strong=True))
            painter.setPen(QColor(self.workbench.theme.panel))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "held")

    def _draw_hint(self, painter: QPainter) -> None:
        """What the tool in hand is about to do, at the foot of the stage."""
        words = self._tool.hint
        if not words:
            return
        painter.setFont(font(13))
        width = painter.fontMetrics().horizontalAdvance(words) + 28
        box = QRectF((self.width() - width) / 2, self.height() - 40, width, 28)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.workbench.theme.ink))
        painter.drawRoundedRect(box, 14, 14)
        painter.setPen(QColor(self.workbench.theme.panel))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def shown_finding(self) -> Finding | None:
        """The finding drawn: the selected one, in Check else the worst that has a gap."""
        evaluation = self.workbench.evaluation
        if evaluation is None:
            return None
        findings = evaluation.verdict.findings
        selection = self.workbench.selection
        if selection.kind == "finding":
            return next((f for f in findings if f.id == selection.id), None)
        if self.workbench.station != "Check" or selection.kind:
            return None
        bad = (Outcome.FAIL, Outcome.WARN)
        return next((f for wanted in bad for f in findings if f.outcome is wanted and f.gap), None)

    def _draw_extremes(self, painter: QPainter, finding: Finding) -> None:
        evaluation, bodies = self.workbench.evaluation, self._bodies
        assert evaluation is not None and bodies is not None and finding.joint is not None
        view = self._view.transform(self.width(), self.height())
        moving = {int(evaluation.mechanism.table.second[finding.joint])}
        ink = QColor(self.workbench.theme.quiet)
        values = evaluation.motion.values[:, finding.joint]
        for row in (int(np.argmin(values)), int(np.argmax(values))):
            bodies.draw_ghost(painter, view, evaluation.motion.poses[row], moving, ink)

    def _draw_closest_pose(self, painter: QPainter, finding: Finding) -> None:
        """The two bodies as outlines where they are closest, unless that is the present pose."""
        evaluation, bodies, gap = self.workbench.evaluation, self._bodies, finding.gap
        assert evaluation is not None and bodies is not None and gap is not None
        if abs(gap.progress - self.workbench.progress) < 1e-3:
            return
        key = (evaluation, gap.progress)
        if self._closest is None or self._closest[0] != key:
            self._closest = (key, poses_at(evaluation, gap.progress))
        view = self._view.transform(self.width(), self.height())
        colour = overlays.outcome_colour(finding.outcome, self.workbench.theme)
        pair = {gap.first_body, gap.second_body}
        bodies.draw_ghost(painter, view, self._closest[1], pair, colour)
        if gap.belt is not None:
            overlays.draw_belt_ghost(
                painter, view, evaluation.resolved, self._closest[1], gap.belt, colour
            )

    def _draw_travel(self, painter: QPainter, finding: Finding) -> None:
        evaluation = self.workbench.evaluation
        if evaluation is None or finding.joint is None:
            # What cannot be judged has no travel.
            return
        joint = evaluation.document.joints[finding.joint]
        if not spec_of(joint.kind).is_straight:
            return
        ends = ends_of_travel(evaluation.motion, finding.joint)
        view = self._view.transform(self.width(), self.height())
        words = f"travel {value_words(evaluation, finding)}"
        lift = 34 * max(1.0, self._view.scale)
        overlays.draw_travel(painter, view, (ends[0], ends[1]), words, self.workbench.theme, lift)

    def _draw_first_step(self, painter: QPainter) -> None:
        """What to do on a stage on which nothing stands."""
        scene = self.workbench.scene
        if scene is None or scene.resolved.document.bodies or self.workbench.tool:
            return
        painter.setFont(font(13))
        painter.setPen(QColor(self.workbench.theme.quiet))
        words = "Nothing stands here yet: press A or click a part on the left, then click here."
        painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, words)

    def _draw_name(self, painter: QPainter) -> None:
        """The name of the body under the pointer."""
        scene = self.workbench.scene
        if self._hovered is None or scene is None or self.workbench.tool:
            return
        if self._hovered >= len(scene.resolved.document.bodies):
            return
        body = scene.resolved.document.bodies[self._hovered]
        words = f"{body.title}{', fixed' if body.fixed else ''}"
        painter.setFont(font(13))
        width = painter.fontMetrics().horizontalAdvance(words) + 16
        box = QRectF(12, 12, width, 24)
        painter.setPen(QPen(QColor(self.workbench.theme.line), 1))
        painter.setBrush(QColor(self.workbench.theme.card))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(QColor(self.workbench.theme.ink))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
