"""Curves of a part in numbers."""

from __future__ import annotations

import numpy as np

from anakinema.document import model
from anakinema.document.reading import Reader
from anakinema.errors import GeometryError
from anakinema.geometry.curve import Curve, rounded, track
from anakinema.geometry.spline import spline


def slot_middle(slot: model.SlotAlong, reader: Reader, where: str) -> Curve:
    """The middle of a curved slot; raises an `AnakinemaError` that names the place."""
    shape = "spline" if slot.spline else "path"
    stated = model.Curve.model_validate(
        {"id": "middle", "shape": shape, "vertices": [dict(v) for v in slot.vertices]}
    )
    return curve_of(stated, reader, where)


def slot_curves(part: model.Part, reader: Reader, where: str) -> dict[str, Curve]:
    """The middles of all curved slots of a part by the names of their holes."""
    return {
        hole.id: slot_middle(hole.outline, reader, f"{where}, slab '{slab.id}', hole '{hole.id}'")
        for slab in part.slabs
        for hole in slab.holes
        if isinstance(hole.outline, model.SlotAlong)
    }


def curve_of(curve: model.Curve, reader: Reader, part: str) -> Curve:
    """The curve that a description means; raises an `AnakinemaError` that names the place."""
    where = f"{part}, curve '{curve.id}'"
    rows = []
    for k, vertex in enumerate(curve.vertices):
        x, y, bulge, fillet = reader.fields(vertex, "x y bulge fillet", f"{where}, vertex {k + 1}")
        rows.append((x, y, bulge, fillet))
    try:
        if curve.shape == "spline":
            return spline(np.array(rows)[:, :2], is_closed=curve.closed)
        return track(rounded(rows, is_closed=curve.closed), is_closed=curve.closed)
    except GeometryError as error:
        raise GeometryError(
            error.what, where=error.where.replace("curve", f"{where}", 1), remedy=error.remedy
        ) from error
