"""A requirement judged beside the places where it is worst, for changed numbers: nine poses each
instead of a whole motion."""

from __future__ import annotations

import threading

import numpy as np

from anakinema.analysis.gaps import Gaps
from anakinema.document import model
from anakinema.document.model import Document
from anakinema.document.resolve import resolve
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation, compared
from anakinema.geometry.contour import Floats
from anakinema.measures import Answer, Subject, Unanswered, answered, measure_of
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.motion.preview import seen_at

REACH, POINTS = 0.02, 9
"""Progress on both sides of a place that is looked at, and looks there."""
WHOLE = (
    ("time_ratio",),
    ("dwell", "path", "straight", "round", "freedoms", "phase", "pinch", "rubbing"),
)
"""Reductions and measures that nothing but the whole motion tells."""


_last = threading.local()


def _mechanism(document: Document) -> Mechanism:
    """Compiled; several requirements are asked of one document after another."""
    if getattr(_last, "document", None) is not document:
        _last.mechanism = compile_mechanism(resolve(document))
        _last.document = document
    mechanism: Mechanism = _last.mechanism
    return mechanism


class Local:
    """One requirement of an evaluation, asked again for documents with other numbers.

    What the few poses make of the present numbers is corrected to the exact answer; the same
    correction is taken for the others. ``looks`` counts them.
    """

    def __init__(self, evaluation: Evaluation, requirement: model.Requirement) -> None:
        self._evaluation, self._requirement = evaluation, requirement
        self.requirement_id = requirement.id
        self.looks = 0
        subject = Subject(evaluation.resolved, evaluation.motion, evaluation.gaps)
        exact = answered(subject, requirement, None)
        self._progress = self._places(subject, exact)
        self._off = 0.0
        here = self._value(evaluation.source)
        self.known = exact.high if isinstance(exact, Answer) else None
        if here is not None and self.known is not None:
            self._off = self.known - here
        self.is_local = here is not None

    def value(self, document: Document) -> float | None:
        """The answer for another document, None if its poses do not close."""
        found = self._value(document)
        return None if found is None else found + self._off

    def _places(self, subject: Subject, found: Answer | Unanswered) -> Floats | None:
        """Progress to look at; None where only the whole motion tells."""
        measure, reduce = self._requirement.measure, self._requirement.reduce
        motion = self._evaluation.motion
        if reduce in WHOLE[0] or measure.kind in WHOLE[1] or not motion.segments:
            return None
        if not isinstance(found, Answer) or self._requirement.at is not None:
            return None
        # What does not depend on the pose is looked at anywhere.
        places = [0.0 if found.progress is None else found.progress]
        if reduce == "range":
            curve = measure_of(self._evaluation.resolved, measure).curve(subject)
            if curve is None:
                return None
            places += [curve.progress[np.argmin(curve.values)]]
            places += [curve.progress[np.argmax(curve.values)]]
        around = np.linspace(-REACH, REACH, POINTS)
        return np.unique(np.clip(np.add.outer(places, around), 0.0, motion.last))

    def _value(self, document: Document) -> float | None:
        if self._progress is None:
            return None
        self.looks += 1
        try:
            mechanism = _mechanism(document)
            motion = seen_at(mechanism, self._evaluation.motion, self._progress)
            if motion is None:
                return None
            gaps = Gaps(motion, *compared(mechanism), exact=False)
            subject = Subject(mechanism.resolved, motion, gaps)
            found = answered(subject, self._requirement, None)
        except AnakinemaError:
            return None
        return found.high if isinstance(found, Answer) else None
