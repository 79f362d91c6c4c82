"""More kinds of question against closed forms: pressure, guides, housings, closing gaps, faces."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import value_words
from tests import mechanisms as build

FULL = build.FULL_TURN


def found(evaluation: Evaluation, name: str) -> Finding:
    return next(f for f in evaluation.verdict.findings if f.id == name)


def with_asked(doc: m.Document, *asked: m.Requirement, **more: Any) -> Evaluation:
    return evaluate(doc.model_copy(update={"requirements": asked, **more}))


def path(*points: tuple[float, float]) -> m.Path:
    vertices = tuple(m.Vertex(x=x, y=y) for x, y in points)
    return m.Path(shape="path", vertices=vertices)


def box(x0: float, y0: float, x1: float, y1: float) -> m.Path:
    return path((x0, y0), (x1, y0), (x1, y1), (x0, y1))


def circle(radius: float, x: float = 0.0, y: float = 0.0) -> m.Outline:
    return m.Circle(shape="circle", radius=radius, x=x, y=y)


def solid(
    name: str,
    outline: m.Outline,
    low: float = 0.0,
    high: float = 5.0,
    *holes: m.Outline,
    **places: Any,
) -> m.Part:
    named = tuple(m.Hole(id=f"h{k}", outline=hole) for k, hole in enumerate(holes))
    slab = m.Slab(id="s", bottom=low, top=high, outline=outline, holes=named)
    return build.part(name, **(places or {"o": (0, 0)})).model_copy(update={"slabs": (slab,)})


# Joints ------------------------------------------------------------------------------------


@pytest.mark.parametrize("below", [70.0, 55.0])
def test_pressure_angle_of_a_pin_in_a_slot(below: float) -> None:
    """Crank 40 in the slot of an arm: the angle between arm and crank."""
    doc = build.driven(
        build.slotted_arm(40, below, 0.2), ("crank_pivot", 0.2, 0.2 + FULL), count=97
    )
    evaluation = with_asked(
        doc, build.asked("p", "pressure", "greatest", joint="slot", greatest=1.0)
    )
    theta = np.linspace(0, FULL, 2_000_001)
    arm = np.arctan2(40 * np.sin(theta) + below, 40 * np.cos(theta))
    angle = np.abs(np.mod(arm - theta + np.pi / 2, np.pi) - np.pi / 2)
    assert found(evaluation, "p").value == pytest.approx(angle.max(), abs=1e-5)


@given(st.floats(0.05, 3.0), st.integers(20, 120))
@settings(max_examples=15)
def test_two_slides_on_one_crank_are_out_of_phase_by_the_angle_of_their_pins(
    phi: float, count: int
) -> None:
    r, rod = 30.0, 110.0
    one = build.crank_slider(r, rod, 0.0, 0.4)
    x, y = r * math.cos(0.4 + phi), r * math.sin(0.4 + phi)
    end = x + math.sqrt(rod**2 - y**2)
    crank = build.part("crank", a=(0, 0), b=(r, 0), c=(r * math.cos(phi), r * math.sin(phi)))
    doc = one.model_copy(
        update={
            "parts": (*(p for p in one.parts if p.id != "crank"), crank),
            "bodies": (
                *one.bodies,
                build.body("rod2", x, y, math.atan2(-y, end - x), part="rod"),
                build.body("slide2", end, 0.0, part="slide"),
            ),
            "joints": (
                *one.joints,
                build.joint("pin2", "revolute", "crank.c", "rod2.a"),
                build.joint("slide_pin2", "revolute", "rod2.b", "slide2.pin"),
                build.joint("guide2", "prismatic", "base.line", "slide2.pin"),
            ),
        }
    )
    doc = build.driven(doc, ("crank_pivot", 0.4, 0.4 + FULL), count=count)
    evaluation = with_asked(
        doc, build.asked("p", "phase", "greatest", joint="guide", other="guide2", greatest="1 s")
    )
    # At 1 rad/s the time is the angle; the cycle closes, so the way round counts.
    assert found(evaluation, "p").value == pytest.approx(min(phi, FULL - phi), abs=1e-7)


def slide(rail: m.Part, block: m.Part, start: float, end: float, *more: Any) -> m.Document:
    pieces = {
        "first": m.Side(body="base", place="o", pieces=(more[0],)),
        "second": m.Side(body="block", place="o", pieces=(m.OutlinePiece(slab="s"),)),
    }
    joint = m.Joint(id="run", kind="prismatic", **pieces)
    doc = build.document(
        [rail, block], [build.body("base", fixed=True), build.body("block", start, 0)], [joint]
    )
    return build.driven(doc, ("run", start, end), count=40)


def test_guided_length_is_less_where_a_slot_crosses_the_way() -> None:
    """A block 30 long over a slot 10 wide in one wall: 20 mm are left."""
    hole = path(
        (-50, -10), (-5, -10), (-5, -30), (5, -30), (5, -10), (50, -10), (50, 10), (-50, 10)
    )
    rail = solid("base", box(-60, -40, 60, 40), 0.0, 5.0, hole)
    block = solid("block", box(-15, -10, 15, 10))
    doc = slide(rail, block, -30.0, 30.0, m.OutlinePiece(slab="s", hole="h0"))
    evaluation = with_asked(
        doc,
        build.asked("g", "guided", "least", joint="run", least="20 mm"),
        build.asked("m", "guided", "greatest", joint="run", greatest="30 mm"),
    )
    assert found(evaluation, "g").value == pytest.approx(20.0, abs=1e-9)
    assert found(evaluation, "m").value == pytest.approx(30.0, abs=1e-9)
    assert found(evaluation, "g").outcome is Outcome.PASS


@pytest.mark.parametrize("end", [45.0, 60.0, 20.0])
def test_a_block_overhangs_the_end_of_its_rail(end: float) -> None:
    """Rail from -50 to 50, block 30 long: it stands out by what its end is beyond 50."""
    rail = solid("base", box(-50, -10, 50, 10))
    block = solid("block", box(-15, -10, 15, 10))
    doc = slide(rail, block, 0.0, end, m.OutlinePiece(slab="s"))
    evaluation = with_asked(
        doc,
        build.asked("o", "overhang", "greatest", joint="run", greatest="5 mm"),
        build.asked("g", "guided", "least", joint="run", least="1 mm"),
    )
    out = max(end + 15 - 50, 0.0)
    assert found(evaluation, "o").value == pytest.approx(out, abs=1e-9)
    assert found(evaluation, "g").value == pytest.approx(30.0 - out, abs=1e-9)


def test_a_drivers_share_of_the_motion_is_that_of_the_fastest_joint() -> None:
    a, b, c, d = 40, 120, 80, 100
    doc = build.driven(build.four_bar(a, b, c, d, 0.1), ("crank_pivot", 0.1, 0.1 + FULL))
    evaluation = with_asked(doc, build.asked("s", "driver_share", joint="crank_pivot", least=0.2))
    theta = np.linspace(0.1, 0.1 + FULL, 20_001)
    angles = np.unwrap(np.array([build.four_bar_angles(a, b, c, d, t) for t in theta]), axis=0)
    rates = np.gradient(angles, theta, axis=0)
    fastest = np.abs(
        np.stack([np.ones(len(theta)), rates[:, 0] - 1, rates[:, 1] - rates[:, 0], rates[:, 1]])
    ).max()
    assert found(evaluation, "s").value == pytest.approx(1 / fastest, rel=1e-5)


# Outlines ----------------------------------------------------------------------------------


def disc_on_a_crank(
    *others: tuple[m.Part, m.Body], turn: float = FULL, begin: float = 0.0
) -> m.Document:
    """A disc of 5 mm that goes round the origin on a circle of 20 mm, at 1 rad/s."""
    arm = solid("arm", circle(5.0, 20.0, 0.0), o=(0, 0))
    doc = build.document(
        [build.part("base", o=(0, 0)), arm, *(part for part, _ in others)],
        [build.body("base", fixed=True), build.body("arm", 0, 0, begin), *(b for _, b in others)],
        [build.joint("turn", "revolute", "base.o", "arm.o")],
    )
    return build.driven(doc, ("turn", begin, begin + turn), count=60)


@pytest.mark.parametrize(("radius", "room"), [(40.0, 10.0), (30.5, 0.5)])
def test_room_inside_a_housing_whatever_its_height(radius: float, room: float) -> None:
    """A circle about (3, 4): the farthest the disc comes from there is 20 + 5 + 5."""
    shell = solid("shell", circle(radius), 50.0, 60.0)
    doc = disc_on_a_crank((shell, build.body("shell", 3, 4, fixed=True)))
    asked = build.asked("h", "housing", housing="shell", body="arm", least="0.4 mm")
    evaluation = with_asked(doc, asked, build.asked("all", "housing", housing="shell", least=1))
    finding = found(evaluation, "h")
    assert finding.outcome is Outcome.PASS
    assert finding.gap is not None
    assert finding.gap.least <= room <= finding.gap.most + 1e-9
    assert finding.gap.most - finding.gap.least < 0.01
    assert found(evaluation, "all").value == pytest.approx(finding.value)


def test_what_leaves_its_housing_fails_and_what_begins_outside_cannot_be_judged() -> None:
    shell = solid("shell", circle(26.0), 50.0, 60.0)
    doc = disc_on_a_crank((shell, build.body("shell", 3, 0, fixed=True)), begin=math.pi / 2)
    asked = build.asked("h", "housing", housing="shell", body="arm", least="0.1 mm")
    evaluation = with_asked(doc, asked)
    assert found(evaluation, "h").outcome is Outcome.FAIL
    # Farthest out it is on the other side: 20 + 5 + 3 from its middle, 26 is the radius.
    assert value_words(evaluation, found(evaluation, "h")) == "comes out by 2.00 mm"
    away = disc_on_a_crank((shell, build.body("shell", 300, 0, fixed=True)))
    finding = found(with_asked(away, asked), "h")
    assert finding.outcome is Outcome.UNKNOWN
    assert "outside at the start" in value_words(with_asked(away, asked), finding)


def test_a_gap_that_closes_on_a_finger_is_counted_with_its_speed() -> None:
    """Two discs of 5 mm, 20 and 30 mm from the pivot: d² = 20² + 30² - 2·20·30 cos t."""
    post = solid("post", circle(5.0))
    doc = disc_on_a_crank((post, build.body("post", 30, 0, fixed=True)), begin=0.5)
    evaluation = with_asked(
        doc,
        build.asked(
            "n", "pinch", "greatest", what="closings", size="25 mm", first="arm", greatest=0
        ),
        build.asked(
            "v", "pinch", "greatest", what="speed", size="25 mm", first="arm", greatest="1 mm/s"
        ),
        build.asked(
            "hand", "pinch", "greatest", what="closings", size="100 mm", first="arm", greatest=0
        ),
    )
    d = 25.0 + 10.0
    turned = math.acos((20**2 + 30**2 - d**2) / (2 * 20 * 30))
    speed = 20 * 30 * math.sin(turned) / d
    assert found(evaluation, "n").value == 1.0
    assert found(evaluation, "n").outcome is Outcome.FAIL
    assert value_words(evaluation, found(evaluation, "n")) == "1"
    assert found(evaluation, "v").value == pytest.approx(speed, rel=1e-4)
    at = found(evaluation, "v").progress
    assert at is not None
    assert 0.5 + at * FULL == pytest.approx(FULL - turned, abs=1e-6)
    # A gap that never opens for a hand does not close on one.
    assert found(evaluation, "hand").outcome is Outcome.PASS


def test_faces_along_the_pin_and_those_that_rub() -> None:
    plate = solid("plate", box(-40, -40, 40, 40), 0.0, 4.0)

    def at(height: float) -> Evaluation:
        doc = disc_on_a_crank((plate, build.body("plate", 0, 0, fixed=True, height=height)))
        return with_asked(
            doc,
            build.asked("d", "faces", first="arm", second="plate", least="0.5 mm"),
            build.asked("r", "rubbing", "greatest", greatest=0),
        )

    for height, apart, rubs in (
        (-4.0, 0.0, 1.0),
        (-6.5, 2.5, 0.0),
        (7.0, 2.0, 0.0),
        (-2.0, -2.0, 0.0),
    ):
        evaluation = at(height)
        assert found(evaluation, "d").value == pytest.approx(apart, abs=1e-12)
        assert found(evaluation, "r").value == rubs


def test_walls_between_outlines_and_faces() -> None:
    holes = circle(8.0, 0.0, 5.0), circle(4.0, 30.0, 0.0)
    plate = solid("plate", box(-50, -20, 50, 20), 0.0, 4.0, *holes)
    doc = disc_on_a_crank((plate, build.body("plate", 200, 0, fixed=True)))
    evaluation = with_asked(
        doc,
        build.asked("w", "wall", body="plate", least="6 mm"),
        build.asked("t", "wall", body="plate", across=True, least="6 mm"),
        build.asked("none", "wall", body="arm", least="6 mm"),
    )
    assert found(evaluation, "w").value == pytest.approx(7.0, abs=1e-12)
    assert found(evaluation, "t").value == pytest.approx(4.0, abs=1e-12)
    assert found(evaluation, "t").outcome is Outcome.FAIL
    assert found(evaluation, "none").outcome is Outcome.UNKNOWN


# Formulas and moments ----------------------------------------------------------------------


def kept(*texts: tuple[str, str, str]) -> tuple[m.KeptMeasure, ...]:
    return tuple(
        m.KeptMeasure(id=name, measure=m.FormulaMeasure(kind="formula", text=text, gives=gives))
        for name, text, gives in texts
    )


def test_a_formula_of_kept_measures_is_what_it_says() -> None:
    one = build.kept_distance("one", build.side("base.b"), build.side("crank.b"))
    two = build.kept_distance("two", build.side("base.a"), build.side("coupler.b"))
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.1), ("crank_pivot", 0.1, 0.1 + FULL), count=90
    )
    measures = (
        one,
        two,
        *kept(
            ("half", "(one + two) / 2", "mm"),
            ("ring", "ring + 1 mm", "mm"),
            ("odd", "one*two", "mm"),
        ),
    )
    evaluation = with_asked(
        doc,
        build.asked("f", "formula", "least", text="2*half - scale", gives="mm", least=1),
        build.asked("ring", "formula", "least", text="ring", gives="mm", least=1),
        build.asked("odd", "formula", "least", text="odd", gives="mm", least=1),
        build.asked("gone", "formula", "least", text="nothing", gives="mm", least=1),
        measures=measures,
        parameters=(m.Parameter(id="scale", value="10 mm"),),
    )
    theta = np.linspace(0.1, 0.1 + FULL, 200_001)
    angles = np.array([build.four_bar_angles(40, 120, 80, 100, t)[1] for t in theta[::20]])
    crank = np.stack([40 * np.cos(theta[::20]), 40 * np.sin(theta[::20])])
    rocker = np.stack([100 + 80 * np.cos(angles), 80 * np.sin(angles)])
    total = np.hypot(crank[0] - 100, crank[1]) + np.hypot(*rocker) - 10
    assert found(evaluation, "f").value == pytest.approx(total.min(), abs=1e-5)
    for name, words in (
        ("ring", "refers to itself"), ("odd", "mixes units"), ("gone", "what is not there"),
    ):  # fmt: skip
        assert found(evaluation, name).outcome is Outcome.UNKNOWN
        assert words in value_words(evaluation, found(evaluation, name))


@given(st.floats(0.2, 6.2), st.integers(15, 200))
@settings(max_examples=25)
def test_asked_at_a_value_of_the_driver(theta: float, count: int) -> None:
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.1), ("crank_pivot", 0.1, 0.1 + FULL), count=count
    )
    at = m.Moment(joint="crank_pivot", value=theta)
    asked = build.asked("r", "joint", "greatest", joint="rocker_pivot", greatest=9.0)
    evaluation = with_asked(doc, asked.model_copy(update={"at": at}))
    true = build.four_bar_angles(40, 120, 80, 100, theta)[1]
    finding = found(evaluation, "r")
    assert build.wrap(finding.value - true) == pytest.approx(0.0, abs=1e-9)
    assert finding.progress == pytest.approx((theta - 0.1) / FULL, abs=1e-9)


def test_both_passages_of_a_value_count_and_one_that_never_comes_is_said() -> None:
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.1), ("crank_pivot", 0.1, 0.1 + FULL), count=90
    )
    crank = build.asked("c", "joint", "greatest", joint="crank_pivot", greatest=9.0)
    moment = m.Moment(joint="rocker_pivot", value=1.9)
    beyond = m.Moment(joint="rocker_pivot", value=0.1)
    evaluation = with_asked(
        doc,
        crank.model_copy(update={"at": moment}),
        crank.model_copy(update={"id": "l", "reduce": "least", "at": moment}),
        crank.model_copy(update={"id": "never", "at": beyond}),
    )
    for name in "cl":
        value = found(evaluation, name).value
        assert value is not None
        rocker = build.four_bar_angles(40, 120, 80, 100, value)[1]
        assert build.wrap(rocker - 1.9) == pytest.approx(0.0, abs=1e-8)
    high, low = found(evaluation, "c").value, found(evaluation, "l").value
    assert high is not None
    assert low is not None
    assert high - low > 0.5
    assert found(evaluation, "never").outcome is Outcome.UNKNOWN
    assert "never at that value" in value_words(evaluation, found(evaluation, "never"))


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        (
            build.asked("x", "pressure", "greatest", joint="crank_pivot", greatest=1),
            "pin on a curve",
        ),
        (build.asked("x", "guided", joint="crank_pivot", least=1), "slides along"),
        (
            build.asked("x", "phase", "greatest", joint="crank_pin", other="crank_pin", greatest=1),
            "in phase with itself",
        ),
        (build.asked("x", "housing", housing="crank", body="crank", least=1), "with itself"),
        (
            build.asked("x", "path", "range", place=build.side("crank.b"), least=1).model_copy(
                update={"at": m.Moment(joint="crank_pivot", value=1.0)}
            ),
            "at one pose",
        ),
    ],
)
def test_what_cannot_be_asked_is_said(asked: m.Requirement, words: str) -> None:
    doc = build.driven(build.four_bar(40, 120, 80, 100, 0.1), ("crank_pivot", 0.1, 1.0))
    with pytest.raises(AnakinemaError, match=words):
        with_asked(doc, asked)
