"""Follow one assembly branch of a mechanism along a stage of the program, by arc length.

Unknowns are the body coordinates together with the progress p of the stage (0 to 1), so that a
driver dead point is a regular point of the path and is located instead of stepped over. A step
is predicted to third order (the third from the bends of two knots), corrected at right angles,
and accepted only if the correction is small against the step, the direction turns little, and
the orientation of the equations is unchanged. A change of orientation means that another branch
is near: the step is shortened until the change either vanishes (the branches only come close) or
stays at ever smaller steps (they really cross: a change point, passed straight ahead).
Method: docs/methods.md, "Following a branch";
after E. Allgower and K. Georg, Numerical Continuation Methods, Springer 1990, chapters 6 to 8
(from memory).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from functools import cached_property

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import System
from anakinema.mechanism.dyads import Dyads, decompose
from anakinema.mechanism.solve import RANK_TOLERANCE, null_space

FIRST_STEP = 0.05
LONGEST_STEP = 0.8
CROSSING_STEP = 1e-5
SHORTEST_STEP = 1e-9
"""Arc length steps as shares of the characteristic size."""
MOST_STEPS = 20_000
FLAT = 1e-13
"""Equations flatter than this count as singular."""
FLAT_DYAD = 1e-3
"""Sine below which a dyad's closed form is left to the equations."""
EPSILON = float(np.finfo(float).eps)


class End(Enum):
    """Why following a stage ended."""

    COMPLETE = "complete"
    DEAD_POINT = "dead point"
    BLOCKED = "blocked"
    LOST = "lost"
    HELD = "held"
    TOUCHED = "touched"


@dataclass(frozen=True, eq=False)
class Path:
    """A stage's equations: driver values run straight from ``start`` to ``end`` (D,)."""

    system: System
    start: Floats
    end: Floats
    anchor: Floats
    """(B, 3) pose whose held quantities are kept."""

    @cached_property
    def target_rate(self) -> Floats:
        """(R,) constant rate of the right-hand sides per unit of progress."""
        return self.system.target_rates(self.end - self.start)

    @cached_property
    def dyads(self) -> Dyads | None:
        """The same equations in closed form, if they come apart so."""
        return decompose(self.system)

    @cached_property
    def _first_targets(self) -> Floats:
        return self.system.targets(self.start, self.anchor)

    def targets(self, p: Floats | float) -> Floats:
        """(..., R) right-hand sides at progress p (...)."""
        return np.asarray(self._first_targets + np.multiply.outer(p, self.target_rate))


@dataclass(frozen=True, slots=True, eq=False)
class Knot:
    """A point of the path: pose, progress, and first and second derivatives by arc length."""

    arc: float
    poses: Floats
    p: float
    tangent: Floats
    bend: Floats


@dataclass(frozen=True, eq=False)
class Trail:
    """The followed path: knots in order, where and why it ended, change points passed."""

    path: Path
    knots: tuple[Knot, ...]
    p_scale: float
    end: End
    end_p: float
    crossings: tuple[float, ...]

    @cached_property
    def progress(self) -> Floats:
        """(M,) progress of the knots, increasing."""
        return np.array([knot.p for knot in self.knots])

    @cached_property
    def knot_poses(self) -> Floats:
        """(M, B, 3) poses of the knots."""
        return np.array([knot.poses for knot in self.knots])

    @cached_property
    def _sines(self) -> Floats:
        assert self.path.dyads is not None
        return self.path.dyads.sines(self.knot_poses)

    @property
    def sides(self) -> Floats:
        """(M, G) the side of every dyad at the knots, by sign."""
        return self._sines

    @cached_property
    def is_regular(self) -> npt.NDArray[np.bool_]:
        """(M-1,) whether every dyad stays on its side, well away from flat, between knots."""
        before, after = self._sines[:-1], self._sines[1:]
        sound = (before * after > 0) & (np.minimum(np.abs(before), np.abs(after)) > FLAT_DYAD)
        return np.asarray(sound.all(axis=1))

    @cached_property
    def progress_polynomials(self) -> Floats:
        """(6, M-1) quintic Hermite progress over u = 0..1 between knots."""
        slopes = np.array([knot.tangent[-1] for knot in self.knots]) / self.p_scale
        bends = np.array([knot.bend[-1] for knot in self.knots]) / self.p_scale
        return _quintic(self.progress, slopes, bends, self._lengths)

    @cached_property
    def pose_polynomials(self) -> Floats:
        """(6, M-1, B, 3) quintic Hermite poses over u = 0..1 between knots."""
        system = self.path.system
        rates = system.scaled_rates(np.array([knot.tangent[:-1] for knot in self.knots]))
        seconds = system.scaled_rates(np.array([knot.bend[:-1] for knot in self.knots]))
        return _quintic(self.knot_poses, rates, seconds, self._lengths[:, None, None])

    @property
    def _lengths(self) -> Floats:
        return np.diff([knot.arc for knot in self.knots])


