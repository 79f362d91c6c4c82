"""Certified clearance: nothing thin is missed, and the gap agrees with brute force."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from shapely import affinity

from anakinema.analysis.approaching import InPlane
from anakinema.analysis.clearance import TOLERANCE, smallest_gap
from anakinema.analysis.gap import Gap
from anakinema.analysis.rings import ring_bound
from anakinema.analysis.sample_bounds import most_approach, nearest_known
from anakinema.document import model as m
from anakinema.document.solids import SolidSlab
from anakinema.geometry.contour import Contour, path
from anakinema.geometry.distance import Question, distances, outline_span
from anakinema.geometry.poses import relative_poses, transform
from anakinema.geometry.region import Region
from anakinema.mechanism.slab_pairs import SlabPair, slab_pairs
from anakinema.motion.bounded import Bounded, with_bounds
from anakinema.motion.motion import Motion, States
from tests import mechanisms as build
from tests.conftest import share
from tests.strategies import contours, poses


def slab(outline: m.Outline, bottom: float = 0.0, top: float = 5.0, **more: object) -> m.Slab:
    return m.Slab(id=str(more.pop("id", "s")), bottom=bottom, top=top, outline=outline, **more)  # type: ignore[arg-type]


def box(width: float, height: float, x: float = 0.0, y: float = 0.0) -> m.Rectangle:
    return m.Rectangle(shape="rectangle", x=x, y=y, width=width, height=height)


def disc(radius: float, x: float = 0.0, y: float = 0.0) -> m.Circle:
    return m.Circle(shape="circle", x=x, y=y, radius=radius)


def blade_past(obstacle: m.Outline, at: tuple[float, float], count: int, **more: object):  # type: ignore[no-untyped-def]
    """A bar 100 long, 0.2 wide, turning once past a fixed obstacle."""
    base = m.Part(id="base", places=(m.Place(id="o"),))
    blade = m.Part(id="blade", places=(m.Place(id="o"),), slabs=(slab(box(100, 0.2, 50, 0)),))
    post = m.Part(id="post", places=(m.Place(id="o"),), slabs=(slab(obstacle, **more),))
    doc = build.document(
        [base, blade, post],
        [build.body("base", fixed=True), build.body("blade"), build.body("post", *at, fixed=True)],
        [build.joint("pivot", "revolute", "base.o", "blade.o")],
    )
    return build.driven(doc, ("pivot", 0.0, build.FULL_TURN), count=count)


def solid(region: Region) -> SolidSlab:
    return SolidSlab(id="s", bottom=0.0, top=1.0, region=region)


def paired(one: Contour, other: Contour, *, enclosed: bool) -> SlabPair:
    """Two outlines compared all over; ``enclosed``: being inside is no overlap."""
    first, second = (Region.build(contour, (), ()) for contour in (one, other))
    pair = np.ones((len(first.ring), len(second.ring)), dtype=bool)
    return SlabPair(0, 1, solid(first), solid(second), pair, enclosed)


def gap_of(motion: Motion, threshold: float | None = None, **more: object) -> Gap | None:
    items = list(slab_pairs(motion.mechanism.resolved))
    return smallest_gap(motion, items, InPlane(), threshold=threshold, **more)  # type: ignore[arg-type]


@pytest.mark.campaign
def test_thin_blade_hit_within_a_fraction_of_a_step_is_always_found() -> None:
    """200 placements (`make prove`): a blade 0.2 mm wide, an obstacle it meets for less than
    0.3 degrees of a 360 degree drive in steps of 2 degrees."""
    random = np.random.default_rng(5)
    total = share(200, 15)
    found = missed_by_samples = 0
    for _ in range(total):
        radius = float(random.uniform(60.0, 99.0))
        half = float(random.uniform(0.02, 0.10))
        angle = float(random.uniform(0.0, build.FULL_TURN))
        width = 2 * math.degrees(math.asin((half + 0.1) / radius))
        assert width < 0.4
        at = (radius * math.cos(angle), radius * math.sin(angle))
        motion = build.motion(blade_past(disc(half), at, count=180))
        gap, coarse = gap_of(motion, threshold=0.0), gap_of(motion, exact=False)
        assert gap is not None
        assert coarse is not None
        missed_by_samples += not coarse.overlaps
        if not gap.overlaps:
            continue
        found += 1
        hit = build.FULL_TURN * gap.progress - angle
        assert abs(float(build.wrap(hit))) <= math.asin((half + 0.1) / radius) + 1e-9
        (low, high) = gap.below[0]
        assert math.degrees((high - low) * build.FULL_TURN) == pytest.approx(width, abs=1e-3) or (
            len(gap.below) == 2  # the stretch runs over the start of the turn
        )
    print(f"thin blade: {found} of {total} found; samples alone would miss {missed_by_samples}")
    assert found == total
    assert missed_by_samples > total / 2


@pytest.mark.parametrize("seed", range(4))
def test_certified_gap_agrees_with_dense_brute_force(seed: int) -> None:
    random = np.random.default_rng(seed)
    a, b, c, d = 40, 120, 80, 100
    doc = build.four_bar(a, b, c, d, 0.4)
    x, y = (float(v) for v in random.uniform([150, 60], [200, 120]))
    parts = []
    for item in doc.parts:
        length = {"crank": a, "coupler": b, "rocker": c}.get(item.id)
        hull = length and m.Hull(
            shape="hull", rounds=(m.Round(x=0, radius=7), m.Round(x=length, radius=5))
        )
        parts.append(item.model_copy(update={"slabs": (slab(hull),) if hull else ()}))
    parts.append(m.Part(id="post", places=(m.Place(id="o"),), slabs=(slab(box(12, 9)),)))
    doc = doc.model_copy(
        update={
            "parts": tuple(parts),
            "bodies": (*doc.bodies, build.body("post", x, y, 0.3, fixed=True)),
        }
    )
    motion = build.motion(build.driven(doc, ("crank_pivot", 0.4, 0.4 + build.FULL_TURN), count=90))
    post = doc.bodies[-1]
    assert post.id == "post"
    items = [i for i in slab_pairs(motion.mechanism.resolved) if 4 in i.bodies]
    gap = smallest_gap(motion, items, InPlane(), tolerance=0.005)
    assert gap is not None
    assert gap.is_certified
    fine = motion.poses_at(np.linspace(0, 1, 20001))
    brute = min(
        float(
            distances(
                [
                    Question(
                        i.first.region,
                        i.second.region,
                        relative_poses(fine[:, i.first_body], fine[:, i.second_body]),
                    )
                ]
            )[0].distance.min()
        )
        for i in items
    )
    if gap.overlaps:
        assert brute == 0.0
    else:
        assert gap.least - 1e-9 <= brute
        assert gap.most - gap.least <= 0.005 + 1e-9
        assert abs(gap.most - brute) < 0.006


def test_stretch_below_a_threshold_has_exact_ends() -> None:
    """Bar past a round post: gap = distance of the post to the centre line, less both radii."""
    base = m.Part(id="base", places=(m.Place(id="o"),))
    hull = m.Hull(shape="hull", rounds=(m.Round(radius=6), m.Round(x=100, radius=6)))
    bar = m.Part(id="bar", places=(m.Place(id="o"),), slabs=(slab(hull),))
    post = m.Part(id="post", places=(m.Place(id="o"),), slabs=(slab(disc(5)),))
    doc = build.document(
        [base, bar, post],
        [build.body("base", fixed=True), build.body("bar"), build.body("post", 70, 40, fixed=True)],
        [build.joint("pivot", "revolute", "base.o", "bar.o")],
    )
    motion = build.motion(build.driven(doc, ("pivot", 0.0, math.pi), count=37))
    gap = gap_of(motion, threshold=3.0)
    assert gap is not None
    swing = math.asin((3.0 + 11.0) / math.hypot(70, 40))
    middle = math.atan2(40, 70)
    ends = np.array(gap.below[0]) * math.pi
    assert ends == pytest.approx([middle - swing, middle + swing], abs=1e-8)


def test_only_slabs_that_share_heights_are_compared() -> None:
    touching = blade_past(disc(3.0), (80.0, 0.0), 90, bottom=5.0, top=9.0)
    assert gap_of(build.motion(touching)) is None
    sharing = blade_past(disc(3.0), (80.0, 0.0), 90, bottom=4.999, top=9.0)
    gap = gap_of(build.motion(sharing))
    assert gap is not None
    assert gap.overlaps


def pin_in_hole(pieces: bool) -> m.Document:
    """A pin of exactly its hole's size, and a lug of the same body that hits the plate."""
    plate = m.Part(
        id="plate",
        places=(m.Place(id="o"),),
        slabs=(slab(box(60, 30), holes=(m.Hole(id="eye", outline=disc(5)),)),),
    )
    lever = m.Part(
        id="lever",
        places=(m.Place(id="o"),),
        slabs=(slab(disc(5), id="pin"), slab(box(4, 4, 28, 0), 5, 9, id="lug")),
    )
    link = build.joint("pivot", "revolute", "plate.o", "lever.o")
    if pieces:
        first = link.first.model_copy(update={"pieces": (m.OutlinePiece(slab="s", hole="eye"),)})
        second = link.second.model_copy(update={"pieces": (m.OutlinePiece(slab="pin"),)})
        link = link.model_copy(update={"first": first, "second": second})
    doc = build.document(
        [plate, lever], [build.body("plate", fixed=True), build.body("lever")], [link]
    )
    return build.driven(doc, ("pivot", 0.0, build.FULL_TURN), count=90)


