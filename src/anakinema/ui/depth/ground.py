"""Lines of the depth view that belong to no body: the floor, trails of what is apart, a rim."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anakinema.authoring import PlacedSnap
from anakinema.depth import LEVEL
from anakinema.ui.depth.space import Space
from anakinema.ui.stage.view import nice_step
from anakinema.ui.theme import Theme, font
from anakinema.units import LENGTH

MOST = 400
"""Lines of the floor either way."""


def draw_floor(painter: QPainter, space: Space, theme: Theme) -> None:
    """The grid as a floor under all that stands, and how wide it is."""
    box = space.box()
    step = nice_step(space.camera.scale, 44)
    room = 0.3 * float((box[1] - box[0])[:2].max())
    low = np.floor((box[0, :2] - room) / step) * step
    high = np.ceil((box[1, :2] + room) / step) * step
    level = space.level(float(box[0, 2]), LEVEL)
    painter.setPen(QPen(QColor(theme.grid), 1))
    (left, near), (right, far) = low.tolist(), high.tolist()
    for k in range(min(MOST, round((right - left) / step)) + 1):
        x = left + k * step
        painter.drawLine(level.map(QPointF(x, near)), level.map(QPointF(x, far)))
    for k in range(min(MOST, round((far - near) / step)) + 1):
        y = near + k * step
        painter.drawLine(level.map(QPointF(left, y)), level.map(QPointF(right, y)))
    if space.standing is not None:
        units = space.standing[0].resolved.units
        painter.setFont(font(12))
        painter.setPen(QColor(theme.quiet))
        words = f"grid {units.format(step, LENGTH, 0)}"
        painter.drawText(12, round(space.size[1]) - 12, words)


def draw_trails(painter: QPainter, space: Space, theme: Theme) -> None:
    """Lines between bodies that a pin joins, while they are apart."""
    painter.setPen(QPen(QColor(theme.quiet), 1, Qt.PenStyle.DashLine))
    # Bodies are pulled apart in the first plane.
    frame = space.frames()[0]
    for trail in space.trails():
        ends = np.array([[trail.x, trail.y, z] for z in (trail.low, trail.high)])
        seen = space.camera.seen(ends @ frame[:, :3].T + frame[:, 3], *space.size)
        (a, b), (c, d) = seen[:, :2].tolist()
        painter.drawLine(QPointF(a, b), QPointF(c, d))


def draw_rim(painter: QPainter, space: Space, snap: PlacedSnap, theme: Theme) -> None:
    """The rim that a tool in hand would take."""
    if space.standing is None:
        return
    index = space.standing[0].index(snap.body)
    radius = next(
        (
            each.radius
            for each in space.rounds
            if each.body == index and math.hypot(each.x - snap.snap.x, each.y - snap.snap.y) < 1e-6
        ),
        None,
    )
    if radius is None:
        return
    turns = np.linspace(0.0, 2 * math.pi, 65)
    frame = space.frame_of(index)
    circle = radius * np.column_stack([np.cos(turns), np.sin(turns)])
    seen = space.camera.seen(space.place_of(snap) + circle @ frame[:, :2].T, *space.size)
    painter.setPen(QPen(QColor(theme.accent), 2.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(QPolygonF([QPointF(u, v) for u, v, _ in seen.tolist()]))
