"""The plumb: a small picture of the plane and of the pins' direction that turns the view.

A disc is the plane, the line through it the pins' direction with a ring on the upper side and a bob
on the lower. It is dragged to turn the view; a click on the ring looks square down, on the bob from
below, on the rim of the disc along the plane, within the disc from a corner.
"""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anakinema.depth import Camera
from anakinema.ui.theme import Theme

REACH, DISC, LINE = 46.0, 30.0, 36.0
"""Pixels: of the whole, of the disc, and of the line to either side of it."""
RIM = 6.0
SQUARE, EDGE, CORNER, BELOW = "square", "edge", "corner", "below"


LEAST = 280.0
"""Pixels of a picture that has room for it, in width and height."""


def has_room(width: float, height: float) -> bool:
    """Whether it hangs in a picture of a size; the keys do the same."""
    return min(width, height) >= LEAST


def plumb_middle(width: float, height: float) -> QPointF:
    """Where it hangs in a picture of a size."""
    return QPointF(width - REACH - 10.0, height - REACH - 10.0)


def _ends(camera: Camera, middle: QPointF) -> tuple[QPointF, QPointF]:
    """Where the ring and the bob are."""
    _, up, _ = camera.axes
    rise = float(up[2]) * LINE
    return middle - QPointF(0.0, rise), middle + QPointF(0.0, rise)


def on_plumb(camera: Camera, middle: QPointF, point: QPointF) -> str | None:
    """Which look a click there asks for; None beside it."""
    away = point - middle
    if math.hypot(away.x(), away.y()) > REACH:
        return None
    ring, bob = _ends(camera, middle)
    for end, look in ((ring, SQUARE), (bob, BELOW)):
        off = point - end
        if math.hypot(off.x(), off.y()) <= 8.0 and abs(ring.y() - bob.y()) > 14.0:
            return look
    flat = max(abs(math.sin(camera.tilt)), 0.08)
    out = math.hypot(away.x(), away.y() / flat)
    return EDGE if abs(out - DISC) <= RIM / flat**0.5 else CORNER


def draw_plumb(painter: QPainter, camera: Camera, middle: QPointF, theme: Theme) -> None:
    """The disc with a mark along the plane's x, and the line of the pins."""
    right, up, toward = camera.axes
    ink, quiet = QColor(theme.ink), QColor(theme.quiet)
    card = QColor(theme.card)
    card.setAlphaF(0.85)
    painter.setPen(QPen(QColor(theme.line), 1))
    painter.setBrush(card)
    painter.drawEllipse(middle, REACH, REACH)
    turns = np.linspace(0.0, 2.0 * math.pi, 49)
    rim = np.column_stack([np.cos(turns), np.sin(turns), np.zeros_like(turns)]) * DISC
    points = [QPointF(float(p @ right), -float(p @ up)) + middle for p in rim]
    ring, bob = _ends(camera, middle)
    is_above = toward[2] >= 0.0
    accent = QColor(theme.accent)
    accent.setAlphaF(0.28)

    def line(end: QPointF) -> None:
        painter.setPen(QPen(ink, 1.6))
        painter.drawLine(middle, end)

    def upper() -> None:
        line(ring)
        painter.setBrush(card)
        painter.drawEllipse(ring, 4.0, 4.0)

    def lower() -> None:
        line(bob)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        down = QPointF(0.0, 1.0 if bob.y() >= ring.y() else -1.0)
        side = QPointF(4.0, 0.0)
        painter.drawPolygon(
            QPolygonF([bob - side - down * 3, bob + side - down * 3, bob + down * 6])
        )

    (lower if is_above else upper)()
    painter.setPen(QPen(quiet, 1.2))
    painter.setBrush(accent)
    painter.drawPolygon(QPolygonF(points))
    mark = np.array([DISC, 0.0, 0.0])
    painter.drawLine(middle, QPointF(float(mark @ right), -float(mark @ up)) + middle)
    (upper if is_above else lower)()
