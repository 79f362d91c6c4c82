"""Events on a motion, located by root finding with re-solved poses, not by the step."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anakinema.document.joint_values import Bound
from anakinema.document.kinds import spec_of
from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices
from anakinema.motion.branch_path import End
from anakinema.motion.motion import Event, EventKind, Motion, States

LOCATED = 1e-12
"""Progress; a root is not refined further."""
SAME = 1e-9
"""Progress by which two change points are one."""
DIP = 0.5
"""Share of the rate at both ends of a step below which a dip between them is looked into."""
TINY = 0.05
"""Share of the larger of the two below which it is looked into all the same."""
MOST_LOOKS = 16
STILL = 1e-8
"""Share of the greatest rate that is no motion."""


@dataclass(frozen=True, slots=True, eq=False)
class Jets:
    """Values of some columns (N, C) and their first and second rates by progress."""

    value: Floats
    first: Floats
    second: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Turns:
    """Where columns are greatest (``side`` 1) or least (-1) for a moment, M of them, in (M,)."""

    progress: Floats
    column: Indices
    value: Floats
    side: Indices


def locate_events(motion: Motion) -> list[Event]:
    """Extremes of every joint value that no driver commands."""
    joints = np.array(
        [
            k
            for k in range(motion.values.shape[1])
            if k not in motion.driver_joints and _moves(motion, k)
        ],
        dtype=np.int64,
    )

    def jets(at: States) -> Jets:
        return Jets(at.values[:, joints], at.value_first[:, joints], at.value_second[:, joints])

    found = turning_points(motion, jets)
    rows = zip(found.progress, joints[found.column], found.value, found.side, strict=True)
    return [
        Event(EventKind.EXTREME, float(p), int(joint), float(value), int(side))
        for p, joint, value, side in rows
    ]


def turning_points(motion: Motion, jets: Callable[[States], Jets]) -> Turns:
    """Extremes of the columns that ``jets`` makes of states, wherever between two samples.

    Columns that never move have none.
    """
    at_samples = jets(motion.samples)
    rate, bend = at_samples.first, at_samples.second
    brackets: list[Bracket] = []
    same_stage = motion.stage_of(motion.progress[1:]) == motion.stage_of(motion.progress[:-1])
    dips: list[Bracket] = []
    stands: list[tuple[float, int, float, int]] = []
    for k in range(rate.shape[1]):
        with np.errstate(invalid="ignore"):
            # In a dwell the rate is nothing but noise, which turns no way.
            noise = STILL * float(np.nanmax(np.abs(rate[:, k]), initial=0.0))
            plain = np.where(np.abs(rate[:, k]) <= noise, 0.0, rate[:, k])
            turns = (plain[:-1] * plain[1:] < 0) & same_stage
            falls = plain[:-1] * bend[:-1, k] < 0
            rises = plain[1:] * bend[1:, k] > 0
            touch = falls & rises & (plain[:-1] * plain[1:] > 0) & same_stage
            still = (plain[1:-1] == 0) & (plain[:-2] * plain[2:] < 0)
        exact = np.flatnonzero(still) + 1
        for i in [*np.flatnonzero(turns), *exact, *np.flatnonzero(touch)]:
            low, high = (
                _Look(float(motion.progress[j]), float(plain[j]), float(bend[j, k]))
                for j in (i, i + 1)
            )
            (dips if touch[i] else brackets).append((k, low, high))
        stands += [
            (float(motion.progress[i]), k, float(at_samples.value[i, k]), side)
            for i, side in _stands(np.sign(plain), same_stage)
        ]
    brackets += _double_turns(motion, jets, dips)
    found = (
        _turns_between(motion, jets, brackets),
        _turns_at_the_ends(motion, at_samples),
        _as_turns(stands),
    )
    return Turns(
        np.concatenate([each.progress for each in found]),
        np.concatenate([each.column for each in found]),
        np.concatenate([each.value for each in found]),
        np.concatenate([each.side for each in found]),
    )


def _stands(way: Floats, same_stage: npt.NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The first samples at which a value comes to stand for longer than a moment before it turns
    back or the motion ends, and whether it is greatest (1) or least (-1) there.

    ``way`` (N,) is the sign of its rate, NaN where it has none. Where a stage ends a value stands
    as a matter of course.
    """
    moving = np.append(np.flatnonzero(way), len(way))
    found = []
    for k in np.flatnonzero(np.diff(moving) > 2).tolist():
        last, after = int(moving[k]), int(moving[k + 1])
        turns_back = after == len(way) or way[last] * way[after] < 0
        if turns_back and same_stage[last] and np.isfinite(way[last]):
            found.append((last + 1, int(way[last])))
    return found


