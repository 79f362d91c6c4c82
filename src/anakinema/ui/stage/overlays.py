"""What is drawn over the bodies: joints, the smallest gap, travel, ghosts at the extremes."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from anakinema.session import Evaluation, Finding, Outcome, value_words
from anakinema.ui.theme import Theme, font


def draw_joints(
    painter: QPainter,
    view: QTransform,
    evaluation: Evaluation,
    poses: np.ndarray,
    theme: Theme,
    selected: str,
) -> None:
    """A symbol at every joint: a pin, a pin in its slot, or a slide with its direction."""
    document, resolved = evaluation.document, evaluation.resolved
    index = {body.id: i for i, body in enumerate(document.bodies)}
    for joint in document.joints:
        where = []
        for side in (joint.first, joint.second):
            body = index[side.body]
            x, y, angle = resolved.part_of(document.bodies[body]).places[side.place]
            px, py, turn = poses[body]
            c, s = math.cos(turn), math.sin(turn)
            where.append((px + c * x - s * y, py + s * x + c * y, turn + angle))
        point = view.map(QPointF(where[1][0], where[1][1]))
        chosen = joint.id == selected
        ink = QColor(theme.accent if chosen else theme.shade)
        painter.setPen(QPen(ink, 2.0 if chosen else 1.3))
        painter.setBrush(QColor(theme.card))
        if joint.kind in ("revolute", "rigid"):
            painter.drawEllipse(point, 5.5, 5.5)
            if joint.kind == "revolute":
                painter.setBrush(ink)
                painter.drawEllipse(point, 1.8, 1.8)
            grounded = document.bodies[index[joint.first.body]].fixed
            if grounded:
                _ground(painter, point, ink, theme)
        else:
            painter.save()
            painter.translate(point)
            painter.rotate(-math.degrees(where[0][2]))
            half = 11 if joint.kind == "prismatic" else 8
            painter.drawRoundedRect(QRectF(-half, -4.5, 2 * half, 9), 4.5, 4.5)
            painter.setBrush(ink)
            if joint.kind == "pin_in_slot":
                painter.drawEllipse(QPointF(0, 0), 1.8, 1.8)
            else:
                painter.drawLine(QPointF(-5, 0), QPointF(5, 0))
                painter.drawPolygon(QPolygonF([QPointF(8, 0), QPointF(4, -2.6), QPointF(4, 2.6)]))
            painter.restore()


def _ground(painter: QPainter, point: QPointF, ink: QColor, theme: Theme) -> None:
    """Short strokes under a joint on a fixed body."""
    painter.setPen(QPen(ink, 1.0))
    for k in range(-2, 3):
        x = point.x() + 3.4 * k
        painter.drawLine(QPointF(x, point.y() + 9), QPointF(x - 3, point.y() + 13))
    painter.drawLine(QPointF(point.x() - 9, point.y() + 9), QPointF(point.x() + 9, point.y() + 9))


def outcome_colour(outcome: Outcome, theme: Theme) -> QColor:
    """Colour of an outcome; a shape and a word always stand beside it."""
    return QColor(
        {
            Outcome.PASS: theme.passed,
            Outcome.WARN: theme.warn,
            Outcome.FAIL: theme.fail,
            Outcome.UNKNOWN: theme.quiet,
        }[outcome]
    )


def draw_gap(
    painter: QPainter,
    view: QTransform,
    evaluation: Evaluation,
    finding: Finding,
    theme: Theme,
    area: QRectF,
) -> None:
    """The two closest points of a gap finding, with its value on a tag beside them."""
    gap = finding.gap
    if gap is None:
        return
    one, other = view.map(QPointF(*gap.first_point)), view.map(QPointF(*gap.second_point))
    colour = outcome_colour(finding.outcome, theme)
    painter.setPen(QPen(colour, 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawLine(one, other)
    middle = (one + other) / 2
    radius = max(9.0, math.hypot(one.x() - other.x(), one.y() - other.y()) / 2 + 5)
    painter.drawEllipse(middle, radius, radius)
    words = f"gap {value_words(evaluation, finding)}"
    if gap.overlaps:
        words = value_words(evaluation, finding)
    tag(painter, middle, words, colour, theme, area, radius)


def tag(
    painter: QPainter,
    at: QPointF,
    words: str,
    colour: QColor,
    theme: Theme,
    area: QRectF,
    clear: float,
) -> None:
    """A filled tag with words, joined to a point by a thin line and kept on the stage."""
    painter.setFont(font(13, strong=True))
    width = painter.fontMetrics().horizontalAdvance(words) + 20
    box = QRectF(0, 0, width, 26)
    below = at.y() + clear + 60 < area.bottom()
    box.moveCenter(QPointF(at.x() + 46, at.y() + (clear + 34) * (1 if below else -1)))
    box.moveLeft(min(max(box.left(), area.left() + 8), area.right() - box.width() - 8))
    box.moveTop(min(max(box.top(), area.top() + 8), area.bottom() - 34))
    painter.setPen(QPen(colour, 1.2))
    direction = box.center() - at
    length = math.hypot(direction.x(), direction.y()) or 1.0
    painter.drawLine(at + direction * (clear / length), box.center())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawRoundedRect(box, 6, 6)
    painter.setPen(QColor(theme.card if theme.name == "light" else "#10151A"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def draw_travel(
    painter: QPainter,
    view: QTransform,
    ends: tuple[tuple[float, float], tuple[float, float]],
    words: str,
    theme: Theme,
    lift: float,
) -> None:
    """A dimension line between two places of the plane, beside the travel it measures."""
    one, other = view.map(QPointF(*ends[0])), view.map(QPointF(*ends[1]))
    along = other - one
    length = math.hypot(along.x(), along.y())
    if length < 4:
        return
    unit = along / length
    normal = QPointF(unit.y(), -unit.x())
    if normal.y() > 0:
        normal = -normal
    a, b = one + normal * lift, other + normal * lift
    accent = QColor(theme.accent)
    painter.setPen(QPen(accent, 1.2))
    painter.drawLine(a, b)
    for start, end in ((one, a), (other, b)):
        painter.drawLine(start + normal * 6, end + normal * 6)
    painter.setFont(font(13, strong=True))
    width = painter.fontMetrics().horizontalAdvance(words) + 24
    box = QRectF(0, 0, width, 22)
    box.moveCenter((a + b) / 2)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(accent)
    painter.drawRoundedRect(box, 11, 11)
    painter.setPen(QColor(theme.on_accent))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
