"""Requirements that are asked between two kept poses, against the same part of the motion."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.authoring.posing import kept_pose
from anakinema.document import model as m
from anakinema.edits.kept import Keep, RemoveKept
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import finding_facts
from anakinema.geometry.distance import Question, distances
from anakinema.geometry.poses import relative_poses
from anakinema.motion.kept_poses import between, passes
from tests.core.test_posing import at
from tests.ready import evaluated


def asked(name: str, first: float, last: float, *asked_for: m.Requirement) -> Evaluation:
    """A ready mechanism with poses kept at two places and requirements between them."""
    scene, one, _ = at(name, first)
    document = Keep(kept_pose(scene, one, "closed", ())).apply(scene.resolved.source)
    _, other, _ = at(name, last)
    document = Keep(kept_pose(scene, other, "open", ("closed",))).apply(document)
    span = m.Between(first="closed", last="open")
    added = tuple(each.model_copy(update={"between": span}) for each in asked_for)
    return evaluate(document.model_copy(update={"requirements": (*document.requirements, *added)}))


def found(evaluation: Evaluation, name: str) -> Finding:
    return next(each for each in evaluation.verdict.findings if each.id == name)


def sliding(name: str, reduce: str, **bounds: object) -> m.Requirement:
    joint = next(j.id for j in evaluated("tray-shuttle").document.joints if j.kind == "prismatic")
    return m.Requirement.model_validate(
        {"id": name, "measure": {"kind": "joint", "joint": joint}, "reduce": reduce, **bounds}
    )


@settings(deadline=None, max_examples=8)
@given(st.floats(0.02, 0.98), st.floats(0.02, 0.98))
def test_extremes_between_poses_are_those_of_fine_steps(first: float, last: float) -> None:
    if abs(first - last) < 0.01:
        return
    evaluation = asked(
        "tray-shuttle", first, last,
        sliding("low", "least", least="-1 m"), sliding("high", "greatest", greatest="1 m"),
        sliding("way", "range", greatest="1 m"),
    )  # fmt: skip
    joint = next(k for k, j in enumerate(evaluation.document.joints) if j.kind == "prismatic")
    fine = np.linspace(min(first, last), max(first, last), 4001)
    values = evaluation.motion.at(fine).values[:, joint]
    for name, wanted in (
        ("low", values.min()), ("high", values.max()), ("way", float(np.ptp(values))),
    ):  # fmt: skip
        value = found(evaluation, name).value
        assert value is not None
        assert value == pytest.approx(wanted, abs=1e-3), name
    place = found(evaluation, "low").progress
    assert place is not None and fine[0] - 1e-6 <= place <= fine[-1] + 1e-6


@pytest.mark.parametrize(("first", "last"), [(0.05, 0.2), (0.35, 0.9), (0.2, 0.5), (0.6, 0.1)])
def test_a_gap_between_poses_is_that_of_fine_steps(first: float, last: float) -> None:
    asks = next(r for r in evaluated("tray-shuttle").document.requirements if r.id == "post_gap")
    gap = asks.measure
    assert isinstance(gap, m.GapMeasure)
    bodies = [body.id for body in evaluated("tray-shuttle").document.bodies]
    one, other = bodies.index(str(gap.first)), bodies.index(str(gap.second))
    requirement = m.Requirement.model_validate(
        {"id": "clear", "measure": gap, "reduce": "least", "least": "0.1 mm"}
    )
    evaluation = asked("tray-shuttle", first, last, requirement)
    fine = np.linspace(min(first, last), max(first, last), 3001)
    poses = evaluation.motion.poses_at(fine)
    relative = relative_poses(poses[:, one], poses[:, other])
    resolved, least = evaluation.resolved, np.inf
    for a in resolved.part_of(evaluation.document.bodies[one]).slabs:
        for b in resolved.part_of(evaluation.document.bodies[other]).slabs:
            low = max(resolved.heights[one] + a.bottom, resolved.heights[other] + b.bottom)
            high = min(resolved.heights[one] + a.top, resolved.heights[other] + b.top)
            if high - low > 1e-6:
                answer = distances([Question(a.region, b.region, relative)])[0]
                least = min(least, float(answer.distance.min()))
    finding = found(evaluation, "clear")
    assert finding.gap is not None
    assert finding.gap.least - 1e-6 <= least <= finding.gap.most + 6e-3
    assert fine[0] - 1e-6 <= finding.progress <= fine[-1] + 1e-6  # type: ignore[operator]


def test_rates_between_poses_in_a_program_of_stages_are_those_of_fine_steps() -> None:
    body = evaluated("transfer-head").document.bodies[4]
    place = next(iter(evaluated("transfer-head").resolved.part_of(body).places))
    requirement = m.Requirement.model_validate({
        "id": "speed",
        "measure": {"kind": "place_rate", "place": {"body": body.id, "place": place}, "order": 1},
        "reduce": "greatest",
        "greatest": "100000",
    })  # fmt: skip
    scene, _, _ = at("transfer-head", 0.0)
    evaluation = evaluated("transfer-head")
    document = scene.resolved.source
    for name, progress in (("low", 1.2), ("high", 1.7)):
        poses = evaluation.motion.poses_at(np.array([progress]))[0]
        document = Keep(kept_pose(scene, poses, name, ())).apply(document)
    span = m.Between(first="low", last="high")
    asked_for = requirement.model_copy(update={"between": span})
    judged = evaluate(document.model_copy(update={"requirements": (asked_for,)}))
    fine = np.linspace(1.2, 1.7, 4001)
    states = judged.motion.at(fine)
    k = [b.id for b in judged.document.bodies].index(body.id)
    px, py, _ = judged.resolved.part_of(body).places[place]
    turn = states.poses[:, k, 2]
    arm = np.stack([np.cos(turn) * px - np.sin(turn) * py, np.sin(turn) * px + np.cos(turn) * py])
    v = states.first[:, k]
    speed, _ = judged.motion.progress_rates(fine)
    size = np.hypot(v[:, 0] - v[:, 2] * arm[1], v[:, 1] + v[:, 2] * arm[0]) * speed
    assert found(judged, "speed").value == pytest.approx(float(size.max()), rel=1e-5)


def test_a_part_of_a_motion_has_samples_at_its_ends_and_no_others_outside() -> None:
    motion = evaluated("tray-shuttle").motion
    part = between(motion, 0.2503, 0.7021)
    assert part.progress[0] == 0.2503 and part.last == 0.7021
    assert (np.diff(part.progress) > 0).all()
    covered = part.progress[:-1] + part.reach[:-1] >= part.progress[1:] - part.reach[1:] - 1e-12
    assert covered.all(), "every place is within reach of a sample"
    assert passes(motion, motion.poses_at(np.array([0.4]))[0]) == pytest.approx(0.4, abs=1e-7)


def test_what_cannot_be_asked_between_poses_says_why() -> None:
    travel = sliding("low", "least", least="-1 m")
    judged = asked("tray-shuttle", 0.1, 0.6, travel)
    assert found(judged, "low").outcome is Outcome.PASS
    assert ("Only", "from closed to open") in finding_facts(judged, found(judged, "low"))
    gone = evaluate(RemoveKept("poses", "open").apply(judged.source))
    assert found(gone, "low").outcome is Outcome.UNKNOWN
    assert found(gone, "low").reason == "no such pose"
    same = asked("tray-shuttle", 0.3, 0.3, travel)
    assert found(same, "low").reason == "one pose"
    ratio = sliding("ratio", "time_ratio", least=1.0)
    assert found(asked("tray-shuttle", 0.1, 0.6, ratio), "ratio").outcome is Outcome.UNKNOWN
    look = first_look(judged.source, judged)
    assert look is None or found(look, "low").value is not None