def _quintic(values: Floats, slopes: Floats, bends: Floats, length: Floats) -> Floats:
    """(6, M-1, ...) coefficients that meet values and two derivatives at both ends."""
    a, b = values[:-1], values[1:]
    a1, b1 = slopes[:-1] * length, slopes[1:] * length
    a2, b2 = bends[:-1] * length**2, bends[1:] * length**2
    rise = b - a
    return np.stack(
        [
            a,
            a1,
            a2 / 2,
            10 * rise - 6 * a1 - 4 * b1 - 1.5 * a2 + 0.5 * b2,
            -15 * rise + 8 * a1 + 7 * b1 + 1.5 * a2 - b2,
            6 * rise - 3 * (a1 + b1) - 0.5 * (a2 - b2),
        ]
    )


class _Bordered:
    """Equations with a tangent as last row; repeated rows are kept, by orthogonal factors."""

    def __init__(self, matrix: Floats, border: Floats) -> None:
        rows, columns = matrix.shape
        self.matrix = np.empty((rows + 1, columns))
        self.matrix[:rows] = matrix
        self.matrix[rows] = border
        self.is_square = rows + 1 == columns
        self._factors: tuple[Floats, Floats] | None = None

    @property
    def factors(self) -> tuple[Floats, Floats]:
        """Orthogonal and triangular factor."""
        if self._factors is None:
            q, r = np.linalg.qr(self.matrix)
            self._factors = q, r
        return self._factors

    def solve(self, right: Floats, last: float) -> Floats | None:
        """Solution for right-hand sides of the equations and of the border, None if singular."""
        side = np.append(right, last)
        try:
            if self.is_square:
                found = np.linalg.solve(self.matrix, side)
            else:
                q, r = self.factors
                if float(np.abs(np.diag(r)).min()) < FLAT:
                    return None
                found = np.linalg.solve(r, q.T @ side)
        except np.linalg.LinAlgError:
            return None
        scale = float(np.abs(side).max())
        return found if float(np.abs(found).max()) * FLAT <= scale else None

    def keeps_orientation(self, later: _Bordered) -> float:
        """Share of the step to ``later`` on which the determinant keeps its sign, 1 if all.

        Where the sign changes, the share is that of a straight line between the determinants.
        Repeated rows are compressed with this matrix's orthonormal basis.
        """
        if self.is_square:
            (sign, size), (new_sign, new_size) = (
                np.linalg.slogdet(m) for m in (self.matrix, later.matrix)
            )
        else:
            q, r = self.factors
            sign, size = np.linalg.slogdet(r)
            new_sign, new_size = np.linalg.slogdet(q.T @ later.matrix)
        if float(sign) * float(new_sign) >= 0:
            return 1.0
        return 1.0 / (1.0 + float(np.exp(np.clip(new_size - size, -50.0, 50.0))))


def progress_scale(path: Path) -> float:
    """mm that a unit of progress counts for in the arc length of a path."""
    size = path.system.mechanism.size
    return max(float(np.linalg.norm(path.target_rate)), 1e-3 * size)


