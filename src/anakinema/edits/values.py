"""Edits of single values: each a label, a pure ``apply``, and a key by which a drag merges."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.flatten import flatten, inner_names
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, Source, changed, replaced


@dataclass(frozen=True)
class SetName(Keyed):
    """Name the document."""

    name: str
    label = "Rename document"

    def apply(self, document: Document) -> Document:
        return changed(document, name=self.name)


@dataclass(frozen=True)
class SetParameter(Keyed):
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
        return document.model_copy(update={"parameters": replaced(document.parameters, new)})


@dataclass(frozen=True)
class SetDimension(Keyed):
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
        part = part.model_copy(update={"dimensions": replaced(part.dimensions, new)})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class SetPose(Keyed):
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
        return document.model_copy(update={"bodies": replaced(document.bodies, new)})


@dataclass(frozen=True)
class SetHeight(Keyed):
    """Set a body's place in the stack."""

    body: str
    height: Source
    subject = ("body",)

    @property
    def label(self) -> str:
        return f"Set height of {self.body.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        new = changed(document.body(self.body), height=self.height)
        return document.model_copy(update={"bodies": replaced(document.bodies, new)})


@dataclass(frozen=True)
class SetLimit(Keyed):
    """Set or clear one limit of a joint: 'least', 'greatest' or 'rest'."""

    joint: str
    which: str
    value: Source | None
    subject = ("joint", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of {self.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        inner = inner_names(document, self.joint)
        if inner is not None:
            return self._set_in_use(document, *inner)
        joint = document.joint(self.joint)
        limits = changed(joint.limits, **{self.which: self.value})
        new = joint.model_copy(update={"limits": limits})
        return document.model_copy(update={"joints": replaced(document.joints, new)})

    def _set_in_use(self, document: Document, use: model.UnitUse, inner: str) -> Document:
        """One use gets limits of its own; the unit's other uses keep theirs."""
        old = next((s.limits for s in use.settings if s.joint == inner), None)
        if old is None:
            old = next(j for j in flatten(document).document.joints if j.id == self.joint).limits
        setting = model.JointSetting(joint=inner, limits=changed(old, **{self.which: self.value}))
        others = tuple(s for s in use.settings if s.joint != inner)
        new = use.model_copy(update={"settings": (*others, setting)})
        return document.model_copy(update={"uses": replaced(document.uses, new)})


@dataclass(frozen=True)
class SetDriver(Keyed):
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
        drivers = replaced(program.drivers, changed(old, **{self.which: self.value}))
        return document.model_copy(
            update={"program": program.model_copy(update={"drivers": drivers})}
        )


@dataclass(frozen=True)
class SetCoupling(Keyed):
    """Set a size of a coupling (``first_size``, ``second_size``), or switch it ``off``."""

    coupling: str
    which: str
    value: Source | bool
    subject = ("coupling", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which.replace('_', ' ')} of coupling {self.coupling.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.couplings, self.coupling)
        couplings = replaced(document.couplings, changed(old, **{self.which: self.value}))
        return document.model_copy(update={"couplings": couplings})


@dataclass(frozen=True)
class SetStageTarget(Keyed):
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
class SetStage(Keyed):
    """Set the 'step', 'law', 'lasts' or 'pause' of a stage; None clears step and lasts."""

    stage: int
    which: str
    value: Source | None
    subject = ("stage", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of stage {self.stage + 1}"

    def apply(self, document: Document) -> Document:
        stage = changed(_stage(document, self.stage), **{self.which: self.value})
        return _with_stage(document, self.stage, stage)


@dataclass(frozen=True)
class AddStage(Keyed):
    """One more stage at the end: the last stage's drivers go back to where they came from."""

    label = "Add a stage"

    def apply(self, document: Document) -> Document:
        program = document.program
        last = _stage(document, len(program.stages) - 1)
        before: dict[str, Source] = {driver.id: driver.start for driver in program.drivers}
        for stage in program.stages[:-1]:
            before.update({move.driver: move.to for move in stage.moves})
        moves = tuple(changed(move, to=before[move.driver]) for move in last.moves)
        new = last.model_copy(update={"moves": moves, "pause": 0.0})
        stages = (*program.stages, new)
        return document.model_copy(
            update={"program": program.model_copy(update={"stages": stages})}
        )


@dataclass(frozen=True)
class RemoveStage(Keyed):
    """Take a stage out of the program."""

    stage: int
    subject = ("stage",)

    @property
    def label(self) -> str:
        return f"Remove stage {self.stage + 1}"

    def apply(self, document: Document) -> Document:
        _stage(document, self.stage)
        program = document.program
        stages = (*program.stages[: self.stage], *program.stages[self.stage + 1 :])
        return document.model_copy(
            update={"program": program.model_copy(update={"stages": stages})}
        )


@dataclass(frozen=True)
class SetProgramOption(Keyed):
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
class SetRequirement(Keyed):
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
