"""What the repeat panel asks: copies of what is selected, by manner and numbers."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.authoring.laying import other_side
from anakinema.authoring.repeating import (
    Repeat,
    chained,
    fitting_snaps,
    joints_outward,
    onto_shifts,
    repeated,
)
from anakinema.authoring.scene import Scene
from anakinema.authoring.shifts import Shift, mirror_about, ring_shifts, row_shifts, stack_shifts
from anakinema.authoring.snap_points import PlacedSnap
from anakinema.authoring.subassemblies import made_unit, taken_apart
from anakinema.document import model
from anakinema.document.flatten import JOINT, flatten
from anakinema.document.kinds import spec_of
from anakinema.edits.base import Edit, Together
from anakinema.edits.planes import MoveToPlane
from anakinema.errors import ValueOutOfRangeError


@dataclass(frozen=True, slots=True)
class RepeatWish:
    """manner : 'row', 'ring', 'stack', 'mirror', 'side', 'chain' or 'places'. count : the first
    included.

    x, y (mm) : step of a row. angle (rad) : step of a ring, or direction of a mirror line.
    lift (mm) : step along the stack; how far below lies the middle to whose other side a mirror
    image goes. about : centre of a ring or a point of the mirror line.
    without : joints to the rest that copies shall not have. by : the joint by which copies come
    onto ``targets``; the first there is if empty.
    """

    manner: str = "row"
    count: int = 2
    x: float = 50.0
    y: float = 0.0
    angle: float = 0.0
    lift: float = 10.0
    about: PlacedSnap | None = None
    without: frozenset[str] = frozenset()
    by: str = ""
    targets: tuple[PlacedSnap, ...] = ()


def repeat(scene: Scene, bodies: tuple[str, ...], wish: RepeatWish) -> Repeat:
    """Copies of bodies of a scene; raises an `AnakinemaError` that says why not."""
    resolved, poses = scene.resolved, scene.poses
    x, y = (wish.about.x, wish.about.y) if wish.about is not None else (0.0, 0.0)
    if wish.manner == "chain":
        return chained(resolved, poses, bodies, wish.count)
    if wish.manner == "side":
        return _to_the_other_side(scene, bodies, wish.lift)
    if wish.manner == "mirror":
        shifts: tuple[Shift, ...] = (mirror_about(x, y, wish.angle),)
    elif wish.manner == "ring":
        shifts = ring_shifts(wish.count, x, y, wish.angle)
    elif wish.manner == "stack":
        shifts = stack_shifts(wish.count, wish.lift)
    elif wish.manner == "places":
        shifts = onto_shifts(resolved, poses, bodies, carrier(scene, bodies, wish), wish.targets)
    else:
        shifts = row_shifts(wish.count, wish.x, wish.y)
    if not shifts:
        raise ValueOutOfRangeError(
            "no place is chosen yet.", where="repeat", remedy="Tick one or more of those offered."
        )
    label = {
        "mirror": "Mirror",
        "ring": "Repeat in a ring",
        "stack": "Repeat along the stack",
        "places": "Repeat onto places",
    }
    return repeated(
        resolved,
        poses,
        bodies,
        shifts,
        without=wish.without,
        label=label.get(wish.manner, "Repeat in a row"),
    )


def _to_the_other_side(scene: Scene, bodies: tuple[str, ...], middle: float) -> Repeat:
    """Mirror images on a plane of their own; joined to nothing that stays on the first one."""
    resolved = scene.resolved
    planes = {resolved.document.body(body).plane for body in bodies}
    if len(planes) != 1:
        raise ValueOutOfRangeError(
            "what is chosen lies on different planes.",
            where="repeat",
            remedy="Choose bodies of one plane.",
        )
    added, name = other_side(resolved, planes.pop(), middle)
    joints = frozenset(joint.id for joint in joints_outward(resolved, bodies))
    over = (mirror_about(0.0, 0.0, 0.0),)
    label = "Mirror to the other side"
    made = repeated(resolved, scene.poses, bodies, over, without=joints, label=label)
    things = tuple({body.partition(JOINT)[0] for body in made.bodies})
    edit = Together(label, (made.edit, added, MoveToPlane(things, name)))
    # Their ghosts would stand on the first plane, where they do not come.
    return Repeat(edit, made.bodies, made.poses[:0], made.originals[:0], made.open)


def carrier(scene: Scene, bodies: tuple[str, ...], wish: RepeatWish) -> str:
    """The joint by which copies come onto places; raises `ValueOutOfRangeError` without one."""
    joints = [joint.id for joint in joints_outward(scene.resolved, bodies)]
    if not joints:
        raise ValueOutOfRangeError(
            "it is joined to nothing that stays.",
            where="repeat",
            remedy="Join it once; its copies can then be joined to other places.",
        )
    return wish.by if wish.by in joints else joints[0]


def outer_joints(scene: Scene, bodies: tuple[str, ...]) -> tuple[tuple[str, str], ...]:
    """Ids and titles of the joints between what is selected and the rest."""
    if not bodies:
        return ()
    return tuple((joint.id, joint.title) for joint in joints_outward(scene.resolved, bodies))


def places_offered(
    scene: Scene, bodies: tuple[str, ...], wish: RepeatWish
) -> tuple[PlacedSnap, ...]:
    """All places onto which a copy would fit."""
    return fitting_snaps(scene.resolved, scene.poses, bodies, carrier(scene, bodies, wish))


def unit_of(scene: Scene, bodies: tuple[str, ...]) -> tuple[Edit, str]:
    """The edit that makes a unit of bodies, and the id of its first use."""
    return made_unit(scene.resolved, bodies, "unit")


def use_of(body: str) -> str | None:
    """The use that a flat body id belongs to, None for a body of the document itself."""
    head, mark, _ = body.partition(JOINT)
    return head if mark else None


def inner_body(document: model.Document, name: str) -> model.Body | None:
    """The body of that flat id inside a use, or the first one inside the use of that id."""
    bodies = flatten(document).document.bodies
    return next((b for b in bodies if name in (b.id, use_of(b.id))), None)


def inner_joints(document: model.Document, use_id: str) -> tuple[tuple[str, str, bool], ...]:
    """Joints inside a use that can move: flat id, title, and whether the program drives it."""
    driven = {driver.joint for driver in document.program.drivers}
    prefix = f"{use_id}{JOINT}"
    return tuple(
        (joint.id, joint.title.partition(": ")[2] or joint.title, joint.id in driven)
        for joint in flatten(document).document.joints
        if joint.id.startswith(prefix) and spec_of(joint.kind).moves
    )


def unit_again(scene: Scene, use: str, x: float, y: float) -> Repeat:
    """Another use of a unit, x and y mm beside one there is, joined to nothing."""
    inner = next(b.id for b in scene.resolved.document.bodies if use_of(b.id) == use)
    joints = frozenset(joint.id for joint in joints_outward(scene.resolved, (inner,)))
    shifts = row_shifts(2, x, y)
    return repeated(
        scene.resolved, scene.poses, (inner,), shifts, without=joints, label=f"Use {use} again"
    )


def unit_apart(scene: Scene, use: str) -> Edit:
    """The edit that takes a use apart where it stands."""
    return taken_apart(scene.resolved, scene.poses, use)
