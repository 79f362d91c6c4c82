"""Every edit of a document: a label, a pure ``apply``, and a key by which a drag's steps merge."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Protocol, TypeVar

from anakinema.document import model
from anakinema.document.model import Document

Source = float | str


class Edit(Protocol):
    """What history needs of an edit."""

    @property
    def label(self) -> str:
        """Shown behind Undo."""
        ...

    @property
    def merge_key(self) -> tuple[object, ...]:
        """Edits of equal key that follow one another while one gesture lasts are one step."""
        ...

    def apply(self, document: Document) -> Document:
        """The document after the edit; raises `KeyError` if its object is gone."""
        ...


M = TypeVar("M", bound=model.Model)


def changed(item: M, **values: object) -> M:
    """A validated copy with some fields replaced (`model_copy` would not validate)."""
    current = {name: getattr(item, name) for name in type(item).model_fields}
    return type(item).model_validate({**current, **values})


N = TypeVar("N", bound="model.Part | model.Body | model.Joint | model.Parameter | model.Driver")


def _replaced(items: tuple[N, ...], item: N) -> tuple[N, ...]:
    if all(old.id != item.id for old in items):
        raise KeyError(item.id)
    return tuple(item if old.id == item.id else old for old in items)


class _Keyed:
    """Merge key: the kind of edit and what it is about, without the new values."""

    subject: tuple[str, ...] = ()

    @property
    def merge_key(self) -> tuple[object, ...]:
        names = [f.name for f in fields(self)]  # type: ignore[arg-type]
        return (type(self), *(getattr(self, n) for n in names if n in self.subject))


@dataclass(frozen=True)
class SetName(_Keyed):
    """Name the document."""

    name: str
    label = "Rename document"

    def apply(self, document: Document) -> Document:
        return changed(document, name=self.name)


@dataclass(frozen=True)
class SetParameter(_Keyed):
    """Give a parameter another value."""

    parameter: str
    value: Source
    subject = ("parameter",)

    @property
    def label(self) -> str:
        return f"Set {self.parameter}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.parameters, self.parameter)
        new = changed(old, value=self.value)
        return document.model_copy(update={"parameters": _replaced(document.parameters, new)})


@dataclass(frozen=True)
class SetDimension(_Keyed):
    """Give a dimension of a part another value; every body that uses the part follows."""

    part: str
    dimension: str
    value: Source
    subject = ("part", "dimension")

    @property
    def label(self) -> str:
        return f"Set {self.dimension} of {self.part.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        new = changed(model.next_by_id(part.dimensions, self.dimension), value=self.value)
        part = part.model_copy(update={"dimensions": _replaced(part.dimensions, new)})
        return document.model_copy(update={"parts": _replaced(document.parts, part)})


@dataclass(frozen=True)
class SetPose(_Keyed):
    """Place a body: one of x, y, angle of its start pose."""

    body: str
    axis: str
    value: Source
    subject = ("body", "axis")

    @property
    def label(self) -> str:
        return f"Place {self.body.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        body = document.body(self.body)
        new = body.model_copy(update={"pose": changed(body.pose, **{self.axis: self.value})})
        return document.model_copy(update={"bodies": _replaced(document.bodies, new)})


@dataclass(frozen=True)
class SetHeight(_Keyed):
    """Set a body's place in the stack."""

    body: str
    height: Source
    subject = ("body",)

    @property
    def label(self) -> str:
        return f"Set height of {self.body.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        new = changed(document.body(self.body), height=self.height)
        return document.model_copy(update={"bodies": _replaced(document.bodies, new)})


@dataclass(frozen=True)
class SetLimit(_Keyed):
    """Set or clear one limit of a joint: 'least', 'greatest' or 'rest'."""

    joint: str
    which: str
    value: Source | None
    subject = ("joint", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of {self.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        joint = document.joint(self.joint)
        limits = changed(joint.limits, **{self.which: self.value})
        new = joint.model_copy(update={"limits": limits})
        return document.model_copy(update={"joints": _replaced(document.joints, new)})


@dataclass(frozen=True)
class SetDriver(_Keyed):
    """Set the start or the rate of a driver."""

    driver: str
    which: str
    value: Source
    subject = ("driver", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of driver {self.driver.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        program = document.program
        old = model.next_by_id(program.drivers, self.driver)
        drivers = _replaced(program.drivers, changed(old, **{self.which: self.value}))
        return document.model_copy(
            update={"program": program.model_copy(update={"drivers": drivers})}
        )


@dataclass(frozen=True)
class SetStageTarget(_Keyed):
    """Set how far a driver goes in a stage of the program."""

    stage: int
    driver: str
    value: Source
    subject = ("stage", "driver")

    @property
    def label(self) -> str:
        return f"Set target of {self.driver.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        stage = _stage(document, self.stage)
        moves = tuple(
            changed(move, to=self.value) if move.driver == self.driver else move
            for move in stage.moves
        )
        return _with_stage(document, self.stage, stage.model_copy(update={"moves": moves}))


@dataclass(frozen=True)
class SetStageStep(_Keyed):
    """Set the exact step of a stage."""

    stage: int
    value: Source
    label = "Set step"
    subject = ("stage",)

    def apply(self, document: Document) -> Document:
        stage = changed(_stage(document, self.stage), step=self.value)
        return _with_stage(document, self.stage, stage)


@dataclass(frozen=True)
class SetProgramOption(_Keyed):
    """Switch 'there_and_back' or 'past_limits' of the program."""

    option: str
    value: bool
    subject = ("option",)

    @property
    def label(self) -> str:
        return {"there_and_back": "There and back", "past_limits": "Run past limits"}[self.option]

    def apply(self, document: Document) -> Document:
        program = changed(document.program, **{self.option: self.value})
        return document.model_copy(update={"program": program})


@dataclass(frozen=True)
class SetRequirement(_Keyed):
    """Set or clear a bound of a requirement: 'least', 'greatest' or 'comfort'."""

    requirement: str
    which: str
    value: Source | None
    subject = ("requirement", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of {self.requirement.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        if all(r.id != self.requirement for r in document.requirements):
            raise KeyError(self.requirement)
        requirements = tuple(
            changed(r, **{self.which: self.value}) if r.id == self.requirement else r
            for r in document.requirements
        )
        return document.model_copy(update={"requirements": requirements})


def _stage(document: Document, index: int) -> model.Stage:
    if not 0 <= index < len(document.program.stages):
        raise KeyError(index)
    return document.program.stages[index]


def _with_stage(document: Document, index: int, stage: model.Stage) -> Document:
    stages = document.program.stages
    program = document.program.model_copy(
        update={"stages": (*stages[:index], stage, *stages[index + 1 :])}
    )
    return document.model_copy(update={"program": program})
