"""What putting a part down comes to: a new part from the shelf or another use of one there is."""

from __future__ import annotations

from typing import get_args

from anakinema.document import model
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.structure import Add
from anakinema.parts.making import Kit
from anakinema.parts.shelf import kit, recipe
from anakinema.units import LENGTH, UnitSystem

COLOURS: tuple[model.Colour, ...] = get_args(model.Colour)


def placed_at(
    document: model.Document, item: str, x: float, y: float, angle: float = 0.0, plane: str = "main"
) -> tuple[Edit, str]:
    """The edit that puts an item down at x, y (mm) of a plane, and the id of its body.

    ``item`` is ``shelf:`` and a recipe, ``kit:`` and a set of parts, of which it is the first, or
    ``part:`` and a part of the document. The first body of a plane that is made to stand still is
    fixed.
    """
    source, _, name = item.partition(":")
    if source == "kit":
        return _placed_kit(document, kit(name), x, y)
    units = UnitSystem(document.units.length, document.units.angle)
    taken = {body.id for body in document.bodies} | {use.id for use in document.instances}
    parts: tuple[model.Part, ...] = ()
    if source == "part":
        part = document.part(name)
        stands = False
    else:
        made = recipe(name)
        ids = {part.id for part in document.parts}
        part = made.part(fresh_id(name, ids), next_colour(document, made.colour))
        parts, stands = (part,), made.group == "Frame"
    body_id = fresh_id(part.id, taken)
    is_frame = stands and not any(body.fixed and body.plane == plane for body in document.bodies)
    body = model.Body(
        id=body_id,
        part=part.id,
        pose=model.Pose(x=x / units.factor(LENGTH), y=y / units.factor(LENGTH), angle=angle),
        fixed=is_frame,
        height=0.0 if is_frame else None,
        plane=plane,
    )
    title = body_id.replace("_", " ")
    return Add(f"Place {title}", parts=parts, bodies=(body,)), body_id


def _placed_kit(document: model.Document, chosen: Kit, x: float, y: float) -> tuple[Edit, str]:
    """The edit that puts a set of parts down with its joints, and the id of its first body."""
    taken = {part.id for part in document.parts} | {joint.id for joint in document.joints}
    taken |= {body.id for body in document.bodies} | {use.id for use in document.instances}
    names: dict[str, str] = {}
    for role in chosen.roles:
        names[role] = fresh_id(f"{chosen.id}_{role}", taken)
        taken.add(names[role])
    made = chosen.make(names)
    parts, so_far = [], document
    for part, wanted in zip(made.parts, chosen.colours, strict=True):
        parts.append(part.model_copy(update={"colour": next_colour(so_far, wanted)}))
        so_far = document.model_copy(update={"parts": (*document.parts, *parts)})
    bodies = tuple(
        body.model_copy(
            update={
                "pose": body.pose.model_copy(
                    update={"x": _away(body.pose.x, x), "y": _away(body.pose.y, y)}
                )
            }
        )
        for body in made.bodies
    )
    label = f"Place {chosen.title}"
    return Add(label, parts=tuple(parts), bodies=bodies, joints=made.joints), bodies[0].id


def _away(stated: float | str, by: float) -> str:
    """A pose's number, set off by mm."""
    return f"{by:.9g} mm" if stated == 0.0 else f"{stated} + {by:.9g} mm"


def next_colour(document: model.Document, wanted: model.Colour) -> model.Colour:
    """The colour wanted if no part has it, else one that fewest parts have."""
    used = [part.colour for part in document.parts]
    if wanted not in used or wanted == "sand":
        return wanted
    free = [colour for colour in COLOURS if colour != "sand"]
    return min(free, key=lambda colour: (used.count(colour), free.index(colour)))
