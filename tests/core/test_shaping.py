"""Outlines changed by hand: corners, holes, whole-part operations, in expressions."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.authoring.openings import arc_slot, line_arc_slot, new_slab, round_hole, slot_hole
from anakinema.authoring.reshaping import corners_of, outline_keys, part_operation, ring_of, sound
from anakinema.authoring.scene import Scene
from anakinema.document import model as m
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits import outline as o
from anakinema.edits.history import History
from anakinema.edits.parts import SplitPart
from anakinema.edits.values import SetDimension
from anakinema.errors import ValueOutOfRangeError
from anakinema.parts.shelf import recipe

BAR = o.OutlineKey("part", "bar")


def place(name: str) -> m.Element:
    return m.Element(kind="place", place=name)


def holding(recipe_id: str, **sizes: str) -> m.Document:
    return m.Document(
        parts=(recipe(recipe_id).part("part", **sizes),), bodies=(m.Body(id="b", part="part"),)
    )


def scene(document: m.Document) -> Scene:
    resolved = resolve(document)
    return Scene(resolved, resolved.poses)


def area(resolved: Resolved, slab: int = 0) -> float:
    return float(resolved.parts["part"].slabs[slab].region.polygon.area)


def test_a_link_becomes_a_path_of_the_same_shape_whose_corners_move() -> None:
    document = holding("link")
    before = area(resolve(document))
    document = part_operation(scene(document), BAR, "path").apply(document)
    assert area(resolve(document)) == pytest.approx(before, rel=1e-4)
    corners = corners_of(scene(document), BAR)
    flat = ring_of(scene(document), BAR)
    assert len(corners) == len(document.part("part").slabs[0].outline.vertices)  # type: ignore[union-attr]
    assert max(np.hypot(*(flat - c).T).min() for c in np.array(corners)) < 1e-6
    lowest = next(k for k, (x, y) in enumerate(corners) if abs(x) < 1e-6 and y < 0)
    moved = o.SetCorner(BAR, lowest, (("x", "0 mm"), ("y", "-12 mm")))
    assert sound(document, moved) is None
    document = moved.apply(document)
    assert corners_of(scene(document), BAR)[lowest] == pytest.approx((0.0, -12.0))
    added = o.AddCorner(BAR, lowest, "10 mm", "-18 mm").apply(document)
    assert len(corners_of(scene(added), BAR)) == len(corners) + 1
    assert o.RemoveCorner(BAR, lowest + 1).apply(added) == document


def test_a_fold_is_told_and_not_made() -> None:
    document = part_operation(scene(holding("link")), BAR, "path").apply(holding("link"))
    corners = corners_of(scene(document), BAR)
    lowest = next(k for k, (x, y) in enumerate(corners) if abs(x) < 1e-6 and y < 0)
    folded = o.SetCorner(BAR, lowest, (("x", "60 mm"), ("y", "90 mm")))
    trouble = sound(document, folded)
    assert trouble is not None
    assert "crosses itself" in trouble.what


@pytest.mark.parametrize("make", [round_hole, slot_hole, arc_slot, line_arc_slot])
def test_holes_come_with_a_place_and_go_again(make) -> None:  # type: ignore[no-untyped-def]
    document = holding(
        "plate", length="140 mm", width="140 mm", spacing_x="124 mm", spacing_y="124 mm"
    )
    document = document.model_copy(update={"parts": (document.part("part"),)})
    edit = make(document.part("part"), "plate", 0.0, 0.0)
    after = edit.apply(document)
    assert sound(document, edit) is None
    assert area(resolve(after)) < area(resolve(document)) - 40
    hole = edit.hole.id
    assert hole in {place.id for place in after.part("part").places}
    joint = m.Joint(
        id="j",
        kind="revolute",
        first=m.Side(body="b", place="middle"),
        second=m.Side(body="c", place=hole, pieces=(m.OutlinePiece(slab="plate", hole=hole),)),
    )
    bodies = (*after.bodies, m.Body(id="c", part="part"))
    used = after.model_copy(update={"bodies": bodies, "joints": (joint,)})
    gone = o.RemoveHole("part", "plate", hole).apply(used)
    assert gone.joints[0].second.pieces == ()
    assert area(resolve(gone)) == pytest.approx(area(resolve(document)))
    if make is arc_slot:
        found = resolve(after).parts["part"].slabs[0].region
        ring = found.edges.radius[found.ring == found.ring.max()]
        assert set(ring.round(6)) == {35.9, 44.1, 4.1}


def test_whole_part_operations_keep_the_shape_and_follow_dimensions() -> None:
    document = holding("bell_crank", spread="40 deg")
    key = o.OutlineKey("part", "long")
    before = resolve(document)
    moved = part_operation(scene(document), key, "origin", place("b")).apply(document)
    after = resolve(moved)
    assert after.parts["part"].places["b"] == pytest.approx((0.0, 0.0, 0.0), abs=1e-9)
    assert area(after, 1) == pytest.approx(area(before, 1))
    level = part_operation(scene(document), key, "level", place("pivot"), place("b")).apply(
        document
    )
    x, y, _ = resolve(level).parts["part"].places["b"]
    assert (x, y) == pytest.approx((40.0, 0.0), abs=1e-8)
    longer = resolve(SetDimension("part", "long_arm", "90 mm").apply(level)).parts["part"].places
    ax, ay, _ = longer["a"]
    assert math.hypot(ax, ay) == pytest.approx(90.0)
    over = part_operation(scene(document), key, "over").apply(document)
    x, y, _ = resolve(over).parts["part"].places["b"]
    bx, by, _ = before.parts["part"].places["b"]
    assert (x, y) == pytest.approx((bx, -by))
    with pytest.raises(ValueOutOfRangeError, match="looks the same"):
        part_operation(scene(holding("link")), BAR, "over")


def test_a_tooth_repeated_round_makes_a_wheel() -> None:
    tooth = [(20, -0.13, 0.0), (24, -0.05, 0.0), (24, 0.05, 0.0), (20, 0.13, 0.0)]
    vertices = tuple(m.Vertex(x=r * math.cos(a), y=r * math.sin(a), bulge=b) for r, a, b in tooth)
    slab = m.Slab(id="wheel", top=6, outline=m.Path(shape="path", vertices=vertices))
    document = m.Document(
        parts=(m.Part(id="part", slabs=(slab,)),), bodies=(m.Body(id="b", part="part"),)
    )
    key = o.OutlineKey("part", "wheel")
    wheel = part_operation(scene(document), key, "round", 16).apply(document)
    ring = ring_of(scene(wheel), key)
    radius = np.hypot(*ring.T)
    assert radius.min() == pytest.approx(20.0)
    assert radius.max() == pytest.approx(24.0)
    assert len(wheel.part("part").slabs[0].outline.vertices) == 64  # type: ignore[union-attr]
    with pytest.raises(ValueOutOfRangeError, match="path"):
        part_operation(scene(holding("link")), BAR, "round", 12)


def test_slabs_shapes_and_undo() -> None:
    document = holding("disc")
    history = History(document)
    history.do(new_slab(document.part("part")))
    history.do(o.SetSlab("part", "slab", "top", "20 mm"))
    history.do(o.SetShape(o.OutlineKey("part", "slab"), "radius", "diameter/4"))
    history.do(SplitPart("b", "own"))
    after = resolve(history.document)
    assert after.parts["part"].slabs[1].top == 20.0
    assert after.parts["part"].slabs[1].region.edges.radius[0] == pytest.approx(20.0)
    assert len(outline_keys(history.document.part("part"))) == 4
    while history.undo_label is not None:
        history.undo()
    assert history.document is document


def test_a_corner_on_the_origin_and_an_edge_turned_upright() -> None:
    document = part_operation(scene(holding("plate")), o.OutlineKey("part", "plate"), "path")
    document = document.apply(holding("plate"))
    key = o.OutlineKey("part", "plate")
    before = np.array(corners_of(scene(document), key))
    corner = m.Element(kind="corner", slab="plate", index=2)
    moved = part_operation(scene(document), key, "origin", corner).apply(document)
    after = np.array(corners_of(scene(moved), key))
    assert after == pytest.approx(before - before[2], abs=1e-9)
    edge = next(
        k for k in range(len(before)) if abs(before[k][1] - before[(k + 1) % len(before)][1]) < 1e-9
    )
    element = m.Element(kind="edge", slab="plate", index=edge)
    turned = part_operation(scene(moved), key, "upright", element).apply(moved)
    ends = np.array(corners_of(scene(turned), key))[[edge, (edge + 1) % len(before)]]
    assert ends[0, 0] == pytest.approx(ends[1, 0], abs=1e-9) and ends[1, 1] > ends[0, 1]
    assert area(resolve(turned)) == pytest.approx(area(resolve(document)), rel=1e-6)
    with pytest.raises(ValueOutOfRangeError, match="no direction"):
        part_operation(scene(moved), key, "level", corner)
