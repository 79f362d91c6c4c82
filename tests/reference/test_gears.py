"""Generated wheels: against tables, closed forms and the law of gearing itself."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Contour
from anakinema.geometry.gears import (
    Wheel,
    centre_distance,
    contact_ratio,
    form_radius,
    involute,
    rack_contour,
    undercut_limit,
    wheel_contour,
)
from tests.reference.values import Reference, reference


def polygon(contour: Contour) -> shapely.Polygon:
    found = shapely.Polygon(contour.polygon(0.0005))
    assert found.is_valid
    return found


@pytest.mark.parametrize(
    "name", ["gear pair 20/40", "gear pair 18/54", "gear pair 25/25", "gear pair 17/100"]
)
def test_sizes_and_contact_ratio_of_pairs(name: str) -> None:
    case = reference(name)
    m, z1, z2 = (case.inputs[k] for k in ("module", "first", "second"))
    one, two = Wheel(m, int(z1)), Wheel(m, int(z2))
    got = {
        "centres": centre_distance(one, two),
        "tip_1": 2 * one.tip_radius,
        "tip_2": 2 * two.tip_radius,
        "root_1": 2 * one.root_radius,
        "base_1": 2 * one.base_radius,
        "base_2": 2 * two.base_radius,
        "contact_ratio": contact_ratio(one, two, m * (z1 + z2) / 2),
    }
    for key, expected in case.expected.items():
        assert got[key] == pytest.approx(expected, abs=case.tolerance), key
    for wheel in (one, two):
        outline = wheel_contour(wheel, 3.0, -2.0, 0.4)
        away = np.hypot(*(outline.polygon(0.001) - (3.0, -2.0)).T)
        assert away.max() == pytest.approx(wheel.tip_radius, abs=1e-9)
        assert away.min() == pytest.approx(wheel.root_radius, abs=1e-3 * m)


def test_involute_function_undercut_and_shifted_pair() -> None:
    inv: Reference = reference("involute function")
    for degrees, expected in ((20, "inv_20"), (14.5, "inv_14_5"), (25, "inv_25")):
        assert involute(math.radians(degrees)) == pytest.approx(inv.expected[expected], abs=1e-10)
    limits = reference("undercut limit")
    for degrees, expected in ((20, "at_20"), (14.5, "at_14_5"), (25, "at_25")):
        found = undercut_limit(math.radians(degrees))
        assert found == pytest.approx(limits.expected[expected], abs=1e-6)
    assert Wheel(2, 17).is_undercut and not Wheel(2, 18).is_undercut
    case = reference("shifted pair 12/24")
    one, two = Wheel(3, 12, shift=0.6), Wheel(3, 24, shift=0.36)
    assert centre_distance(one, two) == pytest.approx(case.expected["centres"], abs=1e-6)


@pytest.mark.parametrize("teeth", [12, 17, 20, 45])
@pytest.mark.parametrize("shift", [0.0, 0.4])
def test_arcs_lie_on_the_involute(teeth: int, shift: float) -> None:
    wheel = Wheel(2.0, teeth, shift=shift)
    outline = wheel_contour(wheel, 0.0, 0.0, 0.0)
    middles = outline.middles()
    radius, angle = np.hypot(*middles.T), np.arctan2(middles[:, 1], middles[:, 0])
    step = 2 * math.pi / teeth
    off = np.abs((angle + step / 2) % step - step / 2)
    on = (radius > form_radius(wheel)) & (radius < wheel.tip_radius - 1e-6)
    assert on.sum() >= 4 * teeth
    exact = np.array([wheel.half_angle(r) for r in radius[on].tolist()])
    assert (np.abs(off[on] - exact) * radius[on]).max() < 1e-4 * wheel.module


@pytest.mark.parametrize(("first", "second"), [(20, 40), (18, 18), (10, 31), (45, 13)], ids=str)
def test_two_wheels_mesh_all_round_without_overlap(first: int, second: int) -> None:
    """The law of gearing: turned by their ratio, involute flanks touch and never overlap."""
    one, two = Wheel(2.0, first, backlash=0.02), Wheel(2.0, second, backlash=0.02)
    away = 2.0 * (first + second) / 2
    still, moving = polygon(wheel_contour(one, 0, 0, 0)), polygon(wheel_contour(two, 0, 0, 0))
    gaps = []
    for share in np.linspace(0.0, 1.0, 9):
        turn = share * 2 * math.pi / first
        mate = math.pi + math.pi / second - turn * first / second
        a = shapely.affinity.rotate(still, turn, (0, 0), use_radians=True)
        b = shapely.affinity.rotate(moving, mate, (0, 0), use_radians=True)
        b = shapely.affinity.translate(b, away, 0)
        interference = a.intersection(b).area
        assert interference < 2e-3, share
        gaps.append(a.distance(b))
    assert max(gaps) < 0.03


def test_a_ring_takes_its_pinion_and_a_rack_its_wheel() -> None:
    pinion, ring = Wheel(2.0, 20, backlash=0.02), Wheel(2.0, 50, internal=True, backlash=0.02)
    inside = polygon(wheel_contour(ring, 0, 0, 0))
    wheel = polygon(wheel_contour(pinion, 0, 0, 0))
    placed = shapely.affinity.translate(wheel, 2.0 * (50 - 20) / 2, 0)
    outside = placed.difference(inside).area
    assert outside < 0.02
    rack = polygon(rack_contour(2.0, 8, math.radians(20), 8.0, -3.5 * math.pi * 2, -20.0, 0.0))
    space = shapely.affinity.rotate(wheel, math.pi / 2, (0, 0), use_radians=True)
    assert space.intersection(rack).area < 0.02
    assert space.distance(rack) < 0.03
    assert rack.area == pytest.approx(8 * math.pi * 2 * (8.0 + (1 - 1.25) / 2 * 0 - 0.25), rel=0.02)


@pytest.mark.parametrize(
    ("wheel", "words"),
    [
        (Wheel(0.0, 20), "module is 0"),
        (Wheel(2.0, 3), "3 teeth is not made"),
        (Wheel(2.0, 20, pressure=0.9), "not used"),
        (Wheel(2.0, 8, shift=1.2), "come to a point"),
        (Wheel(-1.0, 20), "module is -1"),
    ],
)
def test_wheels_that_cannot_be_are_stated(wheel: Wheel, words: str) -> None:
    with pytest.raises(GeometryError, match=words):
        wheel_contour(wheel, 0, 0, 0)
    with pytest.raises(GeometryError, match="leaves nothing"):
        rack_contour(2.0, 5, math.radians(20), 2.0, 0, 0, 0)
