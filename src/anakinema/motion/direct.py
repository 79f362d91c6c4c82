"""Knots of a path laid at once by closed forms, where the way is plainly clear.

If the equations come apart into dyads and no dyad comes anywhere near flat along a whole stage,
there is one branch and nothing to march for: the knots are evaluated together. Everything else,
every dead point, change point or narrow place, is left to `anakinema.motion.follow`.
"""

from __future__ import annotations

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices
from anakinema.motion.branch_path import BranchPath, End, Knot, Path, by_arc, progress_scale

CLEAR = 0.02
"""Sine that no dyad may come below."""
MARGIN = 3.0
"""How many times the change between two looks every sine must exceed."""
LOOKS = 12
"""Looks at the dyads per knot."""
KNOT_STEP = 0.6
"""Share of the size that the path moves between knots."""
MOST_TURN = 1.0
"""rad that any body may turn between two looks, so that full turns can be counted."""
FIRST_KNOTS = 24
MOST_KNOTS = 4000


def follow_directly(path: Path, poses: Floats, p: float) -> BranchPath | None:
    """The trail from assembled ``poses`` at progress ``p`` to the stage's end, if it is clear."""
    if path.dyads is None or not path.target_rate.any():
        return None
    knots = FIRST_KNOTS
    for _ in range(4):
        laid = _laid(path, poses, p, knots)
        if laid is None:
            return None
        branch_path, longest = laid
        if longest <= KNOT_STEP * path.system.mechanism.size:
            return branch_path
        knots = int(np.ceil(knots * 1.1 * longest / (KNOT_STEP * path.system.mechanism.size)))
        if knots > MOST_KNOTS:
            return None
    return None


def _laid(path: Path, start: Floats, p: float, knots: int) -> tuple[BranchPath, float] | None:
    """A trail of some knots and its longest step (mm); None if it is not clear all along."""
    dyads, system = path.dyads, path.system
    assert dyads is not None
    progress = np.linspace(p, 1.0, knots * LOOKS + 1)
    sides = dyads.sines(start[None])
    with np.errstate(invalid="ignore", divide="ignore"):
        poses, first, second = dyads.solve(
            path.targets(progress), path.target_rate, start[None], sides
        )
        poses[..., 2] = _unwrapped(poses[..., 2])
        sines = dyads.sines(poses)
        change = np.abs(np.diff(sines, axis=0))
        least = np.minimum(np.abs(sines[1:]), np.abs(sines[:-1]))
        turn = np.abs(first[..., 2]).max() * (progress[1] - progress[0])
        clear = (least > CLEAR).all() and (least > MARGIN * change).all() and turn < MOST_TURN
    if not (clear and np.isfinite(first).all()):
        return None
    begins_here = np.abs(poses[0] - start) * np.array([1.0, 1.0, system.mechanism.size])
    if float(begins_here.max()) > 1e-6 * system.mechanism.size:
        return None
    rows = np.arange(0, len(progress), LOOKS)
    return _branch_path(path, progress, (poses, first, second), rows)


def _unwrapped(angles: Floats) -> Floats:
    """Angles (N, B) running on through full turns, from the first."""
    turns = np.round(np.diff(angles, axis=0) / (2 * np.pi))
    out = angles.copy()
    out[1:] -= 2 * np.pi * np.cumsum(turns, axis=0)
    return out


def _branch_path(
    path: Path, progress: Floats, states: tuple[Floats, Floats, Floats], rows: Indices
) -> tuple[BranchPath, float]:
    """Knots at some rows: derivatives by progress turned into derivatives by arc length."""
    poses, first, second = (each[rows] for each in states)
    p = progress[rows]
    tangents, curves, speed, push = by_arc(path, first, second)
    step = np.diff(p)
    lengths = step * (speed[1:] + speed[:-1]) / 2 + step**2 * (push[:-1] - push[1:]) / 12
    arcs = np.append(0.0, np.cumsum(lengths))
    knots = tuple(
        Knot(float(arcs[k]), poses[k], float(p[k]), tangents[k], curves[k]) for k in range(len(p))
    )
    branch_path = BranchPath(path, knots, progress_scale(path), End.COMPLETE, 1.0)
    return branch_path, float(lengths.max())
