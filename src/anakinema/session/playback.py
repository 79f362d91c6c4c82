"""The playhead: where on the motion we are, in progress, time and driver values."""

from __future__ import annotations

import numpy as np

from anakinema.findings.evaluate import Evaluation


class Playback:
    """Moves along one evaluation's motion. Pure arithmetic on its samples and stages."""

    def __init__(self, evaluation: Evaluation) -> None:
        self._evaluation = evaluation
        self._motion = evaluation.motion

    @property
    def first(self) -> float:
        """Progress at which the motion begins."""
        return float(self._motion.progress[0])

    @property
    def last(self) -> float:
        """Progress at which it ends."""
        return self._motion.last

    @property
    def duration(self) -> float:
        """Seconds from begin to end at the program's rates."""
        if self.last >= self._motion.stages:
            return self._motion.timing.total
        return float(self._motion.time(np.array([self.last]))[0])

    def time_at(self, progress: float) -> float:
        """Seconds at a progress."""
        return float(self._motion.time(np.array([progress]))[0])

    def progress_at(self, seconds: float) -> float:
        """Progress at a time, kept within the motion."""
        progress = self._motion.timing.progress_at(seconds)
        return min(max(progress, self.first), self.last)

    def leader(self, progress: float) -> int | None:
        """Index of the driver that leads the stage at a progress."""
        if not self._motion.stages:
            return None
        stage = int(self._motion.stage_of(np.array([progress]))[0])
        return self._evaluation.resolved.program.stages[stage].moves[0][0]

    def leader_joint(self, progress: float) -> int | None:
        """Joint of the leading driver."""
        leader = self.leader(progress)
        return None if leader is None else self._motion.driver_joints[leader]

    def stage_span(self, stage: int) -> tuple[float, float]:
        """Values of the leading driver at both ends of a stage, rad or mm."""
        program = self._evaluation.resolved.program
        values = list(program.starts)
        for k, each in enumerate(program.stages):
            start = list(values)
            for driver, target in each.moves:
                values[driver] = target
            if k == stage:
                lead = each.moves[0][0]
                return start[lead], values[lead]
        return 0.0, 0.0

    def driver_value(self, progress: float) -> float | None:
        """Value of the leading driver at a progress, rad or mm."""
        if self.leader(progress) is None:
            return None
        stage = int(self._motion.stage_of(np.array([progress]))[0])
        start, end = self.stage_span(stage)
        return start + (progress - stage) * (end - start)

    def progress_of_value(self, value: float, near: float) -> float:
        """Progress nearest to ``near`` at which its stage's leading driver has a value.

        Searches the other stages of the same driver if this one does not reach it; the nearest
        end of the present stage if none does.
        """
        stage = int(self._motion.stage_of(np.array([near]))[0])
        lead = self.leader(near)
        order = sorted(range(self._motion.stages), key=lambda k: abs(k - stage))
        for k in order:
            if self._evaluation.resolved.program.stages[k].moves[0][0] != lead:
                continue
            start, end = self.stage_span(k)
            if start == end:
                continue
            share = (value - start) / (end - start)
            if -1e-9 <= share <= 1 + 1e-9:
                return min(max(k + share, self.first), self.last)
        start, end = self.stage_span(stage)
        share = min(max((value - start) / ((end - start) or 1.0), 0.0), 1.0)
        return min(max(stage + share, self.first), self.last)

    def stepped(self, progress: float, step: float, direction: int) -> float:
        """Progress one exact driver step on or back, whatever the samples.

        Past the end of a stage the remainder is dropped: the step lands on the boundary.
        """
        if not self._motion.stages:
            return progress
        nudged = progress + direction * 1e-9
        stage = int(self._motion.stage_of(np.array([max(nudged, 1e-12)]))[0])
        start, end = self.stage_span(stage)
        share = step / (abs(end - start) or 1.0)
        moved = min(max(progress + direction * share, float(stage)), float(stage + 1))
        return min(max(moved, self.first), self.last)

    def next_event(self, progress: float, direction: int) -> float | None:
        """Progress of the next event on or back, None if there is none."""
        places = sorted({event.progress for event in self._motion.events})
        if direction > 0:
            return next((p for p in places if p > progress + 1e-9), None)
        return next((p for p in reversed(places) if p < progress - 1e-9), None)
