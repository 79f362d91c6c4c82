"""Where something on a curve passes a join of line and arc, at which its acceleration jumps."""

from __future__ import annotations

import math

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.motion.events import find_roots
from anakinema.motion.motion import Motion

SAME = 1e-10
"""Progress by which two passages found are one."""


def locate_joins(motion: Motion) -> Floats:
    """Progress of all passages over jumps of curvature."""
    found = [np.zeros(0)]
    for k, curve in enumerate(motion.mechanism.table.curves):
        if curve is not None:
            found += [_belt_pairs(motion, k, float(join)) for join in curve.joins]
    places = np.unique(np.concatenate(found))
    return places[np.append(True, np.diff(places) > SAME)] if len(places) else places


def _belt_pairs(motion: Motion, joint: int, join: float) -> Floats:
    """Where a joint is at a join, seen once round or more often."""
    period = float(motion.mechanism.period[joint])
    zero = float(motion.mechanism.zero[joint]) - float(motion.shift[joint])
    places = motion.values[:, joint] + zero - join
    turns = [0.0]
    if period:
        low, high = (math.floor(float(v) / period) for v in (places.min(), places.max()))
        turns = [period * turn for turn in range(low, high + 2)]
    found = [np.zeros(0)]
    for turn in turns:
        away = places - turn
        found.append(motion.progress[away == 0])
        rows = np.flatnonzero(away[:-1] * away[1:] < 0)
        if not len(rows):
            continue

        def distance(p: Floats, turn: float = turn) -> tuple[Floats, Floats]:
            at = motion.at(p)
            return at.values[:, joint] + zero - join - turn, at.value_first[:, joint]

        between = motion.progress[rows], motion.progress[rows + 1]
        found.append(find_roots(distance, between, (away[rows], away[rows + 1])))
    return np.concatenate(found)