def test_only_the_pieces_a_joint_names_are_exempt() -> None:
    named = build.motion(pin_in_hole(pieces=True))
    assert gap_of(named) is None
    unnamed = gap_of(build.motion(pin_in_hole(pieces=False)))
    assert unnamed is not None
    assert unnamed.most < 1e-9


def test_a_gap_that_stays_the_same_needs_few_evaluations() -> None:
    """A slide with constant play beside a wall: bounded across the play, not along it."""
    doc = build.crank_slider(30, 95, 0.0, 0.5)
    parts = []
    for item in doc.parts:
        slabs: tuple[m.Slab, ...] = ()
        if item.id == "slide":
            slabs = (slab(box(40, 20)),)
        if item.id == "base":
            slabs = (slab(box(200, 10, 95, 15.5)),)
        parts.append(item.model_copy(update={"slabs": slabs}))
    doc = doc.model_copy(update={"parts": tuple(parts)})
    motion = build.motion(build.driven(doc, ("crank_pivot", 0.5, 0.5 + build.FULL_TURN), count=180))
    gap = gap_of(motion)
    assert gap is not None
    assert (gap.least, gap.most) == pytest.approx((0.5, 0.5), abs=1e-6)
    assert gap.evaluations < 400


def test_next_to_a_singular_pose_the_answer_says_it_is_sampled() -> None:
    doc = build.parallel_cranks(40, 100, 0.3)
    parts = tuple(
        p.model_copy(update={"slabs": (slab(box(220, 6, 100, 0)),)}) if p.id == "bar" else p
        for p in doc.parts
    )
    post = m.Part(id="post", places=(m.Place(id="o"),), slabs=(slab(disc(4)),))
    doc = doc.model_copy(
        update={
            "parts": (*parts, post),
            "bodies": (*doc.bodies, build.body("post", 100, 60, fixed=True)),
        }
    )
    motion = build.motion(build.driven(doc, ("pivot0", 0.3, 0.3 + build.FULL_TURN)))
    gap = gap_of(motion)
    assert gap is not None
    assert not gap.is_certified
    centres = {round(2 * (0.3 / build.FULL_TURN + (a + b) / 2), 2) for a, b in gap.sampled}
    assert centres == {1.0, 2.0}
    assert gap.most == pytest.approx(60 - 4 - 3 - 40, abs=0.01)


