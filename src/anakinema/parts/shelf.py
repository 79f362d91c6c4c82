"""The part shelf: ready-made definitions, sets of them, and bare sticks for skeletons."""

from __future__ import annotations

from anakinema.document import model
from anakinema.parts import cams, cylinder, frame, hardware, linkage, toothed
from anakinema.parts.making import Kit, Recipe, place

SHELF: tuple[Recipe, ...] = (
    *linkage.RECIPES,
    *frame.RECIPES,
    *toothed.RECIPES,
    *cams.RECIPES,
    *hardware.RECIPES,
)
KITS: tuple[Kit, ...] = (cylinder.CYLINDER,)
OFFERED: tuple[Recipe | Kit, ...] = (*SHELF, *KITS)
"""All that can be taken from the shelf."""
GROUPS = ("Links", "Turning", "Toothed", "Indexing", "Cams", "Sliding", "Frame", "Hardware")


def recipe(recipe_id: str) -> Recipe:
    """The shelf item of that id; raises `KeyError`."""
    for item in SHELF:
        if item.id == recipe_id:
            return item
    raise KeyError(recipe_id)


def kit(kit_id: str) -> Kit:
    """The set of parts of that id; raises `KeyError`."""
    return {each.id: each for each in KITS}[kit_id]


def stick(part_id: str, length: str) -> model.Part:
    """A bare length between two pivots, without a body: the skeleton of a link."""
    return model.Part(
        id=part_id,
        name=part_id.replace("_", " "),
        colour="steel",
        dimensions=(model.Parameter(id="length", value=length),),
        places=(place("a"), place("b", "length")),
    )
