"""Edits of outlines: vertices, shapes and holes of a part's slabs, each number an expression."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.depending import with_part
from anakinema.document.model import Document
from anakinema.edits.base import Keyed, Source, changed, replaced
from anakinema.edits.relations import renumbered

VERTEXED = (model.Path, model.SlotAlong)
"""Outlines that are stated by vertices."""


@dataclass(frozen=True)
class OutlineKey:
    """Which outline: of a slab of a part, or of one of its holes."""

    part: str
    slab: str
    hole: str | None = None


def outline_at(document: Document, key: OutlineKey) -> model.Outline:
    """The outline; raises `KeyError` if it is gone."""
    return outline_in(document.part(key.part), key)


def outline_in(part: model.Part, key: OutlineKey) -> model.Outline:
    """The outline in its part; raises `KeyError` if it is gone."""
    slab = model.next_by_id(part.slabs, key.slab)
    return slab.outline if key.hole is None else model.next_by_id(slab.holes, key.hole).outline


def _kept(element: model.Element) -> int | None:
    return element.index


def _gone(element: model.Element) -> int | None:
    return None


def _with_outline(
    document: Document,
    key: OutlineKey,
    change: Callable[[model.Outline], model.Outline],
    number: Callable[[model.Element], int | None] = _kept,
) -> Document:
    """The document with an outline changed; ``number`` counts its corners and edges anew."""

    def slab_after(slab: model.Slab) -> model.Slab:
        if slab.id != key.slab:
            return slab
        if key.hole is None:
            return slab.model_copy(update={"outline": change(slab.outline)})
        holes = tuple(
            h.model_copy(update={"outline": change(h.outline)}) if h.id == key.hole else h
            for h in slab.holes
        )
        return slab.model_copy(update={"holes": holes})

    outline_at(document, key)
    part = document.part(key.part)
    part = part.model_copy(
        update={
            "slabs": tuple(slab_after(slab) for slab in part.slabs),
            "relations": renumbered(part.relations, key.slab, key.hole, number),
        }
    )
    return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class SetOutline(Keyed):
    """Put another shape in the place of an outline."""

    key: OutlineKey
    outline: model.Outline
    label: str = "Change outline"
    subject = ("key", "label")

    def apply(self, document: Document) -> Document:
        return _with_outline(document, self.key, lambda _: self.outline, _gone)


@dataclass(frozen=True)
class SetShape(Keyed):
    """Set a field of an outline that is stated by numbers: x, y, radius, width, turned, ..."""

    key: OutlineKey
    field: str
    value: Source | bool
    label = "Set outline"
    subject = ("key", "field")

    def apply(self, document: Document) -> Document:
        return _with_outline(
            document, self.key, lambda shape: changed(shape, **{self.field: self.value})
        )


@dataclass(frozen=True)
class SetCorner(Keyed):
    """Set numbers of a vertex of a path, or of a round of a hull."""

    key: OutlineKey
    index: int
    values: tuple[tuple[str, Source], ...]
    label = "Move corner"

    @property
    def merge_key(self) -> tuple[object, ...]:
        return (type(self), self.key, self.index, *(name for name, _ in self.values))

    def apply(self, document: Document) -> Document:
        def change(shape: model.Outline) -> model.Outline:
            name = "vertices" if isinstance(shape, VERTEXED) else "rounds"
            corners = list(getattr(shape, name))
            corners[self.index] = changed(corners[self.index], **dict(self.values))
            return changed(shape, **{name: tuple(corners)})

        return _with_outline(document, self.key, change)


@dataclass(frozen=True)
class AddCorner(Keyed):
    """A new vertex behind another of a path, or round of a hull."""

    key: OutlineKey
    after: int
    x: Source
    y: Source
    radius: Source = 5.0
    label = "Add corner"
    subject = ()

    def apply(self, document: Document) -> Document:
        def change(shape: model.Outline) -> model.Outline:
            if isinstance(shape, VERTEXED):
                vertices = list(shape.vertices)
                vertices.insert(self.after + 1, model.Vertex(x=self.x, y=self.y))
                return changed(shape, vertices=tuple(vertices))
            if isinstance(shape, model.Hull):
                rounds = list(shape.rounds)
                new = model.Round(x=self.x, y=self.y, radius=self.radius)
                rounds.insert(self.after + 1, new)
                return changed(shape, rounds=tuple(rounds))
            raise KeyError(shape.shape)

        def number(element: model.Element) -> int | None:
            # The edge that is cut in two is none of the two; a hull's edges are counted anew.
            if element.kind == "edge" and (is_hull or element.index == self.after):
                return None
            return element.index + (element.index > self.after)

        is_hull = isinstance(outline_at(document, self.key), model.Hull)
        return _with_outline(document, self.key, change, number)


@dataclass(frozen=True)
class RemoveCorner(Keyed):
    """Take out a vertex of a path or a round of a hull; the last two stay."""

    key: OutlineKey
    index: int
    label = "Delete corner"
    subject = ()

    def apply(self, document: Document) -> Document:
        def change(shape: model.Outline) -> model.Outline:
            name = "vertices" if isinstance(shape, VERTEXED) else "rounds"
            corners = list(getattr(shape, name))
            del corners[self.index]
            return changed(shape, **{name: tuple(corners)})

        shape = outline_at(document, self.key)
        count = len(getattr(shape, "vertices", getattr(shape, "rounds", ())))
        if count <= 2:
            return document

        def number(element: model.Element) -> int | None:
            gone = {self.index}
            if element.kind == "edge":
                # The two edges that met there become one.
                gone = set(range(count)) if isinstance(shape, model.Hull) else gone
                gone.add((self.index - 1) % count)
            return None if element.index in gone else element.index - (element.index > self.index)

        return _with_outline(document, self.key, change, number)


@dataclass(frozen=True)
class AddHole(Keyed):
    """A new opening in a slab, a place at its centre or along its axis, and what they keep."""

    part: str
    slab: str
    hole: model.Hole
    place: model.Place | None = None
    relations: tuple[model.Relation, ...] = ()
    label = "Add hole"
    subject = ()

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        slab = model.next_by_id(part.slabs, self.slab)
        slab = slab.model_copy(update={"holes": (*slab.holes, self.hole)})
        slabs = tuple(slab if old.id == slab.id else old for old in part.slabs)
        update: dict[str, object] = {"slabs": slabs}
        if self.place is not None:
            update["places"] = (*part.places, self.place)
        update["relations"] = (*part.relations, *self.relations)
        part = part.model_copy(update=update)
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class RemoveHole(Keyed):
    """Close an opening; joints that name it as touching piece no longer do."""

    part: str
    slab: str
    hole: str
    label = "Delete hole"
    subject = ()

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        slab = model.next_by_id(part.slabs, self.slab)
        model.next_by_id(slab.holes, self.hole)
        slab = slab.model_copy(update={"holes": tuple(h for h in slab.holes if h.id != self.hole)})
        slabs = tuple(slab if old.id == slab.id else old for old in part.slabs)
        relations = renumbered(part.relations, self.slab, self.hole, _gone)
        part = part.model_copy(update={"slabs": slabs, "relations": relations})
        return with_part(document, part)


@dataclass(frozen=True)
class AddSlab(Keyed):
    """A new slab on a part, over an interval of heights."""

    part: str
    slab: model.Slab
    label = "Add slab"
    subject = ()

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        if any(old.id == self.slab.id for old in part.slabs):
            raise KeyError(self.slab.id)
        part = part.model_copy(update={"slabs": (*part.slabs, self.slab)})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class SetSlab(Keyed):
    """Set the 'bottom' or 'top' of a slab."""

    part: str
    slab: str
    field: str
    value: Source
    label = "Set heights"
    subject = ("part", "slab", "field")

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        slab = changed(model.next_by_id(part.slabs, self.slab), **{self.field: self.value})
        slabs = tuple(slab if old.id == slab.id else old for old in part.slabs)
        part = part.model_copy(update={"slabs": slabs})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class AddPlace(Keyed):
    """A new place on a part, and what keeps it where it is."""

    part: str
    place: model.Place
    relations: tuple[model.Relation, ...] = ()
    label = "Mark place"
    subject = ()

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        if any(old.id == self.place.id for old in part.places):
            raise KeyError(self.place.id)
        part = part.model_copy(
            update={
                "places": (*part.places, self.place),
                "relations": (*part.relations, *self.relations),
            }
        )
        return document.model_copy(update={"parts": replaced(document.parts, part)})


@dataclass(frozen=True)
class SetPlace(Keyed):
    """Set numbers of a place: x, y, angle."""

    part: str
    place: str
    values: tuple[tuple[str, Source], ...]
    label = "Move place"

    @property
    def merge_key(self) -> tuple[object, ...]:
        return (type(self), self.part, self.place, *(name for name, _ in self.values))

    def apply(self, document: Document) -> Document:
        part = document.part(self.part)
        place = changed(model.next_by_id(part.places, self.place), **dict(self.values))
        places = tuple(place if old.id == place.id else old for old in part.places)
        part = part.model_copy(update={"places": places})
        return document.model_copy(update={"parts": replaced(document.parts, part)})
