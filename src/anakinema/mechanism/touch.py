"""Two features in touch, as one more condition of a mechanism."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve
from anakinema.mechanism.fields import Run
from anakinema.mechanism.frames import JointTable
from anakinema.mechanism.kernels import Kernel


@dataclass(frozen=True, slots=True)
class Touch:
    """A condition between a feature of the first body and one of the second.

    The gap is ``sign`` times what the kernel gives less ``target`` (mm). Points (mm) and angles
    (rad) are in the frames of their bodies; ``radius`` is that of a circle condition, ``curve``
    the curve of one on a curve, in the frame of the first place. With ``terms`` (kernel, factor)
    the condition is that the sum of those stays at ``target``: that is how rounds roll.
    """

    kernel: Kernel
    first: int
    second: int
    first_point: tuple[float, float]
    second_point: tuple[float, float]
    first_angle: float = 0.0
    second_angle: float = 0.0
    radius: float = 1.0
    curve: Curve | Run | None = None
    target: float = 0.0
    sign: float = 1.0
    terms: tuple[tuple[Kernel, float], ...] = ()


def with_touches(table: JointTable, touches: tuple[Touch, ...]) -> JointTable:
    """A table with a row more for every touch."""
    if not touches:
        return table
    return replace(
        table,
        first=np.append(table.first, [t.first for t in touches]),
        second=np.append(table.second, [t.second for t in touches]),
        first_point=_more(table.first_point, [t.first_point for t in touches], -2),
        second_point=_more(table.second_point, [t.second_point for t in touches], -2),
        first_angle=_more(table.first_angle, [t.first_angle for t in touches], -1),
        second_angle=_more(table.second_angle, [t.second_angle for t in touches], -1),
        radius=_more(table.radius, [t.radius for t in touches], -1),
        curves=(*table.curves, *(t.curve for t in touches)),
    )


def _more(known: Floats, new: Sequence[object], axis: int) -> Floats:
    """Numbers with those of touches behind them, the same for all variants."""
    rows = np.asarray(new, dtype=float)
    lead = known.shape[: known.ndim + axis]
    return np.concatenate([known, np.broadcast_to(rows, (*lead, *rows.shape))], axis=axis)
