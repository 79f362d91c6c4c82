"""What the designer made, as frozen data. The same classes serve memory, file, schema and undo.

Lengths, angles and rates are *quantities*: a number in the document's own units, or an
expression such as ``46 mm`` or ``3*crank``. `anakinema.document.resolve` turns them into
numbers in mm, rad and s.
"""

from __future__ import annotations

import math
import re
from typing import Annotated, Literal, Protocol, TypeVar, get_args

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from anakinema.document.measures import By, Measures
from anakinema.expressions import parse
from anakinema.geometry.laws import MotionLaw
from anakinema.units import ANGLE, LENGTH, NUMBER, TIME

FORMAT = "anakinema-mechanism"
VERSION = 1
MOST_BYTES = 20_000_000
"""Bytes of a file."""
MOST_ITEMS = 2000
MOST_PICTURE = 4_000_000
"""Characters of a picture's data."""


class Model(BaseModel):
    """Base: frozen, and strict about names it does not know."""

    # Built when first used: the window is there before the first document is read.
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)


_PLAIN = re.compile(r"-?\d{1,15}(\.\d{1,15})?( (mm|cm|m|in|thou|deg|rad|s|rpm))?")


def _check_quantity(value: object) -> object:
    if isinstance(value, bool) or not isinstance(value, (int, float, str)):
        raise ValueError("a number or an expression in quotes is needed")
    if isinstance(value, str):
        # Most are a plain number with a unit; large files would wait for the parser.
        if not _PLAIN.fullmatch(value):
            parse(value)
        return value
    try:
        number = float(value)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise ValueError("the number is not finite")
    return number


Quantity = Annotated[float | str, BeforeValidator(_check_quantity)]
Length = Annotated[Quantity, Measures(LENGTH)]
Angle = Annotated[Quantity, Measures(ANGLE)]
Time = Annotated[Quantity, Measures(TIME)]
Ratio = Annotated[Quantity, Measures(NUMBER)]
Count = Annotated[Quantity, Measures(NUMBER, whole=True)]
JointValue = Annotated[Quantity, Measures(By.JOINT)]
JointRate = Annotated[Quantity, Measures(By.RATE)]
Lift = Annotated[Quantity, Measures(By.FOLLOWER)]
RelationValue = Annotated[Quantity, Measures(By.RELATION)]
FirstSize = Annotated[Quantity, Measures(By.FIRST)]
SecondSize = Annotated[Quantity, Measures(By.SECOND)]
RequiredValue = Annotated[Quantity, Measures(By.REQUIREMENT)]
Given = Annotated[Quantity, Measures(By.ITSELF)]
Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=160)]
Words = Annotated[str, Field(max_length=400, pattern=r"^[^\x00-\x08\x0b\x0c\x0e-\x1f]*$")]
"""Text for people, without control characters."""
PositiveCount = Annotated[int, Field(ge=2, le=20000, strict=True)]

Colour = Literal["blue", "clay", "sage", "plum", "ochre", "steel", "rose", "teal", "sand"]


class _Named(Protocol):
    @property
    def id(self) -> str: ...

    @property
    def name(self) -> str: ...


class Titled:
    """What has an id, and perhaps a name of its own."""

    @property
    def title(self: _Named) -> str:
        """Name for people."""
        return self.name or self.id.replace("_", " ")


class Units(Model):
    """Units that plain numbers of this document are in."""

    length: Literal["mm", "cm", "m", "in", "thou"] = "mm"
    angle: Literal["deg", "rad"] = "deg"


class Parameter(Model):
    """A named quantity that expressions may use."""

    id: Identifier
    value: Given
    note: Words = ""


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


RelationKind = Literal[
    "tangent",
    "concentric",
    "equal",
    "parallel",
    "square",
    "symmetric",
    "on",
    "between",
    "length",
    "radius",
    "angle",
    "distance",
    "held",
]


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

    ``base`` is the radius of its base circle; its lift is told by segments over a full turn, or
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
    """A definition that bodies use: slabs, places and named dimensions."""

    id: Identifier
    name: Words = ""
    colour: Colour = "blue"
    note: Words = ""
    material: Material | None = None
    dimensions: Annotated[tuple[Parameter, ...], Field(max_length=MOST_ITEMS)] = ()
    places: Annotated[tuple[Place, ...], Field(max_length=MOST_ITEMS)] = ()
    slabs: Annotated[tuple[Slab, ...], Field(max_length=MOST_ITEMS)] = ()
    curves: Annotated[tuple[Curve, ...], Field(max_length=MOST_ITEMS)] = ()
    cams: Annotated[tuple[Cam, ...], Field(max_length=64)] = ()
    relations: Annotated[tuple[Relation, ...], Field(max_length=MOST_ITEMS)] = ()


