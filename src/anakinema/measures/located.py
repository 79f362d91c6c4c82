"""Measures whose extremes are located exactly, and what is made of them."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping

import numpy as np

from anakinema.document import model
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Curve, Looks, Unanswered
from anakinema.measures.subject import Subject
from anakinema.motion.branch_path import End
from anakinema.motion.motion import Motion, States

CLOSES = 1e-6
"""Share of its range by which a value may miss its first at the end of a cycle."""
EVEN = 1e-11
"""Share of the greatest value by which others are as great."""
AT_THE_END = 1e-9
"""Progress; a stroke that ends where the cycle does has one extreme at both its ends."""


class Located(ABC):
    """A measure that is known at any pose, and whose extremes between samples are found."""

    @property
    def about(self) -> int | None:
        """The joint it is about, if it is about one."""
        return None

    @abstractmethod
    def over(self, motion: Motion, at: States) -> Floats:
        """(N,) its values at states of a motion, NaN where it has none."""

    @abstractmethod
    def looks(self, motion: Motion, reduce: model.Reduce) -> Looks:
        """Its values wherever one may be what ``reduce`` asks for."""

    def curve(self, subject: Subject, above: float | None = None) -> Curve:
        """Its values at the samples."""
        return Curve(subject.motion.progress, self.over(subject.motion, subject.motion.samples))

    @property
    def shown(self) -> Located:
        """A lane shows the measure itself."""
        return self

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """One answer made of it, exact whatever is asked."""
        found = _REDUCTIONS[reduce](self.looks(subject.motion, reduce), subject.motion)
        if isinstance(found, Unanswered):
            return found
        return Answer(found.low, found.high, found.progress, self.about)


class Posed(Located):
    """A measure that a pose alone tells."""

    @abstractmethod
    def values(self, at: States) -> Floats:
        """(N,) its values at states."""

    def over(self, motion: Motion, at: States) -> Floats:
        """(N,) the same, whatever the motion."""
        return self.values(at)


def _least(looks: Looks, motion: Motion) -> Answer:
    value, progress = _top(looks, -looks.values)
    return _at(-value, progress)


def _greatest(looks: Looks, motion: Motion) -> Answer:
    return _at(*_top(looks, looks.values))


def _size(looks: Looks, motion: Motion) -> Answer:
    return _at(*_top(looks, np.abs(looks.values)))


def _range(looks: Looks, motion: Motion) -> Answer:
    value, progress = _top(looks, looks.values)
    return _at(value - float(looks.values.min()), progress)


def _top(looks: Looks, values: Floats) -> tuple[float, float]:
    """The greatest of values (N,), and where it is first reached: where one stands for a while only
    rounding would say where it is greatest."""
    most = float(values.max())
    as_great = values >= most - EVEN * float(np.abs(values).max())
    return most, float(looks.progress[as_great].min())


def _time_ratio(looks: Looks, motion: Motion) -> Answer | Unanswered:
    shown = looks.values[: len(motion.progress)]
    cycle = closes(shown) and motion.end is End.COMPLETE
    turns = looks.turns[looks.turns < motion.last - AT_THE_END]
    if not cycle or len(turns) != 2:
        return Unanswered("no single stroke and return")
    times = motion.time(turns)
    one = float(times[1] - times[0])
    other = motion.timing.total - one
    return _at(max(one, other) / min(one, other), float(turns[0]))


def closes(values: Floats) -> bool:
    """Whether values (N,) end where they began."""
    size = float(np.ptp(values)) or 1.0
    return bool(abs(values[-1] - values[0]) < CLOSES * size)


def _at(value: float, progress: float) -> Answer:
    return Answer(value, value, progress)


_REDUCTIONS: Mapping[model.Reduce, Callable[[Looks, Motion], Answer | Unanswered]] = {
    "least": _least,
    "greatest": _greatest,
    "range": _range,
    "size": _size,
    "time_ratio": _time_ratio,
}