class _Follower:
    """One walk; keeps what its steps share."""

    def __init__(self, path: Path, poses: Floats, p: float, coarse: float) -> None:
        self.path = path
        self.system = path.system
        self.size = path.system.mechanism.size
        rate = path.target_rate
        self.p_scale = progress_scale(path)
        self.rate_column = -rate / self.p_scale
        self.coarse = coarse
        # What rounding leaves of a residual, from the size of the coordinates themselves.
        self.noise = 32 * EPSILON * max(self.size, float(np.abs(poses[:, :2]).max()))
        self.poses, self.p = poses, p

    def equations(self, poses: Floats, p: float) -> tuple[Floats, Floats]:
        """Residual (R,) and derivatives (R, n + 1) by coordinates and progress."""
        residual, jacobian = self.system.residual_jacobian(poses, self.path.targets(p))
        rows, unknowns = jacobian.shape
        matrix = np.empty((rows, unknowns + 1))
        matrix[:, :unknowns] = jacobian
        matrix[:, unknowns] = self.rate_column
        return residual, matrix

    def tangent(self, matrix: Floats, before: Floats) -> tuple[Floats, _Bordered] | None:
        """Unit tangent along ``before``, and the equations bordered with it."""
        ahead = _Bordered(matrix, before).solve(0.0 * self.rate_column, 1.0)
        if ahead is None:
            return None
        tangent = ahead / np.linalg.norm(ahead)
        return tangent, _Bordered(matrix, tangent)

    def bend(self, poses: Floats, tangent: Floats, bordered: _Bordered) -> Floats:
        """Second derivative by arc length, at right angles to the tangent."""
        rates = self.system.scaled_rates(tangent[:-1])
        bend = bordered.solve(self.system.quadratic(poses, rates), 0.0)
        return np.zeros(len(tangent)) if bend is None else bend

    def place(self, poses: Floats, p: float, step: Floats) -> tuple[Floats, float]:
        return self.system.moved(poses, step[:-1]), p + float(step[-1]) / self.p_scale

    def correct(
        self, poses: Floats, p: float, border: Floats, accuracy: float = 1e-11
    ) -> tuple[Floats, float, Floats, float] | None:
        """Newton at right angles to ``border``; gives pose, p, matrix there, correction made."""
        total = np.zeros(len(border))
        goal = max(accuracy * self.size, self.noise)
        for _ in range(6):
            residual, matrix = self.equations(poses, p)
            if float(np.abs(residual).max()) <= goal:
                return poses, p, matrix, float(np.linalg.norm(total))
            step = _Bordered(matrix, border).solve(-residual, 0.0)
            if step is None or float(np.abs(step).max()) > self.size:
                return None
            total += step
            poses, p = self.place(poses, p, step)
        return None


