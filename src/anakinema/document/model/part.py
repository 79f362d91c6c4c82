"""Parts: what outlines keep, curves, cams, dimensions."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anakinema.document.model.fields import (
    MOST_ITEMS,
    Angle,
    Colour,
    Identifier,
    Length,
    Lift,
    Model,
    Parameter,
    RelationValue,
    Titled,
    Words,
)
from anakinema.document.model.outline import Place, Slab, Vertex
from anakinema.geometry.laws import MotionLaw
from anakinema.geometry.rules import Kind


class Element(Model):
    """What a relation speaks of: something of an outline, a place, or an axis of the part.

    ``index`` counts corners and edges of a path and rounds of a hull from 0; an edge starts at
    the corner of its number. Edges of other shapes are those of their contour. The axes are 0,
    level, and 1, upright, through the part's origin.
    """

    kind: Literal["corner", "edge", "centre", "place", "axis"]
    slab: Identifier | None = None
    hole: Identifier | None = None
    place: Identifier | None = None
    index: Annotated[int, Field(ge=0, le=MOST_ITEMS, strict=True)] = 0


RelationKind = Kind


class Relation(Model):
    """Something the outlines of a part keep, whatever is edited; ``value`` where it states one.

    Only numbers without names in them move to keep it: an expression of a dimension is obeyed.
    """

    kind: RelationKind
    of: Annotated[tuple[Element, ...], Field(min_length=1, max_length=3)]
    value: RelationValue | None = None


class Curve(Model):
    """A smooth curve on a part that a pin or a block follows: a path of lines and arcs, or a
    spline through its vertices, which then have neither bulge nor fillet.
    """

    id: Identifier
    shape: Literal["path", "spline"] = "path"
    vertices: Annotated[tuple[Vertex, ...], Field(min_length=2, max_length=MOST_ITEMS)]
    closed: bool = False


class CamSegment(Model):
    """The lift goes to ``to`` while the cam turns by ``turn``; the same lift again is a dwell."""

    turn: Angle
    to: Lift
    law: MotionLaw = "cycloidal"


class CamPoint(Model):
    """A lift at an angle of the cam."""

    angle: Angle
    lift: Lift


class CamFollower(Model):
    """What rides on a cam: a roller, a round face, a knife edge or a flat face.

    A translating follower goes along its axis, ``offset`` from the shaft; a swinging one turns
    about a pivot ``centres`` from the shaft, with an ``arm`` to its roller. ``returns``: what keeps
    it on the cam.
    """

    face: Literal["roller", "round", "knife", "flat"] = "roller"
    moves: Literal["translating", "swinging"] = "translating"
    radius: Length = 0.0
    offset: Length = 0.0
    arm: Length = 0.0
    centres: Length = 0.0
    returns: Literal["gravity", "spring", "groove"] = "spring"


class Cam(Titled, Model):
    """A cam about the part's origin, turning anticlockwise under its follower.

    ``base`` is the radius of its base circle; its lift is stated by segments over a full turn, or
    by points. ``ease`` is the turn over which a constant speed begins and ends. Its profile is a
    curve of the part by its own id, the way of a roller's centre one by that id and ``_path``.
    """

    id: Identifier
    name: Words = ""
    base: Length
    follower: CamFollower = CamFollower()
    segments: Annotated[tuple[CamSegment, ...], Field(max_length=64)] = ()
    points: Annotated[tuple[CamPoint, ...], Field(max_length=MOST_ITEMS)] = ()
    ease: Angle = "5 deg"


class Material(Model):
    """What a part is made of; density in kg/m³."""

    name: Words
    density: Annotated[float, Field(gt=0, lt=30000)]


class Part(Titled, Model):
    """A definition that bodies use: slabs, places and named dimensions.

    ``item_number``: its number in the parts list, that of its order where none is stated.
    """

    id: Identifier
    name: Words = ""
    colour: Colour = "blue"
    note: Words = ""
    material: Material | None = None
    item_number: Annotated[int, Field(ge=1, le=9999, strict=True)] | None = None
    supply: Literal["made", "bought"] = "made"
    dimensions: Annotated[tuple[Parameter, ...], Field(max_length=MOST_ITEMS)] = ()
    places: Annotated[tuple[Place, ...], Field(max_length=MOST_ITEMS)] = ()
    slabs: Annotated[tuple[Slab, ...], Field(max_length=MOST_ITEMS)] = ()
    curves: Annotated[tuple[Curve, ...], Field(max_length=MOST_ITEMS)] = ()
    cams: Annotated[tuple[Cam, ...], Field(max_length=64)] = ()
    relations: Annotated[tuple[Relation, ...], Field(max_length=MOST_ITEMS)] = ()
