"""Time along a program: stages that follow a law, last so long, and pause at their end."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.document.program_values import ProgramValues
from anakinema.geometry.contour import Floats
from anakinema.geometry.laws import MotionLaw, rise, time_of


@dataclass(frozen=True, slots=True, eq=False)
class Timing:
    """begins, spans (S,) s: when a stage begins to move and how long it moves; total s of all.

    A stage's progress is the share of its way that is done, so a law only says when.
    """

    begins: Floats
    spans: Floats
    laws: tuple[MotionLaw, ...]
    total: float

    def time(self, stage: np.ndarray, share: Floats) -> Floats:
        """(N,) seconds at which shares (N,) of stages (N,) are done; an end is before its pause."""
        if not self.laws:
            return np.zeros(np.shape(share))
        part = np.empty(np.shape(share))
        for law, members in self._by_law(stage):
            part[members] = time_of(law, share[members])
        return np.asarray(self.begins[stage] + part * self.spans[stage])

    def rates(self, stage: np.ndarray, share: Floats) -> tuple[Floats, Floats]:
        """(N,) progress per second, and per second squared."""
        first, second = np.zeros(np.shape(share)), np.zeros(np.shape(share))
        for law, members in self._by_law(stage):
            _, v, a = rise(law, time_of(law, share[members]))
            span = self.spans[stage[members]]
            first[members], second[members] = v / span, a / span**2
        return first, second

    def progress_at(self, seconds: float) -> float:
        """Progress at a time; it stands still in a pause."""
        if not self.laws:
            return 0.0
        stage = int(np.clip(np.searchsorted(self.begins, seconds, "right") - 1, 0, None))
        x = np.array([(seconds - self.begins[stage]) / self.spans[stage]])
        return stage + float(rise(self.laws[stage], x)[0][0])

    def _by_law(self, stage: np.ndarray) -> list[tuple[MotionLaw, np.ndarray]]:
        if not self.laws:
            return []
        laws = np.array(self.laws)[stage]
        return [(law, np.flatnonzero(laws == law)) for law in dict.fromkeys(self.laws)]


def timing(program: ProgramValues) -> Timing:
    """When the stages of a program begin: each lasts as stated, or as its slowest driver needs."""
    begins, spans, clock = [], [], 0.0
    values = list(program.starts)
    for stage in program.stages:
        longest = 0.0
        for driver, target in stage.moves:
            longest = max(longest, abs(target - values[driver]) / program.rates[driver])
            values[driver] = target
        begins.append(clock)
        spans.append(longest if stage.lasts is None else stage.lasts)
        clock += spans[-1] + stage.pause
    laws = tuple(stage.law for stage in program.stages)
    return Timing(np.array(begins), np.array(spans), laws, clock)
