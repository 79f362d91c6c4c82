"""The part shelf: every item is sound, and stays sound over the sizes it is asked for."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.document.solids import SolidPart
from anakinema.parts.making import Recipe
from anakinema.parts.shelf import GROUPS, SHELF, recipe


def solid(item: Recipe, **sizes: str) -> SolidPart:
    doc = m.Document(parts=(item.part("thing", **sizes),), bodies=(m.Body(id="b", part="thing"),))
    return resolve(doc).parts["thing"]


@pytest.mark.parametrize("item", SHELF, ids=lambda item: item.id)
def test_every_item_has_places_and_material(item: Recipe) -> None:
    made = solid(item)
    assert made.places
    assert item.group in GROUPS
    for slab in made.slabs:
        assert slab.region.polygon.area > 1.0
        assert slab.top > slab.bottom


@pytest.mark.parametrize("item", SHELF, ids=lambda item: item.id)
@given(factor=st.floats(0.2, 20.0))
@hypothesis_settings(max_examples=8)
def test_scaling_every_length_scales_areas_and_places(item: Recipe, factor: float) -> None:
    sizes = {
        name: f"{factor!r} * {value}" if "mm" in value else value for name, value in item.sizes
    }
    small, large = solid(item), solid(item, **sizes)
    for a, b in zip(small.slabs, large.slabs, strict=True):
        wanted = a.region.edges.area() * factor**2
        # Arcs stand for a cam's profile to within 2e-4 mm.
        accuracy = 1e-5 if item.cams else 1e-9
        assert b.region.edges.area() == pytest.approx(wanted, rel=accuracy)
    for name, (x, y, angle) in small.places.items():
        assert large.places[name] == pytest.approx((x * factor, y * factor, angle), abs=1e-9)


def test_a_link_is_what_its_sizes_say() -> None:
    made = solid(recipe("link"), length="90 mm", width="1 in", hole="6 mm")
    (bar,) = made.slabs
    area = 90 * 25.4 + math.pi * 12.7**2 - 2 * math.pi * 9
    assert bar.region.polygon.area == pytest.approx(area, rel=1e-3)
    assert made.places["b"] == (90.0, 0.0, 0.0)


def test_a_curved_guide_is_a_ring_segment() -> None:
    made = solid(recipe("arc_guide"), radius="60 mm", width="8 mm", sweep="90 deg")
    area = math.radians(90) / 2 * (64**2 - 56**2)
    assert made.slabs[0].region.edges.area() == pytest.approx(area, rel=1e-12)


def test_unknown_sizes_are_refused() -> None:
    with pytest.raises(KeyError, match="girth"):
        recipe("link").part("a", girth="3 mm")
