"""How far two faces or rims that were picked in depth are apart."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats

PARALLEL = 1e-6


@dataclass(frozen=True, slots=True, eq=False)
class Spot:
    """A place that was picked: where (3,) mm, the normal (3,) of its face, and its words.

    A rim's normal is None, and its place the middle of its hole.
    """

    at: Floats
    normal: Floats | None
    words: str


@dataclass(frozen=True, slots=True, eq=False)
class Apart:
    """What two spots are apart: values in mm by what they are, and the two ends (3,) of a line
    that shows the first of them."""

    values: tuple[tuple[str, float], ...]
    first: Floats
    second: Floats


def apart(one: Spot, other: Spot) -> Apart:
    """Between level faces their heights; between parallel walls their distance; between rims or
    any others height, distance in the plane, and straight through."""
    across = other.at - one.at
    height, plan = abs(float(across[2])), math.hypot(across[0], across[1])
    if _are_parallel(one.normal, other.normal):
        assert one.normal is not None
        square = float(across @ one.normal)
        end = one.at + square * one.normal
        name = "height" if abs(one.normal[2]) > 0.5 else "between the walls"
        return Apart(((name, abs(square)),), one.at, end)
    through = float(np.linalg.norm(across))
    return Apart(
        (("straight through", through), ("in the plane", plan), ("height", height)),
        one.at,
        other.at,
    )


def _are_parallel(one: Floats | None, other: Floats | None) -> bool:
    if one is None or other is None:
        return False
    return bool(np.linalg.norm(np.cross(one, other)) < PARALLEL)
