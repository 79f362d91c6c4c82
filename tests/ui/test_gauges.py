"""Travel gauges by hand: ends, dot and buttons, each undoable."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from anakinema.authoring import gauges, progress_with
from anakinema.ui.drawers.gauge_bar import GaugeBar
from anakinema.ui.workbench import Selection
from tests.ui.test_assemble import CONTROL, LEFT, Hand


@pytest.fixture
def hand(qtbot, opened, settled) -> Hand:  # type: ignore[no-untyped-def]
    """The vent opener at Drive."""
    window = opened("vent-opener")
    found = Hand(qtbot, window, settled)
    found.key(Qt.Key.Key_2, CONTROL)
    return found


def drag(hand: Hand, bar: GaugeBar, x: float, to: float, y: int = 22) -> None:
    hand.qtbot.mousePress(bar, LEFT, pos=QPoint(round(x), y))
    for at in np.linspace(x, to, 6)[1:]:
        hand.qtbot.mouseMove(bar, QPoint(round(at), y))
        hand.settled(hand.window)
    hand.qtbot.mouseRelease(bar, LEFT, pos=QPoint(round(to), y))
    hand.settled(hand.window)


def limits(hand: Hand, joint: str):  # type: ignore[no-untyped-def]
    resolved = hand.bench.evaluation.resolved
    return resolved.joints[[j.id for j in resolved.document.joints].index(joint)]


def test_a_limit_is_dragged_and_stops_the_motion_as_one_step(hand: Hand) -> None:
    before = hand.bench.session.document
    bar = hand.child(GaugeBar, "gauge_hinge")
    low, high = (math.radians(v) for v in (100, 110))
    greatest = limits(hand, "hinge").greatest
    assert greatest > high
    to = (bar.x_of(low) + bar.x_of(high)) / 2
    drag(hand, bar, bar.x_of(greatest), to)
    new = limits(hand, "hinge").greatest
    assert low < new < high
    assert math.degrees(new) == pytest.approx(round(math.degrees(new), 6), abs=1e-9)
    (gauge,) = [g for g in gauges(hand.bench.evaluation) if g.title == "vent hinge"]
    assert gauge.spare[1] == pytest.approx(0, abs=1e-9)
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before
    # Esc during a drag puts it back.
    hand.qtbot.mousePress(bar, LEFT, pos=QPoint(round(bar.x_of(greatest)), 22))
    hand.qtbot.mouseMove(bar, QPoint(round(to), 22))
    assert hand.bench.session.document != before
    hand.qtbot.keyClick(bar, Qt.Key.Key_Escape)
    hand.qtbot.mouseRelease(bar, LEFT, pos=QPoint(round(to), 22))
    hand.settled(hand.window)
    assert hand.bench.session.document == before


def test_the_dot_goes_where_any_joint_stands_so(hand: Hand) -> None:
    evaluation = hand.bench.evaluation
    ids = [j.id for j in evaluation.document.joints]
    bar = hand.child(GaugeBar, "gauge_hinge")
    motion, joint = evaluation.motion, ids.index("hinge")
    hand.bench.move_playhead(0.5)
    start = float(np.interp(hand.bench.progress, motion.progress, motion.values[:, joint]))
    wanted = start + 0.2
    drag(hand, bar, bar.x_of(start), bar.x_of(wanted), y=30)
    now = float(np.interp(hand.bench.progress, motion.progress, motion.values[:, joint]))
    pixel = abs(now - wanted) / 0.2 * abs(bar.x_of(wanted) - bar.x_of(start))
    assert pixel < 1.5
    assert hand.bench.session.document is evaluation.source
    # There and back: of two places with that value the nearer is taken, and none is invented.
    for near in (0.1, hand.bench.evaluation.motion.last - 0.1):
        found = progress_with(evaluation, joint, now, near)
        assert np.interp(found, motion.progress, motion.values[:, joint]) == pytest.approx(
            now, abs=1e-9
        )
    beyond = progress_with(evaluation, joint, 99.0, 0.3)
    assert np.interp(beyond, motion.progress, motion.values[:, joint]) == pytest.approx(
        motion.values[:, joint].max()
    )


def test_limits_from_the_pose_on_show_hold_the_motion_there(hand: Hand) -> None:
    hand.bench.move_playhead(0.4)
    hand.bench.select(Selection("joint", "hinge"))
    evaluation = hand.bench.evaluation
    joint = [j.id for j in evaluation.document.joints].index("hinge")
    value = float(evaluation.motion.at(np.array([0.4])).values[0, joint])
    hand.press_button("greatest_here")
    assert limits(hand, "hinge").greatest == pytest.approx(value, abs=1e-7)
    assert limits(hand, "hinge").greatest >= value
    assert hand.bench.evaluation.motion.last == pytest.approx(0.4, abs=1e-4)
    hand.key(Qt.Key.Key_Z, CONTROL)
    hand.key(Qt.Key.Key_Home)
    hand.press_button("least_here")
    assert hand.bench.trouble is None
    assert hand.bench.evaluation.motion.last == evaluation.motion.last
