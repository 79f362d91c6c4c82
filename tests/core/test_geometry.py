"""Regions of many edges, points inside, flattening, and relative poses against a library."""

from __future__ import annotations

import math
from itertools import chain

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from shapely import affinity

from anakinema.geometry.contour import circle, hull, path
from anakinema.geometry.distance import Question, contains, distances
from anakinema.geometry.hiding import SLIVER, hidden_from_above
from anakinema.geometry.poses import relative_poses, transform
from anakinema.geometry.region import FEW, Region
from tests.strategies import contours, poses


def ragged(radius: float, corners: int, seed: int) -> Region:
    """A star-shaped outline of many straight edges."""
    random = np.random.default_rng(seed)
    reach = radius * random.uniform(0.6, 1.0, corners)
    turn = np.linspace(0, 2 * math.pi, corners + 1)[:-1]
    vertices = [
        (float(r * math.cos(a)), float(r * math.sin(a)), 0.0, 0.0)
        for r, a in zip(reach, turn, strict=True)
    ]
    return Region.build(path(vertices), (), ())


@pytest.mark.parametrize("seed", range(5))
def test_outlines_of_many_edges_are_measured_exactly(seed: int) -> None:
    """Runs of edges are ruled out together; none that is nearest may be among them."""
    one, other = ragged(30, 80 + 90 * seed, seed), ragged(22, 61, seed + 50)
    assert len(one.levels) == (2, 3, 3, 3, 4)[seed]
    assert len(other.levels) == 2
    random = np.random.default_rng(seed)
    at = np.column_stack(
        [random.uniform(-120, 120, (60, 2)), random.uniform(-math.pi, math.pi, 60)]
    )
    found = distances([Question(one, other, at)])[0]
    for k, (x, y, angle) in enumerate(at):
        turned = affinity.rotate(other.polygon, angle, origin=(0, 0), use_radians=True)
        expected = shapely.distance(one.polygon, affinity.translate(turned, x, y))
        assert found.distance[k] == pytest.approx(expected, abs=1e-7)


@pytest.mark.parametrize("seed", range(8))
def test_only_edges_that_count_are_measured(seed: int) -> None:
    """Of outlines of many straight edges, against all pairs that count one by one."""
    random = np.random.default_rng(seed)
    one, other = ragged(30, int(random.integers(5, 200)), seed), with_hole(seed)
    counts = np.outer(random.random(len(one.ring)) < 0.5, random.random(len(other.ring)) < 0.2)
    if seed % 2:
        counts = random.random(counts.shape) < (0.5, 0.02, 0.0005)[seed % 3]
    counts[random.integers(len(one.ring)), random.integers(len(other.ring))] = True
    at = np.column_stack([random.uniform(-60, 60, (30, 2)), random.uniform(-math.pi, math.pi, 30)])
    found = distances([Question(one, other, at, counts, test_inside=False)])[0]
    i, j = np.nonzero(counts)
    firsts = shapely.linestrings(np.stack([one.edges.start, one.edges.end], axis=1))
    begins, ends = transform(other.edges.start, at), transform(other.edges.end, at)
    for k in range(len(at)):
        seconds = shapely.linestrings(np.stack([begins[k], ends[k]], axis=1))
        least = shapely.distance(firsts[i], seconds[j]).min()
        assert found.distance[k] == pytest.approx(least, abs=1e-7)
        between = found.second_point[k] - found.first_point[k]
        assert np.hypot(*between) == pytest.approx(least, abs=1e-9)


def with_hole(seed: int) -> Region:
    """A ragged outline about a ragged hole, both of straight edges."""
    outer, inner = (ragged(radius, 70, seed).contours[0] for radius in (40, 12))
    return Region.build(outer, (inner,), ("h",))


def test_runs_of_edges_lie_in_their_circles() -> None:
    for region in (ragged(40, 397, 3), with_hole(4)):
        edges = region.edges
        runs = [[k] for k in range(len(region.reach))]
        for level in region.levels[1:]:
            parts = zip(level.first.tolist(), level.size.tolist(), strict=True)
            runs = [list(chain.from_iterable(runs[one : one + size])) for one, size in parts]
            assert sorted(chain.from_iterable(runs)) == list(range(len(region.reach)))
            for g, run in enumerate(runs):
                assert len(set(region.ring[run].tolist())) == 1
                assert level.edge[g] in run
                assert (level.middle[g] == region.middle[level.edge[g]]).all()
                ends = np.concatenate([edges.start[run], edges.end[run]])
                assert np.hypot(*(ends - level.middle[g]).T).max() <= level.reach[g] + 1e-9
        assert len(region.levels[-1].reach) <= FEW


