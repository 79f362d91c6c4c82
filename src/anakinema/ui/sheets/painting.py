"""A sheet on the screen: the same marks that the files are made of."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPainterPath, QPen

from anakinema.record import Line, Mark, Shape, Text, curves
from anakinema.ui.theme import UI_FONT

FINE = 100
"""Pixels of the font that words are drawn with, and scaled from."""


def paint_marks(painter: QPainter, marks: tuple[Mark, ...]) -> None:
    """Marks in mm, y upwards; the painter is scaled to mm already, y downwards from the upper
    edge."""
    for mark in marks:
        if isinstance(mark, Text):
            _words(painter, mark)
        else:
            _lines(painter, mark)


def _lines(painter: QPainter, mark: Line | Shape) -> None:
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for line in mark.rings if isinstance(mark, Shape) else (mark,):
        path.moveTo(*line.start)
        at = line.start
        for edge in line.edges:
            if edge.centre is None:
                path.lineTo(*edge.to)
            else:
                for x1, y1, x2, y2, x3, y3 in curves(at, edge):
                    path.cubicTo(x1, y1, x2, y2, x3, y3)
            at = edge.to
        if line.closed:
            path.closeSubpath()
    pen = QPen(Qt.PenStyle.NoPen)
    if mark.pen is not None:
        pen = QPen(QColor(mark.pen.colour), mark.pen.width)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        if mark.pen.dashes:
            # Counted in widths of the pen.
            pen.setDashPattern([max(d / mark.pen.width, 0.01) for d in mark.pen.dashes])
    painter.setPen(pen)
    painter.setBrush(QColor(mark.fill) if mark.fill is not None else Qt.BrushStyle.NoBrush)
    painter.drawPath(path)


def _words(painter: QPainter, mark: Text) -> None:
    font = QFont(UI_FONT)
    font.setPixelSize(FINE)
    font.setWeight(QFont.Weight.DemiBold if mark.strong else QFont.Weight.Normal)
    wide = QFontMetricsF(font).horizontalAdvance(mark.words)
    path = QPainterPath()
    path.addText(
        QPointF(-wide * {"start": 0.0, "middle": 0.5, "end": 1.0}[mark.anchor], 0.0),
        font,
        mark.words,
    )
    painter.save()
    painter.translate(*mark.at)
    painter.rotate(math.degrees(mark.angle))
    scale = mark.size * 1.36 / FINE
    # Words stand upright where y goes up.
    painter.scale(scale, -scale)
    painter.fillPath(path, QColor("#000000"))
    painter.restore()
