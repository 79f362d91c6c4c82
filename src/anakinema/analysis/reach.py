"""How far a joint can go from a pose, in both directions, and what ends it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from anakinema.analysis.clearance import smallest_gap
from anakinema.analysis.in_space import InSpace
from anakinema.document import model
from anakinema.document.contact_kinds import contact_spec
from anakinema.document.program_values import ProgramValues, StageValues
from anakinema.errors import AssemblyError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.space_pairs import space_pairs
from anakinema.motion.branch_path import End
from anakinema.motion.events import STOPPING, stopped_at_limits
from anakinema.motion.followed_program import follow_program
from anakinema.motion.mobility import analyse_mobility
from anakinema.motion.motion import EventKind, Motion
from anakinema.motion.sweep import sample

FULL_TURN = 2.0 * math.pi
TOGETHER = 1e-4
"""mm; solids in space this near to one another touch."""
STEPS = 90


@dataclass(frozen=True, slots=True)
class ReachEnd:
    """One end of a reachable range: the driver's value (rad or mm) and why it ends.

    ``joint`` is the joint whose limit stops it; ``reason`` a code: 'full turn', 'limit',
    'contact', 'slot end', 'left' (its guide), 'dead point', 'blocked', 'lost', 'undecided', 'far'
    (nothing stops it within three times the size).
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


def reachable_range(mechanism: Mechanism, poses: Floats, values: Floats, driver: int) -> Reach:
    """Range of a driver from assembled ``poses`` (B, 3) with shown joint ``values`` (K,).

    The other drivers stand still; joint limits stop it.
    """
    joint = mechanism.resolved.program.joints[driver]
    angular = bool(mechanism.angular[joint])
    span = FULL_TURN if angular else 3.0 * 2.0 * mechanism.size
    start = float(values[joint])
    ends = [
        _end(mechanism, poses, values, driver, start + sign * span, angular) for sign in (-1.0, 1.0)
    ]
    return Reach(driver, start, ends[0], ends[1])


def _end(
    mechanism: Mechanism, poses: Floats, values: Floats, driver: int, target: float, angular: bool
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
    try:
        motion = stopped_at_limits(sample(follow_program(at_pose)), run_past=False)
    except AssemblyError:
        # A pose of the motion may lie so near a dead point that it cannot be assembled anew.
        return ReachEnd(float(values[joint]), "undecided", None)
    value = float(motion.values[-1, joint])
    if motion.end is End.COMPLETE:
        return ReachEnd(value, "full turn" if angular else "far", None)
    if motion.end is End.TOUCHED:
        return ReachEnd(value, "contact", None)
    if motion.end in STOPPING.values():
        last = next(e for e in reversed(motion.events) if e.kind in STOPPING)
        reason = "limit" if motion.end is End.HELD else motion.end.value
        return ReachEnd(value, reason, last.joint)
    return ReachEnd(value, motion.end.value, None)


@dataclass(frozen=True, slots=True)
class Touched:
    """Where a joint comes to stand when bodies touch: its value (rad or mm), and which bodies."""

    value: float
    bodies: tuple[int, int]


def where_it_touches(
    mechanism: Mechanism, poses: Floats, values: Floats, joint: int, side: int
) -> Touched | None:
    """Where a joint moved up (``side`` +1) or down (-1) first makes any two bodies touch.

    From assembled ``poses`` (B, 3) with shown values (K,), whatever the limits, with all that
    shares heights able to touch, or lies on other planes, and nothing giving way. Drivers that are
    free of the joint stand still. None if nothing touches within a full turn, or three times the
    size.
    """
    resolved = mechanism.resolved
    document = resolved.document
    stops = tuple(
        model.Contact(id=f"stop_{k}", kind="stop", first=model.Surface(body=body.id))
        for k, body in enumerate(document.bodies)
    )
    stiff = document.model_copy(
        update={
            "contacts": (*(c for c in document.contacts if contact_spec(c.kind).keeps), *stops),
            "joints": tuple(j.model_copy(update={"yields": None}) for j in document.joints),
        }
    )
    chosen = [joint]
    for driver in resolved.program.joints:
        free = driver not in chosen
        if free and not analyse_mobility(mechanism, poses, (*chosen, driver)).useless_drivers:
            chosen.append(driver)
    span = FULL_TURN if mechanism.angular[joint] else 3.0 * 2.0 * mechanism.size
    program = ProgramValues(
        tuple(chosen),
        tuple(float(values[j]) for j in chosen),
        (1.0,) * len(chosen),
        (StageValues(((0, float(values[joint]) + side * span),), STEPS),),
    )
    alone = replace(resolved, document=stiff, poses=poses, program=program)
    motion = sample(follow_program(replace(mechanism, resolved=alone)))
    before = _in_space(motion, joint)
    if before is not None:
        return before
    last = next((e for e in reversed(motion.events) if e.kind is EventKind.STOP), None)
    if motion.end is not End.TOUCHED or last is None or last.bodies is None:
        return None
    return Touched(float(motion.values[-1, joint]), last.bodies)


def _in_space(motion: Motion, joint: int) -> Touched | None:
    """Where bodies of different planes, or a rod and a body, first come together on a motion."""
    resolved = motion.mechanism.resolved
    pairs, means = space_pairs(resolved), InSpace(resolved)
    gap = smallest_gap(motion, pairs, means, threshold=TOGETHER)
    if gap is None or not gap.below:
        return None
    at = motion.at(np.array([min(first for first, _ in gap.below)]))
    seen = [each.distance[0] for each in means.seen([(pair, at.poses) for pair in pairs])]
    return Touched(float(at.values[0, joint]), pairs[int(np.argmin(seen))].bodies)
