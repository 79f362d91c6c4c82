"""Outlines of a document as exact contours."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any

from anakinema.document import model
from anakinema.document.cams import cam_contour
from anakinema.document.curves import slot_middle
from anakinema.document.dimensions import dimensions_of
from anakinema.document.reading import Reader
from anakinema.errors import GeometryError
from anakinema.geometry import contour as shapes
from anakinema.geometry import gears, indexing
from anakinema.geometry.contour import Contour
from anakinema.geometry.slots import slot_contour

_path = lru_cache(maxsize=1024)(shapes.path)
_hull = lru_cache(maxsize=4096)(shapes.hull)
_wheel = lru_cache(maxsize=256)(gears.wheel_contour)
Make = Callable[[Any, Reader, str, bool], Contour]


def _of_fields(make: Callable[..., Contour], fields: str, kept: int = 256) -> Make:
    """Makes contours of an outline's fields, in the order that ``make`` takes them."""
    cached = lru_cache(maxsize=kept)(make)

    def contour(outline: model.Model, reader: Reader, where: str, _: bool) -> Contour:
        measured = dimensions_of(type(outline))
        return cached(
            *(
                reader.field(outline, name, where) if name in measured else getattr(outline, name)
                for name in fields.split()
            )
        )

    return contour


def _rounds(hull: model.Hull, reader: Reader, where: str, _: bool) -> Contour:
    return _hull(tuple(reader.fields(each, "x y radius", where) for each in hull.rounds))


def _corners(path: model.Path, reader: Reader, where: str, _: bool) -> Contour:
    return _path(tuple(reader.fields(each, "x y bulge fillet", where) for each in path.vertices))


def _toothed(wheel: model.ToothedWheel, reader: Reader, where: str, is_opening: bool) -> Contour:
    module, teeth, pressure, shift, backlash, *placed = reader.fields(
        wheel, "module teeth pressure_angle shift backlash x y turned", where
    )
    return _wheel(gears.Wheel(module, round(teeth), pressure, shift, backlash, is_opening), *placed)


def _slot(slot: model.SlotAlong, reader: Reader, where: str, _: bool) -> Contour:
    return slot_contour(slot_middle(slot, reader, where), reader.field(slot, "width", where))


_MAKERS: Mapping[type[model.Model], Make] = {
    model.Circle: _of_fields(shapes.circle, "x y radius", 4096),
    model.Hull: _rounds,
    model.Rectangle: _of_fields(shapes.rectangle, "x y width height corner turned", 4096),
    model.Path: _corners,
    model.SlotAlong: _slot,
    model.ToothedWheel: _toothed,
    model.ToothedRack: _of_fields(
        gears.rack_contour, "module teeth pressure_angle depth x y turned"
    ),
    model.RatchetWheel: _of_fields(
        indexing.ratchet_contour, "teeth tip root lean x y turned reversed"
    ),
    model.GenevaWheel: _of_fields(indexing.geneva_contour, "slots centres slot lock x y turned"),
    model.LockingDisc: _of_fields(indexing.locking_contour, "slots centres lock play x y turned"),
    model.Sprocket: _of_fields(indexing.sprocket_contour, "teeth pitch roller x y turned"),
    model.CamOutline: lambda outline, reader, where, _: cam_contour(outline, reader, where),
}
"""How the contour of each shape of outline is made."""


def contour_of(
    outline: model.Outline, reader: Reader, where: str, *, is_opening: bool = False
) -> Contour:
    """The contour of an outline; raises an `AnakinemaError` that names the place.

    ``is_opening`` : it is a hole, which a toothed wheel then is the inside of a ring for.
    """
    try:
        return _MAKERS[type(outline)](outline, reader, where, is_opening)
    except GeometryError as error:
        if error.where.startswith(where):
            raise
        raise GeometryError(
            f"{error.where}: {error.what}", where=where, remedy=error.remedy
        ) from error
