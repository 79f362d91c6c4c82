"""Outlines of bodies as they stand in space, for ghosts; all else as seen from above."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from anakinema.document import Resolved
from anakinema.ui.stage.bodies import BodyPainter, placed, region_path


class DepthBodies(BodyPainter):
    """Draws ghosts at the heights of their slabs, whatever plane they are asked for in."""

    def __init__(
        self,
        resolved: Resolved,
        level: Callable[[float, np.ndarray], QTransform],
        frames: Callable[[], np.ndarray],
    ) -> None:
        """``level`` : from a height (mm) over a plane with a frame to pixels. ``frames`` :
        (P, 3, 4) of all planes as they are on show."""
        super().__init__(resolved)
        self._level, self._frames, self._planes = level, frames, resolved.planes
        self._heights = resolved.heights
        self._outlines: list[tuple[int, float, float, QPainterPath]] = [
            (k, slab.bottom, slab.top, region_path(slab.region))
            for k, body in enumerate(resolved.document.bodies)
            for slab in resolved.part_of(body).slabs
        ]

    def draw_ghost(
        self,
        painter: QPainter,
        view: QTransform,
        poses: np.ndarray,
        bodies: set[int],
        ink: QColor,
        heights: np.ndarray | None = None,
    ) -> None:
        heights = self._heights if heights is None else heights
        frames = self._planes.frames(poses, heights)
        for body in bodies:
            if not self._fixed[body]:
                frame = frames[self._planes.of[body]]
                self._outline(painter, poses[body], body, float(heights[body]), frame, ink)
        self._draw_sticks(painter, poses, bodies, ink)

    def draw_one_ghost(
        self, painter: QPainter, view: QTransform, pose: np.ndarray, body: int, ink: QColor
    ) -> None:
        frame = self._frames()[self._planes.of[body]]
        self._outline(painter, pose, body, float(self._heights[body]), frame, ink)

    def _outline(
        self,
        painter: QPainter,
        pose: np.ndarray,
        body: int,
        height: float,
        frame: np.ndarray,
        ink: QColor,
    ) -> None:
        pen = QPen(ink, 1.2)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for owner, low, high, path in self._outlines:
            if owner == body:
                for z in (low, high):
                    # Mapped, not drawn through: lines stay as wide whatever the projection.
                    painter.drawPath((placed(pose) * self._level(height + z, frame)).map(path))

    def _draw_sticks(
        self, painter: QPainter, poses: np.ndarray, bodies: set[int], ink: QColor
    ) -> None:
        painter.setPen(QPen(ink, 1.2))
        frames = self._frames()
        for body, points in self._sticks:
            if body in bodies:
                level = self._level(float(self._heights[body]), frames[self._planes.of[body]])
                painter.drawPolyline((placed(poses[body]) * level).map(points))

    def draw_sticks(
        self,
        painter: QPainter,
        poses: np.ndarray,
        selected: frozenset[int],
        inks: tuple[QColor, QColor],
    ) -> None:
        """Bodies that have no slabs, as lines between their places."""
        frames = self._frames()
        for body, points in self._sticks:
            pen = QPen(inks[body in selected], 3.0)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            level = self._level(float(self._heights[body]), frames[self._planes.of[body]])
            painter.drawPolyline((placed(poses[body]) * level).map(points))
