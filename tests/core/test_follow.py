"""Following a branch: campaigns over random four-bars, and the properties every motion has."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings

from anakinema.motion.bounded import bounded_samples
from anakinema.motion.branch_path import End
from anakinema.motion.motion import EventKind, Motion
from tests import mechanisms as build
from tests.conftest import share
from tests.strategies import grashof_free_four_bars

CLASSES = (
    "crank-rocker",
    "drag-link",
    "double-rocker",
    "rocker-crank",
    "triple-rocker",
    "change-point",
)


def random_lengths(kind: str, random: np.random.Generator) -> tuple[float, float, float, float]:
    """Lengths a (input), b, c, d of a Grashof class; change-point lengths are constructed."""
    while True:
        four = random.uniform(20.0, 150.0, 4)
        if kind == "change-point":
            four = np.round(four)
            s, longest, p = np.sort(four)[[0, 3, 1]]
            four = random.permutation([s, longest, p, s + longest - p])
            if np.min(four) <= 5 or np.ptp(four) < 1 or len(set(four)) < 4:
                continue
            return tuple(float(v) for v in four)  # type: ignore[return-value]
        a, b, c, d = (float(v) for v in four)
        ordered = sorted(four)
        grashof = ordered[0] + ordered[3] < ordered[1] + ordered[2]
        if ordered[3] >= sum(ordered[:3]):
            continue
        shortest = int(np.argmin(four))
        names = ("crank-rocker", "double-rocker", "rocker-crank", "drag-link")
        found = names[shortest] if grashof else "triple-rocker"
        if found == kind:
            return a, b, c, d


def closed_limits(a: float, b: float, c: float, d: float) -> list[float]:
    """Input angles (rad, above 0) at which coupler and rocker are in line; cosine rule."""
    limits = []
    for reach in (b + c, abs(b - c)):
        cosine = (a * a + d * d - reach * reach) / (2 * a * d)
        if -1.0 < cosine < 1.0:
            limits.append(math.acos(cosine))
    return limits


def rocker_side(motion: Motion, a: float, d: float) -> np.ndarray:
    """On which side of the line A to B0 the rocker pin lies: the sign that a flip would change."""
    theta, theta3 = motion.poses[:, 1, 2], motion.poses[:, 2, 2]
    ax, ay = a * np.cos(theta), a * np.sin(theta)
    return np.asarray((d - ax) * np.sin(theta3) + ay * np.cos(theta3))


@pytest.mark.campaign
@pytest.mark.parametrize("kind", CLASSES)
def test_random_four_bars_reach_their_full_range_without_a_flip(kind: str) -> None:
    """1,000 random four-bars in all (`make prove`): range ends by the closed form, residual,
    and no change of assembly except through a change point."""
    random = np.random.default_rng(CLASSES.index(kind))
    count = share(167, 8)
    done = 0
    worst = worst_end = 0.0
    while done < count:
        a, b, c, d = random_lengths(kind, random)
        theta = float(random.uniform(-math.pi, math.pi))
        span = math.sqrt(a * a + d * d - 2 * a * d * math.cos(theta))
        if not abs(b - c) * (1 + 1e-3) < span < (b + c) * (1 - 1e-3):
            continue
        done += 1
        doc = build.four_bar(a, b, c, d, theta, is_open=bool(random.integers(2)))
        limits = closed_limits(a, b, c, d)
        for sign in (1.0, -1.0):
            target = theta + sign * build.FULL_TURN
            motion = build.motion(build.driven(doc, ("crank_pivot", theta, target), count=90))
            worst = max(worst, motion.samples.residual / max(a, b, c, d))
            side = rocker_side(motion, a, d)
            crossings = [e for e in motion.events if e.kind is EventKind.CHANGE_POINT]
            if kind == "change-point":
                assert motion.end in (End.COMPLETE, End.DEAD_POINT), (a, b, c, d, theta)
            else:
                assert not crossings, (a, b, c, d, theta)
                inner = side[:-1]
                assert (inner > 0).all() or (inner < 0).all(), (a, b, c, d, theta)
            end = float(motion.values[-1, 0])
            if not limits:
                assert motion.end is End.COMPLETE, (a, b, c, d, theta, motion)
                continue
            assert motion.end is End.DEAD_POINT, (a, b, c, d, theta, motion)
            wrapped = abs(float(build.wrap(end)))
            error = min(abs(wrapped - limit) for limit in limits)
            worst_end = max(worst_end, error / build.FULL_TURN)
            assert error < 1e-9 * build.FULL_TURN, (a, b, c, d, theta, error)
    assert worst < 1e-10
    print(
        f"{kind}: {count} four-bars, residual {worst:.1e} of size, range ends {worst_end:.1e}"
        " of a turn"
    )


@pytest.mark.parametrize("third", [(0.0, 0.0), (13.0, 41.0)], ids=["in line", "off the line"])
@pytest.mark.parametrize("start", [0.0, 0.37, math.pi])
def test_three_cranks_turn_fully_with_one_freedom(third: tuple[float, float], start: float) -> None:
    doc = build.parallel_cranks(40, 100, start, third=third)
    motion = build.motion(
        build.driven(doc, ("pivot0", start, start + 2 * build.FULL_TURN), count=720)
    )
    assert motion.mobility.freedoms == 1
    assert motion.end is End.COMPLETE
    assert EventKind.DEAD_POINT not in {e.kind for e in motion.events}
    turns = motion.poses[:, 1:4, 2] - motion.poses[:1, 1:4, 2]
    assert np.abs(turns - turns[:, :1]).max() < 1e-7
    assert motion.samples.residual < 1e-10 * 40
    crossings = [e.progress for e in motion.events if e.kind is EventKind.CHANGE_POINT]
    if third == (0.0, 0.0):
        angles = [(start + p * 2 * build.FULL_TURN) / math.pi for p in crossings]
        assert np.abs(np.array(angles) - np.round(angles)).max() < 2e-9
        assert len(crossings) >= 4
    else:
        assert not crossings


def test_random_near_misses_of_a_change_point_keep_their_branch() -> None:
    """Grashof by a hair: the branches come within a whisker, and must not be mixed up."""
    for excess in (1e-2, 1e-4, 1e-6):
        doc = build.four_bar(40, 100, 40 + excess, 100, 1.0)
        motion = build.motion(build.driven(doc, ("crank_pivot", 1.0, 1.0 + build.FULL_TURN)))
        side = rocker_side(motion, 40, 100)
        assert motion.end in (End.COMPLETE, End.DEAD_POINT)
        assert (side[:-1] > 0).all() or (side[:-1] < 0).all()


@given(grashof_free_four_bars())
@hypothesis_settings(max_examples=25)
def test_there_and_back_returns_and_joints_stay_closed(case) -> None:  # type: ignore[no-untyped-def]
    a, b, c, d, theta = case
    doc = build.four_bar(a, b, c, d, theta)
    motion = build.motion(
        build.driven(doc, ("crank_pivot", theta, theta + 0.4), count=40, there_and_back=True)
    )
    if motion.end is End.COMPLETE:
        assert np.abs(motion.poses[-1] - motion.poses[0]).max() < 1e-8
    apart = motion.samples.residual
    assert apart < 1e-9


@given(grashof_free_four_bars())
@hypothesis_settings(max_examples=15)
def test_turning_and_moving_the_whole_changes_no_joint_value(case) -> None:  # type: ignore[no-untyped-def]
    a, b, c, d, theta = case
    doc = build.driven(build.four_bar(a, b, c, d, theta), ("crank_pivot", theta, theta + 1.0))
    one = build.motion(doc)
    other = build.motion(build.turned(doc, 0.7, 130.0, -55.0))
    assert one.end is other.end
    assert abs(one.last - other.last) < 1e-9
    assert np.abs(one.values[:-1] - other.values[:-1]).max() < 1e-7


def test_rates_are_those_of_the_motion() -> None:
    """First and second rates against differences of re-solved poses (a check, not the method)."""
    doc = build.driven(build.ten_bar(), ("pin_a1", 0.0, 0.5), count=50)
    motion = build.motion(doc)
    h = 1e-4
    at = np.array([0.21, 0.5, 0.77])
    ahead, here, behind = (motion.at(at + k * h) for k in (1, 0, -1))
    first = (ahead.poses - behind.poses) / (2 * h)
    second = (ahead.poses - 2 * here.poses + behind.poses) / h**2
    assert first == pytest.approx(here.first, abs=1e-4)
    assert second == pytest.approx(here.second, abs=1e-2)


@pytest.mark.parametrize("count", [30, 120])
def test_speed_bounds_hold_between_samples(count: int) -> None:
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.3),
        ("crank_pivot", 0.3, 0.3 + build.FULL_TURN),
        count=count,
    )
    motion = build.motion(doc)
    offsets = np.linspace(-1, 1, 41)
    most = bounded_samples(motion).speed_most
    for k in range(1, count, 7):
        bound, reach = most[k], motion.reach[k]
        if np.isnan(bound).any():
            continue
        near = motion.at(motion.progress[k] + offsets * reach)
        assert (np.abs(near.first) <= bound + 1e-9).all()
    share_proven = np.isfinite(most).all(axis=(1, 2)).mean()
    assert share_proven > (0.5 if count == 30 else 0.95)


def test_idle_body_stays_upright_and_never_stops_the_play() -> None:
    doc = build.driven(build.hung_weight(60), ("pivot", 0.0, build.FULL_TURN))
    motion = build.motion(doc)
    assert motion.end is End.COMPLETE
    assert np.abs(motion.poses[:, 2, 2]).max() < 1e-12
    (freedom,) = motion.mobility.undriven
    assert freedom.bodies == (2,)
    assert freedom.idle_spin


def test_undriven_freedom_that_would_stop_the_play_gives_way() -> None:
    """A five-bar with one crank driven: the other crank is held, until it would block."""
    doc = build.bars(
        {"A": (0, 0), "B": (60, 30), "C": (110, 110), "D": (190, 70), "E": (160, 0)},
        ["AB", "BC", "CD", "DE"],
        ["A", "E"],
    )
    start = math.atan2(30, 60)
    mechanism = build.mechanism(build.driven(doc, ("pin_a1", start, start + build.FULL_TURN)))
    motion = build.motion(mechanism.resolved.document)
    assert len(motion.mobility.undriven) == 1
    assert motion.end is End.COMPLETE
    assert len(motion.segments) > 1
    assert motion.samples.residual < 1e-9
    steps = np.linalg.norm(np.diff(motion.poses[:, :, :2], axis=0), axis=2)
    assert steps.max() < 20.0


def test_a_driver_on_a_locked_mechanism_is_blocked() -> None:
    doc = build.bars({"A": (0, 0), "B": (100, 0), "C": (40, 70)}, ["AC", "CB"], ["A", "B"])
    start = math.atan2(70, 40)
    motion = build.motion(build.driven(doc, ("pin_a1", start, start + 1.0)))
    assert motion.end is End.BLOCKED
    assert [e.kind for e in motion.events] == [EventKind.BLOCKED]


def test_two_drivers_together_and_in_sequence() -> None:
    doc = build.bars({"A": (0, 0), "B": (100, 0), "C": (180, 20)}, ["AB", "BC"], ["A"])
    motion = build.motion(
        build.driven(doc, ("pin_a1", 0.0, 1.0), ("pin_b1", math.atan2(20, 80), 2.0), count=20)
    )
    assert motion.end is End.COMPLETE
    assert motion.values[-1] == pytest.approx([1.0, 2.0], abs=1e-12)
    assert motion.values[10] == pytest.approx([0.5, (math.atan2(20, 80) + 2.0) / 2], abs=1e-12)


def test_angles_run_on_through_full_turns_and_below_zero() -> None:
    doc = build.four_bar(40, 120, 80, 100, 0.2)
    motion = build.motion(
        build.driven(doc, ("crank_pivot", 0.2, 0.2 - 3 * build.FULL_TURN), count=99)
    )
    assert motion.values[-1, 0] == pytest.approx(0.2 - 3 * build.FULL_TURN)
    assert np.abs(np.diff(motion.values[:, 0])).max() < 0.2
