"""Requirements against closed forms, and what strip, gauges and playhead make of them."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anakinema.authoring import gauges
from anakinema.document import model as m
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.event_wording import event_words, reach_words
from anakinema.findings.finding import Finding, Outcome, Verdict
from anakinema.findings.hazards import cautions
from anakinema.findings.mobility_wording import mobility_words
from anakinema.findings.value_wording import progress_words
from anakinema.findings.wording import finding_facts, finding_line, finding_why, value_words
from anakinema.measures.joint import folded
from anakinema.motion.events import used_range
from anakinema.motion.motion import EventKind
from anakinema.session import Playback, driver_ranges, lanes
from anakinema.units import LENGTH
from tests import mechanisms as build
from tests.ready import evaluated


def rocker_with(*requirements: m.Requirement, limits: m.Limits | None = None) -> Evaluation:
    """The textbook crank-rocker over one turn from 0.1 rad, with requirements."""
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.1), ("crank_pivot", 0.1, 0.1 + build.FULL_TURN), count=90
    )
    joints = tuple(
        j.model_copy(update={"limits": limits}) if limits and j.id == "rocker_pivot" else j
        for j in doc.joints
    )
    return evaluate(doc.model_copy(update={"requirements": requirements, "joints": joints}))


def judged(evaluation: Evaluation, name: str) -> Finding:
    return next(f for f in evaluation.verdict.findings if f.id == name)


SWING = math.radians(73.7818196)
"""Rocker swing by the triangle A0-B-B0, reference table 1.9."""


@pytest.mark.parametrize(
    ("least", "greatest", "comfort", "outcome"),
    [
        (1.2, None, None, Outcome.PASS),
        (1.2, None, 1.3, Outcome.WARN),
        (1.3, None, None, Outcome.FAIL),
        (None, 1.3, None, Outcome.PASS),
        (None, 1.3, 1.2, Outcome.WARN),
        (None, 1.2, None, Outcome.FAIL),
        (1.2, 1.3, None, Outcome.PASS),
    ],
)
def test_travel_is_judged_on_both_bounds_and_on_comfort(
    least: float | None, greatest: float | None, comfort: float | None, outcome: Outcome
) -> None:
    need = build.asked(
        "t", "joint", "range", joint="rocker_pivot", least=least, greatest=greatest, comfort=comfort
    )
    found = judged(rocker_with(need), "t")
    assert found.outcome is outcome
    assert found.value == pytest.approx(SWING, abs=1e-8)
    margins = [SWING - least] if least is not None else []
    margins += [greatest - SWING] if greatest is not None else []
    assert found.margin == pytest.approx(min(margins), abs=1e-8)


def test_transmission_angle_and_time_ratio_by_closed_form() -> None:
    evaluation = rocker_with(
        build.asked(
            "mu", "transmission", joint="rocker_pin", first_place="a", second_place="a", least=0.4
        ),
        build.asked("ratio", "joint", "time_ratio", joint="rocker_pivot", least=1.3),
    )
    least = math.acos((120**2 + 80**2 - 60**2) / (2 * 120 * 80))
    found = judged(evaluation, "mu")
    assert found.value == pytest.approx(least, abs=1e-9)
    assert progress_words(evaluation, found.progress or 0.0) == "d0 6.283 rad"
    assert judged(evaluation, "ratio").value == pytest.approx(1.35557333, abs=1e-8)


def test_transmission_angle_that_passes_through_a_dead_line_is_zero() -> None:
    pair = build.bars({"A": (0, 0), "B": (50, 30), "C": (100, 0)}, ["AB", "BC"], ["A"])
    need = build.asked(
        "mu", "transmission", joint="pin_b1", first_place="a", second_place="c", least=0.1
    )
    start = 2 * math.atan2(30, 50)
    pair = build.driven(pair, ("pin_b1", -start, start), ("pin_a1", 0.1, 0.2), count=37)
    evaluation = evaluate(pair.model_copy(update={"requirements": (need,)}))
    found = judged(evaluation, "mu")
    assert found.outcome is Outcome.FAIL
    assert found.value == 0.0
    assert found.progress == pytest.approx(0.5, abs=1e-9)


@given(st.floats(-20, 20))
def test_folding_keeps_an_angle_between_lines(angle: float) -> None:
    value = float(folded(np.array(angle)))
    assert 0.0 <= value <= math.pi / 2 + 1e-12
    assert abs(math.cos(value)) == pytest.approx(abs(math.cos(angle)), abs=1e-9)


def test_reserve_counts_the_nearer_limit_and_needs_limits() -> None:
    need = build.asked("r", "reserve", joint="rocker_pivot", least=0.05)
    unlimited = judged(rocker_with(need), "r")
    assert unlimited.outcome is Outcome.UNKNOWN
    assert unlimited.reason == "no limits"
    low, high = math.radians(54.9003678), math.radians(128.682187)
    limits = m.Limits(least=low - 0.2, greatest=high + 0.1)
    found = judged(rocker_with(need, limits=limits), "r")
    assert found.value == pytest.approx(0.1, abs=1e-8)
    assert found.outcome is Outcome.PASS


def test_time_ratio_of_a_part_turn_cannot_be_judged() -> None:
    doc = build.driven(build.four_bar(40, 120, 80, 100, 0.1), ("crank_pivot", 0.1, 2.0))
    need = build.asked("q", "joint", "time_ratio", joint="rocker_pivot", least=1.0)
    found = judged(evaluate(doc.model_copy(update={"requirements": (need,)})), "q")
    assert found.outcome is Outcome.UNKNOWN


def test_a_motion_that_stops_early_fails_and_says_why() -> None:
    limits = m.Limits(greatest=2.0)
    evaluation = rocker_with(limits=limits)
    found = judged(evaluation, "built_in.program")
    assert found.outcome is Outcome.FAIL
    assert value_words(evaluation, found) == "stopped by a limit"
    assert found.joint == 3
    dead = build.driven(build.four_bar(80, 60, 70, 120, 0.5), ("crank_pivot", 0.5, 3.0))
    stuck = evaluate(dead)
    assert value_words(stuck, judged(stuck, "built_in.program")) == "stopped at a dead point"
    (event,) = [e for e in stuck.motion.events if e.kind is EventKind.DEAD_POINT]
    assert "cannot go on" in event_words(stuck, event)
    assert event.joint is not None
    title = stuck.document.joints[event.joint].title
    assert event_words(stuck, event).endswith(f"the loop opens at {title}")


def test_a_document_without_a_program_cannot_be_judged() -> None:
    evaluation = evaluate(build.four_bar(40, 120, 80, 100, 0.4))
    assert judged(evaluation, "built_in.program").outcome is Outcome.UNKNOWN
    assert progress_words(evaluation, 0.0) == "start pose"
    assert Playback(evaluation).duration == 0.0
    assert Playback(evaluation).leader(0.0) is None
    empty = evaluate(m.Document())
    assert empty.verdict.outcome is Outcome.UNKNOWN


def test_the_worst_outcome_is_the_verdict() -> None:
    def verdict(*outcomes: Outcome) -> Verdict:
        return Verdict(tuple(Finding("i", "gap", "t", o, LENGTH) for o in outcomes))

    assert verdict(Outcome.PASS, Outcome.WARN).exit_status == 0
    assert verdict(Outcome.PASS, Outcome.UNKNOWN, Outcome.WARN).outcome is Outcome.UNKNOWN
    assert verdict(Outcome.UNKNOWN, Outcome.FAIL).outcome is Outcome.FAIL
    assert verdict().exit_status == 1


@pytest.fixture(scope="module")
def shuttle() -> Evaluation:
    return evaluated("tray-shuttle")


def test_every_finding_explains_itself(shuttle: Evaluation) -> None:
    for finding in shuttle.verdict.findings:
        facts = dict(finding_facts(shuttle, finding))
        assert facts["Outcome"] == finding.outcome.value
        assert finding_why(shuttle, finding)
        assert finding.title in finding_line(shuttle, finding)
    gap = dict(finding_facts(shuttle, judged(shuttle, "post_gap")))
    assert gap["How sure"] == "certified: bounded between all steps"
    assert gap["Margin"].startswith("−")
    (words,) = cautions(shuttle)
    assert "ISO 13854" in words
    assert "licensed engineer" in words


@pytest.mark.parametrize(
    ("demo", "words"),
    [
        ("geared-vent", ["In-running nip", "draw in"]),
        ("head-belt", ["head belt", "Enclose"]),
        ("tray-indexer", ["Stored energy", "even with the drive off"]),
        ("tip-out-carrier", ["Stored pressure: lift stroke and tip stroke", "ISO 4413"]),
    ],
)
def test_cautions_name_what_draws_in_and_what_moves_by_itself(demo: str, words: list[str]) -> None:
    evaluation = evaluated(demo)
    stated = cautions(evaluation)
    assert all(any(each in line for line in stated) for each in words), stated
    assert [line.endswith("licensed engineer decide.") for line in stated] == [
        k == len(stated) - 1 for k in range(len(stated))
    ]
    falling = evaluation.document.model_copy(
        update={
            "joints": tuple(
                joint.model_copy(
                    update={"yields": "gravity" if joint.yields == "spring" else joint.yields}
                )
                for joint in evaluation.document.joints
            )
        }
    )
    sprung = any("Stored energy" in line for line in stated)
    assert any("Prop it" in line for line in cautions(evaluate(falling))) == sprung
    still = evaluation.document.model_copy(update={"program": m.Program()})
    assert cautions(evaluate(still)) == []


def test_lanes_show_the_quantity_with_its_permitted_band(shuttle: Evaluation) -> None:
    by_title = {lane.title: lane for lane in lanes(shuttle)}
    gap = by_title["Gap rod to guard post"]
    assert gap.least == 3.0
    assert float(np.nanmin(gap.values)) == pytest.approx(judged(shuttle, "post_gap").gap.most)  # type: ignore[union-attr]
    assert (np.diff(gap.progress) >= 0).all()
    slide = by_title["pusher on rail"]
    assert np.ptp(slide.values) == pytest.approx(176.33, abs=0.01)
    angle = by_title["Transmission angle, rod"]
    assert 0 <= angle.values.min() <= angle.values.max() <= math.pi / 2
    bare = evaluate(shuttle.document.model_copy(update={"requirements": ()}))
    assert len(lanes(bare)) == 3


def test_gauges_show_used_and_permitted_range(shuttle: Evaluation) -> None:
    by_title = {gauge.title: gauge for gauge in gauges(shuttle)}
    slot = by_title["crank pin in slot"]
    assert (slot.least, slot.greatest) == (64.0, 176.0)
    assert (slot.low, slot.high) == pytest.approx((74.0, 166.0), abs=1e-9)
    assert by_title["crank bearing"].is_driver
    low, high, at_low, at_high = used_range(shuttle.motion, 2)
    assert (low, high) == pytest.approx((slot.low, slot.high))
    assert at_low == pytest.approx(0.5, abs=1e-9)
    assert at_high in (pytest.approx(0.0, abs=1e-9), pytest.approx(1.0, abs=1e-9))


def test_playback_steps_and_finds_values_exactly(shuttle: Evaluation) -> None:
    playback = Playback(shuttle)
    assert playback.duration == pytest.approx(2.0)
    assert playback.stage_span(0) == pytest.approx((math.pi / 2, 2.5 * math.pi))
    step = math.radians(7.0)
    at = 0.0
    for _ in range(100):
        at = playback.stepped(at, step, 1)
    assert at == 1.0
    assert playback.stepped(1.0, step, -1) == pytest.approx(1.0 - 7 / 360)
    assert playback.driver_value(0.25) == pytest.approx(math.pi)
    assert playback.progress_of_value(math.pi, 0.9) == pytest.approx(0.25)
    assert playback.progress_of_value(99.0, 0.9) == 1.0
    assert playback.progress_at(playback.time_at(0.37)) == pytest.approx(0.37)
    first = playback.next_event(0.0, 1)
    assert first is not None
    assert playback.next_event(first, -1) is None or playback.next_event(first, -1) < first
    assert playback.next_event(1.0, 1) is None


def test_playback_crosses_stages_of_two_drivers() -> None:
    playback = Playback(evaluated("transfer-arm"))
    assert playback.leader(0.5) == 0
    assert playback.leader(1.5) == 1
    assert playback.stepped(0.99, math.radians(10), 1) == 1.0
    assert playback.stepped(1.0, math.radians(14), 1) == pytest.approx(1.1)
    assert playback.driver_value(2.0) == pytest.approx(math.radians(60))
    assert playback.time_at(1.0) == pytest.approx(50 / 40)


def test_reach_in_words() -> None:
    evaluation = evaluated("side-rods")
    (reach,) = driver_ranges(evaluation, 0.2).ranges
    assert reach_words(evaluation, 0, reach.high).endswith("(turns fully)")
    arm = evaluated("transfer-arm")
    shoulder, elbow = driver_ranges(arm, 0.0).ranges
    assert reach_words(arm, 0, shoulder.high) == "170.0° (limit of shoulder)"
    assert reach_words(arm, 1, elbow.low) == "−140.0° (limit of elbow)"


def test_more_drivers_than_freedoms_is_said() -> None:
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.5),
        ("crank_pivot", 0.5, 1.0),
        ("rocker_pivot", build.four_bar_angles(40, 120, 80, 100, 0.5)[1], 1.5),
    )
    evaluation = evaluate(doc)
    assert judged(evaluation, "built_in.program").outcome is Outcome.FAIL
    assert any("More drivers than freedoms" in text for _, text in mobility_words(evaluation))


def test_limits_that_fight_are_named_and_others_are_not() -> None:
    """While the crank is between 0 and 90 degrees the rocker stands between 54.9 and 80.3."""

    def limited(least: float) -> m.Document:
        turn = (0.0, 2 * math.pi)
        doc = build.driven(build.four_bar(40, 120, 80, 100, 0.0), ("crank_pivot", *turn), count=72)
        limits = {
            "crank_pivot": m.Limits(least=0.0, greatest=math.pi / 2),
            "rocker_pivot": m.Limits(least=math.radians(least), greatest=2.3),
        }
        joints = tuple(
            j.model_copy(update={"limits": limits.get(j.id, m.Limits())}) for j in doc.joints
        )
        return doc.model_copy(update={"joints": joints})

    fights = [f for f in evaluate(limited(90.0)).verdict.findings if f.kind == "limits"]
    assert [f.outcome for f in fights] == [Outcome.FAIL]
    assert "crank" in fights[0].reason
    assert "rocker" in fights[0].reason
    assert not [f for f in evaluate(limited(70.0)).verdict.findings if f.kind == "limits"]