def test_many_questions_at_once_give_the_same_as_one_by_one() -> None:
    random = np.random.default_rng(8)
    shapes = [ragged(20, 40, 1), Region.build(circle(3, 4, 6), (), ()), ragged(9, 30, 2)]
    asked = [
        Question(a, b, np.column_stack([random.uniform(-60, 60, (n, 2)), random.uniform(-3, 3, n)]))
        for a, b, n in zip(shapes, shapes[1:] + shapes[:1], (7, 1, 0), strict=True)
    ]
    together = distances(asked)
    for question, found in zip(asked, together, strict=True):
        assert len(found.distance) == len(question.poses)
        if len(question.poses):
            alone = distances([question])[0]
            assert (alone.distance == found.distance).all()
            assert (alone.first_point == found.first_point).all()


@given(
    contours(),
    st.lists(st.tuples(st.floats(-120, 120), st.floats(-120, 120)), min_size=1, max_size=20),
)
@hypothesis_settings(max_examples=80)
def test_points_inside_agree_with_the_library(outline, points) -> None:  # type: ignore[no-untyped-def]
    region = Region.build(outline, (), ())
    array = np.array(points)
    inside = contains(region, array)
    boundary = shapely.distance(region.polygon.exterior, shapely.points(array))
    expected = shapely.contains_xy(region.polygon, array[:, 0], array[:, 1])
    clear = boundary > 0.02
    assert (inside[clear] == expected[clear]).all()


def test_a_point_in_a_hole_is_not_in_the_material() -> None:
    plate = Region.build(hull([(0, 0, 20), (60, 0, 20)]), (circle(0, 0, 8),), ("eye",))
    points = np.array([[0.0, 0.0], [7.99, 0.0], [8.01, 0.0], [60.0, 0.0], [80.5, 0.0]])
    assert contains(plate, points).tolist() == [False, False, True, True, False]


@given(contours(), st.floats(0.001, 0.5))
@hypothesis_settings(max_examples=60)
def test_flattening_keeps_within_its_tolerance(outline, tolerance: float) -> None:  # type: ignore[no-untyped-def]
    flat = outline.polygon(tolerance)
    ring = shapely.LinearRing(flat)
    middles = shapely.points(outline.middles())
    assert shapely.distance(ring, middles).max() <= tolerance + 1e-9
    assert shapely.Polygon(flat).area <= outline.area() + 1e-6


@given(poses(3), poses(3))
@hypothesis_settings(max_examples=40)
def test_relative_poses_compose(first, second) -> None:  # type: ignore[no-untyped-def]
    points = np.array([[3.0, -2.0], [10.0, 40.0]])
    relative = relative_poses(first, second)
    through = np.stack(
        [
            transform(inner, first[k : k + 1])[0]
            for k, inner in enumerate(transform(points, relative))
        ]
    )
    assert through == pytest.approx(transform(points, second), abs=1e-9)


stacks = st.lists(
    st.tuples(
        st.floats(-6, 6), st.floats(-6, 6), st.floats(1, 12), st.sampled_from((0.0, 0.3, 0.7))
    ),
    min_size=1,
    max_size=6,
)


@given(stacks)
@hypothesis_settings(max_examples=50)
def test_only_what_lies_wholly_under_those_above_is_hidden(
    rings: list[tuple[float, float, float, float]],
) -> None:
    """Against points spread over each region, one by one."""
    stack = [
        Region.build(
            circle(x, y, r), (circle(x, y, share * r),) if share else (), ("h",) * (share > 0)
        )
        for x, y, r, share in rings
    ]
    hidden = hidden_from_above(stack)
    assert not hidden[-1]
    for k, region in enumerate(stack):
        low_x, low_y, high_x, high_y = region.polygon.bounds
        across, up = np.meshgrid(np.linspace(low_x, high_x, 30), np.linspace(low_y, high_y, 30))
        inside = shapely.points(across, up)[shapely.contains_xy(region.polygon, across, up)]
        off = np.full(len(inside), np.inf)
        for other in stack[k + 1 :]:
            off = np.minimum(off, shapely.distance(other.polygon, inside))
        if hidden[k]:
            assert off.max() <= 1.001 * SLIVER
        elif off.max() == 0.0:
            # Seen by less than lies between those points.
            bare = region.polygon.difference(
                shapely.unary_union([other.polygon for other in stack[k + 1 :]])
            )
            assert bare.area < 0.05 * region.polygon.area


def test_a_stack_is_hidden_by_what_is_the_same_or_by_two_together() -> None:
    disc, small = (Region.build(circle(0, 0, r), (), ()) for r in (10.0, 4.0))
    ring = Region.build(circle(0, 0, 10), (circle(0, 0, 3),), ("bore",))
    assert hidden_from_above([disc, disc, disc]) == (True, True, False)
    assert hidden_from_above([disc, ring]) == (False, False)
    assert hidden_from_above([disc, ring, small]) == (True, False, False)
    assert hidden_from_above([small, disc]) == (True, False)
    assert hidden_from_above([disc, Region.build(circle(0, 0, 9.9), (), ())]) == (False, False)
    assert hidden_from_above([]) == ()
