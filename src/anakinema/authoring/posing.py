"""Poses kept under a name: how the mechanism stands in one now, and the way there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.edits.base import fresh_id
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.mechanism.system import System
from anakinema.motion.assemble import close
from anakinema.motion.assemblies import kept_values
from anakinema.motion.kept_poses import standing_in
from anakinema.units import ANGLE, LENGTH

DIGITS = 12
"""Behind the point, in the document's units."""
BEYOND = 1e-9
"""mm or rad that a value may be past a limit."""


@dataclass(frozen=True, slots=True, eq=False)
class Stood:
    """How a mechanism stands in a kept pose: poses (B, 3), the values that make it so as (joint,
    value) for people, and why it is not as it was kept, '' if it is."""

    poses: Floats
    values: tuple[tuple[str, str], ...]
    reason: str


def kept_pose(scene: Scene, poses: Floats, name: str, taken: Iterable[str]) -> model.KeptPose:
    """What is kept of poses (B, 3) of a scene, all that moves."""
    units = scene.resolved.units
    length, angle = units.factor(LENGTH), units.factor(ANGLE)
    return model.KeptPose(
        id=fresh_id(name, taken),
        name=name,
        placements=tuple(
            model.KeptPlacement(
                body=body.id,
                pose=model.Pose(
                    x=round(x / length, DIGITS),
                    y=round(y / length, DIGITS),
                    angle=round(turn / angle, DIGITS),
                ),
            )
            for body, (x, y, turn) in zip(
                scene.resolved.document.bodies, poses.tolist(), strict=True
            )
            if not body.fixed
        ),
    )


def stood(resolved: Resolved, pose: model.KeptPose) -> Stood:
    """A kept pose of a mechanism as it is now.

    Its drivers, and what else it takes to settle it, stand as they were kept, the rest follows.
    Where that cannot be, the nearest pose that closes.
    """
    mechanism, standing = compile_mechanism(resolved), standing_in(resolved, pose)
    reason = "" if standing.closes else "Its loops do not close any more."
    chosen = standing.chosen
    if standing.closes and not standing.is_held:
        now = mechanism.values(standing.poses)[list(chosen)]
        scale = np.where(mechanism.angular[list(chosen)], mechanism.size, 1.0)
        worst = int(np.argmax(np.abs(now - standing.wanted) * scale))
        joint = chosen[worst]
        far, nearest = (_words(resolved, joint, each[worst]) for each in (standing.wanted, now))
        title = resolved.document.joints[joint].title
        reason = f"{title} cannot be at {far} any more: the nearest is {nearest}."
    values = mechanism.values(standing.poses)
    return Stood(
        standing.poses,
        tuple(
            (resolved.document.joints[joint].title, _words(resolved, joint, values[joint]))
            for joint in chosen
        ),
        reason or _past_limit(resolved, mechanism, values),
    )


def poses_to_draw(evaluation: Evaluation, shown: Floats) -> Floats:
    """(B, 3) the kept pose that sheets are drawn at, as far as it can be reached; ``shown`` where
    none is chosen, or it is kept no more."""
    wanted = evaluation.source.sheets.pose
    kept = [pose for pose in evaluation.source.poses if pose.id == wanted]
    return stood(evaluation.resolved, kept[0]).poses if kept else shown


def _past_limit(resolved: Resolved, mechanism: Mechanism, values: Floats) -> str:
    """Which joint stands beyond its limits, in words."""
    turn = 2 * np.pi
    for k, limits in enumerate(resolved.joints):
        low = -np.inf if limits.least is None else limits.least
        high = np.inf if limits.greatest is None else limits.greatest
        ways = values[k] + turn * np.arange(-2, 3) if mechanism.angular[k] else values[k : k + 1]
        if not ((ways >= low - BEYOND) & (ways <= high + BEYOND)).any():
            joint = resolved.document.joints[k]
            return f"{joint.title} is beyond its limits there."
    return ""


def _words(resolved: Resolved, joint: int, value: float) -> str:
    dimension = spec_of(resolved.document.joints[joint].kind).dimension
    if dimension == ANGLE:
        value = float((value + np.pi) % (2 * np.pi) - np.pi)
    return resolved.units.format(float(value), dimension)


def way_to(resolved: Resolved, here: Floats, there: Floats, frames: int) -> list[Floats]:
    """Poses (B, 3) from one to the next, closed all along where that can be, the last ``there``.

    What settles the pose goes evenly, and by the shorter way round.
    """
    mechanism = compile_mechanism(resolved)
    chosen = list(kept_values(mechanism, there))
    system = System(mechanism, tuple(chosen))
    start, end = mechanism.values(here)[chosen], mechanism.values(there)[chosen]
    change = end - start
    around = mechanism.angular[chosen] if chosen else np.zeros(0, dtype=bool)
    change = np.where(around, np.remainder(change + np.pi, 2 * np.pi) - np.pi, change)
    found, poses = [], here
    for k in range(1, frames):
        share = k / frames
        ease = share * share * (3 - 2 * share)
        closure = close(system, poses, system.targets(start + ease * change, poses))
        if not closure.is_closed:
            break
        poses = closure.poses
        found.append(poses)
    return [*found, there]
