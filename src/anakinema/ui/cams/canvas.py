"""The cam studio's paper: the cam under its follower, and its diagrams over one turn."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from anakinema.authoring import CamView
from anakinema.ui.axes import Axis, draw_cursor, draw_curve, draw_level, with_room
from anakinema.ui.guarded import guarded
from anakinema.ui.stage.bodies import polygon
from anakinema.ui.theme import font
from anakinema.ui.workbench import Workbench

LABELS, MARGIN = 128.0, 16.0
SHARE = 0.44
"""Share of the width that the cam takes."""
LABEL = 38.0
"""Pixels that an angle below the diagrams needs."""


@guarded
class CamCanvas(QWidget):
    """The cam turned to one angle. Drag over a diagram, or press the arrow keys, to turn it."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("cam_canvas")
        self.setAccessibleName("cam and its diagrams")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(420, 260)
        self._workbench = workbench
        self._view: CamView | None = None
        self.degrees = 0.0

    def show_cam(self, view: CamView | None) -> None:
        """Show another cam, or the same one changed."""
        self._view = view
        self.update()

    def turn_to(self, degrees: float) -> None:
        """Show the cam at an angle."""
        self.degrees = degrees % 360.0
        self.update()

    # Hands --------------------------------------------------------------------------------

    @property
    def axis(self) -> Axis:
        """Cam angles in the diagrams, deg."""
        return Axis(0.0, 360.0, SHARE * self.width() + LABELS, self.width() - MARGIN)

    def x_of(self, degrees: float) -> float:
        """Pixel of a cam angle in the diagrams."""
        return self.axis.pixel(degrees)

    def _take(self, x: float) -> None:
        if self.axis.end > self.axis.start:
            self.turn_to(min(max(self.axis.value(x), 0.0), 359.9964))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.position().x() >= self.axis.start - 8:
            self._take(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._take(event.position().x())

    def event(self, event: QEvent) -> bool:
        # The arrows turn the cam here, and not the playhead.
        arrows = (Qt.Key.Key_Left, Qt.Key.Key_Right)
        is_asked = event.type() == QEvent.Type.ShortcutOverride
        if is_asked and isinstance(event, QKeyEvent) and event.key() in arrows:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        steps = {Qt.Key.Key_Left: -step, Qt.Key.Key_Right: step}
        if event.key() in steps:
            self.turn_to(self.degrees + steps[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    # Painting -----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self._workbench.theme.stage))
        view = self._view
        if view is None:
            return
        self._draw_cam(painter, view)
        count = len(view.diagrams)
        high = (self.height() - 2 * MARGIN - 18) / count
        for k in range(count):
            box = QRectF(
                self.axis.start,
                MARGIN + k * high,
                self.width() - MARGIN - self.axis.start,
                high - 8,
            )
            self._draw_diagram(painter, view, k, box)
        self._draw_axis(painter)

    def _draw_cam(self, painter: QPainter, view: CamView) -> None:
        t = self._workbench.theme
        wide, high = SHARE * self.width(), float(self.height())
        rings = [ring for ring in (view.profile, view.path) if ring is not None]
        reach = max(float(np.hypot(*ring.T).max()) for ring in rings)
        low, top = -reach, max(reach, float(view.place[:, 1].max()) + 0.9 * view.base)
        left, right = -reach, max(reach, float(view.place[:, 0].max()) + 10)
        if view.follower.is_swinging:
            right = max(right, view.follower.centres + 12)
        scale = 0.9 * min(wide / (right - left), high / (top - low))
        painter.save()
        painter.translate(wide / 2, high / 2)
        painter.scale(scale, -scale)
        painter.translate(-(left + right) / 2, -(low + top) / 2)
        pen = QPen(QColor(t.shade), 1.4)
        pen.setCosmetic(True)
        thin = QPen(QColor(t.quiet), 1.0, Qt.PenStyle.DotLine)
        thin.setCosmetic(True)
        painter.setPen(thin)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(0, 0), view.base, view.base)
        painter.save()
        painter.rotate(self.degrees)
        if view.path is not None:
            painter.drawPolyline(polygon(view.path))
        painter.setPen(pen)
        painter.setBrush(QColor(t.bodies["ochre"]))
        painter.drawPolygon(polygon(view.profile))
        painter.setBrush(QColor(t.stage))
        painter.drawEllipse(QPointF(0, 0), 0.16 * view.base, 0.16 * view.base)
        painter.drawLine(QPointF(0, 0), QPointF(0, 0.5 * view.base))
        painter.restore()
        self._draw_follower(painter, view, pen)
        painter.restore()

    def _draw_follower(self, painter: QPainter, view: CamView, pen: QPen) -> None:
        t, f = self._workbench.theme, view.follower
        index = min(round(self.degrees / 360.0 * (len(view.angle) - 1)), len(view.angle) - 1)
        x, y = (float(v) for v in view.place[index])
        lean = float(view.lean[index])
        painter.setPen(pen)
        painter.setBrush(QColor(t.bodies["sage"]))
        high = 0.9 * view.base
        if f.is_flat:
            along = lean if f.is_swinging else 0.0
            painter.save()
            painter.translate(f.centres if f.is_swinging else 0.0, 0.0 if f.is_swinging else y)
            painter.rotate(math.degrees(along))
            if f.is_swinging:
                painter.drawRect(QRectF(0, -f.offset - 7, f.centres, 7))
            else:
                painter.drawRect(QRectF(-0.9 * view.base, 0, 1.8 * view.base, 7))
                painter.drawRect(QRectF(-6, 7, 12, high))
            painter.restore()
        elif f.is_swinging:
            wide = QPen(QColor(t.bodies["sage"]), 5)
            painter.setPen(wide)
            painter.drawLine(QPointF(f.centres, 0), QPointF(x, y))
            painter.setPen(pen)
            painter.drawEllipse(QPointF(f.centres, 0), 4, 4)
        else:
            painter.drawRect(QRectF(x - 5, y, 10, high))
        painter.setBrush(QColor(t.bodies["steel"]))
        if not f.is_flat:
            radius = max(f.radius, 0.8)
            painter.drawEllipse(QPointF(x, y), radius, radius)

    def _draw_diagram(self, painter: QPainter, view: CamView, k: int, box: QRectF) -> None:
        t, diagram = self._workbench.theme, view.diagrams[k]
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        values = diagram.values
        low, high = (float(f(values)) for f in (np.nanmin, np.nanmax))
        low, high = with_room(min(low, 0.0), max(high, 0.0), 0.06)
        up = Axis(low, high, box.bottom(), box.top())
        draw_level(painter, self.axis, up, 0.0, QColor(t.line))
        draw_curve(painter, self.axis, up, view.angle, values, QColor(t.accent))
        here = float(np.interp(self.degrees, view.angle, values))
        if abs(here) < 1e-9 * max(high, -low):
            here = 0.0  # what only rounding leaves
        words = f"{here:.4g}{diagram.unit}" if math.isfinite(here) else "flat"
        left = box.left() - LABELS + 6
        painter.setPen(QColor(t.ink))
        painter.setFont(font(13, strong=True))
        painter.drawText(QRectF(left, box.top(), LABELS - 12, 18), words)
        painter.setFont(font(12))
        painter.setPen(QColor(t.quiet))
        painter.drawText(QRectF(left, box.top() + 17, LABELS - 12, 16), diagram.title)
        if box.height() > 50:
            painter.drawText(QRectF(left, box.top() + 33, LABELS - 12, 16), diagram.peak)
        draw_cursor(painter, self.axis, self.degrees, box.top(), box.bottom(), QColor(t.ink))

    def _draw_axis(self, painter: QPainter) -> None:
        painter.setFont(font(12))
        painter.setPen(QColor(self._workbench.theme.quiet))
        room = (self.axis.end - self.axis.start) / 6
        step = next((s for s in (60, 90, 180) if room * s / 60 > LABEL), 360)
        for degrees in range(0, 361, step):
            x = self.x_of(degrees)
            box = QRectF(x - 24, self.height() - MARGIN - 14, 48, 16)
            if degrees == 360:
                box.moveRight(self.width() - 2)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{degrees}°")