@given(contours(), contours(), poses(4))
@hypothesis_settings(max_examples=80)
def test_exact_distances_agree_with_a_geometry_library(one, other, at) -> None:  # type: ignore[no-untyped-def]
    first, second = Region.build(one, (), ()), Region.build(other, (), ())
    found = distances([Question(first, second, at)])[0]
    for k, pose in enumerate(at):
        turned = affinity.rotate(second.polygon, pose[2], origin=(0, 0), use_radians=True)
        moved = affinity.translate(turned, pose[0], pose[1])
        assert shapely.distance(first.polygon, moved) == pytest.approx(
            found.distance[k], abs=0.0101
        )
        if found.distance[k] > 0:
            span = np.hypot(*(found.first_point[k] - found.second_point[k]))
            assert span == pytest.approx(found.distance[k], abs=1e-9)


@given(contours(), contours(), poses(1))
@hypothesis_settings(max_examples=40)
def test_distance_is_symmetric(one, other, at) -> None:  # type: ignore[no-untyped-def]
    first, second = Region.build(one, (), ()), Region.build(other, (), ())
    there = distances([Question(first, second, at)])[0].distance
    back_pose = relative_poses(at, np.zeros((1, 3)))
    back = distances([Question(second, first, back_pose)])[0].distance
    assert back == pytest.approx(there, abs=1e-8)
    shift = transform(np.zeros((1, 2)), at)[0, 0]
    assert shift == pytest.approx(at[0, :2])


