"""Outlines added to one another, cut, offset, mirrored and repeated round the origin.

Where the result is of the same family it is stated in the same expressions; else as a path of
plain numbers, exact but no longer following a dimension.
"""

from __future__ import annotations

import math

from anakinema.authoring.expression_text import sum_of, times
from anakinema.authoring.mirroring import mirrored_outline
from anakinema.authoring.openings import kept_at_centre
from anakinema.authoring.shaping import moved_outline, rotation
from anakinema.document import model
from anakinema.document.contours import contour_of
from anakinema.document.reading import Reader
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.outline import OutlineKey, SetOutline, outline_in
from anakinema.edits.parts import ReplacePart
from anakinema.edits.relations import renumbered
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.combine import Combined, CombinedRing, combine, offset
from anakinema.geometry.contour import Contour
from anakinema.units import LENGTH

Source = float | str
MOST_COPIES = 200


def combined(resolved: Resolved, key: OutlineKey, tool: str, how: str) -> Edit:
    """Another slab of the part 'added' to an outline's slab, or 'cut' from it; it is used up.

    What falls apart becomes slabs of its own. Raises an `AnakinemaError` if nothing is left.
    """
    part = resolved.parts[key.part].source
    where = f"part '{part.title}'"
    slab, other = (model.next_by_id(part.slabs, name) for name in (key.slab, tool))
    reader = resolved.reader.within(part)

    pieces = combine([_contours(each, reader, where) for each in (slab, other)], how)
    labels = {"added": "Add", "cut": "Cut"}
    label = f"{labels[how]} {tool.replace('_', ' ')}"
    return ReplacePart(_with_pieces(part, slab, other, pieces), label)


def _contours(of: model.Slab, reader: Reader, where: str) -> list[Contour]:
    return [
        contour_of(outline, reader, where, is_opening=k > 0)
        for k, outline in enumerate(_outlines(of))
    ]


def _outlines(slab: model.Slab) -> list[model.Outline]:
    return [slab.outline, *(hole.outline for hole in slab.holes)]


def _with_pieces(
    part: model.Part, slab: model.Slab, other: model.Slab, pieces: tuple[Combined, ...]
) -> model.Part:
    given = [slab, other]
    taken_holes = [hole.id for s in part.slabs for hole in s.holes]
    relations = part.relations
    made: list[model.Slab] = []
    names = [s.id for s in part.slabs if s.id != other.id]
    kept: set[str | None] = set()
    for piece in pieces:
        name = slab.id if not made else fresh_id(slab.id, names)
        names.append(name)
        holes = []
        for ring in piece.holes:
            if ring.unchanged is not None and ring.unchanged[1] > 0:
                hole = given[ring.unchanged[0]].holes[ring.unchanged[1] - 1]
                if ring.unchanged[0] == 0:
                    kept.add(hole.id)
                else:
                    hole = hole.model_copy(update={"id": fresh_id(hole.id, taken_holes)})
                    taken_holes.append(hole.id)
            else:
                fresh = fresh_id("hole", taken_holes)
                taken_holes.append(fresh)
                hole = model.Hole(id=fresh, outline=_stated(ring, given))
            holes.append(hole)
        if piece.outer.unchanged == (0, 0) and not made:
            kept.add(None)
        made.append(
            slab.model_copy(
                update={"id": name, "outline": _stated(piece.outer, given), "holes": tuple(holes)}
            )
        )
    for hole_id in (None, *(hole.id for hole in slab.holes)):
        if hole_id not in kept:
            relations = renumbered(relations, slab.id, hole_id, lambda _: None)
    for hole_id in (None, *(hole.id for hole in other.holes)):
        relations = renumbered(relations, other.id, hole_id, lambda _: None)
    slabs: list[model.Slab] = []
    for old in part.slabs:
        if old.id == slab.id:
            slabs += made
        elif old.id != other.id:
            slabs.append(old)
    return part.model_copy(update={"slabs": tuple(slabs), "relations": relations})


def _stated(ring: CombinedRing, given: list[model.Slab]) -> model.Outline:
    """An outline of a result: as it was given if it is one of those, else in plain numbers."""
    if ring.unchanged is not None:
        slab, index = ring.unchanged
        return _outlines(given[slab])[index]
    if ring.circle is not None:
        x, y, radius = (f"{value:.12g} mm" for value in ring.circle)
        return model.Circle(shape="circle", x=x, y=y, radius=radius)
    vertices = tuple(
        model.Vertex(x=f"{x:.12g} mm", y=f"{y:.12g} mm", bulge=round(bulge, 14))
        for x, y, bulge in ring.corners
    )
    return model.Path(shape="path", vertices=vertices)


