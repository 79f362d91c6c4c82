"""Bounds of rates over stretches that are too long to be bounded whole, from their pieces."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from anakinema.mechanism.compile import Mechanism
from anakinema.motion.motion import States, Stretch, stretch_states

PIECES = 3
"""Into so many a stretch is cut whose rates cannot be bounded whole."""
TRIED = 6
"""Stretches that are cut first: where that helps none, it is left at that."""
SHORT = 1e-5
"""Progress; a shorter stretch is not cut."""


def bounded_by_pieces(mechanism: Mechanism, stretches: list[Stretch], samples: States) -> States:
    """The samples (N) of some stretches with bounds where all pieces of one have some: over the
    whole stretch rates are no larger than the largest of those.

    Far out in a long chain what may change in each joint adds up until no speed is large enough
    to bound itself; over a shorter way less is added.
    """
    open_ = np.asarray(np.isnan(samples.speed_most).any(axis=(1, 2)))
    open_ &= np.isfinite(samples.first).all(axis=(1, 2))
    places = []
    row = 0
    for stretch in stretches:
        for k in range(len(stretch.local)):
            if open_[row] and stretch.reach[k] > SHORT:
                places.append((row, stretch, k))
            row += 1
    if not places:
        return samples
    most = samples.speed_most.copy()
    tried = places[:: -(-len(places) // TRIED)]
    for some in (tried, [place for place in places if place not in tried]):
        cut = [_cut(stretch, k) for _, stretch, k in some]
        if not cut:
            break
        found = stretch_states(mechanism, None, cut).speed_most
        bounds = found.reshape(len(some), PIECES, *most.shape[1:]).max(axis=1)
        known = np.asarray(np.isfinite(bounds).all(axis=(1, 2)))
        rows = np.array([row for row, _, _ in some])
        most[rows[known]] = bounds[known]
        if not known.any():
            break
    return replace(samples, speed_most=most)


def _cut(stretch: Stretch, k: int) -> Stretch:
    """The pieces around one progress of a stretch, within its segment."""
    segment, local, reach = stretch.segment, stretch.local[k], stretch.reach[k]
    edges = np.linspace(
        max(segment.first, local - reach), min(segment.last, local + reach), PIECES + 1
    )
    half = np.diff(edges) / 2
    return Stretch(segment, edges[:-1] + half, half * (1 + 1e-9))