QUARTER = np.array([[0.0, 1.0], [-1.0, 0.0]])
"""Turns rows by a quarter turn."""


@dataclass(frozen=True)
class Free:
    """Two free bodies whose speeds change within their bounds while progress goes from −0.2 to
    0.2: what is known of them in the middle, and poses all along."""

    states: Bounded
    along: np.ndarray
    time: np.ndarray
    reach = np.array([0.2])


def freely(seed: int, item: SlabPair, *, apart: float = 150.0) -> Free:
    """Of speed rate + more sin(9 t), so it changes by no more than more."""
    random = np.random.default_rng(seed)
    start = random.uniform(-1, 1, (1, 2, 3)) * np.array([apart, apart, 3])
    rate = random.uniform(-1, 1, (1, 2, 3)) * np.array([40, 40, random.choice([3.0, 0.01])])
    more = random.uniform(0, 0.5, (1, 2, 3)) * np.abs(rate)
    if random.random() < 0.7:
        # The middle of the second goes round with the first, and maybe all of it does.
        rate[0, 1, 2] = random.choice([rate[0, 0, 2], rate[0, 1, 2]])
        middle = transform(item.second.region.centre[None], start[:, 1])[0, 0]
        around_first, own = ((middle - start[0, k, :2]) @ QUARTER for k in (0, 1))
        rate[0, 1, :2] = rate[0, 0, :2] + rate[0, 0, 2] * around_first - rate[0, 1, 2] * own
        more *= random.choice([1.0, 0.01])
    nothing = np.zeros((1, 0))
    states = States(np.zeros(1), start, rate, rate, nothing, nothing, nothing, 0.0)
    time = np.linspace(-0.2, 0.2, 41)
    t = time[:, None, None]
    along = start + rate * t + more * (1 - np.cos(9 * t)) / 9
    return Free(with_bounds(states, np.abs(rate) + more), along, time)


@given(contours(), contours(), st.floats(-math.pi, math.pi), st.integers(0, 10_000))
def test_strips_and_speeds_hold_all_along(one, other, facing, seed) -> None:  # type: ignore[no-untyped-def]
    """A strip in any direction is below the gap, the best of all bounds too, and no gap closes
    faster than it can."""
    item = paired(one, other, enclosed=False)
    bodies = freely(seed, item)
    moves = InPlane().approaches([item], bodies.states, bodies.reach).closer(np.arange(1))
    move = moves.at(np.arange(1), np.arange(1))
    gaps = InPlane().seen([(item, bodies.along)])[0].distance
    direction = np.array([[math.cos(facing), math.sin(facing)]])
    assert float(move.strip(direction, bodies.reach)[0]) <= gaps.min() + 1e-9
    now = InPlane().seen([(item, bodies.states.poses)])[0]
    if now.distance[0] > 0:
        assert float(move.low(now.distance, now.facing, bodies.reach)[0]) <= gaps.min() + 1e-9
        assert (gaps >= now.distance - moves.speed[0] * np.abs(bodies.time) - 1e-9).all()


@given(st.integers(0, 10_000))
def test_samples_bound_what_is_around_them(seed: int) -> None:
    """A gap that falls no faster than told stays above what any sample that was seen says; samples
    whose speed has no bound say nothing, nor anything beyond them."""
    random = np.random.default_rng(seed)
    fine, coarse = 40, int(random.integers(2, 20))
    place = np.linspace(0.0, 1.0, fine * coarse + 1)
    slope = random.normal(size=(2, len(place) - 1)) * random.choice([0.1, 1.0, 5.0], (2, 1))
    gap = np.cumsum(np.append(np.ones((2, 1)), slope * np.diff(place), axis=1), axis=1)
    samples = np.arange(0, len(place), fine)
    reach = np.full(len(samples), fine * (place[1] - place[0]) / 2)
    near = np.abs(np.arange(len(place) - 1)[None] - (samples[:, None] - 0.5)) <= fine / 2
    speed = np.array([[np.abs(each[rows]).max() for rows in near] for each in slope])
    speed[random.random(speed.shape) < 0.05] = np.nan
    known = np.where(random.random(speed.shape) < 0.4, gap[:, samples], np.nan)
    low = most_approach(speed, known, place[samples], reach)
    around = np.abs(np.arange(len(place))[None] - samples[:, None]) <= fine // 2
    least = np.array([[each[rows].min() for rows in around] for each in gap])
    assert (low <= least + 1e-9).all()
    bounded = ~np.isnan(speed)
    assert (low[~bounded] == -np.inf).all()
    sound = (bounded.all(axis=1) & ~np.isnan(known).all(axis=1))[:, None]
    assert (np.isfinite(low) | ~sound).all()


