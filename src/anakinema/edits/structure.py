"""Edits of what there is: parts, bodies, joints, drivers and units come, change and go."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.dependents import Going, with_part, without
from anakinema.document.flatten import inner_names
from anakinema.document.kinds import Way, spec_of
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
    units: tuple[model.Unit, ...] = ()
    uses: tuple[model.UnitUse, ...] = ()
    measures: tuple[model.Measure, ...] = ()
    couplings: tuple[model.Coupling, ...] = ()
    contacts: tuple[model.Contact, ...] = ()
    loops: tuple[model.Loop, ...] = ()
    subject = ("label",)

    def apply(self, document: Document) -> Document:
        update: dict[str, object] = {}
        for name, items in (
            ("parameters", self.parameters),
            ("parts", self.parts),
            ("bodies", self.bodies),
            ("joints", self.joints),
            ("subassemblies", self.units),
            ("uses", self.uses),
            ("measures", self.measures),
            ("couplings", self.couplings),
            ("contacts", self.contacts),
            ("loops", self.loops),
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


@dataclass(frozen=True)
class RemovePart(Keyed):
    """Take an unused part off the shelf of the document; raises `KeyError` while it is used."""

    part: str
    label = "Delete part"
    subject = ("part",)

    def apply(self, document: Document) -> Document:
        bodies = [*document.bodies, *(b for unit in document.subassemblies for b in unit.bodies)]
        if any(body.part == self.part for body in bodies):
            raise KeyError(self.part)
        parts = tuple(part for part in document.parts if part.id != self.part)
        return document.model_copy(update={"parts": parts})


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
    return document.model_copy(update={"uses": replaced(document.uses, new)})


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
class ReverseJoint(Keyed):
    """Count a joint the other way round: sides change places, limits and drivers follow.

    Only for joints whose two sides mean the same: rigid, revolute, and prismatic without a twist
    (`can_reverse`); raises `KeyError` for others.
    """

    joint: str
    subject = ("joint",)

    @property
    def label(self) -> str:
        return f"Turn round {self.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        joint = document.joint(self.joint)
        if not can_reverse(joint):
            raise KeyError(self.joint)
        limits = joint.limits
        turned = changed(
            joint,
            first=joint.second,
            second=joint.first,
            twist=negative(joint.twist),
            offset=negative(joint.offset),
            zero=negative(joint.zero),
            rise=None if joint.rise is None else negative(joint.rise),
            limits=model.Limits(
                least=None if limits.greatest is None else negative(limits.greatest),
                greatest=None if limits.least is None else negative(limits.least),
                rest=None if limits.rest is None else negative(limits.rest),
            ),
        )
        document = document.model_copy(update={"joints": replaced(document.joints, turned)})
        program = document.program
        drivers = {d.id for d in program.drivers if d.joint == self.joint}
        program = _with_driven(program, drivers, negative)
        requirements = tuple(
            r.model_copy(update={"first_place": r.second_place, "second_place": r.first_place})
            if isinstance(r, model.TransmissionRequirement) and r.joint == self.joint
            else r
            for r in document.requirements
        )
        couplings = tuple(
            c.model_copy(
                update={
                    size: negative(getattr(c, size))
                    for side, size in (("first", "first_size"), ("second", "second_size"))
                    if c.kind == "ratio" and getattr(c, side) == self.joint
                }
            )
            for c in document.couplings
        )
        loops = tuple(
            loop.model_copy(
                update={"wheels": tuple(_turned_round(w, self.joint) for w in loop.wheels)}
            )
            for loop in document.loops
        )
        return document.model_copy(
            update={
                "program": program,
                "requirements": requirements,
                "couplings": couplings,
                "loops": loops,
            }
        )


def _turned_round(wheel: model.LoopWheel, joint: str) -> model.LoopWheel:
    """A wheel of a loop after the sides of a joint have changed places."""
    if wheel.joint != joint:
        return wheel
    return wheel.model_copy(update={"side": "first" if wheel.side == "second" else "second"})


def can_reverse(joint: model.Joint) -> bool:
    """Whether the two sides of a joint mean the same, so that they can change places."""
    spec = spec_of(joint.kind)
    return spec.may_reverse and (spec.way is Way.POINT or joint.twist in (0, 0.0))


@dataclass(frozen=True)
class SetZero(Keyed):
    """Count a joint from another place: its limits and driver stay where they are.

    ``away`` is the value, now shown, that is to read 0: mm or rad.
    """

    joint: str
    away: float
    subject = ("joint",)

    @property
    def label(self) -> str:
        return f"Set zero of {self.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        joint = document.joint(self.joint)
        dimension = spec_of(joint.kind).dimension
        factor = UnitSystem(document.units.length, document.units.angle).factor(dimension)
        unit = "mm" if dimension == LENGTH else "rad"

        def less(source: Source | None, away: float) -> Source | None:
            if source is None:
                return None
            if isinstance(source, str):
                return f"{source} - ({away:.12g} {unit})"
            return round(source - away / factor, POSE_DIGITS)

        limits = joint.limits
        moved = changed(
            joint,
            zero=less(joint.zero, -self.away),
            limits=model.Limits(
                least=less(limits.least, self.away),
                greatest=less(limits.greatest, self.away),
                rest=less(limits.rest, self.away),
            ),
        )
        program = document.program
        drivers = {d.id for d in program.drivers if d.joint == self.joint}
        if drivers:
            program = _with_driven(program, drivers, lambda source: less(source, self.away))
        return document.model_copy(
            update={"joints": replaced(document.joints, moved), "program": program}
        )


def negative(source: Source) -> Source:
    """The same quantity with the other sign."""
    if not isinstance(source, str):
        return -source if source else source
    match = re.fullmatch(r"-\((.*)\)", source)
    # Only a bracket that spans the whole text may be dropped.
    if match is not None and match.group(1).count("(") == match.group(1).count(")") == 0:
        return match.group(1)
    return f"-({source})"


def _with_driven(
    program: model.Program, drivers: set[str], other: Callable[[Source], Source | None]
) -> model.Program:
    """The program with the start and every target of some drivers told otherwise."""
    stages = tuple(
        stage.model_copy(
            update={
                "moves": tuple(
                    move.model_copy(update={"to": other(move.to)})
                    if move.driver in drivers
                    else move
                    for move in stage.moves
                )
            }
        )
        for stage in program.stages
    )
    turned = tuple(
        d.model_copy(update={"start": other(d.start)}) if d.id in drivers else d
        for d in program.drivers
    )
    return program.model_copy(update={"drivers": turned, "stages": stages})


@dataclass(frozen=True)
class SetPart(Keyed):
    """Set a field of a part: 'name', 'colour', 'note' or 'material'."""

    part: str
    field: str
    value: object
    subject = ("part", "field")

    @property
    def label(self) -> str:
        verb = "Rename" if self.field == "name" else f"Set {self.field} of"
        return f"{verb} {self.part.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        part = changed(document.part(self.part), **{self.field: self.value})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class ReplacePart(Keyed):
    """Put a changed definition in the place of the one with its id; all uses follow.

    Joints no longer name pieces of outline that it has not.
    """

    part: model.Part
    label: str = "Change part"
    subject = ("label",)

    def apply(self, document: Document) -> Document:
        return with_part(document, self.part)


@dataclass(frozen=True)
class AddPlaces(Keyed):
    """Mark places on a part, for joints and measures; those it has already are kept."""

    part: str
    places: tuple[model.Place, ...]
    label = "Mark place"
    subject = ("part",)

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        known = {place.id for place in part.places}
        new = tuple(place for place in self.places if place.id not in known)
        if not new:
            return document
        part = part.model_copy(update={"places": (*part.places, *new)})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class SplitPart(Keyed):
    """Make a body's part its own: a copy that its other uses do not follow."""

    body: str
    new: str
    subject = ("body",)

    @property
    def label(self) -> str:
        return f"Make {self.body.replace('_', ' ')} its own"

    def apply(self, document: Document) -> Document:
        body = document.body(self.body)
        part = document.part(body.part)
        copy = part.model_copy(update={"id": self.new, "name": f"{part.title} ({body.title})"})
        document = document.model_copy(update={"parts": (*document.parts, copy)})
        body = body.model_copy(update={"part": self.new})
        return document.model_copy(update={"bodies": replaced(document.bodies, body)})


@dataclass(frozen=True)
class AddParameter(Keyed):
    """A new named quantity; raises `KeyError` if the name is taken."""

    parameter: model.Parameter
    subject = ()

    @property
    def label(self) -> str:
        return f"Add {self.parameter.id}"

    def apply(self, document: Document) -> Document:
        if any(p.id == self.parameter.id for p in document.parameters):
            raise KeyError(self.parameter.id)
        return document.model_copy(update={"parameters": (*document.parameters, self.parameter)})


@dataclass(frozen=True)
class RemoveParameter(Keyed):
    """Take a named quantity out; expressions that use it then say so."""

    parameter: str
    subject = ("parameter",)

    @property
    def label(self) -> str:
        return f"Delete {self.parameter}"

    def apply(self, document: Document) -> Document:
        model.next_by_id(document.parameters, self.parameter)
        kept = tuple(p for p in document.parameters if p.id != self.parameter)
        return document.model_copy(update={"parameters": kept})


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
