"""What is drawn over the bodies: joints, the smallest gap, travel, ghosts at the extremes."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from anakinema.authoring import ConnectionMark, belt_lines, curve_line
from anakinema.document import Resolved, Rider, Way, model, spec_of
from anakinema.findings import Evaluation, Finding, Outcome, value_words
from anakinema.geometry import carried
from anakinema.ui.stage.bodies import polygon
from anakinema.ui.theme import Theme, font


@lru_cache(maxsize=4)
def body_index(resolved: Resolved) -> dict[str, int]:
    """Index of every body by its id."""
    return {body.id: i for i, body in enumerate(resolved.document.bodies)}


SMALLEST = 0.55
"""Share of their usual size that joint symbols have at least."""
CELL = 9
"""Pixels; of small symbols one is drawn in each cell."""
MARK = 8
"""Pixels: radius of the mark of a coupling or contact."""


def joint_places(
    resolved: Resolved, joint: model.Joint, poses: np.ndarray
) -> list[tuple[float, float, float]]:
    """Both places of a joint in the plane: x, y (mm) and direction (rad)."""
    document, index = resolved.document, body_index(resolved)
    where = []
    for side in (joint.first, joint.second):
        body = index[side.body]
        x, y, angle = resolved.part_of(document.bodies[body]).places[side.place]
        where.append((*carried(poses[body], (x, y)), float(poses[body, 2]) + angle))
    return where


def draw_joints(
    painter: QPainter,
    view: QTransform,
    resolved: Resolved,
    poses: np.ndarray,
    theme: Theme,
    selected: str,
    hidden: frozenset[int] = frozenset(),
) -> None:
    """A symbol at every joint: a pin, a pin in its slot, or a slide with its direction."""
    document, index = resolved.document, body_index(resolved)
    # Smaller where the view is far, and of those that would lie on one another only some.
    size = min(max(math.hypot(view.m11(), view.m12()) ** 0.35, SMALLEST), 1.15)
    taken: set[tuple[int, int]] = set()
    for joint in document.joints:
        if {index[joint.first.body], index[joint.second.body]} <= hidden:
            continue
        where = joint_places(resolved, joint, poses)
        if spec_of(joint.kind).is_rod and index[joint.second.body] in hidden:
            # Of a rod that leaves the plane the ball that stays in it.
            where = where[::-1]
        point = view.map(QPointF(where[1][0], where[1][1]))
        chosen = joint.id == selected
        cell = round(point.x() / CELL), round(point.y() / CELL)
        if size < 0.8 and cell in taken and not chosen:
            continue
        taken.add(cell)
        ink = QColor(theme.accent if chosen else theme.shade)
        painter.setPen(QPen(ink, 2.0 if chosen else 1.3))
        painter.setBrush(QColor(theme.card))
        apart = math.hypot(where[1][0] - where[0][0], where[1][1] - where[0][1])
        spec = spec_of(joint.kind)
        if spec.way is Way.POINT and apart > 1e-4:
            # The two places do not meet: the loop is open here.
            painter.setPen(QPen(QColor(theme.fail), 2.0, Qt.PenStyle.DashLine))
            painter.drawLine(view.map(QPointF(where[0][0], where[0][1])), point)
            painter.setPen(QPen(ink, 2.0 if chosen else 1.3))
        if not spec.moves:
            half = 4.5 * size
            painter.drawRect(QRectF(point.x() - half, point.y() - half, 2 * half, 2 * half))
        elif spec.has_curve:
            _curve(painter, view, curve_line(resolved, joint, poses), ink)
            painter.drawEllipse(point, 5.5 * size, 5.5 * size)
            if spec.rider is Rider.FACE:
                across = QPointF(-math.sin(where[1][2]), -math.cos(where[1][2])) * 12
                painter.drawLine(point - across, point + across)
        elif not spec.is_straight:
            if spec.has_radius:
                _arc(painter, view, resolved, joint, where, ink)
            painter.drawEllipse(point, 5.5 * size, 5.5 * size)
            painter.setBrush(ink)
            painter.drawEllipse(point, 1.8 * size, 1.8 * size)
            if spec.is_rod:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(point, 8.5 * size, 8.5 * size)
            grounded = document.bodies[index[joint.first.body]].fixed
            if grounded and spec.way is Way.POINT:
                _ground(painter, point, ink, theme)
        else:
            painter.save()
            painter.translate(point)
            painter.rotate(-math.degrees(where[0][2]))
            painter.scale(size, size)
            half = 8 if spec.is_pin else 11
            painter.drawRoundedRect(QRectF(-half, -4.5, 2 * half, 9), 4.5, 4.5)
            painter.setBrush(ink)
            if spec.is_pin:
                painter.drawEllipse(QPointF(0, 0), 1.8, 1.8)
            else:
                painter.drawLine(QPointF(-5, 0), QPointF(5, 0))
                painter.drawPolygon(QPolygonF([QPointF(8, 0), QPointF(4, -2.6), QPointF(4, 2.6)]))
            painter.restore()


def _arc(
    painter: QPainter,
    view: QTransform,
    resolved: Resolved,
    joint: model.Joint,
    where: list[tuple[float, float, float]],
    ink: QColor,
) -> None:
    """The arc that a pin or block runs on, a thin dashed circle."""
    index = [each.id for each in resolved.document.joints].index(joint.id)
    radius = resolved.joints[index].radius * view.m11()
    painter.save()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(ink, 1.0, Qt.PenStyle.DotLine))
    painter.drawEllipse(view.map(QPointF(where[0][0], where[0][1])), radius, radius)
    painter.restore()


def _curve(painter: QPainter, view: QTransform, line: np.ndarray, ink: QColor) -> None:
    """The curve that something follows, thin and dotted."""
    painter.save()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(ink, 1.0, Qt.PenStyle.DotLine))
    painter.drawPolyline(view.map(polygon(line)))
    painter.restore()


def draw_belts(
    painter: QPainter,
    view: QTransform,
    resolved: Resolved,
    poses: np.ndarray,
    theme: Theme,
    plane: str,
) -> None:
    """Belts and chains of a plane where they lie, as thick as they are stated to be."""
    document = resolved.document
    if not document.belts:
        return
    painter.save()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for belt, (line, thickness) in zip(document.belts, belt_lines(resolved, poses), strict=True):
        wheel = document.joint(belt.wheels[0].joint).second.body
        if document.body(wheel).plane != plane:
            continue
        width = max(3.0, thickness * math.hypot(view.m11(), view.m12()))
        painter.setPen(QPen(QColor(theme.shade), width))
        painter.drawPolyline(view.map(polygon(line)))
    painter.restore()


def draw_connections(
    painter: QPainter,
    view: QTransform,
    marks: tuple[ConnectionMark, ...],
    theme: Theme,
    chosen: tuple[str, str],
) -> None:
    """Couplings as two rings that meet, contacts as a wedge on a line; the chosen one in full."""
    painter.save()
    for mark in marks:
        is_chosen = (mark.kind, mark.id) == chosen
        ink = QColor(theme.accent if is_chosen else theme.quiet)
        at = view.map(QPointF(mark.x, mark.y))
        ends = [view.map(QPointF(x, y)) for x, y in mark.ends]
        painter.setPen(QPen(ink, 1.4 if is_chosen else 1.0, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawLine(ends[0], ends[1])
        painter.setPen(QPen(ink, 1.8))
        painter.setBrush(QColor(theme.card))
        painter.drawEllipse(at, MARK, MARK)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if mark.kind == "coupling":
            for dx in (-2.2, 2.2):
                painter.drawEllipse(at + QPointF(dx, 0), 2.6, 2.6)
        else:
            painter.drawPolyline(
                QPolygonF([at + QPointF(-3.5, -3), at + QPointF(0, 3), at + QPointF(3.5, -3)])
            )
    painter.restore()


def draw_belt_ghost(
    painter: QPainter,
    view: QTransform,
    resolved: Resolved,
    poses: np.ndarray,
    belt: int,
    ink: QColor,
) -> None:
    """A belt or chain as a thin line where it lies at other poses."""
    line, _ = belt_lines(resolved, poses)[belt]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(ink, 1.2))
    painter.drawPolyline(view.map(polygon(line)))


def draw_direction(
    painter: QPainter,
    view: QTransform,
    resolved: Resolved,
    joint: model.Joint,
    poses: np.ndarray,
    theme: Theme,
) -> None:
    """The positive direction of a joint, with its zero as a short mark."""
    where = joint_places(resolved, joint, poses)
    index = [each.id for each in resolved.document.joints].index(joint.id)
    zero = resolved.joints[index].zero
    accent = QColor(theme.accent)
    painter.setPen(QPen(accent, 2.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    point = view.map(QPointF(where[1][0], where[1][1]))
    if spec_of(joint.kind).is_straight:
        along = QPointF(math.cos(where[0][2]), -math.sin(where[0][2]))
        side = QPointF(along.y(), -along.x())
        tip, start = point + along * 46 + side * 14, point + along * 18 + side * 14
        painter.drawLine(start, tip)
        _head(painter, tip, along, accent)
        base = view.map(QPointF(where[0][0], where[0][1])) + along * (zero * view.m11())
        painter.setPen(QPen(accent, 1.5))
        painter.drawLine(base - side * 9, base + side * 9)
        return
    begin = where[0][2] + zero
    box = QRectF(point.x() - 26, point.y() - 26, 52, 52)
    painter.drawArc(box, round(16 * math.degrees(begin)), 16 * 70)
    end = begin + math.radians(70)
    tip = point + QPointF(26 * math.cos(end), -26 * math.sin(end))
    _head(painter, tip, QPointF(-math.sin(end), -math.cos(end)), accent)
    painter.setPen(QPen(accent, 1.5))
    zero_at = QPointF(math.cos(begin), -math.sin(begin))
    painter.drawLine(point + zero_at * 20, point + zero_at * 32)


def _head(painter: QPainter, tip: QPointF, along: QPointF, ink: QColor) -> None:
    side = QPointF(along.y(), -along.x())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    painter.drawPolygon(
        QPolygonF([tip + along * 5, tip - along * 4 + side * 4.5, tip - along * 4 - side * 4.5])
    )
    painter.setBrush(Qt.BrushStyle.NoBrush)


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
    ends: tuple[QPointF, QPointF],
    evaluation: Evaluation,
    finding: Finding,
    theme: Theme,
    area: QRectF,
) -> None:
    """The two closest points of a gap finding, with its value on a tag beside them."""
    gap = finding.gap
    if gap is None:
        return
    one, other = ends
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
    painter: QPainter, ends: tuple[QPointF, QPointF], words: str, theme: Theme, lift: float
) -> None:
    """A dimension line between two places, beside the travel it measures."""
    one, other = ends
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
