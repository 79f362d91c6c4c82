"""A measure where a joint is at a value, not over the whole motion."""

from __future__ import annotations

import numpy as np

from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Unanswered
from anakinema.measures.joint import JointValue
from anakinema.measures.located import Located
from anakinema.measures.subject import Measure, Subject
from anakinema.motion.events import find_roots
from anakinema.motion.motion import Motion

REACHED = 1e-9
"""Share of a joint's travel (or rad, mm) by which it may miss a value and be there."""


def at_moment(
    subject: Subject, measure: Measure, reduce: model.Reduce, at: model.Moment
) -> Answer | Unanswered:
    """The least or greatest of a measure over all moments at which a joint is at a value."""
    joints = subject.resolved.document.joints
    joint = [each.id for each in joints].index(at.joint)
    dimension = spec_of(joints[joint].kind).dimension
    value = subject.resolved.reader.read(at.value, dimension, joints[joint].title, "value")
    motion = subject.motion
    if not isinstance(measure, Located):
        return Unanswered("no value at a pose")
    where = passages(motion, joint, value)
    if not len(where):
        return Unanswered("never there")
    if motion.segments:
        values = measure.over(motion, motion.at(where))
    else:
        shown = measure.over(motion, motion.samples)
        values = np.interp(where, motion.progress, shown)
    if np.isnan(values).any():
        return Unanswered("singular")
    sized = np.abs(values) if reduce == "size" else values
    k = int(np.argmin(sized) if reduce == "least" else np.argmax(sized))
    return Answer(float(sized[k]), float(sized[k]), float(where[k]), measure.about)


def passages(motion: Motion, joint: int, value: float) -> Floats:
    """(M,) progress at which a joint is at a value (inside units), located."""
    looks = JointValue(joint).looks(motion, "range")
    order = np.argsort(looks.progress, kind="stable")
    progress, off = looks.progress[order], looks.values[order] - value
    near = REACHED * max(float(np.ptp(looks.values)), 1.0)
    there = progress[np.abs(off) <= near]
    k = np.flatnonzero(np.sign(off[1:]) * np.sign(off[:-1]) < 0)
    k = k[(np.abs(off[k]) > near) & (np.abs(off[k + 1]) > near)]
    if not len(k):
        return np.unique(there)
    if not motion.segments:
        share = off[k] / (off[k] - off[k + 1])
        return np.unique(np.append(there, progress[k] + share * (progress[k + 1] - progress[k])))

    def away(p: Floats) -> tuple[Floats, Floats]:
        state = motion.at(p)
        return state.values[:, joint] - value, state.value_first[:, joint]

    roots = find_roots(away, (progress[k], progress[k + 1]), (off[k], off[k + 1]))
    return np.unique(np.append(there, roots))
