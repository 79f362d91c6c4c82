"""Travel gauges: for each joint the permitted range, the range used, and the present value."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document.kinds import value_dimension
from anakinema.findings.check import used_range
from anakinema.findings.evaluate import Evaluation
from anakinema.units import Dimension


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


def gauges(evaluation: Evaluation) -> tuple[Gauge, ...]:
    """A gauge for every joint that can move."""
    out = []
    for j, joint in enumerate(evaluation.document.joints):
        if joint.kind == "rigid":
            continue
        low, high, _, _ = used_range(evaluation.motion, j)
        limits = evaluation.resolved.joints[j]
        driven = j in evaluation.motion.driver_joints
        out.append(
            Gauge(j, joint.title, value_dimension(joint.kind), low, high, limits.least,
                  limits.greatest, limits.rest, driven)
        )  # fmt: skip
    return tuple(out)
