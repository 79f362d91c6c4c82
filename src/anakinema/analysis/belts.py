"""How near the runs of belts and chains come to other parts, at the steps of a motion."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.geometry.contour import Floats
from anakinema.mechanism.loops import lay
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
    for k, (loop, runs) in enumerate(zip(document.loops, mechanism.loops, strict=True)):
        ends = lay(runs, motion.poses).ends
        wheels = {run.first for run in runs}
        sides = [wheel.sides(document.joint(wheel.joint))[1] for wheel in loop.wheels]
        shafts = {(side.body, piece.slab) for side in sides for piece in side.pieces}
        low, high = _heights(motion, wheels)
        best: BeltGap | None = None
        for body in range(len(document.bodies)):
            if body in wheels:
                continue
            named = {slab for owner, slab in shafts if owner == document.bodies[body].id}
            found = _nearest(motion, ends, body, named, (low, high))
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
    ends: Floats,
    body: int,
    shafts: set[str],
    heights: tuple[float, float],
) -> tuple[float, float] | None:
    """Least distance of runs (N, W, 2, 2) to a body, its progress; None if no heights are shared.

    The ``shafts``, slabs that its joints with the wheels are made of, are left out.
    """
    resolved = motion.mechanism.resolved
    best: tuple[float, float] | None = None
    lines = None
    for slab in resolved.part_of(resolved.document.bodies[body]).slabs:
        bottom, top = resolved.heights[body] + slab.bottom, resolved.heights[body] + slab.top
        if slab.id in shafts or min(heights[1], top) - max(heights[0], bottom) <= 0:
            continue
        if lines is None:
            lines = shapely.linestrings(_seen_from(motion.poses[:, body], ends))
        away = shapely.distance(lines, slab.region.polygon).min(axis=1)
        k = int(np.argmin(away))
        if best is None or away[k] < best[0]:
            best = float(away[k]), float(motion.progress[k])
    return best


def _seen_from(poses: Floats, ends: Floats) -> Floats:
    """Points (N, W, 2, 2) of the plane in the frame of a body at poses (N, 3)."""
    away = ends - poses[:, None, None, :2]
    c, s = np.cos(poses[:, 2])[:, None, None], np.sin(poses[:, 2])[:, None, None]
    dx, dy = away[..., 0], away[..., 1]
    return np.stack([c * dx + s * dy, -s * dx + c * dy], axis=-1)
