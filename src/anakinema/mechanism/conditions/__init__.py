"""The scalar conditions that joints, drivers, couplings and contacts are made of.

Each is an object with residual, partial derivatives, the velocity term of its acceleration
equation and a bound on how fast its velocity equation can change (for certified speeds), all over
any leading axes of poses, and the same for one pose in plain floats: ten times quicker there, for
following a branch evaluates one pose after another, where the price of an array operation is its
call. `condition` finds it by its name, which is what arrays of rows hold. A joint kind is a list
of names (`anakinema.mechanism.kernels.rows_of`). Derived in docs/methods.md, "Constraints"; each
derivative is tested by differences, and both forms against each other.
"""

from collections.abc import Mapping

from anakinema.mechanism.conditions.condition import Condition, Going, Here, Rows, Slope, speeds
from anakinema.mechanism.conditions.curved import (
    Bent,
    OnCurve,
    OverRun,
    Support,
    Track,
    TrackAlong,
    TrackTurn,
)
from anakinema.mechanism.conditions.directed import Across, Along, Circle, Polar
from anakinema.mechanism.conditions.plain import Apart, Turn
from anakinema.mechanism.conditions.rods import Between, Lean, RodLength
from anakinema.mechanism.kernels import Kernel

__all__ = [
    "Between",
    "Condition",
    "Going",
    "Here",
    "OnCurve",
    "Rows",
    "Slope",
    "condition",
    "speeds",
]

_CONDITIONS: Mapping[Kernel, Condition] = {
    Kernel.APART_X: Apart(0),
    Kernel.APART_Y: Apart(1),
    Kernel.TURN: Turn(),
    Kernel.ACROSS: Across(),
    Kernel.ALONG: Along(),
    Kernel.CIRCLE: Circle(),
    Kernel.POLAR: Polar(),
    Kernel.TRACK: Track(),
    Kernel.TRACK_ALONG: TrackAlong(),
    Kernel.TRACK_TURN: TrackTurn(),
    Kernel.SUPPORT: Support(),
    Kernel.BENT: Bent(),
    Kernel.RUN: OverRun(),
    Kernel.ROD: RodLength(),
    Kernel.LEAN: Lean(),
}


def condition(kernel: Kernel) -> Condition:
    """The condition of a name."""
    return _CONDITIONS[kernel]
