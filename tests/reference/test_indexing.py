"""Sprockets, ratchets and Geneva wheels: their outlines against the numbers they are made to."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from anakinema.errors import GeometryError
from anakinema.geometry.contour import Contour
from anakinema.geometry.indexing import (
    crank_of,
    geneva_contour,
    locking_contour,
    ratchet_contour,
    sprocket_contour,
)
from anakinema.geometry.region import Region


def area(contour: Contour) -> shapely.Polygon:
    return Region.build(contour, (), ()).polygon


@pytest.mark.parametrize(("teeth", "diameter"), [(19, 77.1592795), (57, 230.541229)])
def test_rollers_sit_on_the_pitch_circle_of_a_sprocket(teeth: int, diameter: float) -> None:
    """Pitch 12.7: diameter p / sin(180/z) (handbooks); seats of 0.505 d hold rollers of 8.51."""
    wheel = area(sprocket_contour(teeth, 12.7, 8.51, 0.0, 0.0, 0.3))
    centres = [
        (
            diameter / 2 * math.cos(0.3 + 2 * math.pi * k / teeth),
            diameter / 2 * math.sin(0.3 + 2 * math.pi * k / teeth),
        )
        for k in range(teeth)
    ]
    assert math.dist(centres[0], centres[1]) == pytest.approx(12.7, rel=1e-7)
    for centre in centres:
        point = shapely.Point(centre)
        assert not wheel.contains(point)
        assert wheel.boundary.distance(point) == pytest.approx(0.505 * 8.51, abs=6e-3)
        roller = point.buffer(8.51 / 2, quad_segs=64)
        assert wheel.intersection(roller).area < 1e-6


def test_ratchet_teeth_rise_one_way_and_its_image_the_other() -> None:
    wheel, image = (area(ratchet_contour(12, 50, 40, 0.05, 0, 0, 0, flag)) for flag in (0, 1))
    assert wheel.bounds == pytest.approx((-50, -50, 50, 50), abs=1e-6)
    assert wheel.area == pytest.approx(image.area)
    mirrored = shapely.transform(wheel, lambda xy: xy * (1, -1))
    assert mirrored.symmetric_difference(image).area == pytest.approx(0.0, abs=1e-9)
    assert wheel.symmetric_difference(image).area > 100


@pytest.mark.parametrize("slots", [3, 4, 5, 6, 8])
def test_pin_of_a_geneva_crank_enters_and_leaves_along_a_slot(slots: int) -> None:
    """At 90 - 180/n degrees the crank stands square to the slot; the pin clears the wheel."""
    centres, pin, play = 60.0, 5.0, 0.2
    crank = crank_of(slots, centres)
    assert crank == pytest.approx(centres * math.sin(math.pi / slots))
    lock = (
        centres
        - centres * math.cos(math.pi / slots)
        + 0.35 * (crank - pin - centres + centres * math.cos(math.pi / slots))
    )
    entry = math.pi / 2 - math.pi / slots
    # Seen from the crank's shaft the wheel stands at (C, 0), a slot along the way to the pin.
    slot_angle = math.atan2(crank * math.sin(entry), crank * math.cos(entry) - centres)
    wheel = area(geneva_contour(slots, centres, pin + play, lock, centres, 0.0, slot_angle))
    for share in np.linspace(0.0, 1.0, 9):
        theta = entry * (1 - share)
        ratio = crank / centres
        beta = math.atan2(ratio * math.sin(theta), 1 - ratio * math.cos(theta))
        first = math.atan2(ratio * math.sin(entry), 1 - ratio * math.cos(entry))
        turned = shapely.affinity.rotate(wheel, first - beta, (centres, 0), use_radians=True)
        at = shapely.Point(crank * math.cos(theta), crank * math.sin(theta))
        assert turned.intersection(at.buffer(pin / 2, quad_segs=64)).area < 1e-3
    disc = area(locking_contour(slots, centres, lock, 0.1, 0.0, 0.0, math.pi))
    held = area(
        geneva_contour(slots, centres, pin + play, lock, centres, 0.0, math.pi + math.pi / slots)
    )
    assert held.intersection(disc).area < 1e-3
    assert held.distance(disc) == pytest.approx(0.1, abs=6e-3)


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: ratchet_contour(2, 50, 40, 0, 0, 0, 0, False), "2 teeth"),
        (lambda: ratchet_contour(12, 40, 50, 0, 0, 0, 0, False), "no height"),
        (lambda: ratchet_contour(12, 50, 40, 0.4, 0, 0, 0, False), "lean"),
        (lambda: geneva_contour(2, 60, 8, 30, 0, 0, 0), "2 slots"),
        (lambda: geneva_contour(4, 60, 8, 60, 0, 0, 0), "hollows"),
        (lambda: geneva_contour(4, 60, 90, 30, 0, 0, 0), "slots leave nothing"),
        (lambda: locking_contour(4, 60, 30, 40, 0, 0, 0), "locking disc"),
        (lambda: sprocket_contour(3, 12.7, 8.51, 0, 0, 0), "3 teeth"),
        (lambda: sprocket_contour(19, 12.7, 12.0, 0, 0, 0), "rollers"),
    ],
)
def test_wheels_that_cannot_be_are_refused_with_a_way_out(make, words: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(GeometryError, match=words) as found:
        make()
    assert found.value.remedy
