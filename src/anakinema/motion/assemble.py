"""Close the loops of one pose: the nearest assembled pose, or a report of what stays open."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import System
from anakinema.mechanism.frames import frames
from anakinema.mechanism.solve import RANK_TOLERANCE

CLOSED = 1e-11
"""Residual of a closed pose as a share of the characteristic size."""
MOST_ITERATIONS = 80


@dataclass(frozen=True, slots=True, eq=False)
class Closure:
    """An attempt to close all loops.

    poses : (B, 3); open_by : mm, largest condition left open; joint : index of the joint where
    that is, None if all is closed or a driver is what cannot be met.
    """

    poses: Floats
    open_by: float
    is_closed: bool
    joint: int | None


def close(system: System, poses: Floats, targets: Floats) -> Closure:
    """Move as little as possible from ``poses`` until all conditions hold.

    Gauss-Newton with least-norm steps over all rows (repeated rows are no harm), damped while
    the residual does not fall. What cannot close ends at the least-squares compromise.
    """
    size = system.mechanism.size
    goal = CLOSED * size
    best, jacobian = system.residual_jacobian(poses, targets)
    norm = float(np.linalg.norm(best))
    damping = 0.0
    for _ in range(MOST_ITERATIONS):
        if float(np.max(np.abs(best), initial=0.0)) <= goal:
            break
        step = _least_step(jacobian, best, damping)
        longest = float(np.max(np.abs(step), initial=0.0))
        if longest > 0.5 * size:
            step *= 0.5 * size / longest
        trial = system.moved(poses, step)
        value, derivative = system.residual_jacobian(trial, targets)
        if float(np.linalg.norm(value)) < norm:
            if norm - float(np.linalg.norm(value)) < 1e-10 * norm:
                break
            poses, best, jacobian = trial, value, derivative
            norm = float(np.linalg.norm(value))
            damping = damping / 10 if damping > 1e-6 else 0.0
        elif damping > 1e6:
            break
        else:
            damping = max(1e-4, damping * 10)
    worst = int(np.argmax(np.abs(best))) if len(best) else 0
    open_by = float(np.max(np.abs(best), initial=0.0))
    closed = open_by <= 10 * goal
    return Closure(poses, open_by, closed, None if closed else system.joint_of_row(worst))


def _least_step(jacobian: Floats, residual: Floats, damping: float) -> Floats:
    if damping == 0.0:
        return np.asarray(np.linalg.lstsq(jacobian, -residual, rcond=RANK_TOLERANCE)[0])
    normal = jacobian.T @ jacobian + damping * np.eye(jacobian.shape[1])
    return np.asarray(np.linalg.solve(normal, -jacobian.T @ residual))


def joint_opening(system: System, poses: Floats, joint: int) -> float:
    """mm between the two places of a joint at a pose."""
    return float(np.hypot(*frames(system.mechanism.table, poses).apart[joint]))
