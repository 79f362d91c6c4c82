"""Expressions, outlines and documents: what is right is exact, what is wrong is named."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.errors import AnakinemaError, ExpressionError, GeometryError
from anakinema.expression_functions import Quantity
from anakinema.expressions import evaluate, parse, quantity_in
from anakinema.geometry.contour import circle, hull, path, rectangle
from anakinema.geometry.region import Region
from anakinema.units import ANGLE, LENGTH, NUMBER, SPEED, UnitSystem
from tests import mechanisms as build

MM = UnitSystem()


@pytest.mark.parametrize(
    ("text", "expected", "dimension"),
    [
        ("46 mm", 46.0, LENGTH),
        ("3/8 in + 2 mm", 11.525, LENGTH),
        ("30 mm/s", 30.0, SPEED),
        ("3/8 in/min", 9.525 / 60, SPEED),
        ("2 m/s^2 * 3 s", 6000.0, SPEED),
        ("12 mm/s/s*1 s", 12.0, SPEED),
        ("12 mm/min(2, 3)", 6.0, LENGTH),
        ("2*3 cm", 60.0, LENGTH),
        ("-2^2", -4.0, NUMBER),
        ("180 deg", math.pi, ANGLE),
        ("30°", math.pi / 6, ANGLE),
        ("sqrt(9 mm * 4 mm)", 6.0, LENGTH),
        ("sin(30 deg)", 0.5, NUMBER),
        ("atan2(1 mm, 1 mm)", math.pi / 4, ANGLE),
        ("max(1 mm, 2 mm)", 2.0, LENGTH),
        ("crank*2 - 1 mm", 79.0, LENGTH),
        ("190 thou", 4.826, LENGTH),
        ("pi", math.pi, NUMBER),
    ],
)
def test_expressions_give_value_and_dimension(text: str, expected: float, dimension) -> None:  # type: ignore[no-untyped-def]
    result = evaluate(parse(text), {"crank": Quantity(40.0, LENGTH)})
    assert result.value == pytest.approx(expected, abs=1e-12)
    assert result.dimension == dimension


@pytest.mark.parametrize(
    ("text", "part_of_message"),
    [
        ("", "empty"),
        ("3 +", "expected"),
        ("2 mm + 3", "cannot be added"),
        ("1/0", "zero"),
        ("9**9**9", "finite"),
        ("(-1)**0.5", "negative"),
        ("__import__('os')", "not understood"),
        ("open(3)", "no function"),
        ("nothing + 1", "no parameter"),
        ("a.b.c", "not understood"),
        ("[1]", "not understood"),
        ("sin(3 mm)", "angle"),
        ("1e308*1e308", "finite"),
        ("(" * 100 + "1" + ")" * 100, "nested"),
        ("1+" * 250 + "1", "longer"),
        ("lambda: 1", "not understood"),
        ("2 mm ^ 0.3", "broken"),
    ],
)
def test_wrong_expressions_are_refused_in_words(text: str, part_of_message: str) -> None:
    with pytest.raises(ExpressionError, match=part_of_message):
        evaluate(parse(text), {})


@given(st.text(max_size=60))
@hypothesis_settings(max_examples=300)
def test_any_text_gives_a_number_or_an_expression_error(text: str) -> None:
    try:
        value = evaluate(parse(text), {}).value
    except ExpressionError as error:
        assert error.where
    else:
        assert math.isfinite(value)


def test_plain_numbers_are_in_document_units_and_units_are_checked() -> None:
    inches = UnitSystem("in", "deg")
    assert quantity_in(2.0, LENGTH, inches, {}) == pytest.approx(50.8)
    assert quantity_in("2", LENGTH, inches, {}) == pytest.approx(50.8)
    assert quantity_in("2 mm", LENGTH, inches, {}) == pytest.approx(2.0)
    with pytest.raises(ExpressionError, match="a length is needed"):
        quantity_in("2 deg", LENGTH, inches, {})


def test_formatting_shows_what_is_significant() -> None:
    assert MM.format(1.7, LENGTH) == "1.70 mm"
    assert MM.format(-0.0001, LENGTH) == "0.00 mm"
    assert MM.format(math.radians(-12.34), ANGLE) == "−12.3°"
    assert MM.format(math.nan, LENGTH) == "not defined"


@given(st.floats(0.5, 80), st.floats(-90, 90), st.floats(-90, 90))
def test_circle_area_is_exact(radius: float, x: float, y: float) -> None:
    assert circle(x, y, radius).area() == pytest.approx(math.pi * radius**2, rel=1e-9)


@given(
    st.lists(
        st.tuples(st.floats(-50, 50), st.floats(-50, 50), st.floats(0.5, 20)),
        min_size=2,
        max_size=6,
    )
)
@hypothesis_settings(max_examples=60)
def test_hull_is_the_convex_hull_of_its_circles(rounds: list[tuple[float, float, float]]) -> None:
    discs = [shapely.Point(x, y).buffer(r, quad_segs=400) for x, y, r in rounds]
    expected = shapely.convex_hull(shapely.union_all(discs)).area
    found = hull(rounds)
    assert found.area() == pytest.approx(expected, rel=2e-4)
    ends = np.roll(found.start, -1, axis=0) - found.end
    assert np.abs(ends).max() < 1e-6


def test_rounded_shapes_have_their_exact_area() -> None:
    cut = (4 - math.pi) * 4.0
    assert rectangle(3, 4, 40, 20, 2, 0.5).area() == pytest.approx(800 - cut)
    assert path([(0, 0, 0, 2), (40, 0, 0, 2), (40, 20, 0, 2), (0, 20, 0, 2)]).area() == (
        pytest.approx(800 - cut)
    )
    assert path([(0, 0, 1, 0), (10, 0, 1, 0)]).area() == pytest.approx(math.pi * 25)


@pytest.mark.parametrize(
    "make",
    [
        lambda: circle(0, 0, 0),
        lambda: circle(0, 0, -3),
        lambda: rectangle(0, 0, 10, 0, 0, 0),
        lambda: rectangle(0, 0, 10, 4, 3, 0),
        lambda: path([(0, 0, 0, 0), (9, 0, 0, 0)]),
        lambda: path([(0, 0, 0, 9), (10, 0, 0, 9), (10, 10, 0, 9)]),
        lambda: Region.build(
            path([(0, 0, 0, 0), (9, 9, 0, 0), (9, 0, 0, 0), (0, 8, 0, 0)]), (), ()
        ),
        lambda: Region.build(circle(0, 0, 5), (circle(4, 0, 3),), ("h",)),
    ],
)
def test_impossible_outlines_are_refused(make) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(GeometryError) as caught:
        make()
    assert caught.value.remedy


def with_parameters(**values: str | float) -> m.Document:
    return m.Document(parameters=tuple(m.Parameter(id=k, value=v) for k, v in values.items()))


def test_parameters_and_dimensions_follow_one_another() -> None:
    pin = m.Part(id="pin", dimensions=(m.Parameter(id="diameter", value="10 mm"),))
    bore = m.Hole(id="bore", outline=m.Circle(shape="circle", radius="bore/2"))
    spacer = m.Part(
        id="spacer",
        dimensions=(
            m.Parameter(id="bore", value="pin.diameter + play"),
            m.Parameter(id="outer", value="2*bore"),
        ),
        slabs=(
            m.Slab(
                id="ring", top=4, outline=m.Circle(shape="circle", radius="outer/2"), holes=(bore,)
            ),
        ),
    )
    doc = with_parameters(play="0.2 mm", rod="3*crank", crank="40 mm").model_copy(
        update={"parts": (pin, spacer)}
    )
    names = resolve(doc).names
    assert names["rod"].value == pytest.approx(120.0)
    assert names["spacer.outer"].value == pytest.approx(20.4)


@pytest.mark.parametrize(
    ("document", "where", "what"),
    [
        (with_parameters(a="b", b="c", c="a"), "parameter", "ring"),
        (with_parameters(a="b + 1"), "parameter 'a'", "no parameter"),
        (with_parameters(mm="3"), "parameters", "unit"),
        (m.Document(bodies=(m.Body(id="x", part="none"),)), "body 'x'", "no part"),
        (m.Document(parts=(m.Part(id="p"), m.Part(id="p"))), "parts", "twice"),
        (
            m.Document(
                parts=(
                    m.Part(
                        id="p",
                        slabs=(
                            m.Slab(
                                id="s", bottom=4, top=4, outline=m.Circle(shape="circle", radius=3)
                            ),
                        ),
                    ),
                )
            ),
            "part 'p', slab 's'",
            "not above",
        ),
        (
            m.Document(parts=(m.Part(id="p", places=(m.Place(id="a", x="3 deg"),)),)),
            "place 'a', x",
            "a length is needed",
        ),
        (
            m.Document(parts=(m.Part(id="p", places=(m.Place(id="a", x=1e9),)),)),
            "place 'a', x",
            "far outside",
        ),
    ],
)
def test_faults_of_a_document_name_their_place(document: m.Document, where: str, what: str) -> None:
    with pytest.raises(AnakinemaError) as caught:
        resolve(document)
    assert where in caught.value.where
    assert what in caught.value.what
    assert caught.value.remedy


def test_faults_of_joints_limits_and_program_name_their_place() -> None:
    doc = build.four_bar(40, 120, 80, 100, 0.5)
    limits = m.Limits(least=1.0, greatest=0.5)
    cases = [
        (
            doc.model_copy(
                update={"joints": (doc.joints[0].model_copy(update={"limits": limits}),)}
            ),
            "limits of joint",
            "Swap",
        ),
        (build.driven(doc, ("nowhere", 0, 1)), "driver", "Known are"),
        (build.driven(doc, ("crank_pivot", 0, 1), ("crank_pivot", 0, 1)), "driver", "Remove"),
        (build.driven(doc, ("crank_pivot", 1, 1)), "program, stage 1", "target"),
    ]
    for broken, where, remedy in cases:
        with pytest.raises(AnakinemaError) as caught:
            resolve(broken)
        assert where in caught.value.where
        assert remedy in caught.value.remedy


def test_heights_follow_the_joints_that_state_a_rise() -> None:
    doc = build.four_bar(40, 120, 80, 100, 0.5)
    joints = tuple(j.model_copy(update={"rise": 6.0}) for j in doc.joints[:2]) + doc.joints[2:]
    assert resolve(doc.model_copy(update={"joints": joints})).heights.tolist() == [0, 6, 12, 0]
    bodies = tuple(
        b.model_copy(update={"height": 5.0}) if b.id == "coupler" else b for b in doc.bodies
    )
    raised = doc.model_copy(update={"joints": joints, "bodies": bodies})
    assert resolve(raised).heights.tolist() == [-7, -1, 5, 0]
    clash = tuple(b.model_copy(update={"height": 0.0}) for b in doc.bodies)
    with pytest.raises(AnakinemaError, match="asks for a rise"):
        resolve(doc.model_copy(update={"joints": joints, "bodies": clash}))


def test_inch_and_millimetre_documents_agree() -> None:
    doc = build.driven(build.four_bar(40, 120, 80, 100, 0.5), ("crank_pivot", 0.5, 1.5))
    one = build.motion(doc)

    def inches(item):  # type: ignore[no-untyped-def]
        return item.model_copy(update={"x": item.x / 25.4, "y": item.y / 25.4})

    parts = tuple(
        p.model_copy(update={"places": tuple(inches(place) for place in p.places)})
        for p in doc.parts
    )
    bodies = tuple(b.model_copy(update={"pose": inches(b.pose)}) for b in doc.bodies)
    other = build.motion(
        doc.model_copy(
            update={"units": m.Units(length="in", angle="rad"), "parts": parts, "bodies": bodies}
        )
    )
    assert np.abs(one.poses - other.poses).max() < 1e-9
