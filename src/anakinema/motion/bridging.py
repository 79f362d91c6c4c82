"""One polynomial laid over change points, from exact poses on both sides."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.motion.branch_path import Path
from anakinema.motion.bridge import HOLE, Bridge, chebyshev_rows
from anakinema.motion.singular import change_points

PLACES = (1.0, 0.85, 0.7, 0.55, HOLE)
"""Where exact poses stand on each side, as shares of half a bridge."""
FIRM = 0.1
"""Share of the firmest that a pose must have to count; others stand at a further change point,
which no bridge may end at."""
EACH_SIDE = 3
"""Firm poses that a bridge needs on each side."""
INSIDE = 0.3
"""Share of half a bridge within which all its change points must lie."""
FITS_TRIED = ((18, (1.0, 1.0, 1.0)), (22, (1.0, 0.3, 0.03)))
"""Terms of a bridge, and what values, velocities and accelerations count."""
GOOD = 3e-12
"""Share of the size by which a bridge may be off before a narrower one is tried as well."""
BETWEEN = (-0.35, 0.35)
"""Shares of half a bridge where it is held against exact poses."""
WIDTHS = (0.3, 0.19, 0.12, 0.075, 0.05, 0.03, 0.02, 8e-3, 3e-3, 1e-3)
"""Half widths tried, as way of the unknowns in sizes."""
CLOSED = 1e-11
"""Share of the size by which a bridge may leave loops open."""
FITS = 1e-7
"""Share of a bridge's own way by which velocities and accelerations may miss it."""
EPSILON = float(np.finfo(float).eps)


@dataclass(frozen=True, slots=True, eq=False)
class Node:
    """An exact state of the path: the unknowns' way from a reference and two rates by progress.

    ``least``: the least singular value there.
    """

    p: float
    way: Floats
    first: Floats
    second: Floats
    least: float


@dataclass(frozen=True, slots=True, eq=False)
class Surroundings:
    """Exact states of a path, all stated from one reference pose (B, 3)."""

    path: Path
    reference: Floats
    nodes: tuple[Node, ...] = ()

    def foreseen(self, p: float) -> Floats:
        """(n,) way at progress p, by the polynomial through the three nearest nodes."""
        near = sorted(self.nodes, key=lambda node: abs(node.p - p))[:3]
        series, middle, half, _ = _fitted(near, 3 * len(near), beside=p)
        return np.asarray(
            chebyshev_rows(np.array([(p - middle) / half]), len(series))[0, 0] @ series
        )

    def with_node(self, p: float, guess: Floats, most: float) -> Surroundings | None:
        """With the exact state at p near a guess (n,); None if more than ``most`` mm off it."""
        node = _solved(self.path, self.reference, p, guess)
        if node is None or float(np.linalg.norm(node.way - guess)) > most:
            return None
        return replace(self, nodes=(*self.nodes, node))


def _solved(path: Path, reference: Floats, p: float, guess: Floats) -> Node | None:
    system = path.system
    targets = path.targets(p)
    size = system.mechanism.size
    goal = max(1e-13 * size, 32 * EPSILON * float(np.abs(reference[:, :2]).max()))
    way, closed = guess, False
    for _ in range(9):
        poses = system.moved(reference, way)
        residual, jacobian = system.residual_jacobian(poses, targets)
        if not np.isfinite(jacobian).all():
            return None
        left, singular, right = np.linalg.svd(jacobian, full_matrices=False)
        if singular[-1] < 1e-12:
            return None

        def undo(side: Floats) -> Floats:
            return np.asarray(right.T @ ((left.T @ side) / singular))  # noqa: B023

        step = undo(residual)
        if float(np.abs(residual).max(initial=0.0)) <= goal:
            # Once more: next to a change point a small residual is a large way.
            way, closed = way - step, True
            break
        if float(np.abs(step).max()) > size:
            return None
        if float(np.abs(step).max()) <= 1e-14 * size:
            closed = float(np.abs(residual).max()) <= 100 * goal
            break
        way = way - step
    if not closed:
        return None
    first = undo(path.target_rate)
    first = first + undo(path.target_rate - jacobian @ first)
    bent = system.quadratic(poses, system.scaled_rates(first))
    second = undo(bent)
    second = second + undo(bent - jacobian @ second)
    return Node(p, way, first, second, float(singular[-1]))


def _fitted(
    nodes: Sequence[Node],
    terms: int,
    beside: float | None = None,
    weights: tuple[float, float, float] = (1.0, 1.0, 1.0),
) -> tuple[Floats, float, float, Floats]:
    """Chebyshev series (terms, n) through states, its middle and half, and what misses it.

    The last (3, N, n): values, velocities and accelerations by the half, less the series' own.
    ``weights`` say what each of the three counts.
    """
    at = np.array([node.p for node in nodes])
    ends = at if beside is None else np.append(at, beside)
    middle, half = (ends.max() + ends.min()) / 2, (ends.max() - ends.min()) / 2 or 1.0
    rows = chebyshev_rows((at - middle) / half, terms)
    wanted = np.stack(
        [
            np.array([node.way for node in nodes]),
            half * np.array([node.first for node in nodes]),
            half**2 * np.array([node.second for node in nodes]),
        ]
    )
    scale = np.array(weights)[:, None, None]
    flat = (scale * rows).reshape(-1, terms)
    series = np.linalg.lstsq(flat, (scale * wanted).reshape(len(flat), -1), rcond=None)[0]
    return series, float(middle), float(half), wanted - rows @ series


