"""Outlines of parts: shapes, holes, slabs, and places."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anakinema.document.model.fields import (
    MOST_ITEMS,
    Angle,
    Count,
    Identifier,
    Length,
    Model,
    Ratio,
)


class Circle(Model):
    """A full circle."""

    shape: Literal["circle"]
    x: Length = 0.0
    y: Length = 0.0
    radius: Length


class Round(Model):
    """One of the circles that a hull is stretched over."""

    x: Length = 0.0
    y: Length = 0.0
    radius: Length


class Hull(Model):
    """The outline of a belt stretched over circles: links, slots, bell cranks, rounded plates."""

    shape: Literal["hull"]
    rounds: Annotated[tuple[Round, ...], Field(min_length=2, max_length=24)]


class Rectangle(Model):
    """A rectangle about its centre, its corners rounded if asked."""

    shape: Literal["rectangle"]
    x: Length = 0.0
    y: Length = 0.0
    width: Length
    height: Length
    corner: Length = 0.0
    turned: Angle = 0.0


class Vertex(Model):
    """A vertex of a path; ``bulge`` = tan(sweep / 4) bends the edge to the next vertex."""

    x: Length
    y: Length
    bulge: Ratio = 0.0
    fillet: Length = 0.0


class Path(Model):
    """A closed path of lines and arcs."""

    shape: Literal["path"]
    vertices: Annotated[tuple[Vertex, ...], Field(min_length=2, max_length=MOST_ITEMS)]


class ToothedWheel(Model):
    """An involute wheel to ISO 53, a tooth along ``turned``; as a hole, the inside of a ring.

    ``shift`` is the profile shift in modules, ``backlash`` is taken off the teeth.
    """

    shape: Literal["toothed_wheel"]
    x: Length = 0.0
    y: Length = 0.0
    module: Length
    teeth: Count
    pressure_angle: Angle = "20 deg"
    shift: Ratio = 0.0
    backlash: Length = 0.0
    turned: Angle = 0.0


class ToothedRack(Model):
    """A straight rack to ISO 53, the middle of its first tooth at x, y on its pitch line.

    The pitch line runs along ``turned``; ``depth`` is what lies below it.
    """

    shape: Literal["toothed_rack"]
    x: Length = 0.0
    y: Length = 0.0
    module: Length
    teeth: Count
    pressure_angle: Angle = "20 deg"
    depth: Length
    turned: Angle = 0.0


class SlotAlong(Model):
    """A slot ``width`` wide along a path of lines and arcs, or along a ``spline`` through its
    vertices. As a hole its middle is a curve of the part by the hole's name.
    """

    shape: Literal["slot_along"]
    vertices: Annotated[tuple[Vertex, ...], Field(min_length=2, max_length=MOST_ITEMS)]
    spline: bool = False
    width: Length


class RatchetWheel(Model):
    """A ratchet wheel: flanks that rise anticlockwise from ``root`` to ``tip``, then faces.

    Faces lean back under the tips by ``lean``. The first flank's root lies along ``turned``;
    ``reversed``: its flanks rise clockwise.
    """

    shape: Literal["ratchet_wheel"]
    x: Length = 0.0
    y: Length = 0.0
    teeth: Count
    tip: Length
    root: Length
    lean: Angle = 0.0
    turned: Angle = 0.0
    reversed: bool = False


class GenevaWheel(Model):
    """A Geneva wheel with a slot along ``turned``, ``centres`` apart from its driver.

    ``slot`` is the width of the slots, ``lock`` the radius of the hollows between them.
    """

    shape: Literal["geneva_wheel"]
    x: Length = 0.0
    y: Length = 0.0
    slots: Count
    centres: Length
    slot: Length
    lock: Length
    turned: Angle = 0.0


class LockingDisc(Model):
    """The disc that turns in the hollows of a Geneva wheel, cut away along ``turned``.

    It has the hollows' radius ``lock`` less ``play``.
    """

    shape: Literal["locking_disc"]
    x: Length = 0.0
    y: Length = 0.0
    slots: Count
    centres: Length
    lock: Length
    play: Length
    turned: Angle = 0.0


class Sprocket(Model):
    """A chain wheel to ISO 606, a gap along ``turned``; ``roller`` is a diameter."""

    shape: Literal["sprocket"]
    x: Length = 0.0
    y: Length = 0.0
    teeth: Count
    pitch: Length
    roller: Length
    turned: Angle = 0.0


class CamOutline(Model):
    """The profile of one of the part's cams, or what lies ``beyond`` mm farther out."""

    shape: Literal["cam"]
    cam: Identifier
    beyond: Length = 0.0


Outline = Annotated[
    Circle
    | Hull
    | Rectangle
    | Path
    | ToothedWheel
    | ToothedRack
    | RatchetWheel
    | GenevaWheel
    | LockingDisc
    | Sprocket
    | CamOutline
    | SlotAlong,
    Field(discriminator="shape"),
]
TURNED_SHAPES = (
    Rectangle,
    ToothedWheel,
    ToothedRack,
    RatchetWheel,
    GenevaWheel,
    LockingDisc,
    Sprocket,
)
"""Outlines that have a direction of their own."""


class Hole(Model):
    """A named opening in a slab."""

    id: Identifier
    outline: Outline


class Slab(Model):
    """One outline with its holes over an interval of heights along the pins."""

    id: Identifier
    bottom: Length = 0.0
    top: Length
    outline: Outline
    holes: Annotated[tuple[Hole, ...], Field(max_length=MOST_ITEMS)] = ()


class Place(Model):
    """A point with a direction on a part, where joints and measures attach."""

    id: Identifier
    x: Length = 0.0
    y: Length = 0.0
    angle: Angle = 0.0
