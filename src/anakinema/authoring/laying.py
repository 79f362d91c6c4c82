"""Planes as a designer lays them: square to another, on a face, under what is joined together."""

from __future__ import annotations

import math

import numpy as np

from anakinema.document import model
from anakinema.document.body_graph import body_graph, group_of
from anakinema.document.flatten import JOINT
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.planes import AddPlane, MoveToPlane
from anakinema.geometry.contour import Floats
from anakinema.units import ANGLE, LENGTH

DIGITS = 6


def square_plane(resolved: Resolved, plane: str) -> tuple[Edit, str]:
    """A new plane that stands square on a plane along its x, and its id; one that is carried is
    carried as well."""
    source = resolved.source
    base = next(each for each in source.planes if each.id == plane)
    name = fresh_id("plane", [each.id for each in source.planes])
    frame = resolved.planes.all[[p.id for p in resolved.planes.all].index(plane)]
    turned = frame.turned @ np.array([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]])
    made = _plane(resolved, name, frame.origin, turned, base.on)
    return AddPlane(made), name


def plane_on_face(resolved: Resolved, body: int, point: Floats, normal: Floats) -> tuple[Edit, str]:
    """A new plane on a face of a body, carried by it if it moves: ``point`` and ``normal`` (3,) as
    seen from the body, heights above its datum."""
    flat = resolved.document.bodies[body]
    name = fresh_id("plane", [each.id for each in resolved.source.planes])
    # Level faces keep the body's own x; walls have theirs along the body's plane.
    is_level = abs(normal[2]) > 0.5
    x = np.array([1.0, 0.0, 0.0]) if is_level else np.cross([0.0, 0.0, 1.0], normal)
    turned = np.column_stack([x, np.cross(normal, x), normal])
    made = _plane(resolved, name, point, turned, flat.id)
    return AddPlane(made), name


def plane_on_edge(
    resolved: Resolved, body: int, point: Floats, normal: Floats, reach: float
) -> tuple[Edit, str] | None:
    """A new plane square to the straight edge of a body that is nearest to a point of a face, for
    what turns about that edge: its x lies in the face, away from the edge. None if no edge is
    within ``reach`` mm; ``point`` and ``normal`` (3,) as for a face."""
    best: tuple[float, Floats, Floats] | None = None
    for start, end in _straight_edges(resolved, body):
        along = end - start
        long = float(np.linalg.norm(along))
        share = min(max(float((point - start) @ along) / long**2, 0.0), 1.0)
        foot = start + share * along
        away = float(np.linalg.norm(point - foot))
        if away <= reach and (best is None or away < best[0]):
            best = away, foot, along / long
    if best is None:
        return None
    _, foot, axis = best
    x = np.cross(normal, axis)
    if float(x @ (point - foot)) < 0.0:
        axis = -axis
        x = -x
    turned = np.column_stack([x, np.cross(axis, x), axis])
    name = fresh_id("plane", [each.id for each in resolved.source.planes])
    made = _plane(resolved, name, foot, turned, resolved.document.bodies[body].id)
    return AddPlane(made), name


def _straight_edges(resolved: Resolved, body: int) -> list[tuple[Floats, Floats]]:
    """Ends (3,) of all straight edges of a body, heights above its datum."""
    found = []
    for slab in resolved.part_of(resolved.document.bodies[body]).slabs:
        edges = slab.region.edges
        for start, end, radius in zip(edges.start, edges.end, edges.radius, strict=True):
            if radius == 0.0:
                for z in (slab.bottom, slab.top):
                    found.append((np.array([*start, z]), np.array([*end, z])))
            found.append((np.array([*start, slab.bottom]), np.array([*start, slab.top])))
    return found


def other_side(resolved: Resolved, plane: str, middle: float) -> tuple[AddPlane, str]:
    """A new plane for mirror images of what lies on a plane: on the other side of what lies
    ``middle`` mm below it, turned over about its x."""
    source = resolved.source
    base = next(each for each in source.planes if each.id == plane)
    frame = resolved.planes.all[[p.id for p in resolved.planes.all].index(plane)]
    name = fresh_id(f"{plane}_across", [each.id for each in source.planes])
    origin = frame.origin - 2.0 * middle * frame.turned[:, 2]
    turned = frame.turned @ np.diag([1.0, -1.0, -1.0])
    return AddPlane(_plane(resolved, name, origin, turned, base.on)), name


def _plane(
    resolved: Resolved, name: str, origin: Floats, turned: Floats, on: str | None
) -> model.Plane:
    """A plane with directions (3, 3), by Euler's angles z, x, z."""
    tilt = math.acos(min(max(float(turned[2, 2]), -1.0), 1.0))
    if math.sin(tilt) > 1e-9:
        turn = math.atan2(turned[0, 2], -turned[1, 2])
        spin = math.atan2(turned[2, 0], turned[2, 1])
    else:
        turn, spin = math.atan2(turned[1, 0], turned[0, 0]), 0.0
    units = resolved.units
    length, angle = units.factor(LENGTH), units.factor(ANGLE)
    x, y, z = (round(float(v) / length, DIGITS) + 0.0 for v in origin)
    turns = {
        field: round(value / angle, DIGITS) + 0.0
        for field, value in (("turn", turn), ("tilt", tilt), ("spin", spin))
    }
    title = name.replace("_", " ")
    return model.Plane(id=name, name=title, x=x, y=y, z=z, on=on, **turns)


def moved_to_plane(resolved: Resolved, body: str, plane: str) -> Edit:
    """A body laid on another plane with all that is joined to it, instances whole."""
    document = resolved.document
    graph = body_graph(document.bodies, document.joints, grounded=False)
    group = group_of(graph, body)
    own = {each.id for each in resolved.source.bodies}
    things = {name if name in own else name.partition(JOINT)[0] for name in group}
    return MoveToPlane(tuple(sorted(things)), plane)
