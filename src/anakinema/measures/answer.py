"""What measures and reductions give."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.analysis.gap import Gap
from anakinema.geometry.contour import Floats


@dataclass(frozen=True, slots=True)
class Answer:
    """One answer about a motion: the value lies between ``low`` and ``high`` (equal if located).

    progress : where it was found. joint : the joint it is about. gap : for gaps, what was found.
    """

    low: float
    high: float
    progress: float | None = None
    joint: int | None = None
    gap: Gap | None = None


@dataclass(frozen=True, slots=True)
class Unanswered:
    """Why there is no answer: a code that `anakinema.findings.wording` turns into a sentence."""

    reason: str


@dataclass(frozen=True, slots=True, eq=False)
class Curve:
    """Values of a measure (M,) at progress (M,)."""

    progress: Floats
    values: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Looks:
    """Values (M,) at every progress (M,) where a measure may be least or greatest.

    Those at the samples come first; ``turns`` (T,) are the progress of its located extremes.
    """

    progress: Floats
    values: Floats
    turns: Floats
