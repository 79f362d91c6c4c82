"""Pins and blocks that run past the end of material of their slots."""

from __future__ import annotations

import numpy as np

from anakinema.analysis.gap import Gap
from anakinema.geometry.distance import transform
from anakinema.motion.events import used_range
from anakinema.motion.motion import Motion

PAST = 1e-6
"""mm or rad; less is at the end."""


def overruns(motion: Motion) -> list[Gap]:
    """For each joint that runs past an end of its slot: an overlap as deep as it is past, in mm."""
    resolved, table = motion.mechanism.resolved, motion.mechanism.table
    found = []
    for k, values in enumerate(resolved.joints):
        if "stop" not in (values.least_by, values.greatest_by):
            continue
        low, high, at_low, at_high = used_range(motion, k)
        past = [(0.0, 0.0)]
        if values.least is not None and values.least_by == "stop":
            past.append((values.least - low, at_low))
        if values.greatest is not None and values.greatest_by == "stop":
            past.append((high - values.greatest, at_high))
        amount, progress = max(past)
        if amount <= PAST:
            continue
        amount *= values.radius if motion.mechanism.angular[k] else 1.0
        body = int(table.second[k])
        place = transform(
            table.second_point[k][None], motion.poses_at(np.array([progress]))[:, body]
        )[0, 0]
        point = (float(place[0]), float(place[1]))
        found.append(
            Gap(int(table.first[k]), body, -amount, -amount, progress, point, point, (), (), 0)
        )
    return found
