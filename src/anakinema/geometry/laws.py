"""Laws of motion: how a rise from 0 to 1 is spread over a time from 0 to 1.

All are symmetric: s(x) = 1 - s(1 - x). Constant velocity and acceleration, simple harmonic,
cycloidal, modified trapezoid (each half an eighth sine, a quarter constant, an eighth sine),
modified sine (an eighth sine, three quarters of a sine of a third of the pace, an eighth sine),
polynomials 3-4-5 and 4-5-6-7 (R. L. Norton, Cam Design and Manufacturing Handbook; forms from
memory, integrated anew).
"""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from anakinema.geometry.contour import Floats

MotionLaw = Literal[
    "constant",
    "parabolic",
    "harmonic",
    "cycloidal",
    "modified_trapezoid",
    "modified_sine",
    "polynomial_345",
    "polynomial_4567",
]

TRAPEZOID = 8 * math.pi / (math.pi + 2)
"""Peak acceleration of the modified trapezoid."""
SINE = 4 * math.pi**2 / (math.pi + 4)
"""Peak acceleration of the modified sine."""
POLYNOMIALS: dict[str, tuple[float, ...]] = {
    "polynomial_345": (0, 0, 0, 10, -15, 6),
    "polynomial_4567": (0, 0, 0, 0, 35, -84, 70, -20),
}
"""Coefficients by rising power."""
ONSETS: dict[str, int] = {"parabolic": 2, "harmonic": 2, "polynomial_4567": 4}
"""Power of the time with which a law begins, where it is not the third."""
FINE = 4e-16
"""Of a time that is searched."""
HALVINGS = 60


def rise(law: MotionLaw, x: Floats) -> tuple[Floats, Floats, Floats]:
    """(N,) place, speed and acceleration at times x (N,) from 0 to 1.

    Where the acceleration jumps it is that of the piece before.
    """
    x = np.clip(np.asarray(x, dtype=np.float64), 0.0, 1.0)
    early = x <= 0.5
    s, v, a = _first_half(law, np.where(early, x, 1.0 - x))
    return np.where(early, s, 1.0 - s), v, np.where(early, a, -a)


def jerk(law: MotionLaw, x: Floats) -> Floats:
    """(N,) rate of the acceleration at times x (N,), jumps left out; even about the middle."""
    x = np.clip(np.asarray(x, dtype=np.float64), 0.0, 1.0)
    x = np.where(x <= 0.5, x, 1.0 - x)
    if law in ("constant", "parabolic"):
        return np.zeros_like(x)
    if law == "harmonic":
        return np.asarray(-(math.pi**3) / 2 * np.sin(math.pi * x))
    if law == "cycloidal":
        return np.asarray(4 * math.pi**2 * np.cos(2 * math.pi * x))
    onset = 4 * math.pi * np.cos(4 * math.pi * x)
    if law == "modified_trapezoid":
        last = 4 * math.pi * TRAPEZOID * np.cos(4 * math.pi * (x - 1 / 4))
        return np.where(x <= 1 / 8, TRAPEZOID * onset, np.where(x <= 3 / 8, 0.0, last))
    if law == "modified_sine":
        last = 4 * math.pi / 3 * SINE * np.cos(4 * math.pi * x / 3 + math.pi / 3)
        return np.where(x <= 1 / 8, SINE * onset, last)
    return np.asarray(np.polynomial.Polynomial(POLYNOMIALS[law]).deriv(3)(x))


PIECES: dict[str, tuple[float, ...]] = {
    "parabolic": (0.5,),
    "modified_trapezoid": (1 / 8, 3 / 8, 5 / 8, 7 / 8),
    "modified_sine": (1 / 8, 7 / 8),
}
"""Times at which a law passes from one formula to the next."""


