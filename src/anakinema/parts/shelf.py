"""The part shelf: every ready-made definition, and bare sticks for laying out a skeleton."""

from __future__ import annotations

from anakinema.document import model
from anakinema.parts import cams, frame, hardware, linkage, toothed
from anakinema.parts.recipe import Recipe, place

SHELF: tuple[Recipe, ...] = (
    *linkage.RECIPES, *frame.RECIPES, *toothed.RECIPES, *cams.RECIPES, *hardware.RECIPES,
)  # fmt: skip
GROUPS = ("Links", "Turning", "Toothed", "Indexing", "Cams", "Sliding", "Frame", "Hardware")


def recipe(recipe_id: str) -> Recipe:
    """The shelf item of that id; raises `KeyError`."""
    for item in SHELF:
        if item.id == recipe_id:
            return item
    raise KeyError(recipe_id)


def stick(part_id: str, length: str) -> model.Part:
    """A bare length between two pivots, without a body: the skeleton of a link."""
    return model.Part(
        id=part_id,
        name=part_id.replace("_", " "),
        colour="steel",
        dimensions=(model.Parameter(id="length", value=length),),
        places=(place("a"), place("b", "length")),
    )
