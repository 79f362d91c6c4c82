"""New holes, slots, slabs and places of a part, each with what it is made to keep."""

from __future__ import annotations

import math

from anakinema.document import model
from anakinema.edits.base import fresh_id
from anakinema.edits.outline import AddHole, AddPlace, AddSlab


def kept_at_centre(slab: str, hole: str) -> model.Relation:
    """The place of a round hole stays at its centre; both have one name."""
    return model.Relation(
        kind="concentric",
        of=(
            model.Element(kind="place", place=hole),
            model.Element(kind="centre", slab=slab, hole=hole),
        ),
    )


def _names(part: model.Part) -> list[str]:
    return [h.id for s in part.slabs for h in s.holes] + [p.id for p in part.places]


def round_hole(part: model.Part, slab: str, x: float, y: float) -> AddHole:
    """A new 8 mm hole at x, y mm, with a place that stays at its centre."""
    name = fresh_id("hole", _names(part))
    at = (f"{x:.6g} mm", f"{y:.6g} mm")
    shape = model.Circle(shape="circle", x=at[0], y=at[1], radius="4.1 mm")
    return AddHole(
        part.id,
        slab,
        model.Hole(id=name, outline=shape),
        model.Place(id=name, x=at[0], y=at[1]),
        (kept_at_centre(slab, name),),
    )


def slot_hole(part: model.Part, slab: str, x: float, y: float) -> AddHole:
    """A new level slot about x, y mm, 30 mm between its ends, with a place kept midway."""
    name = fresh_id("slot", _names(part))
    rounds = tuple(
        model.Round(x=f"{x + dx:.6g} mm", y=f"{y:.6g} mm", radius="4.1 mm") for dx in (-15, 15)
    )
    ends = (model.Element(kind="centre", slab=slab, hole=name, index=k) for k in (0, 1))
    midway = model.Relation(kind="between", of=(model.Element(kind="place", place=name), *ends))
    return AddHole(
        part.id,
        slab,
        model.Hole(id=name, outline=model.Hull(shape="hull", rounds=rounds)),
        model.Place(id=name, x=f"{x:.6g} mm", y=f"{y:.6g} mm"),
        (midway,),
    )


SLOT_RADIUS = 4.1
"""mm; half the width of a new slot, for an 8 mm pin."""


def arc_slot(part: model.Part, slab: str, x: float, y: float) -> AddHole:
    """A new slot along an arc of 40 mm about x, y mm, 60 degrees long, its centre a place."""
    name = fresh_id("arc_slot", _names(part))
    inner, outer, half = 40 - SLOT_RADIUS, 40 + SLOT_RADIUS, 30
    stated = (
        (inner, half, "-tan(15 deg)"),
        (inner, -half, "1"),
        (outer, -half, "tan(15 deg)"),
        (outer, half, "1"),
    )
    vertices = tuple(
        model.Vertex(
            x=f"{x:.6g} mm + {r} mm*cos({a} deg)", y=f"{y:.6g} mm + {r} mm*sin({a} deg)", bulge=b
        )
        for r, a, b in stated
    )
    arcs = [model.Element(kind="edge", slab=slab, hole=name, index=k) for k in (0, 2)]
    place = model.Element(kind="place", place=name)
    kept = tuple(model.Relation(kind="concentric", of=(place, arc)) for arc in arcs)
    return AddHole(
        part.id,
        slab,
        model.Hole(id=name, outline=model.Path(shape="path", vertices=vertices)),
        model.Place(id=name, x=f"{x:.6g} mm", y=f"{y:.6g} mm"),
        kept,
    )


