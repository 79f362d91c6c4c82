"""Bodies on the stage: outlines built once per region, then only moved."""

from __future__ import annotations

import math

import numpy as np
import shiboken6
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from anakinema.geometry.region import Region
from anakinema.session import Evaluation
from anakinema.ui.theme import Theme, blend


def polygon(points: np.ndarray) -> QPolygonF:
    """A polygon from an array (V, 2) without a loop over its points."""
    points = np.ascontiguousarray(points, np.float64)
    result = QPolygonF()
    result.resize(len(points))
    if len(points):
        view = np.frombuffer(shiboken6.VoidPtr(result.data(), points.nbytes, True), np.float64)
        view[:] = points.ravel()
    return result


def region_path(region: Region) -> QPainterPath:
    """The outline and holes of a slab as one path, in mm of its body."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for ring in (region.polygon.exterior, *region.polygon.interiors):
        path.addPolygon(polygon(np.asarray(ring.coords)))
        path.closeSubpath()
    return path


class BodyPainter:
    """Draws the slabs of all bodies from low to high."""

    def __init__(self, evaluation: Evaluation) -> None:
        resolved, document = evaluation.resolved, evaluation.document
        self._slabs: list[tuple[float, float, int, QPainterPath]] = []
        paths: dict[Region, QPainterPath] = {}
        for index, body in enumerate(document.bodies):
            for slab in resolved.part_of(body).slabs:
                path = paths.setdefault(slab.region, region_path(slab.region))
                height = float(resolved.heights[index])
                self._slabs.append((height + slab.bottom, height + slab.top, index, path))
        self._slabs.sort(key=lambda entry: entry[:2])
        self._colours = [document.part(body.part).colour for body in document.bodies]
        self._fixed = [body.fixed for body in document.bodies]
        tops = [top for _, top, _, _ in self._slabs] or [1.0]
        self._top = max(max(tops), 1.0)

    def draw(
        self,
        painter: QPainter,
        view: QTransform,
        poses: np.ndarray,
        theme: Theme,
        selected: int | None,
    ) -> None:
        """Draw all bodies at poses (B, 3)."""
        ink = QColor(theme.shade)
        for _, top, body, path in self._slabs:
            painter.setTransform(placed(poses[body]) * view)
            base = theme.bodies[self._colours[body]]
            lift = 0.16 * min(1.0, max(0.0, top / self._top))
            fill = blend(base, "#FFFFFF" if theme.name == "light" else "#B8C4CC", lift)
            if self._fixed[body]:
                fill.setAlpha(215)
            chosen = body == selected
            pen = QPen(QColor(theme.accent) if chosen else ink, 2.4 if chosen else 1.0)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(QBrush(fill))
            painter.drawPath(path)
        painter.resetTransform()

    def draw_ghost(
        self, painter: QPainter, view: QTransform, poses: np.ndarray, bodies: set[int], ink: QColor
    ) -> None:
        """Draw only outlines of some bodies at another pose."""
        pen = QPen(ink, 1)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for _, _, body, path in self._slabs:
            if body in bodies and not self._fixed[body]:
                painter.setTransform(placed(poses[body]) * view)
                painter.drawPath(path)
        painter.resetTransform()

    def body_at(self, x: float, y: float, poses: np.ndarray) -> int | None:
        """The uppermost body whose material is at a place of the plane (mm)."""
        for _, _, body, path in reversed(self._slabs):
            inverse, _ = placed(poses[body]).inverted()
            if path.contains(inverse.map(QPointF(x, y))):
                return body
        return None

    def bounds(self, poses: np.ndarray) -> tuple[float, float, float, float]:
        """Box around all bodies over poses (N, B, 3), mm."""
        low, high = np.full(2, np.inf), np.full(2, -np.inf)
        for _, _, body, path in self._slabs:
            for pose in poses[:, body]:
                box = placed(pose).mapRect(path.boundingRect())
                low = np.minimum(low, [box.left(), box.top()])
                high = np.maximum(high, [box.right(), box.bottom()])
        if not np.isfinite(low).all():
            return (-50.0, -50.0, 50.0, 50.0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def placed(pose: np.ndarray) -> QTransform:
    """The transform of a body's pose (x, y, angle)."""
    return QTransform().translate(float(pose[0]), float(pose[1])).rotate(math.degrees(pose[2]))
