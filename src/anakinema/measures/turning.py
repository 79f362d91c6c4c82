"""Measures whose extremes between the samples are found from their own rates."""

from __future__ import annotations

from abc import abstractmethod

import numpy as np

from anakinema.document import model
from anakinema.measures.answer import Looks
from anakinema.measures.located import Posed
from anakinema.motion.events import Jets, turning_points
from anakinema.motion.motion import Motion, States

STILL = 1e-9
"""Share of the mechanism's size that is no change of a length."""


class Turning(Posed):
    """A length or an angle at any pose, with two rates by progress."""

    def unit(self, motion: Motion) -> float:
        """What `STILL` is a share of."""
        return motion.mechanism.size

    @abstractmethod
    def jets(self, at: States) -> Jets:
        """One column: its value and rates, NaN where it has none."""

    def looks(self, motion: Motion, reduce: model.Reduce) -> Looks:
        """Samples and, of an exact motion, the extremes between them."""
        values = self.values(motion.samples)
        if not motion.segments or np.ptp(values) <= STILL * self.unit(motion):
            return Looks(motion.progress, values, np.empty(0))
        turns = turning_points(motion, self.jets)
        order = np.argsort(turns.progress, kind="stable")
        return Looks(
            np.append(motion.progress, turns.progress),
            np.append(values, turns.value),
            turns.progress[order],
        )