def follow(
    path: Path,
    poses: Floats,
    *,
    p: float = 0.0,
    until: float = 1.0,
    fineness: float = 1.0,
    most: float = math.inf,
    check: Callable[[], None] = lambda: None,
) -> Trail:
    """Follow from assembled ``poses`` at progress ``p`` to ``until``.

    Complete too once the bodies have moved by ``most`` mm of arc length. ``fineness`` above 1
    shortens all steps. ``check`` is called at every step and may raise to cancel.
    """
    walk = _Follower(path, poses, p, 1.0 / fineness)
    size = walk.size
    _, matrix = walk.equations(poses, p)
    start = start_tangent(walk, matrix)
    if start is None:
        return Trail(path, (), walk.p_scale, End.BLOCKED, p, ())
    factors = walk.tangent(matrix, start)
    knots: list[Knot] = []
    crossings: list[float] = []
    arc = 0.0
    if factors is None:
        # Exactly on a change point: step off it along the chosen branch.
        leap = 1e-3 * size * start
        moved, moved_p = walk.place(poses, p, leap)
        landed = walk.correct(moved, moved_p, start)
        if landed is None:
            return Trail(path, (), walk.p_scale, End.LOST, p, ())
        knots.append(Knot(0.0, poses, p, start, np.zeros(len(start))))
        crossings.append(p)
        poses, p, matrix, _ = landed
        arc = 1e-3 * size
        factors = walk.tangent(matrix, start)
        if factors is None:
            return Trail(path, (), walk.p_scale, End.LOST, p, ())
    tangent, bordered = factors
    bend = walk.bend(poses, tangent, bordered)
    knots.append(Knot(arc, poses, p, tangent, bend))
    step = FIRST_STEP * size * walk.coarse
    twist = np.zeros(len(tangent))
    for _ in range(MOST_STEPS):
        check()
        if p >= until or arc >= most:
            return _done(path, knots, walk, End.COMPLETE, min(p, until), crossings)
        step = min(step, LONGEST_STEP * size * walk.coarse)
        ahead = step * tangent + 0.5 * step * step * bend + step**3 / 6.0 * twist
        guess, guess_p = walk.place(poses, p, ahead)
        # Knots only guide the interpolation, samples are polished; next to a crossing be exact.
        accuracy = min(1e-4 * (step / size) ** 2, 1e-7)
        landed = walk.correct(guess, guess_p, tangent, accuracy)
        if landed is None or landed[3] > 0.08 * step:
            step /= 2.0
            if step < SHORTEST_STEP * size:
                return _done(path, knots, walk, End.LOST, p, crossings)
            continue
        new_poses, new_p, matrix, correction = landed
        new_factors = walk.tangent(matrix, tangent)
        if new_factors is None or float(new_factors[0] @ tangent) < 0.9:
            step /= 2.0
            if step < SHORTEST_STEP * size:
                return _done(path, knots, walk, End.LOST, p, crossings)
            continue
        share = bordered.keeps_orientation(new_factors[1])
        if share < 1.0:
            away, least = share * step, CROSSING_STEP * size
            if away > least:
                # Nearer, but not so near that the equations are worth nothing there.
                step = max(min(0.9 * away, away - least / 2, 0.7 * step), 0.1 * step)
                continue
            crossings.append(p)
            crossed = _cross(walk, poses, p, tangent, bend)
            if crossed is None:
                return _done(path, knots, walk, End.LOST, p, crossings)
            new_poses, new_p, new_factors, step = crossed
            correction = 0.0
        ratio = max(correction / step, 1e-4)
        new_arc = arc + step
        arc, poses, p = new_arc, new_poses, new_p
        tangent, bordered = new_factors
        old_bend, bend = bend, walk.bend(poses, tangent, bordered)
        # Next to a crossing bends are ill conditioned, and short steps need no third order.
        twist = (bend - old_bend) / step if step > 0.02 * size else 0.0 * bend
        knots.append(Knot(arc, poses, p, tangent, bend))
        if tangent[-1] <= 0.0:
            return _dead_point(walk, knots, until, crossings)
        growth = (0.02 / ratio) ** (1.0 / 3.0)
        step *= float(np.clip(growth, 0.4, 4.0))
    return _done(path, knots, walk, End.LOST, p, crossings)


def _done(
    path: Path, knots: list[Knot], walk: _Follower, end: End, end_p: float, crossings: list[float]
) -> Trail:
    return Trail(path, tuple(knots), walk.p_scale, end, end_p, tuple(crossings))


def _cross(
    walk: _Follower, poses: Floats, p: float, tangent: Floats, bend: Floats
) -> tuple[Floats, float, tuple[Floats, _Bordered], float] | None:
    """Go straight over a change point, far enough that the equations are sound again."""
    for share in (2e-4, 1e-3, 5e-3, 5e-5):
        step = share * walk.size
        guess, guess_p = walk.place(poses, p, step * tangent + 0.5 * step * step * bend)
        landed = walk.correct(guess, guess_p, tangent, 0.0)
        if landed is None:
            continue
        new_poses, new_p, matrix, _ = landed
        factors = walk.tangent(matrix, tangent)
        if factors is not None and float(factors[0] @ tangent) > 0.99:
            return new_poses, new_p, factors, step
    return None


