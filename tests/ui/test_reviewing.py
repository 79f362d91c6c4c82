"""The review of a motion: what it stops at, how it runs, and that all is as before afterwards."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

from anakinema.document import model as m
from anakinema.findings.evaluate import evaluate
from anakinema.findings.event_wording import event_words
from anakinema.resources import demo_names
from anakinema.session.review import HELD, SAME, Review, moments
from anakinema.ui.workbench import Selection
from tests.conftest import some
from tests.ready import evaluated
from tests.ui.test_assemble import Hand
from tests.waiting import until


@pytest.mark.campaign
@pytest.mark.parametrize("name", some(demo_names(), 5))
def test_every_answer_and_event_has_its_moment_in_order(name: str) -> None:
    evaluation = evaluated(name)
    found = moments(evaluation)
    places = [each.progress for each in found]
    assert places == sorted(places)
    assert all(b - a > SAME for a, b in zip(places, places[1:], strict=False))
    told = {words for each in found for words in each.words}
    for finding in evaluation.verdict.findings:
        if finding.progress is not None:
            assert any(f"{finding.title}: " in words for words in told)
    few = len(evaluation.motion.events) + len(evaluation.verdict.findings) <= 30
    for event in evaluation.motion.events if few else ():
        assert event_words(evaluation, event) in told


@pytest.mark.parametrize("name", ["tray-shuttle", "transfer-head", "lid-latch"])
def test_the_schedule_goes_on_only_forward_and_rests_at_each_moment(name: str) -> None:
    review = Review(evaluated(name))
    seconds = np.linspace(0.0, review.duration, 4000)
    places = [review.at(float(each)) for each in seconds]
    progress = np.array([place for place, _ in places])
    assert (np.diff(progress) >= -1e-9).all()
    for k, moment in enumerate(review.moments):
        rests = [s for s, (_, at) in zip(seconds, places, strict=True) if at == k]
        assert len(rests) * review.duration / 4000 == pytest.approx(HELD, abs=0.02)
        assert review.at(review.begin_of(k) + 0.1) == (moment.progress, k)
    still = review.at(review.duration - 1e-6)[0]
    assert still == pytest.approx(evaluated(name).motion.last, abs=1e-3)


def test_a_mechanism_without_a_motion_has_nothing_to_review() -> None:
    assert moments(evaluate(m.Document(name="empty"))) == ()


@pytest.fixture
def hand(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    return Hand(qtbot, opened("tray-shuttle"), settled)


def test_one_key_runs_it_and_any_key_brings_all_back(hand: Hand) -> None:
    bench, card = hand.window.workbench, hand.window.review
    chosen = Selection("body", "rocker")
    bench.select(chosen)
    bench.move_playhead(0.25)
    hand.qtbot.keyClick(hand.window, Qt.Key.Key_R, Qt.KeyboardModifier.ShiftModifier)
    assert card.isVisible() and card.runs
    assert not hand.window.inspector.isVisible() and not hand.window.strip.isVisible()
    until(lambda: bench.progress > 0.3 or hand.child(QLabel, "review_count").text() != "")
    review = card._review
    assert review is not None
    card.advance(review.begin_of(2) + 0.05)
    words = hand.child(QLabel, "review_words").text()
    assert review.moments[2].words[0] in words
    assert hand.child(QLabel, "review_count").text() == f"3 of {len(review.moments)}"
    assert bench.progress == pytest.approx(review.moments[2].progress)
    hand.qtbot.keyClick(hand.window, Qt.Key.Key_Space)
    card.advance(5.0)
    assert bench.progress == pytest.approx(review.moments[2].progress), "Space holds it"
    hand.qtbot.keyClick(hand.window, Qt.Key.Key_Right)
    assert bench.progress == pytest.approx(review.moments[3].progress)
    hand.qtbot.keyClick(hand.window, Qt.Key.Key_Left)
    assert review.moments[2].words[0] in hand.child(QLabel, "review_words").text()
    shows = review.moments[2].finding
    assert bench.selection == (Selection("finding", shows) if shows else Selection())
    hand.qtbot.keyClick(hand.window, Qt.Key.Key_Delete)
    assert not card.runs and not card.isVisible()
    assert bench.selection == chosen and bench.progress == pytest.approx(0.25)
    assert hand.window.inspector.isVisible() and hand.window.strip.isVisible()
    assert not bench.session.is_changed, "Delete ended the review and deleted nothing"


def test_it_ends_by_itself_and_at_an_edit(hand: Hand) -> None:
    card = hand.window.review
    card.turn()
    card.advance(1e4)
    assert not card.runs and not card.isVisible()
    card.turn()
    assert card.runs
    hand.window.workbench.session.undo()
    hand.qtbot.mouseClick(hand.window.stage, Qt.MouseButton.LeftButton)
    assert not card.runs
