"""Cams in numbers: lift and its derivatives, pressure angle, curvature, and the profile."""

from __future__ import annotations

import csv
import io
import math

from anakinema.document.cams import cam_shape
from anakinema.document.reading import Reader
from anakinema.errors import FileFormatError
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.cams import cam_table, rings
from anakinema.record.listed_parts import parts_list

HEADER = (
    "part",
    "cam",
    "angle_deg",
    "lift",
    "lift_by_rad",
    "lift_by_rad2",
    "lift_by_rad3",
    "pressure_deg",
    "radius_of_curvature_mm",
    "profile_x_mm",
    "profile_y_mm",
    "centre_x_mm",
    "centre_y_mm",
)
STEPS = 360


def cams_csv(evaluation: Evaluation) -> str:
    """Every cam of a part in use at each degree; lifts in mm, of a swinging follower in rad.

    Raises `FileFormatError` if there is none.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEADER)
    resolved, count = evaluation.resolved, 0
    for row in parts_list(resolved):
        part = resolved.parts[row.id].source
        reader: Reader = resolved.reader.within(part)
        for cam in part.cams:
            shape = cam_shape(cam, reader, f"part '{part.title}'")
            numbers = shape.numbers
            table = cam_table(shape.lift, numbers.base, numbers.follower, STEPS)
            profile, path = rings(table, numbers.base, numbers.follower)
            count += 1
            for k in range(STEPS):
                centre = ("", "") if path is None else path[k].tolist()
                curved = float(table.radius[k])
                writer.writerow(
                    [
                        part.title,
                        cam.title,
                        k * 360 // STEPS,
                        *(f"{value:.9g}" for value in table.lift[k].tolist()),
                        f"{math.degrees(float(table.pressure[k])):.9g}",
                        f"{curved:.9g}" if math.isfinite(curved) else "",
                        *(f"{value:.9g}" for value in profile[k].tolist()),
                        *(f"{value:.9g}" if value != "" else "" for value in centre),
                    ]
                )
    if not count:
        raise FileFormatError(
            "there is no cam in it.",
            where=f"mechanism '{evaluation.document.name}'",
            remedy="Make one in the cam studio first.",
        )
    return out.getvalue()
