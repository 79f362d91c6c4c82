"""What a designer asks of a join, and what two places suggest."""

from __future__ import annotations

import math
from dataclasses import dataclass

from anakinema.authoring.snap_points import PlacedSnap, SnapKind
from anakinema.document import model
from anakinema.document.planes import across
from anakinema.document.resolve import Resolved
from anakinema.units import LENGTH

AXIS, MIDDLE = "axis", "middle"
"""Places of parts on the shelf that something slides along, and that lie half way."""


@dataclass(frozen=True, slots=True)
class Wish:
    """What the designer asks for.

    first, second : the snaps, in the order picked. kind : of the joint. manner : 'together',
    'stand' (as they stand, closed exactly) or 'offset' (as they stand, offset kept). flip turns
    the first body round by half a turn, ``turn`` (rad) by any more, ``offset`` mm sets it off
    the axis of a slide, or a place off a curve. radius : mm, of an arc. curve : which curve of the
    second body, None for its first. length : mm, of a rod, None for as far as it is. stack :
    'face', 'middle', 'below', 'keep', or a number of mm. branch : 1 takes the other assembly.
    """

    first: PlacedSnap
    second: PlacedSnap
    kind: model.JointKind
    manner: str = "together"
    flip: bool = False
    turn: float = 0.0
    offset: float = 0.0
    radius: float | None = None
    length: float | None = None
    curve: str | None = None
    stack: str | float = "face"
    branch: int = 0
    name: str = ""


def likely_kind(first: PlacedSnap, second: PlacedSnap) -> model.JointKind:
    """The kind of joint that two snaps suggest, to begin with."""
    snaps = (first.snap, second.snap)
    slots = sum(snap.kind is SnapKind.SLOT for snap in snaps)
    straight = sum(snap.kind.is_straight or snap.place.id == AXIS for snap in snaps)
    in_middle = any(snap.kind.is_straight or snap.place.id == MIDDLE for snap in snaps)
    if slots == 1 and straight == 0:
        return "pin_in_slot"
    if slots + straight == 2 or (straight and (in_middle or slots)):
        return "prismatic"
    return "revolute"


def is_across(resolved: Resolved, first: PlacedSnap, second: PlacedSnap) -> bool:
    """Whether two snaps are on bodies of different planes, which only a rod can tie."""
    return across(resolved.document, (first.body, second.body))


def level_wish(first: PlacedSnap, second: PlacedSnap) -> str | float:
    """The place in the stack that two snaps suggest: heights at which both were picked meet, else
    face to face."""
    if first.rise is None or second.rise is None:
        return "face"
    return second.rise - first.rise


def likely_radius(resolved: Resolved, first: PlacedSnap, second: PlacedSnap) -> float:
    """mm; radius of the arc two snaps suggest: a dimension called so, else their distance."""
    for end in (second, first):
        part = resolved.document.part(resolved.document.body(end.body).part)
        if any(dimension.id == "radius" for dimension in part.dimensions):
            return resolved.number(part, "radius", LENGTH)
    return max(1.0, round(math.hypot(first.x - second.x, first.y - second.y), 2))
