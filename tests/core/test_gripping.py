"""Grips: each dimension of every part on the shelf is taken hold of where it shows."""

from __future__ import annotations

import math

import pytest
import shapely

from anakinema.authoring.gripping import grips, stage_grips
from anakinema.authoring.scene import Scene
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits.values import SetDimension
from anakinema.parts.making import Recipe
from anakinema.parts.shelf import SHELF, recipe
from anakinema.units import ANGLE


def holding(made: Recipe, **sizes: str) -> m.Document:
    body = m.Body(id="b", part="part", pose=m.Pose(x=30, y=-20, angle=35))
    return m.Document(parts=(made.part("part", **sizes),), bodies=(body,))


@pytest.mark.parametrize("made", SHELF, ids=lambda made: made.id)
def test_dragging_a_grip_brings_its_point_under_the_pointer(made: Recipe) -> None:
    """What a drag asks for is what the part becomes: its outline passes where it was dragged to."""
    document = holding(made)
    resolved = resolve(document)
    scene = Scene(resolved, resolved.poses)
    found = stage_grips(scene, resolved.poses, "b")
    assert found, made.id
    for grip in found:
        far = 0.02 if grip.dimension == ANGLE else 1.0
        x, y = grip.x + far * grip.dx, grip.y + far * grip.dy
        edit = grip.dragged(x, y, 1e-6)
        after = resolve(edit.apply(document))
        value = after.names[f"part.{grip.name}"].value
        assert value == pytest.approx(grip.value + far, abs=1e-3)
        px, py, angle = after.poses[0].tolist()
        c, s = math.cos(angle), math.sin(angle)
        local = shapely.Point(c * (x - px) + s * (y - py), c * (y - py) - s * (x - px))
        rims = [slab.region.polygon.boundary for slab in after.parts["part"].slabs]
        assert min(rim.distance(local) for rim in rims) < 0.05 * max(1.0, math.hypot(grip.dx))


def test_what_an_expression_sets_has_no_grip_and_heights_have_none() -> None:
    document = holding(recipe("link"))
    names = {grip.name for grip in grips(resolve(document), "part")}
    assert names == {"length", "width", "hole"}
    document = document.model_copy(update={"parameters": (m.Parameter(id="arm", value="90 mm"),)})
    document = SetDimension("part", "length", "arm").apply(document)
    assert {grip.name for grip in grips(resolve(document), "part")} == {"width", "hole"}