class Pose(Model):
    """Where a body stands in its plane when the document opens."""

    x: Length = 0.0
    y: Length = 0.0
    angle: Angle = 0.0


class Plane(Model):
    """A plane of motion. Today every mechanism has one; the place is kept for more."""

    id: Identifier = "main"
    name: Words = "main plane"


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

    body: Identifier
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
]


Yielding = Literal["spring", "gravity", "friction"]


class Joint(Titled, Model):
    """A joint between two bodies.

    ``first`` carries the axis of a prismatic joint and the slot of a pin in slot; values are
    positive when ``second`` turns anticlockwise, or moves along that axis, seen from ``first``.
    On an arc, ``first`` is its centre and ``radius`` its size; the value is the direction of the
    second place seen from there; on a ``curve`` it is the way along it. ``zero`` is the raw value
    that is shown as 0. A cylinder counts from its ``dead_length``, pushed in, over its ``stroke``;
    pushed out it is still ``guided`` over a length. ``twist`` and ``offset`` are a stated turn and
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
    zero: JointValue = 0.0
    rise: Length | None = None
    limits: Limits = Limits()
    yields: Yielding | None = None
    may_leave: bool = False
    off: bool = False


CouplingKind = Literal[
    "gears", "internal_gears", "rack", "belt", "crossed_belt", "chain", "ratio", "angled_shafts"
]


class Coupling(Titled, Model):
    """The values of two joints depend on one another, as they stand when drawn.

    ``first_size`` and ``second_size`` are teeth for gears and chains, radii for belts; a rack has
    only the radius of its pinion, angled shafts only the angle between them, joined by one
    universal joint whose first fork stands in the plane of both shafts where the first joint is at
    zero; for a ratio, the second joint moves by ``second_size`` while the
    first moves by ``first_size``. Turns count against ``carrier``, the body that carries both
    wheels; without it, against the body that both joints hang on. ``pieces`` are what touches.
    """

    id: Identifier
    kind: CouplingKind
    name: Words = ""
    first: Identifier
    second: Identifier
    first_size: FirstSize
    second_size: SecondSize | None = None
    carrier: Identifier | None = None
    first_pieces: tuple[OutlinePiece, ...] = ()
    second_pieces: tuple[OutlinePiece, ...] = ()
    off: bool = False


class LoopWheel(Model):
    """A wheel that a loop runs over: the body on one ``side`` of a revolute joint.

    ``radius`` is that of the belt's middle, of a sprocket its pitch radius; ``back``: the loop
    passes it with its outside, as over an idler.
    """

    joint: Identifier
    radius: Length
    back: bool = False
    side: Literal["first", "second"] = "second"

    def sides(self, joint: Joint) -> tuple[Side, Side]:
        """The wheel's side of its joint, and that of what carries it."""
        wheel, carrier = joint.second, joint.first
        return (carrier, wheel) if self.side == "first" else (wheel, carrier)


class Loop(Titled, Model):
    """A belt or chain of one length round wheels, in the order it meets them anticlockwise.

    It neither slips nor stretches; without a ``length`` it is as long as it is drawn. Half its
    ``thickness`` comes off the gaps of its runs.
    """

    id: Identifier
    name: Words = ""
    kind: Literal["belt", "chain"] = "belt"
    wheels: Annotated[tuple[LoopWheel, ...], Field(min_length=2, max_length=64)]
    length: Length | None = None
    thickness: Length | None = None
    off: bool = False


class Surface(Model):
    """What of a body may touch: some pieces of its outlines, or all of them."""

    body: Identifier
    pieces: tuple[OutlinePiece, ...] = ()


ContactKind = Literal["stop", "push", "keep"]


class Contact(Titled, Model):
    """Two bodies that cannot pass through each other, where they share heights.

    ``stop`` ends the motion where they touch; ``push``: a yielding joint gives way, see
    `Joint.yields`; ``keep``: they stay in touch, with ``rolling`` without slip. Without
    ``second`` any other body is meant.
    """

    id: Identifier
    kind: ContactKind
    name: Words = ""
    first: Surface
    second: Surface | None = None
    rolling: bool = False
    off: bool = False


