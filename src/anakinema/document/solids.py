"""Parts in numbers: places, outlines and heights, with what their outlines keep."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from threading import Lock

from anakinema.document import model
from anakinema.document.cams import cam_curves
from anakinema.document.contours import contour_of
from anakinema.document.curves import curve_of, slot_curves
from anakinema.document.quantities import sources
from anakinema.document.reading import Reader
from anakinema.document.relations import settled
from anakinema.errors import GeometryError, ValueOutOfRangeError
from anakinema.expression_functions import Quantity
from anakinema.expressions import parse
from anakinema.geometry.contour import Contour
from anakinema.geometry.curve import Curve
from anakinema.geometry.region import Region
from anakinema.units import UnitSystem
from anakinema.wanted import still_wanted


@dataclass(frozen=True, slots=True, eq=False)
class SolidSlab:
    """A slab in numbers: its region and its interval of heights above the body's datum, mm."""

    id: str
    bottom: float
    top: float
    region: Region


@dataclass(frozen=True, slots=True, eq=False)
class SolidPart:
    """A part in numbers; places are (x mm, y mm, angle rad).

    ``source`` is its definition with all numbers where its kept relations move them.
    """

    source: model.Part
    slabs: tuple[SolidSlab, ...]
    places: Mapping[str, tuple[float, float, float]]
    curves: Mapping[str, Curve]


KEPT = 1000
"""Parts whose numbers are kept: an edit changes one or two of them."""


@dataclass(frozen=True, slots=True)
class _Kept:
    """A part in numbers, and the values of all names in it that these were made from."""

    part: model.Part
    units: UnitSystem
    values: Mapping[str, Quantity | None]
    solid: SolidPart


_kept: OrderedDict[int, _Kept] = OrderedDict()
_keeping = Lock()


def solid_part(part: model.Part, reader: Reader) -> SolidPart:
    """The numbers of a part; raises an `AnakinemaError` that names the place.

    The same as before where neither the part nor a value that it uses has changed.
    """
    with _keeping:
        kept = _kept.get(id(part))
    if kept is not None and kept.part is part and kept.units == reader.units:
        if all(reader.names.get(name) == value for name, value in kept.values.items()):
            return kept.solid
        names = frozenset(kept.values)
    else:
        names = _names_in(part)
    solid = _solid_part(part, reader)
    values = {name: reader.names.get(name) for name in names}
    with _keeping:
        _kept[id(part)] = _Kept(part, reader.units, values, solid)
        if len(_kept) > KEPT:
            _kept.popitem(last=False)
    return solid


def _names_in(part: model.Part) -> frozenset[str]:
    """All names that expressions of a part use, its own dimensions by their full ones."""
    own = {dimension.id for dimension in part.dimensions}
    texts = (source for source in sources(part) if isinstance(source, str))
    used = frozenset().union(*(parse(text).names for text in texts))
    return frozenset(f"{part.id}.{name}" if name in own else name for name in used)


def _solid_part(part: model.Part, reader: Reader) -> SolidPart:
    still_wanted()
    where = f"part '{part.title}'"
    local = reader.within(part)
    part = settled(part, local)
    places: dict[str, tuple[float, float, float]] = {}
    for place in part.places:
        x, y, angle = local.fields(place, "x y angle", f"{where}, place '{place.id}'")
        places[place.id] = x, y, angle
    slabs: list[SolidSlab] = []
    for slab in part.slabs:
        still_wanted()
        at = f"{where}, slab '{slab.id}'"
        bottom, top = local.fields(slab, "bottom top", at)
        if not top > bottom:
            raise ValueOutOfRangeError(
                f"its top ({top:g} mm) is not above its bottom ({bottom:g} mm).",
                where=at,
                remedy="Raise the top, or swap the two.",
            )
        outer = contour_of(slab.outline, local, at)
        holes = tuple(
            contour_of(hole.outline, local, f"{at}, hole '{hole.id}'", is_opening=True)
            for hole in slab.holes
        )
        names = tuple(hole.id for hole in slab.holes)
        slabs.append(SolidSlab(slab.id, bottom, top, _region(outer, holes, names, at)))
    curves = {each.id: curve_of(each, local, where) for each in part.curves}
    curves |= cam_curves(part, local, where) | slot_curves(part, local, where)
    return SolidPart(part, tuple(slabs), places, curves)


@lru_cache(maxsize=4096)
def _cached_region(outer: Contour, holes: tuple[Contour, ...], names: tuple[str, ...]) -> Region:
    return Region.build(outer, holes, names)


def _region(
    outer: Contour, holes: tuple[Contour, ...], names: tuple[str, ...], where: str
) -> Region:
    try:
        return _cached_region(outer, holes, names)
    except GeometryError as error:
        raise GeometryError(
            f"{error.where} {error.what}", where=where, remedy=error.remedy
        ) from error
