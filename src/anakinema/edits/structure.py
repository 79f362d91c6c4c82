"""Edits of what there is: parts, bodies, joints, drivers and units come, change and go."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.depending import Going, without
from anakinema.document.flatten import inner_names
from anakinema.document.model import Document
from anakinema.document.resolve import resolve
from anakinema.edits.base import Keyed, Source, changed, replaced
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.units import ANGLE, LENGTH, UnitSystem

POSE_DIGITS = 10
"""Decimals of a computed pose; closes loops to far below their tolerance."""


@dataclass(frozen=True)
class Add(Keyed):
    """New things, all at once: what a gesture such as paste, mirror or join brings."""

    label: str
    parameters: tuple[model.Parameter, ...] = ()
    parts: tuple[model.Part, ...] = ()
    bodies: tuple[model.Body, ...] = ()
    joints: tuple[model.Joint, ...] = ()
    units: tuple[model.Subassembly, ...] = ()
    instances: tuple[model.Instance, ...] = ()
    measures: tuple[model.KeptMeasure, ...] = ()
    couplings: tuple[model.Coupling, ...] = ()
    contacts: tuple[model.Contact, ...] = ()
    belts: tuple[model.Belt, ...] = ()
    subject = ("label",)

    def apply(self, document: Document) -> Document:
        update: dict[str, object] = {}
        for name, items in (
            ("parameters", self.parameters),
            ("parts", self.parts),
            ("bodies", self.bodies),
            ("joints", self.joints),
            ("subassemblies", self.units),
            ("instances", self.instances),
            ("measures", self.measures),
            ("couplings", self.couplings),
            ("contacts", self.contacts),
            ("belts", self.belts),
        ):
            if items:
                update[name] = (*getattr(document, name), *items)
        return document.model_copy(update=update)


@dataclass(frozen=True)
class TakeTheirs(Keyed):
    """Take another document in place of this one: what somebody else has saved meanwhile."""

    theirs: Document
    label = "Take theirs"
    subject = ()

    def apply(self, document: Document) -> Document:
        return self.theirs


@dataclass(frozen=True)
class Remove(Keyed):
    """Take things out, and with them what cannot be without them (`dependents.without`)."""

    going: Going
    label: str = "Delete"
    subject = ("going",)

    def apply(self, document: Document) -> Document:
        return without(document, self.going)


Poses = tuple[tuple[str, float, float, float], ...]
"""Flat body id, x and y in mm, angle in rad."""


@dataclass(frozen=True)
class SetPoses(Keyed):
    """Stand bodies where they were computed or dragged to."""

    poses: Poses
    label: str = "Move"
    gesture: str = ""
    subject = ("label", "gesture")

    def apply(self, document: Document) -> Document:
        units = UnitSystem(document.units.length, document.units.angle)
        to_length, to_angle = 1 / units.factor(LENGTH), 1 / units.factor(ANGLE)
        given: dict[str, model.Pose] = {}
        for body, x, y, angle in self.poses:
            given[body] = model.Pose(
                x=round(x * to_length, POSE_DIGITS),
                y=round(y * to_length, POSE_DIGITS),
                angle=round(angle * to_angle, POSE_DIGITS),
            )
        own = {body.id for body in document.bodies}
        bodies = tuple(
            body.model_copy(update={"pose": given[body.id]}) if body.id in given else body
            for body in document.bodies
        )
        document = document.model_copy(update={"bodies": bodies})
        for body_id in given.keys() - own:
            document = _placed_in_use(document, body_id, given[body_id])
        return document


def _placed_in_use(document: Document, body_id: str, pose: model.Pose) -> Document:
    inner = inner_names(document, body_id)
    if inner is None:
        raise KeyError(body_id)
    use, rest = inner
    kept = tuple(p for p in use.placements if p.body != rest)
    new = use.model_copy(update={"placements": (*kept, model.Placement(body=rest, pose=pose))})
    return document.model_copy(update={"instances": replaced(document.instances, new)})


@dataclass(frozen=True)
class SetBody(Keyed):
    """Set a field of a body: 'name', 'fixed', 'off', 'height' or 'part'."""

    body: str
    field: str
    value: object
    subject = ("body", "field")

    @property
    def label(self) -> str:
        words = {
            "name": "Rename",
            "fixed": "Fix" if self.value else "Free",
            "off": "Switch off" if self.value else "Switch on",
            "height": "Set height of",
            "part": "Change part of",
        }
        return f"{words[self.field]} {self.body.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        body = changed(document.body(self.body), **{self.field: self.value})
        after = document.model_copy(update={"bodies": replaced(document.bodies, body)})
        if self.field == "off" and not self.value:
            own = [j.id for j in document.joints if self.body in (j.first.body, j.second.body)]
            return _agreeing(after, own)
        return after


@dataclass(frozen=True)
class SetJoint(Keyed):
    """Set a field of a joint: its kind, name, either side, a number, or 'off'."""

    joint: str
    field: str
    value: object
    subject = ("joint", "field")

    @property
    def label(self) -> str:
        words = {
            "off": "Switch off" if self.value else "Switch on",
            "name": "Rename",
            "may_leave": "Let leave its guide:" if self.value else "Keep in its guide:",
        }
        verb = words.get(self.field, f"Set {self.field} of")
        return f"{verb} {self.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        joint = changed(document.joint(self.joint), **{self.field: self.value})
        after = document.model_copy(update={"joints": replaced(document.joints, joint)})
        if self.field == "off" and not self.value:
            return _agreeing(after, [self.joint])
        return after


def _agreeing(document: Document, joints: list[str]) -> Document:
    """The document with the rise taken from joints that come back to a stack since changed."""
    for name in joints:
        try:
            resolve(document)
        except ValueOutOfRangeError:
            joint = document.joint(name).model_copy(update={"rise": None})
            document = document.model_copy(update={"joints": replaced(document.joints, joint)})
        except AnakinemaError:
            break
    return document


@dataclass(frozen=True)
class AddDriver(Keyed):
    """Let the program move a joint, with a stage of its own from one value to another."""

    driver: model.Driver
    to: Source
    step: Source | None = None
    subject = ()

    @property
    def label(self) -> str:
        return f"Drive {self.driver.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        program = document.program
        if any(d.joint == self.driver.joint or d.id == self.driver.id for d in program.drivers):
            raise KeyError(self.driver.id)
        move = model.Move(driver=self.driver.id, to=self.to)
        stage = model.Stage(moves=(move,), step=self.step)
        program = program.model_copy(
            update={"drivers": (*program.drivers, self.driver), "stages": (*program.stages, stage)}
        )
        return document.model_copy(update={"program": program})
