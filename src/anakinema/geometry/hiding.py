"""Which slabs of a stack cannot be seen from above."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import shapely

from anakinema.geometry.region import Region

SLIVER = 0.01
"""mm; what reaches farther than what covers it by less is not seen: twice what the flattened
outlines, which are compared and drawn, are off from their arcs."""
KEPT = 512
"""Stacks whose answer is kept: while one part is edited, those of all others are the same."""


def hidden_from_above(stack: Sequence[Region]) -> tuple[bool, ...]:
    """Whether each region, given from low to high, lies wholly under those after it together,
    but for slivers."""
    return _hidden(tuple(stack))


@lru_cache(maxsize=KEPT)
def _hidden(stack: tuple[Region, ...]) -> tuple[bool, ...]:
    cover: shapely.Geometry = shapely.Polygon()
    found = []
    for region in reversed(stack):
        wider = shapely.buffer(cover, SLIVER, join_style="mitre")
        found.append(bool(shapely.covers(wider, region.polygon)))
        if not found[-1]:
            cover = shapely.union(cover, region.polygon)
    return tuple(reversed(found))
