"""What putting a part down comes to: a new part from the shelf or another use of one there is."""

from __future__ import annotations

from typing import get_args

from anakinema.document import model
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.structure import Add
from anakinema.parts.shelf import recipe
from anakinema.units import LENGTH, UnitSystem

COLOURS: tuple[model.Colour, ...] = get_args(model.Colour)


def placed_at(
    document: model.Document, item: str, x: float, y: float, angle: float = 0.0
) -> tuple[Edit, str]:
    """The edit that puts an item down at x, y (mm), and the id of its body.

    ``item`` is ``shelf:`` and a recipe, or ``part:`` and a part of the document. The first body
    that is made to stand still is fixed.
    """
    source, _, name = item.partition(":")
    units = UnitSystem(document.units.length, document.units.angle)
    taken = {body.id for body in document.bodies} | {use.id for use in document.uses}
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
    is_frame = stands and not any(body.fixed for body in document.bodies)
    body = model.Body(
        id=body_id,
        part=part.id,
        pose=model.Pose(x=x / units.factor(LENGTH), y=y / units.factor(LENGTH), angle=angle),
        fixed=is_frame,
        height=0.0 if is_frame else None,
    )
    title = body_id.replace("_", " ")
    return Add(f"Place {title}", parts=parts, bodies=(body,)), body_id


def next_colour(document: model.Document, wanted: model.Colour) -> model.Colour:
    """The colour wanted if no part has it, else one that fewest parts have."""
    used = [part.colour for part in document.parts]
    if wanted not in used or wanted == "sand":
        return wanted
    free = [colour for colour in COLOURS if colour != "sand"]
    return min(free, key=lambda colour: (used.count(colour), free.index(colour)))
