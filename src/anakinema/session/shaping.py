"""What the outline editor asks of a part: rings and corners to draw, and whole-part operations."""

from __future__ import annotations

from collections.abc import Callable

from anakinema.building.shaping import (
    as_path,
    corner_points,
    outline_ring,
    put_on_origin,
    repeated_round,
    turned_level,
    turned_over,
)
from anakinema.document import model
from anakinema.document.resolve import resolve
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.outline import AddHole, AddSlab, OutlineKey
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.session.assembling import Scene


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


def round_hole(part: model.Part, slab: str, x: float, y: float) -> AddHole:
    """A new 8 mm hole at x, y mm, with a place."""
    taken = [h.id for s in part.slabs for h in s.holes] + [p.id for p in part.places]
    name = fresh_id("hole", taken)
    at = (f"{x:.6g} mm", f"{y:.6g} mm")
    shape = model.Circle(shape="circle", x=at[0], y=at[1], radius="4.1 mm")
    return AddHole(
        part.id, slab, model.Hole(id=name, outline=shape), model.Place(id=name, x=at[0], y=at[1])
    )


def slot_hole(part: model.Part, slab: str, x: float, y: float) -> AddHole:
    """A new level slot about x, y mm, 30 mm between its ends, with a place along it."""
    taken = [h.id for s in part.slabs for h in s.holes] + [p.id for p in part.places]
    name = fresh_id("slot", taken)
    rounds = tuple(
        model.Round(x=f"{x + dx:.6g} mm", y=f"{y:.6g} mm", radius="4.1 mm") for dx in (-15, 15)
    )
    return AddHole(
        part.id, slab, model.Hole(id=name, outline=model.Hull(shape="hull", rounds=rounds)),
        model.Place(id=name, x=f"{x:.6g} mm", y=f"{y:.6g} mm"),
    )  # fmt: skip


def arc_slot(part: model.Part, slab: str, x: float, y: float) -> AddHole:
    """A new slot along an arc of 40 mm about x, y mm, 60 degrees long."""
    taken = [h.id for s in part.slabs for h in s.holes] + [p.id for p in part.places]
    name = fresh_id("arc_slot", taken)
    inner, outer, half = 35.9, 44.1, 30
    told = (
        (inner, half, "-tan(15 deg)"), (inner, -half, "1"), (outer, -half, "tan(15 deg)"),
        (outer, half, "1"),
    )  # fmt: skip
    vertices = tuple(
        model.Vertex(
            x=f"{x:.6g} mm + {r} mm*cos({a} deg)", y=f"{y:.6g} mm + {r} mm*sin({a} deg)", bulge=b
        )
        for r, a, b in told
    )
    return AddHole(
        part.id, slab, model.Hole(id=name, outline=model.Path(shape="path", vertices=vertices)),
        model.Place(id=name, x=f"{x:.6g} mm", y=f"{y:.6g} mm"),
    )  # fmt: skip


def new_slab(part: model.Part) -> AddSlab:
    """A new disc of 20 mm on top of the part."""
    name = fresh_id("slab", [slab.id for slab in part.slabs])
    shape = model.Circle(shape="circle", radius="10 mm")
    return AddSlab(part.id, model.Slab(id=name, bottom="6 mm", top="12 mm", outline=shape))


def part_operation(scene: Scene, key: OutlineKey, name: str, *values: object) -> Edit:
    """A whole-part operation by name; raises an `AnakinemaError` if it cannot be.

    'path'; 'over'; 'origin' place; 'level' place place; 'round' count.
    """
    part = scene.resolved.source.part(key.part)
    makers: dict[str, Callable[[], Edit | None]] = {
        "path": lambda: as_path(scene.resolved, key),
        "over": lambda: turned_over(part),
        "origin": lambda: put_on_origin(scene.resolved, part, str(values[0])),
        "level": lambda: turned_level(scene.resolved, part, str(values[0]), str(values[1])),
        "round": lambda: repeated_round(scene.resolved, key, 0.0, 0.0, int(str(values[0]))),
    }
    edit = makers[name]()
    if edit is None:
        raise ValueOutOfRangeError(
            "it looks the same when turned over.", where=f"part '{part.title}'"
        )
    trouble = sound(scene.resolved.source, edit)
    if trouble is not None:
        raise trouble
    return edit
