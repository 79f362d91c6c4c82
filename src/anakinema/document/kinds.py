"""What the value of a joint is: an angle or a length, by its kind."""

from __future__ import annotations

from anakinema.document import model
from anakinema.units import ANGLE, LENGTH, Dimension


def is_angular(kind: model.JointKind) -> bool:
    """Whether the value of such a joint is an angle."""
    return kind in ("revolute", "rigid", "face_on_curve", *model.ARC_KINDS)


def value_dimension(kind: model.JointKind) -> Dimension:
    """What the value of such a joint measures."""
    return ANGLE if is_angular(kind) else LENGTH
