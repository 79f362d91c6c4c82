"""Joints in depth: the axis of every pin through all that it joins, the way of every slide."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anakinema.authoring import curve_line
from anakinema.depth import Camera
from anakinema.document import Resolved, Way, rod_ends, spec_of
from anakinema.ui.stage.overlays import joint_places
from anakinema.ui.theme import Theme

BEYOND = 0.12
"""Of the height of what a pin joins, what its axis reaches beyond it at either end, at least mm."""
LEAST = 3.0
ARROW = 26.0
"""Pixels of the way of a slide to either side."""


@dataclass(frozen=True, slots=True)
class Axis:
    """A joint as it is seen: the ends of its axis in pixels, the near one last."""

    joint: str
    far: QPointF
    near: QPointF

    def away(self, point: QPointF) -> float:
        """Pixels from a point."""
        along = self.near - self.far
        square = along.x() ** 2 + along.y() ** 2
        off = point - self.far
        share = 0.0 if square < 1e-9 else (off.x() * along.x() + off.y() * along.y()) / square
        foot = self.far + along * min(max(share, 0.0), 1.0)
        return math.hypot(point.x() - foot.x(), point.y() - foot.y())


def axes(
    resolved: Resolved,
    poses: np.ndarray,
    lifts: np.ndarray,
    frames: np.ndarray,
    camera: Camera,
    size: tuple[float, float],
    hidden: frozenset[int],
) -> list[Axis]:
    """All joints of which a body is shown, of planes with ``frames`` (P, 3, 4)."""
    document = resolved.document
    index = {body.id: k for k, body in enumerate(document.bodies)}
    spans: dict[int, tuple[float, float]] = {}
    for k, body in enumerate(document.bodies):
        slabs = resolved.part_of(body).slabs
        height = float(resolved.heights[k] + lifts[k])
        low = min((s.bottom for s in slabs), default=0.0)
        high = max((s.top for s in slabs), default=0.0)
        spans[k] = height + low, height + high
    found: list[Axis] = []
    rods: dict[str, np.ndarray] = {}
    if any(spec_of(joint.kind).is_rod for joint in document.joints):
        ends = rod_ends(resolved, resolved.planes.places(poses, resolved.heights, lifts))
        ids = [j.id for j in document.joints if spec_of(j.kind).is_rod]
        rods = dict(zip(ids, ends, strict=True))
    for joint in document.joints:
        pair = index[joint.first.body], index[joint.second.body]
        if set(pair) <= hidden:
            continue
        if spec_of(joint.kind).is_rod:
            found.append(_between_balls(joint.id, rods[joint.id], camera, size))
            continue
        x, y, _ = joint_places(resolved, joint, poses)[1]
        low = min(spans[k][0] for k in pair)
        high = max(spans[k][1] for k in pair)
        more = max(LEAST, BEYOND * (high - low))
        frame = frames[resolved.planes.of[pair[0]]]
        ends = np.array([[x, y, low - more, 1.0], [x, y, high + more, 1.0]]) @ frame.T
        seen = camera.seen(ends, *size)
        order = (0, 1) if seen[0, 2] <= seen[1, 2] else (1, 0)
        far, near = (QPointF(float(seen[k, 0]), float(seen[k, 1])) for k in order)
        found.append(Axis(joint.id, far, near))
    return found


def _between_balls(joint: str, ends: np.ndarray, camera: Camera, size: tuple[float, float]) -> Axis:
    """A rod from its far ball to its middle, where its sign stands."""
    seen = camera.seen(np.array([ends[0], ends.mean(axis=0)]), *size)
    far, near = (QPointF(float(u), float(v)) for u, v, _ in seen)
    return Axis(joint, far, near)


def draw_axes(
    painter: QPainter,
    found: list[Axis],
    resolved: Resolved,
    poses: np.ndarray,
    frames: np.ndarray,
    camera: Camera,
    size: tuple[float, float],
    theme: Theme,
    selected: str,
) -> None:
    """Axes as dash-dotted lines with the sign of the joint at the near end."""
    joints = {joint.id: joint for joint in resolved.document.joints}
    index = {body.id: k for k, body in enumerate(resolved.document.bodies)}
    pins = [a.near for a in found if spec_of(joints[a.joint].kind).moves]
    for axis in found:
        joint = joints[axis.joint]
        chosen = axis.joint == selected
        beside = [abs(axis.near.x() - pin.x()) for pin in pins]
        if not spec_of(joint.kind).moves and not chosen and min(beside, default=9.0) < 3.0:
            # What is fixed to a pin's axis is quiet beside the pin.
            continue
        ink = QColor(theme.accent if chosen else theme.shade)
        spec = spec_of(joint.kind)
        carrier = index[joint.first.body]
        frame, z = frames[resolved.planes.of[carrier]], float(resolved.heights[carrier])
        dashes = QPen(ink, 1.6 if chosen else 1.0, Qt.PenStyle.DashDotLine)
        painter.setPen(dashes)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawLine(axis.far, axis.near)
        painter.setPen(QPen(ink, 2.0 if chosen else 1.3))
        painter.setBrush(QColor(theme.card))
        at = axis.near
        if spec.has_curve:
            line = curve_line(resolved, joint, poses)
            if len(line):
                flat = np.column_stack([line, np.full(len(line), z), np.ones(len(line))])
                points = camera.seen(flat @ frame.T, *size)
                painter.setPen(QPen(ink, 1.0, Qt.PenStyle.DotLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPolyline(QPolygonF([QPointF(float(u), float(v)) for u, v, _ in points]))
                painter.setPen(QPen(ink, 1.3))
                painter.setBrush(QColor(theme.card))
        if not spec.moves:
            painter.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
        elif spec.is_straight:
            x, y, angle = joint_places(resolved, joint, poses)[0]
            ahead = np.array([[x, y, z, 1.0], [x + math.cos(angle), y + math.sin(angle), z, 1.0]])
            one, two = camera.seen(ahead @ frame.T, *size)[:, :2]
            _arrow(painter, at, QPointF(*(two - one)) / max(camera.scale, 1e-9) * ARROW, ink)
        else:
            painter.drawEllipse(at, 4.5, 4.5)
            painter.setBrush(ink)
            painter.drawEllipse(at, 1.6, 1.6)
            if spec.way is not Way.POINT:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(QRectF(at.x() - 7, at.y() - 7, 14, 14))


def _arrow(painter: QPainter, at: QPointF, reach: QPointF, ink: QColor) -> None:
    """A line both ways, with a head where the joint's value grows."""
    painter.drawLine(at - reach, at + reach)
    size = math.hypot(reach.x(), reach.y())
    painter.setBrush(ink)
    painter.drawEllipse(at, 2.4, 2.4)
    if size < 6.0:
        return
    along = reach / size
    side = QPointF(along.y(), -along.x())
    tip = at + reach
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawPolygon(
        QPolygonF([tip + along * 6, tip - along * 3 + side * 4, tip - along * 3 - side * 4])
    )
