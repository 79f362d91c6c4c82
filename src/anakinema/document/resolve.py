"""From quantities to numbers: evaluate every expression, check every name, build every outline.

The result is in mm, rad and s. Everything that is wrong in a document is found here and named
by its place, so that later stages can trust what they get.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.couplings import BeltValues, CouplingValues, belt_values, coupling_values
from anakinema.document.flatten import Flat, flatten
from anakinema.document.joint_values import JointValues, joint_values, within_guide
from anakinema.document.names import check_ids, check_references, lost_in
from anakinema.document.planes import Planes, plane_values
from anakinema.document.program_values import ProgramValues, program_values
from anakinema.document.reading import Reader, named_quantities
from anakinema.document.requirements import RequirementValues, requirement_values
from anakinema.document.solids import SolidPart, solid_part
from anakinema.errors import ValueOutOfRangeError
from anakinema.expression_functions import Quantity
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried
from anakinema.units import LENGTH, Dimension, UnitSystem
from anakinema.wanted import still_wanted


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

    ``document`` is the flat form of ``source``: units unfolded, what is ``off`` left out, and what
    is asked of something that is not there (``unjudged``: why, by id).
    """

    document: model.Document
    source: model.Document
    off: tuple[str, ...]
    unjudged: Mapping[str, str]
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
    belts: tuple[BeltValues, ...]
    planes: Planes

    @property
    def reader(self) -> Reader:
        """Reads further quantities of this document."""
        return Reader(self.units, self.names)

    def number(self, part: model.Part, source: float | str, dimension: Dimension) -> float:
        """Value of a quantity of a part (mm or rad), its own dimensions known by name."""
        return self.reader.within(part).read(source, dimension, f"part '{part.title}'", "value")

    def joint_values(self, joint: str) -> JointValues:
        """The numbers of a joint by its id."""
        return self.joints[[each.id for each in self.document.joints].index(joint)]

    def part_of(self, body: model.Body) -> SolidPart:
        """The numbers of the part that a body uses."""
        return self.parts[body.part]


def resolve(source: model.Document) -> Resolved:
    """Evaluate and check a whole document; raises an `AnakinemaError` that names the place."""
    units = UnitSystem(source.units.length, source.units.angle)
    check_ids(source)
    flat = flatten(source)
    document = flat.document
    lost = lost_in(document, document.requirements)
    unshown = lost_in(document, document.measures)
    if lost or unshown:
        kept: dict[str, object] = {
            "requirements": tuple(r for r in document.requirements if r.id not in lost),
            "measures": tuple(each for each in document.measures if each.id not in unshown),
        }
        document = document.model_copy(update=kept)
    names = named_quantities(document)
    reader = Reader(units, names)
    parts = {part.id: solid_part(part, reader) for part in document.parts}
    check_references(document)
    poses = np.zeros((len(document.bodies), 3))
    for i, body in enumerate(document.bodies):
        pose = reader.pose(body.pose, f"body '{body.title}'")
        for carrier in reversed(flat.carriers.get(body.id, ())):
            pose = _carried(reader.pose(carrier.pose, f"instance '{carrier.title}'"), pose)
        poses[i] = pose
    part_of = {body.id: parts[body.part] for body in document.bodies}
    heights = _heights(flat, reader)
    index = {body.id: i for i, body in enumerate(document.bodies)}
    joints = tuple(
        within_guide(
            joint,
            joint_values(joint, part_of[joint.first.body], reader),
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
        unjudged=lost,
        units=units,
        names=names,
        parts=parts,
        poses=poses,
        heights=heights,
        use_heights={
            use.id: reader.field(use, "height", f"instance '{use.title}'")
            for use in source.instances
        },
        joints=joints,
        program=program_values(document, reader),
        requirements=requirement_values(document, reader),
        pictures=tuple(_picture(picture, reader) for picture in document.pictures),
        couplings=tuple(coupling_values(document, each, reader) for each in document.couplings),
        belts=tuple(belt_values(document, each, reader) for each in document.belts),
        planes=plane_values(document, reader),
    )


def _carried(
    carrier: tuple[float, float, float], pose: tuple[float, float, float]
) -> tuple[float, float, float]:
    """A pose given in a carrier's frame, in the frame that the carrier's pose is given in."""
    return (*carried(carrier, pose), carrier[2] + pose[2])


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
            reader.read(carrier.height, LENGTH, f"instance '{carrier.title}'", "height")
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
