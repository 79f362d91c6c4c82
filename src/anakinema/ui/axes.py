"""Values against pixels: what the strip and the diagrams of cams paint their curves with."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from anakinema.ui.stage.bodies import polygon

CURVE = 1.6
"""Pixels; how wide a curve is drawn."""
ROUNDING = 1e-9
"""Values that differ by no more than this share of them, or of 1, are one value."""


@dataclass(frozen=True, slots=True)
class Axis:
    """Values from ``low`` to ``high`` stand at pixels from ``start`` to ``end``."""

    low: float
    high: float
    start: float
    end: float

    def pixel(self, value: float) -> float:
        """Where a value stands."""
        return self.start + (value - self.low) / (self.high - self.low) * (self.end - self.start)

    def pixels(self, values: np.ndarray) -> np.ndarray:
        """Where values (N,) stand."""
        return self.start + (values - self.low) / (self.high - self.low) * (self.end - self.start)

    def value(self, pixel: float) -> float:
        """What stands at a pixel; the lowest where there is no room."""
        span = self.end - self.start
        return self.low + (pixel - self.start) / span * (self.high - self.low) if span else self.low


def with_room(low: float, high: float, share: float) -> tuple[float, float]:
    """A range with a share of it free at both ends; what stays the same stands in its middle."""
    size, apart = max(abs(low), abs(high), 1.0), high - low
    free = share * (apart if apart > ROUNDING * size else size)
    return low - free, high + free


def draw_curve(
    painter: QPainter, across: Axis, up: Axis, xs: np.ndarray, ys: np.ndarray, pen: QColor | QPen
) -> None:
    """A curve through points (N,), (N,), broken where a value jumps or has no bound."""
    painter.setPen(pen if isinstance(pen, QPen) else QPen(pen, CURVE))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    points = np.column_stack([across.pixels(xs), up.pixels(ys)])
    start = 0
    for stop in [*np.flatnonzero(~np.isfinite(points[:, 1])).tolist(), len(points)]:
        if stop - start > 1:
            painter.drawPolyline(polygon(points[start:stop]))
        start = stop + 1


def draw_level(painter: QPainter, across: Axis, up: Axis, value: float, colour: QColor) -> None:
    """A dashed line at a value, all along."""
    painter.setPen(QPen(colour, 1, Qt.PenStyle.DashLine))
    y = up.pixel(value)
    painter.drawLine(QPointF(across.start, y), QPointF(across.end, y))


def draw_cursor(
    painter: QPainter, across: Axis, value: float, top: float, bottom: float, colour: QColor
) -> None:
    """The line at the value that is shown elsewhere too."""
    painter.setPen(QPen(colour, CURVE))
    x = across.pixel(value)
    painter.drawLine(QPointF(x, top), QPointF(x, bottom))


def round_values(start: float, end: float, angular: bool, pixels: float) -> list[float]:
    """Round values between two, at least 62 pixels apart; rad or mm."""
    unit = math.pi / 180.0 if angular else 1.0
    span = abs(end - start) / unit
    steps = (1, 2, 5, 10, 15, 30, 45, 60, 90, 180, 360) if angular else (1, 2, 5, 10, 20, 50, 100)
    step = next((s for s in steps if span / s * 62 <= pixels), steps[-1])
    low, high = min(start, end) / unit, max(start, end) / unit
    first = math.ceil(low / step - 1e-9)
    return [k * step * unit for k in range(first, math.floor(high / step + 1e-9) + 1)]
