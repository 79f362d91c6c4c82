"""Going straight over change points, where several assemblies of a mechanism meet.

The branch that is followed is a smooth curve through such a pose, though the equations say
nothing there. So exact poses are found on both sides at a sound distance, those beyond by
running the polynomial of those before ahead and closing the loops, and one polynomial is laid
through all of them: values, velocities and accelerations of both sides must fit it, and between
them it must close all loops. How many assemblies meet, and in how many loops, does not matter.
Method: docs/methods.md, "Change points".
"""

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
NEAR = 1e-4
"""Singular values below this may vanish near the start."""
BEGINS = (2e-2, 2e-3)
"""Ways of the first exact poses beside a start, in sizes; loops that hardly feel their change
point are known only from farther off."""
BENT = 0.1
"""Share of that way by which the branch may have bent off the direction it leaves in."""
MOST_BRANCHES = 64
STARTS = 48
BEGUN_OFF = 3e-5
"""Share of the size by which a start pose may be off the branch: an assembled pose is known
only so well at a change point."""
EXACT = 1e-9
"""Share of the size within which it is on it."""
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
    """Exact states of a path, all told from one reference pose (B, 3)."""

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


def begun(path: Path, poses: Floats, p: float, prior: Floats | None) -> Bridge | None:
    """The bridge that a path begins on from a pose at a change point; None if it is at none.

    ``prior`` (n,): rates by progress with which the motion comes there; the branch nearest to
    them is taken. Without any, that in which fewest joints stand still, then that of fewest
    different rates of turning (rods then run parallel), then that of least motion.
    """
    size = path.system.mechanism.size
    found: list[tuple[float, Bridge]] = []
    for first in branches(path, poses, p, prior):
        bridge = _grown(path, poses, p, first)
        if bridge is None:
            continue
        off = float(np.linalg.norm(bridge.ways(np.array([p]))[0, 0]))
        if off <= EXACT * size:
            return bridge
        if off <= BEGUN_OFF * size:
            found.append((off, bridge))
    # A pose next to a change point is on the branch that it is plainly nearer to.
    nearest = min((off for off, _ in found), default=0.0)
    return next((bridge for off, bridge in found if off <= 3 * nearest), None)


def branches(path: Path, poses: Floats, p: float, prior: Floats | None) -> list[Floats]:
    """Rates (n,) by progress of all branches through a pose, in the order of `begun`."""

    def order(first: Floats) -> tuple[float, ...]:
        if prior is not None:
            return (float(np.linalg.norm(first - prior)),)
        return (_standing(path, poses, first), _turning(path, first), float(np.linalg.norm(first)))

    return sorted(directions(path, poses, p), key=order)


def _standing(path: Path, poses: Floats, rate: Floats) -> int:
    """How many joints stand still."""
    mechanism = path.system.mechanism
    rates = path.system.scaled_rates(rate)
    values, _ = mechanism.value_rates(poses, rates, np.zeros_like(rates))
    moves = np.abs(values) * np.where(mechanism.angular, mechanism.size, 1.0)
    return int(np.count_nonzero(~(moves > 1e-6 * np.nanmax(moves, initial=0.0))))


def _turning(path: Path, rate: Floats) -> int:
    """How many different rates of turning occur among the bodies."""
    turns = np.sort(path.system.scaled_rates(rate)[:, 2])
    most = float(np.abs(turns).max(initial=0.0)) or 1.0
    return 1 + int(np.count_nonzero(np.diff(turns) > 1e-3 * most))


def directions(path: Path, poses: Floats, p: float = 0.0) -> list[Floats]:
    """Rates (n,) by progress of all branches through a pose at a change point.

    On the directions that all conditions leave to first order, those of second order are
    quadratic; Gauss-Newton from many starts finds their roots.
    """
    system = path.system
    _, jacobian = system.residual_jacobian(poses, path.targets(p))
    rate = path.target_rate
    scale = float(np.linalg.norm(rate)) or 1.0
    matrix = np.hstack([jacobian, -rate[:, None] / scale])
    left, singular, right = np.linalg.svd(matrix)
    rank = int(np.count_nonzero(singular > NEAR))
    free, stressed = right[rank:].T, left[:, rank:]
    count = free.shape[1]
    if count < 2 or not stressed.shape[1]:
        return []
    speed = free[-1] / scale
    if float(np.abs(speed).max()) < 1e-9:
        return []

    def bent(t: Floats) -> Floats:
        return stressed.T @ system.quadratic(poses, system.scaled_rates(t[:-1]))

    single = [bent(free[:, i]) for i in range(count)]
    forms = np.array(
        [
            [
                single[i] if i == j else (bent(free[:, i] + free[:, j]) - single[i] - single[j]) / 2
                for j in range(count)
            ]
            for i in range(count)
        ]
    )
    base = speed / float(speed @ speed)
    spread = np.linalg.svd(speed[None])[2][1:].T
    random = np.random.default_rng(count)
    strewn = random.standard_normal((STARTS * 2 ** min(count - 1, 4), count - 1))
    y = strewn * float(np.linalg.norm(base)) * np.exp(random.uniform(-1, 1.5, (len(strewn), 1)))
    for _ in range(40):
        c = base + y @ spread.T
        value = np.einsum("si,ijm,sj->sm", c, forms, c)
        slope = 2 * np.einsum("si,ijm,jk->smk", c, forms, spread)
        step = np.einsum("skm,sm->sk", np.linalg.pinv(slope, rcond=1e-10), value)
        y = y - step
        y = np.where(np.isfinite(y), y, 0.0)
    c = base + y @ spread.T
    value = np.abs(np.einsum("si,ijm,sj->sm", c, forms, c)).max(axis=1)
    size = np.einsum("si,si->s", c, c) * max(float(np.abs(forms).max()), 1e-12)
    # Directions near the start pose's null space are only known as well as that pose is.
    good = value < 1e-6 * size
    found: list[Floats] = []
    for each in c[good][np.argsort(np.linalg.norm(c[good], axis=1))]:
        first = free[:-1] @ each
        near = (np.linalg.norm(first - o) < 1e-3 * np.linalg.norm(first) for o in found)
        if not any(near):
            found.append(first)
        if len(found) >= MOST_BRANCHES:
            break
    return found


def _grown(path: Path, poses: Floats, p: float, first: Floats) -> Bridge | None:
    """The bridge along a direction from a pose at a change point, if there is such a branch."""
    for begin in BEGINS:
        bridge = _grown_from(path, poses, p, first, begin)
        if bridge is not None:
            return bridge
    return None


def _grown_from(path: Path, poses: Floats, p: float, first: Floats, begin: float) -> Bridge | None:
    """The bridge grown from exact poses ``begin`` of the size to both sides of a pose."""
    size, speed = path.system.mechanism.size, float(np.linalg.norm(first))
    reach = begin * size / speed
    around = Surroundings(path, poses)
    for side in (-1.0, 1.0):
        near = around.with_node(p + side * reach, side * reach * first, BENT * reach * speed)
        if near is None:
            return None
        around = near
    while reach * speed < 0.25 * size:
        wider = around
        for side in (-1.0, 1.0):
            at = p + side * 2 * reach
            found = wider.with_node(at, wider.foreseen(at), 0.02 * reach * speed)
            if found is None:
                return bridged(around, p)
            wider = found
        around, reach = wider, 2 * reach
    return bridged(around, p)
