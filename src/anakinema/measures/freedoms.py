"""How many freedoms a mechanism has."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.measures.answer import Answer, Unanswered
from anakinema.measures.subject import OffLane, Subject


@dataclass(frozen=True)
class Freedoms(OffLane):
    """The freedoms of the assembled mechanism; they do not depend on the pose."""

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """Their number."""
        count = float(subject.motion.mobility.freedoms)
        return Answer(count, count)


def freedoms(resolved: Resolved, measure: model.FreedomsMeasure) -> Freedoms:
    """The measure of a resolved document."""
    return Freedoms()
