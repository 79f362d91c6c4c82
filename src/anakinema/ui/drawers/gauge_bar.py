"""A travel gauge: permitted range as brackets, range used as a bar, the present value as a dot."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from anakinema.authoring import Gauge, limit_edit, progress_with
from anakinema.findings import Evaluation, joint_value_words
from anakinema.ui.axes import with_room
from anakinema.ui.guarded import guarded
from anakinema.ui.theme import font
from anakinema.ui.workbench import Selection, Workbench
from anakinema.units import ANGLE

SIDE = 14.0
NEAR = 7.0
"""px within which a bracket, the end of a band or the dot is taken hold of."""
BAR = 29.5
CLICK = 3
HIGH, SPARE = 58, 16
"""px of a gauge, and of its line about what is spare."""


@guarded
class GaugeBar(QWidget):
    """Drag a bracket, or the end of the band where there is none, to set a limit; the dot to go
    to where the joint stands so. A click selects the joint."""

    def __init__(self, workbench: Workbench, gauge: Gauge) -> None:
        super().__init__()
        self._workbench, self._gauge = workbench, gauge
        self._id = ""
        self._pressed: QPointF | None = None
        self._handle = ""
        self._scale: tuple[float, float] | None = None
        self._dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMouseTracking(True)
        self.setToolTip("Drag an end to set a limit, the dot to go there; click for the numbers")

    def show_gauge(self, gauge: Gauge, joint_id: str) -> None:
        """Show another range."""
        has_spare = gauge.spare != (None, None)
        changed = has_spare != (self._gauge.spare != (None, None))
        self._gauge, self._id = gauge, joint_id
        self.setObjectName(f"gauge_{joint_id}")
        self.setAccessibleName(f"travel of {gauge.title}")
        if changed:
            self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, HIGH + (SPARE if self._gauge.spare != (None, None) else 0))

    # Hands --------------------------------------------------------------------------------

    def handle_at(self, point: QPointF) -> str:
        """What a pixel takes hold of: 'least', 'greatest', 'value', or nothing."""
        evaluation = self._evaluation()
        if evaluation is None or not 18 <= point.y() <= 41:
            return ""
        gauge = self._gauge
        ends = {
            "least": gauge.low if gauge.least is None else gauge.least,
            "greatest": gauge.high if gauge.greatest is None else gauge.greatest,
        }
        away = {name: abs(self.x_of(value) - point.x()) for name, value in ends.items()}
        dot = abs(self.x_of(self._present(evaluation)) - point.x())
        if dot <= NEAR and abs(point.y() - BAR) <= 4:
            return "value"
        name = min(away, key=lambda each: away[each])
        if away[name] <= NEAR:
            return name
        return "value" if dot <= NEAR else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.position()
            self._handle = self.handle_at(self._pressed)
            self._scale = self._range()
            self._dragging = False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._pressed is None:
            taken = self.handle_at(at)
            self.setCursor(
                Qt.CursorShape.SizeHorCursor if taken else Qt.CursorShape.PointingHandCursor
            )
            return
        if not self._dragging and abs(at.x() - self._pressed.x()) <= CLICK:
            return
        evaluation = self._evaluation()
        if evaluation is None or not self._handle:
            return
        self._dragging = True
        value = self._value_at(at.x())
        if self._handle == "value":
            bench = self._workbench
            bench.move_playhead(progress_with(evaluation, self._gauge.joint, value, bench.progress))
        else:
            self._set_limit(evaluation, value)

    def _set_limit(self, evaluation: Evaluation, value: float) -> None:
        gauge, step = self._gauge, self._step()
        if self._handle == "least" and gauge.greatest is not None:
            value = min(value, gauge.greatest)
        if self._handle == "greatest" and gauge.least is not None:
            value = max(value, gauge.least)
        which: Literal["least", "greatest"] = "least" if self._handle == "least" else "greatest"
        self._workbench.do(limit_edit(evaluation, gauge.joint, which, value, step))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        if self._dragging:
            self._workbench.finish_gesture()
        else:
            self._workbench.select(Selection("joint", self._id))
        self._let_go()

    def _let_go(self) -> None:
        self._pressed, self._handle, self._scale, self._dragging = None, "", None, False
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self._workbench.menu_asked.emit(Selection("joint", self._id), event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._dragging:
            if self._handle != "value":
                self._workbench.cancel_gesture()
            self._let_go()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._workbench.select(Selection("joint", self._id))
        else:
            super().keyPressEvent(event)

    # Scale --------------------------------------------------------------------------------

    def _evaluation(self) -> Evaluation | None:
        evaluation = self._workbench.evaluation
        if evaluation is None or self._gauge.joint >= len(evaluation.document.joints):
            return None
        return evaluation

    def _present(self, evaluation: Evaluation) -> float:
        motion = evaluation.motion
        return float(
            np.interp(
                self._workbench.progress, motion.progress, motion.values[:, self._gauge.joint]
            )
        )

    def _range(self) -> tuple[float, float]:
        gauge = self._gauge
        ends = [gauge.low, gauge.high, *(b for b in (gauge.least, gauge.greatest) if b is not None)]
        return with_room(min(ends), max(ends), 0.04)

    def x_of(self, value: float) -> float:
        """Pixel of a value; the scale stands still during a drag."""
        low, high = self._scale or self._range()
        return SIDE + (value - low) / (high - low) * (self.width() - 2 * SIDE)

    def _value_at(self, x: float) -> float:
        low, high = self._scale or self._range()
        return low + (x - SIDE) / (self.width() - 2 * SIDE) * (high - low)

    def _step(self) -> float:
        """deg or mm: 1, 2 or 5 of a power of ten, not finer than a pixel."""
        pixel = self._value_at(1.0) - self._value_at(0.0)
        pixel = math.degrees(pixel) if self._gauge.dimension == ANGLE else pixel
        power = 10.0 ** math.floor(math.log10(max(pixel, 1e-9)))
        return next(power * k for k in (1, 2, 5, 10) if power * k >= pixel)

    # Painting -----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        evaluation = self._evaluation()
        if evaluation is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t, gauge = self._workbench.theme, self._gauge
        if self._workbench.selection == Selection("joint", self._id):
            painter.fillRect(self.rect(), QColor(t.card))
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.accent), 1.5))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        present = self._present(evaluation)
        painter.setFont(font(13, strong=True))
        words = joint_value_words(evaluation, gauge.joint, present)
        used = painter.fontMetrics().horizontalAdvance(words)
        painter.setPen(QColor(t.ink))
        right = QRectF(self.width() - SIDE - used, 4, used, 18)
        painter.drawText(right, Qt.AlignmentFlag.AlignVCenter, words)
        painter.setFont(font(13))
        wide = self.width() - 36 - used
        title = f"{gauge.title} (driver)" if gauge.is_driver else gauge.title
        title = painter.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, wide)
        painter.drawText(QRectF(SIDE, 4, wide, 18), Qt.AlignmentFlag.AlignVCenter, title)
        self._draw_bar(painter, present)
        self._draw_words(painter, evaluation)

    def _draw_bar(self, painter: QPainter, present: float) -> None:
        t, gauge = self._workbench.theme, self._gauge
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.line))
        painter.drawRoundedRect(QRectF(SIDE, 27, self.width() - 2 * SIDE, 5), 2.5, 2.5)
        painter.setBrush(QColor(t.accent))
        a, b = self.x_of(gauge.low), self.x_of(gauge.high)
        painter.drawRoundedRect(QRectF(a, 27, max(b - a, 2.0), 5), 2.5, 2.5)
        for name, bound, inward in (("least", gauge.least, 4), ("greatest", gauge.greatest, -4)):
            if bound is not None:
                held = self._dragging and self._handle == name
                painter.setPen(QPen(QColor(t.accent if held else t.ink), 2))
                x = self.x_of(bound)
                painter.drawLine(QPointF(x, 22), QPointF(x, 37))
                painter.drawLine(QPointF(x, 22), QPointF(x + inward, 22))
                painter.drawLine(QPointF(x, 37), QPointF(x + inward, 37))
        painter.setPen(QPen(QColor(t.panel), 1.5))
        painter.setBrush(QColor(t.ink))
        painter.drawEllipse(QPointF(self.x_of(present), BAR), 5, 5)

    def _draw_words(self, painter: QPainter, evaluation: Evaluation) -> None:
        gauge, t = self._gauge, self._workbench.theme

        def said(value: float) -> str:
            return joint_value_words(evaluation, gauge.joint, value)

        painter.setFont(font(12))
        painter.setPen(QColor(t.quiet))
        wide = self.width() - 2 * SIDE
        instances = f"uses {said(gauge.low)} to {said(gauge.high)}"
        painter.drawText(QRectF(SIDE, 38, wide, 18), Qt.AlignmentFlag.AlignVCenter, instances)
        spare = [
            f"{evaluation.resolved.units.format(value, gauge.dimension)} {where}"
            for value, where in zip(gauge.spare, ("below", "above"), strict=True)
            if value is not None
        ]
        if spare:
            line = QRectF(SIDE, 38 + SPARE, wide, 18)
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, f"spare {', '.join(spare)}")
