"""What every scalar condition can tell, over batches of poses and for one pose in plain floats."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.mechanism.fields import Bend, Rod, Run
from anakinema.mechanism.frames import Frames, Indices, JointTable, apart_rates, perpendicular

BOUNDLESS = 1e12
"""So large a change that no bound on speeds can come of it, yet a number."""


@dataclass(frozen=True, slots=True, eq=False)
class Rows:
    """R joints of a table at poses with leading axes (...), whose conditions are asked for.

    ``size`` turns angles into lengths.
    """

    table: JointTable
    at: Frames
    joints: Indices
    size: float


@dataclass(frozen=True, slots=True, eq=False)
class Speeds:
    """The most (..., R) that can happen in joints around a pose, for bounds.

    spin1, spin2 : turns of both bodies. moving : of the second place against the first. turning :
    change of that by turning arms. apart : distance of the places. reach : (..., 1) how far the
    program moves to either side.
    """

    spin1: Floats
    spin2: Floats
    moving: Floats
    turning: Floats
    apart: Floats
    reach: Floats

    def taken(self, joints: Indices) -> Speeds:
        """Those of some joints."""
        return Speeds(
            self.spin1[..., joints],
            self.spin2[..., joints],
            self.moving[..., joints],
            self.turning[..., joints],
            self.apart[..., joints],
            self.reach,
        )


Here = tuple[float, float, float, float, float, float, Curve | Bend | Run | Rod | None, float]
"""One joint at one pose: what is apart along x and y, the first place's axis along x and y, the
turn, radius and curve, and the size. Plain tuples, which cost least to make."""
Going = tuple[float, float, float, float, float, float]
"""How one joint moves at one pose: rates of what is apart along x and y, spins of the first and
the second body, pull of the turning arms along x and y."""
Slope = tuple[float, float, float, float, float]
"""A condition at one pose: its value and how it rises with the second place along x and y, with
the turn of the first body about that place, and with the turn of the second."""


class Condition(ABC):
    """A scalar condition between the two sides of a joint, in mm.

    With J its derivatives by the unknowns, J a = g + target'' for accelerations a.
    """

    @abstractmethod
    def residual(self, on: Rows) -> Floats:
        """(..., R) its value, target not yet subtracted."""

    @abstractmethod
    def partials(self, on: Rows) -> Floats:
        """(..., R, 6) derivatives by (x, y, size·angle) of the first body, then of the second."""

    @abstractmethod
    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """(..., R) the velocity term g at body rates (..., B, 3)."""

    def moved(self, on: Rows, rates: Floats) -> Floats:
        """(..., R) its rate at body rates (..., B, 3), where ``on.size`` is 1."""
        ends = np.stack([on.table.first[on.joints], on.table.second[on.joints]], axis=1)
        slope = self.partials(on)
        return np.asarray(np.sum(slope * rates[..., ends, :].reshape(*slope.shape), axis=-1))

    @abstractmethod
    def bound(self, on: Rows, most: Speeds) -> Floats:
        """(..., R) how far J(q)·v can differ from J(q0)·v nearby; docs/methods.md, "Certified
        speeds"."""

    @abstractmethod
    def slope(self, here: Here) -> Slope:
        """Value and derivatives at one pose."""

    @abstractmethod
    def pull(self, here: Here, going: Going) -> float:
        """The velocity term g at one pose."""


def dot(a: Floats, b: Floats) -> Floats:
    """(...,) of vectors (..., 2)."""
    return np.asarray(a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1])


def cross(a: Floats, b: Floats) -> Floats:
    """(...,) of vectors (..., 2)."""
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def assembled(on: Rows, direction: Floats, swing: Floats) -> Floats:
    """(..., R, 6) partials of what rises along a direction (..., R, 2) of the second place, and by
    ``swing`` with the turn of the first body about it."""
    arm1, arm2 = on.at.first_arm[..., on.joints, :], on.at.second_arm[..., on.joints, :]
    out = np.empty((*arm1.shape[:-1], 6))
    out[..., 0:2] = -direction
    out[..., 2] = (swing - dot(direction, perpendicular(arm1))) / on.size
    out[..., 3:5] = direction
    out[..., 5] = dot(direction, perpendicular(arm2)) / on.size
    return out


def spins(on: Rows, rates: Floats) -> tuple[Floats, Floats]:
    """(..., R) turns of the first and second bodies at body rates (..., B, 3)."""
    first, second = on.table.first[on.joints], on.table.second[on.joints]
    return rates[..., first, 2], rates[..., second, 2]


def pull_of_arms(on: Rows, rates: Floats) -> Floats:
    """(..., R, 2) w2² arm2 − w1² arm1."""
    spin1, spin2 = spins(on, rates)
    second, first = on.at.second_arm[..., on.joints, :], on.at.first_arm[..., on.joints, :]
    return np.asarray(spin2[..., None] ** 2 * second - spin1[..., None] ** 2 * first)


def moving_apart(on: Rows, rates: Floats) -> Floats:
    """(..., R, 2) rate of what is apart."""
    return apart_rates(on.table, on.at, rates)[..., on.joints, :]


def speeds(table: JointTable, at: Frames, most: Floats, reach: Floats) -> Speeds:
    """What can happen in all K joints while every body's rates stay within ``most`` (..., B, 3) and
    the program moves by ``reach`` (...)."""
    first, second, reach = table.first, table.second, np.asarray(reach)[..., None]
    speed = np.hypot(most[..., 0], most[..., 1])
    spin1, spin2 = most[..., first, 2], most[..., second, 2]
    arm1 = np.hypot(*np.moveaxis(table.first_point, -1, 0))
    arm2 = np.hypot(*np.moveaxis(table.second_point, -1, 0))
    return Speeds(
        spin1,
        spin2,
        speed[..., first] + speed[..., second] + spin1 * arm1 + spin2 * arm2,
        reach * (arm1 * spin1**2 + arm2 * spin2**2),
        np.hypot(at.apart[..., 0], at.apart[..., 1]),
        reach,
    )
