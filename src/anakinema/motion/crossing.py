"""Going straight over change points, where several assemblies of a mechanism meet.

The branch that is followed is a smooth curve through such a pose, though the equations say
nothing there. So exact poses are found on both sides at a sound distance, those beyond by
running the polynomial of those before ahead and closing the loops, and one polynomial is laid
through all of them: values, velocities and accelerations of both sides must fit it, and between
them it must close all loops. How many assemblies meet, and in how many loops, does not matter.
Method: docs/methods.md, "Change points".
"""

from __future__ import annotations

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.motion.branch_path import Path
from anakinema.motion.bridge import Bridge
from anakinema.motion.bridging import Surroundings, bridged

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
    _, speeds, _ = mechanism.values_and_rates(poses, rates, np.zeros_like(rates))
    moves = np.abs(speeds) * np.where(mechanism.angular, mechanism.size, 1.0)
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
