"""Outlines of a document as exact contours."""

from __future__ import annotations

from functools import lru_cache

from anakinema.document import model
from anakinema.document.reading import Reader
from anakinema.errors import GeometryError
from anakinema.geometry import contour as shapes
from anakinema.geometry.contour import Contour
from anakinema.units import ANGLE, LENGTH, NUMBER

_circle = lru_cache(maxsize=4096)(shapes.circle)
_hull = lru_cache(maxsize=4096)(shapes.hull)
_rectangle = lru_cache(maxsize=4096)(shapes.rectangle)
_path = lru_cache(maxsize=1024)(shapes.path)


def contour_of(outline: model.Outline, reader: Reader, where: str) -> Contour:
    """The contour of an outline; raises an `AnakinemaError` that names the place."""

    def length(source: float | str, field: str) -> float:
        return reader.read(source, LENGTH, where, field)

    try:
        if isinstance(outline, model.Circle):
            return _circle(
                length(outline.x, "x"), length(outline.y, "y"), length(outline.radius, "radius")
            )
        if isinstance(outline, model.Hull):
            return _hull(
                tuple(
                    (length(r.x, "x"), length(r.y, "y"), length(r.radius, "radius"))
                    for r in outline.rounds
                )
            )
        if isinstance(outline, model.Rectangle):
            return _rectangle(
                length(outline.x, "x"),
                length(outline.y, "y"),
                length(outline.width, "width"),
                length(outline.height, "height"),
                length(outline.corner, "corner"),
                reader.read(outline.turned, ANGLE, where, "turned"),
            )
        return _path(
            tuple(
                (
                    length(v.x, "x"),
                    length(v.y, "y"),
                    reader.read(v.bulge, NUMBER, where, "bulge"),
                    length(v.fillet, "fillet"),
                )
                for v in outline.vertices
            )
        )
    except GeometryError as error:
        raise GeometryError(
            f"{error.where}: {error.what}", where=where, remedy=error.remedy
        ) from error