def _turns_between(
    motion: Motion, jets: Callable[[States], Jets], brackets: list[Bracket]
) -> Turns:
    if not brackets:
        return _as_turns([])
    column = np.array([k for k, _, _ in brackets])
    lows, highs = [low for _, low, _ in brackets], [high for _, _, high in brackets]
    between = np.array([x.progress for x in lows]), np.array([x.progress for x in highs])
    rates = np.array([x.rate for x in lows]), np.array([x.rate for x in highs])
    rows = np.arange(len(column))

    def slope(p: Floats) -> tuple[Floats, Floats]:
        at = jets(motion.at(p))
        return at.first[rows, column], at.second[rows, column]

    p = find_roots(slope, between, rates)
    at = jets(motion.at(p))
    # At a kink the rate jumps through zero, so its sign before says more than the bend.
    before = np.where(rates[0] != 0.0, rates[0], -at.second[rows, column])
    side = np.where(before > 0, 1, -1)
    inside = np.minimum(p - motion.progress[0], motion.last - p) > SAME
    return Turns(p[inside], column[inside], at.value[rows, column][inside], side[inside])


def _turns_at_the_ends(motion: Motion, at: Jets) -> Turns:
    """Extremes right where the motion begins or ends: only rounding says which way a rate turns
    there, so a value that stands for that moment is one."""
    found = []
    for row in (0, -1):
        for k in range(at.value.shape[1]):
            rate, bend = at.first[:, k], at.second[:, k]
            most, bent = np.nanmax(np.abs(rate)), np.nanmax(np.abs(bend))
            stays = abs(rate[1 if row == 0 else -2]) <= STILL * most
            if abs(rate[row]) <= STILL * most and abs(bend[row]) > STILL * bent and not stays:
                side = 1 if bend[row] < 0 else -1
                found.append((float(motion.progress[row]), k, float(at.value[row, k]), side))
    return _as_turns(found)


def _as_turns(rows: list[tuple[float, int, float, int]]) -> Turns:
    return Turns(
        np.array([p for p, _, _, _ in rows]),
        np.array([k for _, k, _, _ in rows], dtype=np.int64),
        np.array([value for _, _, value, _ in rows]),
        np.array([side for _, _, _, side in rows], dtype=np.int64),
    )


@dataclass(frozen=True, slots=True)
class _Look:
    """Rate of a column and its derivative at a progress."""

    progress: float
    rate: float
    bend: float


Bracket = tuple[int, _Look, _Look]
"""A column, and two places between which its rate may be zero."""


def _double_turns(
    motion: Motion, jets: Callable[[States], Jets], dips: list[Bracket]
) -> list[Bracket]:
    """Pairs of extremes within one step: the rate dips to zero and recovers unseen.

    Every dip is looked into where a cubic through both ends has its lowest rate, until that is
    plainly above zero or on the other side of it.
    """
    found: list[Bracket] = []
    for _ in range(MOST_LOOKS):
        if not dips:
            break
        lowest = _lowest(dips)
        chosen = np.flatnonzero(np.isfinite(lowest)).tolist()
        if not chosen:
            break
        dips, places = [dips[k] for k in chosen], lowest[chosen].tolist()
        at = jets(motion.at(np.array(places)))
        halves: list[Bracket] = []
        for row, (k, low, high) in enumerate(dips):
            look = _Look(places[row], float(at.first[row, k]), float(at.second[row, k]))
            for one, other in ((low, look), (look, high)):
                if one.rate * other.rate < 0:
                    found.append((k, one, other))
                elif one.rate * one.bend < 0 < other.rate * other.bend:
                    halves.append((k, one, other))
        dips = halves
    return found


