"""How long a joint stays within a band, wherever that lies."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Curve, Unanswered
from anakinema.measures.joint import JointValue
from anakinema.measures.located import closes
from anakinema.measures.subject import Subject
from anakinema.motion.branch_path import End
from anakinema.motion.motion import Motion

DENSE = 2000
"""Looks over the motion before the ends of the longest stay are closed in on."""
POINTS, ROUNDS = 15, 6
"""Looks in each of the stretches beside the two ends, and how often they are taken."""


@dataclass(frozen=True, slots=True, eq=False)
class _Course:
    """Progress, times (s) and values (M,) in order; straight between them."""

    progress: Floats
    times: Floats
    values: Floats


@dataclass(frozen=True)
class Dwell:
    """The longest time that a joint's value stays within a band of a width (rad or mm)."""

    joint: int
    band: float

    @property
    def shown(self) -> JointValue:
        """A lane shows the joint."""
        return JointValue(self.joint)

    def curve(self, subject: Subject, above: float | None = None) -> Curve:
        """The joint's value."""
        return self.shown.curve(subject)

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """Seconds of the longest stay; a closed cycle has no seam."""
        motion = subject.motion
        if not motion.stages:
            return Unanswered("no program")
        progress = motion.progress
        if motion.segments:
            between = max(1, round(DENSE / len(progress)))
            shares = np.arange(between) / between
            steps = progress[:-1, None] + np.diff(progress)[:, None] * shares
            progress = np.unique(np.concatenate([steps.ravel(), self._turns(motion), progress]))
        course = self._course(motion, progress)
        stay, begins, ends = longest_stay(course.times, course.values, self.band)
        for _ in range(ROUNDS if motion.segments else 0):
            progress = np.unique(np.append(progress, self._beside(motion, course, begins, ends)))
            course = self._course(motion, progress)
            stay, begins, ends = longest_stay(course.times, course.values, self.band)
        total = float(course.times[-1]) if motion.last < motion.stages else motion.timing.total
        at = float(np.interp(begins, course.times, course.progress))
        stay = min(stay, total)
        return Answer(stay, stay, min(at, motion.last), joint=self.joint)

    def _turns(self, motion: Motion) -> Floats:
        return JointValue(self.joint).looks(motion, "range").turns

    def _course(self, motion: Motion, progress: Floats) -> _Course:
        """The joint at some progress, pauses after their stages, a closed cycle twice."""
        values = motion.at(progress).values[:, self.joint]
        times = motion.time(progress)
        begins = np.append(motion.timing.begins[1:], motion.timing.total)
        for stage, after in enumerate(begins, 1):
            k = int(np.searchsorted(progress, stage + 1e-9))
            if stage <= motion.last + 1e-9 and after > times[k - 1]:
                progress, values, times = (
                    np.insert(each, k, here)
                    for each, here in ((progress, stage), (values, values[k - 1]), (times, after))
                )
        if motion.end is End.COMPLETE and closes(values):
            progress, values = np.append(progress, progress[1:]), np.append(values, values[1:])
            times = np.append(times, times[1:] + times[-1])
        return _Course(progress, times, values)

    def _beside(self, motion: Motion, course: _Course, begins: float, ends: float) -> Floats:
        """More progress in the stretches in which a stay begins and ends."""
        found = []
        for at in (begins, ends):
            k = int(np.clip(np.searchsorted(course.times, at), 1, len(course.times) - 1))
            low, high = (
                course.progress[max(k - 2, 0)],
                course.progress[min(k + 1, len(course.times) - 1)],
            )
            if low < high:
                found.append(np.linspace(low, high, POINTS + 2))
        return np.concatenate(found) if found else np.empty(0)


def longest_stay(times: Floats, values: Floats, band: float) -> tuple[float, float, float]:
    """The longest time that a course straight between looks (M,) stays within a band: its length,
    begin and end.

    One of its ends lies on a look: between two looks the length changes evenly while both ends
    move. So all that begin on one, forwards and backwards in time, are tried.
    """
    one = _from_looks(times, values, band)
    back = _from_looks(-times[::-1], values[::-1], band)
    other = back[0], -back[2], -back[1]
    return max(one, other)


def _from_looks(times: Floats, values: Floats, band: float) -> tuple[float, float, float]:
    """The longest stay that begins on a look."""
    best = (0.0, float(times[0]), float(times[0]))
    low: deque[int] = deque()
    high: deque[int] = deque()
    after, t, v = 0, times.tolist(), values.tolist()
    for begin in range(len(v)):
        while low and low[0] < begin:
            low.popleft()
        while high and high[0] < begin:
            high.popleft()
        after = max(after, begin)
        while after < len(v):
            least = min(v[low[0]] if low else v[after], v[after])
            most = max(v[high[0]] if high else v[after], v[after])
            if most - least > band:
                break
            while low and v[low[-1]] >= v[after]:
                low.pop()
            while high and v[high[-1]] <= v[after]:
                high.pop()
            low.append(after)
            high.append(after)
            after += 1
        end = t[after - 1]
        if after < len(v):
            # It leaves on the way to the next look, over the top or through the bottom.
            rises = v[after] > v[after - 1]
            edge = v[low[0]] + band if rises else v[high[0]] - band
            end += (t[after] - end) * (edge - v[after - 1]) / (v[after] - v[after - 1])
        best = max(best, (end - t[begin], t[begin], end))
    return best


def dwell(resolved: Resolved, measure: model.DwellMeasure) -> Dwell:
    """The measure of a resolved document; raises an `AnakinemaError` at a band it cannot read."""
    joints = resolved.document.joints
    joint = [each.id for each in joints].index(measure.joint)
    where = f"dwell of '{joints[joint].title}'"
    band = resolved.reader.read(measure.band, spec_of(joints[joint].kind).dimension, where, "band")
    if band <= 0:
        raise ValueOutOfRangeError(
            "its band has no width.", where=where, remedy="Give a band above zero."
        )
    return Dwell(joint, band)
