"""Conditions on a curve, as functions of where something stands in the curve's own frame.

With P the second place seen from the first (along and across its axis) and α how far the second
side is turned against the first:

============  ====================================================  ============================
kernel        value                                                 gradient by P, by α
============  ====================================================  ============================
track         d, signed distance of P from the curve                n, 0
track along   s, arc length of the foot of P                        t / (1 − κ d), 0
track turn    α less the direction of the curve at the foot         −κ ∇s, 1
support       least of m·(C − P) over the curve, m at angle α       −m, m'·(C − P)
bent          angle of (cos α, k sin α), 1/k the cosine of shafts   0, k / (cos² α + k² sin² α)
============  ====================================================  ============================

t, n, κ are tangent, left normal and curvature at the foot. Second derivatives follow from
dt = κ n ds, dn = −κ t ds. Derived in docs/methods.md, "Curves"; tested by finite differences and
against the equivalent linkages.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve, Foot


@dataclass(frozen=True, slots=True, eq=False)
class Field:
    """value (N,), gradient (N, 3) and second derivatives (N, 3, 3) by (P, α)."""

    value: Floats
    gradient: Floats
    second: Floats


class Smooth:
    """What stands in the place of a curve where there is none to go along."""

    __slots__ = ()
    is_closed = False
    length = 0.0

    @property
    def joins(self) -> Floats:
        """None: it is smooth."""
        return np.zeros(0)

    @property
    def key(self) -> bytes:
        """Equal for equal ones."""
        return repr(self).encode()


@dataclass(frozen=True, slots=True)
class Bend(Smooth):
    """A universal joint: 1 / the cosine of the angle between its shafts, and the turn at which its
    first fork stands in their plane, where the second shaft runs fastest.

    tan β = tan α / cos δ (J. E. Shigley and J. J. Uicker, Theory of Machines, from memory).
    """

    steep: float
    zero: float

    @property
    def most_bend(self) -> float:
        """Bound on the second derivative of what it passes on."""
        return self.steep * (self.steep**2 - 1)


@dataclass(frozen=True, slots=True)
class Run(Smooth):
    """A run of a belt from one wheel to the next; radii mm, below zero where it passes with its
    back. The belt between two marks, one on each wheel, is t + (ρ1 − ρ2) φ + ρ2 α long, with t and
    φ length and direction of the common tangent seen from the first wheel. Derived in
    docs/methods.md, "Loops".
    """

    first: float
    second: float

    @property
    def across(self) -> float:
        """mm by which the second centre stands left of the run's line through the first."""
        return self.second - self.first

    def tangent(self, place: Floats) -> tuple[Floats, Floats]:
        """Length (mm) and direction (rad) of the run to centres (N, 2) seen from the first."""
        square = np.sum(place * place, axis=1) - self.across**2
        along = np.sqrt(np.maximum(square, SHORTEST**2))
        direction = np.arctan2(place[:, 1], place[:, 0]) - np.arctan2(self.across, along)
        return along, direction


@dataclass(frozen=True, slots=True)
class Rod(Smooth):
    """A rod between two planes: its ``reach`` from ball to ball (mm), the ``directions`` (3, 2) of
    the second plane as the first has them, and the ``offset`` (3,) mm between both balls where both
    places are at the origins of their planes."""

    reach: float
    directions: tuple[tuple[float, float], tuple[float, float], tuple[float, float]]
    offset: tuple[float, float, float]

    def span(
        self, first: tuple[float, float], second: tuple[float, float]
    ) -> tuple[float, float, float]:
        """From ball to ball at one pose, as the first plane has it."""
        x, y = second
        (a, b), (c, d), (e, f) = self.directions
        u, v, w = self.offset
        return a * x + b * y + u - first[0], c * x + d * y + v - first[1], e * x + f * y + w


SHORTEST = 1e-6
"""mm; wheels that overlap have no run between them."""


