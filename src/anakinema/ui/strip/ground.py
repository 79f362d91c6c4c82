"""Where the strip puts progress: over progress or over time, zoomed and moved."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.findings import Evaluation
from anakinema.ui.axes import Axis

CLOSEST = 1e-3
"""Share of the whole that may fill the strip at most."""


@dataclass(frozen=True, slots=True)
class Window:
    """Which part of the whole is on show, as shares 0 to 1."""

    low: float = 0.0
    high: float = 1.0

    def zoomed(self, factor: float, about: float) -> Window:
        """Closer (factor above 1) about a share of the whole that stays where it is."""
        span = min(max((self.high - self.low) / factor, CLOSEST), 1.0)
        real = span / (self.high - self.low)
        low = about + (self.low - about) * real
        return Window(low, low + span).inside

    def moved(self, share: float) -> Window:
        """Further on by a share of the whole."""
        return Window(self.low + share, self.high + share).inside

    @property
    def inside(self) -> Window:
        """The same part, moved so that it lies within the whole."""
        span = self.high - self.low
        low = min(max(self.low, 0.0), 1.0 - span)
        return Window(low, low + span)


class Ground:
    """Progress, time and pixels of one evaluation."""

    def __init__(
        self,
        evaluation: Evaluation | None,
        window: Window,
        left: float,
        right: float,
        on_time: bool,
    ) -> None:
        self._evaluation = evaluation
        motion = evaluation.motion if evaluation is not None else None
        self.stages = max(motion.stages, 1) if motion is not None else 1
        total = motion.timing.total if motion is not None else 0.0
        self.on_time = on_time and total > 0
        self.whole = total if self.on_time else float(self.stages)
        """Seconds, or stages, from one end of the whole to the other."""
        self.axis = Axis(
            window.low * self.whole, window.high * self.whole, left, max(right, left + 1)
        )

    def places(self, progress: np.ndarray) -> np.ndarray:
        """(N,) where progress (N,) stands on the axis: seconds or itself."""
        if not self.on_time or self._evaluation is None:
            return progress
        return self._evaluation.motion.time(progress)

    def x(self, progress: float) -> float:
        """Pixel of a progress."""
        return self.axis.pixel(float(self.places(np.array([progress]))[0]))

    def progress(self, x: float) -> float:
        """Progress at a pixel."""
        value = self.axis.value(x)
        if not self.on_time or self._evaluation is None:
            return value
        return self._evaluation.motion.timing.progress_at(min(max(value, 0.0), self.whole))

    def stage_pixels(self, stage: int) -> tuple[float, float, float]:
        """Where a stage begins and ends to move, and where its pause ends."""
        if not self.on_time or self._evaluation is None:
            begin, end = self.axis.pixel(float(stage)), self.axis.pixel(float(stage + 1))
            return begin, end, end
        timing = self._evaluation.motion.timing
        begin, span = float(timing.begins[stage]), float(timing.spans[stage])
        last = stage + 1 >= len(timing.begins)
        next_begin = timing.total if last else float(timing.begins[stage + 1])
        return self.axis.pixel(begin), self.axis.pixel(begin + span), self.axis.pixel(next_begin)

    def share(self, x: float) -> float:
        """Share of the whole at a pixel."""
        return self.axis.value(x) / self.whole