def parallel(resolved: Resolved, key: OutlineKey, distance: Source) -> Edit:
    """An outline moved outwards by a distance, inwards if it is negative: the parallel curve.

    Raises an `AnakinemaError` if nothing is left or the outline falls apart.
    """
    part = resolved.parts[key.part].source
    where = f"part '{part.title}'"
    reader = resolved.reader.within(part)
    reach = reader.read(distance, LENGTH, where, "offset")
    shape = outline_in(part, key)
    label = "Offset outline"
    stated = _parallel_stated(shape, distance, reach, reader, where)
    if stated is not None:
        return SetOutline(key, stated, label)
    pieces = offset(contour_of(shape, reader, where, is_opening=key.hole is not None), reach)
    if len(pieces) > 1 or pieces[0].holes:
        raise ValueOutOfRangeError(
            "it would fall apart, or close round an opening.",
            where=where,
            remedy="Offset it by less.",
        )
    return SetOutline(key, _stated(pieces[0].outer, []), label)


def _parallel_stated(
    shape: model.Outline, distance: Source, reach: float, reader: Reader, where: str
) -> model.Outline | None:
    """The parallel of a shape that stays of its family, None for others."""
    unit = reader.units.length

    def more(source: Source, by: Source) -> Source:
        return sum_of((1.0, source), (1.0, by), unit=unit)

    def number(source: Source) -> float:
        return reader.read(source, LENGTH, where, "size")

    if isinstance(shape, model.Circle) and number(shape.radius) + reach > 0:
        return shape.model_copy(update={"radius": more(shape.radius, distance)})
    if isinstance(shape, model.Hull) and all(number(r.radius) + reach >= 0 for r in shape.rounds):
        rounds = tuple(
            r.model_copy(update={"radius": more(r.radius, distance)}) for r in shape.rounds
        )
        return shape.model_copy(update={"rounds": rounds})
    if isinstance(shape, model.Rectangle):
        corner = number(shape.corner) + reach
        fits = min(number(shape.width), number(shape.height)) + 2 * reach > 0
        if fits and (corner >= 0 or number(shape.corner) == 0):
            size = {
                name: more(getattr(shape, name), times(distance, 2)) for name in ("width", "height")
            }
            rounded = more(shape.corner, distance) if corner >= 0 else 0.0
            return shape.model_copy(update={**size, "corner": rounded})
    return None


def mirrored_in(resolved: Resolved, key: OutlineKey, upright: bool) -> Edit:
    """An outline and its image beyond an axis: a hole again, an outline joined to its image."""
    part = resolved.parts[key.part].source
    shape = outline_in(part, key)
    image = mirrored_outline(shape)
    if upright:
        unit = resolved.units.length
        image = moved_outline(image, rotation(math.pi, unit), 180.0, unit)
    if key.hole is not None:
        return _with_holes(part, key, [image], "Mirror hole")
    tool = fresh_id("image", [s.id for s in part.slabs])
    slab = model.next_by_id(part.slabs, key.slab)
    beyond = slab.model_copy(update={"id": tool, "outline": image, "holes": ()})
    where = f"part '{part.title}'"
    reader = resolved.reader.within(part)
    given = [_contours(each, reader, where) for each in (slab, beyond)]
    made = _with_pieces(part, slab, beyond, combine(given, "added"))
    return ReplacePart(made, "Mirror and join")


def copied_round(resolved: Resolved, key: OutlineKey, count: int) -> Edit:
    """A hole again and again round the origin, ``count`` in all, each with a place."""
    part = resolved.parts[key.part].source
    if key.hole is None or not 2 <= count <= MOST_COPIES:
        raise ValueOutOfRangeError(
            f"a hole can be repeated 2 to {MOST_COPIES} times.", where=f"part '{part.title}'"
        )
    unit, shape = resolved.units.length, outline_in(part, key)
    turned = [
        moved_outline(shape, rotation(2 * math.pi * k / count, unit), 360.0 * k / count, unit)
        for k in range(1, count)
    ]
    return _with_holes(part, key, turned, "Repeat hole")


def _with_holes(part: model.Part, key: OutlineKey, shapes: list[model.Outline], label: str) -> Edit:
    """Copies of a hole in its slab; round ones with a place at their centre."""
    slab = model.next_by_id(part.slabs, key.slab)
    taken = [h.id for s in part.slabs for h in s.holes] + [p.id for p in part.places]
    holes, places, relations = [], [], []
    for shape in shapes:
        name = fresh_id(str(key.hole), taken)
        taken.append(name)
        holes.append(model.Hole(id=name, outline=shape))
        if isinstance(shape, model.Circle):
            places.append(model.Place(id=name, x=shape.x, y=shape.y))
            relations.append(kept_at_centre(key.slab, name))
    slab = slab.model_copy(update={"holes": (*slab.holes, *holes)})
    slabs = tuple(slab if old.id == slab.id else old for old in part.slabs)
    return ReplacePart(
        part.model_copy(
            update={
                "slabs": slabs,
                "places": (*part.places, *places),
                "relations": (*part.relations, *relations),
            }
        ),
        label,
    )
