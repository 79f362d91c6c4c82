"""Whether two joints turn back at the same times."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Curve, Unanswered
from anakinema.measures.joint import JointValue
from anakinema.measures.located import closes
from anakinema.measures.subject import Subject
from anakinema.motion.branch_path import End
from anakinema.motion.motion import Motion

SAME = 1e-9
"""Share of a joint's travel by which its extremes may differ and be the same."""


@dataclass(frozen=True)
class Phase:
    """The longest time between an extreme of one joint and the nearest one of the other.

    Both reach their greatest and their least value in a motion; each time the first does, the
    second should. Of a closed cycle the way round counts.
    """

    first: int
    second: int

    @property
    def shown(self) -> JointValue:
        """A lane shows the second joint."""
        return JointValue(self.second)

    def curve(self, subject: Subject, above: float | None = None) -> Curve:
        """The second joint's value."""
        return self.shown.curve(subject)

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """Seconds."""
        motion = subject.motion
        if not motion.stages:
            return Unanswered("no program")
        values = [JointValue(joint).values(motion.samples) for joint in (self.first, self.second)]
        cycle = motion.end is End.COMPLETE and all(closes(each) for each in values)
        found = Answer(0.0, 0.0, 0.0, self.second)
        for sign in (1.0, -1.0):
            one, two = (self._extremes(motion, j, sign) for j in (self.first, self.second))
            if not len(one) or not len(two):
                return Unanswered("stands still")
            times = motion.time(one), motion.time(two)
            apart = np.abs(times[0][:, None] - times[1])
            if cycle:
                apart = np.minimum(apart, np.abs(motion.timing.total - apart))
            off = apart.min(axis=1)
            k = int(np.argmax(off))
            if off[k] > found.high:
                found = Answer(float(off[k]), float(off[k]), float(one[k]), self.second)
        return found

    def _extremes(self, motion: Motion, joint: int, sign: float) -> Floats:
        """(M,) progress at which a joint is at its greatest (or least) of all."""
        looks = JointValue(joint).looks(motion, "range")
        travel = float(np.ptp(looks.values))
        if travel <= SAME:
            return np.empty(0)
        values = sign * looks.values
        return np.asarray(looks.progress[values >= values.max() - SAME * travel])


def phase(resolved: Resolved, measure: model.PhaseMeasure) -> Phase:
    """The measure of a resolved document."""
    ids = [each.id for each in resolved.document.joints]
    return Phase(ids.index(measure.joint), ids.index(measure.other))
