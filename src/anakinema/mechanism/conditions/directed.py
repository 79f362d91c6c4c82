"""Conditions that rise along one direction of the second place, seen from the first body.

With d what is apart, u the first place's axis, n = u turned left:

==========  ==========================  =====================================================
condition   residual                    velocity term
==========  ==========================  =====================================================
across      n·d − target                w1² n·d + 2 w1 u·d' + n·(w2² arm2 − w1² arm1)
along       u·d − target                w1² u·d − 2 w1 n·d' + u·(w2² arm2 − w1² arm1)
circle      (d·d / R − R) / 2           (d·(w2² arm2 − w1² arm1) − d'·d') / R
polar       size (angle of d − target)  size (d × (w2² arm2 − w1² arm1) + 2 d·d' φ') / d·d
==========  ==========================  =====================================================

Polar is the angle of d seen from the first body, φ' = d × d' / d·d its rate less w1 added.
"""

from __future__ import annotations

import math

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
    assembled,
    cross,
    dot,
    moving_apart,
    pull_of_arms,
    spins,
)
from anakinema.mechanism.frames import perpendicular

TINY = 1e-300
"""mm²; keeps a point in the very centre, which has no direction, from a division by zero."""


class _Line(Condition):
    """Along or across the first place's axis."""

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """The axis turns under what is apart, and the arms turn."""
        turning = most.spin1 * (most.spin1 * most.apart + 2 * most.moving)
        return np.asarray(most.reach * turning + most.turning)


class Across(_Line):
    """What is apart across the axis, to its left."""

    def residual(self, on: Rows) -> Floats:
        """n·d."""
        return dot(on.at.normal[..., on.joints, :], on.at.apart[..., on.joints, :])

    def partials(self, on: Rows) -> Floats:
        """Along n; turning the axis takes away what is along it."""
        axis, apart = on.at.axis[..., on.joints, :], on.at.apart[..., on.joints, :]
        return assembled(on, on.at.normal[..., on.joints, :], -dot(axis, apart))

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """As in the table above."""
        axis, normal = on.at.axis[..., on.joints, :], on.at.normal[..., on.joints, :]
        apart, moving = on.at.apart[..., on.joints, :], moving_apart(on, rates)
        spin, _ = spins(on, rates)
        turned = spin**2 * dot(normal, apart) + 2 * spin * dot(axis, moving)
        return turned + dot(normal, pull_of_arms(on, rates))

    def slope(self, here: Here) -> Slope:
        """Along n."""
        dx, dy, ux, uy, _, _, _, _ = here
        return (ux * dy - uy * dx, -uy, ux, -ux * dx - uy * dy, 0.0)

    def pull(self, here: Here, going: Going) -> float:
        """As in the table above."""
        dx, dy, ux, uy, _, _, _, _ = here
        mx, my, spin, _, px, py = going
        turned = spin * spin * (ux * dy - uy * dx) + 2 * spin * (ux * mx + uy * my)
        return turned + ux * py - uy * px


class Along(_Line):
    """What is apart along the axis."""

    def residual(self, on: Rows) -> Floats:
        """u·d."""
        return dot(on.at.axis[..., on.joints, :], on.at.apart[..., on.joints, :])

    def partials(self, on: Rows) -> Floats:
        """Along u; turning the axis adds what is across it."""
        normal, apart = on.at.normal[..., on.joints, :], on.at.apart[..., on.joints, :]
        return assembled(on, on.at.axis[..., on.joints, :], dot(normal, apart))

    def moved(self, on: Rows, rates: Floats) -> Floats:
        """What the first body turns under it, and what moves along the axis."""
        axis, apart = on.at.axis[..., on.joints, :], on.at.apart[..., on.joints, :]
        spin, _ = spins(on, rates)
        return spin * cross(axis, apart) + dot(axis, moving_apart(on, rates))

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """As in the table above."""
        axis, normal = on.at.axis[..., on.joints, :], on.at.normal[..., on.joints, :]
        apart, moving = on.at.apart[..., on.joints, :], moving_apart(on, rates)
        spin, _ = spins(on, rates)
        turned = spin**2 * dot(axis, apart) - 2 * spin * dot(normal, moving)
        return turned + dot(axis, pull_of_arms(on, rates))

    def slope(self, here: Here) -> Slope:
        """Along u."""
        dx, dy, ux, uy, _, _, _, _ = here
        return (ux * dx + uy * dy, ux, uy, ux * dy - uy * dx, 0.0)

    def pull(self, here: Here, going: Going) -> float:
        """As in the table above."""
        dx, dy, ux, uy, _, _, _, _ = here
        mx, my, spin, _, px, py = going
        turned = spin * spin * (ux * dx + uy * dy) - 2 * spin * (ux * my - uy * mx)
        return turned + ux * px + uy * py


