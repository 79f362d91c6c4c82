"""Poses of changed mechanisms near a motion that is known: the one engine of first looks,
sensitivities, remedies and variants.

No path is followed: every pose begins at that of the known motion at the same progress, or at the
closed forms of its dyads on the sides that they have there, and is closed anew, so nothing is
promised of the branch.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.contacts import Facing
from anakinema.mechanism.dyads import decompose
from anakinema.mechanism.frames import Indices
from anakinema.mechanism.numbers import (
    numbers_of,
    only_numbers_differ,
    same_structure,
    together,
    with_numbers,
)
from anakinema.mechanism.solve import apply
from anakinema.mechanism.system import System
from anakinema.mechanism.touch import Touch
from anakinema.motion.branch_path import FLAT_DYAD
from anakinema.motion.motion import Motion, Segment, States
from anakinema.wanted import still_wanted

ROUNDS = 6
CLOSED = 1e-6
"""Share of the size by which a closed pose may stay open."""
EXACT = 1e-11
"""Share of the size below which nothing is left to close."""
HELD = {"x": 0, "y": 1, "angle": 2}
"""What of a body's pose a hold keeps still."""
RESTED = 1e-6
"""mm or rad from its rest at which a yielding joint rests."""


Leg = tuple[Segment, Indices, Floats]
"""A segment, the rows of some progress that it owns, and that progress within its stage."""


@dataclass(frozen=True, slots=True, eq=False)
class Near:
    """Poses of V mechanisms at progress (N,).

    poses (V, N, B, 3) mm, mm, rad. values (V, N, K) shown, rad or mm. first, second : rates of the
    poses by progress, NaN if they were not asked for. open_by (V, N): mm that a pose stays open.
    """

    progress: Floats
    poses: Floats
    values: Floats
    first: Floats
    second: Floats
    open_by: Floats

    @property
    def closed(self) -> npt.NDArray[np.bool_]:
        """(V, N) poses that are closed: finite, and open by a rounding only."""
        return np.isfinite(self.open_by)


def near(
    motion: Motion,
    variants: Sequence[Mechanism],
    progress: Floats,
    *,
    known: States | None = None,
    begin: Floats | None = None,
    rates: bool = False,
    within: float = EXACT,
) -> Near | None:
    """Changed mechanisms of one structure at progress (N,) of a known motion.

    ``known``: its states there, if they are at hand. ``begin`` (N, B, 3): poses that may be nearer
    than those, to begin from. ``within``: share of the size by which poses
    may stay open.

    What touches in a stretch of that motion touches there in the variants as well, by the same
    features as they are now. None if a structure is another one, if other features face one
    another, or where something rolls.
    """
    before = motion.mechanism
    if not motion.segments or not all(
        same_structure(each, before) and _face_alike(each, before) for each in variants
    ):
        return None
    plain = all(only_numbers_differ(variants[0], each) for each in variants[1:])
    parts: list[Near] = []
    order: list[np.ndarray] = []
    for legs in _alike(motion.by_segment(progress)):
        still_wanted()
        segment, rows = legs[0][0], np.concatenate([rows for _, rows, _ in legs])
        touches = [
            touches_again(each, before, segment.branch_path.path.system.touches)
            for each in variants
        ]
        if any(each is None for each in touches):
            return None
        if known is None:
            base = motion.poses_at(progress[rows])
            shown = np.concatenate(
                [
                    _shown_before(motion, each, progress[some], poses)
                    for (each, some, _), poses in zip(legs, _split(base, legs), strict=True)
                ]
            )
        else:
            base, shown = known.poses[rows], known.values[rows]
        start = base if begin is None else begin[rows]
        groups = [list(variants)] if plain and not any(touches) else [[v] for v in variants]
        found = [
            _closed(
                motion,
                legs,
                group,
                touches[k] or (),
                progress[rows],
                (base, shown, start),
                within,
                rates,
            )
            for k, group in enumerate(groups)
        ]
        order.append(rows)
        parts.append(_stacked(found))
    if not parts:
        return None
    back = np.argsort(np.concatenate(order))
    return Near(
        progress,
        *(
            np.concatenate([getattr(part, name) for part in parts], axis=1)[:, back]
            for name in ("poses", "values", "first", "second", "open_by")
        ),
    )


def _alike(legs: list[Leg]) -> list[list[Leg]]:
    """Legs under the same equations together, to be closed at once."""
    groups: list[list[Leg]] = []
    for leg in legs:
        system = leg[0].branch_path.path.system
        if groups and system.is_like(groups[-1][0][0].branch_path.path.system):
            groups[-1].append(leg)
        else:
            groups.append([leg])
    return groups