def _dead_point(walk: _Follower, knots: list[Knot], until: float, crossings: list[float]) -> Trail:
    """Locate where progress stands still between the last two knots, and end there."""
    before = knots[-2]
    low, high = 0.0, knots[-1].arc - before.arc
    low_value, high_value = float(before.tangent[-1]), float(knots[-1].tangent[-1])
    best = knots[-1]
    for _ in range(60):
        step = low + (high - low) * low_value / (low_value - high_value)
        step = min(max(step, low + 0.01 * (high - low)), high - 0.01 * (high - low))
        guess = step * before.tangent + 0.5 * step * step * before.bend
        landed = walk.correct(*walk.place(before.poses, before.p, guess), before.tangent)
        factors = None if landed is None else walk.tangent(landed[2], before.tangent)
        if landed is None or factors is None:
            break
        tangent, bordered = factors
        bend = walk.bend(landed[0], tangent, bordered)
        best = Knot(before.arc + step, landed[0], landed[1], tangent, bend)
        slope = float(tangent[-1])
        if abs(slope) < 1e-9 or high - low < 1e-12 * walk.size:
            break
        if slope > 0:
            low, low_value = step, slope
        else:
            high, high_value = step, slope
    knots[-1] = best
    if best.p >= until:
        return _done(walk.path, knots, walk, End.COMPLETE, until, crossings)
    return _done(walk.path, knots, walk, End.DEAD_POINT, best.p, crossings)


def start_tangent(walk: _Follower, matrix: Floats) -> Floats | None:
    """Direction in which progress grows; None if the driver cannot move at all.

    At a start pose on a change point several branches begin; the one of least motion is taken.
    """
    directions = null_space(matrix)
    count = directions.shape[1]
    if count == 0 or float(np.abs(directions[-1]).max()) < 1e-9:
        return None
    if count == 1:
        tangent = directions[:, 0]
        return np.asarray(tangent * np.sign(tangent[-1]))
    branches = _branch_tangents(walk, matrix, directions)
    useful = [t * np.sign(t[-1]) for t in branches if abs(t[-1]) > 1e-6]
    if not useful:
        return None
    return np.asarray(max(useful, key=lambda t: float(t[-1])))


def _branch_tangents(walk: _Follower, matrix: Floats, directions: Floats) -> list[Floats]:
    """Directions of the branches through a change point: roots of the second-order condition."""
    left = null_space(matrix.T)

    def condition(angle: float) -> Floats:
        t = directions[:, 0] * np.cos(angle) + directions[:, 1] * np.sin(angle)
        rates = walk.system.scaled_rates(t[:-1])
        return np.asarray(left.T @ walk.system.quadratic(walk.poses, rates))

    grid = np.linspace(0.0, np.pi, 361)
    values = np.array([condition(a) for a in grid])
    strength = np.linalg.norm(values, axis=1)
    if float(strength.max(initial=0.0)) < RANK_TOLERANCE:
        return [directions[:, 0], directions[:, 1]]
    dominant = left[:, :] @ values[int(np.argmax(strength))]
    found: list[Floats] = []

    def signed(angle: float) -> float:
        t = directions[:, 0] * np.cos(angle) + directions[:, 1] * np.sin(angle)
        rates = walk.system.scaled_rates(t[:-1])
        return float(dominant @ walk.system.quadratic(walk.poses, rates))

    for a, b in zip(grid, grid[1:], strict=False):
        low, high = signed(a), signed(b)
        if low == 0.0 or low * high < 0:
            for _ in range(60):
                middle = (a + b) / 2
                if low * signed(middle) <= 0:
                    b = middle
                else:
                    a, low = middle, signed(middle)
            # With repeated conditions several must hold; a root of their sum alone is no branch.
            if float(np.linalg.norm(condition(a))) < 1e-6 * float(strength.max()):
                found.append(directions[:, 0] * np.cos(a) + directions[:, 1] * np.sin(a))
    return found
