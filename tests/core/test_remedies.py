"""Remedies and safe bands are true: what they say is so in evaluations made anew."""

from __future__ import annotations

import math
from datetime import datetime

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.document.model import Document
from anakinema.edits.kept import Keep
from anakinema.edits.values import SetDimension, SetParameter
from anakinema.errors import AnakinemaError
from anakinema.files.native import document_text, parse_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.finding import Finding, Outcome
from anakinema.motion.motion import EventKind
from anakinema.remedies import (
    Number,
    back_to,
    band_words,
    differences,
    free_numbers,
    remedies,
    safe_band,
    solved,
    standing_words,
    trial_of,
)
from anakinema.units import LENGTH
from tests import mechanisms as build
from tests.conftest import share
from tests.ready import evaluated

DESIGNS = (
    "tray-shuttle", "vent-opener", "water-pump", "geared-vent", "transfer-arm", "cam-dibber",
    "tip-out-carrier", "side-rods",
)  # fmt: skip
KEPT = (Outcome.PASS, Outcome.WARN)


def found(evaluation: Evaluation, name: str) -> Finding:
    return next(f for f in evaluation.verdict.findings if f.id == name)


def failing(name: str, rng: np.random.Generator) -> tuple[Document, str] | None:
    """A ready mechanism that asks a little more of one value than it has."""
    before = evaluated(name)
    asked = [
        (r, f.value)
        for r in before.source.requirements
        for f in [found(before, r.id)]
        if f.value is not None and f.value > 0 and not (f.gap and f.gap.overlaps)
    ]
    if not asked:
        return None
    requirement, value = asked[int(rng.integers(len(asked)))]
    assert value is not None
    more = float(rng.uniform(0.003, 0.06))
    shown = value / before.resolved.units.factor(found(before, requirement.id).dimension)
    unit = before.resolved.units.name(found(before, requirement.id).dimension)
    low = requirement.least is not None
    bound = f"{shown * (1 + more if low else 1 - more):.6f} {unit}".strip()
    stated = {"least": bound if low else None, "greatest": None if low else bound, "comfort": None}
    changed = requirement.model_copy(update=stated)
    requirements = tuple(
        changed if r.id == requirement.id else r for r in before.source.requirements
    )
    return before.source.model_copy(update={"requirements": requirements}), requirement.id


@pytest.mark.campaign
@pytest.mark.parametrize("part", range(4))
def test_proposed_changes_pass_in_a_fresh_evaluation(part: int) -> None:
    """200 (`make prove`) random failing designs of eight mechanisms, pairs for some."""
    count = share(50, 1)
    made = passed = evaluations = 0
    for k in range(count):
        rng = np.random.default_rng(1000 * part + k)
        design = failing(DESIGNS[(part + k) % len(DESIGNS)], rng)
        if design is None:
            continue
        document, name = design
        evaluation = evaluate(document)
        assert found(evaluation, name).outcome is Outcome.FAIL
        for remedy in remedies(evaluation, name, pairs=k % 5 == 0):
            made += 1
            evaluations += remedy.evaluations
            fresh = evaluate(remedy.edit.apply(document))
            after = found(fresh, name)
            assert after.outcome in KEPT, (document.name, remedy.numbers)
            passed += 1
            assert fresh.motion.last >= evaluation.motion.last - 1e-9
            assert fresh.motion.end is evaluation.motion.end
            effects = {effect.after.id: effect.after for effect in remedy.effects}
            for finding in fresh.verdict.findings:
                stated = effects.get(finding.id)
                if stated is not None:
                    assert stated.outcome is finding.outcome
                    assert stated.value == pytest.approx(finding.value, rel=1e-5, abs=6e-3)
    print(f"remedies {part + 1}/4: {count} designs, {made} changes, {evaluations} evaluations")
    assert made and passed == made


def test_remedies_of_the_tray_shuttle_take_few_evaluations() -> None:
    evaluation = evaluated("tray-shuttle")
    single = list(remedies(evaluation, "post_gap", pairs=False))
    assert len(single) >= 4
    assert sum(remedy.evaluations for remedy in single) <= 10
    assert all(
        remedy.finding.margin is not None and 0 <= remedy.finding.margin < 0.1 for remedy in single
    )
    sizes = [remedy.size for remedy in single]
    assert all(size < 0.1 for size in sizes)
    rail = next(r for r in single if r.numbers[0][0].name == "rail_height")
    assert rail.edit == SetParameter("rail_height", "133.7 mm")


