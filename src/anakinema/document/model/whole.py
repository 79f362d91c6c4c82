"""A whole document: one self-contained file."""

from __future__ import annotations

from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, model_validator

from anakinema.document.model.connections import Belt, Contact, Coupling
from anakinema.document.model.earlier import named_today
from anakinema.document.model.fields import (
    MOST_ITEMS,
    MOST_PICTURE,
    Angle,
    Identifier,
    Length,
    Model,
    Parameter,
    Titled,
    Units,
    Words,
)
from anakinema.document.model.hardware import Hardware
from anakinema.document.model.joint import Body, Joint, Plane
from anakinema.document.model.outline import Hole, Place, Slab
from anakinema.document.model.part import Cam, Curve, Part
from anakinema.document.model.pose import KeptPose
from anakinema.document.model.program import Driver, Program
from anakinema.document.model.requirement import KeptMeasure, Requirement
from anakinema.document.model.sheets import SheetSettings
from anakinema.document.model.subassembly import Instance, Subassembly
from anakinema.document.model.trial import Trial

MOST_PLANES = 24


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
    version: Literal[2] = 2
    name: Words = "untitled"
    note: Words = ""
    units: Units = Units()
    parameters: Annotated[tuple[Parameter, ...], Field(max_length=MOST_ITEMS)] = ()
    planes: Annotated[tuple[Plane, ...], Field(min_length=1, max_length=MOST_PLANES)] = (Plane(),)
    parts: Annotated[tuple[Part, ...], Field(max_length=MOST_ITEMS)] = ()
    bodies: Annotated[tuple[Body, ...], Field(max_length=MOST_ITEMS)] = ()
    joints: Annotated[tuple[Joint, ...], Field(max_length=MOST_ITEMS)] = ()
    subassemblies: Annotated[tuple[Subassembly, ...], Field(max_length=MOST_ITEMS)] = ()
    instances: Annotated[tuple[Instance, ...], Field(max_length=MOST_ITEMS)] = ()
    program: Program = Program()
    requirements: Annotated[tuple[Requirement, ...], Field(max_length=MOST_ITEMS)] = ()
    measures: Annotated[tuple[KeptMeasure, ...], Field(max_length=MOST_ITEMS)] = ()
    trials: Annotated[tuple[Trial, ...], Field(max_length=MOST_ITEMS)] = ()
    poses: Annotated[tuple[KeptPose, ...], Field(max_length=MOST_ITEMS)] = ()
    couplings: Annotated[tuple[Coupling, ...], Field(max_length=MOST_ITEMS)] = ()
    belts: Annotated[tuple[Belt, ...], Field(max_length=MOST_ITEMS)] = ()
    contacts: Annotated[tuple[Contact, ...], Field(max_length=MOST_ITEMS)] = ()
    pictures: Annotated[tuple[Picture, ...], Field(max_length=4)] = ()
    sheets: SheetSettings = SheetSettings()
    hardware: Annotated[tuple[Hardware, ...], Field(max_length=MOST_ITEMS)] = ()

    @model_validator(mode="before")
    @classmethod
    def _of_version_1(cls, data: Any) -> Any:
        return named_today(data)

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
        "Parameter | Place | Part | Body | Joint | Driver | Slab | Hole | Plane | Subassembly"
        " | Instance | Coupling | Contact | Curve | Cam | Belt | Requirement | Trial | KeptPose"
    ),
)


def next_by_id(items: tuple[T, ...], wanted: str) -> T:
    """Item of that id; raises `KeyError`."""
    for item in items:
        if item.id == wanted:
            return item
    raise KeyError(wanted)
