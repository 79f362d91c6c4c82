"""Edits of the motion program: drivers, stages, their moves and their pace."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, Source, changed, replaced


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
class SetStages(Keyed):
    """Put other stages in the place of all there are."""

    stages: tuple[model.Stage, ...]
    label = "Set stages"
    subject = ()

    def apply(self, document: Document) -> Document:
        program = document.program.model_copy(update={"stages": self.stages})
        return document.model_copy(update={"program": program})


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
class AddMove(Keyed):
    """One more driver in a stage, from where it stands to where it stands: its target is next."""

    stage: int
    driver: str
    subject = ("stage", "driver")

    @property
    def label(self) -> str:
        return f"Move {self.driver.replace('_', ' ')} in stage {self.stage + 1}"

    def apply(self, document: Document) -> Document:
        stage = _stage(document, self.stage)
        if any(move.driver == self.driver for move in stage.moves):
            raise KeyError(self.driver)
        to = model.next_by_id(document.program.drivers, self.driver).start
        for earlier in document.program.stages[: self.stage]:
            to = next((m.to for m in earlier.moves if m.driver == self.driver), to)
        moves = (*stage.moves, model.Move(driver=self.driver, to=to))
        return _with_stage(document, self.stage, stage.model_copy(update={"moves": moves}))


@dataclass(frozen=True)
class RemoveMove(Keyed):
    """A driver no longer moves in a stage; raises `KeyError` for the only one."""

    stage: int
    driver: str
    subject = ("stage", "driver")

    @property
    def label(self) -> str:
        return f"Keep {self.driver.replace('_', ' ')} still in stage {self.stage + 1}"

    def apply(self, document: Document) -> Document:
        stage = _stage(document, self.stage)
        moves = tuple(move for move in stage.moves if move.driver != self.driver)
        if not moves or len(moves) == len(stage.moves):
            raise KeyError(self.driver)
        return _with_stage(document, self.stage, stage.model_copy(update={"moves": moves}))


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
