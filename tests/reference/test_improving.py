"""Several numbers improved, against a fine grid; one answer whatever judges it."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.edits import Together
from anakinema.errors import AnakinemaError
from anakinema.files import read_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.remedies import (
    Cluster,
    Evaluator,
    Goal,
    Inline,
    Number,
    Processes,
    Progress,
    Range,
    edit_to,
    free_numbers,
    improve,
    outcome_words,
    range_of,
)
from anakinema.resources import demo_path
from anakinema.wanted import under_watch
from tests import mechanisms as build


def rocker(*asked: m.Requirement, crank: float = 40.0, rod: float = 120.0) -> Evaluation:
    """A crank-rocker whose crank and coupler are parameters: rocker 80, base 100."""
    doc = build.four_bar(crank, rod, 80, 100, 0.4)
    parts = tuple(
        part.model_copy(
            update={
                "places": tuple(
                    place.model_copy(update={"x": part.id}) if place.id == "b" else place
                    for place in part.places
                )
            }
        )
        if part.id in ("crank", "coupler")
        else part
        for part in doc.parts
    )
    parameters = (
        m.Parameter(id="crank", value=f"{crank!r} mm"),
        m.Parameter(id="coupler", value=f"{rod!r} mm"),
    )
    doc = doc.model_copy(update={"parts": parts, "parameters": parameters})
    doc = build.driven(doc, ("crank_pivot", 0.4, 0.4 + build.FULL_TURN), count=48)
    return evaluate(doc.model_copy(update={"requirements": asked}))


def swing(crank: float, rod: float) -> float:
    """Of the rocker, by the law of cosines at both positions in line."""
    rocker, base = 80.0, 100.0

    def angle(reach: float) -> float:
        return math.acos((rocker**2 + base**2 - reach**2) / (2 * rocker * base))

    return angle(rod + crank) - angle(rod - crank)


def transmission(crank: float, rod: float) -> float:
    """Its least, by the law of cosines at crank and base in line."""
    found = []
    for reach in (100.0 - crank, 100.0 + crank):
        angle = math.acos((rod**2 + 80.0**2 - reach**2) / (2 * rod * 80.0))
        found.append(min(angle, math.pi - angle))
    return min(found)


SWING = build.asked("swing", "joint", "range", joint="rocker_pivot", least=0.5)
ANGLE = build.asked(
    "angle", "transmission", joint="rocker_pin", first_place="a", second_place="a", least=0.6
)


def last(found: Iterator[Progress]) -> Progress:
    *_, end = found
    return end


def numbers(evaluation: Evaluation) -> dict[str, Number]:
    return {number.name: number for number in free_numbers(evaluation.source)}


@pytest.mark.parametrize("sense", ["greatest", "least"])
def test_the_best_swing_within_bounds_is_that_of_a_fine_grid(sense: str) -> None:
    bound = SWING.model_copy(update={"least": 0.5 if sense == "greatest" else 0.9})
    evaluation = rocker(bound, ANGLE)
    known = numbers(evaluation)
    ranges = Range(known["crank"], 30.0, 50.0), Range(known["coupler"], 100.0, 140.0)
    found = last(improve(evaluation, Goal("swing", sense), ranges, Inline(evaluation)))
    values = [
        swing(crank, rod)
        for crank in np.linspace(30, 50, 401)
        for rod in np.linspace(100, 140, 401)
        if crank + rod < 180 and rod - crank > 20
        and transmission(crank, rod) >= 0.6 and swing(crank, rod) >= float(bound.least)
    ]  # fmt: skip
    best = max(values) if sense == "greatest" else min(values)
    assert found.best.passes
    assert found.best.goal == pytest.approx(best, rel=5e-3)
    # What is offered is so in a fresh evaluation, and undone by nothing but its own numbers.
    fresh = evaluate(edit_to(ranges, found.best).apply(evaluation.source))
    assert fresh.verdict.exit_status == 0
    value = next(f.value for f in fresh.verdict.findings if f.id == "swing")
    assert value == pytest.approx(found.best.goal, abs=1e-9)
    assert value == pytest.approx(swing(*found.best.values), abs=1e-9)
    assert found.runner_up.values != found.best.values
    lines = outcome_words(evaluation, Goal("swing", sense), ranges, found)
    assert "not what is possible" in lines[-1] and lines[1].startswith("best:")


def test_what_fails_is_brought_to_pass_first() -> None:
    """The tray shuttle's gap fails; improved, everything passes and the motion runs as far."""
    evaluation = evaluate(read_document(demo_path("tray-shuttle")))
    assert evaluation.verdict.exit_status == 1
    known = numbers(evaluation)
    ranges = Range(known["rod"], 100, 130), Range(known["rail_height"], 120, 145)
    found = last(improve(evaluation, Goal("stroke", "least"), ranges, Inline(evaluation)))
    assert not found.start.passes and found.best.passes
    fresh = evaluate(edit_to(ranges, found.best).apply(evaluation.source))
    assert fresh.verdict.exit_status == 0
    assert fresh.motion.last == pytest.approx(evaluation.motion.last)


@pytest.fixture(scope="module")
def cluster() -> Iterator[Evaluator]:
    """A scheduler with one worker in this process."""
    from distributed import LocalCluster

    with LocalCluster(
        n_workers=1, threads_per_worker=1, processes=False, dashboard_address=None
    ) as local:
        found = Cluster(local.scheduler_address)
        yield found
        found.close()


@pytest.mark.filterwarnings("ignore")
def test_processes_and_a_cluster_judge_the_same(cluster: Evaluator) -> None:
    evaluation = rocker(SWING, ANGLE)
    known = numbers(evaluation)
    documents = [
        Together("try", (known["crank"].edit(a), known["coupler"].edit(b))).apply(evaluation.source)
        for a, b in ((40.0, 120.0), (35.0, 130.0), (90.0, 30.0))
    ]
    here = Inline(evaluation).judge(documents)
    assert here[0] is not None and here[2] is None
    processes = Processes(2)
    try:
        assert processes.judge(documents) == here
    finally:
        processes.close()
    assert cluster.judge(documents) == here


class Stopped(Exception):
    """Not wanted any more."""


def test_a_search_is_given_up_at_once() -> None:
    evaluation = rocker(SWING, ANGLE)
    known = numbers(evaluation)
    ranges = Range(known["crank"], 30.0, 50.0), Range(known["coupler"], 100.0, 140.0)

    def stop() -> None:
        raise Stopped

    with pytest.raises(Stopped), under_watch(stop):
        last(improve(evaluation, Goal("swing", "least"), ranges, Inline(evaluation)))


def test_what_is_no_range_or_goal_is_said() -> None:
    evaluation = rocker(SWING, ANGLE)
    known = numbers(evaluation)
    inline = Inline(evaluation)
    for ranges, goal, words in (
        ((), "swing", "no number may change"),
        ((Range(known["crank"], 50.0, 60.0),), "swing", "does not hold"),
        ((Range(known["crank"], 30.0, 60.0),), "nothing", "no value now"),
    ):
        with pytest.raises(AnakinemaError, match=words):
            last(improve(evaluation, Goal(goal, "least"), ranges, inline))
    for text in ("crank", "crank=1", "crank=a..b", "nothing=1..2", "crank=1..inf"):
        with pytest.raises(AnakinemaError, match="range|no number"):
            range_of(evaluation, text)
    with pytest.raises(AnakinemaError, match="nothing answers"):
        Cluster("tcp://127.0.0.1:1")
