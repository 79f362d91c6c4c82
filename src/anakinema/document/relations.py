"""What the outlines of a part keep: its relations turned into equations and solved.

Every number of an outline and every place stands in one row (`Sheet`). Numbers that name nothing
may move; an expression that names a dimension or a parameter is obeyed. A part whose relations
are kept already is given back as it is.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Set
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.contours import contour_of
from anakinema.document.reading import Reader
from anakinema.errors import GeometryError, MissingNameError
from anakinema.expressions import parse
from anakinema.geometry.contour import Contour
from anakinema.geometry.relations import Settling, alternatives, settle
from anakinema.geometry.rules import Edge, Element, Point, Round, Rule, UnfitRuleError
from anakinema.units import ANGLE, LENGTH, NUMBER, UnitSystem

STRAIGHT = 1e-12
"""A bulge below this is a line."""
NEEDED = {
    "tangent": 2,
    "concentric": 2,
    "equal": 2,
    "parallel": 2,
    "square": 2,
    "symmetric": 3,
    "on": 2,
    "between": 3,
    "length": 1,
    "radius": 1,
    "angle": 2,
    "distance": 2,
    "held": 1,
}
"""How many elements a relation is between."""
VALUED = {"length": LENGTH, "radius": LENGTH, "angle": ANGLE, "distance": LENGTH}
"""Relations that state a value, and what it measures."""
WORDS = {
    "tangent": "smooth",
    "equal": "equal",
    "concentric": "concentric",
    "parallel": "parallel",
    "square": "square",
    "symmetric": "symmetric",
    "on": "on",
    "between": "midway",
    "held": "held",
    "length": "long",
    "radius": "radius",
    "angle": "angle",
    "distance": "apart",
}


@dataclass(frozen=True, slots=True)
class Slot:
    """Where a number of a part stands: a corner (``index``, or -1) of an outline, or a place."""

    slab: str | None
    hole: str | None
    index: int
    field: str


def numbers_of(part: model.Part) -> Iterator[tuple[Slot, float | str]]:
    """Every number of a part that relations can speak of, and how it is stated."""
    for slab in part.slabs:
        yield from _outline_numbers(slab.id, None, slab.outline)
        for hole in slab.holes:
            yield from _outline_numbers(slab.id, hole.id, hole.outline)
    for place in part.places:
        yield Slot(None, place.id, -1, "x"), place.x
        yield Slot(None, place.id, -1, "y"), place.y


def _outline_numbers(
    slab: str, hole: str | None, outline: model.Outline
) -> Iterator[tuple[Slot, float | str]]:
    if isinstance(outline, model.Path | model.SlotAlong):
        for k, vertex in enumerate(outline.vertices):
            for field in ("x", "y", "bulge"):
                yield Slot(slab, hole, k, field), getattr(vertex, field)
    elif isinstance(outline, model.Hull):
        for k, each in enumerate(outline.rounds):
            for field in ("x", "y", "radius"):
                yield Slot(slab, hole, k, field), getattr(each, field)
    elif not isinstance(outline, model.CamOutline):
        fields = ("x", "y", "radius") if isinstance(outline, model.Circle) else ("x", "y")
        for field in fields:
            yield Slot(slab, hole, -1, field), getattr(outline, field)


class Sheet:
    """The numbers of a part in one row, and its relations as rules between them."""

    def __init__(self, part: model.Part, reader: Reader, held: Set[Slot] = frozenset()) -> None:
        self.part, self._reader = part, reader
        self.numbers: list[float] = []
        self.columns: dict[Slot, int] = {}
        self._free: set[int] = set()
        self._where = f"part '{part.title}'"
        self._contours: dict[tuple[str, str | None], Contour] = {}
        for slot, source in numbers_of(part):
            self._take(slot, source)
        self._free -= {self.columns[slot] for slot in held if slot in self.columns}
        self.rules = [self._rule(relation) for relation in part.relations]

    @property
    def free(self) -> list[int]:
        """Columns that may move and that some rule speaks of."""
        used = {column for rule in self.rules for column in _all_columns(rule)}
        return sorted(self._free & used)

    def _take(self, slot: Slot, source: float | str) -> None:
        dimension = NUMBER if slot.field == "bulge" else LENGTH
        self.columns[slot] = len(self.numbers)
        if not isinstance(source, str) or not parse(source).names:
            self._free.add(len(self.numbers))
        self.numbers.append(self._reader.read(source, dimension, self._where, slot.field))

    def _constant(self, x: float, y: float) -> Point:
        self.numbers += [x, y]
        return Point(len(self.numbers) - 2, len(self.numbers) - 1)

    def _point(self, slab: str | None, hole: str | None, index: int) -> Point:
        return Point(*(self.columns[Slot(slab, hole, index, field)] for field in ("x", "y")))

    def _rule(self, relation: model.Relation) -> Rule:
        where = f"{self._where}, {relation_words(self.part, relation)}"
        if len(relation.of) != NEEDED[relation.kind]:
            raise GeometryError(
                f"it is between {NEEDED[relation.kind]} things.", where=where, remedy="Delete it."
            )
        dimension = VALUED.get(relation.kind)
        if (relation.value is None) != (dimension is None):
            raise GeometryError(
                "it needs a value." if dimension else "it takes no value.",
                where=where,
                remedy="Correct it or delete it.",
            )
        value = 0.0
        if dimension is not None and relation.value is not None:
            value = self._reader.read(relation.value, dimension, where, "value")
            if dimension == LENGTH and not value > 0:
                raise GeometryError("its value is not above zero.", where=where, remedy="Raise it.")
        of = tuple(self.element(element, where) for element in relation.of)
        if relation.kind == "held":
            self._free -= _columns(of[0])
        return Rule(relation.kind, of, value)

    def element(self, element: model.Element, where: str) -> Element:
        """What a relation speaks of, in columns; raises `MissingNameError`."""
        if element.kind == "axis":
            along = (0.0, 1.0) if element.index else (1.0, 0.0)
            return Edge(self._constant(0.0, 0.0), self._constant(*along))
        try:
            if element.kind == "place":
                return self._point(None, element.place, -1)
            outline = self._outline(element)
            slab, hole, index = str(element.slab), element.hole, element.index
            if element.kind == "edge":
                return self._edge(slab, hole, index, outline)
            if isinstance(outline, model.Path | model.SlotAlong):
                if element.kind == "corner":
                    return self._point(slab, hole, index)
                raise KeyError(element.kind)
            if isinstance(outline, model.CamOutline):
                return self._constant(0.0, 0.0)
            if not isinstance(outline, model.Hull | model.Circle):
                return self._point(slab, hole, -1)
            at = index if isinstance(outline, model.Hull) else -1
            return Round(self._point(slab, hole, at), self.columns[Slot(slab, hole, at, "radius")])
        except (KeyError, IndexError) as error:
            raise MissingNameError(
                f"there is no {element_words(self.part, element)}.",
                where=where,
                remedy="Delete what is kept of it.",
            ) from error

    def _outline(self, element: model.Element) -> model.Outline:
        slab = model.next_by_id(self.part.slabs, str(element.slab))
        if element.hole is None:
            return slab.outline
        return model.next_by_id(slab.holes, element.hole).outline

    def _edge(self, slab: str, hole: str | None, index: int, outline: model.Outline) -> Element:
        if isinstance(outline, model.Circle):
            return Round(self._point(slab, hole, -1), self.columns[Slot(slab, hole, -1, "radius")])
        if isinstance(outline, model.Path):
            count = len(outline.vertices)
            bulge = self.columns[Slot(slab, hole, index, "bulge")]
            return Edge(
                self._point(slab, hole, index),
                self._point(slab, hole, (index + 1) % count),
                bulge if abs(self.numbers[bulge]) > STRAIGHT else None,
            )
        key = (slab, hole)
        if key not in self._contours:
            self._contours[key] = contour_of(
                outline, self._reader, self._where, is_opening=hole is not None
            )
        contour = self._contours[key]
        rows = [k for k, piece in enumerate(contour.piece.tolist()) if piece == index]
        first, last = contour.start[rows[0]], contour.end[rows[-1]]
        # What its edges are measured from must not move with them.
        self._free -= {c for s, c in self.columns.items() if (s.slab, s.hole) == key}
        start, end = self._constant(*first.tolist()), self._constant(*last.tolist())
        sweep = float(contour.sweep[rows].sum())
        if not sweep:
            return Edge(start, end)
        centre = self._constant(*contour.centre[rows[0]].tolist())
        self.numbers.append(float(contour.radius[rows[0]]))
        return Round(centre, len(self.numbers) - 1)

    def solve(self) -> Settling:
        """Move the free numbers until all is kept: outlines for their own sake, places after them.

        Only where that does not do do outlines move for the sake of places.
        """
        numbers, free = np.asarray(self.numbers), self.free
        places = {column for slot, column in self.columns.items() if slot.slab is None}
        shaping = [r for r in self.rules if not places & _all_columns(r)]
        shaped = settle(numbers, [c for c in free if c not in places], shaping)
        followed = settle(shaped.numbers, [c for c in free if c in places], self.rules)
        start = numbers if shaped.broken or followed.broken else followed.numbers
        return settle(start, free, self.rules)

    def ways(self, new: int) -> tuple[Settling, ...]:
        """All ways found to keep all, tried round the relation of that index."""
        nearest = self.solve()
        start = np.asarray(self.numbers) if nearest.broken else nearest.numbers
        return alternatives(start, self.free, self.rules, new)

    def part_with(self, settling: Settling) -> model.Part:
        """The part with the numbers that have moved stated as they are now."""
        moved: dict[tuple[str | None, str | None, int], dict[str, float | str]] = {}
        for slot, column in self.columns.items():
            value = float(settling.numbers[column])
            if abs(value - self.numbers[column]) > 1e-11:
                stated = value if slot.field == "bulge" else f"{value:.15g} mm"
                moved.setdefault((slot.slab, slot.hole, slot.index), {})[slot.field] = stated
        if not moved:
            return self.part

        def outline(slab: str, hole: str | None, shape: model.Outline) -> model.Outline:
            name = {"path": "vertices", "hull": "rounds"}.get(shape.shape)
            if name is None:
                return shape.model_copy(update=moved.get((slab, hole, -1), {}))
            items = tuple(
                item.model_copy(update=moved[slab, hole, k]) if (slab, hole, k) in moved else item
                for k, item in enumerate(getattr(shape, name))
            )
            return shape.model_copy(update={name: items})

        slabs = tuple(
            slab.model_copy(
                update={
                    "outline": outline(slab.id, None, slab.outline),
                    "holes": tuple(
                        h.model_copy(update={"outline": outline(slab.id, h.id, h.outline)})
                        for h in slab.holes
                    ),
                }
            )
            for slab in self.part.slabs
        )
        places = tuple(
            place.model_copy(update=moved.get((None, place.id, -1), {}))
            for place in self.part.places
        )
        return self.part.model_copy(update={"slabs": slabs, "places": places})


def _all_columns(rule: Rule) -> set[int]:
    return {column for element in rule.of for column in _columns(element)}


def _columns(element: Element) -> set[int]:
    if isinstance(element, Point):
        return {element.x, element.y}
    if isinstance(element, Round):
        return {element.centre.x, element.centre.y, element.radius}
    bulge = set() if element.bulge is None else {element.bulge}
    return {*_columns(element.start), *_columns(element.end), *bulge}


def settled(part: model.Part, reader: Reader, held: Set[Slot] = frozenset()) -> model.Part:
    """The part with its free numbers moved, as little as can be, to keep its relations.

    ``reader`` knows the part's dimensions; ``held`` numbers stay where they are. Raises
    `GeometryError` naming the relations that cannot be kept together.
    """
    if not part.relations:
        return part
    sheet = Sheet(part, reader, held)
    try:
        settling = sheet.solve()
    except UnfitRuleError as error:
        raise unfit(part, part.relations, str(error)) from error
    if settling.broken:
        broken = [part.relations[k] for k in settling.broken]
        raise unfit(part, broken, "cannot be kept together with the rest.")
    return sheet.part_with(settling)


def still_related(part: model.Part, reader: Reader) -> model.Part:
    """The part without the relations that do not hold as its numbers stand."""
    local = reader.within(part)
    kept = []
    for relation in part.relations:
        alone = part.model_copy(update={"relations": (relation,)})
        sheet = Sheet(alone, local)
        if not settle(np.asarray(sheet.numbers), (), sheet.rules).broken:
            kept.append(relation)
    return part.model_copy(update={"relations": tuple(kept)})


def unfit(part: model.Part, relations: Iterable[model.Relation], why: str) -> GeometryError:
    """The error for relations that cannot be kept."""
    named = "; ".join(relation_words(part, relation) for relation in relations)
    return GeometryError(
        f"'{named}' {why}",
        where=f"part '{part.title}'",
        remedy="Take one of what is kept away, or free a number that an expression sets.",
    )


def element_words(part: model.Part, element: model.Element) -> str:
    """What a relation speaks of, for people; counted from 1."""
    if element.kind == "axis":
        return "upright axis" if element.index else "level axis"
    if element.kind == "place":
        return f"place {str(element.place).replace('_', ' ')}"
    if element.kind == "centre":
        return f"centre{_owner_words(part, element)}"
    return f"{element.kind} {element.index + 1}{_owner_words(part, element)}"


def _owner_words(part: model.Part, element: model.Element) -> str:
    owner = element.hole or (element.slab if len(part.slabs) > 1 else None)
    return f" of {owner.replace('_', ' ')}" if owner else ""


def _pair_words(part: model.Part, one: model.Element, two: model.Element) -> str:
    """Two elements, stated shortly where they are of one outline."""
    same = (one.kind, one.slab, one.hole) == (two.kind, two.slab, two.hole)
    if same and one.kind in ("corner", "edge"):
        numbers = f"{one.index + 1} and {two.index + 1}"
        return f"{one.kind}s {numbers}{_owner_words(part, one)}"
    return f"{element_words(part, one)} and {element_words(part, two)}"


def relation_words(
    part: model.Part, relation: model.Relation, units: UnitSystem | None = None
) -> str:
    """A relation for people, its value as it is typed."""
    if len(relation.of) == 1:
        of = element_words(part, relation.of[0])
    else:
        of = _pair_words(part, *relation.of[:2])
    if len(relation.of) == 3:
        third = element_words(part, relation.of[2])
        if relation.kind == "symmetric":
            return f"{of} symmetric about the {third}"
        first, second = (element_words(part, e) for e in relation.of[:2])
        return f"{first} midway between {second} and {third}"
    words = WORDS[relation.kind]
    if relation.value is None:
        return f"{of} {words}"
    shown = relation.value
    if not isinstance(shown, str) and units is not None:
        shown = f"{shown:.10g} {units.symbol(VALUED[relation.kind])}".replace(" °", "°")
    return f"{of}: {words} {shown}"
