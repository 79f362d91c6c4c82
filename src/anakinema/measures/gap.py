"""The gap of bodies, certified between the samples too."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.analysis.gaps import Bodies
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.measures.answer import Answer, Curve, Unanswered
from anakinema.measures.subject import Subject

MOST_POINTS = 181


@dataclass(frozen=True)
class BodyGap:
    """The gap of two bodies, of one and all others, or of all, mm."""

    bodies: Bodies

    @property
    def shown(self) -> BodyGap:
        """A lane shows the gap itself."""
        return self

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """Its least, all that is made of it; where it is not ``above`` a bound is found too."""
        gap, gaps = subject.gaps.smallest(self.bodies, above), subject.gaps
        if gap is None:
            return Unanswered("nothing to compare")
        low = gap.least if gaps.exact else gap.most
        return Answer(low, gap.most, gap.progress, gap=gap)

    def curve(self, subject: Subject, above: float | None = None) -> Curve | None:
        """Its values at some samples and where it is least; None if nothing is compared."""
        motion, gaps = subject.motion, subject.gaps
        gap = gaps.smallest(self.bodies, above)
        stride = max(1, len(motion.progress) // MOST_POINTS)
        progress = np.unique(np.append(motion.progress[::stride], motion.progress[-1]))
        rows = np.searchsorted(motion.progress, progress)
        values = None if gap is None else gaps.curve(self.bodies, motion.poses[rows])
        if values is None or gap is None:
            return None
        at = int(np.searchsorted(progress, gap.progress))
        return Curve(
            np.insert(progress, at, gap.progress), np.insert(values, at, max(gap.most, 0.0))
        )


def body_gap(resolved: Resolved, measure: model.GapMeasure) -> BodyGap:
    """The measure of a resolved document: of two bodies, one, or none for any."""
    names = {measure.first, measure.second}
    return BodyGap(frozenset(i for i, b in enumerate(resolved.document.bodies) if b.id in names))
