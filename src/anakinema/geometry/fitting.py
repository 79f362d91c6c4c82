"""A smooth curve as arcs or cubics that meet in one direction, as near to it as is asked.

Between two places a pair of arcs leaves in the curve's direction and arrives in it (a biarc with
equal tangent lengths), or a cubic whose tangents are a third of the way long; where it strays
farther than is allowed the stretch is halved.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.wanted import still_wanted

LOOKS = (0.15, 0.35, 0.5, 0.65, 0.85)
FIRST = 12
"""Stretches to begin with."""
MOST_HALVINGS = 9
SHORTEST = 1e-4
"""mm"""


def as_arcs(curve: Curve, tolerance: float) -> list[tuple[float, float, float]]:
    """(x, y, bulge) of a path of arcs within ``tolerance`` mm of a curve; of an open one its end
    stands last."""
    out: list[tuple[float, float, float]] = []
    for pair in _halved(curve, tolerance, _pairs, _strays):
        out += [tuple(row) for row in pair.tolist()]
    if not curve.is_closed:
        end, _ = curve.at(np.array([curve.length]))
        out.append((float(end[0, 0]), float(end[0, 1]), 0.0))
    return out


def as_cubics(curve: Curve, tolerance: float) -> Floats:
    """(N, 4, 2) control points of cubic curves one after the other within ``tolerance`` mm."""
    return np.array(_halved(curve, tolerance, _cubics, _off_cubics))


def _halved(
    curve: Curve,
    tolerance: float,
    fit: Callable[[Curve, Floats, Floats], Floats],
    strays: Callable[[Curve, Floats, Floats, Floats], Floats],
) -> list[Floats]:
    """What fits stretches from low to high (N,), in order, halved until none strays too far."""
    even = np.linspace(0, curve.length, FIRST + 1)[:-1]
    cuts = np.unique(np.append(even, curve.joins % curve.length))
    # Cuts that all but coincide would leave a stretch without a direction.
    cuts = cuts[np.append(True, np.diff(cuts) > SHORTEST) & (cuts < curve.length - SHORTEST)]
    low, high = cuts, np.append(cuts[1:], curve.length)
    found: list[tuple[float, Floats]] = []
    for depth in range(MOST_HALVINGS):
        still_wanted()
        fits = fit(curve, low, high)
        good = strays(curve, low, high, fits) <= tolerance
        if depth == MOST_HALVINGS - 1:
            good[:] = True
        found += zip(low[good].tolist(), fits[good], strict=True)
        low, high = low[~good], high[~good]
        if not len(low):
            break
        middle = (low + high) / 2
        low, high = np.concatenate([low, middle]), np.concatenate([middle, high])
    return [each for _, each in sorted(found, key=lambda each: each[0])]


def _cubics(curve: Curve, low: Floats, high: Floats) -> Floats:
    """(N, 4, 2) control points over every stretch."""
    points, ends, one, two = _ends(curve, low, high)
    third = ((high - low) / 3)[:, None]
    return np.stack([points, points + third * one, ends - third * two, ends], axis=1)


def _off_cubics(curve: Curve, low: Floats, high: Floats, cubics: Floats) -> Floats:
    """(N,) mm, how far the curve is from its cubics at most, at some looks between."""
    worst = np.zeros(len(low))
    for share in LOOKS:
        points, _ = curve.at(low + share * (high - low))
        weights = [
            (1 - share) ** 3,
            3 * share * (1 - share) ** 2,
            3 * share**2 * (1 - share),
            share**3,
        ]
        there = np.einsum("k,nkd->nd", weights, cubics)
        worst = np.maximum(worst, np.hypot(*(points - there).T))
    return worst


def _pairs(curve: Curve, low: Floats, high: Floats) -> Floats:
    """(N, 2, 3) x, y and bulge of both arcs of every stretch."""
    points, ends, one, two = _ends(curve, low, high)
    chord = ends - points
    v = np.sum(chord * chord, axis=1)
    along = np.sum(chord * (one + two), axis=1)
    spread = 2 * (1 - np.sum(one * two, axis=1))
    with np.errstate(divide="ignore", invalid="ignore"):
        reach = np.where(
            spread > 1e-9,
            (-along + np.sqrt(along**2 + spread * v)) / np.where(spread > 0, spread, 1.0),
            v / (2 * along),
        )
    joint = (points + ends + reach[:, None] * (one - two)) / 2
    first = np.column_stack([points, _bulge(one, joint - points)])
    second = np.column_stack([joint, -_bulge(-two, joint - ends)])
    return np.stack([first, second], axis=1)


def _ends(curve: Curve, low: Floats, high: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Points (N, 2) and tangents (N, 2) at both ends of stretches."""
    points, foot = curve.at(low)
    ends, there = curve.at(high)
    return points, ends, foot.tangent, there.tangent


def _bulge(tangent: Floats, chord: Floats) -> Floats:
    """tan(sweep / 4) of arcs that leave along a tangent and end a chord away."""
    across = tangent[:, 0] * chord[:, 1] - tangent[:, 1] * chord[:, 0]
    angle = np.arctan2(across, np.sum(tangent * chord, axis=1))
    return np.asarray(np.tan(angle / 2))


def _strays(curve: Curve, low: Floats, high: Floats, pairs: Floats) -> Floats:
    """(N,) mm, how far the curve is from its pairs of arcs at most, at some looks between."""
    ends, _ = curve.at(high)
    worst = np.zeros(len(low))
    for share in LOOKS:
        points, _ = curve.at(low + share * (high - low))
        away = np.minimum(
            _off_arc(points, pairs[:, 0, :2], pairs[:, 1, :2], pairs[:, 0, 2]),
            _off_arc(points, pairs[:, 1, :2], ends, pairs[:, 1, 2]),
        )
        worst = np.maximum(worst, away)
    return worst


def _off_arc(points: Floats, start: Floats, end: Floats, bulge: Floats) -> Floats:
    """(N,) distances of points from the circles (or lines) of arcs."""
    chord = end - start
    half = np.hypot(*chord.T) / 2
    out = np.stack([chord[:, 1], -chord[:, 0]], axis=1) / (2 * half)[:, None]
    middle = (start + end) / 2
    straight = np.abs(bulge) * half < 1e-12
    safe = np.where(straight, 1.0, bulge)
    radius = half * (1 + safe**2) / (2 * np.abs(safe))
    centre = middle - out * (half * (1 - safe**2) / (2 * safe))[:, None]
    round_ = np.abs(np.hypot(*(points - centre).T) - radius)
    flat = np.abs(np.sum((points - middle) * out, axis=1))
    return np.asarray(np.where(straight, flat, round_))