class Placement(Model):
    """Where a body inside a use of a unit stands, in the plane."""

    body: Identifier
    pose: Pose


class JointSetting(Model):
    """Limits that one use of a unit gives to a joint inside it, in place of the unit's own."""

    joint: Identifier
    limits: Limits


class UnitUse(Titled, Model):
    """A use of a unit: all its bodies and joints again, movable against each other.

    The bodies stand where the unit has them, carried by ``pose`` and lifted by ``height``;
    ``placements`` say where a body stands instead. What is fixed in the unit is free in its use.
    From outside, an inner body or joint is called by the ids of the use and its own, joined by
    two underscores: ``left_arm__boom``.
    """

    id: Identifier
    unit: Identifier
    name: Words = ""
    pose: Pose = Pose()
    height: Length = 0.0
    off: bool = False
    placements: Annotated[tuple[Placement, ...], Field(max_length=MOST_ITEMS)] = ()
    settings: Annotated[tuple[JointSetting, ...], Field(max_length=MOST_ITEMS)] = ()


class Unit(Titled, Model):
    """A sub-assembly defined once and used many times, perhaps itself made of units.

    Couplings, loops and contacts come with each use. ``origin`` names the document that it was
    copied from.
    """

    id: Identifier
    name: Words = ""
    note: Words = ""
    origin: Words = ""
    bodies: Annotated[tuple[Body, ...], Field(max_length=MOST_ITEMS)] = ()
    joints: Annotated[tuple[Joint, ...], Field(max_length=MOST_ITEMS)] = ()
    uses: Annotated[tuple[UnitUse, ...], Field(max_length=MOST_ITEMS)] = ()
    couplings: Annotated[tuple[Coupling, ...], Field(max_length=MOST_ITEMS)] = ()
    loops: Annotated[tuple[Loop, ...], Field(max_length=MOST_ITEMS)] = ()
    contacts: Annotated[tuple[Contact, ...], Field(max_length=MOST_ITEMS)] = ()


class Driver(Model):
    """A joint that the program moves, from ``start``, at ``rate`` (per second, or rpm)."""

    id: Identifier
    joint: Identifier
    start: JointValue
    rate: JointRate

    @property
    def title(self) -> str:
        """Name for people."""
        return self.id.replace("_", " ")


class Move(Model):
    """A driver goes to a value."""

    driver: Identifier
    to: JointValue


class Stage(Model):
    """Moves made together; stages follow one another.

    ``step`` is the step of the first move's driver; otherwise ``count`` equal steps are made.
    ``law`` spreads the way over the time, ``lasts`` says how long it takes in place of the drivers'
    rates, ``pause`` how long all stands still at its end (s).
    """

    moves: Annotated[tuple[Move, ...], Field(min_length=1, max_length=64)]
    step: JointValue | None = None
    count: PositiveCount = 180
    law: MotionLaw = "constant"
    lasts: Time | None = None
    pause: Time = 0.0


class Program(Model):
    """The motion program: drivers, and the stages that move them."""

    drivers: Annotated[tuple[Driver, ...], Field(max_length=64)] = ()
    stages: Annotated[tuple[Stage, ...], Field(max_length=200)] = ()
    there_and_back: bool = False
    past_limits: bool = False


class TravelRequirement(Model):
    """The travel (greatest less least value) of a joint over the program."""

    kind: Literal["travel"]
    id: Identifier
    name: Words = ""
    joint: Identifier
    least: RequiredValue | None = None
    greatest: RequiredValue | None = None
    comfort: RequiredValue | None = None


class GapRequirement(Model):
    """The smallest gap between two bodies, or between one body (or any) and all others."""

    kind: Literal["gap"]
    id: Identifier
    name: Words = ""
    first: Identifier | None = None
    second: Identifier | None = None
    least: RequiredValue
    comfort: RequiredValue | None = None


class TransmissionRequirement(Model):
    """The transmission angle at a revolute joint, folded into 0 to 90 degrees.

    It lies between the lines from the joint to ``first_place`` on its first body and to
    ``second_place`` on its second.
    """

    kind: Literal["transmission"]
    id: Identifier
    name: Words = ""
    joint: Identifier
    first_place: Identifier
    second_place: Identifier
    least: RequiredValue
    comfort: RequiredValue | None = None


