"""The names of the scalar conditions that joints, drivers and contacts are made of."""

from __future__ import annotations

from collections.abc import Mapping
from enum import IntEnum

from anakinema.document.model import JointKind


class Kernel(IntEnum):
    """A scalar condition between the two sides of a joint."""

    APART_X = 0
    APART_Y = 1
    TURN = 2
    ACROSS = 3
    ALONG = 4
    CIRCLE = 5
    POLAR = 6
    COUPLED = 7
    """Of no joint alone: a combination of value rows, see `anakinema.mechanism.coupled`."""
    TRACK = 8
    TRACK_ALONG = 9
    TRACK_TURN = 10
    SUPPORT = 11
    """On a curve of the first body, see `anakinema.mechanism.fields`."""
    BENT = 12
    """The turn that a universal joint passes on."""
    RUN = 13
    """The run of a belt from one wheel to the next."""


ON_CURVE = (
    Kernel.TRACK, Kernel.TRACK_ALONG, Kernel.TRACK_TURN, Kernel.SUPPORT, Kernel.BENT, Kernel.RUN,
)  # fmt: skip
ANGLES = (Kernel.TRACK_TURN, Kernel.BENT)
"""Those of them that are angles."""

KIND_ROWS: Mapping[JointKind, tuple[Kernel, ...]] = {
    "rigid": (Kernel.APART_X, Kernel.APART_Y, Kernel.TURN),
    "revolute": (Kernel.APART_X, Kernel.APART_Y),
    "prismatic": (Kernel.TURN, Kernel.ACROSS),
    "pin_in_slot": (Kernel.ACROSS,),
    "pin_on_arc": (Kernel.CIRCLE,),
    "block_on_arc": (Kernel.APART_X, Kernel.APART_Y),
    "pin_on_curve": (Kernel.TRACK,),
    "block_on_curve": (Kernel.TRACK, Kernel.TRACK_TURN),
    "face_on_curve": (Kernel.SUPPORT,),
}
"""Conditions that each kind of joint imposes."""

VALUE_KERNEL: Mapping[JointKind, Kernel] = {
    "rigid": Kernel.TURN,
    "revolute": Kernel.TURN,
    "prismatic": Kernel.ALONG,
    "pin_in_slot": Kernel.ALONG,
    "pin_on_arc": Kernel.POLAR,
    "block_on_arc": Kernel.TURN,
    "pin_on_curve": Kernel.TRACK_ALONG,
    "block_on_curve": Kernel.TRACK_ALONG,
    "face_on_curve": Kernel.TURN,
}
"""Condition whose residual is the value of a joint, the one that a driver commands."""
