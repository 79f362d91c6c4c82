"""Driving by hand: a grabbed point of a moving body leads the motion along its program."""

from __future__ import annotations

import numpy as np

from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import transform, within

WINDOW = 24
"""Samples to either side that a pull looks at: enough to get over a small hump, not to leap."""
FINER = 8


class HandDrive:
    """Follows the pointer: the playhead goes where the grabbed point comes nearest to it."""

    def __init__(
        self, evaluation: Evaluation, body: int, x: float, y: float, progress: float
    ) -> None:
        self._motion, self._body, self.progress = evaluation.motion, body, progress
        self._point = within(self._motion.poses_at(np.array([progress]))[0, body], (x, y))
        self._places = self._placed(self._motion.poses)

    @property
    def moves(self) -> bool:
        """Whether the point moves at all over the motion."""
        return float(np.ptp(self._places, axis=0).max()) > 1e-9 * self._motion.mechanism.size

    def _placed(self, poses: Floats) -> Floats:
        return transform(np.array([self._point]), poses[:, self._body])[:, 0]

    def pull(self, x: float, y: float) -> float:
        """The progress at which the point is nearest to x, y (mm), not far from where it was."""
        samples = self._motion.progress
        here = int(np.argmin(np.abs(samples - self.progress)))
        low, high = max(0, here - WINDOW), min(len(samples), here + WINDOW + 1)
        away = np.hypot(*(self._places[low:high] - (x, y)).T)
        nearest = low + int(np.argmin(away))
        one, two = max(0, nearest - 1), min(len(samples) - 1, nearest + 1)
        begin, end = float(samples[one]), float(samples[two])
        for _ in range(3):
            looks = np.linspace(begin, end, FINER + 1)
            far = np.hypot(*(self._placed(self._motion.poses_at(looks)) - (x, y)).T)
            k = int(np.argmin(far))
            begin, end = looks[max(0, k - 1)], looks[min(FINER, k + 1)]
            self.progress = float(looks[k])
        return self.progress
