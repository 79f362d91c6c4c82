"""How far a driver can go from a pose, in both directions, and what ends it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from anakinema.document.resolve import ProgramValues, StageValues
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.motion.events import stopped_at_limits
from anakinema.motion.follow import End
from anakinema.motion.motion import EventKind
from anakinema.motion.sweep import follow_course, sample

FULL_TURN = 2.0 * math.pi
STEPS = 90


@dataclass(frozen=True, slots=True)
class ReachEnd:
    """One end of a reachable range: the driver's value (rad or mm) and why it ends.

    ``joint`` is the joint whose limit stops it; ``reason`` a code: 'full turn', 'limit',
    'dead point', 'blocked', 'lost', 'far' (nothing stops it within three times the size).
    """

    value: float
    reason: str
    joint: int | None


@dataclass(frozen=True, slots=True)
class Reach:
    """Reachable range of one driver."""

    driver: int
    start: float
    low: ReachEnd
    high: ReachEnd


def reachable_range(
    mechanism: Mechanism,
    poses: Floats,
    values: Floats,
    driver: int,
    check: Callable[[], None] = lambda: None,
) -> Reach:
    """Range of a driver from assembled ``poses`` (B, 3) with shown joint ``values`` (K,).

    The other drivers stand still; joint limits stop it.
    """
    joint = mechanism.resolved.program.joints[driver]
    angular = bool(mechanism.angular[joint])
    span = FULL_TURN if angular else 3.0 * 2.0 * mechanism.size
    start = float(values[joint])
    ends = [
        _end(mechanism, poses, values, driver, start + sign * span, angular, check)
        for sign in (-1.0, 1.0)
    ]
    return Reach(driver, start, ends[0], ends[1])


def _end(
    mechanism: Mechanism,
    poses: Floats,
    values: Floats,
    driver: int,
    target: float,
    angular: bool,
    check: Callable[[], None],
) -> ReachEnd:
    program = mechanism.resolved.program
    joint = program.joints[driver]
    alone = ProgramValues(
        program.joints,
        tuple(float(values[j]) for j in program.joints),
        program.rates,
        (StageValues(((driver, target),), STEPS),),
    )
    at_pose = replace(mechanism, resolved=replace(mechanism.resolved, poses=poses, program=alone))
    motion = stopped_at_limits(sample(follow_course(at_pose, check)), run_past=False)
    value = float(motion.values[-1, joint])
    if motion.end is End.COMPLETE:
        return ReachEnd(value, "full turn" if angular else "far", None)
    if motion.end is End.HELD:
        limit = next(e for e in reversed(motion.events) if e.kind is EventKind.LIMIT)
        return ReachEnd(value, "limit", limit.joint)
    return ReachEnd(value, motion.end.value, None)
