"""From where a mechanism is looked at in depth: pixels of points, rays through pixels.

z is height along the pins. ``turn`` and ``tilt`` say where the eye is: at a tilt of a quarter turn
it looks square down at the plane, at none along it, at less than none from below.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from anakinema.geometry.contour import Floats

Point = tuple[float, float, float]
LEVEL = np.eye(3, 4)
"""The frame of the plane at height 0."""
WIDE = math.radians(26.0)
"""Angle of view from the lowest to the highest pixel, in perspective."""
CORNER = math.radians(-30.0), math.radians(40.0)
"""Turn and tilt of the look from a corner."""
LEAST, MOST = 0.02, 400.0
"""Pixels for each mm at the target."""
NEAREST = 0.9
"""Share of the way from the target to the eye beyond which nothing is drawn in perspective."""


@dataclass(frozen=True, slots=True)
class Ray:
    """A line of sight: a point on it (3,) mm and its direction away from the eye, of length 1;
    nothing is seen before ``least`` mm along it."""

    start: Floats
    along: Floats
    least: float = -math.inf

    def at(self, way: float) -> Floats:
        """The point so many mm along."""
        point: Floats = self.start + way * self.along
        return point

    def on_plane(self, frame: Floats, z: float) -> tuple[float, float] | None:
        """Where it passes a height z over a plane with a frame (3, 4), in the plane; None if it
        never does, or behind the eye."""
        normal = frame[:, 2]
        slope = float(self.along @ normal)
        if abs(slope) < 1e-9:
            return None
        way = (z - float((self.start - frame[:, 3]) @ normal)) / slope
        if way < self.least:
            return None
        x, y, _ = (self.at(way) - frame[:, 3]) @ frame[:, :3]
        return float(x), float(y)


@dataclass(frozen=True, slots=True)
class Camera:
    """A place in space that stands in the middle of the picture, and from where it is seen.

    target : mm. turn, tilt : rad. scale : pixels for each mm at the target.
    """

    target: Point = (0.0, 0.0, 0.0)
    turn: float = CORNER[0]
    tilt: float = CORNER[1]
    scale: float = 1.0
    is_perspective: bool = False

    @property
    def axes(self) -> tuple[Floats, Floats, Floats]:
        """To the right, up and towards the eye, each (3,) of length 1."""
        ct, st = math.cos(self.turn), math.sin(self.turn)
        ce, se = math.cos(self.tilt), math.sin(self.tilt)
        right = np.array([ct, st, 0.0])
        up = np.array([-st * se, ct * se, ce])
        toward = np.array([st * ce, -ct * ce, se])
        return right, up, toward

    def distance(self, height: float) -> float:
        """mm from the target to the eye, in a picture so many pixels high."""
        return height / (2.0 * self.scale * math.tan(WIDE / 2.0))

    def seen(self, points: Floats, width: float, height: float) -> Floats:
        """(..., 3) of points (..., 3): pixels right and down, and mm towards the eye from the
        target."""
        right, up, toward = self.axes
        away = np.asarray(points, dtype=float) - np.asarray(self.target)
        across, rise, depth = away @ right, away @ up, away @ toward
        scale = self.scale / self._shrink(depth, height)
        return np.stack([width / 2 + scale * across, height / 2 - scale * rise, depth], axis=-1)

    def _shrink(self, depth: Floats, height: float) -> Floats:
        """By what a picture of points so near the eye is divided."""
        if not self.is_perspective:
            return np.ones_like(depth)
        return np.maximum(1.0 - depth / self.distance(height), 1.0 - NEAREST)

    def matrix(self, width: float, height: float, far: float, near: float) -> Floats:
        """(4, 4) from points to clip space; what lies from ``far`` to ``near`` (mm towards the eye
        from the target) is kept."""
        right, up, toward = self.axes
        target = np.asarray(self.target)
        per = np.zeros(4)
        per[3] = 1.0
        if self.is_perspective:
            away = self.distance(height)
            near = min(near, NEAREST * away)
            far = min(far, near - 1e-3 * away)
            per = np.array([*(-toward / away), 1.0 + float(toward @ target) / away])

        def row(axis: Floats, factor: float) -> Floats:
            return np.array([*(factor * axis), -factor * float(axis @ target)])

        def divided(depth: float) -> float:
            return 1.0 - depth / self.distance(height) if self.is_perspective else 1.0

        slope = -(divided(near) + divided(far)) / (near - far)
        deep = row(toward, slope)
        deep[3] += divided(far) - slope * far
        return np.stack(
            [row(right, 2 * self.scale / width), row(up, 2 * self.scale / height), deep, per]
        )

    def ray(self, x: float, y: float, width: float, height: float) -> Ray:
        """The line of sight through a pixel."""
        right, up, toward = self.axes
        at = np.asarray(self.target) + right * ((x - width / 2) / self.scale)
        at = at - up * ((y - height / 2) / self.scale)
        if not self.is_perspective:
            return Ray(at, -toward)
        away = self.distance(height)
        eye = np.asarray(self.target) + toward * away
        along = at - eye
        long = float(np.linalg.norm(along))
        return Ray(eye, along / long, (1.0 - NEAREST) * long)

    def plane(self, frame: Floats, z: float, width: float, height: float) -> Floats:
        """(3, 3) from (x, y, 1) at a height z over a plane with a frame (3, 4) to pixels, to be
        divided by the third."""
        right, up, toward = self.axes
        rows = np.zeros((3, 3))
        rows[2, 2] = 1.0
        base = frame[:, 3] + z * frame[:, 2] - np.asarray(self.target)

        def row(axis: Floats, factor: float) -> Floats:
            return factor * np.array(
                [float(axis @ frame[:, 0]), float(axis @ frame[:, 1]), float(axis @ base)]
            )

        if self.is_perspective:
            rows[2] -= row(toward, 1.0 / self.distance(height))
        rows[0] = row(right, self.scale) + width / 2 * rows[2]
        rows[1] = row(up, -self.scale) + height / 2 * rows[2]
        return rows

    def turned(self, turn: float, tilt: float, about: Floats) -> Camera:
        """Turned by so much (rad); the point ``about`` stays where it is in the picture."""
        new_tilt = min(max(self.tilt + tilt, -math.pi / 2), math.pi / 2)
        return self.facing(self.turn + turn, new_tilt, about)

    def facing(self, turn: float, tilt: float, about: Floats) -> Camera:
        """Seen from elsewhere; the point ``about`` (3,) stays where it is in the picture."""
        found = replace(self, turn=math.remainder(turn, 2 * math.pi), tilt=tilt)
        away = np.asarray(about) - np.asarray(self.target)
        parts = [float(away @ axis) for axis in self.axes]
        kept = sum(part * axis for part, axis in zip(parts, found.axes, strict=True))
        return replace(found, target=_point(np.asarray(about) - kept))

    def panned(self, dx: float, dy: float) -> Camera:
        """The picture moved by pixels."""
        right, up, _ = self.axes
        moved = np.asarray(self.target) - right * (dx / self.scale) + up * (dy / self.scale)
        return replace(self, target=_point(moved))

    def zoomed(self, factor: float, x: float, y: float, width: float, height: float) -> Camera:
        """Larger by a factor; what is under a pixel, as deep as the target, stays there."""
        scale = min(max(self.scale * factor, LEAST), MOST)
        kept = 1.0 - self.scale / scale
        right, up, _ = self.axes
        across, down = (x - width / 2) / self.scale, (y - height / 2) / self.scale
        moved = np.asarray(self.target) + kept * (right * across - up * down)
        return replace(self, target=_point(moved), scale=scale)

    def fitted(self, box: Floats, width: float, height: float, margin: float) -> Camera:
        """So that a box (2, 3) of least and greatest x, y, z is in the picture."""
        corners = np.array(
            [[box[i, 0], box[j, 1], box[k, 2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)]
        )
        middle = box.mean(axis=0)
        right, up, toward = self.axes
        away = corners - middle
        wide, high = np.ptp(away @ right), np.ptp(away @ up)
        scale = min((width - 2 * margin) / max(wide, 1.0), (height - 2 * margin) / max(high, 1.0))
        if self.is_perspective:
            # The nearest corner is drawn larger than what is as deep as the target.
            near = float(np.max(away @ toward))
            scale /= 1.0 + near * 2.0 * scale * math.tan(WIDE / 2.0) / height
        return replace(self, target=_point(middle), scale=min(max(scale, LEAST), MOST))


def _point(values: Floats) -> Point:
    x, y, z = (float(v) for v in values)
    return x, y, z
