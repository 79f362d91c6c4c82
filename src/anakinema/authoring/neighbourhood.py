"""Drawing a part where it stands: its neighbours, and their sizes as expressions."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.authoring.openings import SHAPES
from anakinema.authoring.placing import next_colour
from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.structure import Add
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried, relative_poses, transform
from anakinema.units import LENGTH


@dataclass(frozen=True, slots=True, eq=False)
class Neighbour:
    """Another body near a part being drawn: its outlines (V, 2) mm in that part's frame."""

    body: str
    title: str
    rings: tuple[Floats, ...]
    points: tuple[tuple[float, float], ...]


def neighbours(scene: Scene, body_id: str) -> tuple[Neighbour, ...]:
    """All other bodies as they stand about a body, the nearest first."""
    own = scene.index(body_id)
    if own is None:
        return ()
    found = []
    for index, body in enumerate(scene.resolved.document.bodies):
        if index == own:
            continue
        seen = relative_poses(scene.poses[None, own], scene.poses[None, index])
        solid = scene.resolved.part_of(body)
        rings = tuple(
            transform(np.asarray(ring.coords), seen)[0]
            for slab in solid.slabs
            for ring in (slab.region.polygon.exterior, *slab.region.polygon.interiors)
        )
        points = tuple(carried(seen[0], place) for place in solid.places.values())
        found.append(Neighbour(body.id, body.title, rings, points))
    return tuple(sorted(found, key=lambda n: min((math.hypot(*p) for p in n.points), default=1e9)))


def sizes_of(scene: Scene, body_id: str) -> tuple[tuple[str, str, str], ...]:
    """Dimensions of a body's part: words, value in words, and the expression that follows it."""
    index = scene.index(body_id)
    if index is None:
        return ()
    part = scene.resolved.document.part(scene.resolved.document.bodies[index].part)
    out = []
    for dimension in part.dimensions:
        name = f"{part.id}.{dimension.id}"
        quantity = scene.resolved.names[name]
        stated = scene.resolved.units.format(quantity.value, quantity.dimension)
        out.append((dimension.id.replace("_", " "), stated, name))
    return tuple(out)


def drawn_in_place(scene: Scene, x: float, y: float) -> tuple[Edit, str]:
    """A new part of one plate standing at x, y mm, to be drawn over its neighbours; its body."""
    document = scene.resolved.source
    part_id = fresh_id("plate", [part.id for part in document.parts])
    part = model.Part(
        id=part_id,
        colour=next_colour(document, "sage"),
        slabs=(model.Slab(id="plate", top="6 mm", outline=SHAPES["path"]),),
        places=(model.Place(id="middle"),),
    )
    taken = [b.id for b in document.bodies] + [u.id for u in document.instances]
    factor = scene.resolved.units.factor(LENGTH)
    body = model.Body(
        id=fresh_id(part_id, taken), part=part_id, pose=model.Pose(x=x / factor, y=y / factor)
    )
    return Add("Draw a part", parts=(part,), bodies=(body,)), body.id