def line_arc_slot(part: model.Part, slab: str, x: float, y: float) -> AddHole:
    """A new slot from x, y mm, 20 mm straight, then 60 degrees round 30 mm, kept smooth."""
    name = fresh_id("bent_slot", _names(part))
    straight, radius, half = 20.0, 30.0, SLOT_RADIUS
    c, s = math.cos(math.radians(60)), math.sin(math.radians(60))
    bend, cx, cy = math.tan(math.radians(15)), x + straight, y + radius
    outer, inner = radius + half, radius - half
    stated = (
        (x, y - half, 0.0),
        (cx, y - half, bend),
        (cx + outer * s, cy - outer * c, 1.0),
        (cx + inner * s, cy - inner * c, -bend),
        (cx, y + half, 0.0),
        (x, y + half, 1.0),
    )
    vertices = tuple(
        model.Vertex(x=f"{u:.10g} mm", y=f"{v:.10g} mm", bulge=round(b, 14)) for u, v, b in stated
    )
    edges = [model.Element(kind="edge", slab=slab, hole=name, index=k) for k in range(6)]
    smooth = tuple(
        model.Relation(kind="tangent", of=(edges[k], edges[(k + 1) % 6])) for k in range(6)
    )
    place = model.Element(kind="place", place=name)
    kept = (
        *smooth,
        model.Relation(kind="concentric", of=(edges[1], edges[3])),
        model.Relation(kind="concentric", of=(place, edges[5])),
    )
    return AddHole(
        part.id,
        slab,
        model.Hole(id=name, outline=model.Path(shape="path", vertices=vertices)),
        model.Place(id=name, x=f"{x:.6g} mm", y=f"{y:.6g} mm"),
        kept,
    )


def curved_slot(part: model.Part, slab: str, x: float, y: float) -> AddHole:
    """A new slot along a smooth curve from x, y mm, with its middle to follow."""
    name = fresh_id("curved_slot", _names(part))
    points = ((0.0, 0.0), (15.0, 6.0), (30.0, 4.0), (45.0, 12.0))
    vertices = tuple(
        model.Vertex(x=f"{x + dx:.10g} mm", y=f"{y + dy:.10g} mm") for dx, dy in points
    )
    outline = model.SlotAlong(
        shape="slot_along", vertices=vertices, spline=True, width=f"{2 * SLOT_RADIUS:g} mm"
    )
    place = model.Place(id=name, x=f"{x:.6g} mm", y=f"{y:.6g} mm")
    return AddHole(part.id, slab, model.Hole(id=name, outline=outline), place)


SHAPES: dict[str, model.Outline] = {
    "disc": model.Circle(shape="circle", radius="10 mm"),
    "rectangle": model.Rectangle(shape="rectangle", width="30 mm", height="20 mm"),
    "path": model.Path(
        shape="path",
        vertices=tuple(
            model.Vertex(x=f"{x} mm", y=f"{y} mm")
            for x, y in ((-15, -10), (15, -10), (15, 10), (-15, 10))
        ),
    ),
}
"""Outlines that a new slab can have."""


def new_slab(part: model.Part, shape: str = "disc", *, level_with: str | None = None) -> AddSlab:
    """A new slab: on top of the part, or over the heights of another slab."""
    name = fresh_id(shape if level_with else "slab", [slab.id for slab in part.slabs])
    bottom: float | str = "6 mm"
    top: float | str = "12 mm"
    if level_with is not None:
        other = model.next_by_id(part.slabs, level_with)
        bottom, top = other.bottom, other.top
    return AddSlab(part.id, model.Slab(id=name, bottom=bottom, top=top, outline=SHAPES[shape]))


def place_midway(part: model.Part, one: model.Element, two: model.Element) -> AddPlace:
    """A place kept midway between two edges or two points of a part."""
    name = fresh_id("midway", _names(part))
    at = model.Element(kind="place", place=name)
    between = model.Relation(kind="between", of=(at, one, two))
    return AddPlace(part.id, model.Place(id=name), (between,))


def place_beside(part: model.Part, edge: model.Element, distance: str) -> AddPlace:
    """A place kept a distance off an edge or a point of a part."""
    name = fresh_id("beside", _names(part))
    at = model.Element(kind="place", place=name)
    kept = model.Relation(kind="distance", of=(at, edge), value=distance)
    return AddPlace(part.id, model.Place(id=name), (kept,))
