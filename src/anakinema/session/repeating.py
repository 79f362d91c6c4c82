"""What the repeat panel asks: copies of what is selected, by manner and numbers."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.building.repeating import (
    Repeat,
    Shift,
    chained,
    mirror_about,
    repeated,
    ring_shifts,
    row_shifts,
    stack_shifts,
)
from anakinema.building.spots import BodySpot
from anakinema.building.units import chained_uses, made_unit, taken_apart, used_again
from anakinema.document.flatten import JOINT
from anakinema.edits.base import Edit
from anakinema.errors import ValueOutOfRangeError
from anakinema.session.assembling import Scene


@dataclass(frozen=True, slots=True)
class RepeatWish:
    """manner : 'row', 'ring', 'stack', 'mirror' or 'chain'. count : of all, the first included.

    x, y (mm) : step of a row. angle (rad) : step of a ring, or direction of a mirror line.
    lift (mm) : step along the stack. about : centre of a ring or a point of the mirror line.
    """

    manner: str = "row"
    count: int = 2
    x: float = 50.0
    y: float = 0.0
    angle: float = 0.0
    lift: float = 10.0
    about: BodySpot | None = None
    connect: bool = True


def repeat(scene: Scene, bodies: tuple[str, ...], wish: RepeatWish) -> Repeat:
    """Copies of bodies of a scene; raises an `AnakinemaError` that says why not."""
    if any(JOINT in body for body in bodies):
        return _repeat_use(scene, bodies, wish)
    x, y = (wish.about.x, wish.about.y) if wish.about is not None else (0.0, 0.0)
    if wish.manner == "chain":
        return chained(scene.resolved, scene.poses, bodies, wish.count)
    if wish.manner == "mirror":
        shifts: tuple[Shift, ...] = (mirror_about(x, y, wish.angle),)
    elif wish.manner == "ring":
        shifts = ring_shifts(wish.count, x, y, wish.angle)
    elif wish.manner == "stack":
        shifts = stack_shifts(wish.count, wish.lift)
    else:
        shifts = row_shifts(wish.count, wish.x, wish.y)
    label = {"mirror": "Mirror", "ring": "Repeat in a ring", "stack": "Repeat along the stack"}
    return repeated(
        scene.resolved, scene.poses, bodies, shifts, connect=wish.connect,
        label=label.get(wish.manner, "Repeat in a row"),
    )  # fmt: skip


def _repeat_use(scene: Scene, bodies: tuple[str, ...], wish: RepeatWish) -> Repeat:
    uses = {body.partition(JOINT)[0] for body in bodies}
    if wish.manner != "chain" or len(uses) != 1:
        raise ValueOutOfRangeError(
            "a use of a unit is repeated as a chain, or used again.",
            where="repeat",
            remedy="Choose chain, or 'Use the unit again'.",
        )
    return chained_uses(scene.resolved, scene.poses, uses.pop(), wish.count)


def unit_of(scene: Scene, bodies: tuple[str, ...]) -> tuple[Edit, str]:
    """The edit that makes a unit of bodies, and the id of its first use."""
    return made_unit(scene.resolved, bodies, "unit")


def use_of(body: str) -> str | None:
    """The use that a flat body id belongs to, None for a body of the document itself."""
    head, mark, _ = body.partition(JOINT)
    return head if mark else None


def unit_again(scene: Scene, use: str, x: float, y: float) -> tuple[Edit, str]:
    """Another use of a unit, x and y mm beside one there is; and an inner body of it."""
    edit, _, rows = used_again(scene.resolved, scene.poses, use, row_shifts(2, x, y)[0])
    return edit, rows[0][0]


def unit_apart(scene: Scene, use: str) -> Edit:
    """The edit that takes a use apart where it stands."""
    return taken_apart(scene.resolved, scene.poses, use)