def _lowest(dips: list[Bracket]) -> Floats:
    """(D,) progress at which the cubic through both ends of each is nearest to zero; NaN if plainly
    above it."""
    ends = [
        np.array([[look.progress, look.rate, look.bend] for look in looks]).T
        for looks in ([low for _, low, _ in dips], [high for _, _, high in dips])
    ]
    (begin, a, bend_a), (end, b, bend_b) = (each[..., None] for each in ends)
    span, sign = end - begin, np.where(a > 0, 1.0, -1.0)
    a, b = sign * a, sign * b
    share = np.linspace(0.0, 1.0, 33)[1:-1]
    curve = (
        a * (1 + 2 * share) * (1 - share) ** 2
        + b * (3 - 2 * share) * share**2
        + span * sign * share * (1 - share) * (bend_a * (1 - share) - bend_b * share)
    )
    index = curve.argmin(axis=1)
    least = curve[np.arange(len(dips)), index]
    plain = np.maximum(DIP * np.minimum(a, b), TINY * np.maximum(a, b))[:, 0]
    place = begin[:, 0] + span[:, 0] * share[index]
    return np.where((span[:, 0] < 1e-9) | (least > plain), np.nan, place)


def _moves(motion: Motion, joint: int) -> bool:
    if not spec_of(motion.mechanism.resolved.document.joints[joint].kind).moves:
        return False
    size = 1.0 if motion.mechanism.angular[joint] else motion.mechanism.size
    return float(np.ptp(motion.values[:, joint])) > 1e-9 * size


Function = Callable[[Floats], tuple[Floats, Floats]]


def find_roots(
    function: Function, between: tuple[Floats, Floats], values: tuple[Floats, Floats]
) -> Floats:
    """Roots (N,) of functions that change sign between two places (N,) each.

    ``function`` gives values and derivatives of all N at once; ``values`` are those at the two
    places. Newton kept inside a shrinking bracket; where a value is not defined (singular pose)
    the bracket is halved.
    """
    low, high = between[0].copy(), between[1].copy()
    low_value = values[0]
    with np.errstate(divide="ignore", invalid="ignore"):
        p = low + (high - low) * low_value / (low_value - values[1])
    p = np.where(np.isfinite(p), np.clip(p, low, high), (low + high) / 2)
    done = np.zeros(len(p), dtype=bool)
    for _ in range(60):
        value, slope = function(p)
        with np.errstate(divide="ignore", invalid="ignore"):
            below = (value * low_value > 0) | ~np.isfinite(value)
            newton = p - value / slope
        low, high = np.where(below, p, low), np.where(below, high, p)
        done |= (np.abs(newton - p) < LOCATED) | (value == 0.0) | (high - low < LOCATED)
        if done.all():
            break
        inside = (newton > low - LOCATED) & (newton < high + LOCATED)
        p = np.where(done, p, np.where(inside, np.clip(newton, low, high), (low + high) / 2))
    return p


STOPPING = {EventKind.LIMIT: End.HELD, EventKind.SLOT_END: End.SLOT_END, EventKind.LEAVES: End.LEFT}
"""Why a motion ends where a joint comes to its bound."""
BOUND_KINDS: Mapping[Bound, EventKind] = {
    "limit": EventKind.LIMIT,
    "stop": EventKind.SLOT_END,
    "leaves": EventKind.LEAVES,
}


