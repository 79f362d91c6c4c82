"""Hardware put down on a hole or a pin: it seats itself there and is held."""

from __future__ import annotations

from anakinema.authoring.joining import propose
from anakinema.authoring.placing import placed_at
from anakinema.authoring.scene import Scene
from anakinema.authoring.snap_points import PlacedSnap, SnapKind, placed_snap, snaps_at
from anakinema.authoring.wishes import Wish
from anakinema.document.resolve import resolve
from anakinema.edits.base import Edit, Together
from anakinema.parts.shelf import recipe

HARDWARE = "Hardware"
AXIS = "axis"
"""The place of hardware on the shelf that sits on a hole or pin."""


NEAR = 0.05
"""mm within which places lie on one axis."""


def _stacked_over(scene: Scene, snap: PlacedSnap) -> float | None:
    """mm: the uppermost face of other bodies with a hole round the axis of a snap; None if there
    are none."""
    resolved = scene.resolved
    around = snaps_at(resolved, scene.poses, snap.x, snap.y, NEAR)
    others = {s.body for s in around if s.body != snap.body and s.snap.kind is SnapKind.HOLE}
    if not others:
        return None
    # What has the hole itself lies among them; a pin goes through them all.
    threaded = others | ({snap.body} if snap.snap.kind is SnapKind.HOLE else set())
    return max(_top(scene, body) for body in threaded)


def _top(scene: Scene, body: str) -> float:
    """mm: height of the uppermost face of a body."""
    index = scene.index(body)
    assert index is not None
    slabs = scene.resolved.part_of(scene.resolved.document.bodies[index]).slabs
    return float(scene.resolved.heights[index]) + max((s.top for s in slabs), default=0.0)


def snap_on_axis(scene: Scene, joint_id: str, height: float) -> PlacedSnap | None:
    """Of what lies round the axis of a joint, the place of the body whose upper face is nearest to
    a height (mm): where hardware dropped into the section goes."""
    joint = next((j for j in scene.resolved.document.joints if j.id == joint_id), None)
    point = scene.point(joint.second.body, joint.second.place) if joint is not None else None
    if point is None:
        return None
    around = snaps_at(scene.resolved, scene.poses, *point, NEAR)
    round_ = [s for s in around if s.snap.kind in (SnapKind.HOLE, SnapKind.ROUND)] or list(around)
    return min(round_, key=lambda s: abs(_top(scene, s.body) - height), default=None)


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
    over = _stacked_over(scene, snap)
    if over is not None:
        # Not into what is threaded there already, but on top of it.
        rise = over - float(scene.resolved.heights[scene.index(snap.body) or 0])
        held = propose(resolved, poses, Wish(own, snap, "rigid", stack=rise))
    title = body.replace("_", " ")
    return Together(f"Seat {title}", (placing, held.edit)), body