def _split(rows: Floats, legs: list[Leg]) -> list[Floats]:
    """Rows of all legs, leg by leg."""
    return np.split(rows, np.cumsum([len(some) for _, some, _ in legs])[:-1])


def _stacked(found: list[Near]) -> Near:
    if len(found) == 1:
        return found[0]
    return Near(
        found[0].progress,
        *(
            np.concatenate([getattr(each, name) for each in found])
            for name in ("poses", "values", "first", "second", "open_by")
        ),
    )


def _closed(
    motion: Motion,
    legs: list[Leg],
    variants: list[Mechanism],
    touches: tuple[Touch, ...],
    progress: Floats,
    known: tuple[Floats, Floats, Floats],
    within: float,
    rates: bool,
) -> Near:
    """Variants that differ in numbers only, on legs under the same equations, by poses (N, B, 3)
    known, with values (N, K) shown, beginning from others (N, B, 3)."""
    first, (base, shown, start), segment = variants[0], known, legs[0][0]
    alone = len(variants) == 1
    numbers = numbers_of(first) if alone else together(variants)
    mechanism = first if alone else with_numbers(first, numbers)
    drivers, holds = motion.driver_joints, segment.branch_path.path.system.holds
    system = System(mechanism, drivers, holds, touches)
    poses = np.broadcast_to(start, (len(variants), *start.shape)).copy()
    fixed = np.flatnonzero(first.fixed)
    poses[..., fixed, :] = numbers.poses[..., fixed, :]
    drawn_on = numbers.poses - motion.mechanism.resolved.poses
    for hold in holds:
        if hold.kind in HELD:
            place = ..., hold.index, HELD[hold.kind]
            poses[place] = base[place] + drawn_on[place]
    begin, way = _driven(variants, legs)
    stage = np.concatenate([np.full(len(rows), leg.stage) for leg, rows, _ in legs])
    share = (progress - stage)[:, None]
    driven = begin + share * way - motion.shift[list(drivers)]
    kept = _held_at(motion, variants, system.held_joints, base, shown)
    targets = system.targets(driven, poses, kept)
    rate = system.target_rates(way)
    poses, residual = _by_dyads(segment, system, base, poses, targets, rate)
    size = first.size
    open_by = np.abs(residual).max(axis=-1, initial=0.0)
    if (open_by > within * size).any():
        residual, inverses = _opened(system, poses, targets)
        for _ in range(ROUNDS):
            with np.errstate(invalid="ignore", over="ignore"):
                poses = system.moved(poses, -apply(inverses, residual))
                residual = system.residual(poses, targets)
            open_by = np.abs(residual).max(axis=-1, initial=0.0)
            if not (open_by > within * size).any():
                break
    open_by = np.where(open_by <= CLOSED * size, open_by, np.nan)
    speed, change = np.full_like(poses, np.nan), np.full_like(poses, np.nan)
    if rates:
        _, inverses = _opened(system, poses, targets)
        speed = system.scaled_rates(apply(inverses, rate))
        change = system.scaled_rates(apply(inverses, system.quadratic(poses, speed)))
    values = mechanism.values(poses) + motion.shift
    return Near(progress, poses, values, speed, change, open_by)


def _driven(variants: list[Mechanism], legs: list[Leg]) -> tuple[Floats, Floats]:
    """(V, N, D) shown driver values at the start of the stage of each row, and their way in it."""
    starts, ways = [], []
    for leg, rows, _ in legs:
        ends = np.array([stage_values(each, leg.stage) for each in variants])
        begin, end = ends[:, None, 0], ends[:, None, 1]
        starts.append(np.repeat(begin, len(rows), axis=1))
        ways.append(np.repeat(end - begin, len(rows), axis=1))
    return np.concatenate(starts, axis=1), np.concatenate(ways, axis=1)


def _by_dyads(
    segment: Segment, system: System, base: Floats, poses: Floats, targets: Floats, rate: Floats
) -> tuple[Floats, Floats]:
    """Poses (V, N, B, 3) by closed forms, on the sides that known poses ``base`` (N, B, 3) have,
    where those are well away from flat; else the poses given. And how far they are open."""
    before, now = segment.branch_path.path.dyads, None
    if before is not None:
        now = decompose(system)
    if (
        before is None
        or now is None
        or [type(s) for s in now.steps] != [type(s) for s in before.steps]
    ):
        return poses, system.residual(poses, targets)
    sides = np.broadcast_to(before.sines(base), (*poses.shape[:2], len(before.steps)))
    with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
        found, _, _ = now.solve(targets, rate, poses, sides)
    sound = np.asarray(np.isfinite(found).all(axis=(-1, -2)))
    sound &= np.asarray((np.abs(sides) > FLAT_DYAD).all(axis=-1))
    poses = np.where(sound[..., None, None], found, poses)
    return poses, system.residual(poses, targets)


