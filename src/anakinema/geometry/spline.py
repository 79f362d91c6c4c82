"""Smooth splines that something follows, with their exact feet."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any

import numpy as np

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Foot, corner_error

CONVERGED = 1e-9
"""Share of the whole by which a last Newton step may move: its error is the square of that."""
NODES, WEIGHTS = np.polynomial.legendre.leggauss(12)


class Spline:
    """A smooth piecewise polynomial curve, with its exact feet.

    ``poly`` gives points (N, 2) at parameters (N,) and has `derivative`; ``breaks`` are the
    parameters at which one polynomial passes into the next, ``bends`` those of them at which
    the curvature jumps.
    """

    def __init__(
        self, poly: Any, breaks: Floats, *, is_closed: bool, bends: Floats | None = None
    ) -> None:
        self._spline = poly
        self._breaks = breaks
        self._bent = np.zeros(0) if bends is None else bends
        self._closed = is_closed
        self._begin, self._stop = float(breaks[0]), float(breaks[-1])
        self._derivatives = [poly.derivative(n) for n in (1, 2, 3)]
        self.points = np.asarray(poly(breaks))

    @property
    def is_closed(self) -> bool:
        return self._closed

    @property
    def joins(self) -> Floats:
        return self._arc(self._bent) if len(self._bent) else np.zeros(0)

    @property
    def key(self) -> bytes:
        middles = (self._breaks[1:] + self._breaks[:-1]) / 2
        return bytes(self.points.tobytes() + np.asarray(self._spline(middles)).tobytes())

    @cached_property
    def _lengths(self) -> Floats:
        return np.concatenate(
            [[0.0], np.cumsum(self._between(self._breaks[:-1], self._breaks[1:]))]
        )

    def _between(self, low: Floats, high: Floats) -> Floats:
        """Arc length (N,) between parameters (N,), by quadrature within one polynomial each."""
        half = (high - low) / 2
        at = (low + high)[:, None] / 2 + half[:, None] * NODES
        speed = np.linalg.norm(self._derivatives[0](at.ravel()), axis=1).reshape(at.shape)
        return np.asarray(half * (speed @ WEIGHTS))

    @property
    def length(self) -> float:
        return float(self._lengths[-1])

    @cached_property
    def _dense(self) -> tuple[Floats, Floats, Any]:
        from scipy.spatial import cKDTree

        count = len(self._breaks) - 1
        each = max(8, math.ceil(1600 / count))
        steps = np.arange(count * each + (0 if self._closed else 1)) / each
        u = np.interp(steps, np.arange(count + 1), self._breaks)
        points = np.asarray(self._spline(u))
        return u, points, cKDTree(points)

    @cached_property
    def _headings(self) -> Floats:
        """Directions at the dense parameters, running on."""
        first = self._derivatives[0](self._dense[0])
        return np.unwrap(np.arctan2(first[:, 1], first[:, 0]))

    @cached_property
    def most_curvature(self) -> float:
        return float(np.abs(self._bends(self._dense[0])[0]).max())

    @cached_property
    def least_curvature(self) -> float:
        return float(self._bends(self._dense[0])[0].min())

    @cached_property
    def most_curvature_rate(self) -> float:
        return float(np.abs(self._bends(self._dense[0])[1]).max())

    def _wrapped(self, u: Floats) -> Floats:
        if self._closed:
            span = self._stop - self._begin
            return np.asarray(self._begin + (u - self._begin) % span)
        return np.clip(u, self._begin, self._stop)

    def _bends(self, u: Floats) -> tuple[Floats, Floats, Floats, Floats]:
        """Curvature, its rate by arc length, speed and direction at parameters (N,)."""
        one, two, three = (d(u) for d in self._derivatives)
        speed = np.hypot(one[:, 0], one[:, 1])
        cross = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
        curvature = cross / speed**3
        third = one[:, 0] * three[:, 1] - one[:, 1] * three[:, 0]
        push = np.sum(one * two, axis=1) / speed
        rate = (third / speed**3 - 3 * cross * push / speed**4) / speed
        heading = np.arctan2(one[:, 1], one[:, 0])
        return curvature, rate, speed, heading

    def _running(self, u: Floats, heading: Floats) -> Floats:
        dense = self._dense[0]
        near = self._headings[np.clip(np.searchsorted(dense, u, "right") - 1, 0, len(dense) - 1)]
        return np.asarray(heading + 2 * np.pi * np.round((near - heading) / (2 * np.pi)))

    def _arc(self, u: Floats) -> Floats:
        k = np.clip(np.searchsorted(self._breaks, u, "right") - 1, 0, len(self._breaks) - 2)
        return np.asarray(self._lengths[k] + self._between(self._breaks[k], u))

    def foot(self, points: Floats) -> Foot:
        u = self._dense[0][self._dense[2].query(points)[1]]
        most = (self._stop - self._begin) / len(self._dense[0])
        for _ in range(20):
            place, one, two = self._spline(u), self._derivatives[0](u), self._derivatives[1](u)
            away = place - points
            slope = np.sum(away * one, axis=1)
            bend = np.sum(one * one, axis=1) + np.sum(away * two, axis=1)
            square = np.sum(one * one, axis=1)
            step = -slope / np.where(bend > 0.05 * square, bend, square)
            u = self._wrapped(u + np.clip(step, -most, most))
            if float(np.abs(step).max(initial=0.0)) < CONVERGED * (self._stop - self._begin):
                break
        return self._foot_at(u, points)

    def _foot_at(self, u: Floats, points: Floats) -> Foot:
        curvature, rate, _, heading = self._bends(u)
        away = points - self._spline(u)
        t = np.stack([np.cos(heading), np.sin(heading)], axis=1)
        signed = -away[:, 0] * t[:, 1] + away[:, 1] * t[:, 0]
        s = self._arc(u)
        if not self._closed:
            # Beyond an end the curve runs on straight.
            beyond = np.sum(away * t, axis=1)
            off = ((u <= self._begin) & (beyond < 0)) | ((u >= self._stop) & (beyond > 0))
            s = np.where(off, s + beyond, s)
            curvature, rate = np.where(off, 0.0, curvature), np.where(off, 0.0, rate)
        return Foot(s, signed, self._running(u, heading), curvature, rate)

    def at(self, s: Floats) -> tuple[Floats, Foot]:
        s = np.asarray(s, dtype=float)
        if self._closed:
            s = s % self.length
        u = np.interp(s, self._lengths, self._breaks)
        for _ in range(20):
            _, _, speed, _ = self._bends(u)
            step = (s - self._arc(u)) / speed
            u = np.clip(u + step, self._begin, self._stop)
            if float(np.abs(step).max(initial=0.0)) < CONVERGED * (self._stop - self._begin):
                break
        points = np.asarray(self._spline(u))
        return points, self._foot_at(u, points)

    def support(self, angle: Floats) -> tuple[Floats, Foot]:
        u, points, _ = self._dense
        out = np.stack([np.cos(angle), np.sin(angle)], axis=1)
        at = np.concatenate(
            [
                u[np.argmin(part @ points.T, axis=1)]
                for part in np.array_split(out, 1 + len(out) // 256)
            ]
        )
        most = (self._stop - self._begin) / len(u)
        for _ in range(20):
            one, two = self._derivatives[0](at), self._derivatives[1](at)
            slope, bend = np.sum(out * one, axis=1), np.sum(out * two, axis=1)
            with np.errstate(divide="ignore", invalid="ignore"):
                step = np.where(bend > 0, -slope / bend, 0.0)
            at = self._wrapped(at + np.clip(step, -most, most))
            if float(np.abs(step).max(initial=0.0)) < CONVERGED * (self._stop - self._begin):
                break
        place = np.asarray(self._spline(at))
        return place, self._foot_at(at, place)


def spline(points: Floats, *, is_closed: bool) -> Spline:
    """A spline through points (N, 2), of degree 5 so that the rate of its curvature is
    continuous; raises `GeometryError` if they are too few or coincide."""
    from scipy.interpolate import make_interp_spline  # slow to import, so not at start

    least = 6 if is_closed else 3
    if len(points) < least:
        raise GeometryError(
            f"a {'closed ' if is_closed else ''}spline needs at least {least} points.",
            where="curve",
            remedy="Add points.",
        )
    steps = np.hypot(*np.diff(points, axis=0).T)
    if float(steps.min()) < 1e-9:
        raise corner_error(int(np.argmin(steps)), "two points coincide.", "Remove one.")
    points = np.asarray(points, dtype=float)
    if is_closed:
        points = np.vstack([points, points[:1]])
    parameter = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    degree = min(5, len(points) - 1 if not is_closed else 5)
    if degree % 2 == 0:
        degree -= 1
    ends = "periodic" if is_closed else None
    poly = make_interp_spline(parameter, points, k=degree, bc_type=ends)
    breaks = np.unique(poly.t)
    breaks = breaks[(breaks >= parameter[0]) & (breaks <= parameter[-1])]
    return Spline(poly, breaks, is_closed=is_closed)


def hermite(parameter: Floats, low: Floats, high: Floats) -> Any:
    """A piecewise quintic with given values, first and second derivatives at its ends.

    parameter (N + 1,); low, high (N, 3, ...) at the beginning and the end of each of N pieces.
    In Bernstein form: the three outer coefficients on either side follow from the derivatives.
    """
    from scipy.interpolate import BPoly, PPoly  # slow to import, so not at start

    h = np.diff(parameter).reshape(-1, *([1] * (low.ndim - 2)))
    coefficients = np.stack(
        [
            low[:, 0],
            low[:, 0] + h * low[:, 1] / 5,
            low[:, 0] + 2 * h * low[:, 1] / 5 + h**2 * low[:, 2] / 20,
            high[:, 0] - 2 * h * high[:, 1] / 5 + h**2 * high[:, 2] / 20,
            high[:, 0] - h * high[:, 1] / 5,
            high[:, 0],
        ]
    )
    # By powers it is evaluated several times faster.
    return PPoly.from_bernstein_basis(BPoly(coefficients, parameter))
