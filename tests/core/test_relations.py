"""What outlines keep: against closed forms of plane geometry, and as properties."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.authoring.relating import (
    following,
    kept_state,
    outcome,
    possible,
    present_value,
    ways,
)
from anakinema.document import model as m
from anakinema.document.relations import Slot
from anakinema.document.resolve import resolve
from anakinema.edits import outline as o
from anakinema.edits.parts import ReplacePart
from anakinema.edits.relations import AddRelation, RemoveRelation, SetRelation
from anakinema.edits.values import SetParameter
from anakinema.errors import AnakinemaError, GeometryError, MissingNameError
from anakinema.files.native import document_text, parse_document
from anakinema.geometry import relations as r
from anakinema.geometry import rules as stated
from anakinema.units import LENGTH, NUMBER

KEY = o.OutlineKey("plate", "bar")


def corner(index: int, hole: str | None = None) -> m.Element:
    return m.Element(kind="corner", slab="bar", hole=hole, index=index)


def edge(index: int, hole: str | None = None) -> m.Element:
    return m.Element(kind="edge", slab="bar", hole=hole, index=index)


def centre(hole: str) -> m.Element:
    return m.Element(kind="centre", slab="bar", hole=hole)


def kept(kind: str, *of: m.Element, value: str | None = None) -> m.Relation:
    return m.Relation.model_validate({"kind": kind, "of": of, "value": value})


LEVEL, UPRIGHT = m.Element(kind="axis"), m.Element(kind="axis", index=1)


def plate(corners: list[tuple], *relations: m.Relation, holes: tuple = (), places: tuple = ()):  # type: ignore[no-untyped-def]
    """A document with a plate; corners are x, y and a bulge if there is one."""
    vertices = tuple(m.Vertex(x=c[0], y=c[1], bulge=c[2] if len(c) > 2 else 0.0) for c in corners)
    slab = m.Slab(id="bar", top=4.0, outline=m.Path(shape="path", vertices=vertices), holes=holes)
    part = m.Part(id="plate", slabs=(slab,), places=places, relations=relations)
    return m.Document(parts=(part,), bodies=(m.Body(id="b", part="plate"),))


def corners_of(document: m.Document) -> np.ndarray:
    """(V, 3) x, y in mm and bulge as everything stands that is kept."""
    resolved = resolve(document)
    part = resolved.parts["plate"].source
    outline = part.slabs[0].outline
    assert isinstance(outline, m.Path)
    return np.array(
        [
            (
                resolved.number(part, v.x, LENGTH),
                resolved.number(part, v.y, LENGTH),
                resolved.number(part, v.bulge, NUMBER),
            )
            for v in outline.vertices
        ]
    )


def test_a_triangle_of_three_lengths_obeys_the_law_of_cosines() -> None:
    document = plate(
        [(0, 0), (60, 0), (20, 35)],
        kept("held", corner(0)),
        kept("parallel", edge(0), LEVEL),
        *(kept("length", edge(k), value=f"{v} mm") for k, v in enumerate((60, 50, 40))),
    )
    (a, b, c) = corners_of(document)[:, :2]
    angle = math.acos((60**2 + 40**2 - 50**2) / (2 * 60 * 40))
    assert a == pytest.approx([0, 0], abs=1e-9) and b == pytest.approx([60, 0], abs=1e-8)
    assert c == pytest.approx([40 * math.cos(angle), 40 * math.sin(angle)], abs=1e-8)
    state = kept_state(document, "plate")
    assert state is not None and (state.freedoms, state.repeats) == (0, ())


def test_both_triangles_of_three_lengths_are_offered() -> None:
    document = plate(
        [(0, 0), (60, 0), (20, 35)],
        kept("held", corner(0)),
        kept("held", corner(1)),
        kept("length", edge(1), value="50 mm"),
        kept("length", edge(2), value="40 mm"),
    )
    found = ways(document, SetRelation("plate", 3, "45 mm"), "plate", 3)
    assert len(found) == 2
    tips = []
    for way in found:
        assert way.edit is not None
        after = corners_of(way.edit.apply(document))
        assert after[:2] == pytest.approx(np.array([(0, 0, 0), (60, 0, 0)]), abs=1e-9)
        assert math.dist(after[2, :2], (60, 0)) == pytest.approx(50)
        assert math.dist(after[2, :2], (0, 0)) == pytest.approx(45)
        tips.append(after[2, :2])
    assert tips[0][1] > 0 and tips[1] == pytest.approx(tips[0] * (1, -1), abs=1e-8)


def test_equal_edges_and_angles_make_a_regular_polygon() -> None:
    """Interior angle (n - 2) 180 / n degrees: Euclid, Elements I.32."""
    rough = [
        (30 * math.cos(t) + 2 * math.sin(9 * t), 30 * math.sin(t) + math.cos(7 * t))
        for t in (2 * math.pi * k / 5 for k in range(5))
    ]
    relations = [kept("equal", edge(k), edge(k + 1)) for k in range(4)]
    relations += [kept("angle", edge(k), edge(k + 1), value="72 deg") for k in range(3)]
    relations.append(kept("length", edge(0), value="20 mm"))
    points = corners_of(plate(rough, *relations))[:, :2]
    sides = np.hypot(*(np.roll(points, -1, axis=0) - points).T)
    assert sides == pytest.approx(np.full(5, 20.0))
    x, y = points.T
    area = 0.5 * float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))
    assert area == pytest.approx(5 * 20**2 / (4 * math.tan(math.pi / 5)))


def test_smooth_arcs_of_one_radius_make_a_slot() -> None:
    """A pin slot: two lines, two half circles; its area is L·2r + πr²."""
    document = plate(
        [(0, -4, 0.0), (30, -5, 0.8), (29, 6, 0.0), (1, 5, 1.3)],
        kept("tangent", edge(0), edge(1)),
        kept("tangent", edge(1), edge(2)),
        kept("tangent", edge(2), edge(3)),
        kept("tangent", edge(3), edge(0)),
        kept("equal", edge(1), edge(3)),
        kept("radius", edge(1), value="5 mm"),
        kept("parallel", edge(0), LEVEL),
        kept("length", edge(0), value="25 mm"),
    )
    corners = corners_of(document)
    assert np.abs(corners[[1, 3], 2]) == pytest.approx([1, 1], abs=1e-7)
    region = resolve(document).parts["plate"].slabs[0].region
    assert region.edges.area() == pytest.approx(25 * 10 + math.pi * 25, rel=1e-7)


def test_symmetric_concentric_midway_and_on() -> None:
    hole = m.Hole(id="eye", outline=m.Circle(shape="circle", x=2, y=12, radius=3))
    document = plate(
        [(-20, 0), (20, 1), (21, 30), (-19, 28)],
        kept("symmetric", corner(0), corner(1), UPRIGHT),
        kept("symmetric", corner(2), corner(3), UPRIGHT),
        kept("between", centre("eye"), edge(0), edge(2)),
        kept("on", centre("eye"), UPRIGHT),
        kept("concentric", m.Element(kind="place", place="eye"), centre("eye")),
        holes=(hole,),
        places=(m.Place(id="eye", x=0, y=0),),
    )
    a, b, c, d = corners_of(document)[:, :2]
    assert a == pytest.approx(b * (-1, 1), abs=1e-9) and d == pytest.approx(c * (-1, 1), abs=1e-9)
    x, y, _ = resolve(document).parts["plate"].places["eye"]
    assert (x, y) == pytest.approx((0.0, (a[1] + c[1]) / 2), abs=1e-8)


def test_a_line_touches_a_circle_and_two_circles_touch() -> None:
    hole = m.Hole(id="one", outline=m.Circle(shape="circle", x=10, y=10, radius=5))
    other = m.Hole(id="two", outline=m.Circle(shape="circle", x=22, y=11, radius=4))
    document = plate(
        [(0, 0), (60, 0), (60, 40), (0, 40)],
        kept("held", corner(0)),
        kept("held", corner(1)),
        kept("held", corner(2)),
        kept("held", corner(3)),
        kept("radius", centre("one"), value="5 mm"),
        kept("distance", centre("one"), edge(0), value="9 mm"),
        kept("tangent", centre("two"), edge(0)),
        kept("tangent", centre("one"), centre("two")),
        holes=(hole, other),
    )
    part = resolve(document).parts["plate"].source
    one, two = part.slabs[0].holes
    numbers = resolve(document).number
    (x, y, radius), (u, v, other_radius) = (
        [numbers(part, getattr(h.outline, name), LENGTH) for name in ("x", "y", "radius")]
        for h in (one, two)
    )
    assert (y, radius) == pytest.approx((9, 5)) and v == pytest.approx(other_radius)
    assert math.dist((x, y), (u, v)) == pytest.approx(radius + other_radius)
    slab = document.parts[0].slabs[0].model_copy(update={"holes": ()})
    part = document.parts[0]
    bare = document.model_copy(update={"parts": (part.model_copy(update={"slabs": (slab,)}),)})
    with pytest.raises(MissingNameError, match="centre of one"):
        resolve(bare)


def test_a_length_follows_a_parameter_and_an_expression_of_names_is_obeyed() -> None:
    document = plate(
        [("half", 0), (40, 0), (40, 20), (0, 20)], kept("length", edge(0), value="2*half")
    )
    document = document.model_copy(update={"parameters": (m.Parameter(id="half", value="15 mm"),)})
    before = corners_of(document)
    assert before[0, 0] == 15 and before[1, :2] == pytest.approx([45, 0])
    after = corners_of(SetParameter("half", "18 mm").apply(document))
    assert after[0, 0] == 18 and after[1, :2] == pytest.approx([54, 0])
    assert after[2:] == pytest.approx(before[2:], abs=1e-12)


def test_what_cannot_be_kept_is_named_with_a_way_out() -> None:
    document = plate(
        [(0, 0), (60, 0), (20, 35)],
        *(kept("length", edge(k), value=f"{v} mm") for k, v in enumerate((60, 20, 20))),
    )
    with pytest.raises(GeometryError) as caught:
        resolve(document)
    assert "edge 2: long 20 mm; edge 3: long 20 mm" in caught.value.what
    assert "Take one of what is kept away" in caught.value.remedy
    sound = plate([(0, 0), (60, 0), (20, 35)])
    for relation, words in (
        (kept("parallel", edge(0), edge(7)), "no edge 8"),
        (kept("tangent", edge(0), edge(1)), "two straight edges"),
        (kept("length", edge(0), value="-3 mm"), "not above zero"),
        (kept("length", edge(0)), "needs a value"),
        (kept("equal", edge(0)), "between 2 things"),
        (kept("radius", edge(0), value="3 mm"), "only what is round"),
    ):
        with pytest.raises(AnakinemaError, match=words):
            resolve(AddRelation("plate", relation).apply(sound))


def test_a_relation_said_twice_is_no_harm_and_is_stated() -> None:
    document = plate(
        [(0, 0), (40, 2), (41, 20), (0, 21)],
        kept("parallel", edge(0), edge(2)),
        kept("parallel", edge(2), edge(0)),
    )
    state = kept_state(document, "plate")
    assert state is not None and state.repeats == (1,)
    assert state.freedoms == 8 - 1


def test_moving_a_corner_takes_along_what_is_kept() -> None:
    square = [(0, 0), (40, 0), (40, 20), (0, 20)]
    document = plate(
        square,
        kept("square", edge(0), edge(1)),
        kept("square", edge(1), edge(2)),
        kept("square", edge(2), edge(3)),
    )
    edit = o.SetCorner(KEY, 2, (("x", "50 mm"), ("y", "26 mm")))
    held = {Slot("bar", None, 2, "x"), Slot("bar", None, 2, "y")}
    after = following(document, edit, "plate", held).apply(document)
    points = corners_of(after)[:, :2]
    assert points[2] == pytest.approx([50, 26])
    sides = np.roll(points, -1, axis=0) - points
    for k in range(4):
        assert float(sides[k] @ sides[(k + 1) % 4]) == pytest.approx(0, abs=1e-7)
    assert parse_document(document_text(after).encode(), "test") == after


def test_corners_that_come_and_go_are_counted_anew() -> None:
    document = plate(
        [(0, 0), (40, 0), (40, 20), (0, 20)],
        kept("length", edge(0), value="40 mm"),
        kept("length", edge(2), value="40 mm"),
        kept("held", corner(3)),
        kept("parallel", edge(1), edge(3)),
    )
    more = o.AddCorner(KEY, 0, "20 mm", "-5 mm").apply(document)
    assert more.parts[0].relations == (
        kept("length", edge(3), value="40 mm"),
        kept("held", corner(4)),
        kept("parallel", edge(2), edge(4)),
    )
    assert corners_of(more)[1, 1] == -5
    less = o.RemoveCorner(KEY, 3).apply(document)
    assert less.parts[0].relations == (kept("length", edge(0), value="40 mm"),)
    other = o.SetOutline(KEY, m.Circle(shape="circle", radius=9)).apply(document)
    assert other.parts[0].relations == ()
    assert RemoveRelation("plate", 1).apply(document).parts[0].relations[1].kind == "held"


def test_only_relations_that_make_sense_are_offered() -> None:
    hole = m.Hole(id="eye", outline=m.Circle(shape="circle", x=20, y=10, radius=3))
    document = plate([(0, 0), (40, 0), (40, 20, 0.4), (0, 20)], holes=(hole,))
    offered = {
        "edge": (edge(0),),
        "arc": (edge(2),),
        "lines": (edge(0), edge(1)),
        "line and arc": (edge(1), edge(2)),
        "corner": (corner(0),),
        "corner and hole": (corner(0), centre("eye")),
        "two and an axis": (corner(0), corner(1), UPRIGHT),
    }
    assert {key: possible(document, "plate", of) for key, of in offered.items()} == {
        "edge": ("length",),
        "arc": ("radius",),
        "lines": ("equal", "parallel", "square", "angle", "distance"),
        "line and arc": ("tangent", "distance"),
        "corner": ("held",),
        "corner and hole": ("concentric", "on", "distance"),
        "two and an axis": ("symmetric",),
    }
    assert present_value(document, "plate", "length", (edge(0),)) == "40 mm"
    assert present_value(document, "plate", "angle", (edge(0), edge(1))) == "90 deg"
    # A bulge of 0.4 over a chord of 40: radius c (1 + b²) / (4 b).
    assert present_value(document, "plate", "radius", (edge(2),)) == "29 mm"


def test_an_outline_that_folds_is_shown_and_not_done() -> None:
    document = plate([(0, 0), (40, 0), (40, 20), (0, 20)])
    edit = o.SetCorner(KEY, 1, (("x", "20 mm"), ("y", "36 mm")))
    way = outcome(document, edit, "plate")
    assert way.edit is None and way.trouble is not None and "crossing" in way.trouble.remedy
    assert [key for key, _ in way.rings] == [KEY]
    assert way.rings[0][1][:, 1].max() == pytest.approx(36)


def test_turning_a_part_over_keeps_its_angles() -> None:
    from anakinema.authoring.mirroring import mirrored_part

    document = plate(
        [(0, 0), (40, 0), (50, 20), (0, 20)], kept("angle", edge(0), edge(1), value="70 deg")
    )
    over = mirrored_part(document.parts[0])
    assert over is not None
    after = ReplacePart(over).apply(document)
    assert corners_of(after) == pytest.approx(corners_of(document) * (1, -1, -1), abs=1e-9)


KINDS = st.sampled_from(
    (
        "tangent",
        "concentric",
        "equal",
        "parallel",
        "square",
        "symmetric",
        "on",
        "between",
        "length",
        "radius",
        "angle",
        "distance",
    )
)


@st.composite
def numbered(draw: st.DrawFn) -> tuple[np.ndarray, list[stated.Element]]:
    """Corners in a ring, a third of the edges bent, and two circles."""
    count = draw(st.integers(4, 7))
    numbers: list[float] = []
    points = []
    for k in range(count):
        away, turn = draw(st.floats(15, 40)), 2 * math.pi * k / count
        points.append(stated.Point(len(numbers), len(numbers) + 1))
        numbers += [away * math.cos(turn), away * math.sin(turn)]
    elements: list[stated.Element] = list(points)
    for k in range(count):
        bulge = None
        if k % 3 == 0:
            bulge = len(numbers)
            numbers.append(draw(st.sampled_from((-1, 1))) * draw(st.floats(0.2, 0.9)))
        elements.append(stated.Edge(points[k], points[(k + 1) % count], bulge))
    for _ in range(2):
        numbers += [draw(st.floats(-60, 60)), draw(st.floats(-60, 60)), draw(st.floats(2, 12))]
        size = len(numbers)
        elements.append(stated.Round(stated.Point(size - 3, size - 2), size - 1))
    return np.array(numbers), elements


@given(st.data(), numbered(), KINDS)
@hypothesis_settings(max_examples=150, deadline=None)
def test_derivatives_are_those_of_differences(data, made, kind) -> None:  # type: ignore[no-untyped-def]
    numbers, elements = made
    of = tuple(data.draw(st.permutations(elements))[:3])
    rule = stated.Rule(kind, of, 7.0)
    columns = np.arange(len(numbers))
    try:
        fixed = stated.with_sides(numbers, rule)
        exact = r._evaluate(numbers, columns, [fixed], 100.0)[1]
    except stated.UnfitRuleError:
        assume(False)
    assume(np.abs(exact).max() < 1e3 and len({id(e) for e in of}) == 3)
    step = 1e-6
    for c in columns:
        ahead, behind = numbers.copy(), numbers.copy()
        ahead[c] += step
        behind[c] -= step
        difference = (
            r._evaluate(ahead, columns, [fixed], 100.0)[0]
            - r._evaluate(behind, columns, [fixed], 100.0)[0]
        ) / (2 * step)
        assert exact[:, c] == pytest.approx(difference, rel=1e-4, abs=1e-5)


@given(numbered(), st.integers(0, 2**12 - 1), st.integers(0, 10**6))
@hypothesis_settings(max_examples=100, deadline=None)
def test_what_an_outline_had_before_it_was_shaken_can_be_kept(made, choice, seed) -> None:  # type: ignore[no-untyped-def]
    """Values taken from an outline, then its numbers shaken a little: all of them come back, and
    keeping them a second time moves nothing more."""
    numbers, elements = made
    edges = [e for e in elements if isinstance(e, stated.Edge)]
    rules: list[stated.Rule] = []
    for k, (one, two) in enumerate(itertools.pairwise(edges)):
        wanted = choice >> (k % 12) & 1
        if one.bulge is None and wanted:
            rules.append(stated.Rule("length", (one,)))
        if one.bulge is None and two.bulge is None:
            rules.append(stated.Rule("angle", (one, two)))
        if one.bulge is not None and wanted:
            rules.append(stated.Rule("radius", (one,)))
    rules = [stated.Rule(x.kind, x.of, stated.measured(numbers, x)) for x in rules]
    shaken = numbers + np.random.default_rng(seed).normal(0, 0.02, len(numbers))
    settling = r.settle(shaken, range(len(numbers)), rules)
    assert settling.broken == ()
    for rule in rules:
        assert stated.measured(settling.numbers, rule) == pytest.approx(rule.value, abs=1e-6)
    again = r.settle(settling.numbers, range(len(numbers)), rules)
    assert again.numbers == pytest.approx(settling.numbers, abs=1e-9)


def test_the_least_change_of_a_linear_relation_is_its_projection() -> None:
    """Midway of two points is linear: the nearest numbers that keep it are the projection."""
    numbers = np.array([3.0, 1.0, 0.0, 0.0, 10.0, 4.0])
    points = [stated.Point(2 * k, 2 * k + 1) for k in range(3)]
    settling = r.settle(numbers, range(6), [stated.Rule("between", tuple(points))])
    normal = np.array([[1, 0, -0.5, 0, -0.5, 0], [0, 1, 0, -0.5, 0, -0.5]])
    nearest = numbers - normal.T @ np.linalg.solve(normal @ normal.T, normal @ numbers)
    assert settling.numbers == pytest.approx(nearest, abs=1e-12)
    assert settling.freedoms == 4
