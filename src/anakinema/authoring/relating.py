"""Relations between what an outline is made of: which are possible, and what one more comes to."""

from __future__ import annotations

import math
from collections.abc import Sequence, Set
from dataclasses import dataclass
from typing import get_args

import numpy as np

from anakinema.document import model
from anakinema.document.contours import contour_of
from anakinema.document.reading import Reader, named_quantities
from anakinema.document.relations import NEEDED, VALUED, Sheet, Slot, settled, unfit
from anakinema.document.resolve import Resolved
from anakinema.document.solids import solid_part
from anakinema.edits.base import Edit, Together
from anakinema.edits.outline import OutlineKey
from anakinema.edits.parts import ReplacePart
from anakinema.errors import AnakinemaError, GeometryError
from anakinema.geometry.contour import Floats
from anakinema.geometry.relations import Settling
from anakinema.geometry.rules import Edge, Point, Round, UnfitRuleError, is_line, is_round, measured
from anakinema.units import ANGLE, UnitSystem

RELATIONS: tuple[model.RelationKind, ...] = get_args(model.RelationKind)


@dataclass(frozen=True, slots=True, eq=False)
class Way:
    """One way a change of a part can come out: the edit, its outlines (V, 2) mm, what is wrong.

    ``edit`` is None where the outlines cannot be: they are only to be shown.
    """

    edit: Edit | None
    rings: tuple[tuple[OutlineKey, Floats], ...]
    trouble: AnakinemaError | None


def reader_of(document: model.Document) -> Reader:
    """Reads the quantities of a document."""
    units = UnitSystem(document.units.length, document.units.angle)
    return Reader(units, named_quantities(document))


def following(document: model.Document, edit: Edit, part_id: str, held: Set[Slot]) -> Edit:
    """An edit of a part with all that its relations move along with it.

    ``held`` numbers, those just set, stay; where the relations do not allow that they come as
    near as they can. Raises an `AnakinemaError` where nothing keeps all relations.
    """
    after = edit.apply(document)
    part = after.part(part_id)
    if not part.relations:
        return edit
    reader = reader_of(after).within(part)
    try:
        moved = settled(part, reader, held)
    except GeometryError:
        moved = settled(part, reader)
    # Always of one kind, so that the steps of a drag merge whether or not others move along.
    edits = (edit,) if moved is part else (edit, ReplacePart(moved))
    return Together(edit.label, edits, repr(edit.merge_key))


def outcome(document: model.Document, edit: Edit, part_id: str) -> Way:
    """What an edit of a part comes to, whether its outlines are sound or fold."""
    try:
        after = edit.apply(document)
        part = after.part(part_id)
        reader = reader_of(after)
    except AnakinemaError as error:
        return Way(None, (), error)
    return _way(part, reader, edit)


def _way(part: model.Part, reader: Reader, edit: Edit) -> Way:
    trouble: AnakinemaError | None = None
    try:
        solid_part(part, reader)
    except AnakinemaError as error:
        trouble = error
    rings = []
    local = reader.within(part)
    for slab in part.slabs:
        named = [(None, slab.outline), *((hole.id, hole.outline) for hole in slab.holes)]
        for hole, outline in named:
            try:
                contour = contour_of(
                    outline, local, f"part '{part.title}'", is_opening=hole is not None
                )
            except AnakinemaError as error:
                trouble = trouble or error
                continue
            rings.append((OutlineKey(part.id, slab.id, hole), contour.polygon(0.05)))
    return Way(None if trouble else edit, tuple(rings), trouble)


def placings(
    document: model.Document, edit: Edit, part_id: str, held: Set[Slot]
) -> tuple[Way, ...]:
    """How an edit that sets numbers of a part can come out, with those ``held`` where it set them.

    That of least change first; none where nothing keeps all relations then.
    """
    after = edit.apply(document)
    part = after.part(part_id)
    if not part.relations:
        return ()
    reader = reader_of(after)
    sheet = Sheet(part, reader.within(part), held)
    return _stated(edit, sheet, sheet.ways(0), part, reader)


def _stated(
    edit: Edit, sheet: Sheet, found: tuple[Settling, ...], part: model.Part, reader: Reader
) -> tuple[Way, ...]:
    out = []
    for settling in found:
        moved = sheet.part_with(settling)
        whole = edit if moved is part else Together(edit.label, (edit, ReplacePart(moved)))
        out.append(_way(moved, reader, whole))
    return tuple(out)


def ways(document: model.Document, edit: Edit, part_id: str, index: int) -> tuple[Way, ...]:
    """How an edit of the relation of that index can come out, that of least change first.

    Raises an `AnakinemaError` where nothing keeps all relations.
    """
    after = edit.apply(document)
    part = after.part(part_id)
    reader = reader_of(after)
    sheet = Sheet(part, reader.within(part))
    try:
        found = sheet.ways(index)
    except UnfitRuleError as error:
        raise unfit(part, [part.relations[index]], str(error)) from error
    if not found:
        raise unfit(part, [part.relations[index]], "cannot be kept together with the rest.")
    return _stated(edit, sheet, found, part, reader)


