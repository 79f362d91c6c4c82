"""The stack in section: what a cut along a line of the plane shows of every slab."""

from __future__ import annotations

import math
from dataclasses import dataclass

import shapely
from shapely import affinity

from anakinema.analysis.places import places_at
from anakinema.document import model
from anakinema.document.flatten import inner_names
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together
from anakinema.edits.structure import SetBody, SetJoint
from anakinema.edits.subassemblies import SetInstance
from anakinema.geometry.contour import Floats
from anakinema.units import LENGTH

FAR = 1e5


@dataclass(frozen=True, slots=True)
class Cut:
    """A slab where the cutting plane goes through it: start to end along the line, bottom to
    top, all mm."""

    body: int
    slab: str
    start: float
    end: float
    bottom: float
    top: float


@dataclass(frozen=True, slots=True)
class Axis:
    """A joint whose pin lies on the line, at a place along it."""

    joint: str
    title: str
    at: float


def section(
    resolved: Resolved, poses: Floats, x: float, y: float, angle: float
) -> tuple[tuple[Cut, ...], tuple[Axis, ...]]:
    """Cuts along the line through (x, y) at an angle (rad), and the joints that lie on it.

    Outlines are flattened to 0.005 mm, as everywhere in pictures.
    """
    ux, uy = math.cos(angle), math.sin(angle)
    line = shapely.LineString([(x - FAR * ux, y - FAR * uy), (x + FAR * ux, y + FAR * uy)])
    cuts = []
    for index, body in enumerate(resolved.document.bodies):
        px, py, turn = (float(v) for v in poses[index])
        c, s = math.cos(turn), math.sin(turn)
        height = float(resolved.heights[index])
        for slab in resolved.part_of(body).slabs:
            placed = affinity.affine_transform(slab.region.polygon, [c, -s, s, c, px, py])
            found = placed.intersection(line)
            for piece in getattr(found, "geoms", [found]):
                if piece.geom_type != "LineString" or piece.length < 1e-9:
                    continue
                ends = sorted((qx - x) * ux + (qy - y) * uy for qx, qy in piece.coords)
                cuts.append(
                    Cut(index, slab.id, ends[0], ends[-1], height + slab.bottom, height + slab.top)
                )
    axes = []
    where = places_at(resolved, poses)
    for joint in resolved.document.joints:
        px, py = where(joint.second)
        dx, dy = px - x, py - y
        if abs(-uy * dx + ux * dy) < 0.5:
            axes.append(Axis(joint.id, joint.title, ux * dx + uy * dy))
    return tuple(cuts), tuple(axes)


def lifted(resolved: Resolved, body_id: str, height: float) -> Edit:
    """The edit that stands a body at a height (mm) in the stack, all others where they are."""
    factor = resolved.units.factor(LENGTH)
    index = {body.id: i for i, body in enumerate(resolved.document.bodies)}
    inner = inner_names(resolved.source, body_id)
    if inner is not None:
        use, _ = inner
        change = height - float(resolved.heights[index[body_id]])
        return SetInstance(use.id, "height", (resolved.use_heights[use.id] + change) / factor)
    heights = resolved.heights.copy()
    heights[index[body_id]] = height
    edits: list[Edit] = []
    for joint in resolved.source.joints:
        if joint.rise is None or body_id not in (joint.first.body, joint.second.body):
            continue
        rise = float(heights[index[joint.second.body]] - heights[index[joint.first.body]])
        edits.append(SetJoint(joint.id, "rise", round(rise / factor, 9)))
    edits.append(SetBody(body_id, "height", round(height / factor, 9)))
    return Together("Move in the stack", tuple(edits), gesture=f"stack {body_id}")


def faces(resolved: Resolved, without: str) -> tuple[float, ...]:
    """Heights (mm) of all faces of other bodies, where a face moved in the stack may rest."""
    found: set[float] = set()
    for index, body in enumerate(resolved.document.bodies):
        if body.id == without:
            continue
        for slab in resolved.part_of(body).slabs:
            for z in (slab.bottom, slab.top):
                found.add(round(float(resolved.heights[index]) + z, 9))
    return tuple(sorted(found))


def section_through(document: model.Document, joint_ids: tuple[str, ...]) -> tuple[str, ...]:
    """Joints to lay a cut through: those asked for, else the first two revolute ones."""
    known = [j.id for j in document.joints if j.kind == "revolute"]
    chosen = [j for j in joint_ids if j in known]
    return tuple((chosen + [j for j in known if j not in chosen])[:2])
