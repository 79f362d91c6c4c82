"""The swept motion as CSV: poses, joint values, velocities and accelerations at every step."""

from __future__ import annotations

import csv
import io
import math

import numpy as np

from anakinema.analysis.places import place_path
from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.measured import measured_as
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.measures import BodyGap, Subject, measure_of
from anakinema.record.listed_parts import centre_of_mass
from anakinema.units import UnitSystem

WRITTEN = UnitSystem("mm", "deg")
"""Units of the table, whatever those of the document."""


def motion_table(evaluation: Evaluation, *, points: bool = False) -> tuple[list[str], Floats]:
    """Names of columns, and (N, C) numbers, a row a sample; mm, deg, s whatever the document's
    units, rates per second.

    The centre of mass is that of all that moves and has a material. Where a pose is singular its
    rates are not defined: NaN. With ``points`` all places of all bodies and all kept measures are
    stated too.
    """
    motion, document = evaluation.motion, evaluation.document
    header = ["progress", "time_s"]
    degrees = math.degrees(1.0)
    body_scale = np.array([1.0, 1.0, degrees])
    joint_scale = np.where(motion.mechanism.angular, degrees, 1.0)
    speed, change = motion.progress_rates(motion.progress)
    columns = [motion.progress, motion.time(motion.progress)]
    for j, joint in enumerate(document.joints):
        unit = "deg" if motion.mechanism.angular[j] else "mm"
        header += [
            f"{joint.id}_{unit}",
            f"{joint.id}_velocity_{unit}_per_s",
            f"{joint.id}_acceleration_{unit}_per_s2",
        ]
        columns.append(motion.values[:, j] * joint_scale[j])
        columns.append(motion.samples.value_first[:, j] * speed * joint_scale[j])
        columns.append(
            (
                motion.samples.value_second[:, j] * speed**2
                + motion.samples.value_first[:, j] * change
            )
            * joint_scale[j]
        )
    for b, body in enumerate(document.bodies):
        for axis, name in enumerate(("x_mm", "y_mm", "angle_deg")):
            header += [f"{body.id}_{name}", f"{body.id}_{name}_per_s", f"{body.id}_{name}_per_s2"]
            columns.append(motion.poses[:, b, axis] * body_scale[axis])
            columns.append(motion.samples.first[:, b, axis] * speed * body_scale[axis])
            columns.append(
                (
                    motion.samples.second[:, b, axis] * speed**2
                    + motion.samples.first[:, b, axis] * change
                )
                * body_scale[axis]
            )
    centre = centre_of_mass(evaluation.resolved, motion.poses)
    if centre is not None:
        for axis, name in enumerate("xy"):
            header.append(f"centre_of_mass_{name}_mm")
            columns.append(centre[:, axis])
    if points:
        for name, column in _points(evaluation):
            header.append(name)
            columns.append(column)
    return header, np.column_stack(columns)


def motion_csv(evaluation: Evaluation, *, points: bool = False) -> str:
    """The same as CSV; what is not defined stays empty."""
    header, rows = motion_table(evaluation, points=points)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(header)
    for row in rows.tolist():
        writer.writerow([repr(v) if math.isfinite(v) else "" for v in row])
    return out.getvalue()


def _points(evaluation: Evaluation) -> list[tuple[str, Floats]]:
    """Columns of all places, in the plane, and of all kept measures."""
    resolved, poses = evaluation.resolved, evaluation.motion.poses
    found: list[tuple[str, Floats]] = []
    for body in evaluation.document.bodies:
        for place in resolved.part_of(body).places:
            path = place_path(resolved, model.Side(body=body.id, place=place), poses)
            found += [(f"{body.id}.{place}_{axis}_mm", path[:, k]) for k, axis in enumerate("xy")]
    kinds = joint_kinds(evaluation.document)
    subject = Subject(resolved, evaluation.motion, evaluation.gaps)
    for kept in evaluation.document.measures:
        measure = measure_of(resolved, kept.measure)
        # Gaps are known at some samples only.
        curve = None if isinstance(measure, BodyGap) else measure.curve(subject)
        if curve is not None:
            dimension = measured_as(kept.measure).dimension(kept.measure, kinds)
            unit = WRITTEN.name(dimension).replace("/", "_per_").replace("^", "")
            name = f"{kept.id}_{unit}" if unit else kept.id
            found.append((name, curve.values / WRITTEN.factor(dimension)))
    return found
