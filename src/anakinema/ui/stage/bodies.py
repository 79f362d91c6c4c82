"""Bodies on the stage: outlines built once per region, then only moved."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import shiboken6
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from anakinema.document import Resolved
from anakinema.geometry import Region, hidden_from_above
from anakinema.ui.theme import Theme, blend

EMPTY = (-160.0, -100.0, 160.0, 100.0)
"""mm; what an empty stage shows."""
FULL_LINE, PALE_LINE, CHOSEN_LINE = 1.3, 0.9, 2.4
"""Pixels of the outlines of what moves, what is fixed, and what is selected."""
PALE = 0.42
"""Share of the paper in the colours of what is fixed, so that it steps back at any zoom."""


def polygon(points: np.ndarray) -> QPolygonF:
    """A polygon from an array (V, 2) without a loop over its points."""
    points = np.ascontiguousarray(points, np.float64)
    result = QPolygonF()
    result.resize(len(points))
    if len(points):
        # The stubs know neither that a polygon gives its memory nor that a pointer is a buffer.
        memory: Any = shiboken6.VoidPtr(result.data(), points.nbytes, True)  # type: ignore[call-arg, arg-type]
        view = np.frombuffer(memory, np.float64)
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


@dataclass(frozen=True, slots=True)
class _Drawn:
    """A slab of a body: between what heights (mm), its path, and whether the slabs above it of the
    same body cover it wholly, so that it is only drawn where one sees through those."""

    bottom: float
    top: float
    body: int
    path: QPainterPath
    covered: bool


class BodyPainter:
    """Draws the slabs of all bodies from low to high."""

    def __init__(self, resolved: Resolved) -> None:
        document = resolved.document
        self.count = len(document.bodies)
        self._slabs: list[_Drawn] = []
        paths: dict[Region, QPainterPath] = {}
        for index, body in enumerate(document.bodies):
            height = float(resolved.heights[index])
            stack = sorted(resolved.part_of(body).slabs, key=lambda slab: (slab.bottom, slab.top))
            regions = [slab.region for slab in stack]
            for slab, covered in zip(stack, hidden_from_above(regions), strict=True):
                if slab.region not in paths:
                    paths[slab.region] = region_path(slab.region)
                path, low, high = paths[slab.region], height + slab.bottom, height + slab.top
                self._slabs.append(_Drawn(low, high, index, path, covered))
        self._slabs.sort(key=lambda slab: (slab.bottom, slab.top))
        self._sticks: list[tuple[int, QPolygonF]] = []
        for index, body in enumerate(document.bodies):
            part = resolved.part_of(body)
            if not part.slabs and part.places:
                points = [QPointF(x, y) for x, y, _ in part.places.values()]
                self._sticks.append((index, QPolygonF([*points, points[0]])))
        self._colours = [document.part(body.part).colour for body in document.bodies]
        self._fixed = [body.fixed for body in document.bodies]
        tops = [slab.top for slab in self._slabs] or [1.0]
        self._top = max(max(tops), 1.0)

    def draw(
        self,
        painter: QPainter,
        view: QTransform,
        poses: np.ndarray,
        theme: Theme,
        selected: frozenset[int],
        hidden: frozenset[int] = frozenset(),
        each_its_own: bool = False,
        moving: bool = False,
    ) -> None:
        """Draw all bodies at poses (B, 3), those without slabs as sticks between their places.

        ``moving`` : it will be drawn anew at once, and lines a pixel wide are drawn in a third of
        the time.
        """
        ink = QColor(theme.shade)
        hues = list(theme.bodies.values())
        is_opaque = painter.opacity() >= 1.0
        for slab in self._slabs:
            body = slab.body
            if body in hidden or (slab.covered and is_opaque):
                continue
            painter.setTransform(placed(poses[body]) * view)
            base = hues[body % len(hues)] if each_its_own else theme.bodies[self._colours[body]]
            lift = 0.16 * min(1.0, max(0.0, slab.top / self._top))
            fill = QColor(blend(base, "#FFFFFF" if theme.name == "light" else "#B8C4CC", lift))
            line, width = theme.shade, FULL_LINE
            if self._fixed[body]:
                fill = blend(fill.name(), theme.stage, PALE)
                line, width = blend(theme.shade, theme.stage, PALE).name(), PALE_LINE
            width = min(width, 1.0) if moving else width
            if body in selected:
                line, width = theme.accent, CHOSEN_LINE
            pen = QPen(QColor(line), width)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(QBrush(fill))
            painter.drawPath(slab.path)
        for body, points in self._sticks:
            if body not in hidden:
                painter.setTransform(placed(poses[body]) * view)
                pen = QPen(QColor(theme.accent) if body in selected else ink, 3.0)
                pen.setCosmetic(True)
                pen.setCapStyle(Qt.PenCapStyle.RoundCap)
                painter.setPen(pen)
                painter.drawPolyline(points)
        painter.resetTransform()

    def draw_ghost(
        self,
        painter: QPainter,
        view: QTransform,
        poses: np.ndarray,
        bodies: set[int],
        ink: QColor,
        heights: np.ndarray | None = None,
    ) -> None:
        """Draw only outlines of some bodies at another pose, and at other ``heights`` (B,) mm where
        those are seen."""
        pen = QPen(ink, 1)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for slab in self._slabs:
            if slab.body in bodies and not self._fixed[slab.body]:
                painter.setTransform(placed(poses[slab.body]) * view)
                painter.drawPath(slab.path)
        for body, points in self._sticks:
            if body in bodies:
                painter.setTransform(placed(poses[body]) * view)
                painter.drawPolyline(points)
        painter.resetTransform()

    def draw_one_ghost(
        self, painter: QPainter, view: QTransform, pose: np.ndarray, body: int, ink: QColor
    ) -> None:
        """Draw only the outline of one body, wherever it would stand."""
        pen = QPen(ink, 1.2)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setTransform(placed(pose) * view)
        for slab in self._slabs:
            if slab.body == body:
                painter.drawPath(slab.path)
        for owner, points in self._sticks:
            if owner == body:
                painter.drawPolyline(points)
        painter.resetTransform()

    def body_at(
        self,
        x: float,
        y: float,
        poses: np.ndarray,
        near: float = 0.0,
        hidden: frozenset[int] = frozenset(),
    ) -> int | None:
        """The uppermost body whose material is at a place (mm), or a stick ``near`` it."""
        for body, points in reversed(self._sticks):
            inverse, _ = placed(poses[body]).inverted()
            if body not in hidden and _away(points, inverse.map(QPointF(x, y))) <= near:
                return body
        for slab in reversed(self._slabs):
            inverse, _ = placed(poses[slab.body]).inverted()
            if slab.body not in hidden and slab.path.contains(inverse.map(QPointF(x, y))):
                return slab.body
        return None

    def extent(self, body: int, poses: np.ndarray) -> QRectF | None:
        """Box around one body, mm; None if it has nothing to show."""
        place = placed(poses[body])
        boxes = [place.mapRect(s.path.boundingRect()) for s in self._slabs if s.body == body]
        boxes += [place.map(points).boundingRect() for b, points in self._sticks if b == body]
        whole = boxes[0] if boxes else None
        for box in boxes[1:]:
            whole = whole.united(box) if whole is not None else box
        return whole

    def bounds(
        self, poses: np.ndarray, without: frozenset[int] = frozenset()
    ) -> tuple[float, float, float, float]:
        """Box around all bodies but some over poses (N, B, 3), mm."""
        low, high = np.full(2, np.inf), np.full(2, -np.inf)
        for slab in self._slabs:
            for pose in poses[:, slab.body] if slab.body not in without else ():
                box = placed(pose).mapRect(slab.path.boundingRect())
                low = np.minimum(low, [box.left(), box.top()])
                high = np.maximum(high, [box.right(), box.bottom()])
        for body, points in self._sticks:
            for pose in poses[:, body] if body not in without else ():
                box = placed(pose).map(points).boundingRect()
                low = np.minimum(low, [box.left(), box.top()])
                high = np.maximum(high, [box.right(), box.bottom()])
        if not np.isfinite(low).all():
            return EMPTY
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def _away(points: QPolygonF, at: QPointF) -> float:
    """Distance of a point from a chain of straight lines."""
    best = math.inf
    for one, two in itertools.pairwise(points.at(k) for k in range(points.size())):
        dx, dy = two.x() - one.x(), two.y() - one.y()
        square = dx * dx + dy * dy
        share = 0.0
        if square > 0:
            share = ((at.x() - one.x()) * dx + (at.y() - one.y()) * dy) / square
            share = min(max(share, 0.0), 1.0)
        x, y = one.x() + share * dx - at.x(), one.y() + share * dy - at.y()
        best = min(best, math.hypot(x, y))
    return best


def placed(pose: np.ndarray) -> QTransform:
    """The transform of a body's pose (x, y, angle)."""
    return QTransform().translate(float(pose[0]), float(pose[1])).rotate(math.degrees(pose[2]))
