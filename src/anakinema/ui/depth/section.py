"""The section plane of the depth view: drawn, and dragged through anything at any angle."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anakinema.depth import Camera, Plane, Ray
from anakinema.ui.theme import Theme

SHAFT = 64.0
"""Pixels from the plane's middle to its ball."""
NEAR = 10.0
"""Pixels within which it is taken hold of."""
STEP = math.radians(15.0)
"""Directions that the plane settles in, unless it is held off them."""
MOVE, TURN = "move", "turn"


@dataclass(frozen=True, slots=True)
class Section:
    """A plane through a point (mm); its normal by the angle of its level part and its rise, rad."""

    through: tuple[float, float, float]
    turn: float
    rise: float = 0.0

    @property
    def normal(self) -> np.ndarray:
        """(3,) of length 1."""
        level = math.cos(self.rise)
        found = np.array(
            [level * math.cos(self.turn), level * math.sin(self.turn), math.sin(self.rise)]
        )
        return np.asarray(found / np.linalg.norm(found))

    @property
    def plane(self) -> Plane:
        """As what cuts."""
        x, y, z = (float(v) for v in self.normal)
        return Plane((x, y, z), float(self.normal @ np.asarray(self.through)))

    def moved(self, mm: float) -> Section:
        """Along its normal."""
        x, y, z = np.asarray(self.through) + mm * self.normal
        return replace(self, through=(float(x), float(y), float(z)))

    def facing(self, normal: np.ndarray, *, free: bool) -> Section:
        """With another normal, in whole steps unless ``free``."""
        turn = math.atan2(normal[1], normal[0])
        rise = math.asin(min(max(float(normal[2]), -1.0), 1.0))
        if math.hypot(normal[0], normal[1]) < 1e-9:
            turn = self.turn
        if not free:
            turn, rise = (round(angle / STEP) * STEP for angle in (turn, rise))
        return replace(self, turn=turn, rise=rise)

    @property
    def words(self) -> str:
        """Which way it cuts."""
        if abs(self.rise) > math.radians(89.5):
            return "level"
        degrees = math.degrees(self.turn) % 360.0
        lean = "" if abs(self.rise) < 1e-6 else f", leaning {math.degrees(self.rise):.4g} deg"
        return f"square to {degrees:.4g} deg{lean}"


def first_section(camera: Camera, box: np.ndarray, through: np.ndarray | None) -> Section:
    """An upright plane that cuts away the side towards the eye, through a place or the middle."""
    _, up, toward = camera.axes
    at = box.mean(axis=0) if through is None else through
    # Looked at square from above the upper side of the picture is taken for its back.
    level = toward if math.hypot(toward[0], toward[1]) > 0.1 else -up
    turn = round(math.atan2(level[1], level[0]) / (math.pi / 2)) * (math.pi / 2)
    return Section((float(at[0]), float(at[1]), float(at[2])), turn)


def held_part(
    section: Section, camera: Camera, size: tuple[float, float], point: QPointF
) -> str | None:
    """What of the handle is under a pixel."""
    base, ball = _handle(section, camera, size)
    off = point - ball
    if math.hypot(off.x(), off.y()) <= NEAR:
        return TURN
    along = ball - base
    square = max(along.x() ** 2 + along.y() ** 2, 1e-9)
    share = ((point - base).x() * along.x() + (point - base).y() * along.y()) / square
    foot = base + along * min(max(share, 0.0), 1.0)
    away = point - foot
    return MOVE if math.hypot(away.x(), away.y()) <= NEAR else None


def pulled(section: Section, camera: Camera, size: tuple[float, float], delta: QPointF) -> Section:
    """Moved along its normal by a drag of so many pixels."""
    base = np.asarray(section.through)
    one, two = camera.seen(np.array([base, base + section.normal]), *size)[:, :2]
    step = two - one
    long = float(np.hypot(*step))
    if long < 0.15 * camera.scale:
        # Seen along its normal: up is towards the eye.
        return section.moved(-delta.y() / camera.scale)
    return section.moved(float(step @ [delta.x(), delta.y()]) / long**2)


def tilted(section: Section, camera: Camera, ray: Ray, *, free: bool) -> Section:
    """With its ball under a line of sight."""
    middle = np.asarray(section.through)
    radius = SHAFT / camera.scale
    to = middle - ray.start
    nearest = ray.at(float(to @ ray.along))
    off = nearest - middle
    away = float(np.linalg.norm(off))
    if away < radius:
        # On the half of the ball's way that is towards the eye.
        off = off - math.sqrt(radius**2 - away**2) * ray.along
    size = float(np.linalg.norm(off))
    return section if size < 1e-9 else section.facing(off / size, free=free)


def _handle(section: Section, camera: Camera, size: tuple[float, float]) -> tuple[QPointF, QPointF]:
    base = np.asarray(section.through)
    ends = np.array([base, base + section.normal * SHAFT / camera.scale])
    (a, b), (c, d) = camera.seen(ends, *size)[:, :2]
    return QPointF(float(a), float(b)), QPointF(float(c), float(d))


def draw_section(
    painter: QPainter,
    section: Section,
    camera: Camera,
    size: tuple[float, float],
    box: np.ndarray,
    theme: Theme,
) -> None:
    """The edge of the plane round all that stands, and its handle."""
    plane = section.plane
    corners = np.array(
        [[box[i, 0], box[j, 1], box[k, 2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)]
    )
    one, two = plane.axes
    flat = np.column_stack([corners @ one, corners @ two])
    low, high = flat.min(axis=0), flat.max(axis=0)
    room = 0.04 * (high - low) + 4.0
    (a, b), (c, d) = low - room, high + room
    rim = plane.in_space(np.array([[a, b], [c, b], [c, d], [a, d]]))
    seen = camera.seen(rim, *size)
    accent = QColor(theme.accent)
    painter.setPen(QPen(accent, 1.2, Qt.PenStyle.DashDotLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolygon(QPolygonF([QPointF(float(u), float(v)) for u, v, _ in seen]))
    base, ball = _handle(section, camera, size)
    painter.setPen(QPen(accent, 2.4))
    painter.drawLine(base, ball)
    painter.setBrush(accent)
    painter.drawRect(int(base.x() - 4), int(base.y() - 4), 8, 8)
    painter.setBrush(QColor(theme.card))
    painter.drawEllipse(ball, 6.5, 6.5)
