"""The swept motion as CSV: poses, joint values, velocities and accelerations at every step."""

from __future__ import annotations

import csv
import io
import math

import numpy as np

from anakinema.findings.evaluate import Evaluation


def motion_csv(evaluation: Evaluation) -> str:
    """One row a sample; mm, deg, s whatever the document's units, rates per second.

    Where a pose is singular its rates are not defined and the cells stay empty.
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
            f"{joint.id}_{unit}", f"{joint.id}_velocity_{unit}_per_s",
            f"{joint.id}_acceleration_{unit}_per_s2",
        ]  # fmt: skip
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
                (motion.samples.second[:, b, axis] * speed**2
                 + motion.samples.first[:, b, axis] * change) * body_scale[axis]
            )  # fmt: skip
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(header)
    for row in np.column_stack(columns).tolist():
        writer.writerow([repr(v) if math.isfinite(v) else "" for v in row])
    return out.getvalue()
