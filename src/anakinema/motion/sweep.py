"""Run a mechanism through its program: assemble, reach the start, follow every stage."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.motion.assemble import close
from anakinema.motion.branch_path import End
from anakinema.motion.dense import positions
from anakinema.motion.events import locate_change_points, locate_events
from anakinema.motion.followed_program import FollowedProgram, follow_program
from anakinema.motion.joins import locate_joins
from anakinema.motion.motion import (
    Event,
    EventKind,
    Motion,
    Segment,
    States,
    Stretch,
    joined,
    stretch_states,
)

BEYOND = 0.02
"""Share of a stage beyond its end at which the opening joint is looked for."""


def sample(followed: FollowedProgram, steps: float = 1.0) -> Motion:
    """Exact samples along a course, and its events other than limits.

    ``steps`` scales the number of steps (below 1 for a coarse answer).
    """
    mechanism, program = followed.mechanism, followed.mechanism.resolved.program
    stretches: list[Stretch] = []
    halves: list[Floats] = []
    before: Segment | None = None
    for segment in followed.segments:
        count = program.stages[segment.stage].count * steps
        local, half = _sample(segment, count, first=before is None or _breaks(before, segment))
        before = segment
        stretches.append(Stretch(segment, local))
        halves.append(half)
    if stretches:
        samples = stretch_states(mechanism, followed.shift, stretches)
        reach = np.concatenate(halves)
    else:
        samples, reach = _still(mechanism, followed.poses, followed.shift), np.zeros(1)
    motion = Motion(
        mechanism=mechanism,
        mobility=followed.mobility,
        segments=followed.segments,
        shift=followed.shift,
        driver_joints=program.joints,
        timing=followed.timing,
        samples=samples,
        reach=reach,
        events=(),
        end=followed.end,
        stages=len(program.stages),
    )
    if not followed.segments:
        return replace(motion, events=tuple(_end_event(motion)))
    motion = _beside_joins(motion)
    events = [
        *followed.events,
        *locate_change_points(motion),
        *locate_events(motion),
        *_end_event(motion),
    ]
    return replace(motion, events=tuple(sorted(events, key=lambda e: e.progress)))


def sweep(mechanism: Mechanism) -> Motion:
    """Follow and sample the whole program of a mechanism, whatever its joint limits.

    `anakinema.motion.events.stopped_at_limits` applies those. Raises `AssemblyError`.
    """
    return sample(follow_program(mechanism))


def _end_event(motion: Motion) -> list[Event]:
    kinds = {
        End.DEAD_POINT: EventKind.DEAD_POINT,
        End.BLOCKED: EventKind.BLOCKED,
        End.LOST: EventKind.LOST,
        End.UNDECIDED: EventKind.UNDECIDED,
    }
    if motion.end not in kinds:
        return []
    return [Event(kinds[motion.end], motion.last, joint=_opening_joint(motion))]


def _opening_joint(motion: Motion) -> int | None:
    """The joint at which the loop opens if the drivers are asked a little farther than they go."""
    if not motion.segments:
        return None
    segment = motion.segments[-1]
    path, last = segment.branch_path.path, segment.branch_path.knots[-1]
    targets = path.targets(segment.last + BEYOND)
    nearest = close(path.system, last.poses, targets).poses
    joints = len(motion.mechanism.row_kernel)
    open_by = np.abs(path.system.residual(nearest, targets)[:joints])
    return path.system.joint_of_row(int(np.argmax(open_by))) if joints else None


def _still(mechanism: Mechanism, poses: Floats, shift: Floats) -> States:
    nothing = np.zeros((1, *poses.shape))
    values = (mechanism.values(poses) + shift)[None]
    none = np.full_like(values, np.nan)
    return States(
        np.zeros(1), poses[None], nothing * np.nan, nothing * np.nan, values, none, none, 0.0
    )


def _beside_joins(motion: Motion) -> Motion:
    """With samples on both sides of each place where an acceleration jumps."""
    places = locate_joins(motion)
    if not len(places):
        return motion
    both = np.concatenate([places - BESIDE, places + BESIDE])
    both = both[(both > motion.progress[0]) & (both < motion.last)]
    # A sample that is right at such a place would show one of its sides only.
    clear = np.abs(motion.progress[:, None] - places).min(axis=1) > 2 * BESIDE
    clear[[0, -1]] = True
    samples = joined([motion.samples.taken(clear), motion.at(both)])
    order = np.argsort(samples.progress, kind="stable")
    reach = np.append(motion.reach[clear], np.zeros(len(both)))
    return replace(motion, samples=samples.taken(order), reach=reach[order])


BESIDE = 1e-9
"""Progress by which the sample after a break is later than the one before it."""


def _breaks(before: Segment, segment: Segment) -> bool:
    """Whether something jumps from one segment to the next: a pose, or only an acceleration."""
    if segment.branch_path.path.system is before.branch_path.path.system:
        # Nothing is let go of or taken hold of: it begins where the one before ends.
        return False
    if segment.branch_path.path.system.touches != before.branch_path.path.system.touches:
        return True
    ends = positions(before.branch_path, np.array([before.last]))[0]
    begins = positions(segment.branch_path, np.array([segment.first]))[0]
    size = segment.branch_path.path.system.mechanism.size
    apart = np.abs(begins - ends) * np.array([1.0, 1.0, size])
    return bool(apart.max() > 1e-9 * size)


def _sample(segment: Segment, count: float, *, first: bool) -> tuple[Floats, Floats]:
    """Progress of a segment's samples and half the step around each; ``first``: from its start."""
    steps = max(2, round(count))
    grid = np.arange(0, steps + 1) / steps
    inside = (grid > segment.first + 2 * BESIDE) & (grid < segment.last - 1e-12)
    begin = min(
        segment.first + (BESIDE if segment.stage + segment.first > 0.0 else 0.0), segment.last
    )
    points = np.concatenate([[begin] if first else [], grid[inside], [segment.last]])
    edges = np.concatenate([[segment.first], points, [segment.last]])
    # Each sample answers for the stretch up to half way to its neighbours.
    gaps = np.diff(edges)
    if not first:
        gaps[0] *= 2.0
    half = np.maximum(gaps[:-1], gaps[1:]) / 2.0
    return points, half
