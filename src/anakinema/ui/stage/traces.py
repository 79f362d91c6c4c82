"""Kept paths on the stage: the curve with its time marks and cusps, and how its point moves."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from anakinema.authoring import Trace, TracedPoint
from anakinema.ui.stage.bodies import polygon
from anakinema.ui.stage.tools.base import draw_words
from anakinema.ui.theme import Theme
from anakinema.units import UnitSystem

ARROW = 70.0
"""Pixels of the arrow of the greatest speed, and of the greatest acceleration."""
SHORT = 6.0
"""Pixels below which an arrow is none."""
LARGEST = 3000.0
"""Pixels; larger circles are not drawn."""
SPEED, ACCELERATION = (1, 0, -1, 0), (1, 0, -2, 0)


def draw_trace(painter: QPainter, view: QTransform, trace: Trace, theme: Theme) -> None:
    """The path, a dot at every time mark, a diamond at every cusp."""
    ink = QColor(theme.accent)
    painter.setPen(QPen(ink, 1.5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(view.map(polygon(trace.points)))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    for x, y in trace.marks:
        painter.drawEllipse(view.map(QPointF(x, y)), 2.4, 2.4)
    painter.setPen(QPen(ink, 1.5))
    painter.setBrush(QColor(theme.stage))
    for x, y in trace.cusps:
        at = view.map(QPointF(x, y))
        around = (QPointF(0, -6), QPointF(6, 0), QPointF(0, 6), QPointF(-6, 0))
        painter.drawPolygon(QPolygonF([at + off for off in around]))


def draw_traced_point(
    painter: QPainter,
    view: QTransform,
    trace: Trace,
    now: TracedPoint,
    theme: Theme,
    units: UnitSystem,
) -> None:
    """Velocity and acceleration as arrows, the circle that follows the path, the instant centre."""
    at = view.map(QPointF(*now.at))
    quiet = QColor(theme.quiet)
    scale = math.hypot(view.m11(), view.m12())
    if now.centre is not None and now.radius is not None and now.radius * scale < LARGEST:
        painter.setPen(QPen(quiet, 1, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        centre = view.map(QPointF(*now.centre))
        painter.drawEllipse(centre, now.radius * scale, now.radius * scale)
        painter.drawLine(centre, at)
    if now.pole is not None:
        pole = view.map(QPointF(*now.pole))
        painter.setPen(QPen(quiet, 1, Qt.PenStyle.DashLine))
        painter.drawLine(pole, at)
        painter.setPen(QPen(QColor(theme.ink), 1.4))
        for off in (QPointF(6, 6), QPointF(6, -6)):
            painter.drawLine(pole - off, pole + off)
        if painter.viewport().contains(pole.toPoint()):
            draw_words(painter, pole + QPointF(10, 14), "instant centre", theme)
    for vector, most, colour, dimension in (
        (now.velocity, trace.fastest, theme.accent, SPEED),
        (now.acceleration, trace.hardest, theme.warn, ACCELERATION),
    ):
        size = float(np.hypot(*vector))
        if most <= 0.0 or ARROW * size / most < SHORT:
            continue
        way = view.map(QPointF(now.at[0] + vector[0], now.at[1] + vector[1])) - at
        way = way / math.hypot(way.x(), way.y())
        tip = at + way * (ARROW * size / most)
        painter.setPen(QPen(QColor(colour), 2.2))
        painter.drawLine(at, tip)
        side = QPointF(way.y(), -way.x())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colour))
        painter.drawPolygon(
            QPolygonF([tip + way * 7, tip - way * 3 + side * 5, tip - way * 3 - side * 5])
        )
        words = units.format(size, dimension)
        room = painter.fontMetrics().horizontalAdvance(words) + 30 if way.x() < 0 else 0
        draw_words(painter, tip + way * 10 - QPointF(room, 0), words, theme)
    painter.setPen(QPen(QColor(theme.ink), 1.4))
    painter.setBrush(QColor(theme.accent))
    painter.drawEllipse(at, 4, 4)