def stopped_at_limits(motion: Motion, *, run_past: bool) -> Motion:
    """Add events of limits and of guides that end; unless ``run_past``, the first ends the motion.

    An excursion beyond a limit between two samples is found at the located extremes.
    """
    events: list[Event] = []
    exits: list[Event] = []
    for k, values in enumerate(motion.mechanism.resolved.joints):
        for bound, side, by in (
            (values.least, -1, values.least_by),
            (values.greatest, 1, values.greatest_by),
        ):
            if bound is not None:
                events += _limit_events(motion, BOUND_KINDS[by], k, bound, side)
        for bound, side in values.exits:
            exits += _limit_events(motion, EventKind.LEAVES, k, bound, side)
    events.sort(key=lambda event: event.progress)
    merged = sorted((*motion.events, *events, *exits), key=lambda e: e.progress)
    if run_past or not events:
        return replace(motion, events=tuple(merged)) if merged else motion
    first = events[0]
    stopped = motion.until(first.progress, STOPPING[first.kind])
    kept = [e for e in merged if e.progress <= first.progress + LOCATED]
    return replace(stopped, events=tuple(kept))


def _limit_events(
    motion: Motion, kind: EventKind, joint: int, bound: float, side: int
) -> list[Event]:
    """Places where a joint leaves its permitted range at one of its bounds."""
    scale = 1.0 if motion.mechanism.angular[joint] else motion.mechanism.size
    noise = 1e-10 * scale
    extra, values = located(motion, joint)
    progress = np.concatenate([motion.progress, extra])
    beyond = side * (np.concatenate([motion.values[:, joint], values]) - bound)
    order = np.argsort(progress, kind="stable")
    progress, beyond = progress[order], beyond[order]
    leaves = np.flatnonzero((beyond[:-1] <= noise) & (beyond[1:] > noise))
    events = []
    if beyond[0] > noise:
        events.append(Event(kind, float(progress[0]), joint, bound, side))
    if len(leaves):

        def distance(p: Floats) -> tuple[Floats, Floats]:
            at = motion.at(p)
            return side * (at.values[:, joint] - bound), side * at.value_first[:, joint]

        inner = leaves[beyond[leaves] < 0]
        roots = dict(zip(leaves.tolist(), progress[leaves].tolist(), strict=True))
        if len(inner):
            found = find_roots(
                distance, (progress[inner], progress[inner + 1]), (beyond[inner], beyond[inner + 1])
            )
            roots.update(zip(inner.tolist(), found.tolist(), strict=True))
        events += [Event(kind, p, joint, bound, side) for p in roots.values()]
    return events


def locate_change_points(motion: Motion) -> list[Event]:
    """Change points that the branch passes straight through, each stated once with its loops."""
    found: list[Event] = []
    for segment in motion.segments:
        for point in (point for bridge in segment.branch_path.bridges for point in bridge.points):
            if not segment.first - SAME <= point.p <= segment.last + SAME:
                continue
            progress = segment.stage + min(max(point.p, segment.first), segment.last)
            if all(abs(progress - event.progress) > SAME for event in found):
                found.append(Event(EventKind.CHANGE_POINT, progress, loops=point.loops))
    return found


def located(motion: Motion, joint: int) -> tuple[Floats, Floats]:
    """Progress and value (shown) of a joint's located extremes, (M,) each."""
    found = [e for e in motion.events if e.kind is EventKind.EXTREME and e.joint == joint]
    return np.array([e.progress for e in found]), np.array([e.value for e in found], dtype=float)


def used_range(motion: Motion, joint: int) -> tuple[float, float, float, float]:
    """Least and greatest value a joint takes (shown), and the progress of each; exact."""
    places, extremes = located(motion, joint)
    values = np.append(motion.values[:, joint], extremes)
    progress = np.append(motion.progress, places)
    low, high = int(np.argmin(values)), int(np.argmax(values))
    return float(values[low]), float(values[high]), float(progress[low]), float(progress[high])
