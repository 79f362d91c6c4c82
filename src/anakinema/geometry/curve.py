"""Smooth curves that something follows: line-arc paths and splines, with their exact feet.

The *foot* of a point is the nearest point of a curve to it. Open curves run on straight beyond
their ends (an arc on its circle), so that a solver may look past an end that is a stop.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Floats

SMOOTH = 1e-6
"""rad; a smaller change of direction between two pieces is none."""


@dataclass(frozen=True, slots=True, eq=False)
class Foot:
    """Feet (N,): arc length s (mm), signed distance (mm, positive on the left), direction of the
    curve (rad, running on), curvature (1/mm, positive to the left) and its rate by arc length.
    """

    s: Floats
    distance: Floats
    direction: Floats
    curvature: Floats
    curvature_rate: Floats

    @property
    def tangent(self) -> Floats:
        """(N, 2) unit tangents."""
        return np.stack([np.cos(self.direction), np.sin(self.direction)], axis=-1)


class Curve(Protocol):
    """A smooth curve with a foot for every point near it."""

    @property
    def length(self) -> float:
        """mm from end to end, or once round."""

    @property
    def is_closed(self) -> bool:
        """Whether it runs back into itself."""

    @property
    def most_curvature(self) -> float:
        """1/mm, the greatest there is."""

    @property
    def least_curvature(self) -> float:
        """1/mm, the least, below zero where it bends to the right."""

    @property
    def most_curvature_rate(self) -> float:
        """1/mm², the greatest change of curvature by arc length, jumps left out."""

    @property
    def joins(self) -> Floats:
        """(J,) mm, arc lengths at which the curvature jumps."""

    @property
    def key(self) -> bytes:
        """Equal for equal curves."""

    def foot(self, points: Floats) -> Foot:
        """Feet of points (N, 2) in mm."""

    def at(self, s: Floats) -> tuple[Floats, Foot]:
        """Points (N, 2) at arc lengths s (N,), and what the curve does there."""

    def support(self, angle: Floats) -> tuple[Floats, Foot]:
        """Points (N, 2) that lie farthest against directions (N,) rad, and the curve there."""


@dataclass(frozen=True, slots=True)
class Piece:
    """A line or an arc: start, direction there (rad), length (mm), curvature (0 for a line)."""

    start: tuple[float, float]
    direction: float
    length: float
    curvature: float


class Track:
    """A chain of lines and arcs that meet in one direction."""

    def __init__(self, pieces: Sequence[Piece], *, is_closed: bool) -> None:
        self._pieces = tuple(pieces)
        self._closed = is_closed
        self._start = np.array([p.start for p in pieces])
        self._direction = np.unwrap([p.direction for p in pieces])
        # Directions run on through the pieces: an arc may turn farther than half a turn.
        turn = 0.0
        for k, piece in enumerate(pieces[:-1]):
            turn = self._direction[k] + piece.length * piece.curvature
            gap = self._direction[k + 1] - turn
            self._direction[k + 1 :] -= 2 * math.pi * round(gap / (2 * math.pi))
        self._length = np.array([p.length for p in pieces])
        self._curvature = np.array([p.curvature for p in pieces])
        self._before = np.concatenate([[0.0], np.cumsum(self._length)[:-1]])

    @property
    def pieces(self) -> tuple[Piece, ...]:
        """Its lines and arcs in order."""
        return self._pieces

    @property
    def length(self) -> float:
        return float(self._length.sum())

    @property
    def is_closed(self) -> bool:
        return self._closed

    @property
    def most_curvature(self) -> float:
        return float(np.abs(self._curvature).max())

    @property
    def least_curvature(self) -> float:
        return float(self._curvature.min())

    @property
    def most_curvature_rate(self) -> float:
        return 0.0

    @property
    def joins(self) -> Floats:
        """Arc lengths at which the curvature jumps."""
        before = self._before[1:]
        jump = np.abs(np.diff(self._curvature)) > 1e-12
        inner = before[jump]
        if self._closed and abs(self._curvature[0] - self._curvature[-1]) > 1e-12:
            inner = np.append(0.0, inner)
        return np.asarray(inner)

    @property
    def key(self) -> bytes:
        rows = [(*p.start, p.direction, p.length, p.curvature) for p in self._pieces]
        return bytes(np.array([*rows, (0.0, 0.0, 0.0, 0.0, float(self._closed))]).tobytes())

    def foot(self, points: Floats) -> Foot:
        away = points[:, None, :] - self._start
        c, s = np.cos(self._direction), np.sin(self._direction)
        along = away[..., 0] * c + away[..., 1] * s
        across = -away[..., 0] * s + away[..., 1] * c
        curved = self._curvature != 0.0
        k = np.where(curved, self._curvature, 1.0)
        # In the frame of its start an arc's centre is at (0, 1/k).
        side = np.sign(k)
        turned = np.arctan2(side * along, side * (1.0 / k - across))
        # Angles count from the middle of the arc, so that the cut is opposite to it.
        half = self._length * np.abs(k) / 2
        turned = half + (side * turned - half + math.pi) % (2 * math.pi) - math.pi
        on_arc = turned / np.abs(k)
        run = np.where(curved, on_arc, along)
        low, high = np.zeros(len(self._length)), self._length.copy()
        if not self._closed:
            low[0], high[-1] = -np.inf, np.inf
        run = np.clip(run, low, high)
        bent = np.where(curved, run * self._curvature, 0.0)
        with np.errstate(divide="ignore", invalid="ignore"):
            x = np.where(curved, np.sin(bent) / k, run)
            y = np.where(curved, (1 - np.cos(bent)) / k, 0.0)
        off = np.hypot(along - x, across - y)
        best = np.argmin(off, axis=1)
        rows = np.arange(len(points))
        heading = bent[rows, best]
        signed = -(along - x)[rows, best] * np.sin(heading) + (across - y)[rows, best] * np.cos(
            heading
        )
        return Foot(
            self._before[best] + run[rows, best],
            signed,
            self._direction[best] + heading,
            self._curvature[best],
            np.zeros(len(points)),
        )

    def at(self, s: Floats) -> tuple[Floats, Foot]:
        s = np.asarray(s, dtype=float)
        if self._closed:
            s = s % self.length
        k = np.clip(np.searchsorted(self._before, s, side="right") - 1, 0, len(self._length) - 1)
        run, bend = s - self._before[k], self._curvature[k]
        direction = self._direction[k] + run * bend
        chord = self._direction[k] + run * bend / 2
        shrink = np.sinc(run * bend / 2 / math.pi)
        points = self._start[k] + (run * shrink)[:, None] * np.stack(
            [np.cos(chord), np.sin(chord)], axis=1
        )
        nothing = np.zeros(len(s))
        return points, Foot(s, nothing, direction, bend, nothing)

    def support(self, angle: Floats) -> tuple[Floats, Foot]:
        grid = np.concatenate(
            [b + n * np.linspace(0, 1, 65) for b, n in zip(self._before, self._length, strict=True)]
        )
        points, _ = self.at(np.minimum(grid, self.length * (1 - 1e-15)))
        out = np.stack([np.cos(angle), np.sin(angle)])
        s = grid[np.argmin(points @ out, axis=0)]
        for _ in range(60):
            _, foot = self.at(s)
            slope = np.sum(out.T * foot.tangent, axis=1)
            bend = foot.curvature * (
                -out[0] * np.sin(foot.direction) + out[1] * np.cos(foot.direction)
            )
            with np.errstate(divide="ignore", invalid="ignore"):
                step = np.where(np.abs(bend) > 1e-12, -slope / bend, 0.0)
            s = s + np.clip(step, -self.length / 64, self.length / 64)
            if float(np.abs(step).max(initial=0.0)) < 1e-13 * self.length:
                break
        return self.at(s)


def track(vertices: Sequence[tuple[float, float, float]], *, is_closed: bool) -> Track:
    """A chain over (x, y, bulge); raises `GeometryError` at a corner or a piece without length."""
    count = len(vertices) if is_closed else len(vertices) - 1
    pieces: list[Piece] = []
    for k in range(count):
        x, y, bulge = vertices[k]
        nx, ny, _ = vertices[(k + 1) % len(vertices)]
        chord = math.hypot(nx - x, ny - y)
        if chord < 1e-9:
            raise corner_error(k, "two vertices coincide.", "Remove one.")
        heading, sweep = math.atan2(ny - y, nx - x), 4 * math.atan(bulge)
        bend = 2 * math.sin(sweep / 2) / chord
        long = sweep / bend if abs(bulge) > 1e-12 else chord
        pieces.append(Piece((x, y), heading - sweep / 2, long, bend if abs(bulge) > 1e-12 else 0.0))
    pairs = list(zip(pieces, pieces[1:], strict=False))
    if is_closed:
        pairs.append((pieces[-1], pieces[0]))
    for k, (one, two) in enumerate(pairs):
        turn = two.direction - one.direction - one.length * one.curvature
        if abs(math.remainder(turn, 2 * math.pi)) > SMOOTH:
            raise corner_error(
                (k + 1) % len(vertices),
                f"the path has a corner of {abs(math.degrees(math.remainder(turn, math.tau))):.3g}"
                " degrees there.",
                "Round it with an arc that is tangent to both sides.",
            )
    return Track(pieces, is_closed=is_closed)


def rounded(
    vertices: Sequence[tuple[float, float, float, float]], *, is_closed: bool
) -> list[tuple[float, float, float]]:
    """Vertices (x, y, bulge) of a path whose corners (x, y, bulge, fillet) are rounded."""
    out: list[tuple[float, float, float]] = []
    count = len(vertices)
    for k, (x, y, bulge, fillet) in enumerate(vertices):
        at_end = not is_closed and k in (0, count - 1)
        if fillet <= 0 or at_end:
            out.append((x, y, bulge))
            continue
        before, after = vertices[k - 1], vertices[(k + 1) % count]
        if bulge or before[2]:
            raise corner_error(k, "a fillet needs a line on both sides.", "Remove the bulge.")
        inward = np.array([x - before[0], y - before[1]])
        outward = np.array([after[0] - x, after[1] - y])
        inward, outward = inward / np.hypot(*inward), outward / np.hypot(*outward)
        turn = math.atan2(inward[0] * outward[1] - inward[1] * outward[0], float(inward @ outward))
        cut = fillet * abs(math.tan(turn / 2))
        if cut > min(math.dist((x, y), before[:2]), math.dist((x, y), after[:2])) + 1e-9:
            raise corner_error(k, f"the fillet {fillet:g} mm does not fit.", "Use a smaller one.")
        out.append((x - cut * float(inward[0]), y - cut * float(inward[1]), math.tan(turn / 4)))
        out.append((x + cut * float(outward[0]), y + cut * float(outward[1]), 0.0))
    return out


def corner_error(k: int, what: str, remedy: str) -> GeometryError:
    """What is wrong at a vertex (from 0) of a curve."""
    return GeometryError(what, where=f"vertex {k + 1} of the curve", remedy=remedy)
