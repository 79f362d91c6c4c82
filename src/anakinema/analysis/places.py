"""Where places of bodies are over a motion, and how they move."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import Point, carried, transform
from anakinema.motion.motion import Motion, States


def places_at(resolved: Resolved, poses: Floats) -> Callable[[model.Side], Point]:
    """What tells where a place of a body is, mm, at one set of poses (B, 3)."""
    index = {body.id: k for k, body in enumerate(resolved.document.bodies)}

    def where(side: model.Side) -> Point:
        k = index[side.body]
        part = resolved.part_of(resolved.document.bodies[k])
        return carried(poses[k], part.places[side.place])

    return where


def place_path(resolved: Resolved, side: model.Side, poses: Floats) -> Floats:
    """(N, 2) mm: a place of a body at poses (N, B, 3)."""
    index = [body.id for body in resolved.document.bodies].index(side.body)
    place = resolved.part_of(resolved.document.bodies[index]).places[side.place]
    return np.asarray(transform(np.array([place[:2]]), poses[:, index])[:, 0])


def place_rates(resolved: Resolved, side: model.Side, at: States) -> tuple[Floats, Floats, Floats]:
    """(N, 2) each: a place of a body (mm) and its first and second rates by progress."""
    index = [body.id for body in resolved.document.bodies].index(side.body)
    points = place_path(resolved, side, at.poses)
    arm = points - at.poses[:, index, :2]
    across = np.stack([-arm[:, 1], arm[:, 0]], axis=1)
    first, second = at.first[:, index], at.second[:, index]
    speed = first[:, :2] + first[:, 2:] * across
    change = second[:, :2] + second[:, 2:] * across - first[:, 2:] ** 2 * arm
    return points, speed, change


def ends_of_travel(motion: Motion, joint: int) -> tuple[Point, Point]:
    """Where the second place of a joint is, mm, at its least and its greatest value shown."""
    resolved = motion.mechanism.resolved
    index = int(motion.mechanism.table.second[joint])
    place = resolved.part_of(resolved.document.bodies[index]).places[
        resolved.document.joints[joint].second.place
    ]
    values, poses = motion.values[:, joint], motion.poses[:, index]
    return carried(poses[np.argmin(values)], place), carried(poses[np.argmax(values)], place)
