"""What every constraint kernel starts from: the two sides of each joint, at a batch of poses."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.geometry.complexes import Complexes, as_complex, as_points, unit
from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.mechanism.fields import Bend, Rod, Run

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
    curves: tuple[Curve | Bend | Run | Rod | None, ...]


@dataclass(frozen=True, slots=True, eq=False)
class Frames:
    """Joint frames at poses with leading axes (...).

    first_arm, second_arm : (..., K, 2) mm, from each body's origin to its place, turned.
    apart : (..., K, 2) mm, from the first place to the second.
    axis : (..., K, 2) unit vector of the first place's direction.
    turn : (..., K) rad, direction of the second place less that of the first.
    origin : (..., K) mm, of the first bodies as complex numbers.
    """

    first_arm: Floats
    second_arm: Floats
    apart: Floats
    axis: Floats
    turn: Floats
    origin: Complexes

    def taken(self, rows: Indices) -> Frames:
        """Those at some of the poses (N,)."""
        return Frames(
            self.first_arm[rows],
            self.second_arm[rows],
            self.apart[rows],
            self.axis[rows],
            self.turn[rows],
            self.origin[rows],
        )

    @property
    def first_at(self) -> Floats:
        """(..., K, 2) mm, the first places."""
        return as_points(self.origin) + self.first_arm

    @property
    def normal(self) -> Floats:
        """(..., K, 2) the axis turned a quarter turn anticlockwise."""
        return perpendicular(self.axis)


def frames(table: JointTable, poses: Floats) -> Frames:
    """Joint frames at ``poses`` (..., B, 3) in mm, mm, rad."""
    # Planar vectors are complex numbers here: to turn one is a product, and only the angles of
    # bodies and places need sines and cosines, not those of every joint at every pose.
    angle = poses[..., 2]
    turned = unit(angle)
    origin = as_complex(poses[..., :2])
    attitude = np.take(turned, table.first, axis=-1)
    first_arm = attitude * as_complex(table.first_point)
    second_arm = np.take(turned, table.second, axis=-1) * as_complex(table.second_point)
    away = np.take(origin, table.second, axis=-1) + second_arm
    first_origin = np.take(origin, table.first, axis=-1)
    apart = away - first_origin - first_arm
    direction = np.take(angle, table.first, axis=-1) + table.first_angle
    return Frames(
        as_points(first_arm),
        as_points(second_arm),
        as_points(apart),
        as_points(attitude * unit(table.first_angle)),
        np.take(angle, table.second, axis=-1) + table.second_angle - direction,
        first_origin,
    )


def apart_rates(table: JointTable, at: Frames, rates: Floats) -> Floats:
    """(..., K, 2) rate of `Frames.apart` at body rates (..., B, 3)."""
    velocity, spin = rates[..., :2], rates[..., 2]
    return np.asarray(
        velocity[..., table.second, :]
        + spin[..., table.second, None] * perpendicular(at.second_arm)
        - velocity[..., table.first, :]
        - spin[..., table.first, None] * perpendicular(at.first_arm)
    )
