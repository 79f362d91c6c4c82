"""The painted plot: a panel for each unit, one way across, two cursors."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from anakinema.session import Plot, Series
from anakinema.ui.axes import Axis, draw_curve, with_room
from anakinema.ui.guarded import guarded
from anakinema.ui.theme import font
from anakinema.ui.workbench import Workbench
from anakinema.units import Dimension, UnitSystem

LEFT, RIGHT, TOP, BOTTOM = 74, 132, 10, 44
"""Pixels around the panels: scales, names at the curves' ends, the way across."""
BETWEEN = 14
APART = 56
"""Pixels at least between two ticks."""
DASHES = ((), (7, 3), (2, 3), (9, 3, 2, 3), (4, 2))
"""Curves of one panel differ by their dashes as well as by their number."""


@guarded
class PlotCanvas(QWidget):
    """Click puts the first cursor, with Shift the second; arrows move them by a step."""

    moved = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("plot_canvas")
        self.setAccessibleName("plot")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(160)
        self._bench = workbench
        self.plot: Plot | None = None
        self._units = UnitSystem("mm", "deg")
        self.shown: tuple[int, ...] = ()
        """Which series of the plot are on show."""
        self.cursors: list[float | None] = [None, None]
        """Progress of both cursors."""

    def show_plot(self, plot: Plot | None, shown: tuple[int, ...], units: UnitSystem) -> None:
        """Draw other curves, in these units; cursors stay where they are."""
        self.plot, self.shown, self._units = plot, shown, units
        self.update()

    # Geometry ------------------------------------------------------------------------------

    def panels(self) -> list[tuple[Dimension, list[int], QRectF]]:
        """The panels: what they measure, their series, and where they are."""
        if self.plot is None:
            return []
        grouped: dict[Dimension, list[int]] = {}
        for k in self.shown:
            grouped.setdefault(self.plot.series[k].dimension, []).append(k)
        room = self.height() - TOP - BOTTOM
        high = room / max(1, len(grouped))
        wide = max(self.width() - LEFT - RIGHT, 20)
        return [
            (dimension, found, QRectF(LEFT, TOP + k * high, wide, max(high - BETWEEN, 10)))
            for k, (dimension, found) in enumerate(grouped.items())
        ]

    def across(self) -> Axis:
        """Pixels of the quantity across."""
        assert self.plot is not None
        low, high = _span([self.plot.across])
        return Axis(low, high, LEFT, max(self.width() - RIGHT, LEFT + 20))

    def up(self, series: list[int], box: QRectF) -> Axis:
        """Pixels of a panel's quantities."""
        assert self.plot is not None
        low, high = _span([self.plot.series[k] for k in series])
        return Axis(low, high, box.bottom(), box.top())

    def progress_at(self, point: QPointF) -> float | None:
        """The progress whose point of any curve lies nearest to a pixel."""
        plot = self.plot
        if plot is None or not self.shown:
            return None
        x = self.across().pixels(plot.across.values)
        best: tuple[float, float] | None = None
        for _, series, box in self.panels():
            up = self.up(series, box)
            for k in series:
                # Sideways counts more: one points at a place across, seldom at a curve.
                off = np.hypot(x - point.x(), 0.2 * (up.pixels(plot.series[k].values) - point.y()))
                if not np.isfinite(off).any():
                    continue
                row = int(np.nanargmin(off))
                if best is None or off[row] < best[0]:
                    best = float(off[row]), float(plot.progress[row])
        return None if best is None else best[1]

    # Hands ---------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._put(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._put(event)

    def _put(self, event: QMouseEvent) -> None:
        progress = self.progress_at(event.position())
        if progress is not None:
            second = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.put_cursor(int(second), progress)

    def put_cursor(self, which: int, progress: float | None) -> None:
        """Move a cursor; the first carries the playhead along."""
        self.cursors[which] = progress
        if which == 0 and progress is not None:
            self._bench.move_playhead(progress)
        self.update()
        self.moved.emit()

    def event(self, event: QEvent) -> bool:
        # Arrows move the cursors here; elsewhere in the window they step the playhead.
        steps = isinstance(event, QKeyEvent) and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right)
        if steps and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        step = steps.get(Qt.Key(event.key()))
        if step is None or self.plot is None:
            super().keyPressEvent(event)
            return
        which = int(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        progress = self.plot.progress
        here = self.cursors[which]
        begin = self._bench.progress if here is None else here
        row = int(np.argmin(np.abs(progress - begin))) + step
        self.put_cursor(which, float(progress[min(max(row, 0), len(progress) - 1)]))

    # Painting ------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        theme, plot = self._bench.theme, self.plot
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.stage))
        if plot is None or not self.shown:
            painter.setFont(font(13))
            painter.setPen(QColor(theme.quiet))
            words = "Choose below what to draw." if plot is not None else "Nothing moves yet."
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, words)
            return
        across = self.across()
        panels = self.panels()
        for dimension, series, box in panels:
            self._draw_panel(painter, dimension, series, box, across)
        self._draw_across(painter, across, panels[-1][2].bottom())
        self._draw_cursors(painter, across, panels)

    def _draw_panel(
        self, painter: QPainter, dimension: Dimension, series: list[int], box: QRectF, across: Axis
    ) -> None:
        theme, plot = self._bench.theme, self.plot
        assert plot is not None
        up = self.up(series, box)
        units = self._units
        painter.setFont(font(11))
        high = painter.fontMetrics().height()
        for value, words in _ticks(up, units.factor(dimension), box.height()):
            y = up.pixel(value)
            painter.setPen(QPen(QColor(theme.grid), 1))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            painter.setPen(QColor(theme.quiet))
            area = QRectF(0, y - high / 2, LEFT - 8, high)
            painter.drawText(
                area, Qt.AlignmentFlag.AlignRight, f"{words} {units.symbol(dimension)}"
            )
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        painter.save()
        painter.setClipRect(box.adjusted(-1, -1, 1, 1))
        for n, k in enumerate(series):
            pen = QPen(self.colour(k), 1.8)
            if DASHES[n % len(DASHES)]:
                pen.setDashPattern(DASHES[n % len(DASHES)])
            draw_curve(painter, across, up, plot.across.values, plot.series[k].values, pen)
        painter.restore()
        self._draw_names(painter, series, box, up)

    def _draw_names(self, painter: QPainter, series: list[int], box: QRectF, up: Axis) -> None:
        """The number and name of each curve at the right, none over another."""
        plot = self.plot
        assert plot is not None
        painter.setFont(font(11))
        metrics = painter.fontMetrics()
        high, last = metrics.height(), -math.inf
        ends = [(up.pixel(float(plot.series[k].values[-1])), k) for k in series]
        for y, k in sorted(ends):
            top = max(min(max(y, box.top()), box.bottom()) - high / 2, last)
            last = top + high
            words = f"{k + 1} {plot.series[k].title}"
            if metrics.horizontalAdvance(words) > RIGHT - 12:
                # The table beside it says whose number that is.
                words = f"{k + 1}"
            painter.setPen(QColor(self._bench.theme.ink))
            painter.drawText(QPointF(box.right() + 8, top + metrics.ascent()), words)

    def _draw_across(self, painter: QPainter, across: Axis, bottom: float) -> None:
        theme, plot, units = self._bench.theme, self.plot, self._units
        assert plot is not None
        dimension = plot.across.dimension
        painter.setFont(font(11))
        high = painter.fontMetrics().height()
        painter.setPen(QColor(theme.quiet))
        for value, words in _ticks(across, units.factor(dimension), across.end - across.start):
            x = across.pixel(value)
            area = QRectF(x - 50, bottom + 3, 100, high)
            words = f"{words} {units.symbol(dimension)}".replace(" °", "°")
            painter.drawText(area, Qt.AlignmentFlag.AlignHCenter, words)
        painter.setPen(QColor(theme.ink))
        area = QRectF(across.start, bottom + 4 + high, across.end - across.start, high + 2)
        painter.drawText(area, Qt.AlignmentFlag.AlignHCenter, plot.across.title)

    def _draw_cursors(
        self, painter: QPainter, across: Axis, panels: list[tuple[Dimension, list[int], QRectF]]
    ) -> None:
        theme, plot = self._bench.theme, self.plot
        assert plot is not None
        top, bottom = panels[0][2].top(), panels[-1][2].bottom()
        painter.setFont(font(11, strong=True))
        for name, progress, colour in zip("AB", self.cursors, (theme.ink, theme.warn), strict=True):
            if progress is None:
                continue
            values = plot.at(progress)
            x = across.pixel(values[0])
            painter.setPen(QPen(QColor(colour), 1.2))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))
            painter.drawText(QPointF(x + 4, top + painter.fontMetrics().ascent() + 2), name)
            painter.setBrush(QColor(colour))
            for _, series, box in panels:
                up = self.up(series, box)
                for k in series:
                    if math.isfinite(values[k + 1]):
                        painter.drawEllipse(QPointF(x, up.pixel(values[k + 1])), 3, 3)

    def colour(self, series: int) -> QColor:
        """The colour of a series, of enough contrast on the stage."""
        theme = self._bench.theme
        inks = (theme.accent, theme.warn, theme.ink, theme.fail, theme.passed, theme.quiet)
        return QColor(inks[series % len(inks)])


def _span(series: list[Series]) -> tuple[float, float]:
    values = np.concatenate([each.values for each in series])
    good = values[np.isfinite(values)]
    low, high = (float(good.min()), float(good.max())) if len(good) else (0.0, 1.0)
    return with_room(low, high, 0.05)


def _ticks(axis: Axis, factor: float, pixels: float) -> list[tuple[float, str]]:
    """Round values (inside units) with their words in shown units, far enough apart."""
    low, high = axis.low / factor, axis.high / factor
    most = max(pixels / APART, 1.0)
    raw = (high - low) / most
    power = 10.0 ** math.floor(math.log10(raw))
    step = next(power * s for s in (1, 2, 5, 10) if power * s >= raw)
    digits = max(0, -math.floor(math.log10(step) + 1e-9))
    first, last = math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9)
    return [
        (k * step * factor, f"{k * step:.{digits}f}".replace("-", "−"))
        for k in range(first, last + 1)
    ]
