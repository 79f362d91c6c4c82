"""Cams: values recomputed from closed forms, and profiles followed through the general joints."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.errors import GeometryError
from anakinema.geometry.cams import Follower, cam_table, profile, smallest_base
from anakinema.geometry.fitting import as_arcs, as_cubics
from anakinema.geometry.lift import Lift, Segment, points_lift, segments_lift

DEG = math.pi / 180
ROLLER = Follower(radius=10.0)


def rise_and_back(height: float, degrees: float, law: str = "cycloidal") -> Lift:
    """A rise, a dwell of half of what is left, the mirrored return, a dwell."""
    rest = (360 - 2 * degrees) / 2
    return segments_lift(
        [
            Segment(degrees * DEG, height, law),
            Segment(rest * DEG, height),
            Segment(degrees * DEG, 0.0, law),
            Segment(rest * DEG, 0.0),
        ],
        5 * DEG,
    )


def largest(angles: np.ndarray, values: np.ndarray) -> tuple[float, float]:
    k = int(np.argmax(values))
    return float(values[k]), float(angles[k])


@pytest.mark.parametrize(
    ("offset", "most", "where", "middle"),
    [(0.0, 23.2330166, 41.93721, 22.9970077), (10.0, 14.7907491, 43.1117, None)],
)
def test_pressure_angle_of_a_roller(
    offset: float, most: float, where: float, middle: float | None
) -> None:
    """tan φ = (s' − e) / (s + √(Rp² − e²)); Rp = 50, cycloidal rise of 20 in 90 degrees."""
    table = cam_table(rise_and_back(20, 90), 40.0, Follower(radius=10.0, offset=offset), 36000)
    found, at = largest(table.angle[:9001], np.degrees(table.pressure[:9001]))
    assert found == pytest.approx(most, abs=1e-6)
    assert math.degrees(at) == pytest.approx(where, abs=6e-3)
    if middle is not None:
        assert math.degrees(table.pressure[4500]) == pytest.approx(middle, abs=1e-6)
    else:
        assert math.degrees(table.pressure[0]) == pytest.approx(-11.536959, abs=1e-6)


def test_curvature_of_the_pitch_curve() -> None:
    """κ = (R² + 2 s'² − s'' R) / (R² + s'²)^1.5 with R = Rp + s."""
    table = cam_table(rise_and_back(20, 90), 40.0, ROLLER, 36000)
    radius = table.radius[:9001] + 10.0
    assert float(radius.min()) == pytest.approx(39.4245621, rel=1e-6)
    assert math.degrees(table.angle[int(radius.argmin())]) == pytest.approx(65.93211, abs=6e-3)
    assert float(radius.max()) == pytest.approx(516.843369, rel=1e-4)
    assert float(radius[4500]) == pytest.approx(56.5489308, rel=1e-8)


def test_flat_face_least_base_and_reach() -> None:
    """ρ = Rb + s + s''; the touch runs ± s' along the face."""
    lift = rise_and_back(25, 120)
    table = cam_table(lift, 30.0, Follower(is_flat=True), 36000)
    assert float((table.radius - 30.0).min()) == pytest.approx(-13.3299935, rel=1e-6)
    assert float(np.abs(table.reach).max()) == pytest.approx(23.8732415, rel=1e-7)
    for radius in (0.0, 5.0):
        base = smallest_base(lift, Follower(is_flat=True), None, radius)
        assert base == pytest.approx(13.3299935 + radius, rel=1e-6)


def test_flat_face_on_a_harmonic_rise() -> None:
    """s + s'' = h/2 + (h/2)(n² − 1) cos nθ with n = 2: least −25 at the end of the rise."""
    lift = segments_lift(
        [Segment(90 * DEG, 25.0, "harmonic"), Segment(90 * DEG, 0.0, "harmonic")] * 2, 0.0
    )
    assert smallest_base(lift, Follower(is_flat=True), None, 0.0) == pytest.approx(25.0, rel=1e-9)


def test_smallest_base_for_a_pressure_angle_meets_it() -> None:
    """Without offset tan φ = s' / (Rp + s), so the base follows from the worst place."""
    lift = rise_and_back(20, 90)
    known = lift.at(np.linspace(0, 2 * math.pi, 3601))
    wanted = float((np.abs(known[:, 1]) / math.tan(20 * DEG) - known[:, 0]).max()) - 10.0
    assert smallest_base(lift, ROLLER, 20 * DEG, None) == pytest.approx(wanted, rel=1e-9)


@pytest.mark.parametrize(
    "follower",
    [
        ROLLER,
        Follower(radius=8.0, offset=9.0),
        Follower(is_flat=True),
        Follower(radius=8.0, is_swinging=True, arm=70.0, centres=80.0),
        Follower(is_flat=True, is_swinging=True, centres=80.0, offset=4.0),
    ],
)
def test_profile_touches_its_follower_at_every_angle(follower: Follower) -> None:
    """The follower placed by its lift alone is exactly its radius away from the profile."""
    height = 0.25 if follower.is_swinging else 12.0
    lift, base = rise_and_back(height, 100, "polynomial_345"), 42.0
    curve = profile(lift, base, follower)
    angle = np.linspace(0, 2 * math.pi, 97)[:-1]
    s = lift.at(angle)[:, 0]
    if follower.is_flat:
        tilt = np.full_like(s, math.pi / 2)
        far = base + s
        if follower.is_swinging:
            arm = math.pi - math.asin((base - follower.offset) / follower.centres) - s
            tilt = arm - math.pi / 2
            far = follower.centres * np.sin(arm) + follower.offset
        points, _ = curve.support(tilt - angle + math.pi)
        out = np.stack([np.cos(tilt - angle), np.sin(tilt - angle)], axis=1)
        assert np.sum(points * out, axis=1) == pytest.approx(far, abs=1e-9)
        return
    height = math.sqrt((base + follower.radius) ** 2 - follower.offset**2) + s
    centre = np.stack([np.full_like(s, follower.offset), height], axis=1)
    if follower.is_swinging:
        c, a, prime = follower.centres, follower.arm, base + follower.radius
        arm = math.pi - math.acos((c * c + a * a - prime * prime) / (2 * c * a)) - s
        centre = np.stack([c + a * np.cos(arm), a * np.sin(arm)], axis=1)
    (x, y), cos, sin = centre.T, np.cos(angle), np.sin(angle)
    turned = np.stack([cos * x + sin * y, cos * y - sin * x], axis=1)
    assert -curve.foot(turned).distance == pytest.approx(follower.radius, abs=1e-8)


def test_offset_and_envelope_know_their_length_and_curvature() -> None:
    """Arc length by summing chords, curvature by turning of the direction over arc length."""
    for follower in (ROLLER, Follower(is_flat=True)):
        curve = profile(rise_and_back(12, 100), 42.0, follower)
        s = np.linspace(0, curve.length, 20001)[:-1]
        points, foot = curve.at(s)
        chords = np.hypot(*(np.roll(points, -1, axis=0) - points).T)
        assert float(chords.sum()) == pytest.approx(curve.length, rel=1e-6)
        turning = np.gradient(np.unwrap(foot.direction), s)
        assert turning[2:-2] == pytest.approx(foot.curvature[2:-2], abs=2e-4)
        assert curve.foot(points[::97]).distance == pytest.approx(np.zeros(207), abs=1e-9)


def test_lift_through_points_passes_through_them() -> None:
    angles = np.linspace(0, 2 * math.pi, 13)[:-1]
    lifts = 6 - 6 * np.cos(angles)
    lift = points_lift(angles, lifts)
    assert lift.at(angles)[:, 0] == pytest.approx(lifts, abs=1e-9)
    fine = np.linspace(0, 2 * math.pi, 200)
    assert lift.at(fine)[:, 0] == pytest.approx(6 - 6 * np.cos(fine), abs=2e-3)


def test_constant_speed_is_constant_between_its_eases() -> None:
    lift = rise_and_back(18, 90, "constant")
    speed = lift.at(np.linspace(5.1, 84.9, 50) * DEG)[:, 1]
    assert speed == pytest.approx(18 / (85 * DEG), rel=1e-12)
    assert lift.at(np.array([90.0]) * DEG)[0, :2] == pytest.approx([18.0, 0.0], abs=1e-12)


@pytest.mark.parametrize(
    ("segments", "words"),
    [
        ([Segment(300 * DEG, 5.0)], "cover 300°"),
        ([Segment(200 * DEG, 5.0), Segment(200 * DEG, 0.0)], "cover 400°"),
        ([Segment(0.0, 5.0), Segment(2 * math.pi, 0.0)], "no turn"),
        ([], "cover 0°"),
    ],
)
def test_segments_that_do_not_fill_the_turn_are_refused(
    segments: list[Segment], words: str
) -> None:
    with pytest.raises(GeometryError, match=words):
        segments_lift(segments, 5 * DEG)


def test_undercut_is_refused_with_the_round_that_would_do() -> None:
    lift = rise_and_back(20, 40)
    with pytest.raises(GeometryError, match=r"undercut.*below"):
        profile(lift, 15.0, Follower(radius=12.0))
    with pytest.raises(GeometryError, match=r"flat face.*base radius above"):
        profile(rise_and_back(25, 120), 10.0, Follower(is_flat=True))
    with pytest.raises(GeometryError, match="base circle"):
        profile(lift, 5.0, Follower(radius=2.0, offset=20.0))


@pytest.mark.parametrize("follower", [ROLLER, Follower(is_flat=True)])
def test_outline_of_arcs_keeps_within_its_tolerance(follower: Follower) -> None:
    """Points of every arc are as near to the exact profile as was asked."""
    curve = profile(rise_and_back(12, 100), 42.0, follower)
    rows = as_arcs(curve, 1e-4)
    assert len(rows) < 400
    points = np.array(rows)
    for (x, y, bulge), (u, v) in zip(rows, np.roll(points[:, :2], -1, axis=0), strict=True):
        # The crown of the arc: half its chord times the bulge beside the middle.
        crown = np.array([[(x + u) / 2 + bulge * (v - y) / 2, (y + v) / 2 - bulge * (u - x) / 2]])
        assert abs(float(curve.foot(crown).distance[0])) < 1.5e-4


@pytest.mark.parametrize("follower", [ROLLER, Follower(is_flat=True)])
def test_cubics_of_a_profile_keep_within_their_tolerance(follower: Follower) -> None:
    """Many points of every cubic are as near to the exact profile as was asked."""
    curve = profile(rise_and_back(12, 100), 42.0, follower)
    cubics = as_cubics(curve, 1e-4)
    assert len(cubics) < 200
    u = np.linspace(0.0, 1.0, 9)
    weights = np.stack([(1 - u) ** 3, 3 * u * (1 - u) ** 2, 3 * u**2 * (1 - u), u**3])
    points = np.einsum("ku,nkd->nud", weights, cubics).reshape(-1, 2)
    assert float(np.abs(curve.foot(points).distance).max()) < 1.5e-4
