"""Points and vectors of a body that stands somewhere in the plane, and back: the one place where
they are turned, singly in plain floats and in batches."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from anakinema.geometry.contour import Floats

Point = tuple[float, float]


def turned(vector: Sequence[float] | Floats, angle: float) -> Point:
    """A vector turned anticlockwise by ``angle`` (rad)."""
    x, y = float(vector[0]), float(vector[1])
    c, s = math.cos(angle), math.sin(angle)
    return c * x - s * y, s * x + c * y


def carried(pose: Sequence[float] | Floats, point: Sequence[float] | Floats) -> Point:
    """Where a point of a body is in the plane, the body at a pose (x, y mm, rad)."""
    dx, dy = turned(point, float(pose[2]))
    return float(pose[0]) + dx, float(pose[1]) + dy


def within(pose: Sequence[float] | Floats, point: Sequence[float] | Floats) -> Point:
    """A point of the plane as the body at a pose has it; the inverse of `carried`."""
    away = float(point[0]) - float(pose[0]), float(point[1]) - float(pose[1])
    return turned(away, -float(pose[2]))


def turned_about(centre: Point, point: Sequence[float] | Floats, angle: float) -> Point:
    """A point of the plane turned about a centre."""
    return carried((*centre, angle), (float(point[0]) - centre[0], float(point[1]) - centre[1]))


def relative_poses(first: Floats, second: Floats) -> Floats:
    """(N, 3) pose of the second body seen from the first; both (N, 3) mm, mm, rad."""
    c, s = np.cos(first[:, 2]), np.sin(first[:, 2])
    dx, dy = second[:, 0] - first[:, 0], second[:, 1] - first[:, 1]
    return np.stack([c * dx + s * dy, -s * dx + c * dy, second[:, 2] - first[:, 2]], axis=1)


def transform(points: Floats, poses: Floats) -> Floats:
    """(N, V, 2) points (V, 2) of a body placed at poses (N, 3)."""
    return turned_each(points, poses) + poses[:, None, :2]


def seen_from(poses: Floats, points: Floats) -> Floats:
    """Points (N, V, 2) of the plane in the frame of a body at poses (N, 3)."""
    away = points - poses[:, None, :2]
    c, s = np.cos(poses[:, None, 2]), np.sin(poses[:, None, 2])
    dx, dy = away[..., 0], away[..., 1]
    return np.stack([c * dx + s * dy, -s * dx + c * dy], axis=-1)


def turned_each(vectors: Floats, poses: Floats) -> Floats:
    """(N, V, 2) vectors (V, 2) of a body turned as it stands at poses (N, 3)."""
    c, s = np.cos(poses[:, 2])[:, None], np.sin(poses[:, 2])[:, None]
    out = np.empty((len(poses), len(vectors), 2))
    out[..., 0] = c * vectors[:, 0] - s * vectors[:, 1]
    out[..., 1] = s * vectors[:, 0] + c * vectors[:, 1]
    return out
