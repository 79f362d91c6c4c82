"""Curves of a part in numbers."""

from __future__ import annotations

import numpy as np

from anakinema.document import model
from anakinema.document.reading import Reader
from anakinema.errors import GeometryError
from anakinema.geometry.curve import Curve, rounded, track
from anakinema.geometry.spline import spline
from anakinema.units import LENGTH, NUMBER


def curve_of(curve: model.Curve, reader: Reader, part: str) -> Curve:
    """The curve that a description means; raises an `AnakinemaError` that names the place."""
    where = f"{part}, curve '{curve.id}'"
    rows = []
    for k, vertex in enumerate(curve.vertices):
        at = f"{where}, vertex {k + 1}"
        rows.append(
            (
                reader.read(vertex.x, LENGTH, at, "x"),
                reader.read(vertex.y, LENGTH, at, "y"),
                reader.read(vertex.bulge, NUMBER, at, "bulge"),
                reader.read(vertex.fillet, LENGTH, at, "fillet"),
            )
        )
    try:
        if curve.shape == "spline":
            return spline(np.array(rows)[:, :2], is_closed=curve.closed)
        return track(rounded(rows, is_closed=curve.closed), is_closed=curve.closed)
    except GeometryError as error:
        raise GeometryError(
            error.what, where=error.where.replace("curve", f"{where}", 1), remedy=error.remedy
        ) from error
