"""Curves that come of another one exactly: offset by a distance, or the envelope of a face."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Foot
from anakinema.geometry.spline import CONVERGED, Spline
from anakinema.wanted import still_wanted


class Offset:
    """All points at a signed distance (mm, to the left) from a spline; feet stay where they are.

    With κ of the base: curvature κ / (1 − κ δ), arc length ds (1 − κ δ).
    """

    def __init__(self, base: Spline, distance: float) -> None:
        self._base, self._distance = base, distance
        self._heading = float(base.at(np.zeros(1))[1].direction[0])

    @property
    def length(self) -> float:
        turned = 2 * np.pi if self.is_closed else self._end_heading - self._heading
        return float(self._base.length - self._distance * turned)

    @cached_property
    def _end_heading(self) -> float:
        return float(self._base.at(np.array([self._base.length]))[1].direction[0])

    @property
    def is_closed(self) -> bool:
        return self._base.is_closed

    @property
    def most_curvature(self) -> float:
        bends = np.array([self._base.least_curvature, self._base.most_curvature])
        return float(np.abs(bends / (1 - bends * self._distance)).max())

    @property
    def least_curvature(self) -> float:
        bend = self._base.least_curvature
        return float(bend / (1 - bend * self._distance))

    @property
    def most_curvature_rate(self) -> float:
        bends = np.array([self._base.least_curvature, self._base.most_curvature])
        least = float((1 - bends * self._distance).min())
        return float(self._base.most_curvature_rate / min(1.0, least) ** 3)

    @property
    def joins(self) -> Floats:
        joins = self._base.joins
        return self._moved(self._base.at(joins)[1]).s if len(joins) else joins

    @property
    def key(self) -> bytes:
        return self._base.key + np.array([self._distance]).tobytes()

    def _moved(self, foot: Foot) -> Foot:
        narrow = 1 - foot.curvature * self._distance
        return Foot(
            foot.s - self._distance * (foot.direction - self._heading),
            foot.distance - self._distance,
            foot.direction,
            foot.curvature / narrow,
            foot.curvature_rate / narrow**3,
        )

    def _beside(self, points: Floats, foot: Foot) -> Floats:
        t = foot.tangent
        return points + self._distance * np.stack([-t[:, 1], t[:, 0]], axis=1)

    def foot(self, points: Floats) -> Foot:
        return self._moved(self._base.foot(points))

    def at(self, s: Floats) -> tuple[Floats, Foot]:
        s = np.asarray(s, dtype=float)
        along = s * self._base.length / self.length
        for _ in range(40):
            still_wanted()
            points, foot = self._base.at(along)
            moved = self._moved(foot)
            # Once round and on is the beginning again.
            away = s - moved.s
            if self.is_closed:
                away -= self.length * np.round(away / self.length)
            step = away / (1 - foot.curvature * self._distance)
            along = along + np.clip(step, -self.length / 8, self.length / 8)
            if float(np.abs(step).max(initial=0.0)) < CONVERGED * self.length:
                break
        points, foot = self._base.at(along)
        return self._beside(points, foot), self._moved(foot)

    def support(self, angle: Floats) -> tuple[Floats, Foot]:
        points, foot = self._base.support(angle)
        return self._beside(points, foot), self._moved(foot)


class Envelope:
    """A convex closed curve by its support function h: the envelope of the lines n·X = h, n at α.

    Its point is h n + h' t, its radius of curvature h + h''. ``height`` gives h at α over a turn
    from ``start``; ``bends`` are angles at which h'' jumps.
    """

    is_closed = True

    def __init__(self, height: Any, start: float, bends: Floats) -> None:
        self._heights = [height, *(height.derivative(n) for n in (1, 2, 3))]
        self._area = height.antiderivative()
        self._start, self._bent = start, bends

    @cached_property
    def _dense(self) -> tuple[Floats, Floats, Any]:
        from scipy.spatial import cKDTree  # slow to import, so not at start

        angles = self._start + 2 * np.pi * np.arange(2400) / 2400
        points = self._points(angles)
        return angles, points, cKDTree(points)

    def _h(self, order: int, angle: Floats) -> Floats:
        return np.asarray(self._heights[order](self._start + (angle - self._start) % (2 * np.pi)))

    def _points(self, angle: Floats) -> Floats:
        c, s = np.cos(angle), np.sin(angle)
        h, slope = self._h(0, angle), self._h(1, angle)
        return np.stack([h * c - slope * s, h * s + slope * c], axis=1)

    def radius(self, angle: Floats) -> Floats:
        """(N,) mm, radii of curvature where the normal has an angle (N,)."""
        return self._h(0, angle) + self._h(2, angle)

    def grown(self, distance: float) -> Envelope:
        """The curve a distance (mm) farther out."""
        from scipy.interpolate import PPoly  # slow to import, so not at start

        height = self._heights[0]
        coefficients = height.c.copy()
        coefficients[-1] += distance
        return Envelope(PPoly(coefficients, height.x), self._start, self._bent)

    def _s(self, angle: Floats) -> Floats:
        turned = self._start + (angle - self._start) % (2 * np.pi)
        first = np.array([self._start])
        along = self._heights[1](turned) - self._heights[1](first)
        return np.asarray(along + self._area(turned) - self._area(first))

    @cached_property
    def length(self) -> float:
        ends = self._area(np.array([self._start, self._start + 2 * np.pi]))
        return float(ends[1] - ends[0])

    @cached_property
    def most_curvature(self) -> float:
        return float((1 / self.radius(self._dense[0])).max())

    @cached_property
    def least_curvature(self) -> float:
        return float((1 / self.radius(self._dense[0])).min())

    @cached_property
    def most_curvature_rate(self) -> float:
        return float(np.abs(self._foot_at(self._dense[0], self._dense[1]).curvature_rate).max())

    @property
    def joins(self) -> Floats:
        return self._s(self._bent)

    @property
    def key(self) -> bytes:
        return bytes(self._heights[0].c.tobytes() + self._heights[0].x.tobytes())

    def _foot_at(self, angle: Floats, points: Floats) -> Foot:
        out = np.stack([np.cos(angle), np.sin(angle)], axis=1)
        radius = self.radius(angle)
        steep = self._h(1, angle) + self._h(3, angle)
        turned = self._start + (angle - self._start) % (2 * np.pi)
        return Foot(
            self._s(angle),
            self._h(0, angle) - np.sum(points * out, axis=1),
            turned + np.pi / 2,
            1 / radius,
            -steep / radius**3,
        )

    def foot(self, points: Floats) -> Foot:
        angle = self._dense[0][self._dense[2].query(points)[1]]
        for _ in range(30):
            c, s = np.cos(angle), np.sin(angle)
            across = -points[:, 0] * s + points[:, 1] * c - self._h(1, angle)
            fall = points[:, 0] * c + points[:, 1] * s + self._h(2, angle)
            step = across / np.where(fall > 1e-6, fall, 1.0)
            angle = angle + np.clip(step, -0.05, 0.05)
            if float(np.abs(step).max(initial=0.0)) < CONVERGED:
                break
        return self._foot_at(angle, points)

    def at(self, s: Floats) -> tuple[Floats, Foot]:
        s = np.asarray(s, dtype=float) % self.length
        angles, _, _ = self._dense
        angle = np.interp(s, self._s(angles), angles)
        for _ in range(40):
            step = (s - self._s(angle)) / self.radius(angle)
            angle = np.clip(angle + step, self._start, self._start + 2 * np.pi * (1 - 1e-16))
            if float(np.abs(step).max(initial=0.0)) < CONVERGED:
                break
        points = self._points(angle)
        return points, self._foot_at(angle, points)

    def support(self, angle: Floats) -> tuple[Floats, Foot]:
        """Points that lie farthest against a direction: their normal points the other way."""
        normal = np.asarray(angle, dtype=float) + np.pi
        points = self._points(normal)
        return points, self._foot_at(normal, points)
