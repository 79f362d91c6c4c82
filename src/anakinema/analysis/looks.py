"""What is known of comparisons at the samples of a motion: measured once, whatever asks for it, and
kept over an edit wherever neither of the two bodies stands otherwise."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.slab_pairs import SlabPair
from anakinema.motion.motion import Motion

SAME = 1e-10
"""mm; a body that stands so near to where it stood has not moved."""


class Looks:
    """Distances of comparisons at samples, and where their nearest points face."""

    def __init__(self, motion: Motion) -> None:
        self.motion = motion
        self._kept: dict[SlabPair, tuple[Floats, Floats]] = {}

    def known(self, items: Sequence[SlabPair]) -> tuple[Floats, Floats]:
        """(I, N) mm and (I, N, 2) directions in the first body at all samples, NaN where nobody
        looked; directions are NaN too where they touch."""
        count = len(self.motion.progress)
        distance = np.full((len(items), count), np.nan)
        facing = np.full((len(items), count, 2), np.nan)
        for k, item in enumerate(items):
            if item in self._kept:
                distance[k], facing[k] = self._kept[item]
        return distance, facing

    def keep(self, item: SlabPair, distance: Floats, facing: Floats) -> None:
        """Remember what is known (N,) and (N, 2) of a comparison."""
        self._kept[item] = distance, facing

    def adopt(self, earlier: Looks, items: Sequence[SlabPair]) -> None:
        """Keep what was seen of the same outlines where their bodies stand as before."""
        before, now = earlier.motion, self.motion
        if before.poses.shape[1] != now.poses.shape[1]:
            return
        row = np.minimum(np.searchsorted(before.progress, now.progress), len(before.progress) - 1)
        moved = np.abs(before.poses[row] - now.poses) * np.array([1.0, 1.0, now.mechanism.size])
        stands = (moved <= SAME).all(axis=2)
        stands &= (before.progress[row] == now.progress)[:, None]
        known = {_outlines(item): item for item in earlier._kept}
        for item in items:
            old = known.get(_outlines(item))
            same = stands[:, item.first_body] & stands[:, item.second_body]
            if old is None or not same.any() or not np.array_equal(old.compared, item.compared):
                continue
            distance, facing = earlier._kept[old]
            self._kept[item] = (
                np.where(same, distance[row], np.nan),
                np.where(same[:, None], facing[row], np.nan),
            )


def _outlines(item: SlabPair) -> tuple[object, ...]:
    """What of a comparison is the same as long as its outlines are."""
    return *item.bodies, id(item.first.region), id(item.second.region), item.enclosed
