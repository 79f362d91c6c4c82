"""A measure over the part of a motion between two kept poses."""

from __future__ import annotations

from anakinema.analysis.gaps import Gaps
from anakinema.document import model
from anakinema.measures.answer import Unanswered
from anakinema.measures.gap import BodyGap
from anakinema.measures.located import Located
from anakinema.measures.subject import Measure, Subject
from anakinema.motion.kept_poses import between, passes, standing_in

SHORT = 1e-9
"""Progress; less is no part of a motion."""


def part_between(subject: Subject, measure: Measure, span: model.Between) -> Subject | Unanswered:
    """The motion from one kept pose to the other, whichever it passes first."""
    if not isinstance(measure, Located | BodyGap):
        return Unanswered("not in part")
    kept = {pose.id: pose for pose in subject.resolved.source.poses}
    places = []
    for name in (span.first, span.last):
        if name not in kept:
            return Unanswered("no such pose")
        where = passes(subject.motion, standing_in(subject.resolved, kept[name]).poses)
        if where is None:
            return Unanswered("pose not passed")
        places.append(where)
    first, last = sorted(places)
    if last - first <= SHORT:
        return Unanswered("one pose")
    motion = between(subject.motion, first, last)
    gaps = subject.gaps
    part = Gaps(motion, gaps.compared, exact=gaps.exact)
    return Subject(subject.resolved, motion, part)
