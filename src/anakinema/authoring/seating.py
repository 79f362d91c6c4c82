"""Hardware put down on a hole or a pin: it seats itself there and is held."""

from __future__ import annotations

from anakinema.authoring.joining import propose
from anakinema.authoring.placing import placed_at
from anakinema.authoring.scene import Scene
from anakinema.authoring.snap_points import PlacedSnap, placed_snap
from anakinema.authoring.wishes import Wish
from anakinema.document.resolve import resolve
from anakinema.edits.base import Edit, Together
from anakinema.parts.shelf import recipe

HARDWARE = "Hardware"
AXIS = "axis"
"""The place of hardware on the shelf that sits on a hole or pin."""


def seats_itself(item: str) -> bool:
    """Whether an item of the shelf is held by what it is put down on."""
    source, _, name = item.partition(":")
    return source == "shelf" and recipe(name).group == HARDWARE


def seated(scene: Scene, item: str, snap: PlacedSnap) -> tuple[Edit, str]:
    """The edit that puts hardware down on a snap, on its face and rigidly held, and its body's id.

    Raises an `AnakinemaError` if it cannot be held there.
    """
    source = scene.resolved.source
    placing, body = placed_at(source, item, snap.x, snap.y)
    resolved = resolve(placing.apply(source))
    poses = resolved.poses.copy()
    for index, each in enumerate(resolved.document.bodies):
        before = scene.index(each.id)
        if before is not None:
            poses[index] = scene.poses[before]
    own = placed_snap(resolved, poses, body, AXIS)
    held = propose(resolved, poses, Wish(own, snap, "rigid"))
    title = body.replace("_", " ")
    return Together(f"Seat {title}", (placing, held.edit)), body