@dataclass(frozen=True, slots=True)
class KeptState:
    """How far the relations of a part determine it: numbers free to choose; repeated ones."""

    freedoms: int
    repeats: tuple[int, ...]


def kept_state(document: model.Document, part_id: str) -> KeptState | None:
    """How far relations determine a part; None if it has none or they are at odds."""
    part = document.part(part_id)
    if not part.relations:
        return None
    try:
        settling = Sheet(part, reader_of(document).within(part)).solve()
    except (AnakinemaError, UnfitRuleError):
        return None
    return KeptState(settling.freedoms, settling.repeats)


def possible(
    document: model.Document, part_id: str, elements: Sequence[model.Element]
) -> tuple[model.RelationKind, ...]:
    """Relations that can be between elements of a part, in that order."""
    part = document.part(part_id)
    reader = reader_of(document).within(part)
    out = []
    for kind in RELATIONS:
        if NEEDED[kind] == len(elements):
            relation = model.Relation(kind=kind, of=tuple(elements), value=_sample(kind))
            try:
                alone = Sheet(part.model_copy(update={"relations": (relation,)}), reader)
                if _makes_sense(alone) and (kind == "held" or alone.free):
                    alone.solve()
                    out.append(kind)
            except (AnakinemaError, UnfitRuleError):
                continue
    return tuple(out)


def _sample(kind: model.RelationKind) -> str | None:
    if kind not in VALUED:
        return None
    return "1 rad" if VALUED[kind] == ANGLE else "1 mm"


def _makes_sense(sheet: Sheet) -> bool:
    """Whether a relation says something of such elements that another does not say better."""
    rule = sheet.rules[0]
    rounds, lines = sum(map(is_round, rule.of)), sum(map(is_line, rule.of))
    points = len(rule.of) - rounds - lines
    if rule.kind == "concentric":
        return lines == 0 and len(set(rule.of)) == 2
    if rule.kind == "on":
        return not isinstance(rule.of[0], Edge) and points == 1
    if rule.kind == "symmetric":
        return lines == 1 and is_line(rule.of[2])
    if rule.kind == "between":
        return not isinstance(rule.of[0], Edge) and (
            lines == 2 or not any(isinstance(e, Edge) for e in rule.of)
        )
    if rule.kind == "held":
        return points == 1 or (rounds == 1 and not isinstance(rule.of[0], Edge))
    if rule.kind == "length":
        return lines == 1
    return rule.kind != "distance" or rounds == 0 or len(set(rule.of)) == 2


def present_value(
    document: model.Document,
    part_id: str,
    kind: model.RelationKind,
    elements: Sequence[model.Element],
) -> str:
    """What a relation with a value would state as the part is drawn, as it is typed."""
    part = document.part(part_id)
    relation = model.Relation(kind=kind, of=tuple(elements), value=_sample(kind))
    reader = reader_of(document)
    sheet = Sheet(part.model_copy(update={"relations": (relation,)}), reader.within(part))
    value = measured(np.asarray(sheet.numbers), sheet.rules[0])
    dimension = VALUED[kind]
    if dimension == ANGLE:
        return f"{math.degrees(value):.6g} deg"
    return f"{value / reader.units.factor(dimension):.6g} {reader.units.length}"


def traces(
    resolved: Resolved, part_id: str, elements: Sequence[model.Element]
) -> tuple[Floats, ...]:
    """(V, 2) mm for each element: one point, or an edge flattened; (0, 2) for what is gone."""
    part = resolved.parts[part_id].source
    sheet = Sheet(part.model_copy(update={"relations": ()}), resolved.reader.within(part))
    out = []
    for element in elements:
        try:
            found = sheet.element(element, part.title)
        except AnakinemaError:
            out.append(np.zeros((0, 2)))
            continue
        numbers = np.asarray(sheet.numbers)
        if element.kind == "centre" and isinstance(found, Round):
            found = found.centre
        if isinstance(found, Point):
            out.append(numbers[[[found.x, found.y]]])
        elif isinstance(found, Round):
            turns = np.linspace(0, 2 * math.pi, 65)
            rim = np.stack([np.cos(turns), np.sin(turns)], axis=1)
            out.append(numbers[[found.centre.x, found.centre.y]] + numbers[found.radius] * rim)
        else:
            out.append(_flattened(numbers, found))
    return tuple(out)


def _flattened(numbers: Floats, edge: Edge) -> Floats:
    ends = numbers[[[edge.start.x, edge.start.y], [edge.end.x, edge.end.y]]]
    if edge.bulge is None:
        return np.asarray(ends)
    bulge = float(numbers[edge.bulge])
    (ax, ay), (bx, by) = ends.tolist()
    reach = (1.0 - bulge * bulge) / (4.0 * bulge)
    centre = np.array([(ax + bx) / 2 - reach * (by - ay), (ay + by) / 2 + reach * (bx - ax)])
    first, sweep = math.atan2(ay - centre[1], ax - centre[0]), 4.0 * math.atan(bulge)
    turns = first + sweep * np.linspace(0, 1, max(2, math.ceil(abs(sweep) * 16)))
    rim = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    return np.asarray(centre + math.dist((ax, ay), centre) * rim)
