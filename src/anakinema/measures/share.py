"""How near a driver is to a dead point of its own."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.bracketed import Bracketed
from anakinema.motion.motion import Motion, States


@dataclass(frozen=True)
class DriverShare(Bracketed):
    """The driver's part in how fast everything moves: 1 where nothing moves faster, 0 at its dead
    point, where the others move and it does not.

    Its rate over the greatest of all joints' rates, lengths as shares of the mechanism's size.
    In stages in which it does not move it is 1.
    """

    joint: int

    @property
    def about(self) -> int:
        """The driver's joint."""
        return self.joint

    def over(self, motion: Motion, at: States) -> Floats:
        """(N,) 0 to 1."""
        if not motion.segments:
            return np.ones(len(at.progress))
        unit = np.where(motion.mechanism.angular, 1.0, motion.mechanism.size)
        rates = np.abs(at.value_first) / unit
        own = rates[:, self.joint]
        most = np.max(rates, axis=1)
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.where(most > 0, own / most, 1.0)
        stage = np.clip(motion.stage_of(at.progress), 0, max(motion.stages - 1, 0))
        moved = [
            any(joint == self.joint for joint, _ in each.moves)
            for each in motion.mechanism.resolved.program.stages
        ]
        # Where the motion itself ends at a dead point there are no rates any more.
        share = np.where(np.isnan(share), 0.0, share)
        return np.where(np.array(moved, dtype=bool)[stage], share, 1.0) if moved else share


def driver_share(resolved: Resolved, measure: model.DriverShareMeasure) -> DriverShare:
    """The measure of a resolved document."""
    return DriverShare([each.id for each in resolved.document.joints].index(measure.joint))
