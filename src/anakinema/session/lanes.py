"""What the travel strip shows: quantities over progress, each with its permitted band."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import measure_curve
from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.requirements import requirement_dimension
from anakinema.findings.check import folded, named_bodies, transmission_angle
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Finding, Outcome
from anakinema.geometry.contour import Floats
from anakinema.units import LENGTH, Dimension

MOST_POINTS = 181


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


def lanes(evaluation: Evaluation) -> tuple[Lane, ...]:
    """A lane for every requirement that is a quantity over the motion, then for free outputs."""
    motion, document = evaluation.motion, evaluation.document
    found: list[Lane] = []
    joints_shown: set[int] = set()
    by_id = {finding.id: finding for finding in evaluation.verdict.findings}
    for requirement in document.requirements:
        finding = by_id[requirement.id]
        if isinstance(requirement, model.GapRequirement):
            lane = _gap_lane(evaluation, requirement, finding)
            found += [lane] if lane else []
            continue
        joint = motion.mechanism.joint_index(requirement.joint)
        values = motion.values[:, joint]
        least = greatest = None
        if isinstance(requirement, model.TransmissionRequirement):
            angle = transmission_angle(evaluation.resolved, requirement, values)
            values, least = folded(angle), finding.least
        elif joint in joints_shown:
            continue
        else:
            joints_shown.add(joint)
            limits = evaluation.resolved.joints[joint]
            least, greatest = limits.least, limits.greatest
        title = finding.title
        if not isinstance(requirement, model.TransmissionRequirement):
            title = document.joints[joint].title
        dimension = requirement_dimension(joint_kinds(document), requirement)
        if isinstance(requirement, model.TimeRatioRequirement):
            dimension = spec_of(document.joints[joint].kind).dimension
        found.append(
            Lane(
                title,
                motion.progress,
                values,
                dimension,
                least,
                greatest,
                finding.id,
                finding.outcome,
            )
        )
    for measure in document.measures:
        values = measure_curve(evaluation.resolved, measure, motion.poses)
        found.append(
            Lane(measure.title, motion.progress, values, LENGTH, None, None, None, Outcome.PASS)
        )
    if not found:
        found = _output_lanes(evaluation)
    return tuple(found)


def _gap_lane(
    evaluation: Evaluation, requirement: model.GapRequirement, finding: Finding
) -> Lane | None:
    motion = evaluation.motion
    if finding.gap is None:
        return None
    stride = max(1, len(motion.progress) // MOST_POINTS)
    progress = np.unique(np.append(motion.progress[::stride], motion.progress[-1]))
    rows = np.searchsorted(motion.progress, progress)
    named = named_bodies(evaluation.document, requirement)
    values = evaluation.gaps.curve(named, motion.poses[rows])
    if values is None:
        return None
    at = int(np.searchsorted(progress, finding.gap.progress))
    progress = np.insert(progress, at, finding.gap.progress)
    values = np.insert(values, at, max(finding.gap.most, 0.0))
    return Lane(
        finding.title, progress, values, LENGTH, finding.least, None, finding.id, finding.outcome
    )


def _output_lanes(evaluation: Evaluation) -> list[Lane]:
    motion, document = evaluation.motion, evaluation.document
    out: list[Lane] = []
    for j, joint in enumerate(document.joints):
        if not spec_of(joint.kind).moves or j in motion.driver_joints or len(out) >= 3:
            continue
        limits = evaluation.resolved.joints[j]
        out.append(
            Lane(
                joint.title,
                motion.progress,
                motion.values[:, j],
                spec_of(joint.kind).dimension,
                limits.least,
                limits.greatest,
                None,
                Outcome.PASS,
            )
        )
    return out
