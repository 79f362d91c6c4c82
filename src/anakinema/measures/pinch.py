"""Gaps that open wide enough for a finger, a hand or an arm, and then close on it.

The sizes are those of ISO 13854 (minimum gaps to avoid crushing of parts of the human body): body
500, head 300, leg 180, foot and arm 120, hand 100, toes 50, finger 25 mm (from memory). What a
machine needs is for local codes and licensed practice to say; these are only the usual cautions.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from anakinema.analysis.gaps import Bodies
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Curve, Unanswered
from anakinema.measures.gap import BodyGap
from anakinema.measures.subject import Subject

HALVINGS = 40
STEP = 1e-5
"""Progress over which a closing speed is taken."""


@dataclass(frozen=True)
class Pinch:
    """How often a gap closes through ``size`` mm, or the greatest speed at which it does, mm/s."""

    bodies: Bodies
    size: float
    what: Literal["closings", "speed"]

    @property
    def shown(self) -> BodyGap:
        """A lane shows the gap."""
        return BodyGap(self.bodies)

    def curve(self, subject: Subject, above: float | None = None) -> Curve | None:
        """The gap."""
        return self.shown.curve(subject)

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """Counted over all steps; found where it closes fastest."""
        motion = subject.motion
        values = subject.gaps.curve(self.bodies, motion.poses)
        if values is None:
            return Unanswered("nothing to compare")
        k = np.flatnonzero((values[:-1] > self.size) & (values[1:] <= self.size))
        if not len(k):
            return Answer(0.0, 0.0)
        at = self._crossings(subject, motion.progress[k], motion.progress[k + 1])
        speeds = self._speeds(subject, at)
        fastest = int(np.argmax(speeds))
        value = float(len(k)) if self.what == "closings" else float(speeds[fastest])
        return Answer(value, value, float(at[fastest]))

    def _gap(self, subject: Subject, progress: Floats) -> Floats:
        found = subject.gaps.curve(self.bodies, subject.motion.poses_at(progress))
        assert found is not None
        return found

    def _crossings(self, subject: Subject, open_at: Floats, closed_at: Floats) -> Floats:
        for _ in range(HALVINGS if subject.motion.segments else 0):
            middle = (open_at + closed_at) / 2
            is_open = self._gap(subject, middle) > self.size
            open_at = np.where(is_open, middle, open_at)
            closed_at = np.where(is_open, closed_at, middle)
        return closed_at

    def _speeds(self, subject: Subject, at: Floats) -> Floats:
        motion = subject.motion
        if not motion.segments:
            return np.zeros(len(at))
        before = np.maximum(at - STEP, np.ceil(at) - 1.0)
        fall = self._gap(subject, before) - self._gap(subject, at)
        rate, _ = motion.progress_rates(at)
        return np.asarray(np.maximum(fall / (at - before), 0.0) * rate)


def pinch(resolved: Resolved, measure: model.PinchMeasure) -> Pinch:
    """The measure of a resolved document; raises an `AnakinemaError` at a size it cannot read."""
    size = resolved.reader.field(measure, "size", "closing gap")
    if size <= 0:
        raise ValueOutOfRangeError(
            "its size is not above zero.", where="closing gap", remedy="Give 25 mm for a finger."
        )
    names = {measure.first, measure.second} - {None}
    bodies = frozenset(i for i, b in enumerate(resolved.document.bodies) if b.id in names)
    return Pinch(bodies, size, measure.what)
