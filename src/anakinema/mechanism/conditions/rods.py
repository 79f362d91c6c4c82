"""A rod with balls at its ends between two places, of whatever planes.

With P the first place as its plane has it, Q the second as its own has it, the vector in space from
ball to ball, seen from the first plane, is d = T Q + t − P, with T (3, 2) the directions of the
second plane and t where it and the heights of the balls put it; both planes stand still against one
another. L is the length of the rod.

=========  =====================  ===========================================================
condition  residual               velocity term
=========  =====================  ===========================================================
rod        (d·d / L − L) / 2      (d·(w2² T arm2 − w1² arm1) − d'·d') / L
lean       size asin(d_z / L)     size (w2² T_z arm2 / (L cos) − tan lean'²)
=========  =====================  ===========================================================

Derived in docs/methods.md, "Between planes"; tested by finite differences.
"""

from __future__ import annotations

import math
from abc import abstractmethod

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.conditions.condition import (
    BOUNDLESS,
    Condition,
    Going,
    Here,
    Rows,
    Slope,
    Speeds,
    spins,
)
from anakinema.mechanism.fields import Rod
from anakinema.mechanism.frames import perpendicular

UPRIGHT = 1e-9
"""Cosine of the lean below which nothing tells how fast a rod leans."""

Point = tuple[float, float]
OnePose = tuple[float, float, float, float, float]
"""A condition at one pose: its value, and how it rises with the first place along x and y, and with
the second along x and y of its own plane."""
Moving = tuple[Point, Point, Point, Point]
"""How two places move at one pose: velocities of the first and the second, and what their arms
pull: w² arm of each."""


class Between(Condition):
    """A condition between places of two planes."""

    @abstractmethod
    def by_places(self, on: Rows) -> tuple[Floats, Floats]:
        """(..., R, 2) each: how it rises with the first place and with the second."""

    def partials(self, on: Rows) -> Floats:
        """By both places, and by the turns that carry them."""
        first, second = self.by_places(on)
        arm1, arm2 = on.at.first_arm[..., on.joints, :], on.at.second_arm[..., on.joints, :]
        out = np.empty((*first.shape[:-1], 6))
        out[..., 0:2], out[..., 3:5] = first, second
        out[..., 2] = np.sum(first * perpendicular(arm1), axis=-1) / on.size
        out[..., 5] = np.sum(second * perpendicular(arm2), axis=-1) / on.size
        return out

    def slope(self, here: Here) -> Slope:
        """Not asked: one place is not told by what is apart."""
        raise NotImplementedError

    def pull(self, here: Here, going: Going) -> float:
        """Not asked: as for the slope."""
        raise NotImplementedError

    @abstractmethod
    def at_one(self, rod: Rod, first: Point, second: Point, size: float) -> OnePose:
        """Value and slopes at one pose, the two places as their planes have them."""

    @abstractmethod
    def pull_at_one(
        self, rod: Rod, first: Point, second: Point, going: Moving, size: float
    ) -> float:
        """The velocity term there."""


class RodLength(Between):
    """Two places as far apart as a rod is long, scaled so that it is mm near it."""

    def residual(self, on: Rows) -> Floats:
        """As in the table above."""
        d, length = spanned(on), on.table.radius[..., on.joints]
        return np.asarray((np.sum(d * d, axis=-1) / length - length) / 2)

    def by_places(self, on: Rows) -> tuple[Floats, Floats]:
        """Along d."""
        d = spanned(on) / on.table.radius[..., on.joints, None]
        return -d[..., :2], np.einsum("...ri,rij->...rj", d, directions(on))

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """As in the table above."""
        d, length = spanned(on), on.table.radius[..., on.joints]
        moving = rate_of_span(on, rates)
        pull = pull_of_span(on, rates)
        return np.asarray((np.sum(d * pull, axis=-1) - np.sum(moving**2, axis=-1)) / length)

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """The direction moves with what is apart."""
        apart = np.linalg.norm(spanned(on), axis=-1)
        farthest = apart + most.reach * most.moving
        bound = most.reach * most.moving**2 + farthest * most.turning
        return np.asarray(bound / on.table.radius[..., on.joints])

    def at_one(self, rod: Rod, first: Point, second: Point, size: float) -> OnePose:
        """Along d."""
        x, y, z = rod.span(first, second)
        (a, b), (c, d), (e, f) = rod.directions
        long = rod.reach
        value = ((x * x + y * y + z * z) / long - long) / 2
        return (
            value,
            -x / long,
            -y / long,
            (x * a + y * c + z * e) / long,
            (x * b + y * d + z * f) / long,
        )

    def pull_at_one(
        self, rod: Rod, first: Point, second: Point, going: Moving, size: float
    ) -> float:
        """As in the table above."""
        x, y, z = rod.span(first, second)
        (a, b), (c, d), (e, f) = rod.directions
        (ux, uy), (vx, vy), (px, py), (qx, qy) = going
        mx, my, mz = a * vx + b * vy - ux, c * vx + d * vy - uy, e * vx + f * vy
        pull = x * (a * qx + b * qy - px) + y * (c * qx + d * qy - py) + z * (e * qx + f * qy)
        return (pull - mx * mx - my * my - mz * mz) / rod.reach


