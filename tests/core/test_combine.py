"""Adding, cutting and offsetting outlines, against closed forms and inclusion-exclusion."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.errors import GeometryError
from anakinema.geometry.combine import Combined, CombinedRing, combine, contour_of_corners, offset
from anakinema.geometry.contour import Contour, circle, hull, path, rectangle
from tests.strategies import contours


def area_of(pieces: tuple[Combined, ...]) -> float:
    """Exact area of all pieces less their openings."""

    def one(ring: CombinedRing) -> float:
        if ring.circle is not None:
            return math.pi * ring.circle[2] ** 2
        return contour_of_corners(ring.corners).area()

    return sum(one(p.outer) - sum(one(hole) for hole in p.holes) for p in pieces)


def bends(ring: CombinedRing) -> int:
    return sum(1 for _, _, bulge in ring.corners if bulge)


def test_two_circles_added_have_the_area_of_both_less_their_lens() -> None:
    r, s, d = 10.0, 7.0, 12.0
    # The lens of two circles: E. W. Weisstein, "Circle-Circle Intersection", MathWorld, eq. 14.
    lens = (
        s * s * math.acos((d * d + s * s - r * r) / (2 * d * s))
        + r * r * math.acos((d * d + r * r - s * s) / (2 * d * r))
        - 0.5 * math.sqrt((-d + s + r) * (d + s - r) * (d - s + r) * (d + s + r))
    )
    shapes = [(circle(3, 4, r),), (circle(3 + d, 4, s),)]
    added, cut = combine(shapes, "added"), combine(shapes, "cut")
    assert area_of(added) == pytest.approx(math.pi * (r * r + s * s) - lens, rel=1e-12)
    assert area_of(cut) == pytest.approx(math.pi * r * r - lens, rel=1e-12)
    assert len(added[0].outer.corners) <= 4 and bends(added[0].outer) == len(added[0].outer.corners)


def test_a_hole_is_cut_and_what_is_not_touched_is_known() -> None:
    plate = (rectangle(0, 0, 60, 40, 5, 0), circle(-20, 0, 4))
    (piece,) = combine([plate, (circle(10, 2, 6),)], "cut")
    assert piece.outer.unchanged == (0, 0)
    assert {hole.unchanged for hole in piece.holes} == {(0, 1), (1, 0)}
    new = next(hole for hole in piece.holes if hole.unchanged == (1, 0))
    assert new.circle == pytest.approx((10, 2, 6))
    halves = combine([plate, (rectangle(0, 0, 10, 80, 0, 0),)], "cut")
    assert len(halves) == 2
    assert area_of(halves) == pytest.approx(60 * 40 - (4 - math.pi) * 25 - 400 - math.pi * 16)
    with pytest.raises(GeometryError, match="nothing is left"):
        combine([plate, (rectangle(0, 0, 90, 90, 0, 0),)], "cut")


def test_a_lug_is_added_smoothly_to_a_bar() -> None:
    """A round end of the bar's own width touches its sides: no splinters at the touch."""
    bar, eye = rectangle(0, 0, 60, 16, 0, 0), circle(30, 0, 8)
    (piece,) = combine([(bar,), (eye,)], "added")
    assert bends(piece.outer) == 1 and len(piece.outer.corners) == 4
    assert area_of((piece,)) == pytest.approx(60 * 16 + math.pi * 32, rel=1e-9)


@pytest.mark.parametrize("distance", [0.3, 2.0, 9.0])
def test_a_parallel_outline_obeys_steiner(distance: float) -> None:
    """Area of the outer parallel of a convex shape: A + P d + pi d² (J. Steiner, 1840)."""
    rectangle_ = offset(rectangle(3, 1, 30, 20, 0, 0.3), distance)
    assert area_of(rectangle_) == pytest.approx(600 + 100 * distance + math.pi * distance**2)
    assert len(rectangle_[0].outer.corners) == 8 and bends(rectangle_[0].outer) == 4
    link = offset(hull([(0, 0, 8), (70, 0, 5)]), distance)
    wanted = hull([(0, 0, 8 + distance), (70, 0, 5 + distance)])
    assert area_of(link) == pytest.approx(wanted.area(), rel=1e-9)
    assert len(link[0].outer.corners) == 4


def test_a_parallel_outline_inwards() -> None:
    inner = offset(rectangle(0, 0, 30, 20, 4, 0), -3)
    assert area_of(inner) == pytest.approx(rectangle(0, 0, 24, 14, 1, 0).area(), rel=1e-9)
    (ring,) = offset(circle(5, 5, 12), -4)
    assert ring.outer.circle == pytest.approx((5, 5, 8))
    waist = path(
        [
            (-30, -10, 0, 0),
            (0, -2, 0, 0),
            (30, -10, 0, 0),
            (30, 10, 0, 0),
            (0, 2, 0, 0),
            (-30, 10, 0, 0),
        ]
    )
    assert len(offset(waist, -3)) == 2
    with pytest.raises(GeometryError, match="nothing is left"):
        offset(rectangle(0, 0, 30, 20, 0, 0), -10.5)


def test_a_notched_outline_outwards_keeps_its_inner_corner() -> None:
    """An L of 40 x 40 with arms of 10: five convex corners, one hollow one that stays sharp."""
    ell = path(
        [(0, 0, 0, 0), (40, 0, 0, 0), (40, 10, 0, 0), (10, 10, 0, 0), (10, 40, 0, 0), (0, 40, 0, 0)]
    )
    d = 3.0
    wanted = 700 + 160 * d + 5 * math.pi * d * d / 4 - d * d
    assert area_of(offset(ell, d)) == pytest.approx(wanted, rel=1e-9)


@given(contours(), contours())
@hypothesis_settings(max_examples=120, deadline=None)
def test_adding_and_cutting_share_out_the_area(one: Contour, two: Contour) -> None:
    """A + B = (A added B) + (A less (A less B)); each exactly, to the fineness of splinters."""
    added = area_of(combine([(one,), (two,)], "added"))
    try:
        less = area_of(combine([(one,), (two,)], "cut"))
    except GeometryError:
        less = 0.0
    try:
        other = area_of(combine([(two,), (one,)], "cut"))
    except GeometryError:
        other = 0.0
    whole = one.area() + two.area()
    assert added * 2 == pytest.approx(whole + less + other, rel=1e-6, abs=0.02)
    fine = shapely.Polygon(one.polygon(1e-4)).union(shapely.Polygon(two.polygon(1e-4)))
    assert added == pytest.approx(fine.area, rel=1e-4, abs=0.05)


@given(contours(), st.floats(0.5, 8.0))
@hypothesis_settings(max_examples=40, deadline=None)
def test_every_point_of_a_parallel_is_as_far_as_it_says(shape: Contour, distance: float) -> None:
    for reach in (distance, -distance):
        try:
            pieces = offset(shape, reach)
        except GeometryError:
            continue
        rim = shapely.LinearRing(shape.polygon(1e-4))
        for piece in pieces:
            ring = piece.outer
            made = circle(*ring.circle) if ring.circle else contour_of_corners(ring.corners)
            points = shapely.points(made.polygon(0.01))
            away = np.asarray(shapely.distance(points, rim))
            assert away == pytest.approx(np.full(len(away), distance), abs=1e-2)
