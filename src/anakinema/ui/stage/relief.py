"""The assembly in relief: every slab with its height, seen from a corner."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QTransform

from anakinema.document import Resolved
from anakinema.ui.stage.bodies import placed, region_path
from anakinema.ui.theme import Theme, blend

TURN = math.radians(-28)
FLAT = 0.58
"""Share of the plane's depth that is seen."""
RISE = 2.2
"""How much higher than true heights are drawn, so that thin plates read as plates."""
WALL = 1.5
"""Pixels between two strokes of a wall."""


class ReliefPainter:
    """Draws slabs from low to high, each as a wall and a face."""

    def __init__(self, resolved: Resolved) -> None:
        document = resolved.document
        self._slabs: list[tuple[float, float, int, QPainterPath]] = []
        for index, body in enumerate(document.bodies):
            height = float(resolved.heights[index])
            for slab in resolved.part_of(body).slabs:
                entry = (height + slab.bottom, height + slab.top, index, region_path(slab.region))
                self._slabs.append(entry)
        self._slabs.sort(key=lambda entry: entry[:2])
        self._colours = [document.part(body.part).colour for body in document.bodies]

    def base(self, view: QTransform) -> QTransform:
        """From the plane at height 0 to pixels: turned, then foreshortened."""
        c, s = math.cos(TURN), math.sin(TURN)
        return QTransform(c, FLAT * s, -s, FLAT * c, 0, 0) * view

    def draw(
        self,
        painter: QPainter,
        view: QTransform,
        poses: np.ndarray,
        theme: Theme,
        hidden: frozenset[int] = frozenset(),
    ) -> None:
        """Draw all bodies at poses (B, 3)."""
        base = self.base(view)
        rise = RISE * abs(view.m22()) * math.sqrt(1 - FLAT * FLAT)
        ink = QColor(theme.shade)
        for bottom, top, body, path in self._slabs:
            if body in hidden:
                continue
            shape = (placed(poses[body]) * base).map(path)
            shape.setFillRule(Qt.FillRule.OddEvenFill)
            face = QColor(theme.bodies[self._colours[body]])
            wall = blend(face.name(), theme.shade, 0.38)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QBrush(wall))
            sides = max(1, math.ceil(rise * (top - bottom) / WALL))
            for k in range(sides):
                z = bottom + (top - bottom) * k / sides
                painter.drawPath(shape.translated(QPointF(0, -rise * z)))
            painter.setPen(QPen(ink, 1.1))
            painter.setBrush(QBrush(face))
            painter.drawPath(shape.translated(QPointF(0, -rise * top)))
