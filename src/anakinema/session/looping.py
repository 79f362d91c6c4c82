"""Belts and chains as the views ask for them: what would come of one, and how it lies."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from anakinema.building.looping import LoopDraft, LoopKind, loop_round, loop_words
from anakinema.document.resolve import Resolved
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.loops import lay, loop_runs
from anakinema.session.assembling import Scene

STEP = math.radians(4)


def turning_joints(scene: Scene) -> tuple[tuple[str, str], ...]:
    """(id, title) of all joints that turn a wheel."""
    joints = scene.resolved.document.joints
    return tuple((joint.id, joint.title) for joint in joints if joint.kind == "revolute")


def loop(scene: Scene, wheels: Sequence[tuple[str, bool]], kind: LoopKind) -> LoopDraft:
    """The edit that lays a loop, and what is to be said of it."""
    return loop_round(scene.resolved, wheels, kind)


def told_of_loop(scene: Scene, loop_id: str) -> tuple[str, ...]:
    """What there is to know of a loop that is in force; nothing if it is not."""
    if all(each.id != loop_id for each in scene.resolved.document.loops):
        return ()
    try:
        return loop_words(scene.resolved, loop_id)
    except ValueOutOfRangeError as error:
        return (error.advice,)


def loop_lines(resolved: Resolved, poses: Floats) -> list[tuple[Floats, float]]:
    """Closed lines (N, 2) mm along which loops lie at poses (B, 3), and their thickness.

    None while the wheels of one leave it no room, which the evaluation tells.
    """
    out: list[tuple[Floats, float]] = []
    try:
        all_runs = loop_runs(resolved)
    except ValueOutOfRangeError:
        return []
    for runs, values in zip(all_runs, resolved.loops, strict=True):
        laid = lay(runs, poses[None])
        points = []
        for k, wrap in enumerate(laid.wraps[0]):
            steps = np.linspace(0.0, 1.0, max(2, math.ceil(abs(wrap) / STEP)))
            at = laid.directions[0, k - 1] + wrap * steps - math.pi / 2
            around = np.stack([np.cos(at), np.sin(at)], axis=1)
            points += [laid.centres[0, k] + laid.radii[k] * around, laid.ends[0, k]]
        out.append((np.concatenate([*points, points[0][:1]]), values.thickness))
    return out