def test_pairs_may_keep_another_answer() -> None:
    evaluation = evaluated("tray-shuttle")
    both = [r for r in remedies(evaluation, "post_gap") if len(r.numbers) == 2]
    assert both
    kept = [r for r in both if all(e.after.id != "push_angle" for e in r.effects)]
    assert kept, [[e.after.id for e in r.effects] for r in both]


def test_what_ends_the_motion_early_is_no_remedy() -> None:
    """A crank stopped by a limit half way has a smaller swing; that does not count."""
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.5), ("crank_pivot", 0.5, 0.5 + build.FULL_TURN)
    )
    parameters = (m.Parameter(id="stop", value="30 rad"),)
    joints = tuple(
        j.model_copy(update={"limits": m.Limits(greatest="stop")}) if j.id == "crank_pivot" else j
        for j in doc.joints
    )
    asked = build.asked("swing", "joint", "range", joint="rocker_pivot", greatest=0.2)
    doc = doc.model_copy(
        update={"parameters": parameters, "joints": joints, "requirements": (asked,)}
    )
    evaluation = evaluate(doc)
    assert found(evaluation, "swing").outcome is Outcome.FAIL
    assert list(remedies(evaluation, "swing")) == []


def test_only_what_was_measured_and_is_missed_has_remedies() -> None:
    evaluation = evaluated("tray-shuttle")
    assert list(remedies(evaluation, "stroke")) == []
    assert list(remedies(evaluation, "built_in.program")) == []
    assert list(remedies(evaluation, "gone")) == []


def test_numbers_that_follow_others_or_are_counted_stay() -> None:
    titles = {n.title for n in free_numbers(evaluated("geared-vent").source)}
    assert "apart" not in titles and not any("teeth" in title for title in titles)
    assert "rod" in titles
    number = next(n for n in free_numbers(evaluated("tray-shuttle").source) if n.part == "rocker")
    assert number.edit(231.25) == SetDimension("rocker", "length", "231.25 mm")
    assert number.words(231.25) == "231.25 mm" and number.dimension == LENGTH


def passes(evaluation: Evaluation, number: Number, value: float) -> bool:
    """Whether all that passes still does, judged from nothing."""
    try:
        whole = evaluate(number.edit(value).apply(evaluation.source))
    except AnakinemaError:
        return False
    if whole.motion.end is not evaluation.motion.end:
        return False
    after = {f.id: f.outcome for f in whole.verdict.findings}
    return all(
        after.get(f.id) in KEPT for f in evaluation.verdict.findings if f.outcome in KEPT
    ) and not any(
        o not in KEPT
        for name, o in after.items()
        if name not in {f.id for f in evaluation.verdict.findings}
    )


@pytest.mark.campaign
@pytest.mark.parametrize("part", range(4))
def test_inside_the_band_all_pass_and_outside_not(part: int) -> None:
    """500 (`make prove`) numbers inside and just outside; ends not certified say so."""
    count, inside, outside, open_ends, uncertain = share(125, 2), 0, 0, 0, 0
    rng = np.random.default_rng(7 + part)
    bands = []
    for name in DESIGNS[part::4][: share(2, 1)]:
        evaluation = evaluated(name)
        numbers = free_numbers(evaluation.source)
        for number in numbers[: share(9, 1)]:
            *_, band = safe_band(evaluation, number)
            bands.append((evaluation, band))
    for _ in range(20 * count):
        if inside >= count <= outside:
            break
        evaluation, band = bands[int(rng.integers(len(bands)))]
        value = float(rng.uniform(band.low.value, band.high.value))
        assert passes(evaluation, band.number, value), (evaluation.source.name, band, value)
        inside += 1
        for end, side in ((band.low, -1.0), (band.high, 1.0)):
            if not end.is_certified:
                uncertain += 1
            elif not end.by:
                open_ends += 1
            else:
                just = end.value + side * 2.2e-3 * abs(band.number.value)
                assert not passes(evaluation, band.number, just), (band, side)
                outside += 1
    print(
        f"safe bands {part + 1}/4: {len(bands)} bands, {inside} inside, {outside} outside,"
        f" {open_ends} without end, {uncertain} not certified"
    )


