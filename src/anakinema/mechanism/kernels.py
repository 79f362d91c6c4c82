"""The names of the scalar conditions that joints, drivers and contacts are made of."""

from __future__ import annotations

from collections.abc import Mapping
from enum import IntEnum

from anakinema.document.kinds import Rider, Way, spec_of
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
    """On a curve of the first body, as those two below, see `anakinema.mechanism.fields`."""
    BENT = 12
    """The turn that a universal joint passes on."""
    RUN = 13
    """The run of a belt from one wheel to the next."""
    ROD = 14
    """Two places of whatever planes as far apart as a rod between them is long."""
    LEAN = 15
    """How far that rod leans out of the first plane."""


_ROWS: Mapping[tuple[Way, Rider], tuple[Kernel, ...]] = {
    (Way.POINT, Rider.BLOCK): (Kernel.APART_X, Kernel.APART_Y, Kernel.TURN),
    (Way.POINT, Rider.PIN): (Kernel.APART_X, Kernel.APART_Y),
    (Way.LINE, Rider.BLOCK): (Kernel.TURN, Kernel.ACROSS),
    (Way.LINE, Rider.PIN): (Kernel.ACROSS,),
    (Way.ARC, Rider.PIN): (Kernel.CIRCLE,),
    # It turns about the centre of its arc.
    (Way.ARC, Rider.BLOCK): (Kernel.APART_X, Kernel.APART_Y),
    (Way.CURVE, Rider.PIN): (Kernel.TRACK,),
    (Way.CURVE, Rider.BLOCK): (Kernel.TRACK, Kernel.TRACK_TURN),
    (Way.CURVE, Rider.FACE): (Kernel.SUPPORT,),
    (Way.ROD, Rider.BALL): (Kernel.ROD,),
}
_VALUES: Mapping[tuple[Way, Rider], Kernel] = {
    (Way.LINE, Rider.BLOCK): Kernel.ALONG,
    (Way.LINE, Rider.PIN): Kernel.ALONG,
    (Way.ARC, Rider.PIN): Kernel.POLAR,
    (Way.CURVE, Rider.PIN): Kernel.TRACK_ALONG,
    (Way.CURVE, Rider.BLOCK): Kernel.TRACK_ALONG,
    (Way.ROD, Rider.BALL): Kernel.LEAN,
}


def rows_of(kind: JointKind) -> tuple[Kernel, ...]:
    """Conditions that a kind of joint imposes."""
    spec = spec_of(kind)
    return _ROWS[spec.way, spec.rider]


def value_kernel(kind: JointKind) -> Kernel:
    """Condition whose residual is the value of a joint, the one that a driver commands."""
    spec = spec_of(kind)
    return _VALUES.get((spec.way, spec.rider), Kernel.TURN)
