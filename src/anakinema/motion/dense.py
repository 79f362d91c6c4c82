"""Poses and rates between the knots of a followed path, in batches.

Where the equations come apart into dyads these are closed forms, on the side of every dyad that
the knots are on. Elsewhere the knots are interpolated and the loops closed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.solve import apply
from anakinema.mechanism.system import System
from anakinema.motion.branch_path import BranchPath
from anakinema.wanted import still_wanted

SINGULAR = 1e6
"""A pose whose inverse equations are larger than this has no defined rates, and is corrected
only across its weak direction: along it the interpolation is the better judge."""
WEAK = 1e-5
"""Singular values below this share are left alone at a singular pose."""
BATCH = 50_000_000
"""Bytes that the matrices of one batch of poses may take, a few times over."""
BLOCKS = 24
"""Numbers that the matrices of blocks take for each unknown, and what is worked out with them."""
POLISHED = 1e-12
"""Residual share of size at which a pose counts as exact."""


@dataclass(frozen=True, slots=True, eq=False)
class Solved:
    """Exact poses of one stage and their rates by progress, (N, B, 3) each; NaN rates where the
    pose is singular. residual (N,) mm; inverses (N, n, R) of the equations if they were needed.
    """

    poses: Floats
    first: Floats
    second: Floats
    residual: Floats
    inverses: Floats | None

    def taken(self, rows: Indices) -> Solved:
        """Some of the poses."""
        if len(rows) == len(self.residual):
            return self
        parts = self.poses, self.first, self.second, self.residual, self.inverses
        return Solved(*(None if part is None else part[rows] for part in parts))  # type: ignore[arg-type]


@dataclass(frozen=True, slots=True, eq=False)
class _Polished:
    """Closed poses (N, B, 3); inverses (N, n, R), their norm (N,) and the residual (N,) mm."""

    poses: Floats
    inverses: Floats
    weakness: Floats
    residual: Floats


def positions(branch_path: BranchPath, p: Floats) -> Floats:
    """(N, B, 3) exact poses at progress p (N,) of a stage."""
    direct = _by_dyads([(branch_path, p)])
    if direct is None:
        return _positions(branch_path, p)
    found, rest = direct
    if len(rest):
        found.poses[rest] = _positions(branch_path, p[rest])
    return found.poses


def _positions(branch_path: BranchPath, p: Floats) -> Floats:
    poses = interpolate(branch_path, p)
    rows = np.flatnonzero(~_in_holes(branch_path, p))
    most = batch_size(branch_path.path.system)
    for k in range(0, len(rows), most):
        still_wanted()
        some = rows[k : k + most]
        poses[some] = _polish(branch_path, p[some], poses[some]).poses
    return poses


def batch_size(system: System, *, closed: bool = False) -> int:
    """How many poses are solved at once, so that their matrices stay within `BATCH` bytes;
    ``closed``: in closed form, which needs no matrices but those of blocks."""
    width = BLOCKS if closed else max(system.rows, 1)
    return max(1, BATCH // (8 * width * max(system.unknowns, 1)))


def _in_holes(branch_path: BranchPath, p: Floats) -> np.ndarray:
    """(N,) whether progress is so near a change point that only the bridge over it answers."""
    inside = np.zeros(len(p), dtype=bool)
    for bridge in branch_path.bridges:
        inside |= bridge.is_hole(p)
    return inside


def solve(branch_path: BranchPath, p: Floats) -> Solved:
    """Exact poses and rates at progress p (N,) of a stage."""
    return solve_all([(branch_path, p)])


def solve_all(parts: Sequence[tuple[BranchPath, Floats]]) -> Solved:
    """The same of several stages under the same equations, one after the other."""
    direct = _by_dyads(parts)
    if direct is None:
        return _together([_by_equations(*part) for part in parts])
    found, rest = direct
    first = 0
    for branch_path, p in parts:
        rows = rest[(rest >= first) & (rest < first + len(p))]
        if len(rows):
            others = _by_equations(branch_path, p[rows - first])
            for into, some in (
                (found.poses, others.poses),
                (found.first, others.first),
                (found.second, others.second),
                (found.residual, others.residual),
            ):
                into[rows] = some
        first += len(p)
    return found


def _together(parts: list[Solved]) -> Solved:
    if len(parts) == 1:
        return parts[0]
    inverses = [part.inverses for part in parts if part.inverses is not None]
    return Solved(
        np.concatenate([part.poses for part in parts]),
        np.concatenate([part.first for part in parts]),
        np.concatenate([part.second for part in parts]),
        np.concatenate([part.residual for part in parts]),
        np.concatenate(inverses) if len(inverses) == len(parts) else None,
    )


def inverses(system: System, poses: Floats) -> Floats:
    """(N, n, R) inverses of the equations at poses (N, B, 3)."""
    _, jacobian = system.residual_jacobian(poses, np.zeros((len(poses), system.rows)))
    return system.inverses(jacobian)


def _by_dyads(parts: Sequence[tuple[BranchPath, Floats]]) -> tuple[Solved, Indices] | None:
    """Closed forms of stages under the same equations, and the rows they cannot answer for;
    None if there are no dyads."""
    path = parts[0][0].path
    if path.dyads is None or any(len(branch_path.knots) < 2 for branch_path, _ in parts):
        return None
    targets, rates, near, sides, regular = [], [], [], [], []
    for branch_path, p in parts:
        interval = np.clip(
            np.searchsorted(branch_path.progress, p, side="right") - 1,
            0,
            len(branch_path.knots) - 2,
        )
        targets.append(branch_path.path.targets(p))
        rates.append(np.broadcast_to(branch_path.path.target_rate, targets[-1].shape))
        near.append(branch_path.knot_poses[interval])
        sides.append(branch_path.sides[interval])
        regular.append(branch_path.is_regular[interval])
    wanted, sound = np.concatenate(targets), np.concatenate(regular)
    with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
        poses, first, second = path.dyads.solve(
            wanted, np.concatenate(rates), np.concatenate(near), np.concatenate(sides)
        )
        residual = np.abs(path.system.residual(poses, wanted)).max(axis=-1, initial=0.0)
        sound &= residual <= 10 * POLISHED * path.system.mechanism.size
    return Solved(poses, first, second, residual, None), np.flatnonzero(~sound)


def _by_equations(branch_path: BranchPath, p: Floats) -> Solved:
    most = batch_size(branch_path.path.system)
    if len(p) > most:
        parts = [p[k : k + most] for k in range(0, len(p), most)]
        return _together([_by_equations(branch_path, part) for part in parts])
    inside = _in_holes(branch_path, p)
    if not inside.any():
        polished = _polish(branch_path, p, interpolate(branch_path, p))
        first, second = _rates(branch_path, polished)
        return Solved(polished.poses, first, second, polished.residual, polished.inverses)
    rest = np.flatnonzero(~inside)
    poses = interpolate(branch_path, p)
    found = Solved(poses, np.empty_like(poses), np.empty_like(poses), np.empty(len(p)), None)
    if len(rest):
        polished = _polish(branch_path, p[rest], poses[rest])
        found.poses[rest], found.residual[rest] = polished.poses, polished.residual
        found.first[rest], found.second[rest] = _rates(branch_path, polished)
    system = branch_path.path.system
    for bridge in branch_path.bridges:
        rows = np.flatnonzero(bridge.is_hole(p))
        if len(rows):
            found.poses[rows], found.first[rows], found.second[rows] = bridge.states(
                system, p[rows]
            )
            residual = system.residual(found.poses[rows], branch_path.path.targets(p[rows]))
            found.residual[rows] = np.abs(residual).max(axis=-1, initial=0.0)
    return found


def interpolate(branch_path: BranchPath, p: Floats) -> Floats:
    """(N, B, 3) quintic Hermite poses at progress p (N,), from arc length of the knots.

    Positions, first and second derivatives agree with the knots; error is of sixth order.
    """
    if len(branch_path.knots) == 1:
        return np.broadcast_to(
            branch_path.knots[0].poses, (len(p), *branch_path.knots[0].poses.shape)
        ).copy()
    progress = branch_path.progress
    interval = np.clip(np.searchsorted(progress, p, side="right") - 1, 0, len(progress) - 2)
    u = _invert(branch_path.progress_polynomials[:, interval], p)
    # Horner over whole intervals at once: powers (N, 6) times coefficients (N, 6, B, 3).
    powers = u[:, None] ** np.arange(6)
    poses = np.zeros((len(p), *branch_path.knots[0].poses.shape))
    for k in range(6):
        poses += powers[:, k, None, None] * branch_path.pose_polynomials[k, interval]
    on = branch_path.bridge_of(p)
    for k, bridge in enumerate(branch_path.bridges):
        rows = np.flatnonzero(on == k)
        if len(rows):
            poses[rows] = bridge.states(branch_path.path.system, p[rows])[0]
    return poses


def _invert(polynomials: Floats, p: Floats) -> Floats:
    """u in 0..1 where increasing quintics (6, N) take the values p (N,): safeguarded Newton.

    Good to 1e-7 of progress: the poses found with it are polished at the exact p anyway.
    """
    low, high = np.zeros(len(p)), np.ones(len(p))
    start, end = polynomials[0], polynomials.sum(axis=0)
    u = np.clip((p - start) / (end - start), 0.0, 1.0)
    for _ in range(60):
        value = -p + polynomials[0]
        slope = np.zeros(len(p))
        for k in range(5, 0, -1):
            slope = slope * u + k * polynomials[k]
        value = value + u * _horner_tail(polynomials, u)
        if float(np.abs(value).max(initial=0.0)) < 1e-7:
            break
        low, high = np.where(value < 0, u, low), np.where(value < 0, high, u)
        with np.errstate(divide="ignore", invalid="ignore"):
            better = u - value / slope
        u = np.where((better > low) & (better < high), better, (low + high) / 2)
    return np.asarray(u)


def _horner_tail(polynomials: Floats, u: Floats) -> Floats:
    tail = polynomials[5]
    for k in range(4, 0, -1):
        tail = tail * u + polynomials[k]
    return np.asarray(tail)


def _polish(branch_path: BranchPath, p: Floats, guess: Floats) -> _Polished:
    """Close the loops of a batch of near poses exactly, at their progress p (N,)."""
    system = branch_path.path.system
    targets = branch_path.path.targets(p)
    size = system.mechanism.size
    residual, jacobian = system.residual_jacobian(guess, targets)
    inverses = system.inverses(jacobian)
    weakness = np.linalg.norm(inverses, axis=(-2, -1))
    weak = ~(weakness < SINGULAR)
    if weak.any():
        inverses[weak] = np.linalg.pinv(jacobian[weak], rcond=WEAK)
    poses = guess
    for _ in range(12):
        open_by = np.abs(residual).max(axis=-1, initial=0.0)
        if not (open_by > POLISHED * size).any():
            break
        trial = system.moved(poses, -apply(inverses, residual))
        value = system.residual(trial, targets)
        better = np.abs(value).max(axis=-1, initial=0.0) < open_by
        poses = np.where(better[:, None, None], trial, poses)
        residual = np.where(better[:, None], value, residual)
        if not better.any():
            break
    poses, residual = _finished(branch_path, p, poses, residual)
    return _Polished(poses, inverses, weakness, np.abs(residual).max(axis=-1, initial=0.0))


def _finished(
    branch_path: BranchPath, p: Floats, poses: Floats, residual: Floats
) -> tuple[Floats, Floats]:
    """Full Newton for the few poses that the inverse at the guess did not close."""
    system = branch_path.path.system
    goal = 10 * POLISHED * system.mechanism.size
    for _ in range(4):
        rows = np.flatnonzero(np.abs(residual).max(axis=-1, initial=0.0) > goal)
        if not len(rows):
            break
        targets = branch_path.path.targets(p[rows])
        value, jacobian = system.residual_jacobian(poses[rows], targets)
        better = system.moved(
            poses[rows], -apply(np.asarray(np.linalg.pinv(jacobian, rcond=1e-9), float), value)
        )
        after = system.residual(better, targets)
        improved = np.abs(after).max(axis=-1) < np.abs(value).max(axis=-1)
        poses, residual = poses.copy(), residual.copy()
        poses[rows[improved]], residual[rows[improved]] = better[improved], after[improved]
        if not improved.any():
            break
    return poses, residual


def _rates(branch_path: BranchPath, at: _Polished) -> tuple[Floats, Floats]:
    """First and second rates (N, B, 3) of the poses by progress; NaN where singular.

    Velocities and accelerations come from the constraint equations, refined with the inverse
    at hand until they solve them; nothing is differenced.
    """
    system = branch_path.path.system
    zero = np.zeros((len(at.poses), system.rows))
    _, jacobian = system.residual_jacobian(at.poses, zero)
    wanted = np.broadcast_to(branch_path.path.target_rate, zero.shape)

    def solve(right: Floats) -> Floats:
        x = apply(at.inverses, right)
        for _ in range(2):
            x = x + apply(at.inverses, right - apply(jacobian, x))
        return x

    first = system.scaled_rates(solve(wanted))
    second = system.scaled_rates(solve(system.quadratic(at.poses, first)))
    singular = ~(at.weakness < SINGULAR)
    first[singular] = np.nan
    second[singular] = np.nan
    return first, second