def test_a_band_is_foreseen_first_and_certified_next() -> None:
    evaluation = evaluated("vent-opener")
    link = next(n for n in free_numbers(evaluation.source) if n.name == "link")
    first, last = safe_band(evaluation, link)
    assert not first.low.is_certified and last.low.is_certified and last.high.is_certified
    assert last.low.by == last.high.by == "hinge_reserve"
    assert last.low.value < link.value < last.high.value
    assert band_words(last).endswith(" mm") and " to " in band_words(last)
    assert math.isclose(first.low.value, last.low.value, rel_tol=5e-3)


def test_events_of_a_remedy_come_in_the_same_order() -> None:
    evaluation = evaluated("tray-shuttle")
    kinds = [e.kind for e in evaluation.motion.events if e.kind is not EventKind.EXTREME]
    for remedy in remedies(evaluation, "post_gap", pairs=False):
        after = [e.kind for e in remedy.evaluation.motion.events if e.kind is not EventKind.EXTREME]
        assert after == kinds


def test_a_trial_leads_back_to_its_numbers_and_says_what_differs() -> None:
    before = evaluated("tray-shuttle")
    trial = trial_of(before, "as drawn", datetime(2030, 2, 3, 4, 5))
    assert trial.when == "2030-02-03T04:05" and standing_words(trial) == "1 of 7 does not pass"
    assert back_to(before.source, trial) is None and differences(before.source, trial) == ()
    changed = SetDimension("rocker", "length", "233 mm").apply(before.source)
    changed = SetParameter("rod", "120 mm").apply(changed)
    stated = {(d.title, d.then, d.now) for d in differences(changed, trial)}
    assert stated == {("rod", "118 mm", "120 mm"), ("rocker, length", "230 mm", "233 mm")}
    edit = back_to(changed, trial)
    assert edit is not None and edit.apply(changed) == before.source
    gone = changed.model_copy(update={"parameters": changed.parameters[:2]})
    assert ("rod", "118 mm", "") in {(d.title, d.then, d.now) for d in differences(gone, trial)}
    back = back_to(gone, trial)
    assert back is not None and len(back.apply(gone).parameters) == 2
    kept = Keep(trial).apply(before.source)
    assert parse_document(document_text(kept).encode(), "file") == kept
    with pytest.raises(AnakinemaError, match="as_drawn"):
        evaluate(Keep(trial).apply(kept))


def pin_path(length: float) -> Document:
    """A four-bar whose crank is a parameter; the path of its pin is asked."""
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.5), ("crank_pivot", 0.5, 0.5 + build.FULL_TURN)
    )
    crank = doc.part("crank")
    places = (crank.places[0], crank.places[1].model_copy(update={"x": "throw"}))
    parts = tuple(
        p if p.id != "crank" else p.model_copy(update={"places": places}) for p in doc.parts
    )
    parameters = (m.Parameter(id="throw", value="40 mm"), m.Parameter(id="idle", value="7 mm"))
    asked = build.asked("path", "path", "range", place=build.side("crank.b"), least=length)
    gap = build.asked("range", "joint", "range", joint="rocker_pivot", least=0.1)
    return doc.model_copy(
        update={"parts": parts, "parameters": parameters, "requirements": (asked, gap)}
    )


@pytest.mark.parametrize("throw", [36.0, 41.5])
def test_a_target_is_met_by_the_number_that_a_closed_form_gives(throw: float) -> None:
    """The path of a crank's pin is 2 pi r."""
    evaluation = evaluate(pin_path(10.0))
    number = next(n for n in free_numbers(evaluation.source) if n.name == "throw")
    remedy = solved(evaluation, "path", number, f"{2 * math.pi * throw:.6f}")
    assert remedy.numbers[0][1] == pytest.approx(throw, rel=3e-4)
    assert remedy.finding.value == pytest.approx(2 * math.pi * throw, rel=2e-4)
    assert {effect.after.id for effect in remedy.effects} == {"range"}


def test_a_target_out_of_reach_says_how_far_it_came() -> None:
    evaluation = evaluate(pin_path(10.0))
    throw, idle = free_numbers(evaluation.source)
    with pytest.raises(AnakinemaError, match="within half of it was found; the nearest gives"):
        solved(evaluation, "path", throw, "900 mm")
    with pytest.raises(AnakinemaError, match="idle does nothing to it"):
        solved(evaluation, "path", idle, "260 mm")
    with pytest.raises(AnakinemaError, match="an angle, a length is needed"):
        solved(evaluation, "path", throw, "3 deg")
    with pytest.raises(AnakinemaError):
        solved(evaluation, "path", throw, "")
    with pytest.raises(AnakinemaError, match="no value now"):
        solved(evaluation, "built_in.program", throw, "1")
