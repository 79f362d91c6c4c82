"""The stack of a scene: cuts through it, and bodies lifted in it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from anakinema.authoring.scene import Scene
from anakinema.authoring.section import Axis, Cut, faces, lifted, section, section_through
from anakinema.authoring.snap_points import placed_snap
from anakinema.edits.base import Edit
from anakinema.geometry.contour import Floats


@dataclass(frozen=True, slots=True)
class StackSection:
    """A cut through the stack, and where it lies in words."""

    cuts: tuple[Cut, ...]
    axes: tuple[Axis, ...]
    words: str


def stack_section(scene: Scene, poses: Floats, joints: tuple[str, ...]) -> StackSection:
    """A level cut through the first of some joints, or on the line through two pins."""
    document = scene.resolved.document
    chosen = section_through(document, joints)
    points = []
    for joint_id in chosen:
        side = document.joint(joint_id).second
        place = placed_snap(scene.resolved, poses, side.body, side.place)
        points.append((place.x, place.y))
    titles = [document.joint(joint_id).title for joint_id in chosen]
    x, y, angle, words = 0.0, 0.0, 0.0, "along the level line through the origin"
    if points:
        (x, y), words = points[0], f"along the level line through {titles[0]}"
    if len(points) == 2 and math.dist(points[0], points[1]) > 1e-6:
        (ax, ay), (bx, by) = points
        angle = math.atan2(by - ay, bx - ax)
        words = f"through {titles[0]} and {titles[1]}"
    cuts, axes = section(scene.resolved, poses, x, y, angle)
    return StackSection(cuts, axes, words)


def lifted_body(scene: Scene, body: str, height: float) -> Edit:
    """The edit that stands a body at a height (mm) in the stack."""
    return lifted(scene.resolved, body, height)


def stack_faces(scene: Scene, without: str) -> tuple[float, ...]:
    """Heights (mm) of the faces of all other bodies."""
    return faces(scene.resolved, without)


def rested_height(scene: Scene, body: str, wanted: float, reach: float) -> float:
    """The height (mm) near a wanted one at which a face of a body rests on another's, within
    ``reach`` mm; else the wanted one to a tenth."""
    index = scene.index(body)
    if index is None:
        return wanted
    solid = scene.resolved.part_of(scene.resolved.document.bodies[index])
    own = {z for slab in solid.slabs for z in (slab.bottom, slab.top)}
    best, nearest = round(wanted, 1), reach
    for face in stack_faces(scene, body):
        for z in sorted(own):
            away = abs(wanted + z - face)
            if away < nearest:
                nearest, best = away, face - z
    return best
