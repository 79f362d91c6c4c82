"""Where words go beside marks, and what a lane must show."""

from __future__ import annotations

import numpy as np

from anakinema.session import Lane
from anakinema.ui.axes import with_room

ORDINARY = ("touch", "touch lost", "drop", "tooth passed")


def naming_rank(kind: str) -> int:
    """What is named first where there is not room for all: what ends or endangers the motion."""
    if kind in ORDINARY:
        return 1
    return 2 if kind in ("extreme", "closest") else 0


def short_label(words: str) -> str:
    """A tick label without needless decimals."""
    number, mark, rest = words.partition(".")
    digits = rest.rstrip("°abcdefghijklmnopqrstuvwxyz ")
    if mark and digits.strip("0") == "":
        return number + rest[len(digits) :]
    return words


def shown_range(lane: Lane) -> tuple[float, float]:
    """Values a lane must show: its curve, and bounds that are near it."""
    good = lane.values[np.isfinite(lane.values)]
    low, high = (float(good.min()), float(good.max())) if len(good) else (0.0, 1.0)
    reach = max(high - low, 1e-9)
    for bound in (lane.least, lane.greatest):
        if bound is not None and low - 1.2 * reach < bound < high + 1.2 * reach:
            low, high = min(low, bound), max(high, bound)
    return with_room(low, high, 0.04)
