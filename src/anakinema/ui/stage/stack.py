"""The stack from the side: a section through the pins; bodies can be moved up and down in it."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QWidget

from anakinema.authoring import (
    StackSection,
    lifted_body,
    rested_height,
    seated,
    seats_itself,
    snap_on_axis,
    stack_section,
)
from anakinema.errors import AnakinemaError
from anakinema.ui.guarded import guarded
from anakinema.ui.stage.tools.place import ITEM
from anakinema.ui.theme import font
from anakinema.ui.workbench import Selection, Workbench
from anakinema.units import LENGTH

REACH = 60
"""Pixels from an axis within which hardware is dropped on it."""
SNAP = 7
"""Pixels within which a face comes to rest on another."""


@guarded
class StackView(QWidget):
    """Drag a body up or down: its faces come to rest on others. Up and Down move by 1 mm."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("stack_view")
        self.setAccessibleName("side view of the stack")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._workbench = workbench
        self._section: StackSection | None = None
        self._drag: tuple[str, float, float] | None = None
        self.setAcceptDrops(True)
        for signal in (
            workbench.scene_changed,
            workbench.playhead_moved,
            workbench.selection_changed,
            workbench.trial_changed,
        ):
            signal.connect(self._refresh)
        self._refresh()

    @property
    def section(self) -> StackSection | None:
        """What is on show."""
        return self._section

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self._refresh()

    def _refresh(self) -> None:
        scene, poses = self._workbench.scene, self._workbench.shown_poses()
        if not self.isVisible():
            return
        self._section = None
        if scene is not None and poses is not None and len(poses) == len(scene.poses):
            selection = self._workbench.selection
            chosen = (selection.id,) if selection.kind == "joint" else ()
            self._section = stack_section(scene, poses, chosen)
        self.update()

    def _scales(self) -> tuple[float, float, float, float]:
        """Pixels per mm along and up, and the mm at the left and at the foot."""
        section = self._section
        if section is None or not section.cuts:
            return 1.0, 1.0, 0.0, 0.0
        low = min(c.start for c in section.cuts)
        high = max(c.end for c in section.cuts)
        floor = min(c.bottom for c in section.cuts)
        roof = max(c.top for c in section.cuts)
        along = (self.width() - 220) / max(high - low, 1.0)
        up = min((self.height() - 150) / max(roof - floor, 1.0), 14.0)
        return along, up, low, floor

    def _box(self, start: float, end: float, bottom: float, top: float) -> QRectF:
        along, up, low, floor = self._scales()
        foot = self.height() - 80
        x = 150 + (start - low) * along
        return QRectF(x, foot - (top - floor) * up, (end - start) * along, (top - bottom) * up)

    def body_point(self, body_id: str) -> QPointF | None:
        """A pixel on a body's cut, None if the section does not go through it."""
        scene, section = self._workbench.scene, self._section
        if scene is None or section is None:
            return None
        index = scene.index(body_id)
        for cut in section.cuts:
            if cut.body == index:
                return self._box(cut.start, cut.end, cut.bottom, cut.top).center()
        return None

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        item = bytes(event.mimeData().data(ITEM).data()).decode()
        if item and seats_itself(item):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Hardware from the shelf seats itself on the axis that it is dropped at."""
        self.put(bytes(event.mimeData().data(ITEM).data()).decode(), event.position())
        event.acceptProposedAction()

    def put(self, item: str, at: QPointF) -> None:
        """Seat hardware on the nearest axis, on the face nearest to a pixel."""
        section, scene = self._section, self._workbench.rest()
        if section is None or scene is None or not section.axes:
            return
        _, up, _, floor = self._scales()

        def away(along: float) -> float:
            return abs(self._box(along, along, floor, floor).x() - at.x())

        axis = min(section.axes, key=lambda each: away(each.at))
        height = floor + (self.height() - 80 - at.y()) / up
        snap = snap_on_axis(scene, axis.joint, height)
        if snap is None or away(axis.at) > REACH:
            return
        try:
            edit, body = seated(scene, item, snap)
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._workbench.do_once(edit)
        self._workbench.select(Selection("body", body))

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        t, section, scene = self._workbench.theme, self._section, self._workbench.scene
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.stage))
        if section is None or scene is None or not section.cuts:
            painter.setFont(font(13))
            painter.setPen(QColor(t.quiet))
            words = "Nothing to cut: place parts and join them, then look at their stack here."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        document, units = scene.resolved.document, scene.resolved.units
        chosen = self._workbench.selection.bodies
        _, up, _, floor = self._scales()
        foot = self.height() - 80
        painter.setFont(font(12))
        levels = sorted({round(z, 6) for c in section.cuts for z in (c.bottom, c.top)})
        last = math.inf
        for z in levels:
            y = foot - (z - floor) * up
            painter.setPen(QPen(QColor(t.grid), 1))
            painter.drawLine(QPointF(140, y), QPointF(self.width() - 60, y))
            if abs(last - y) >= 15:
                painter.setPen(QColor(t.quiet))
                box = QRectF(10, y - 9, 122, 18)
                right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                painter.drawText(box, right, units.format(z, LENGTH))
                last = y
        for cut in sorted(section.cuts, key=lambda c: c.start - c.end):
            body = document.bodies[cut.body]
            box = self._box(cut.start, cut.end, cut.bottom, cut.top)
            painter.setBrush(QColor(t.bodies[document.part(body.part).colour]))
            is_chosen = body.id in chosen
            painter.setPen(
                QPen(QColor(t.accent if is_chosen else t.shade), 2.4 if is_chosen else 1)
            )
            painter.drawRect(box)
        named: set[int] = set()
        for cut in sorted(section.cuts, key=lambda c: c.start - c.end):
            box = self._box(cut.start, cut.end, cut.bottom, cut.top)
            title = document.bodies[cut.body].title
            fits = painter.fontMetrics().horizontalAdvance(title) + 8 < box.width()
            if cut.body not in named and fits and box.height() >= 14:
                named.add(cut.body)
                painter.setPen(QColor(t.ink))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, title)
        taken = [-math.inf, -math.inf, -math.inf]
        for axis in sorted(section.axes, key=lambda each: each.at):
            x = self._box(axis.at, axis.at, floor, floor).x()
            text = painter.fontMetrics().elidedText(axis.title, Qt.TextElideMode.ElideRight, 130)
            half = painter.fontMetrics().horizontalAdvance(text) / 2
            line = next((k for k, end in enumerate(taken) if end < x - half - 8), 2)
            taken[line] = x + half
            y = 28 + 17 * line
            painter.setPen(QPen(QColor(t.accent), 1.2, Qt.PenStyle.DashDotLine))
            painter.drawLine(QPointF(x, y + 5), QPointF(x, foot + 18))
            painter.setPen(QColor(t.accent))
            painter.drawText(QPointF(x - half, y), text)
        painter.setPen(QColor(t.quiet))
        painter.drawText(12, self.height() - 12, f"Section {section.words}. Heights drawn larger.")
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(t.accent), 1))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _body_under(self, at: QPointF) -> str | None:
        scene, section = self._workbench.scene, self._section
        if scene is None or section is None:
            return None
        for cut in sorted(section.cuts, key=lambda c: c.end - c.start):
            if (
                self._box(cut.start, cut.end, cut.bottom, cut.top)
                .adjusted(-2, -2, 2, 2)
                .contains(at)
            ):
                return scene.resolved.document.bodies[cut.body].id
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        body, scene = self._body_under(event.position()), self._workbench.scene
        self._workbench.select(Selection("body", body) if body else Selection())
        index = scene.index(body) if scene is not None and body is not None else None
        if scene is not None and body is not None and index is not None:
            self._drag = (body, event.position().y(), float(scene.resolved.heights[index]))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        scene = self._workbench.scene
        if self._drag is None or scene is None:
            return
        body, y, height = self._drag
        if scene.index(body) is None:
            # It has gone while it was held.
            self._drag = None
            return
        if abs(event.position().y() - y) < 3:
            return
        _, up, _, _ = self._scales()
        wanted = height + (y - event.position().y()) / up
        self._workbench.do(lifted_body(scene, body, rested_height(scene, body, wanted, SNAP / up)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._workbench.finish_gesture()
        self._drag = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        scene, bodies = self._workbench.scene, self._workbench.selection.bodies
        step = {Qt.Key.Key_Up: 1.0, Qt.Key.Key_Down: -1.0}.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self._drag is not None:
            self._workbench.cancel_gesture()
            self._drag = None
        elif step is not None and scene is not None and bodies:
            index = scene.index(bodies[0])
            if index is not None:
                height = float(scene.resolved.heights[index]) + step
                self._workbench.do_once(lifted_body(scene, bodies[0], height))
        else:
            super().keyPressEvent(event)
