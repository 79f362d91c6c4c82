"""Outlines of a document as exact contours."""

from __future__ import annotations

from functools import lru_cache

from anakinema.document import model
from anakinema.document.cams import cam_contour
from anakinema.document.curves import slot_middle
from anakinema.document.reading import Reader
from anakinema.errors import GeometryError
from anakinema.geometry import contour as shapes
from anakinema.geometry import gears, indexing
from anakinema.geometry.contour import Contour
from anakinema.geometry.slots import slot_contour
from anakinema.units import ANGLE, LENGTH, NUMBER

_circle = lru_cache(maxsize=4096)(shapes.circle)
_hull = lru_cache(maxsize=4096)(shapes.hull)
_rectangle = lru_cache(maxsize=4096)(shapes.rectangle)
_path = lru_cache(maxsize=1024)(shapes.path)
_wheel = lru_cache(maxsize=256)(gears.wheel_contour)
_rack = lru_cache(maxsize=256)(gears.rack_contour)
_ratchet = lru_cache(maxsize=256)(indexing.ratchet_contour)
_geneva = lru_cache(maxsize=256)(indexing.geneva_contour)
_locking = lru_cache(maxsize=256)(indexing.locking_contour)
_sprocket = lru_cache(maxsize=256)(indexing.sprocket_contour)
_Indexing = model.RatchetWheel | model.GenevaWheel | model.LockingDisc | model.Sprocket


def _count(source: float | str, reader: Reader, where: str, field: str) -> int:
    count = reader.read(source, NUMBER, where, field)
    if abs(count - round(count)) > 1e-9:
        raise GeometryError(
            f"{count:g} is no number of {field}.", where=where, remedy="Give a whole number."
        )
    return round(count)


def _indexing(outline: _Indexing, reader: Reader, where: str) -> Contour:
    def length(name: str) -> float:
        return reader.read(getattr(outline, name), LENGTH, where, name)

    x, y = length("x"), length("y")
    turned = reader.read(outline.turned, ANGLE, where, "turned")
    if isinstance(outline, model.RatchetWheel):
        teeth = _count(outline.teeth, reader, where, "teeth")
        lean = reader.read(outline.lean, ANGLE, where, "lean")
        tip, root = length("tip"), length("root")
        return _ratchet(teeth, tip, root, lean, x, y, turned, outline.reversed)
    if isinstance(outline, model.Sprocket):
        teeth = _count(outline.teeth, reader, where, "teeth")
        return _sprocket(teeth, length("pitch"), length("roller"), x, y, turned)
    slots = _count(outline.slots, reader, where, "slots")
    centres, lock = length("centres"), length("lock")
    if isinstance(outline, model.GenevaWheel):
        return _geneva(slots, centres, length("slot"), lock, x, y, turned)
    return _locking(slots, centres, lock, length("play"), x, y, turned)


def _toothed(
    outline: model.ToothedWheel | model.ToothedRack, reader: Reader, where: str, is_opening: bool
) -> Contour:
    count = _count(outline.teeth, reader, where, "teeth")
    module = reader.read(outline.module, LENGTH, where, "module")
    pressure = reader.read(outline.pressure_angle, ANGLE, where, "pressure angle")
    x, y = (reader.read(getattr(outline, name), LENGTH, where, name) for name in ("x", "y"))
    turned = reader.read(outline.turned, ANGLE, where, "turned")
    if isinstance(outline, model.ToothedRack):
        depth = reader.read(outline.depth, LENGTH, where, "depth")
        return _rack(module, count, pressure, depth, x, y, turned)
    shift = reader.read(outline.shift, NUMBER, where, "shift")
    backlash = reader.read(outline.backlash, LENGTH, where, "backlash")
    wheel = gears.Wheel(module, count, pressure, shift, backlash, is_opening)
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
        if isinstance(outline, model.CamOutline):
            return cam_contour(outline, reader, where)
        if isinstance(outline, model.SlotAlong):
            curve = slot_middle(outline, reader, where)
            return slot_contour(curve, length(outline.width, "width"))
        if not isinstance(outline, model.Path):
            return _indexing(outline, reader, where)
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
