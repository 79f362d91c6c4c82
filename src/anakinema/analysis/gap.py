"""The smallest gap of something over a motion, with how far to trust it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from anakinema.analysis.stretches import joined_spans


@dataclass(frozen=True, slots=True)
class Gap:
    """The smallest gap of a set of body pairs over the motion.

    It lies in [least, most] mm; below zero it is an overlap, the
    deepest of the motion as far as looked for. ``most``
    was seen at ``progress`` between the two points (mm, in the plane; three numbers each for bodies
    of different planes, in space). ``below`` are stretches
    of progress under the threshold asked for. ``sampled`` are stretches without a bound. With a
    ``loop`` it is the gap of a run of that belt or chain, behind the wheel ``first_body``. It
    With a ``rod`` it is the gap of the rod of that joint. It
    ``rests`` where a pin comes to the end of its slot and no farther.
    """

    first_body: int
    second_body: int
    least: float
    most: float
    progress: float
    first_point: tuple[float, ...]
    second_point: tuple[float, ...]
    below: tuple[tuple[float, float], ...]
    sampled: tuple[tuple[float, float], ...]
    evaluations: int
    belt: int | None = None
    rests: bool = False
    rod: int | None = None

    @property
    def is_certified(self) -> bool:
        """Whether the bound holds over every stretch of the motion."""
        return not self.sampled

    @property
    def overlaps(self) -> bool:
        """Whether the two bodies share space somewhere."""
        return self.most <= 0.0 and not self.rests


def together(gaps: Sequence[Gap]) -> Gap | None:
    """One gap for all of some: the nearest, with the bounds and stretches of all; None of none."""
    if len(gaps) < 2:
        return gaps[0] if gaps else None
    nearest = min(gaps, key=lambda gap: gap.most)
    return replace(
        nearest,
        least=nearest.most if nearest.overlaps else min(gap.least for gap in gaps),
        below=joined_spans([span for gap in gaps for span in gap.below]),
        sampled=joined_spans([span for gap in gaps for span in gap.sampled]),
        evaluations=sum(gap.evaluations for gap in gaps),
    )
