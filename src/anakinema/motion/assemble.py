"""Close the loops of one pose: the nearest assembled pose, or a report of what stays open."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import frames
from anakinema.mechanism.system import System
from anakinema.wanted import still_wanted

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

    Levenberg-Marquardt over all rows (repeated rows are no harm) with damping in proportion to
    the residual, which converges fast to a near solution even at singular poses (N. Yamashita
    and M. Fukushima, Computing Supplement 15, 2001, from memory). What cannot close ends at the
    least-squares compromise.
    """
    size = system.mechanism.size
    goal = CLOSED * size
    best, jacobian = system.residual_jacobian(poses, targets)
    norm = float(np.linalg.norm(best))
    stiffness = 1.0
    for _ in range(MOST_ITERATIONS):
        still_wanted()
        if float(np.max(np.abs(best), initial=0.0)) <= goal or stiffness > 1e12:
            break
        step = _damped_step(jacobian, best, stiffness * norm / size)
        longest = float(np.max(np.abs(step), initial=0.0))
        if longest > 0.5 * size:
            step *= 0.5 * size / longest
        trial = system.moved(poses, step)
        value, derivative = system.residual_jacobian(trial, targets)
        fell = norm - float(np.linalg.norm(value))
        if fell <= 0.0:
            stiffness *= 10.0
            continue
        poses, best, jacobian, norm = trial, value, derivative, norm - fell
        stiffness = max(1e-3, stiffness / 10.0)
        if fell < 1e-9 * (norm + fell):
            break
    worst = int(np.argmax(np.abs(best))) if len(best) else 0
    open_by = float(np.max(np.abs(best), initial=0.0))
    closed = open_by <= 10 * goal
    return Closure(poses, open_by, closed, None if closed else system.joint_of_row(worst))


def _damped_step(jacobian: Floats, residual: Floats, damping: float) -> Floats:
    unknowns = jacobian.shape[1]
    stacked = np.vstack([jacobian, np.sqrt(damping) * np.eye(unknowns)])
    right = np.concatenate([-residual, np.zeros(unknowns)])
    return np.asarray(np.linalg.lstsq(stacked, right, rcond=1e-14)[0])


def joint_opening(system: System, poses: Floats, joint: int) -> float:
    """mm between the two places of a joint at a pose."""
    return float(np.hypot(*frames(system.mechanism.table, poses).apart[joint]))
