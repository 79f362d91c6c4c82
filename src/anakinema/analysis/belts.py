"""How near the runs of belts and chains come to other parts, at the steps of a motion."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.geometry.contour import Floats
from anakinema.mechanism.fields import Run
from anakinema.mechanism.touch import Touch
from anakinema.motion.motion import Motion


@dataclass(frozen=True, slots=True)
class BeltGap:
    """Least distance (mm) of a loop's middle to another body, where (progress) and which."""

    loop: int
    body: int
    least: float
    progress: float


def belt_gaps(motion: Motion) -> tuple[BeltGap, ...]:
    """For every loop the body that its runs come nearest to; none if nothing shares heights.

    At the samples only: runs change their length, so nothing is promised between them.
    """
    mechanism = motion.mechanism
    document = mechanism.resolved.document
    out = []
    begin = 0
    for k, loop in enumerate(document.loops):
        runs = mechanism.runs[begin : begin + len(loop.wheels)]
        begin += len(loop.wheels)
        wheels = {run.first for run in runs}
        sides = [document.joint(wheel.joint).first for wheel in loop.wheels]
        shafts = {(side.body, piece.slab) for side in sides for piece in side.pieces}
        low, high = _heights(motion, wheels)
        best: BeltGap | None = None
        for body in range(len(document.bodies)):
            if body in wheels:
                continue
            named = {slab for owner, slab in shafts if owner == document.bodies[body].id}
            found = _nearest(motion, runs, body, named, (low, high))
            if found is not None and (best is None or found[0] < best.least):
                best = BeltGap(k, body, *found)
        if best is not None:
            out.append(best)
    return tuple(out)


def _heights(motion: Motion, wheels: set[int]) -> tuple[float, float]:
    """mm: heights that all wheels of a loop share."""
    resolved = motion.mechanism.resolved
    low, high = -math.inf, math.inf
    for body in wheels:
        slabs = resolved.part_of(resolved.document.bodies[body]).slabs
        if slabs:
            low = max(low, resolved.heights[body] + min(s.bottom for s in slabs))
            high = min(high, resolved.heights[body] + max(s.top for s in slabs))
    return low, high


def _nearest(
    motion: Motion,
    runs: tuple[Touch, ...],
    body: int,
    shafts: set[str],
    heights: tuple[float, float],
) -> tuple[float, float] | None:
    """Least distance of runs to a body and its progress; None if they share no heights.

    The ``shafts``, slabs that its joints with the wheels are made of, are left out.
    """
    resolved = motion.mechanism.resolved
    best: tuple[float, float] | None = None
    for slab in resolved.part_of(resolved.document.bodies[body]).slabs:
        bottom, top = resolved.heights[body] + slab.bottom, resolved.heights[body] + slab.top
        if slab.id in shafts or min(heights[1], top) - max(heights[0], bottom) <= 0:
            continue
        for run in runs:
            lines = shapely.linestrings(_seen_from(motion, run, body))
            away = shapely.distance(lines, slab.region.polygon)
            k = int(np.argmin(away))
            if best is None or away[k] < best[0]:
                best = float(away[k]), float(motion.progress[k])
    return best


def _seen_from(motion: Motion, run: Touch, body: int) -> Floats:
    """(N, 2, 2) both ends of a run in a body's frame at every sample."""
    assert isinstance(run.curve, Run)
    one = _placed(motion.poses[:, run.first], run.first_point)
    two = _placed(motion.poses[:, run.second], run.second_point)
    _, angle = run.curve.tangent(two - one)
    left = np.stack([-np.sin(angle), np.cos(angle)], axis=1)
    ends = np.stack([one - run.curve.first * left, two - run.curve.second * left], axis=1)
    x, y, turn = motion.poses[:, body].T
    c, s = np.cos(turn)[:, None], np.sin(turn)[:, None]
    dx, dy = ends[..., 0] - x[:, None], ends[..., 1] - y[:, None]
    return np.stack([c * dx + s * dy, -s * dx + c * dy], axis=-1)


def _placed(poses: Floats, point: tuple[float, float]) -> Floats:
    x, y, turn = poses.T
    c, s = np.cos(turn), np.sin(turn)
    return np.stack([x + c * point[0] - s * point[1], y + s * point[0] + c * point[1]], axis=1)