def _opened(system: System, poses: Floats, targets: Floats) -> tuple[Floats, Floats]:
    """How far equations are open (V, N, R), and their inverses (V, N, n, R), at poses."""
    residual, jacobian = system.residual_jacobian(poses, targets)
    flat = system.inverses(jacobian.reshape(-1, *jacobian.shape[-2:]))
    return residual, flat.reshape(*jacobian.shape[:2], *flat.shape[-2:])


def _shown_before(motion: Motion, segment: Segment, progress: Floats, poses: Floats) -> Floats:
    """(N, K) values shown on the known motion."""
    mechanism = motion.mechanism
    raw = mechanism.values(poses)
    return segment.running(mechanism, progress - segment.stage, raw) + motion.shift


def _held_at(
    motion: Motion, variants: list[Mechanism], held: list[int], base: Floats, shown: Floats
) -> Floats | None:
    """(V, N, H) values less their zero that held joints have now.

    What rested before is at its present rest, what was held elsewhere stays there; if it has not
    been moved from where it began, it is off by what its bodies are drawn elsewhere now.
    """
    if not held:
        return None
    before = motion.mechanism
    began, was_drawn = before.values(motion.poses[0]), before.values(before.resolved.poses)
    out = []
    for mechanism in variants:
        values = before.values(base)[:, held]
        drawn_on = before.values(mechanism.resolved.poses) - was_drawn
        for k, joint in enumerate(held):
            old, new = before.resolved.joints[joint], mechanism.resolved.joints[joint]
            is_rested = np.zeros(len(values), dtype=bool)
            if old.rest is not None and new.rest is not None:
                is_rested = np.abs(shown[:, joint] - old.rest) < RESTED
                values[is_rested, k] += new.rest - old.rest
            is_moved = np.abs(values[:, k] - began[joint]) > RESTED
            values[~is_rested & ~is_moved, k] += drawn_on[joint]
            values[~is_rested, k] += old.zero - new.zero
        out.append(values)
    return np.array(out)


def stage_values(mechanism: Mechanism, stage: int) -> tuple[Floats, Floats]:
    """Shown driver values (D,) at both ends of a stage."""
    program = mechanism.resolved.program
    values = np.array(program.starts)
    for k, each in enumerate(program.stages):
        start = values.copy()
        for driver, target in each.moves:
            values[driver] = target
        if k == stage:
            break
    return start, values


def _face_alike(one: Mechanism, other: Mechanism) -> bool:
    """Whether the same features can touch, whatever their sizes."""

    def shape(facing: Facing) -> tuple[object, ...]:
        pairs = facing.pairs
        return facing.bodies, pairs.first.kind.tobytes(), pairs.second.kind.tobytes()

    return len(one.facings) == len(other.facings) and all(
        shape(a) == shape(b)
        and np.array_equal(a.pairs.one, b.pairs.one)
        and np.array_equal(a.pairs.two, b.pairs.two)
        for a, b in zip(one.facings, other.facings, strict=True)
    )


def touches_again(
    mechanism: Mechanism, before: Mechanism, touches: tuple[Touch, ...]
) -> tuple[Touch, ...] | None:
    """The touches of a mechanism before, by the same features of this one; None if one rolls."""
    found = []
    for touch in touches:
        if touch.terms:
            return None
        again = next(
            (
                mechanism.facings[f].touch(pair)
                for f, facing in enumerate(before.facings)
                for pair in _pairs_at(facing, touch)
                if facing.touch(pair) == touch
            ),
            None,
        )
        if again is None:
            return None
        found.append(again)
    return tuple(found)


def _pairs_at(facing: Facing, touch: Touch) -> list[int]:
    """Pairs of a facing whose features are stated by the same points as a touch."""
    if {touch.first, touch.second} != set(facing.bodies):
        return []
    points = touch.first_point, touch.second_point
    if touch.first != facing.first_body:
        points = points[::-1]
    one = facing.pairs.first.point[facing.pairs.one] == points[0]
    two = facing.pairs.second.point[facing.pairs.two] == points[1]
    pairs: list[int] = np.flatnonzero((one & two).all(axis=1)).tolist()
    return pairs
