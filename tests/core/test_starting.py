"""Keeping a pose: the motion then starts from it."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.authoring.starting import started_at
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.motion.motion import End
from anakinema.resources import demo_names
from tests.conftest import some
from tests.ready import evaluated


def kept(evaluation: Evaluation, row: int) -> Evaluation:
    poses = evaluation.motion.poses[row]
    return evaluate(started_at(evaluation.resolved, poses).apply(evaluation.source))


@pytest.mark.campaign
@pytest.mark.parametrize("name", some(demo_names(), 5))
def test_any_pose_of_a_demo_can_be_its_start(name: str) -> None:
    before = evaluated(name)
    row = len(before.motion.poses) // 3
    after = kept(before, row)
    # An angle may come back a full turn away; where things stand is the same.
    away = after.followed.poses - before.motion.poses[row]
    assert np.abs(away[:, :2]).max() < 1e-5
    assert np.abs(np.sin(away[:, 2] / 2)).max() < 1e-7
    assert after.motion.end is before.motion.end


def test_a_full_turn_stays_one_and_a_range_keeps_its_end() -> None:
    pump = evaluated("water-pump")
    after = kept(pump, 37)
    (joint,) = after.resolved.program.joints
    turned = after.motion.values[[0, -1], joint]
    assert turned[0] == pytest.approx(pump.motion.values[37, joint], abs=1e-7)
    assert turned[1] - turned[0] == pytest.approx(2 * math.pi, abs=1e-8)

    vent = evaluated("vent-opener")
    assert vent.motion.end is End.COMPLETE
    (joint,) = vent.resolved.program.joints
    start, end = vent.motion.values[0, joint], vent.resolved.program.stages[0].moves[0][1]
    after = kept(vent, len(vent.motion.poses) // 3)
    assert after.resolved.program.stages[0].moves[0][1] == end
    # Kept where the program was to go: it then goes back to where it began.
    reached = int(np.argmin(np.abs(vent.motion.values[:, joint] - end)))
    back = kept(vent, reached).resolved.program
    assert back.starts[0] == pytest.approx(end, abs=1e-8)
    assert back.stages[0].moves[0][1] == pytest.approx(start, abs=1e-8)
