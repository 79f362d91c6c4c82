"""Edits of the log of trials."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, changed, replaced


@dataclass(frozen=True)
class KeepTrial(Keyed):
    """One more trial in the log."""

    trial: model.Trial
    subject = ("trial",)

    @property
    def label(self) -> str:
        return f"Keep {self.trial.title}"

    def apply(self, document: Document) -> Document:
        return document.model_copy(update={"trials": (*document.trials, self.trial)})


@dataclass(frozen=True)
class SetTrial(Keyed):
    """Set 'name', 'decision' or 'reason' of a trial."""

    trial: str
    which: str
    value: str
    subject = ("trial", "which")

    @property
    def label(self) -> str:
        return f"Set {self.which} of {self.trial.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        old = model.next_by_id(document.trials, self.trial)
        trials = replaced(document.trials, changed(old, **{self.which: self.value}))
        return document.model_copy(update={"trials": trials})


@dataclass(frozen=True)
class RemoveTrial(Keyed):
    """Take a trial out of the log."""

    trial: str
    subject = ("trial",)

    @property
    def label(self) -> str:
        return f"Delete {self.trial.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        kept = tuple(each for each in document.trials if each.id != self.trial)
        return document.model_copy(update={"trials": kept})
