"""What the outline editor asks of a part: rings and corners to draw, and whole-part operations."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from anakinema.authoring.carving import combined, copied_round, mirrored_in, parallel
from anakinema.authoring.relating import kept_state
from anakinema.authoring.scene import Scene
from anakinema.authoring.shaping import (
    as_path,
    corner_points,
    outline_ring,
    put_on_origin,
    repeated_round,
    turned_along,
    turned_over,
)
from anakinema.document import model
from anakinema.document.relations import Slot, element_words, numbers_of, relation_words
from anakinema.document.resolve import resolve
from anakinema.edits.base import Edit, Together
from anakinema.edits.outline import AddPlace, OutlineKey, SetCorner, SetPlace, SetShape, outline_in
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.geometry.contour import Floats


def outline_keys(part: model.Part) -> list[OutlineKey]:
    """All outlines of a part, each slab before its holes."""
    keys = []
    for slab in part.slabs:
        keys.append(OutlineKey(part.id, slab.id))
        keys += [OutlineKey(part.id, slab.id, hole.id) for hole in slab.holes]
    return keys


def ring_of(scene: Scene, key: OutlineKey) -> Floats:
    """(V, 2) mm of an outline, to draw."""
    return outline_ring(scene.resolved, key)


def corners_of(scene: Scene, key: OutlineKey) -> tuple[tuple[float, float], ...]:
    """mm: what can be dragged of an outline."""
    return corner_points(scene.resolved, key)


def sound(document: model.Document, edit: Edit) -> AnakinemaError | None:
    """What would be wrong with the document after an edit, None if nothing more than before."""
    try:
        resolve(edit.apply(document))
    except AnakinemaError as error:
        return error
    return None


def part_operation(scene: Scene, key: OutlineKey, name: str, *values: object) -> Edit:
    """A whole-part operation by name; raises an `AnakinemaError` if it cannot be.

    'path'; 'over'; 'origin' of a point; 'level' or 'upright' by an edge or two points; 'round'
    count; 'added' or 'cut' slab; 'offset' distance; 'mirror' whether about the upright axis.
    """
    part = scene.resolved.source.part(key.part)
    resolved = scene.resolved

    def round_() -> Edit:
        count = int(str(values[0]))
        if key.hole is not None:
            return copied_round(resolved, key, count)
        return repeated_round(resolved, key, 0.0, 0.0, count)

    picked = [value for value in values if isinstance(value, model.Element)]
    makers: dict[str, Callable[[], Edit | None]] = {
        "path": lambda: as_path(resolved, key),
        "over": lambda: turned_over(part),
        "origin": lambda: put_on_origin(resolved, part, picked[0]),
        "level": lambda: turned_along(resolved, part, picked, False),
        "upright": lambda: turned_along(resolved, part, picked, True),
        "round": round_,
        "added": lambda: combined(resolved, key, str(values[0]), "added"),
        "cut": lambda: combined(resolved, key, str(values[0]), "cut"),
        "offset": lambda: parallel(resolved, key, str(values[0])),
        "mirror": lambda: mirrored_in(resolved, key, bool(values[0])),
    }
    edit = makers[name]()
    if edit is None:
        raise ValueOutOfRangeError(
            "it looks the same when turned over.", where=f"part '{part.title}'"
        )
    trouble = sound(resolved.source, edit)
    if trouble is not None:
        raise trouble
    return edit


@dataclass(frozen=True, slots=True)
class Kept:
    """A relation of a part for people: what it says, its value as typed, whether it repeats."""

    words: str
    value: str | None
    repeats: bool


def kept_of(document: model.Document, part_id: str) -> tuple[Kept, ...]:
    """The relations of a part, in words."""
    part = document.part(part_id)
    state = kept_state(document, part_id)
    repeats = state.repeats if state is not None else ()
    out = []
    for k, relation in enumerate(part.relations):
        bare = relation.model_copy(update={"value": None})
        value = None if relation.value is None else str(relation.value)
        out.append(Kept(relation_words(part, bare), value, k in repeats))
    return tuple(out)


def elements_of(part: model.Part, key: OutlineKey) -> list[tuple[model.Element, str]]:
    """What can be picked to be related, with words: this outline's first, then all else."""
    found: list[model.Element] = []
    outlines = sorted(outline_keys(part), key=lambda other: other != key)
    for each in outlines:
        shape = outline_in(part, each)
        slab, hole = each.slab, each.hole
        if isinstance(shape, model.Path):
            for kind in ("corner", "edge"):
                found += [
                    model.Element.model_validate(
                        {"kind": kind, "slab": slab, "hole": hole, "index": k}
                    )
                    for k in range(len(shape.vertices))
                ]
            continue
        if isinstance(shape, model.SlotAlong):
            found += [
                model.Element(kind="corner", slab=slab, hole=hole, index=k)
                for k in range(len(shape.vertices))
            ]
            continue
        count = len(shape.rounds) if isinstance(shape, model.Hull) else 1
        found += [model.Element(kind="centre", slab=slab, hole=hole, index=k) for k in range(count)]
    found += [model.Element(kind="place", place=place.id) for place in part.places]
    found += [model.Element(kind="axis", index=k) for k in (0, 1)]
    return [(element, element_words(part, element)) for element in found]


def just_set(document: model.Document, edit: Edit) -> frozenset[Slot]:
    """Numbers that an edit of a part sets: what follows from it must leave them alone.

    A new place stands where it was put; the outlines do not move for it.
    """
    if isinstance(edit, SetCorner):
        slab, hole = edit.key.slab, edit.key.hole
        return frozenset(Slot(slab, hole, edit.index, name) for name, _ in edit.values)
    if isinstance(edit, SetShape):
        return frozenset((Slot(edit.key.slab, edit.key.hole, -1, edit.field),))
    if isinstance(edit, SetPlace):
        return frozenset(Slot(None, edit.place, -1, name) for name, _ in edit.values)
    if isinstance(edit, AddPlace):
        return frozenset(slot for slot, _ in numbers_of(document.part(edit.part)))
    if isinstance(edit, Together):
        return frozenset().union(*(just_set(document, each) for each in edit.edits))
    return frozenset()