class TimeRatioRequirement(Model):
    """Time of the slower stroke of a joint over that of the quicker one."""

    kind: Literal["time_ratio"]
    id: Identifier
    name: Words = ""
    joint: Identifier
    least: RequiredValue | None = None
    greatest: RequiredValue | None = None


class ReserveRequirement(Model):
    """How much of a joint's permitted range is left unused at both ends."""

    kind: Literal["reserve"]
    id: Identifier
    name: Words = ""
    joint: Identifier
    least: RequiredValue
    comfort: RequiredValue | None = None


Requirement = Annotated[
    TravelRequirement
    | GapRequirement
    | TransmissionRequirement
    | TimeRatioRequirement
    | ReserveRequirement,
    Field(discriminator="kind"),
]
REQUIREMENTS: tuple[type[Model], ...] = get_args(get_args(Requirement)[0])


class Measure(Titled, Model):
    """A distance kept on show, as a dimension on the stage and a lane of the strip."""

    id: Identifier
    name: Words = ""
    first: Side
    second: Side


class Picture(Titled, Model):
    """A picture under the stage, for tracing: PNG or JPEG data in base 64.

    Its lower left corner stands at x, y, turned by ``angle``; a pixel is ``pixel`` wide.
    """

    id: Identifier
    name: Words = ""
    data: Annotated[str, Field(max_length=MOST_PICTURE, pattern=r"^[A-Za-z0-9+/=]*$")]
    x: Length = 0.0
    y: Length = 0.0
    angle: Angle = 0.0
    pixel: Length = "0.5 mm"
    opacity: Annotated[float, Field(ge=0.0, le=1.0)] = 0.5


class Document(Model):
    """A whole mechanism with its motion program and requirements: one self-contained file."""

    format: Literal["anakinema-mechanism"] = "anakinema-mechanism"
    version: Literal[1] = 1
    name: Words = "untitled"
    note: Words = ""
    units: Units = Units()
    parameters: Annotated[tuple[Parameter, ...], Field(max_length=MOST_ITEMS)] = ()
    planes: Annotated[tuple[Plane, ...], Field(min_length=1, max_length=1)] = (Plane(),)
    parts: Annotated[tuple[Part, ...], Field(max_length=MOST_ITEMS)] = ()
    bodies: Annotated[tuple[Body, ...], Field(max_length=MOST_ITEMS)] = ()
    joints: Annotated[tuple[Joint, ...], Field(max_length=MOST_ITEMS)] = ()
    subassemblies: Annotated[tuple[Unit, ...], Field(max_length=MOST_ITEMS)] = ()
    uses: Annotated[tuple[UnitUse, ...], Field(max_length=MOST_ITEMS)] = ()
    program: Program = Program()
    requirements: Annotated[tuple[Requirement, ...], Field(max_length=MOST_ITEMS)] = ()
    measures: Annotated[tuple[Measure, ...], Field(max_length=MOST_ITEMS)] = ()
    couplings: Annotated[tuple[Coupling, ...], Field(max_length=MOST_ITEMS)] = ()
    loops: Annotated[tuple[Loop, ...], Field(max_length=MOST_ITEMS)] = ()
    contacts: Annotated[tuple[Contact, ...], Field(max_length=MOST_ITEMS)] = ()
    pictures: Annotated[tuple[Picture, ...], Field(max_length=4)] = ()

    def part(self, part_id: str) -> Part:
        """The part of that id; raises `KeyError`."""
        return next_by_id(self.parts, part_id)

    def body(self, body_id: str) -> Body:
        """The body of that id; raises `KeyError`."""
        return next_by_id(self.bodies, body_id)

    def joint(self, joint_id: str) -> Joint:
        """The joint of that id; raises `KeyError`."""
        return next_by_id(self.joints, joint_id)


T = TypeVar(
    "T",
    bound=(
        "Parameter | Place | Part | Body | Joint | Driver | Slab | Hole | Plane | Unit | UnitUse"
        " | Coupling | Contact | Curve | Cam | Loop"
    ),
)


def next_by_id(items: tuple[T, ...], wanted: str) -> T:
    """Item of that id; raises `KeyError`."""
    for item in items:
        if item.id == wanted:
            return item
    raise KeyError(wanted)
