"""What is particular to each kind of joint, stated once.

A kind is a *way* that the first body gives and a *rider* of the second that keeps to it. All that
other modules ask about a kind follows from the two.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum

from anakinema.document.model import JointKind
from anakinema.units import ANGLE, LENGTH, Dimension


class Way(Enum):
    """Where the second place of a joint can be, seen from the first body."""

    POINT = "at the first place"
    LINE = "on a straight line"
    ARC = "on an arc of a stated radius"
    CURVE = "on a named curve of its part"
    ROD = "as far off as a rod is long, in space"


class Rider(Enum):
    """How the second body may turn there."""

    PIN = "as it likes"
    BLOCK = "not against the way"
    FACE = "as a straight face does that touches the curve"
    BALL = "any way"


@dataclass(frozen=True, slots=True)
class JointSpec:
    """A kind of joint: its way and rider, and what it is called."""

    way: Way
    rider: Rider
    words: str
    telescopes: bool = False
    """Its length counts from a dead length, over a stroke that it has of itself."""

    @property
    def moves(self) -> bool:
        """Whether it lets its bodies move against one another at all."""
        return self.way is not Way.POINT or self.rider is not Rider.BLOCK

    @property
    def is_angular(self) -> bool:
        """Whether its value is an angle."""
        return self.way in (Way.POINT, Way.ARC, Way.ROD) or self.rider is Rider.FACE

    @property
    def dimension(self) -> Dimension:
        """What its value measures."""
        return ANGLE if self.is_angular else LENGTH

    @property
    def is_pin(self) -> bool:
        """Whether the second body may turn about its place."""
        return self.rider is Rider.PIN

    @property
    def is_straight(self) -> bool:
        """Whether its value is a way along the direction of the first place."""
        return self.way is Way.LINE

    @property
    def has_twist(self) -> bool:
        """Whether a turn of the second body against the way is stated."""
        return self.rider is Rider.BLOCK and not self.telescopes

    @property
    def has_offset(self) -> bool:
        """Whether a distance across the way is stated."""
        is_way = self.way in (Way.LINE, Way.CURVE) and self.rider is not Rider.FACE
        return is_way and not self.telescopes

    @property
    def is_set_off(self) -> bool:
        """Whether joining may set the second body off the way by a distance."""
        return self.has_offset and (self.way is Way.CURVE or self.rider is Rider.BLOCK)

    @property
    def may_reverse(self) -> bool:
        """Whether its two sides mean the same, as long as no twist is stated."""
        return self.way is Way.POINT or (self.turns_over and self.is_straight)

    @property
    def has_radius(self) -> bool:
        """Whether the radius of its arc is stated."""
        return self.way is Way.ARC

    @property
    def is_rod(self) -> bool:
        """Whether a rod with balls at its ends is between its places, of whatever planes."""
        return self.way is Way.ROD

    @property
    def has_curve(self) -> bool:
        """Whether it names a curve of the first body's part."""
        return self.way is Way.CURVE

    @property
    def is_guided(self) -> bool:
        """Whether what guides it may end: a slot, a rail, a groove."""
        is_way = self.way not in (Way.POINT, Way.ROD) and self.rider is not Rider.FACE
        return is_way and not self.telescopes

    @property
    def is_bounded(self) -> bool:
        """Whether it may end of itself, without limits."""
        return self.is_guided or self.telescopes

    @property
    def joins(self) -> bool:
        """Whether any two places can be joined by it; a cylinder comes whole from the shelf."""
        return not self.telescopes

    @property
    def stated(self) -> tuple[str, ...]:
        """Fields of the joint that state its lengths and angles."""
        if self.telescopes:
            return ("dead_length", "stroke", "guided")
        if self.is_rod:
            return ("length", "thickness", "first_height", "second_height")
        has = {"twist": self.has_twist, "offset": self.has_offset, "radius": self.has_radius}
        return tuple(name for name, is_stated in has.items() if is_stated)

    @property
    def is_simple(self) -> bool:
        """Whether by its value alone one body is carried by the other, like links of a chain."""
        return self.way is Way.POINT or (self.rider is Rider.BLOCK and self.way is not Way.CURVE)

    @property
    def turns_over(self) -> bool:
        """Whether its second body can as well be put on turned by half a turn."""
        return self.has_twist and self.way is not Way.CURVE

    @property
    def is_directed(self) -> bool:
        """Whether the directions of its places matter."""
        return self.turns_over or self.is_straight

    @property
    def is_aligned(self) -> bool:
        """Whether its places must point the same way."""
        return self.rider is Rider.BLOCK and self.way in (Way.POINT, Way.LINE)

    @property
    def mirrors(self) -> bool:
        """Whether its value counts the other way in a mirror."""
        return not self.is_straight and not self.is_rod


KINDS: Mapping[JointKind, JointSpec] = {
    "revolute": JointSpec(Way.POINT, Rider.PIN, "revolute"),
    "prismatic": JointSpec(Way.LINE, Rider.BLOCK, "prismatic"),
    "pin_in_slot": JointSpec(Way.LINE, Rider.PIN, "pin in slot"),
    "rigid": JointSpec(Way.POINT, Rider.BLOCK, "rigid"),
    "block_on_arc": JointSpec(Way.ARC, Rider.BLOCK, "block on arc"),
    "pin_on_arc": JointSpec(Way.ARC, Rider.PIN, "pin on arc"),
    "pin_on_curve": JointSpec(Way.CURVE, Rider.PIN, "pin on curve"),
    "block_on_curve": JointSpec(Way.CURVE, Rider.BLOCK, "block on curve"),
    "face_on_curve": JointSpec(Way.CURVE, Rider.FACE, "face on curve"),
    "cylinder": JointSpec(Way.LINE, Rider.BLOCK, "cylinder", telescopes=True),
    "ball_rod": JointSpec(Way.ROD, Rider.BALL, "ball-ended rod"),
}
"""All kinds, in the order that they are offered."""


def spec_of(kind: JointKind) -> JointSpec:
    """What is particular to a kind."""
    return KINDS[kind]