def bridged(around: Surroundings, middle: float, least: float = 0.0) -> Bridge | None:
    """A bridge over the change points near progress ``middle``, None if there is none.

    There must be nodes before it. ``least``: the share of the size that it must reach to each
    side at least.
    """
    size = around.path.system.mechanism.size
    speed = float(np.linalg.norm(min(around.nodes, key=lambda n: abs(n.p - middle)).first))
    best: tuple[float, Bridge] | None = None
    for width in WIDTHS:
        if width < least:
            break
        half = width * size / speed
        found = _tried(around, middle, half)
        if found is None:
            if best is not None:
                break
            continue
        if best is not None and found[0] > best[0]:
            break
        best = found
        if best[0] < GOOD * size:
            break
    return None if best is None else best[1]


def _tried(around: Surroundings, middle: float, half: float) -> tuple[float, Bridge] | None:
    """A bridge of a half width, and how far it is off; about the middle of all it goes over."""
    for _ in range(2):
        own = _laid(around, middle, half)
        bridge = None if own is None else _checked(own)
        if own is None or bridge is None or not bridge.points:
            return None
        places = [point.p for point in bridge.points]
        centre = bridge.begin + bridge.half
        if all(abs(place - centre) <= INSIDE * bridge.half for place in places):
            return _off(own, bridge), bridge
        span = max(places) - min(places)
        middle, half = (max(places) + min(places)) / 2, max(half, 0.6 * span / INSIDE)
    return None


def _laid(around: Surroundings, middle: float, half: float) -> Surroundings | None:
    """Exact states on both sides of a middle, None if the branch is not found there."""
    own = replace(around, nodes=())
    for share in PLACES:
        p = middle - share * half
        found = replace(own, nodes=(*around.nodes, *own.nodes))
        way = half * float(np.linalg.norm(found.nodes[-1].first))
        found_here = found.with_node(p, found.foreseen(p), 0.02 * way)
        if found_here is None:
            return None
        own = replace(own, nodes=(*own.nodes, found_here.nodes[-1]))
    for k, share in enumerate(reversed(PLACES)):
        p = middle + share * half
        way = half * float(np.linalg.norm(own.nodes[-1].first))
        beyond = own.with_node(p, own.foreseen(p), (0.01 if k == 0 else 1e-3) * way)
        if beyond is None:
            return None
        own = beyond
    least = FIRM * max(node.least for node in own.nodes)
    firm = tuple(node for node in own.nodes if node.least > least)
    before = sum(node.p < middle for node in firm)
    return replace(own, nodes=firm) if min(before, len(firm) - before) >= EACH_SIDE else None


def _checked(own: Surroundings) -> Bridge | None:
    """The bridge through nodes, if it fits them all and closes all loops between.

    Few terms are wrong by what they leave out, many by what rounding adds: of `FITS_TRIED` that
    is taken which is nearest to exact poses between its nodes.
    """
    path, system = own.path, own.path.system
    noise = 64 * EPSILON * float(np.abs(own.reference[:, :2]).max())
    closed = max(CLOSED * system.mechanism.size, noise)
    best: tuple[float, Bridge] | None = None
    for terms, weights in FITS_TRIED:
        if terms > 2.5 * len(own.nodes):
            continue
        series, middle, half, missed = _fitted(own.nodes, terms, weights=weights)
        way = half * max(float(np.linalg.norm(node.first)) for node in own.nodes)
        if float(np.abs(missed).max()) > FITS * way:
            continue
        bridge = Bridge(middle - half, middle + half, own.reference, series)
        p = middle + half * np.linspace(-1.0, 1.0, 41)
        residual = system.residual(bridge.states(system, p)[0], path.targets(p))
        off = _off(own, bridge)
        if float(np.abs(residual).max(initial=0.0)) <= closed and (best is None or off < best[0]):
            best = off, bridge
    if best is None:
        return None
    return replace(best[1], points=change_points(path, best[1]))


def _off(own: Surroundings, bridge: Bridge) -> float:
    """How far a bridge is off exact poses beside its change points."""
    middle, off = bridge.begin + bridge.half, 0.0
    for share in BETWEEN:
        p = middle + share * bridge.half
        way = bridge.ways(np.array([p]))[0, 0]
        exact = _solved(own.path, own.reference, p, way)
        off = max(off, math.inf if exact is None else float(np.linalg.norm(exact.way - way)))
    return off