class Lean(Between):
    """How far a rod leans out of the first plane."""

    def residual(self, on: Rows) -> Floats:
        """As in the table above."""
        sine = spanned(on)[..., 2] / on.table.radius[..., on.joints]
        return np.asarray(on.size * np.arcsin(np.clip(sine, -1.0, 1.0)))

    def _cosine(self, on: Rows) -> Floats:
        sine = spanned(on)[..., 2] / on.table.radius[..., on.joints]
        return np.sqrt(np.maximum(1.0 - sine**2, UPRIGHT**2))

    def by_places(self, on: Rows) -> tuple[Floats, Floats]:
        """Only the second place can rise."""
        scale = on.size / (on.table.radius[..., on.joints] * self._cosine(on))
        second = scale[..., None] * directions(on)[..., 2, :]
        return np.zeros_like(second), second

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """As in the table above."""
        length, cosine = on.table.radius[..., on.joints], self._cosine(on)
        rising = rate_of_span(on, rates)[..., 2] / (length * cosine)
        tangent = spanned(on)[..., 2] / (length * cosine)
        pull = pull_of_span(on, rates)[..., 2] / (length * cosine)
        return np.asarray(on.size * (pull - tangent * rising**2))

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """Of z'/(L cos): z' turns by ``turning``, and the cosine shrinks as z grows."""
        length = on.table.radius[..., on.joints]
        sine = (np.abs(spanned(on)[..., 2]) + most.reach * most.moving) / length
        cosine = np.sqrt(np.maximum(1.0 - sine**2, 0.0))
        with np.errstate(divide="ignore", invalid="ignore"):
            swing = most.turning / (length * cosine)
            swing = swing + most.reach * most.moving**2 / (length**2 * cosine**3)
        return np.asarray(on.size * np.where(cosine > 0, swing, BOUNDLESS))

    def at_one(self, rod: Rod, first: Point, second: Point, size: float) -> OnePose:
        """Only the second place can rise."""
        sine = rod.span(first, second)[2] / rod.reach
        cosine = math.sqrt(max(1.0 - sine * sine, UPRIGHT**2))
        scale = size / (rod.reach * cosine)
        value = size * math.asin(min(max(sine, -1.0), 1.0))
        return value, 0.0, 0.0, scale * rod.directions[2][0], scale * rod.directions[2][1]

    def pull_at_one(
        self, rod: Rod, first: Point, second: Point, going: Moving, size: float
    ) -> float:
        """As in the table above."""
        sine = rod.span(first, second)[2] / rod.reach
        cosine = math.sqrt(max(1.0 - sine * sine, UPRIGHT**2))
        e, f = rod.directions[2]
        _, (vx, vy), _, (qx, qy) = going
        rising = (e * vx + f * vy) / (rod.reach * cosine)
        pull = (e * qx + f * qy) / (rod.reach * cosine)
        return size * (pull - sine / cosine * rising * rising)


def _rods(on: Rows) -> list[Rod]:
    found = [on.table.curves[joint] for joint in on.joints.tolist()]
    return [each for each in found if isinstance(each, Rod)]


def directions(on: Rows) -> Floats:
    """(R, 3, 2) directions of the second planes as the first have them."""
    return np.array([rod.directions for rod in _rods(on)])


def spanned(on: Rows) -> Floats:
    """(..., R, 3) from ball to ball, as the first planes have it."""
    at, joints = on.at, on.joints
    first = at.first_at[..., joints, :]
    second = first + at.apart[..., joints, :]
    out = np.einsum("rij,...rj->...ri", directions(on), second)
    out = out + np.array([rod.offset for rod in _rods(on)])
    out[..., :2] -= first
    return np.asarray(out)


def rate_of_span(on: Rows, rates: Floats) -> Floats:
    """(..., R, 3) rate of it at body rates (..., B, 3)."""
    one, two = spins(on, rates)
    first, second = on.table.first[on.joints], on.table.second[on.joints]
    arm1, arm2 = on.at.first_arm[..., on.joints, :], on.at.second_arm[..., on.joints, :]
    moved1 = rates[..., first, :2] + one[..., None] * perpendicular(arm1)
    moved2 = rates[..., second, :2] + two[..., None] * perpendicular(arm2)
    out = np.einsum("rij,...rj->...ri", directions(on), moved2)
    out[..., :2] -= moved1
    return np.asarray(out)


def pull_of_span(on: Rows, rates: Floats) -> Floats:
    """(..., R, 3) T w2² arm2 − w1² arm1."""
    one, two = spins(on, rates)
    arm1, arm2 = on.at.first_arm[..., on.joints, :], on.at.second_arm[..., on.joints, :]
    out = np.einsum("rij,...rj->...ri", directions(on), two[..., None] ** 2 * arm2)
    out[..., :2] -= one[..., None] ** 2 * arm1
    return np.asarray(out)
