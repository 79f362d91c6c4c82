"""What measures are asked about, and what every measure can be asked."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import Protocol, Self

from anakinema.analysis.gaps import Gaps
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.measures.answer import Answer, Curve, Unanswered
from anakinema.motion.motion import Motion


@dataclass(frozen=True, slots=True, eq=False)
class Subject:
    """A motion with the numbers it was made from and its gaps."""

    resolved: Resolved
    motion: Motion
    gaps: Gaps


class Measure(Protocol):
    """A number at every pose of a motion."""

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """One answer made of it; ``above``: the bound that a least is asked to keep, if any."""
        ...

    def curve(self, subject: Subject, above: float | None = None) -> Curve | None:
        """Its values over the motion, to be shown, with the least that was searched for the bound
        ``above``; None if there are none."""
        ...

    @property
    def shown(self) -> Measure:
        """What a lane shows for it: itself, or the value that it is made from."""
        ...


class OffLane(ABC):
    """A measure that has one answer and no values over the motion."""

    @property
    def shown(self) -> Self:
        """There is no lane."""
        return self

    def curve(self, subject: Subject, above: float | None = None) -> Curve | None:
        """Nothing over the motion."""
        return None

    @abstractmethod
    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """The answer."""
