"""The equations of a path bordered with its tangent, for going along it."""

from __future__ import annotations

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.motion.branch_path import Path, progress_scale

FLAT = 1e-13
"""Equations flatter than this count as singular."""
EPSILON = float(np.finfo(float).eps)


class Bordered:
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

    def keeps_orientation(self, later: Bordered) -> float:
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


class Follower:
    """One walk; keeps what its steps share."""

    def __init__(self, path: Path, poses: Floats, p: float) -> None:
        self.path = path
        self.system = path.system
        self.size = path.system.mechanism.size
        rate = path.target_rate
        self.p_scale = progress_scale(path)
        self.rate_column = -rate / self.p_scale
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

    def tangent(self, matrix: Floats, before: Floats) -> tuple[Floats, Bordered] | None:
        """Unit tangent along ``before``, and the equations bordered with it."""
        ahead = Bordered(matrix, before).solve(0.0 * self.rate_column, 1.0)
        if ahead is None:
            return None
        tangent = ahead / np.linalg.norm(ahead)
        return tangent, Bordered(matrix, tangent)

    def bend(self, poses: Floats, tangent: Floats, bordered: Bordered) -> Floats:
        """Second derivative by arc length, at right angles to the tangent."""
        rates = self.system.scaled_rates(tangent[:-1])
        bend = bordered.solve(self.system.quadratic(poses, rates), 0.0)
        return np.zeros(len(tangent)) if bend is None else bend

    def clearances(self, poses: Floats, matrix: Floats, tangent: Floats) -> tuple[float, float]:
        """mm of arc to where the equations may be singular, ahead and behind; infinite if none.

        By singular values s and their slopes s' = u.(dM/ds).v along the path.
        """
        count = self.system.unknowns
        left, singular, right = np.linalg.svd(matrix, full_matrices=False)
        step = 1e-5 * self.size
        zero = np.zeros(len(self.rate_column))
        after, before = (
            self.system.residual_jacobian(self.system.moved(poses, s * step * tangent[:-1]), zero)[
                1
            ]
            for s in (1.0, -1.0)
        )
        change = (after - before) / (2.0 * step)
        slopes = np.sum((left[:, :count].T @ change) * right[:count, :-1], axis=1)
        falling, rising = slopes < -1e-12, slopes > 1e-12
        values = singular[:count]
        return (
            float((values[falling] / -slopes[falling]).min(initial=np.inf)),
            float((values[rising] / slopes[rising]).min(initial=np.inf)),
        )

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
            step = Bordered(matrix, border).solve(-residual, 0.0)
            if step is None or float(np.abs(step).max()) > self.size:
                return None
            total += step
            poses, p = self.place(poses, p, step)
        return None
