"""The centre of mass of all that moves: its way over the motion, and where it is now."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QTransform

from anakinema.record import centre_of_mass
from anakinema.ui.stage.bodies import polygon
from anakinema.ui.stage.tools.base import draw_words
from anakinema.ui.workbench import Workbench

ROUND = 8.0
"""Pixels, radius of the sign."""


class MassPath:
    """Keeps the way of the newest motion."""

    def __init__(self, workbench: Workbench) -> None:
        self._bench = workbench
        self.on = False
        self._kept: tuple[object, np.ndarray | None] | None = None

    def path(self) -> np.ndarray | None:
        """(N, 2) mm at the samples; None where nothing that moves has a material."""
        evaluation = self._bench.evaluation
        if evaluation is None:
            return None
        if self._kept is None or self._kept[0] is not evaluation:
            found = centre_of_mass(evaluation.resolved, evaluation.motion.poses)
            self._kept = evaluation, found
        return self._kept[1]

    def draw(self, painter: QPainter, view: QTransform, poses: np.ndarray) -> None:
        """The way as a dotted line, and the sign of a centre of mass at poses (B, 3)."""
        evaluation, path = self._bench.evaluation, self.path()
        if not self.on or evaluation is None or path is None:
            return
        if len(poses) != len(evaluation.resolved.poses):
            return
        theme = self._bench.theme
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(theme.ink), 1.4, Qt.PenStyle.DotLine))
        painter.drawPolyline(view.map(polygon(path)))
        now = centre_of_mass(evaluation.resolved, poses[None])
        assert now is not None
        at = view.map(QPointF(float(now[0, 0]), float(now[0, 1])))
        box = QRectF(at.x() - ROUND, at.y() - ROUND, 2 * ROUND, 2 * ROUND)
        painter.setPen(QPen(QColor(theme.ink), 1.4))
        painter.setBrush(QColor(theme.stage))
        painter.drawEllipse(at, ROUND, ROUND)
        painter.setBrush(QColor(theme.ink))
        for quarter in (0, 180):
            painter.drawPie(box, quarter * 16, 90 * 16)
        draw_words(painter, at + QPointF(ROUND + 6, ROUND + 8), "centre of mass", theme)
