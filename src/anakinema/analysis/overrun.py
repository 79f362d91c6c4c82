"""What is where it cannot be: pins past the ends of their slots, bodies pressed into others."""

from __future__ import annotations

import numpy as np

from anakinema.analysis.approaching import InPlane
from anakinema.analysis.depth import depth
from anakinema.analysis.gap import Gap
from anakinema.document.joint_values import Bound
from anakinema.geometry.poses import transform
from anakinema.motion.events import used_range
from anakinema.motion.motion import Motion

LOOKS = 97
"""Poses at which bodies in contact are held against their outlines once more."""
DEEP = 0.02
"""mm that they must share at such a pose to be stated: outlines are flattened to 0.005 mm there."""
PAST = 1e-6
"""mm or rad; less is at the end."""


def past_ends(motion: Motion, by: Bound) -> list[tuple[int, float, float]]:
    """Joints that run past what bounds them so: which, by how much (mm or rad), and where."""
    found = []
    for k, values in enumerate(motion.mechanism.resolved.joints):
        if by not in (values.least_by, values.greatest_by):
            continue
        past = []
        low, high, at_low, at_high = used_range(motion, k)
        if values.least is not None and values.least_by == by:
            past.append((values.least - low, at_low))
        if values.greatest is not None and values.greatest_by == by:
            past.append((high - values.greatest, at_high))
        amount, progress = max(past, default=(0.0, 0.0))
        if amount > PAST:
            found.append((k, amount, progress))
    return found


def overruns(motion: Motion) -> list[Gap]:
    """For each joint that runs past an end of its slot: an overlap as deep as it is past, in mm."""
    resolved, table = motion.mechanism.resolved, motion.mechanism.table
    found = []
    for k, amount, progress in past_ends(motion, "stop"):
        amount *= resolved.joints[k].radius if motion.mechanism.angular[k] else 1.0
        body = int(table.second[k])
        place = transform(
            table.second_point[k][None], motion.poses_at(np.array([progress]))[:, body]
        )[0, 0]
        point = (float(place[0]), float(place[1]))
        found.append(
            Gap(int(table.first[k]), body, -amount, -amount, progress, point, point, (), (), 0)
        )
    return found


def pressed(motion: Motion) -> list[Gap]:
    """Bodies that stop or push one another and yet overlap at a pose: there should be none.

    The search for touches is proven on its own (docs/methods.md, "Contact"); this shares nothing
    with it, so that no fault there can pass unseen.
    """
    rows = np.unique(np.linspace(0, len(motion.progress) - 1, LOOKS).round().astype(int))
    progress, poses = motion.progress[rows], motion.poses[rows]
    found = []
    for facing in motion.mechanism.facings:
        item = facing.compared
        if facing.spec.keeps or not item.compared.all():
            continue
        touching = np.flatnonzero(InPlane().seen([(item, poses)])[0].distance <= 0.0)
        deep = [depth(item, poses[k]) for k in touching]
        if not deep or max(deep) <= DEEP:
            continue
        k = int(touching[int(np.argmax(deep))])
        x, y = (float(v) for v in poses[k, item.second_body, :2])
        found.append(
            Gap(
                item.first_body,
                item.second_body,
                -max(deep),
                -max(deep),
                float(progress[k]),
                (x, y),
                (x, y),
                (),
                (),
                len(rows),
            )
        )
    return found
