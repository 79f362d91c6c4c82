"""What is known of comparisons at the samples of a motion: measured once, whatever asks for it, and
kept over an edit wherever nothing that moves the two stands otherwise."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np
import numpy.typing as npt

from anakinema.analysis.comparing import Compared
from anakinema.geometry.contour import Floats
from anakinema.motion.motion import Motion

SAME = 1e-10
"""mm; a body that stands so near to where it stood has not moved."""


C = TypeVar("C", bound=Compared)


@dataclass(frozen=True, slots=True, eq=False)
class Known:
    """Of I comparisons at all N samples, NaN where nobody looked: ``distance`` and ``least`` (I, N)
    mm, ``facing`` (I, N, D) directions in the first body, which are NaN too where they touch."""

    distance: Floats
    least: Floats
    facing: Floats


class Looks(Generic[C]):
    """Distances of comparisons at samples, and where their nearest points face."""

    def __init__(self, motion: Motion, directions: int) -> None:
        self.motion, self._directions = motion, directions
        self._kept: dict[C, tuple[Floats, Floats, Floats]] = {}

    def known(self, items: Sequence[C]) -> Known:
        """All that is known of some comparisons."""
        count = len(self.motion.progress)
        distance = np.full((len(items), count), np.nan)
        least = np.full((len(items), count), np.nan)
        facing = np.full((len(items), count, self._directions), np.nan)
        for k, item in enumerate(items):
            if item in self._kept:
                distance[k], least[k], facing[k] = self._kept[item]
        return Known(distance, least, facing)

    def keep(self, item: C, known: Known, k: int, rows: npt.NDArray[np.bool_]) -> None:
        """Remember what is known of one, the ``k``-th of those known, at some samples (N,)."""
        self._kept[item] = (
            np.where(rows, known.distance[k], np.nan),
            np.where(rows, known.least[k], np.nan),
            np.where(rows[:, None], known.facing[k], np.nan),
        )

    def adopt(self, earlier: Looks[C], items: Sequence[C]) -> None:
        """Keep what was seen of the same where all that moves it stands as before."""
        before, now = earlier.motion, self.motion
        if before.poses.shape[1] != now.poses.shape[1]:
            return
        row = np.minimum(np.searchsorted(before.progress, now.progress), len(before.progress) - 1)
        moved = np.abs(before.poses[row] - now.poses) * np.array([1.0, 1.0, now.mechanism.size])
        stands = (moved <= SAME).all(axis=2)
        stands &= (before.progress[row] == now.progress)[:, None]
        known = {item.made_of: item for item in earlier._kept}
        for item in items:
            old = known.get(item.made_of)
            if old is None or not old.is_like(item):
                continue
            same = stands[:, list(item.movers)].all(axis=1)
            if not same.any():
                continue
            distance, least, facing = earlier._kept[old]
            self._kept[item] = (
                np.where(same, distance[row], np.nan),
                np.where(same, least[row], np.nan),
                np.where(same[:, None], facing[row], np.nan),
            )
