"""Places that coincide in x or y, and the turn of one body against the other.

==========  ====================  ==========================
condition   residual              velocity term
==========  ====================  ==========================
apart x, y  d                     w2² arm2 − w1² arm1
turn        size (turn − target)  0
==========  ====================  ==========================
"""

from __future__ import annotations

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.conditions.condition import (
    Condition,
    Going,
    Here,
    Rows,
    Slope,
    Speeds,
    pull_of_arms,
    spins,
)


class Apart(Condition):
    """What is apart along an axis of the plane, 0 for x and 1 for y."""

    def __init__(self, axis: int) -> None:
        self.axis = axis

    def residual(self, on: Rows) -> Floats:
        """The share along the axis."""
        return on.at.apart[..., on.joints, self.axis]

    def partials(self, on: Rows) -> Floats:
        """1 along the axis, and the arms across it."""
        axis, sign = self.axis, 1.0 if self.axis == 0 else -1.0
        arm1, arm2 = on.at.first_arm[..., on.joints, :], on.at.second_arm[..., on.joints, :]
        out = np.zeros((*arm1.shape[:-1], 6))
        out[..., axis] = -1.0
        out[..., 3 + axis] = 1.0
        out[..., 2] = sign * arm1[..., 1 - axis] / on.size
        out[..., 5] = -sign * arm2[..., 1 - axis] / on.size
        return out

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """The pull of the turning arms."""
        return pull_of_arms(on, rates)[..., self.axis]

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """Only the arms turn."""
        return most.turning

    def slope(self, here: Here) -> Slope:
        """1 along the axis."""
        if self.axis == 0:
            return (here[0], 1.0, 0.0, 0.0, 0.0)
        return (here[1], 0.0, 1.0, 0.0, 0.0)

    def pull(self, here: Here, going: Going) -> float:
        """The pull of the turning arms."""
        return going[4 + self.axis]


class Turn(Condition):
    """The second body's turn against the first."""

    def residual(self, on: Rows) -> Floats:
        """The turn."""
        return on.size * on.at.turn[..., on.joints]

    def partials(self, on: Rows) -> Floats:
        """1 by the second body's turn."""
        out = np.zeros((*on.at.turn[..., on.joints].shape, 6))
        out[..., 2] = -1.0
        out[..., 5] = 1.0
        return out

    def moved(self, on: Rows, rates: Floats) -> Floats:
        """The difference of both spins."""
        first, second = spins(on, rates)
        return np.asarray(on.size * (second - first))

    def quadratic(self, on: Rows, rates: Floats) -> Floats:
        """None: it is linear."""
        return np.zeros((*rates.shape[:-2], len(on.joints)))

    def bound(self, on: Rows, most: Speeds) -> Floats:
        """None: it is linear."""
        return np.zeros(np.broadcast_shapes(most.spin1.shape, most.reach.shape))

    def slope(self, here: Here) -> Slope:
        """1 by the second body's turn."""
        return (here[7] * here[4], 0.0, 0.0, -here[7], here[7])

    def pull(self, here: Here, going: Going) -> float:
        """None: it is linear."""
        return 0.0
