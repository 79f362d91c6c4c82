"""Outlines of a document as exact contours."""

from __future__ import annotations

from functools import lru_cache

from anakinema.document import model
from anakinema.document.reading import Reader
from anakinema.errors import GeometryError
from anakinema.geometry import contour as shapes
from anakinema.geometry import gears
from anakinema.geometry.contour import Contour
from anakinema.units import ANGLE, LENGTH, NUMBER

_circle = lru_cache(maxsize=4096)(shapes.circle)
_hull = lru_cache(maxsize=4096)(shapes.hull)
_rectangle = lru_cache(maxsize=4096)(shapes.rectangle)
_path = lru_cache(maxsize=1024)(shapes.path)
_wheel = lru_cache(maxsize=256)(gears.wheel_contour)
_rack = lru_cache(maxsize=256)(gears.rack_contour)


def _toothed(
    outline: model.ToothedWheel | model.ToothedRack, reader: Reader, where: str, is_opening: bool
) -> Contour:
    count = reader.read(outline.teeth, NUMBER, where, "teeth")
    if abs(count - round(count)) > 1e-9:
        raise GeometryError(
            f"{count:g} is no number of teeth.", where=where, remedy="Give a whole number."
        )
    module = reader.read(outline.module, LENGTH, where, "module")
    pressure = reader.read(outline.pressure_angle, ANGLE, where, "pressure angle")
    x, y = (reader.read(getattr(outline, name), LENGTH, where, name) for name in ("x", "y"))
    turned = reader.read(outline.turned, ANGLE, where, "turned")
    if isinstance(outline, model.ToothedRack):
        depth = reader.read(outline.depth, LENGTH, where, "depth")
        return _rack(module, round(count), pressure, depth, x, y, turned)
    shift = reader.read(outline.shift, NUMBER, where, "shift")
    backlash = reader.read(outline.backlash, LENGTH, where, "backlash")
    wheel = gears.Wheel(module, round(count), pressure, shift, backlash, is_opening)
    return _wheel(wheel, x, y, turned)


def contour_of(
    outline: model.Outline, reader: Reader, where: str, *, is_opening: bool = False
) -> Contour:
    """The contour of an outline; raises an `AnakinemaError` that names the place.

    ``is_opening`` : it is a hole, which a toothed wheel then is the inside of a ring for.
    """

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
        if isinstance(outline, (model.ToothedWheel, model.ToothedRack)):
            return _toothed(outline, reader, where, is_opening)
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
