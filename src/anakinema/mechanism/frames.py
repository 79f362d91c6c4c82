"""What every constraint kernel starts from: the two sides of each joint, at a batch of poses."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.mechanism.fields import Bend, Run

Indices = npt.NDArray[np.int64]


def perpendicular(vectors: Floats) -> Floats:
    """Turn vectors (..., 2) a quarter turn anticlockwise."""
    turned = np.empty(vectors.shape)
    np.negative(vectors[..., 1], out=turned[..., 0])
    turned[..., 1] = vectors[..., 0]
    return turned


@dataclass(frozen=True, slots=True, eq=False)
class JointTable:
    """The sides of K joints as arrays; all but the indices may have leading axes of variants.

    first, second : (K,) body indices.
    first_point, second_point : (K, 2) mm in their bodies.
    first_angle, second_angle : (K,) rad, direction of the places in their bodies.
    radius : (K,) mm, of the arc that a pin runs on, 1 for other kinds of joints.
    curves : K curves in the frames of the first places, None where a joint has none.
    """

    first: Indices
    second: Indices
    first_point: Floats
    second_point: Floats
    first_angle: Floats
    second_angle: Floats
    radius: Floats
    curves: tuple[Curve | Bend | Run | None, ...]


@dataclass(frozen=True, slots=True, eq=False)
class Frames:
    """Joint frames at poses with leading axes (...).

    first_arm, second_arm : (..., K, 2) mm, from each body's origin to its place, turned.
    apart : (..., K, 2) mm, from the first place to the second.
    axis : (..., K, 2) unit vector of the first place's direction.
    turn : (..., K) rad, direction of the second place less that of the first.
    """

    first_arm: Floats
    second_arm: Floats
    apart: Floats
    axis: Floats
    turn: Floats

    @property
    def normal(self) -> Floats:
        """(..., K, 2) the axis turned a quarter turn anticlockwise."""
        return perpendicular(self.axis)


def frames(table: JointTable, poses: Floats) -> Frames:
    """Joint frames at ``poses`` (..., B, 3) in mm, mm, rad."""
    angle = poses[..., 2]
    cosine, sine = np.cos(angle), np.sin(angle)
    arms = []
    for body, point in ((table.first, table.first_point), (table.second, table.second_point)):
        c, s = cosine[..., body], sine[..., body]
        x, y = point[..., 0], point[..., 1]
        arm = np.empty((*c.shape, 2))
        arm[..., 0] = c * x - s * y
        arm[..., 1] = s * x + c * y
        arms.append(arm)
    places = poses[..., :2]
    apart = places[..., table.second, :] + arms[1] - places[..., table.first, :] - arms[0]
    direction = angle[..., table.first] + table.first_angle
    axis = np.empty((*direction.shape, 2))
    axis[..., 0] = np.cos(direction)
    axis[..., 1] = np.sin(direction)
    turn = angle[..., table.second] + table.second_angle - direction
    return Frames(arms[0], arms[1], apart, axis, turn)


def apart_rates(table: JointTable, at: Frames, rates: Floats) -> Floats:
    """(..., K, 2) rate of `Frames.apart` at body rates (..., B, 3)."""
    velocity, spin = rates[..., :2], rates[..., 2]
    return np.asarray(
        velocity[..., table.second, :]
        + spin[..., table.second, None] * perpendicular(at.second_arm)
        - velocity[..., table.first, :]
        - spin[..., table.first, None] * perpendicular(at.first_arm)
    )
