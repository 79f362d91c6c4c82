"""Where over a motion things that overlap reach deepest into one another."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

import numpy as np

from anakinema.analysis.comparing import Compared, Comparing
from anakinema.geometry.contour import Floats
from anakinema.motion.motion import Motion
from anakinema.wanted import still_wanted

LOOKS = 96
"""Poses of a motion at which every pair that comes near is looked at for its depth."""
FINER = 24
"""Poses looked at between those about the deepest, three times over."""

C = TypeVar("C", bound=Compared)


def deepest(
    motion: Motion,
    means: Comparing[C],
    items: Sequence[C],
    touching: Callable[[int, Floats, Floats], Floats],
    known: Sequence[tuple[int, float]],
) -> tuple[int, float, float]:
    """Which comparison reaches deepest over a motion, at what progress, and how deep (mm).

    ``touching(which, poses, progress)`` gives distances (N,) of a comparison; ``known`` are
    overlaps (which, progress) already seen.
    """
    rows = np.unique(np.linspace(0, len(motion.progress) - 1, LOOKS).round().astype(int))
    progress, poses = motion.progress[rows], motion.poses[rows]
    best = (known[0][0], known[0][1], 0.0)
    at_known: dict[int, list[float]] = {}
    for which, place in known:
        at_known.setdefault(which, []).append(place)
    for which, item in enumerate(items):
        still_wanted()
        near = means.near(item, poses)
        if len(near):
            near = near[touching(which, poses[near], progress[near]) <= 0.0]
        places = np.append(progress[near], at_known.get(which, [])[:LOOKS])
        if not len(places):
            continue
        deep = np.array([means.depth(item, pose) for pose in motion.poses_at(places)])
        k = int(np.argmax(deep))
        if deep[k] > best[2]:
            best = which, float(places[k]), float(deep[k])
    return _refined(motion, means, items[best[0]], best, float(np.diff(progress).max(initial=0.0)))


def _refined(
    motion: Motion, means: Comparing[C], item: C, best: tuple[int, float, float], step: float
) -> tuple[int, float, float]:
    """The deepest place found to within a small share of a step."""
    which, place, most = best
    for _ in range(3):
        low = max(float(motion.progress[0]), place - step)
        high = min(motion.last, place + step)
        around = np.linspace(low, high, FINER + 1)
        deep = np.array([means.depth(item, pose) for pose in motion.poses_at(around)])
        k = int(np.argmax(deep))
        if deep[k] > most:
            place, most = float(around[k]), float(deep[k])
        step = 2.0 * (high - low) / FINER
    return which, place, most
