"""Closing the loop that a join makes: from where it stands, and from turned poses."""

from __future__ import annotations

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.system import System
from anakinema.motion.assemble import Closure, close
from anakinema.wanted import still_wanted

TURNS = (0.2, 0.2, 0.5, 0.5, 1.0, 1.0, 1.6, 1.6, 2.4, 2.4, 3.0, 3.0)
"""rad that the bodies of a loop are turned by, one try after another, until it closes."""


WALK_STEPS = 16


TOUCHING = 1e-6
"""mm or rad; nearer places need no closing."""


def assembled_near(mechanism: Mechanism, poses: Floats) -> Closure:
    """The assembled pose nearest to one."""
    system = System(mechanism)
    return close(system, poses, system.at_rest)


def closed_loop(mechanism: Mechanism, poses: Floats, ring: tuple[int, ...]) -> tuple[Closure, bool]:
    """The loop closed from where it stands, bit by bit, so that loops closed before stay as they
    are assembled; all at once, and from turned poses, if it is caught on the way: then False.

    Links that lie in one line pull along that line only and never leave it, however long they
    are; a turn of the bodies in the loop, ever the same, sets them free. A cylinder that would be
    pushed or pulled beyond its stroke is held at its end, if the loop closes so.
    """
    system = System(mechanism)
    misfit = system.residual(poses, system.at_rest)
    is_near = float(np.abs(misfit).max(initial=0.0)) < TOUCHING
    walked = None if is_near else _walked(system, poses, misfit)
    found = walked
    is_continued = walked is not None
    moving = [b for b in ring if not mechanism.fixed[b]]
    if found is None:
        found = close(system, poses, system.at_rest)
        is_continued = is_near
        if not found.is_closed and moving:
            found = _closed_from_elsewhere(system, poses, system.at_rest, moving, found)
            is_continued = False
    beyond = _beyond_stroke(mechanism, found.poses) if found.is_closed else {}
    if beyond and moving:
        held = System(mechanism, tuple(beyond))
        targets = held.targets(np.array(list(beyond.values())), poses)
        within = _closed_from_elsewhere(held, poses, targets, moving, None)
        if within.is_closed and not _beyond_stroke(mechanism, within.poses):
            return within, False
    return found, is_continued


def _closed_from_elsewhere(
    system: System, poses: Floats, targets: Floats, moving: list[int], best: Closure | None
) -> Closure:
    """The first closed pose from some turned ones, or what came nearest."""
    random = np.random.default_rng(1)
    for amount in TURNS:
        still_wanted()
        start = poses.copy()
        start[moving, 2] += (
            amount * random.uniform(0.5, 1.0, len(moving)) * random.choice((-1.0, 1.0), len(moving))
        )
        found = close(system, start, targets)
        if found.is_closed:
            return found
        if best is None or found.open_by < best.open_by:
            best = found
    assert best is not None
    return best


def _beyond_stroke(mechanism: Mechanism, poses: Floats) -> dict[int, float]:
    """Cylinders shorter or longer than they can be, and the nearest value each can have."""
    found = {}
    lengths = (mechanism.values(poses) + mechanism.zero).tolist()
    for joint, (values, length) in enumerate(zip(mechanism.resolved.joints, lengths, strict=True)):
        if values.stroke is not None:
            low = values.stroke.dead_length
            nearest = min(max(length, low), low + values.stroke.stroke)
            if abs(nearest - length) > TOUCHING:
                found[joint] = nearest - values.zero
    return found


def _walked(system: System, poses: Floats, misfit: Floats) -> Closure | None:
    """What stays open is taken back in small shares; None if one of them cannot be closed."""
    target = system.at_rest
    found: Closure | None = None
    for share in np.linspace(1.0, 0.0, WALK_STEPS + 1)[1:]:
        still_wanted()
        found = close(system, poses, target + share * misfit)
        if not found.is_closed:
            return None
        poses = found.poses
    return found
