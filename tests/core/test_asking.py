"""Asking in a sentence: what is selected fills it, and what it says now is what a check finds."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anakinema.analysis.splitting import TOLERANCE
from anakinema.authoring import (
    AskingWish,
    filled,
    first_wish,
    others,
    present,
    questions,
    requirement_of,
    subjects,
    suggested,
    usual_bound,
    wish_of,
)
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits import Ask, MoveRequirement, SetRequirement
from anakinema.errors import AnakinemaError
from anakinema.files import read_document
from anakinema.findings import Outcome
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.resources import demo_names, demo_path
from tests.conftest import some
from tests.ready import evaluated

DEMOS = ("tray-shuttle", "vent-opener", "head-belt", "transfer-arm")


@pytest.fixture(scope="module")
def evaluations() -> dict[str, Evaluation]:
    return {name: evaluated(name) for name in DEMOS}


@pytest.mark.campaign
@pytest.mark.parametrize("name", some(DEMOS, 3))
def test_what_is_so_now_is_what_a_check_finds(
    evaluations: dict[str, Evaluation], name: str
) -> None:
    """Every question about the first and last subject: asked as it is now it passes, and asked for
    a thousandth more it fails."""
    evaluation = evaluations[name]
    resolved = evaluation.resolved
    asked, seen = evaluation.source, 0
    for kind, _ in questions(resolved):
        for first, _ in subjects(resolved, kind)[:: max(1, len(subjects(resolved, kind)) - 1)]:
            second = others(resolved, AskingWish(kind, first))
            bound = usual_bound(kind)
            wish = AskingWish(kind, first, second[0][0] if second else "", bound)
            now = present(evaluation, wish)
            if now.value is None:
                assert now.words
                continue
            requirement = requirement_of(resolved, wish, now.value)
            asked = Ask(requirement.model_copy(update={"id": f"asked_{seen}"})).apply(asked)
            seen += 1
    assert seen > 3
    found = {f.id: f for f in evaluate(asked, earlier=evaluation).verdict.findings}
    for k in range(seen):
        assert found[f"asked_{k}"].outcome in (Outcome.PASS, Outcome.WARN), found[f"asked_{k}"]
        # Rounded to four digits in its favour: hardly more was asked than is so.
        margin, value = found[f"asked_{k}"].margin, found[f"asked_{k}"].value
        slack = 2 * TOLERANCE if found[f"asked_{k}"].gap is not None else 0.0
        assert margin is not None and margin <= 2e-3 * max(1.0, abs(value)) + slack


@pytest.mark.parametrize("name", demo_names())
def test_every_sentence_is_that_of_its_requirement(name: str) -> None:
    """What the line has words for comes back as the same question."""
    document = read_document(demo_path(name))
    resolved = resolve(document)
    known = 0
    for requirement in document.requirements:
        wish = wish_of(resolved, requirement)
        if wish is None:
            assert isinstance(requirement.measure, m.TransmissionMeasure | m.DistanceMeasure), name
            continue
        again = requirement_of(resolved, wish, None)
        assert (again.measure, again.reduce) == (requirement.measure, requirement.reduce)
        bound = "least" if requirement.least is not None else "greatest"
        assert getattr(again, bound) in (getattr(requirement, bound), str(wish.value))
        known += 1
    assert known or not document.requirements


def test_what_is_selected_fills_the_sentence(evaluations: dict[str, Evaluation]) -> None:
    resolved = evaluations["tray-shuttle"].resolved
    start = AskingWish("gap")
    two = filled(resolved, start, ("push_rod", "guard_post"), "")
    assert (two.kind, two.first, two.second) == ("gap", "push_rod", "guard_post")
    one = filled(resolved, two, (), "slide")
    assert (one.kind, one.first) == ("travel", "slide")
    kept = filled(resolved, AskingWish("reserve", "crank_pin"), (), "slide")
    assert kept.kind == "reserve" and kept.first == "slide"
    # A joint without limits has no reserve to ask for.
    assert filled(resolved, kept, (), "crank_bearing").kind == "travel"
    assert filled(resolved, two, ("gone",), "gone") == two
    assert first_wish(resolved).first == "slide"


@pytest.mark.parametrize(
    ("wish", "words"),
    [
        (AskingWish("travel", "slide"), "needs a value"),
        (AskingWish("travel", "gone", value="3 mm"), "not said of what"),
        (AskingWish("travel", "slide", value="3 deg"), "length"),
        (AskingWish("travel", "slide", value="3 +"), "number or name"),
        (AskingWish("travel", "slide", value="nothing*2"), "nothing"),
    ],
)
def test_what_is_missing_or_wrong_is_said(
    evaluations: dict[str, Evaluation], wish: AskingWish, words: str
) -> None:
    with pytest.raises(AnakinemaError) as error:
        requirement_of(evaluations["tray-shuttle"].resolved, wish, None)
    assert words in f"{error.value.what} {error.value.remedy}"


def test_a_bare_number_is_in_the_documents_unit(evaluations: dict[str, Evaluation]) -> None:
    resolved = evaluations["tray-shuttle"].resolved
    made = requirement_of(resolved, AskingWish("travel", "slide", value="170"), None)
    assert made.least == "170 mm" and made.name == "Travel of pusher on rail"
    ratio = requirement_of(resolved, AskingWish("time_ratio", "slide", value="1.4"), None)
    assert ratio.least == "1.4"


@given(st.lists(st.tuples(st.integers(0, 4), st.integers(-9, 9)), max_size=12))
def test_order_changes_nothing_else(moves: list[tuple[int, int]]) -> None:
    document = read_document(demo_path("tray-shuttle"))
    ids = [r.id for r in document.requirements]
    moved = document
    for k, by in moves:
        before = [r.id for r in moved.requirements]
        moved = MoveRequirement(ids[k], by).apply(moved)
        after = [r.id for r in moved.requirements]
        assert after.index(ids[k]) == min(max(before.index(ids[k]) + by, 0), len(ids) - 1)
        assert [i for i in after if i != ids[k]] == [i for i in before if i != ids[k]]
    assert sorted(r.id for r in moved.requirements) == sorted(ids)


def test_what_is_not_asked_is_neither_judged_nor_passed_over_in_silence() -> None:
    document = read_document(demo_path("tray-shuttle"))
    without = SetRequirement("post_gap", "off", True).apply(document)
    verdict = evaluate(without).verdict
    assert all(finding.id != "post_gap" for finding in verdict.findings)
    assert verdict.outcome is Outcome.WARN
    off = next(finding for finding in verdict.findings if finding.kind == "off")
    assert "Gap rod to guard post" in off.reason
    again = SetRequirement("post_gap", "off", False).apply(without)
    assert again == document


def test_what_is_worth_asking_holds_as_it_is_now() -> None:
    """Each suggestion passes as it stands, and is missed as soon as a little more is asked."""
    for name in ("tray-shuttle", "vent-opener", "tip-out-carrier", "water-pump"):
        bare = evaluated(name).source.model_copy(update={"requirements": ()})
        offered = suggested(evaluate(bare))
        assert len(offered) >= 3, name
        asked = tuple(each.requirement for each in offered)
        whole = evaluate(bare.model_copy(update={"requirements": asked}))
        for suggestion in offered:
            found = next(f for f in whole.verdict.findings if f.id == suggestion.requirement.id)
            assert found.outcome in (Outcome.PASS, Outcome.WARN), (name, suggestion)
            assert found.margin is not None and found.value is not None
            assert found.margin < 2e-3 * max(found.value, 1.0) + 2 * TOLERANCE
    still = evaluated("tray-shuttle").source
    still = still.model_copy(update={"requirements": (), "program": m.Program()})
    assert suggested(evaluate(still)) == ()
