"""Travel gauges: for each joint the permitted range, the range used, and the present value."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.edits.base import Edit
from anakinema.edits.values import SetLimit
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.measures import JointValue
from anakinema.units import ANGLE, Dimension

Bound = Literal["least", "greatest", "rest"]
KEPT = 1e6
"""A limit set from a pose is kept to a millionth of a degree or mm, outwards."""


@dataclass(frozen=True, slots=True)
class Gauge:
    """One joint's travel; values shown, in rad or mm."""

    joint: int
    title: str
    dimension: Dimension
    low: float
    high: float
    least: float | None
    greatest: float | None
    rest: float | None
    is_driver: bool

    @property
    def spare(self) -> tuple[float | None, float | None]:
        """What is left below and above the range used, None without a limit."""
        below = None if self.least is None else self.low - self.least
        above = None if self.greatest is None else self.greatest - self.high
        return below, above


def gauges(evaluation: Evaluation) -> tuple[Gauge, ...]:
    """A gauge for every joint that can move."""
    out = []
    for j, joint in enumerate(evaluation.document.joints):
        if not spec_of(joint.kind).moves:
            continue
        looks = JointValue(j).looks(evaluation.motion, "range").values
        limits = evaluation.resolved.joints[j]
        driven = j in evaluation.motion.driver_joints
        out.append(
            Gauge(
                j,
                joint.title,
                spec_of(joint.kind).dimension,
                float(looks.min()),
                float(looks.max()),
                limits.least,
                limits.greatest,
                limits.rest,
                driven,
            )
        )
    return tuple(out)


def value_at(evaluation: Evaluation, joint: int, progress: float) -> float:
    """Exact value (rad or mm) of a joint at a progress."""
    return float(evaluation.motion.at(np.array([progress])).values[0, joint])


def shown_value(evaluation: Evaluation, joint: int, poses: Floats, near: float) -> float:
    """Value (rad or mm) of a joint at any poses (B, 3), in the full turn that ``near`` is in."""
    motion = evaluation.motion
    value = float((motion.mechanism.values(poses) + motion.shift)[joint])
    if motion.mechanism.angular[joint]:
        value += 2 * math.pi * round((near - value) / (2 * math.pi))
    return value


def limit_edit(
    evaluation: Evaluation, joint: int, which: Bound, value: float, step: float | None = None
) -> Edit:
    """The edit that sets a limit to a value (rad or mm).

    ``step`` deg or mm brings it to whole steps; without it a limit lies just outside the value.
    """
    angular = spec_of(evaluation.document.joints[joint].kind).dimension == ANGLE
    shown = math.degrees(value) if angular else value
    if step is not None:
        shown = round(shown / step) * step
    elif which != "rest":
        outwards = math.floor if which == "least" else math.ceil
        # A value that is whole but for rounding stays whole.
        shown = outwards(round(shown * KEPT, 2)) / KEPT
    unit = "deg" if angular else "mm"
    return SetLimit(evaluation.document.joints[joint].id, which, f"{shown:.12g} {unit}")


def progress_with(evaluation: Evaluation, joint: int, value: float, near: float) -> float:
    """The progress nearest to ``near`` at which a joint has a value, or comes closest to it."""
    progress, values = evaluation.motion.progress, evaluation.motion.values[:, joint]
    away = values - value
    change = np.flatnonzero(away[:-1] * away[1:] <= 0)
    change = change[away[change] != away[change + 1]]
    if not len(change):
        least = np.flatnonzero(np.abs(away) <= np.abs(away).min() + 1e-12)
        return float(progress[least[np.argmin(np.abs(progress[least] - near))]])
    share = away[change] / (away[change] - away[change + 1])
    met = progress[change] + share * (progress[change + 1] - progress[change])
    return float(met[np.argmin(np.abs(met - near))])