def bent(bend: Bend, place: Floats, turn: Floats) -> Field:
    """What a universal joint passes on, whatever its place."""
    alpha, k = turn - bend.zero, bend.steep
    c, s = np.cos(alpha), np.sin(alpha)
    square = c**2 + (k * s) ** 2
    gradient, second = np.zeros((len(turn), 3)), np.zeros((len(turn), 3, 3))
    gradient[:, 2] = k / square
    second[:, 2, 2] = k * (1 - k**2) * 2 * s * c / square**2
    # The lead over α stays within a quarter turn, so it runs on with α.
    return Field(alpha + np.arctan2((k - 1) * s * c, c**2 + k * s**2), gradient, second)


def over_run(run: Run, place: Floats, turn: Floats) -> Field:
    """The belt between marks on two wheels."""
    along, direction = run.tangent(place)
    c, s = np.cos(direction), np.sin(direction)
    gradient, second = np.zeros((len(turn), 3)), np.zeros((len(turn), 3, 3))
    gradient[:, 0], gradient[:, 1], gradient[:, 2] = c, s, run.second
    normal = np.stack([-s, c], axis=1)
    second[:, :2, :2] = normal[:, :, None] * normal[:, None, :] / along[:, None, None]
    return Field(along - run.across * direction + run.second * turn, gradient, second)


def supported(curve: Curve, place: Floats, turn: Floats) -> Field:
    """How far a face is off a convex curve."""
    gradient, second = np.zeros((len(turn), 3)), np.zeros((len(turn), 3, 3))
    face = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    across = np.stack([-face[:, 1], face[:, 0]], axis=1)
    touch, at = curve.support(turn)
    away = touch - place
    gradient[:, :2] = -face
    gradient[:, 2] = np.sum(across * away, axis=1)
    value = np.sum(face * away, axis=1)
    with np.errstate(divide="ignore"):
        radius = np.sum(across * at.tangent, axis=1) / at.curvature
    second[:, 2, 2] = radius - value
    second[:, :2, 2] = second[:, 2, :2] = -across
    return Field(value, gradient, second)


def on_track(curve: Curve, place: Floats, turn: Floats) -> Field:
    """How far places are off a curve."""
    at = curve.foot(place)
    gradient, second = np.zeros((len(turn), 3)), np.zeros((len(turn), 3, 3))
    gradient[:, :2] = np.stack([-at.tangent[:, 1], at.tangent[:, 0]], axis=1)
    bend = at.curvature / (1.0 - at.curvature * at.distance)
    second[:, :2, :2] = -bend[:, None, None] * _squared(at.tangent)
    return Field(at.distance, gradient, second)


def track_along(curve: Curve, place: Floats, turn: Floats) -> Field:
    """The way along a curve to the feet of places."""
    at = curve.foot(place)
    gradient, second = np.zeros((len(turn), 3)), np.zeros((len(turn), 3, 3))
    gradient[:, :2], second[:, :2, :2] = _rising(at)
    return Field(at.s, gradient, second)


def track_turn(curve: Curve, place: Floats, turn: Floats) -> Field:
    """Turns against the direction of a curve at the feet of places."""
    at = curve.foot(place)
    gradient, second = np.zeros((len(turn), 3)), np.zeros((len(turn), 3, 3))
    rise, bending = _rising(at)
    gradient[:, :2] = -at.curvature[:, None] * rise
    gradient[:, 2] = 1.0
    second[:, :2, :2] = -at.curvature[:, None, None] * bending
    second[:, :2, :2] -= at.curvature_rate[:, None, None] * _squared(rise)
    return Field(turn - at.direction, gradient, second)


def _rising(at: Foot) -> tuple[Floats, Floats]:
    """Gradient (N, 2) and second derivatives (N, 2, 2) of the way along a curve."""
    t, q = at.tangent, 1.0 / (1.0 - at.curvature * at.distance)
    n = np.stack([-t[:, 1], t[:, 0]], axis=1)
    nt = n[:, :, None] * t[:, None, :]
    bending = (q**2 * at.curvature)[:, None, None] * (nt + np.swapaxes(nt, 1, 2)) + (
        q**3 * at.curvature_rate * at.distance
    )[:, None, None] * _squared(t)
    return q[:, None] * t, bending


def _squared(vectors: Floats) -> Floats:
    """(N, 2, 2) outer products of vectors (N, 2) with themselves."""
    return np.asarray(vectors[:, :, None] * vectors[:, None, :])
