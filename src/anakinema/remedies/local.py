"""A requirement judged beside the places where it is worst, for changed numbers: nine poses each
instead of a whole motion."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from anakinema.analysis.gaps import Comparisons, Gaps
from anakinema.document import model
from anakinema.document.model import Document
from anakinema.document.resolve import resolve
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation, compared
from anakinema.geometry.contour import Floats
from anakinema.measures import Answer, Subject, Unanswered, answered, measure_of
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.motion.motion import Motion, States, joined
from anakinema.motion.preview import seen_at

REACH, POINTS = 0.02, 9
"""Progress on both sides of a place that is looked at, and looks there."""
WHOLE = (
    ("time_ratio",),
    ("dwell", "path", "straight", "round", "freedoms", "phase", "pinch", "rubbing"),
)
"""Reductions and measures that nothing but the whole motion tells."""


_last = threading.local()


def _mechanism(document: Document) -> tuple[Mechanism, Comparisons]:
    """Compiled, and what is compared of it; several requirements are asked of one document after
    another."""
    if getattr(_last, "document", None) is not document:
        mechanism = compile_mechanism(resolve(document))
        _last.found = mechanism, compared(mechanism)
        _last.document = document
    found: tuple[Mechanism, Comparisons] = _last.found
    return found


class Local:
    """One requirement of an evaluation, asked again for documents with other numbers.

    What the few poses make of the present numbers is corrected to the exact answer; the same
    correction is taken for the others. ``looks`` counts them. Made by `locals_of`.
    """

    def __init__(
        self, evaluation: Evaluation, requirement: model.Requirement, exact: Answer | None = None
    ) -> None:
        self._evaluation, self._requirement = evaluation, requirement
        self.requirement_id = requirement.id
        self.looks = 0
        subject = Subject(evaluation.resolved, evaluation.motion, evaluation.gaps)
        found = exact or answered(subject, requirement, _asked_above(evaluation, requirement))
        self._progress = self._places(subject, found)
        self._states: States | None = None
        self._off = 0.0
        self.known = found.high if isinstance(found, Answer) else None
        self.is_local = False

    def value(self, document: Document) -> float | None:
        """The answer for another document, None if its poses do not close."""
        return values_of([self], document)[0]

    def _places(self, subject: Subject, found: Answer | Unanswered) -> Floats | None:
        """Progress to look at; None where only the whole motion tells."""
        measure, reduce = self._requirement.measure, self._requirement.reduce
        motion = self._evaluation.motion
        if reduce in WHOLE[0] or measure.kind in WHOLE[1] or not motion.segments:
            return None
        partly = self._requirement.at is not None or self._requirement.between is not None
        if not isinstance(found, Answer) or partly:
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

    def _answered(self, motion: Motion, pairs: Comparisons) -> float | None:
        """What a motion of its few poses makes of it, corrected."""
        resolved = motion.mechanism.resolved
        subject = Subject(resolved, motion, Gaps(motion, pairs, exact=False))
        try:
            found = answered(subject, self._requirement, None)
        except AnakinemaError:
            return None
        return found.high + self._off if isinstance(found, Answer) else None


def _asked_above(evaluation: Evaluation, requirement: model.Requirement) -> float | None:
    """What its least was when it was judged, so that the same answer is found again."""
    asked = zip(evaluation.document.requirements, evaluation.resolved.requirements, strict=True)
    return next((values.least for each, values in asked if each.id == requirement.id), None)


def local_of(evaluation: Evaluation, requirement: model.Requirement) -> Local:
    """One requirement, ready to be asked again."""
    return locals_of(evaluation, [(requirement, None)])[0]


def locals_of(
    evaluation: Evaluation, asked: Sequence[tuple[model.Requirement, Answer | None]]
) -> list[Local]:
    """Requirements, and their answers if those are known, ready to be asked again."""
    made = [Local(evaluation, requirement, exact) for requirement, exact in asked]
    placed = [local for local in made if local._progress is not None]
    if placed:
        progress = [local._progress for local in placed if local._progress is not None]
        states, first = evaluation.motion.at(np.concatenate(progress)), 0
        for local, some in zip(placed, progress, strict=True):
            local._states = states.taken(np.arange(first, first + len(some)))
            first += len(some)
    for local, here in zip(made, values_of(made, evaluation.source), strict=True):
        local.is_local = here is not None
        if here is not None and local.known is not None:
            local._off = local.known - here
    return made


def values_of(locals_: Sequence[Local], document: Document) -> list[float | None]:
    """The answers of requirements of one evaluation for another document, None where poses do not
    close: all their poses are closed at once."""
    found: list[float | None] = [None] * len(locals_)
    asked = [
        (k, local, local._progress, local._states)
        for k, local in enumerate(locals_)
        if local._progress is not None and local._states is not None
    ]
    if not asked:
        return found
    for _, local, _, _ in asked:
        local.looks += 1
    whole = asked[0][1]._evaluation.motion
    try:
        mechanism, pairs = _mechanism(document)
        motion = seen_at(
            mechanism,
            whole,
            np.concatenate([progress for _, _, progress, _ in asked]),
            joined([states for _, _, _, states in asked]),
        )
    except AnakinemaError:
        return found
    if motion is None and len(asked) > 1:
        # Some poses do not close; others may.
        return [values_of([local], document)[0] for local in locals_]
    if motion is None:
        return found
    first = 0
    for k, local, progress, _ in asked:
        rows = np.arange(first, first + len(progress))
        first += len(progress)
        some = replace(motion, samples=motion.samples.taken(rows), reach=motion.reach[rows])
        found[k] = local._answered(some, pairs)
    return found