@given(st.integers(0, 10_000))
def test_the_nearest_sample_seen_is_found(seed: int) -> None:
    random = np.random.default_rng(seed)
    known = random.random((3, int(random.integers(1, 40)))) < random.choice([0.05, 0.5])
    known[:, int(random.integers(known.shape[1]))] = True
    found = nearest_known(known)
    for seen, nearest in zip(known, found, strict=True):
        rows = np.flatnonzero(seen)
        for k, chosen in enumerate(nearest):
            assert chosen == rows[np.argmin(np.abs(rows - k))]


@given(contours(), contours(), st.integers(0, 10_000), st.booleans())
def test_rings_are_below_the_distance_of_the_outlines_all_along(one, other, seed, near) -> None:  # type: ignore[no-untyped-def]
    """Far apart, or one about the other."""
    item = paired(one, other, enclosed=True)
    bodies = freely(seed, item, apart=3.0 if near else 150.0)
    low = float(ring_bound(item, bodies.states, bodies.reach)[0])
    assert low <= InPlane().seen([(item, bodies.along)])[0].distance.min() + 1e-9


@given(contours(), st.floats(-80, 80), st.floats(-80, 80))
def test_nearest_and_farthest_point_of_an_outline(one, x, y) -> None:  # type: ignore[no-untyped-def]
    region = Region.build(one, (), ())
    near, far = outline_span(region, np.array([[x, y]]))
    point = shapely.Point(x, y)
    assert near[0] == pytest.approx(shapely.distance(region.polygon.boundary, point), abs=0.0101)
    corners = shapely.get_coordinates(region.polygon) - [x, y]
    assert far[0] == pytest.approx(np.hypot(*corners.T).max(), abs=0.0101)


def orbiting(around: float) -> m.Document:
    """A disc of 20 spins on an arm of 10 within a plate, in a round opening of 36 that stands
    still, or off its middle: where ``around`` is 0 the gap is 36 − 10 − 20 all the way round."""
    opening = m.Hole(id="hole", outline=disc(36.0, around, 0.0))
    plate = m.Part(
        id="plate", places=(m.Place(id="o"),), slabs=(slab(box(120, 120), holes=(opening,)),)
    )
    arm = m.Part(id="arm", places=(m.Place(id="o"), m.Place(id="tip", x=10.0)))
    wheel = m.Part(id="wheel", places=(m.Place(id="o"),), slabs=(slab(disc(20.0)),))
    doc = build.document(
        [plate, arm, wheel],
        [build.body("plate", fixed=True), build.body("arm"), build.body("wheel", 10.0, 0.0)],
        [
            build.joint("turn", "revolute", "plate.o", "arm.o"),
            build.joint("spin", "revolute", "arm.tip", "wheel.o"),
        ],
    )
    return build.driven(
        doc, ("turn", 0.0, build.FULL_TURN), ("spin", 0.0, 3 * build.FULL_TURN), count=90
    )


@pytest.mark.parametrize("around", [0.0, 2.5])
def test_a_gap_that_stays_the_same_all_round_costs_little(around: float) -> None:
    gap = gap_of(build.motion(orbiting(around)))
    assert gap is not None and gap.is_certified
    assert gap.least <= 6.0 - around <= gap.most + 1e-9
    assert gap.most - gap.least <= TOLERANCE + 1e-9
    # Without the rings it takes tens of thousands of measurements to be sure of.
    assert gap.evaluations < 1000


def test_hundreds_of_edges_are_measured_as_a_geometry_library_does() -> None:
    random = np.random.default_rng(11)
    for _ in range(20):
        rings = []
        for size in (90, 130):
            angle = np.sort(random.uniform(0, 2 * math.pi, size))
            radius = random.uniform(18, 22, size)
            rings.append(np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1))
        regions = [
            Region.build(path([(float(x), float(y), 0.0, 0.0) for x, y in ring]), (), ())
            for ring in rings
        ]
        at = random.uniform(-1, 1, (6, 3)) * np.array([90, 90, 3])
        found = distances([Question(regions[0], regions[1], at)])[0]
        for k in range(6):
            placed = transform(rings[1], at[k : k + 1])[0]
            wanted = shapely.distance(shapely.Polygon(rings[0]), shapely.Polygon(placed))
            assert found.distance[k] == pytest.approx(wanted, abs=1e-9)
