"""Units of bodies and joints, and their uses."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field, model_validator

from anakinema.document.model.connections import Belt, Contact, Coupling
from anakinema.document.model.earlier import named_today
from anakinema.document.model.fields import MOST_ITEMS, Identifier, Length, Model, Titled, Words
from anakinema.document.model.joint import Body, Joint, Limits, Pose


class Placement(Model):
    """Where a body inside a use of a unit stands, in the plane."""

    body: Identifier
    pose: Pose


class JointSetting(Model):
    """Limits that one use of a unit gives to a joint inside it, in place of the unit's own."""

    joint: Identifier
    limits: Limits


class Instance(Titled, Model):
    """A use of a unit: all its bodies and joints again, movable against each other.

    The bodies stand where the unit has them, carried by ``pose`` and lifted by ``height``;
    ``placements`` say where a body stands instead. What is fixed in the unit is free in its use.
    From outside, an inner body or joint is called by the ids of the use and its own, joined by
    two underscores: ``left_arm__boom``.
    """

    id: Identifier
    subassembly: Identifier
    name: Words = ""
    pose: Pose = Pose()
    height: Length = 0.0
    plane: Identifier = "main"
    off: bool = False
    placements: Annotated[tuple[Placement, ...], Field(max_length=MOST_ITEMS)] = ()
    settings: Annotated[tuple[JointSetting, ...], Field(max_length=MOST_ITEMS)] = ()

    @model_validator(mode="before")
    @classmethod
    def _of_version_1(cls, data: Any) -> Any:
        return named_today(data)


class Subassembly(Titled, Model):
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
    instances: Annotated[tuple[Instance, ...], Field(max_length=MOST_ITEMS)] = ()
    couplings: Annotated[tuple[Coupling, ...], Field(max_length=MOST_ITEMS)] = ()
    belts: Annotated[tuple[Belt, ...], Field(max_length=MOST_ITEMS)] = ()
    contacts: Annotated[tuple[Contact, ...], Field(max_length=MOST_ITEMS)] = ()

    @model_validator(mode="before")
    @classmethod
    def _of_version_1(cls, data: Any) -> Any:
        return named_today(data)
