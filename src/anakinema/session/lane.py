"""What the travel strip shows: measures over progress, each with its permitted band."""

from __future__ import annotations

from dataclasses import dataclass, replace

from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.measured import measured_as
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Finding, Outcome
from anakinema.geometry.contour import Floats
from anakinema.measures import JointValue, Measure, Subject, measure_of
from anakinema.units import Dimension

MOST_OUTPUTS = 3


@dataclass(frozen=True, eq=False)
class Lane:
    """A curve of the strip. progress, values (M,); bounds in the same inside units."""

    title: str
    progress: Floats
    values: Floats
    dimension: Dimension
    least: float | None
    greatest: float | None
    finding: str | None
    outcome: Outcome
    measure: str = ""
    """The id of the measure that was kept to be shown, '' for one that is asked about."""


def lanes(evaluation: Evaluation) -> tuple[Lane, ...]:
    """A lane for every measure that is asked about, for what is kept, else for free outputs.

    Joints are shown once, between their limits.
    """
    resolved, document = evaluation.resolved, evaluation.document
    subject = Subject(resolved, evaluation.motion, evaluation.gaps)
    kinds = joint_kinds(document)
    found: list[Lane | None] = []
    joints_shown: set[int] = set()
    by_id = {finding.id: finding for finding in evaluation.verdict.findings}
    for requirement in document.requirements:
        shown, finding = measure_of(resolved, requirement.measure).shown, by_id[requirement.id]
        if not isinstance(shown, JointValue):
            dimension = measured_as(requirement.measure).dimension(requirement.measure, kinds)
            is_value = requirement.reduce in ("least", "greatest")
            found.append(_lane(subject, shown, dimension, finding.title, finding, bounded=is_value))
        elif shown.joint not in joints_shown:
            joints_shown.add(shown.joint)
            found.append(_joint_lane(evaluation, subject, shown, finding))
    for kept in document.measures:
        shown = measure_of(resolved, kept.measure).shown
        dimension = measured_as(kept.measure).dimension(kept.measure, kinds)
        lane = _lane(subject, shown, dimension, kept.title, None)
        found.append(None if lane is None else replace(lane, measure=kept.id))
    lanes_found = tuple(lane for lane in found if lane is not None)
    return lanes_found or _output_lanes(evaluation, subject)


def _lane(
    subject: Subject,
    measure: Measure,
    dimension: Dimension,
    title: str,
    finding: Finding | None,
    *,
    bounded: bool = False,
) -> Lane | None:
    """A measure, ``bounded`` by what a finding asks: bounds of a range are none of its values."""
    least = None if finding is None or not bounded else finding.least
    curve = measure.curve(subject, least)
    if curve is None:
        return None
    return Lane(
        title,
        curve.progress,
        curve.values,
        dimension,
        least,
        None if finding is None or not bounded else finding.greatest,
        None if finding is None else finding.id,
        Outcome.PASS if finding is None else finding.outcome,
    )


def _joint_lane(
    evaluation: Evaluation, subject: Subject, measure: JointValue, finding: Finding | None
) -> Lane:
    """A joint's value within its limits."""
    joint = evaluation.document.joints[measure.joint]
    limits = evaluation.resolved.joints[measure.joint]
    curve = measure.curve(subject)
    return Lane(
        joint.title,
        curve.progress,
        curve.values,
        spec_of(joint.kind).dimension,
        limits.least,
        limits.greatest,
        None if finding is None else finding.id,
        Outcome.PASS if finding is None else finding.outcome,
    )


def _output_lanes(evaluation: Evaluation, subject: Subject) -> tuple[Lane, ...]:
    """The first joints that move and that no driver commands."""
    free = [
        j
        for j, joint in enumerate(evaluation.document.joints)
        if spec_of(joint.kind).moves and j not in evaluation.motion.driver_joints
    ]
    return tuple(_joint_lane(evaluation, subject, JointValue(j), None) for j in free[:MOST_OUTPUTS])
