"""What lies on other planes than the one being worked on, seen square to that: thin outlines of
bodies, and rods."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from anakinema.depth import rough_outline
from anakinema.document import Resolved, rod_ends
from anakinema.ui.stage.bodies import BodyPainter
from anakinema.ui.stage.levels import Levels
from anakinema.ui.theme import Theme, blend
from anakinema.ui.workbench import Workbench

LEVEL = 0.9999
"""Cosine of the angle up to which a plane counts as parallel."""


def planes_at(workbench: Workbench, poses: np.ndarray) -> tuple[np.ndarray, list[np.ndarray]]:
    """(3, 4) of the plane being worked on, and of those in which all bodies stand, at poses
    (B, 3)."""
    scene = workbench.scene
    assert scene is not None
    planes, heights = scene.resolved.planes, scene.resolved.heights
    frames = planes.frames(poses, heights)
    found = [frames[of].copy() for of in planes.of]
    for frame, height in zip(found, heights.tolist(), strict=True):
        frame[:, 3] += height * frame[:, 2]
    return frames[workbench.shown_plane()], found


def draw_beyond(
    painter: QPainter,
    workbench: Workbench,
    levels: Levels,
    bodies: BodyPainter,
    poses: np.ndarray,
    hidden: frozenset[int],
) -> None:
    """All of it, but for what is ``hidden``."""
    scene, theme = workbench.scene, workbench.theme
    beyond = levels.beyond - hidden
    if scene is None or not (beyond or any(v.rod for v in scene.resolved.joints)):
        return
    resolved, view = scene.resolved, levels.of(None)
    here, frames = planes_at(workbench, poses)
    places = resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))
    ink = blend(theme.quiet, theme.stage, 0.45)
    across, up = here[:, 0], here[:, 1]
    origin = np.array([here[:, 3] @ across, here[:, 3] @ up])
    for body in beyond:
        if abs(frames[body][:, 2] @ here[:, 2]) > LEVEL:
            bodies.draw_one_ghost(painter, levels.plane_of(body, poses), poses[body], body, ink)
            continue
        painter.setPen(QPen(ink, 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for rim in rough_outline(resolved, body, places[body], across, up):
            painter.drawPolyline(_mapped(rim - origin, view))
    ends = rod_ends(resolved, places)
    _draw_rods(painter, resolved, ends @ here[:, :2] - origin, view, theme, ink)


def _draw_rods(
    painter: QPainter,
    resolved: Resolved,
    ends: np.ndarray,
    view: QTransform,
    theme: Theme,
    ink: QColor,
) -> None:
    """Rods between ends (R, 2, 2) mm, as wide as they are."""
    rods = [values.rod for values in resolved.joints if values.rod is not None]
    for rod, both in zip(rods, ends, strict=True):
        line = _mapped(both, view)
        wide = 2 * rod.radius * math.hypot(view.m11(), view.m12())
        for colour, more in ((ink, 2.0), (QColor(theme.bodies["steel"]), 0.0)):
            pen = QPen(colour, max(wide, 2.0) + more)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPolyline(line)


def _mapped(points: np.ndarray, view: QTransform) -> QPolygonF:
    return QPolygonF([view.map(QPointF(float(x), float(y))) for x, y in points])