class Circle(Condition):
    """The second place on a circle round the first, scaled so that it is mm near it."""

    def residual(self, on: Rows) -> Floats:
        """(d·d / R − R) / 2."""
        apart, radius = on.at.apart[..., on.joints, :], on.table.radius[..., on.joints]
        return np.asarray((dot(apart, apart) / radius - radius) / 2)

    def partials(self, on: Rows) -> Floats:
        """Along d, whatever the first body's turn."""
        apart = on.at.apart[..., on.joints, :]
        direction = apart / on.table.radius[..., on.joints, None]
        return assembled(on, direction, np.zeros(apart.shape[:-1]))

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """As in the table above."""
        apart, moving = on.at.apart[..., on.joints, :], moving_apart(on, rates)
        radius = on.table.radius[..., on.joints]
        return np.asarray((dot(apart, pull_of_arms(on, rates)) - dot(moving, moving)) / radius)

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """The direction moves with what is apart."""
        radius, farthest = on.table.radius[..., on.joints], most.apart + most.reach * most.moving
        return np.asarray((most.reach * most.moving**2 + farthest * most.turning) / radius)

    def slope(self, here: Here) -> Slope:
        """Along d."""
        dx, dy, _, _, _, radius, _, _ = here
        value = ((dx * dx + dy * dy) / radius - radius) / 2
        return (value, dx / radius, dy / radius, 0.0, 0.0)

    def pull(self, here: Here, going: Going) -> float:
        """As in the table above."""
        dx, dy, _, _, _, radius, _, _ = here
        mx, my, _, _, px, py = going
        return (dx * px + dy * py - mx * mx - my * my) / radius


class Polar(Condition):
    """The direction of what is apart, seen from the first body."""

    def residual(self, on: Rows) -> Floats:
        """The angle from the axis to d."""
        axis, apart = on.at.axis[..., on.joints, :], on.at.apart[..., on.joints, :]
        return np.asarray(on.size * np.arctan2(cross(axis, apart), dot(axis, apart)))

    def partials(self, on: Rows) -> Floats:
        """Across d; turning the first body takes away."""
        apart = on.at.apart[..., on.joints, :]
        direction = perpendicular(apart) * (on.size / dot(apart, apart))[..., None]
        return assembled(on, direction, np.full(apart.shape[:-1], -on.size))

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """As in the table above."""
        apart, moving = on.at.apart[..., on.joints, :], moving_apart(on, rates)
        square = dot(apart, apart)
        turning = 2 * dot(apart, moving) * cross(apart, moving) / square
        return np.asarray(on.size * (cross(apart, pull_of_arms(on, rates)) + turning) / square)

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """Of d × d' / d·d: d' turns by ``turning`` while d itself moves and turns."""
        nearest = np.maximum(most.apart - most.reach * most.moving, 0.0)
        with np.errstate(divide="ignore", invalid="ignore"):
            swing = most.turning / nearest + 2 * most.reach * (most.moving / nearest) ** 2
        # Where the pin might reach the centre, nothing bounds how fast its direction turns.
        return np.asarray(on.size * np.where(nearest > 0, swing, BOUNDLESS))

    def slope(self, here: Here) -> Slope:
        """Across d."""
        dx, dy, ux, uy, _, _, _, size = here
        value = size * math.atan2(ux * dy - uy * dx, ux * dx + uy * dy)
        share = size / max(dx * dx + dy * dy, TINY)
        return (value, -dy * share, dx * share, -size, 0.0)

    def pull(self, here: Here, going: Going) -> float:
        """As in the table above."""
        dx, dy, _, _, _, _, _, size = here
        mx, my, _, _, px, py = going
        square = dx * dx + dy * dy
        turning = 2 * (dx * mx + dy * my) * (dx * my - dy * mx) / square
        return size * (dx * py - dy * px + turning) / square