def time_of(law: MotionLaw, s: Floats) -> Floats:
    """(N,) times at which a rise is at s (N,), from 0 to 1."""
    s = np.clip(np.asarray(s, dtype=np.float64), 0.0, 1.0)
    if law == "constant":
        return s
    early = s <= 0.5
    wanted = np.where(early, s, 1.0 - s)
    low, high = np.zeros_like(wanted), np.full_like(wanted, 0.5)
    x = 0.5 * (2 * wanted) ** (1 / ONSETS.get(law, 3))
    # Newton's steps within a bracket that shrinks; halved where a step would leave it.
    for _ in range(HALVINGS):
        place, speed, _ = _first_half(law, x)
        below = place < wanted
        low, high = np.where(below, x, low), np.where(below, high, x)
        with np.errstate(divide="ignore", invalid="ignore"):
            step = x - (place - wanted) / speed
        # An end of the bracket is allowed: there a step that has come home stays.
        inside = (step >= low) & (step <= high)
        before, x = x, np.where(inside, step, (low + high) / 2)
        if np.abs(x - before).max(initial=0.0) <= FINE:
            break
    found = np.where(wanted == 0.5, 0.5, np.where(wanted == 0.0, 0.0, x))
    return np.where(early, found, 1.0 - found)


def _first_half(law: MotionLaw, x: Floats) -> tuple[Floats, Floats, Floats]:
    """Place, speed and acceleration for x from 0 to 0.5."""
    if law == "constant":
        return x, np.ones_like(x), np.zeros_like(x)
    if law == "parabolic":
        return 2 * x**2, 4 * x, np.full_like(x, 4.0)
    if law == "harmonic":
        t = math.pi * x
        return np.sin(t / 2) ** 2, math.pi / 2 * np.sin(t), math.pi**2 / 2 * np.cos(t)
    if law == "cycloidal":
        t = 2 * math.pi * x
        return _lag(t) / (2 * math.pi), 2 * np.sin(t / 2) ** 2, 2 * math.pi * np.sin(t)
    if law == "modified_trapezoid":
        return _modified_trapezoid(x)
    if law == "modified_sine":
        return _modified_sine(x)
    place = np.polynomial.Polynomial(POLYNOMIALS[law])
    return place(x), place.deriv(1)(x), place.deriv(2)(x)


def _onset(peak: float, x: Floats) -> tuple[Floats, Floats, Floats]:
    """The first eighth: acceleration peak · sin 4πx from rest."""
    t, k = 4 * math.pi * x, peak / (4 * math.pi)
    return k * _lag(t) / (4 * math.pi), 2 * k * np.sin(t / 2) ** 2, peak * np.sin(t)


def _lag(t: Floats) -> Floats:
    """t - sin t for t >= 0, as exact near rest as elsewhere: there by its series."""
    u = np.minimum(t, 0.5) ** 2
    series = t**3 / 6 * (1 - u / 20 * (1 - u / 42 * (1 - u / 72 * (1 - u / 110 * (1 - u / 156)))))
    return np.where(t < 0.5, series, t - np.sin(t))


def _modified_trapezoid(x: Floats) -> tuple[Floats, Floats, Floats]:
    k = TRAPEZOID / (4 * math.pi)
    s1 = k * (1 / 8 - 1 / (4 * math.pi))
    since = x - 1 / 8
    middle = (
        s1 + k * since + TRAPEZOID * since**2 / 2,
        k + TRAPEZOID * since,
        np.full_like(x, TRAPEZOID),
    )
    v2, s2 = k + TRAPEZOID / 4, s1 + k / 4 + TRAPEZOID / 32
    t = 4 * math.pi * (x - 1 / 4)
    last = (
        s2 + v2 * (x - 3 / 8) - k / (4 * math.pi) * (np.sin(t) - 1),
        v2 - k * np.cos(t),
        TRAPEZOID * np.sin(t),
    )
    pieces = zip(_onset(TRAPEZOID, x), middle, last, strict=True)
    s, v, a = (np.where(x <= 1 / 8, p, np.where(x <= 3 / 8, q, r)) for p, q, r in pieces)
    return s, v, a


def _modified_sine(x: Floats) -> tuple[Floats, Floats, Floats]:
    k = SINE / (4 * math.pi)
    s1 = k * (1 / 8 - 1 / (4 * math.pi))
    t = 4 * math.pi * x / 3 + math.pi / 3
    last = (
        s1 + k * (x - 1 / 8) - 9 * k / (4 * math.pi) * (np.sin(t) - 1),
        k - 3 * k * np.cos(t),
        SINE * np.sin(t),
    )
    pieces = zip(_onset(SINE, x), last, strict=True)
    s, v, a = (np.where(x <= 1 / 8, p, q) for p, q in pieces)
    return s, v, a
