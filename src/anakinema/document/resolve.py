"""From quantities to numbers: evaluate every expression, check every name, build every outline.

The result is in mm, rad and s. Everything that is wrong in a document is found here and named
by its place, so that later stages can trust what they get.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from anakinema.document import model
from anakinema.document.couplings import CouplingValues, LoopValues, coupling_values, loop_values
from anakinema.document.flatten import Flat, flatten
from anakinema.document.guides import Guide, guide_ends
from anakinema.document.kinds import Rider, spec_of
from anakinema.document.names import check_ids, check_references, check_unique, missing
from anakinema.document.reading import Reader, named_quantities
from anakinema.document.requirements import RequirementValues, requirement_values
from anakinema.document.solids import SolidPart, solid_part
from anakinema.document.strokes import Stroke, stroke_of
from anakinema.errors import ValueOutOfRangeError
from anakinema.expressions import Quantity
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import relative_poses
from anakinema.geometry.laws import MotionLaw
from anakinema.units import ANGLE, ANGULAR_SPEED, LENGTH, SPEED, Dimension, UnitSystem
from anakinema.wanted import still_wanted

MOST_STEPS = 200_000

Bound = Literal["limit", "stop", "leaves"]
"""What bounds a joint: a limit that was told, the end of its slot or stroke, the open end of its
guide."""


@dataclass(frozen=True, slots=True)
class JointValues:
    """The numbers of a joint in mm or rad; limits are shown values, None where there is none.

    Limits are those told, or where the joint's guide ends if that comes first: ``least_by`` and
    ``greatest_by`` say which. ``exits`` are values at which it leaves its guide, as it may.
    """

    twist: float
    offset: float
    zero: float
    radius: float
    least: float | None
    greatest: float | None
    rest: float | None
    least_by: Bound = "limit"
    greatest_by: Bound = "limit"
    stroke: Stroke | None = None
    exits: tuple[tuple[float, int], ...] = ()
    """Values, and the side (-1 below, 1 above) that lies outside the guide."""


@dataclass(frozen=True, slots=True)
class StageValues:
    """A stage in numbers: driver index and target of each move, number of steps, law and s."""

    moves: tuple[tuple[int, float], ...]
    count: int
    law: MotionLaw = "constant"
    lasts: float | None = None
    pause: float = 0.0
    asked: float | None = None
    """The step asked for, where that does not divide the way of the first driver."""


@dataclass(frozen=True, slots=True)
class ProgramValues:
    """The program in numbers: joint index, start (rad or mm) and rate (per s) of each driver."""

    joints: tuple[int, ...]
    starts: tuple[float, ...]
    rates: tuple[float, ...]
    stages: tuple[StageValues, ...]


@dataclass(frozen=True, slots=True)
class PictureValues:
    """Where a picture lies: lower left corner (mm), angle (rad), width of a pixel (mm)."""

    x: float
    y: float
    angle: float
    pixel: float


@dataclass(frozen=True, slots=True, eq=False)
class Resolved:
    """A document in numbers. ``poses`` (B, 3) mm, mm, rad; ``heights`` (B,) mm.

    ``document`` is the flat form of ``source``: units unfolded, what is ``off`` left out.
    """

    document: model.Document
    source: model.Document
    off: tuple[str, ...]
    units: UnitSystem
    names: Mapping[str, Quantity]
    parts: Mapping[str, SolidPart]
    poses: Floats
    heights: Floats
    use_heights: Mapping[str, float]
    joints: tuple[JointValues, ...]
    program: ProgramValues
    requirements: tuple[RequirementValues, ...]
    pictures: tuple[PictureValues, ...]
    couplings: tuple[CouplingValues, ...]
    loops: tuple[LoopValues, ...]

    @property
    def reader(self) -> Reader:
        """Reads further quantities of this document."""
        return Reader(self.units, self.names)

    def number(self, part: model.Part, source: float | str, dimension: Dimension) -> float:
        """Value of a quantity of a part (mm or rad), its own dimensions known by name."""
        return self.reader.within(part).read(source, dimension, f"part '{part.title}'", "value")

    def part_of(self, body: model.Body) -> SolidPart:
        """The numbers of the part that a body uses."""
        return self.parts[body.part]


def resolve(source: model.Document) -> Resolved:
    """Evaluate and check a whole document; raises an `AnakinemaError` that names the place."""
    units = UnitSystem(source.units.length, source.units.angle)
    check_ids(source)
    flat = flatten(source)
    document = flat.document
    names = named_quantities(document)
    reader = Reader(units, names)
    parts = {part.id: solid_part(part, reader) for part in document.parts}
    check_references(document)
    poses = np.zeros((len(document.bodies), 3))
    for i, body in enumerate(document.bodies):
        pose = reader.pose(body.pose, f"body '{body.title}'")
        for carrier in reversed(flat.carriers.get(body.id, ())):
            pose = _carried(reader.pose(carrier.pose, f"use '{carrier.title}'"), pose)
        poses[i] = pose
    part_of = {body.id: parts[body.part] for body in document.bodies}
    heights = _heights(flat, reader)
    index = {body.id: i for i, body in enumerate(document.bodies)}
    joints = tuple(
        _guided(
            joint,
            _joint_values(joint, part_of[joint.first.body], reader),
            (part_of[joint.first.body], part_of[joint.second.body]),
            (index[joint.first.body], index[joint.second.body]),
            poses,
            heights,
        )
        for joint in document.joints
    )
    return Resolved(
        document=document,
        source=source,
        off=flat.off,
        units=units,
        names=names,
        parts=parts,
        poses=poses,
        heights=heights,
        use_heights={
            use.id: reader.field(use, "height", f"use '{use.title}'") for use in source.uses
        },
        joints=joints,
        program=_program(document, reader),
        requirements=requirement_values(document, reader),
        pictures=tuple(_picture(picture, reader) for picture in document.pictures),
        couplings=tuple(coupling_values(document, each, reader) for each in document.couplings),
        loops=tuple(loop_values(document, each, reader) for each in document.loops),
    )


def _carried(
    carrier: tuple[float, float, float], pose: tuple[float, float, float]
) -> tuple[float, float, float]:
    """A pose given in a carrier's frame, in the frame that the carrier's pose is given in."""
    c, s = math.cos(carrier[2]), math.sin(carrier[2])
    x, y, angle = pose
    return carrier[0] + c * x - s * y, carrier[1] + s * x + c * y, carrier[2] + angle


def _joint_values(joint: model.Joint, carrier: SolidPart, reader: Reader) -> JointValues:
    where = f"joint '{joint.title}'"
    dimension = spec_of(joint.kind).dimension
    least = reader.maybe(joint.limits.least, dimension, where, "least value")
    greatest = reader.maybe(joint.limits.greatest, dimension, where, "greatest value")
    if least is not None and greatest is not None and least > greatest:
        shown = [reader.units.format(v, dimension) for v in (least, greatest)]
        raise ValueOutOfRangeError(
            f"the least value {shown[0]} is above the greatest value {shown[1]}.",
            where=f"limits of {where}",
            remedy="Swap the two values.",
        )
    zero = reader.read(joint.zero, dimension, where, "zero")
    if joint.yields in ("spring", "gravity") and joint.limits.rest is None:
        raise ValueOutOfRangeError(
            "it yields, but has no rest value to return to.",
            where=where,
            remedy="Give it a rest value, or take the pose on show.",
        )
    spec = spec_of(joint.kind)
    if spec.has_curve:
        _check_curve(joint, carrier)
    stroke = stroke_of(joint, reader, where) if spec.telescopes else None
    values = JointValues(
        twist=reader.field(joint, "twist", where),
        offset=reader.field(joint, "offset", where),
        zero=zero,
        radius=_arc_radius(joint, reader, where),
        least=least,
        greatest=greatest,
        rest=reader.maybe(joint.limits.rest, dimension, where, "rest"),
        stroke=stroke,
    )
    return values if stroke is None else _over_stroke(values, stroke)


def _over_stroke(values: JointValues, stroke: Stroke) -> JointValues:
    """Counted from the dead length, within the stroke."""
    ends = 0.0 - values.zero, stroke.stroke - values.zero
    values = replace(values, zero=values.zero + stroke.dead_length)
    if values.least is None or values.least < ends[0]:
        values = replace(values, least=ends[0], least_by="stop")
    if values.greatest is None or values.greatest > ends[1]:
        values = replace(values, greatest=ends[1], greatest_by="stop")
    return values


def _check_curve(joint: model.Joint, carrier: SolidPart) -> None:
    if joint.curve is None or joint.curve not in carrier.curves:
        raise missing(f"curve '{joint.curve}'", f"joint '{joint.title}'", carrier.curves)
    curve = carrier.curves[joint.curve]
    is_round = curve.is_closed and curve.least_curvature > 0
    if spec_of(joint.kind).rider is Rider.FACE and not is_round:
        raise ValueOutOfRangeError(
            "a face needs a closed curve that is round all over.",
            where=f"joint '{joint.title}'",
            remedy="Choose another curve or kind of joint.",
        )


def _guided(
    joint: model.Joint,
    values: JointValues,
    parts: tuple[SolidPart, SolidPart],
    bodies: tuple[int, int],
    poses: Floats,
    heights: Floats,
) -> JointValues:
    """The values of a joint with the ends of its slot, fork, groove or curve as bounds."""
    still_wanted()
    curve = parts[0].curves[joint.curve] if joint.curve is not None else None
    is_open = curve is not None and not curve.is_closed
    spec, is_told = spec_of(joint.kind), bool(joint.first.pieces and joint.second.pieces)
    if not spec.is_guided or not (is_open or is_told):
        return values
    places = parts[0].places[joint.first.place], parts[1].places[joint.second.place]
    guide = Guide(
        spec, *places, values.twist, values.offset, values.radius, curve if spec.has_curve else None
    )
    drawn = guide.drawn(relative_poses(poses[None, bodies[0]], poses[None, bodies[1]])[0])
    own = float(heights[bodies[0]]), float(heights[bodies[1]])
    low, high = guide_ends(joint, guide, parts, own, drawn)
    exits = []
    for end, side in ((low, -1), (high, 1)):
        if end is None:
            continue
        shown = end.value - values.zero
        if end.leaves and joint.may_leave:
            exits.append((shown, side))
            continue
        by: Bound = "leaves" if end.leaves else "stop"
        if side < 0 and (values.least is None or shown > values.least):
            values = replace(values, least=shown, least_by=by)
        if side > 0 and (values.greatest is None or shown < values.greatest):
            values = replace(values, greatest=shown, greatest_by=by)
    return replace(values, exits=tuple(exits))


def _arc_radius(joint: model.Joint, reader: Reader, where: str) -> float:
    if not spec_of(joint.kind).has_radius:
        return 1.0
    if joint.radius is None:
        raise ValueOutOfRangeError(
            "the arc it runs on has no radius.", where=where, remedy="Give the radius of the arc."
        )
    radius = reader.field(joint, "radius", where)
    if not radius > 0:
        raise ValueOutOfRangeError(
            "the radius of its arc is not above zero.", where=where, remedy="For instance 40 mm."
        )
    return radius


def _heights(flat: Flat, reader: Reader) -> Floats:
    document = flat.document
    index = {body.id: i for i, body in enumerate(document.bodies)}
    heights: list[float | None] = [
        reader.optional(body, "height", f"body '{body.title}'") for body in document.bodies
    ]
    risen = {
        side.body for j in document.joints if j.rise is not None for side in (j.first, j.second)
    }
    for i, body in enumerate(document.bodies):
        lift = sum(
            reader.read(carrier.height, LENGTH, f"use '{carrier.title}'", "height")
            for carrier in flat.lifts.get(body.id, ())
        )
        own = heights[i]
        if lift and own is not None:
            heights[i] = own + lift
        elif lift and body.id not in risen:
            heights[i] = lift
    rises = []
    for joint in document.joints:
        rise = reader.optional(joint, "rise", f"joint '{joint.title}'")
        if rise is not None:
            rises.append((index[joint.first.body], index[joint.second.body], rise, joint))
    changed = True
    while changed:
        still_wanted()
        changed = False
        for a, b, rise, _ in rises:
            for known, unknown, step in ((a, b, rise), (b, a, -rise)):
                base = heights[known]
                if base is not None and heights[unknown] is None:
                    heights[unknown] = base + step
                    changed = True
        if not changed and any(heights[a] is None for a, _, _, _ in rises):
            first = next(a for a, _, _, _ in rises if heights[a] is None)
            heights[first] = 0.0
            changed = True
    for a, b, rise, joint in rises:
        low, high = heights[a] or 0.0, heights[b] or 0.0
        if abs(high - low - rise) > 1e-6:
            raise ValueOutOfRangeError(
                f"it asks for a rise of {rise:g} mm, but the two bodies stand {high - low:g} mm"
                " apart in the stack.",
                where=f"joint '{joint.title}'",
                remedy="Change the rise, or leave one height open.",
            )
    return np.array([height or 0.0 for height in heights])


def _program(document: model.Document, reader: Reader) -> ProgramValues:
    program = document.program
    index = {joint.id: i for i, joint in enumerate(document.joints)}
    drivers = {driver.id: i for i, driver in enumerate(program.drivers)}
    joints, starts, rates, dimensions = [], [], [], []
    for driver in program.drivers:
        where = f"driver '{driver.title}'"
        joint = document.joint(driver.joint)
        dimension = spec_of(joint.kind).dimension
        rate = reader.read(
            driver.rate, ANGULAR_SPEED if dimension == ANGLE else SPEED, where, "rate"
        )
        if not rate > 0:
            raise ValueOutOfRangeError(
                "its rate is not above zero.", where=where, remedy="For instance 30 rpm."
            )
        joints.append(index[joint.id])
        starts.append(reader.read(driver.start, dimension, where, "start"))
        rates.append(rate)
        dimensions.append(dimension)
    values = list(starts)
    stages: list[StageValues] = []
    for k, stage in enumerate(program.stages):
        where = f"program, stage {k + 1}"
        check_unique((move.driver for move in stage.moves), where)
        moves: list[tuple[int, float]] = []
        leader = 0.0
        for move in stage.moves:
            if move.driver not in drivers:
                raise missing(f"driver '{move.driver}'", where, drivers)
            d = drivers[move.driver]
            target = reader.read(move.to, dimensions[d], where, f"target of '{move.driver}'")
            if not moves:
                leader = abs(target - values[d])
            moves.append((d, target))
        if all(target == values[d] for d, target in moves):
            raise ValueOutOfRangeError(
                "nothing moves in it.", where=where, remedy="Give a target other than the start."
            )
        count, step, uneven = stage.count, 0.0, False
        if stage.step is not None:
            dimension = dimensions[moves[0][0]]
            step = reader.read(stage.step, dimension, where, "step")
            if not step > 0 or leader / step > MOST_STEPS:
                raise ValueOutOfRangeError(
                    "its step is not above zero, or far too small.",
                    where=where,
                    remedy=f"At most {MOST_STEPS} steps are made.",
                )
            count = max(2, math.ceil(leader / step - 1e-9))
            uneven = abs(leader / step - count) > 1e-6
        for d, target in moves:
            values[d] = target
        lasts, pause = _times(stage, reader, where)
        asked = step if uneven else None
        stages.append(StageValues(tuple(moves), count, stage.law, lasts, pause, asked))
    if program.there_and_back and stages:
        stages += _backwards(starts, stages)
    return ProgramValues(tuple(joints), tuple(starts), tuple(rates), tuple(stages))


def _times(stage: model.Stage, reader: Reader, where: str) -> tuple[float | None, float]:
    lasts = reader.optional(stage, "lasts", where)
    if lasts is not None and not lasts > 0:
        raise ValueOutOfRangeError(
            "it lasts no time.",
            where=where,
            remedy="Give a time above zero, or none to go by the rates.",
        )
    pause = reader.field(stage, "pause", where)
    if pause < 0:
        raise ValueOutOfRangeError(
            "its pause is below zero.", where=where, remedy="Give zero or more seconds."
        )
    return lasts, pause


def _backwards(starts: list[float], stages: list[StageValues]) -> list[StageValues]:
    values = list(starts)
    befores: list[StageValues] = []
    pause = 0.0
    for stage in stages:
        back = tuple((d, values[d]) for d, _ in stage.moves)
        befores.append(StageValues(back, stage.count, stage.law, stage.lasts, pause))
        pause = stage.pause
        for d, target in stage.moves:
            values[d] = target
    return befores[::-1]


def _picture(picture: model.Picture, reader: Reader) -> PictureValues:
    where = f"picture '{picture.title}'"
    pixel = reader.field(picture, "pixel", where)
    if not pixel > 0:
        raise ValueOutOfRangeError(
            "a pixel has no width.", where=where, remedy="Scale it again from two points."
        )
    return PictureValues(
        reader.field(picture, "x", where),
        reader.field(picture, "y", where),
        reader.field(picture, "angle", where),
        pixel,
    )
