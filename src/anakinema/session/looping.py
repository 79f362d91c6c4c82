"""Belts and chains as the views ask for them: what would come of one, and how it lies."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from anakinema.building.looping import LoopDraft, LoopKind, loop_round, loop_words
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.mechanism.fields import Run
from anakinema.mechanism.loops import loop_runs
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
    return loop_words(scene.resolved, loop_id)


def loop_lines(resolved: Resolved, poses: Floats) -> list[Floats]:
    """Closed lines (N, 2) mm along which all loops lie at poses (B, 3)."""
    runs = loop_runs(resolved)
    out: list[Floats] = []
    begin = 0
    for each in resolved.document.loops:
        mine = runs[begin : begin + len(each.wheels)]
        begin += len(each.wheels)
        ends = []
        for run in mine:
            assert isinstance(run.curve, Run)
            one, two = (
                _centre(poses[body], place)
                for body, place in ((run.first, run.first_point), (run.second, run.second_point))
            )
            _, direction = run.curve.tangent((two - one)[None])
            angle = float(direction[0])
            left = np.array([-math.sin(angle), math.cos(angle)])
            ends.append((one, one - run.curve.first * left, two - run.curve.second * left, angle))
        points = []
        for k, (centre, leaves, arrives, angle) in enumerate(ends):
            radius = mine[k].curve.first  # type: ignore[union-attr]
            before = ends[k - 1][3]
            turned = (angle - before) % math.tau if radius > 0 else -((before - angle) % math.tau)
            steps = np.linspace(0.0, 1.0, max(2, math.ceil(abs(turned) / STEP)))
            at = before + turned * steps - math.pi / 2
            points.append(centre + radius * np.stack([np.cos(at), np.sin(at)], axis=1))
            points.append(np.stack([leaves, arrives]))
        line = np.concatenate(points)
        out.append(np.vstack([line, line[:1]]))
    return out


def _centre(pose: Floats, place: tuple[float, float]) -> Floats:
    c, s = math.cos(pose[2]), math.sin(pose[2])
    return np.array([pose[0] + c * place[0] - s * place[1], pose[1] + s * place[0] + c * place[1]])
