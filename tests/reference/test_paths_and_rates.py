"""Speeds, paths, dwells and shares against closed forms, and against brute force by fine steps."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.analysis.places import place_path
from anakinema.document import model as m
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import value_words
from anakinema.measures.path import narrowest_across, narrowest_ring
from anakinema.motion.motion import Motion
from tests import mechanisms as build

PIN = build.side("crank.b")


def found(evaluation: Evaluation, name: str) -> Finding:
    return next(f for f in evaluation.verdict.findings if f.id == name)


def with_asked(doc: m.Document, *asked: m.Requirement) -> Evaluation:
    return evaluate(doc.model_copy(update={"requirements": asked}))


def four_bar(count: int = 90, law: str = "constant", turns: float = 1.0) -> m.Document:
    """Crank 40, coupler 120, rocker 80, base 100; a turn in 2 pi seconds at constant speed."""
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.1),
        ("crank_pivot", 0.1, 0.1 + turns * build.FULL_TURN),
        count=count,
    )
    stage = doc.program.stages[0].model_copy(update={"law": law})
    program = doc.program.model_copy(update={"stages": (stage,)})
    return doc.model_copy(update={"program": program})


def fine(doc: m.Document, times: int = 40_000) -> tuple[Motion, np.ndarray, np.ndarray]:
    """The motion, very many progress values and their times: for brute force."""
    motion = evaluate(doc).motion
    progress = np.linspace(0, motion.last, times)
    return motion, progress, motion.time(progress)


def test_a_crank_pin_has_the_speed_and_acceleration_of_its_circle() -> None:
    """r w and r w² with w = 1/s, path 2 pi r, a circle exactly."""
    where = {"place": PIN}
    evaluation = with_asked(
        four_bar(),
        build.asked("v", "place_rate", "greatest", **where, order=1, greatest=41.0),
        build.asked("a", "place_rate", "greatest", **where, order=2, greatest=39.0),
        build.asked("s", "path", "range", **where, least=251.0),
        build.asked("o", "round", "range", **where, greatest="0.001 mm"),
        build.asked("w", "joint_rate", "size", joint="crank_pivot", order=1, greatest=1.0),
        build.asked("f", "freedoms", "greatest", least=1, greatest=1),
    )
    assert found(evaluation, "v").value == pytest.approx(40.0, rel=1e-12)
    assert found(evaluation, "a").value == pytest.approx(40.0, rel=1e-9)
    assert found(evaluation, "a").outcome is Outcome.FAIL
    assert found(evaluation, "s").value == pytest.approx(80 * math.pi, rel=1e-9)
    assert found(evaluation, "o").value == pytest.approx(0.0, abs=1e-9)
    assert found(evaluation, "w").value == pytest.approx(1.0, abs=1e-12)
    assert found(evaluation, "f").outcome is Outcome.PASS
    assert value_words(evaluation, found(evaluation, "f")) == "1"
    assert value_words(evaluation, found(evaluation, "a")) == "40.0 mm/s²"


@pytest.mark.parametrize("law", ["constant", "cycloidal", "harmonic"])
@pytest.mark.parametrize("count", [24, 360])
def test_greatest_rates_are_those_of_fine_differences_whatever_the_step(
    law: str, count: int
) -> None:
    doc = four_bar(count, law)
    # So many that neither their distance nor the noise of the poses matters.
    motion, progress, time = fine(doc, 6_000)
    inner = slice(30, -30)
    joint = motion.mechanism.joint_index("rocker_pivot")
    values = motion.at(progress).values[:, joint]
    point = place_path(
        motion.mechanism.resolved, build.side("coupler.b"), motion.poses_at(progress)
    )
    speed = np.gradient(values, time)
    along = np.gradient(point, time, axis=0)
    known = {
        "joint_rate_1": np.abs(speed[inner]).max(),
        "joint_rate_2": np.abs(np.gradient(speed, time)[inner]).max(),
        "place_rate_1": np.hypot(*along[inner].T).max(),
        "place_rate_2": np.hypot(*np.gradient(along, time, axis=0)[inner].T).max(),
    }
    asked = [
        build.asked(f"j{n}", "joint_rate", "size", joint="rocker_pivot", order=n, greatest=9.0)
        for n in (1, 2)
    ] + [
        build.asked(
            f"p{n}", "place_rate", "greatest", place=build.side("coupler.b"), order=n, greatest=9.0
        )
        for n in (1, 2)
    ]
    evaluation = with_asked(doc, *asked)
    for name, key in (("j1", "joint_rate_1"), ("p1", "place_rate_1")):
        assert found(evaluation, name).value == pytest.approx(known[key], rel=2e-5)
    for name, key in (("j2", "joint_rate_2"), ("p2", "place_rate_2")):
        assert found(evaluation, name).value == pytest.approx(known[key], rel=2e-3)


def hoeken(start: float, end: float, count: int = 180) -> m.Document:
    """Crank 40 on (0,0), rocker 100 on (80,0), coupler 100 with its tracer at 200."""
    crank = build.part("crank", a=(0, 0), b=(40, 0))
    base = build.part("base", a=(0, 0), b=(80, 0))
    coupler = build.part("coupler", a=(0, 0), b=(100, 0), tracer=(200, 0))
    rocker = build.part("rocker", a=(0, 0), b=(100, 0))
    ax, ay = 40 * math.cos(start), 40 * math.sin(start)
    # The rocker's end is on the left of the line from the crank's pin to its pivot.
    away = math.hypot(80 - ax, -ay)
    toward = math.atan2(-ay, 80 - ax)
    turn = math.acos(away / 200)
    bx, by = ax + 100 * math.cos(toward + turn), ay + 100 * math.sin(toward + turn)
    doc = build.document(
        [base, crank, coupler, rocker],
        [
            build.body("base", fixed=True),
            build.body("crank", angle=start),
            build.body("coupler", ax, ay, math.atan2(by - ay, bx - ax)),
            build.body("rocker", 80, 0, math.atan2(by, bx - 80)),
        ],
        [
            build.joint("crank_pivot", "revolute", "base.a", "crank.a"),
            build.joint("crank_pin", "revolute", "crank.b", "coupler.a"),
            build.joint("rocker_pin", "revolute", "coupler.b", "rocker.b"),
            build.joint("rocker_pivot", "revolute", "base.b", "rocker.a"),
        ],
    )
    return build.driven(doc, ("crank_pivot", start, end), count=count)


@pytest.mark.parametrize("count", [23, 180])
def test_hoekens_point_is_straight_to_the_band_of_the_table(count: int) -> None:
    """Window 90 to 270 deg: travel 160, band 0.3901493 (own recomputation of the proportions of R.
    L. Norton, Design of Machinery, table 3-1, from memory: 0.096 % by 0.0963 % at 2.2, 2.8)."""
    where = {"place": build.side("coupler.tracer")}
    evaluation = with_asked(
        hoeken(math.pi / 2, 3 * math.pi / 2, count),
        build.asked("straight", "straight", "range", **where, greatest=0.4),
        build.asked("travel", "way", "range", **where, along=0.0, least=159.0),
    )
    assert found(evaluation, "straight").value == pytest.approx(0.3901493, abs=1e-6)
    assert found(evaluation, "travel").value == pytest.approx(160.0, abs=1e-6)


@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=3, max_size=12))
def test_no_direction_has_a_narrower_strip(points: list[tuple[float, float]]) -> None:
    cloud = np.array(points)
    width = float(np.ptp(cloud @ narrowest_across(cloud)))
    angles = np.linspace(0, math.pi, 3601)
    tried = np.ptp(cloud @ np.stack([np.cos(angles), np.sin(angles)]), axis=0)
    assert width <= tried.min() + 1e-9
    assert width >= tried.min() - 120 * math.pi / 3600


@settings(max_examples=25)
@given(
    st.floats(5, 40), st.floats(-30, 30), st.lists(st.floats(-0.5, 0.5), min_size=12, max_size=40)
)
def test_no_centre_beside_has_a_narrower_ring(radius: float, x: float, noise: list[float]) -> None:
    turn = np.linspace(0, 5, len(noise))
    cloud = np.stack(
        [x + (radius + np.array(noise)) * np.cos(turn), (radius + np.array(noise)) * np.sin(turn)],
        axis=1,
    )
    centre = narrowest_ring(cloud)
    assert centre is not None

    def width(at: np.ndarray) -> float:
        return float(np.ptp(np.hypot(*(cloud - at).T)))

    for size in (1e-4, 1e-2, 0.3):
        for angle in np.linspace(0, 2 * math.pi, 24):
            beside = centre + size * np.array([math.cos(angle), math.sin(angle)])
            assert width(centre) <= width(beside) + 1e-7
    assert narrowest_ring(np.array([[0.0, 0.0], [1.0, 1.0], [2.0, 2.0]])) is None


@pytest.mark.parametrize("band", [0.02, 0.2, 1.0, 5.0])
@pytest.mark.parametrize("law", ["constant", "cycloidal"])
def test_a_dwell_is_that_of_brute_force(band: float, law: str) -> None:
    doc = four_bar(97, law)
    motion, progress, time = fine(doc, 20_000)
    values = motion.at(progress).values[:, motion.mechanism.joint_index("rocker_pivot")]
    # A closed cycle has no seam.
    time, values = np.append(time, time[1:] + time[-1]), np.append(values, values[1:])
    best = begins = 0.0
    first = 0
    for k in range(len(values)):
        while np.ptp(values[first : k + 1]) > band:
            first += 1
        best = max(best, float(time[k] - time[first]))
        begins += 1
    whole = float(motion.timing.total)
    evaluation = with_asked(
        doc,
        build.asked("stay", "dwell", "greatest", joint="rocker_pivot", band=band, least="0.1 s"),
    )
    step = float(np.diff(time).max())
    assert found(evaluation, "stay").value == pytest.approx(min(best, whole), abs=2.5 * step)
    assert found(evaluation, "stay").value >= min(best, whole) - 1e-9


def test_a_pause_counts_as_dwell() -> None:
    doc = four_bar(60)
    stage = doc.program.stages[0].model_copy(update={"pause": 3.0})
    doc = doc.model_copy(update={"program": doc.program.model_copy(update={"stages": (stage,)})})
    asked = build.asked("stay", "dwell", "greatest", joint="rocker_pivot", band=1e-4, least=1.0)
    value = found(with_asked(doc, asked), "stay").value
    assert value is not None and 3.0 < value < 3.1


def test_the_share_used_of_the_limits() -> None:
    limited = four_bar()
    joints = tuple(
        j.model_copy(update={"limits": m.Limits(least=-4.0, greatest=6.0)})
        if j.id == "rocker_pivot"
        else j
        for j in limited.joints
    )
    asked = build.asked("u", "used", "range", joint="rocker_pivot", greatest=0.9)
    travel = build.asked("t", "joint", "range", joint="rocker_pivot", greatest=9.0)
    evaluation = with_asked(limited.model_copy(update={"joints": joints}), asked, travel)
    share, swing = (found(evaluation, name).value for name in ("u", "t"))
    assert share is not None and swing is not None
    assert share == pytest.approx(swing / 10.0, abs=1e-12)
    assert value_words(evaluation, found(evaluation, "u")) == f"{100 * share:.1f} %"
    alone = with_asked(limited, asked)
    assert found(alone, "u").outcome is Outcome.UNKNOWN


def test_an_angle_of_places_is_that_of_their_directions() -> None:
    sides = {"first": build.side("base.a"), "second": build.side("crank.b")}
    evaluation = with_asked(four_bar(), build.asked("turn", "angle", "range", **sides, least=6.0))
    assert found(evaluation, "turn").value == pytest.approx(2 * math.pi, abs=1e-9)


def test_rates_that_are_not_defined_are_no_pass() -> None:
    """At the dead point that ends the way of the driver nothing has a rate."""
    doc = build.driven(build.four_bar(80, 50, 60, 100, 0.5), ("crank_pivot", 0.5, 3.0), count=36)
    asked = build.asked("v", "joint_rate", "size", joint="rocker_pivot", order=1, greatest=1e5)
    evaluation = with_asked(doc, asked)
    rates = evaluation.motion.samples.value_first
    assert np.isnan(rates).any()
    assert found(evaluation, "v").outcome is Outcome.UNKNOWN
    assert "singular" in value_words(evaluation, found(evaluation, "v"))


def test_a_band_without_width_is_named() -> None:
    asked = build.asked("stay", "dwell", "greatest", joint="rocker_pivot", band=0.0, least=1.0)
    with pytest.raises(AnakinemaError, match="dwell of 'rocker pivot'"):
        with_asked(four_bar(), asked)


def test_a_first_look_measures_all_of_them() -> None:
    where = {"place": PIN}
    asked = (
        build.asked("v", "place_rate", "greatest", **where, order=1, greatest=41.0),
        build.asked("s", "path", "range", **where, least=251.0),
        build.asked("o", "round", "range", **where, greatest=1.0),
        build.asked("stay", "dwell", "greatest", joint="rocker_pivot", band=0.2, least="0.1 s"),
    )
    evaluation = with_asked(four_bar(), *asked)
    look = first_look(evaluation.source, evaluation)
    assert look is not None
    for each in asked:
        exact, coarse = found(evaluation, each.id).value, found(look, each.id).value
        assert exact is not None and coarse is not None
        assert coarse == pytest.approx(exact, rel=0.05, abs=0.05)


def test_what_does_not_move_has_no_speed() -> None:
    still = build.four_bar(40, 120, 80, 100, 0.5)
    asked = (
        build.asked("v", "place_rate", "greatest", place=PIN, greatest=1.0),
        build.asked("w", "joint_rate", "size", joint="rocker_pivot", order=2, greatest=1.0),
    )
    evaluation = with_asked(still, *asked)
    assert [found(evaluation, name).value for name in ("v", "w")] == [0.0, 0.0]
