"""Bodies and the joints between them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anakinema.document.model.fields import (
    MOST_ITEMS,
    Angle,
    BodyName,
    Identifier,
    JointValue,
    Length,
    Model,
    Titled,
    Words,
)


class Pose(Model):
    """Where a body stands in its plane when the document opens."""

    x: Length = 0.0
    y: Length = 0.0
    angle: Angle = 0.0


class Plane(Titled, Model):
    """A plane of motion: its origin, and its directions turned about the normal of what it is seen
    from, tilted about its own x, and turned about its own normal.

    It stands in space, or is carried by the body that it is ``on``; then all is as seen from there,
    heights above that body's datum.
    """

    id: Identifier = "main"
    name: Words = "main plane"
    x: Length = 0.0
    y: Length = 0.0
    z: Length = 0.0
    turn: Angle = 0.0
    tilt: Angle = 0.0
    spin: Angle = 0.0
    on: BodyName | None = None


class Body(Titled, Model):
    """A placed use of a part. Without ``height`` its place in the stack follows its joints.

    ``off`` takes it out of the mechanism for the moment, with all its joints.
    """

    id: Identifier
    part: Identifier
    name: Words = ""
    pose: Pose = Pose()
    height: Length | None = None
    fixed: bool = False
    off: bool = False
    plane: Identifier = "main"


class OutlinePiece(Model):
    """A piece of outline a joint is made of: the rim of a slab or one of its holes.

    Without ``edges`` the whole contour is meant; with them only these edges, counted from 0.
    """

    slab: Identifier
    hole: Identifier | None = None
    edges: tuple[Annotated[int, Field(ge=0, le=MOST_ITEMS, strict=True)], ...] | None = None


class Side(Model):
    """One side of a joint: a place on a body, and the outline pieces that touch there."""

    body: BodyName
    place: Identifier
    pieces: tuple[OutlinePiece, ...] = ()


class Limits(Model):
    """Permitted values of a joint; ``rest`` is kept for yielding bodies."""

    least: JointValue | None = None
    greatest: JointValue | None = None
    rest: JointValue | None = None


JointKind = Literal[
    "rigid",
    "revolute",
    "prismatic",
    "pin_in_slot",
    "pin_on_arc",
    "block_on_arc",
    "pin_on_curve",
    "block_on_curve",
    "face_on_curve",
    "cylinder",
    "ball_rod",
]


Yielding = Literal["spring", "gravity", "friction"]


class Joint(Titled, Model):
    """A joint between two bodies.

    ``first`` carries the axis of a prismatic joint and the slot of a pin in slot; values are
    positive when ``second`` turns anticlockwise, or moves along that axis, seen from ``first``.
    On an arc, ``first`` is its centre and ``radius`` its size; the value is the direction of the
    second place seen from there; on a ``curve`` it is the way along it. ``zero`` is the raw value
    that is shown as 0. A cylinder counts from its ``dead_length``, pushed in, over its ``stroke``;
    pushed out it is still ``guided`` over a length. A ball-ended rod has a ``length`` between the
    middles of its balls and a ``thickness``; these stand ``first_height`` and ``second_height``
    above the datums of their bodies, and its value is how far it leans out of the plane of
    ``first``, to the side that its normal points to. ``twist`` and ``offset`` are a stated turn and
    a stated distance across the axis. ``rise`` is the height of the second body above the first in
    the stack. A joint that ``yields`` gives way to what pushes it; a spring or gravity returns it
    to its rest value, friction keeps it where it was pushed. One that ``may_leave`` its guide by an
    open end is followed beyond it. ``off`` takes it out of the mechanism for the moment.
    """

    id: Identifier
    kind: JointKind
    name: Words = ""
    first: Side
    second: Side
    twist: Angle = 0.0
    offset: Length = 0.0
    radius: Length | None = None
    curve: Identifier | None = None
    dead_length: Length | None = None
    stroke: Length | None = None
    guided: Length | None = None
    length: Length | None = None
    thickness: Length = "6 mm"
    first_height: Length = 0.0
    second_height: Length = 0.0
    zero: JointValue = 0.0
    rise: Length | None = None
    limits: Limits = Limits()
    yields: Yielding | None = None
    may_leave: bool = False
    off: bool = False
