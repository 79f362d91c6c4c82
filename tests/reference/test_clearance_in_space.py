"""Clearance between planes: convex bodies against a least-squares solver, slabs with holes and
hollows against a solid library, bounds against dense looks at motions, blades that pass between
two steps."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import nnls
from scipy.spatial.transform import Rotation

from anakinema.analysis.comparing import Seen
from anakinema.analysis.in_space import InSpace
from anakinema.analysis.sample_bounds import circles_apart
from anakinema.document import model as m
from anakinema.document.planes import Link
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.geometry.apart import Between, apart
from anakinema.geometry.contour import ContourBuilder, Floats
from anakinema.geometry.convex import CHORD, Solid, round_rod, solid
from anakinema.geometry.region import Region
from anakinema.mechanism.space_pairs import Carried, SpacePair
from anakinema.motion.bounded import bounded_samples
from tests.conftest import share
from tests.ready import evaluated
from tests.reference.test_rods import ClosedForm, crossed

COARSE = 0.02
"""mm that chords of what is looked at often may stand off arcs."""
seeds = st.integers(0, 2**31)


def convex_region(random: np.random.Generator, corners: int, size: float) -> Region:
    angles = np.sort(random.uniform(0, 2 * math.pi, corners))
    while np.diff(np.append(angles, angles[0] + 2 * math.pi)).max() > 3.0:
        angles = np.sort(random.uniform(0, 2 * math.pi, corners))
    points = [(size * math.cos(a) + 3.0, size * math.sin(a)) for a in angles]
    outline = ContourBuilder()
    for one, two in zip(points, [*points[1:], points[0]], strict=True):
        outline.line(one, two)
    return Region.build(outline.close(), (), ())


def obround(length: float, radius: float) -> Region:
    outline = ContourBuilder()
    outline.line((0, -radius), (length, -radius))
    outline.arc((length, 0), radius, -math.pi / 2, math.pi)
    outline.line((length, radius), (0, radius))
    outline.arc((0, 0), radius, math.pi / 2, math.pi)
    return Region.build(outline.close(), (), ())


def bracket(random: np.random.Generator) -> Region:
    """An L with a hole and a hollow."""
    a, b, w = random.uniform(25, 45), random.uniform(20, 40), random.uniform(9, 14)
    outline, hole = ContourBuilder(), ContourBuilder()
    outline.line((0, 0), (a, 0))
    outline.line((a, 0), (a, w))
    outline.line((a, w), (w + 4, w))
    outline.arc((w + 4, w + 4), 4.0, -math.pi / 2, -math.pi / 2)
    outline.line((w, w + 4), (w, b))
    outline.line((w, b), (0, b))
    outline.line((0, b), (0, 0))
    hole.arc((w / 2, w / 2), w / 3, 0, 2 * math.pi)
    return Region.build(outline.close(), (hole.close(),), ("eye",))


def strewn(random: np.random.Generator, count: int, far: float) -> Floats:
    turned = Rotation.random(count, random_state=int(random.integers(1 << 30))).as_matrix()
    return np.concatenate([turned, random.normal(size=(count, 3, 1)) * far], axis=2)


def corners_of(region: Region, slab: Solid, chord: float) -> Floats:
    flat = region.contours[0].polygon(chord)
    return np.vstack([np.c_[flat, np.full(len(flat), z)] for z in (slab.bottom, slab.top)])


def least_squares_distance(one: Floats, two: Floats) -> float:
    """Nearest points of two hulls as a non-negative least-squares problem: no geometry in it."""
    heavy = 1e4
    rows = np.vstack(
        [
            np.hstack([one.T, -two.T]),
            heavy * np.r_[np.ones(len(one)), np.zeros(len(two))],
            heavy * np.r_[np.zeros(len(one)), np.ones(len(two))],
        ]
    )
    weights, _ = nnls(rows, np.r_[0.0, 0.0, 0.0, heavy, heavy], maxiter=20_000)
    a, b = weights[: len(one)], weights[len(one) :]
    return float(np.linalg.norm(one.T @ a / a.sum() - two.T @ b / b.sum()))


@given(seeds)
def test_convex_bodies_are_as_far_apart_as_least_squares_says(seed: int) -> None:
    random = np.random.default_rng(seed)
    one, two = (convex_region(random, int(random.integers(3, 9)), 20.0) for _ in range(2))
    first, second = solid(one, -2.0, 3.0), solid(two, 0.0, 12.0)
    places = strewn(random, 4, 40.0)
    found = apart([Between(first.wrap, second.wrap, places)])[0]
    for k, place in enumerate(places):
        there = corners_of(two, second, 1.0) @ place[:, :3].T + place[:, 3]
        wanted = least_squares_distance(corners_of(one, first, 1.0), there)
        assert found.distance[k] == pytest.approx(wanted, abs=1e-5)
        assert found.least[k] <= wanted + 1e-7
        assert found.distance[k] - found.least[k] < 1e-5


@given(seeds)
def test_round_walls_are_exact_and_not_chords(seed: int) -> None:
    """Against 2,000 chords a circle, which lie inside by less than 0.0001 mm."""
    random = np.random.default_rng(seed)
    region = obround(float(random.uniform(0, 40)), float(random.uniform(3, 12)))
    first = solid(region, 0.0, 5.0)
    second = solid(convex_region(random, 5, 15.0), -3.0, 3.0)
    place = strewn(random, 1, 45.0)
    found = apart([Between(first.wrap, second.wrap, place)])[0]
    there = corners_of(second.region, second, 1.0) @ place[0, :, :3].T + place[0, :, 3]
    wanted = least_squares_distance(corners_of(region, first, 1e-4), there)
    assert -2.2e-4 < found.distance[0] - wanted < 1e-5


@given(st.floats(5, 80), st.floats(0.5, 9), seeds)
def test_a_rod_is_a_segment_with_a_radius(length: float, radius: float, seed: int) -> None:
    random = np.random.default_rng(seed)
    place = strewn(random, 1, 50.0)
    found = apart([Between(round_rod(length, radius), round_rod(20.0, 1.0), place)])[0]
    t, s = np.meshgrid(np.linspace(0, length, 401), np.linspace(0, 20.0, 401))
    other = place[0, :, 3] + s[..., None] * place[0, :, 0]
    other[..., 0] -= t
    wanted = max(0.0, float(np.linalg.norm(other, axis=2).min()) - radius - 1.0)
    assert found.distance[0] == pytest.approx(wanted, abs=0.3)
    assert found.distance[0] <= wanted + 1e-6


def test_pieces_are_convex_share_nothing_and_are_the_slab() -> None:
    random = np.random.default_rng(5)
    for _ in range(6):
        region = bracket(random)
        covers = solid(region, 0.0, 4.0).covers()
        assert len(covers) == 2
        for cover, holes in zip(covers, ((), (1,)), strict=True):
            pieces = [shapely.Polygon(piece.points) for piece in cover]
            for piece in pieces:
                assert piece.convex_hull.area == pytest.approx(piece.area, rel=1e-9)
            whole = shapely.union_all(pieces)
            assert sum(p.area for p in pieces) == pytest.approx(whole.area, rel=1e-9)
            exact = region.contours[0].area() - sum(abs(region.contours[h].area()) for h in holes)
            assert whole.area == pytest.approx(exact, abs=CHORD * region.radius * 8)


def as_solid(slab: Solid, chord: float = 1e-3) -> manifold3d.Manifold:
    rings = [c.polygon(chord) for c in slab.region.contours]
    section = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)
    return manifold3d.Manifold.extrude(section, slab.top - slab.bottom).translate(
        [0.0, 0.0, slab.bottom]
    )


def seen_at(first: Solid, second: Solid, place: Floats) -> Seen:
    """What is seen of two slabs, the second at a place (3, 4) as the first sees it."""
    pair = SpacePair(0, 1, Carried(first, ()), Carried(second, (Link(0, place),)))
    return InSpace(evaluated("potting-boom").resolved).seen([(pair, np.zeros((1, 1, 3)))])[0]


@pytest.mark.campaign
@pytest.mark.parametrize("seed", range(share(12, 3)))
def test_slabs_with_holes_and_hollows_against_a_solid_library(seed: int) -> None:
    random = np.random.default_rng(seed)
    first, second = solid(bracket(random), 0.0, 6.0), solid(bracket(random), -2.0, 2.0)
    bodies = as_solid(first), as_solid(second)
    met = 0
    for place in strewn(random, share(40, 5), 22.0 if seed % 3 else 4.0):
        seen = seen_at(first, second, place)
        moved = bodies[1].transform(place)
        wanted = bodies[0].min_gap(moved, 200.0)
        shared = (bodies[0] ^ moved).volume()
        if shared > 0.5:
            assert seen.distance[0] == 0.0
            met += 1
        elif wanted > 0.01:
            assert seen.distance[0] == pytest.approx(wanted, abs=4e-3)
            assert seen.least[0] <= wanted + 1e-3
            ends = seen.second[0] - seen.first[0]
            assert np.linalg.norm(ends) == pytest.approx(seen.distance[0], abs=1e-6)
    assert met or seed % 3


# Motions ----------------------------------------------------------------------------------------


def scene(random: np.random.Generator, *, carried: bool, tilt: float | None = None) -> m.Document:
    """An arm that turns on the floor, and one that turns on a plane anyhow, which stands or is
    carried by a slower turntable."""

    def hull(*rounds: tuple[float, float, float]) -> m.Hull:
        return m.Hull(shape="hull", rounds=tuple(m.Round(x=x, y=y, radius=r) for x, y, r in rounds))

    def arm(name: str, length: float) -> m.Part:
        bar = m.Slab(id="bar", top=6.0, outline=hull((0, 0, 9), (length, 0, 5)))
        nose = m.Slab(
            id="nose", bottom=6.0, top=14.0, outline=hull((length - 8, 0, 4), (length, 3, 3))
        )
        return m.Part(id=name, places=(m.Place(id="eye"),), slabs=(bar, nose))

    post = m.Part(id="post", places=(m.Place(id="eye"),))
    turn, spin, lean = random.uniform(-180, 180, 3)
    lean = lean if tilt is None else tilt
    where = {k: float(v) for k, v in zip("xyz", random.uniform(-70, 70, 3), strict=True)}
    plane = m.Plane(
        id="second", name="second", **where, turn=f"{turn} deg", tilt=f"{lean} deg",
        spin=f"{spin} deg", on="table" if carried else None,
    )  # fmt: skip
    bodies = [
        m.Body(id="floor", part="post", fixed=True),
        m.Body(id="one", part="one"),
        m.Body(id="frame", part="post", fixed=True, plane="second"),
        m.Body(id="two", part="two", plane="second"),
    ]
    ties = [("a", "floor", "one"), ("b", "frame", "two")]
    if carried:
        bodies.append(m.Body(id="table", part="post", pose=m.Pose(x=40.0)))
        ties.append(("t", "floor", "table"))
    joints = tuple(
        m.Joint(
            id=name, kind="revolute",
            first=m.Side(body=low, place="eye"), second=m.Side(body=high, place="eye"),
        )
        for name, low, high in ties
    )  # fmt: skip
    ways = {"a": random.uniform(100, 300), "b": -random.uniform(90, 260), "t": 50.0}
    moves = tuple(m.Move(driver=name, to=f"{ways[name]} deg") for name, *_ in ties)
    return m.Document(
        planes=(m.Plane(), plane),
        parts=(post, arm("one", 60.0), arm("two", float(random.uniform(40, 80)))),
        bodies=tuple(bodies),
        joints=joints,
        program=m.Program(
            drivers=tuple(
                m.Driver(id=name, joint=name, start="0 deg", rate="10 rpm") for name, *_ in ties
            ),
            stages=(m.Stage(moves=moves, count=60),),
        ),
    )


def solid_of(evaluation: Evaluation, body: str) -> manifold3d.Manifold:
    """All slabs of a body, heights above its plane."""
    resolved = evaluation.resolved
    part = resolved.part_of(resolved.document.body(body))
    return sum(
        (as_solid(solid(s.region, s.bottom, s.top), COARSE) for s in part.slabs),
        manifold3d.Manifold(),
    )


def dense_gap(evaluation: Evaluation, count: int) -> float:
    """The smallest gap at many poses by a solid library, placed by turns written out here."""
    resolved, motion = evaluation.resolved, evaluation.motion
    index = {b.id: k for k, b in enumerate(resolved.document.bodies)}
    one, two = solid_of(evaluation, "one"), solid_of(evaluation, "two")
    best = math.inf
    for poses in motion.poses_at(np.linspace(0.0, motion.last, count)):
        frames = resolved.planes.frames(poses, resolved.heights)
        placed = []
        for body, name in ((one, "one"), (two, "two")):
            x, y, turn = poses[index[name]]
            c, s = math.cos(turn), math.sin(turn)
            own = np.array([[c, -s, 0, x], [s, c, 0, y], [0, 0, 1, 0], [0, 0, 0, 1.0]])
            placed.append(body.transform(frames[resolved.planes.of[index[name]]] @ own))
        if (placed[0] ^ placed[1]).volume() > 1e-6:
            return 0.0
        best = min(best, placed[0].min_gap(placed[1], 500.0))
    return best


@pytest.mark.campaign
@pytest.mark.parametrize("seed", range(share(40, 4)))
def test_certified_gaps_agree_with_dense_looks(seed: int) -> None:
    random = np.random.default_rng(seed)
    level = (0.0, 180.0) if seed % 5 == 0 else (None,)
    document = scene(random, carried=seed % 2 == 1, tilt=level[seed % len(level)])
    evaluation = evaluate(document)
    gap = evaluation.gaps.parts(frozenset())
    assert gap is not None and not gap.sampled
    seen = dense_gap(evaluation, share(600, 100))
    if gap.overlaps:
        # An overlap between two dense looks is real where the outlines share space at its pose.
        assert seen < 0.6
    else:
        assert gap.most - gap.least <= 0.005 + 2 * CHORD + 1e-6
        assert gap.least <= seen + COARSE
        assert seen <= gap.most + 0.5
        one, two = (np.array(p) for p in (gap.first_point, gap.second_point))
        assert np.linalg.norm(one - two) == pytest.approx(gap.most, abs=1e-6)


@pytest.mark.campaign
@pytest.mark.parametrize("seed", range(share(40, 3)))
def test_bounds_hold_between_the_samples(seed: int) -> None:
    """Within the reach of every sample no gap is below what the strip and the path allow."""
    random = np.random.default_rng(1000 + seed)
    evaluation = evaluate(scene(random, carried=seed % 2 == 0))
    motion, pairs = evaluation.motion, evaluation.gaps.compared.in_space
    means = InSpace(evaluation.resolved)
    rows = np.arange(1, len(motion.progress) - 1)
    reach = motion.reach[rows]
    moves = means.approaches(pairs, bounded_samples(motion).taken(rows), reach)
    all_rows = np.arange(len(rows))
    for which, pair in enumerate(pairs):
        move = moves.at(np.full(len(rows), which), all_rows)
        seen = means.seen([(pair, motion.poses[rows])])[0]
        low = move.low(seen.least, seen.facing, reach)
        for off in random.uniform(-1.0, 1.0, 6):
            there = means.seen([(pair, motion.poses_at(motion.progress[rows] + off * reach))])[0]
            assert (there.distance >= low - 1e-6).all()
            assert (there.distance >= circles_apart(moves, reach)[which] - 1e-6).all()


def blades(random: np.random.Generator) -> m.Document:
    """A thin blade that turns past a thin post of a plane at an angle, in steps of two degrees: at
    no step do the two touch, between two they do."""
    tilt = float(random.uniform(25, 155))
    reach, half = 99.5, 0.1
    step = math.radians(2.0)
    between = (float(random.integers(-10, 10)) + 0.5) * step
    normal = np.array([0.0, -math.sin(math.radians(tilt)), math.cos(math.radians(tilt))])
    at = reach * np.array([math.cos(between), math.sin(between), 0.0]) + [0, 0, 0.5]
    # The post stands across its plane: its middle is its place.
    blade = m.Part(
        id="blade", places=(m.Place(id="eye"),),
        slabs=(m.Slab(id="s", top=1.0, outline=m.Rectangle(
            shape="rectangle", x=50.0, y=0.0, width=100.0, height=2 * half)),),
    )  # fmt: skip
    post = m.Part(
        id="post", places=(m.Place(id="eye"),),
        slabs=(m.Slab(id="s", bottom=-6.0, top=6.0, outline=m.Circle(
            shape="circle", radius=0.15)),),
    )  # fmt: skip
    bare = m.Part(id="bare", places=(m.Place(id="eye"),))
    assert normal @ normal == pytest.approx(1.0)
    plane = m.Plane(
        id="second", name="second", x=float(at[0]), y=float(at[1]), z=float(at[2]),
        tilt=f"{tilt} deg",
    )  # fmt: skip
    return m.Document(
        planes=(m.Plane(), plane),
        parts=(bare, blade, post),
        bodies=(
            m.Body(id="floor", part="bare", fixed=True),
            m.Body(id="blade", part="blade"),
            m.Body(id="post", part="post", fixed=True, plane="second"),
        ),
        joints=(
            m.Joint(
                id="turn", kind="revolute", first=m.Side(body="floor", place="eye"),
                second=m.Side(body="blade", place="eye"),
            ),
        ),
        program=m.Program(
            drivers=(m.Driver(id="turn", joint="turn", start="-40 deg", rate="10 rpm"),),
            stages=(m.Stage(moves=(m.Move(driver="turn", to="40 deg"),), step="2 deg"),),
        ),
    )  # fmt: skip


@pytest.mark.campaign
def test_thin_blades_are_found_between_the_steps() -> None:
    missed, stepped_over = 0, 0
    for seed in range(share(200, 15)):
        evaluation = evaluate(blades(np.random.default_rng(seed)))
        gaps = evaluation.gaps
        (pair,) = gaps.compared.in_space
        at_steps = InSpace(evaluation.resolved).seen([(pair, evaluation.motion.poses)])[0]
        on_steps = np.abs(evaluation.motion.values[:, 0] / math.radians(2.0) % 1.0) < 1e-6
        stepped_over += bool((at_steps.distance[on_steps] > 0.0).all())
        gap = gaps.parts(frozenset())
        assert gap is not None
        missed += not gap.overlaps
    assert missed == 0
    assert stepped_over == share(200, 15)


def test_planes_that_stay_parallel_are_compared_as_outlines() -> None:
    """As far as the outlines are apart seen from above, and the heights: Pythagoras."""
    for tilt, seed in ((0.0, 3), (180.0, 4), (0.0, 5), (180.0, 6)):
        evaluation = evaluate(scene(np.random.default_rng(seed), carried=seed % 2 == 1, tilt=tilt))
        pairs = evaluation.gaps.compared.in_space
        assert pairs and all(pair.is_level for pair in pairs)
        poses = evaluation.motion.poses[::12]
        for pair in pairs:
            seen = InSpace(evaluation.resolved).seen([(pair, poses)])[0]
            one, two = pair.first.standing(poses), pair.second.standing(poses)
            for k in range(len(poses)):
                outlines, spans = [], []
                for place, slab in ((one[k], pair.first.solid), (two[k], pair.second.solid)):
                    ring = slab.region.contours[0].polygon(1e-4)
                    outlines.append(shapely.Polygon(ring @ place[:2, :2].T + place[:2, 3]))
                    ends = place[2, 3] + place[2, 2] * np.array([slab.bottom, slab.top])
                    spans.append((ends.min(), ends.max()))
                flat = outlines[0].distance(outlines[1])
                rise = max(spans[0][0] - spans[1][1], spans[1][0] - spans[0][1], 0.0)
                assert seen.distance[k] == pytest.approx(math.hypot(flat, rise), abs=3e-4)
                ends = np.linalg.norm(seen.second[k] - seen.first[k])
                assert ends == pytest.approx(seen.distance[k], abs=1e-6)


def test_the_boom_keeps_clear_of_itself_and_says_where_it_is_near() -> None:
    evaluation = evaluated("potting-boom")
    gap = evaluation.gaps.parts(frozenset())
    assert gap is not None and gap.is_certified
    names = [evaluation.document.bodies[k].id for k in (gap.first_body, gap.second_body)]
    # The pin of the pedestal ends 1 mm below the mast that turns above it.
    assert names == ["pedestal", "mast"]
    assert (gap.least, gap.most) == pytest.approx((1.0, 1.0), abs=1e-6)
    assert gap.first_point[2] == pytest.approx(11.0) and gap.second_point[2] == pytest.approx(12.0)


def test_what_is_fixed_on_a_carried_plane_is_one_piece_with_its_carrier() -> None:
    evaluation = evaluated("potting-boom")
    bodies = [b.id for b in evaluation.document.bodies]
    pairs = {
        frozenset(bodies[k] for k in pair.bodies) for pair in evaluation.gaps.compared.in_space
    }
    assert frozenset(("turntable", "mast")) not in pairs
    assert frozenset(("palm", "jib")) not in pairs
    assert frozenset(("pedestal", "mast")) in pairs and frozenset(("boom", "palm")) in pairs


# Rods -------------------------------------------------------------------------------------------


def rod_past_a_post(seed: int) -> m.Document:
    """A crank turns a rocker of another plane by a rod; a post stands somewhere near."""
    random = np.random.default_rng(seed)
    base = crossed(
        turned=tuple(random.uniform((-25, 65, -25), (25, 115, 25)).tolist()), thickness="8 mm"
    )
    post = m.Part(
        id="stake", places=(m.Place(id="eye"),),
        slabs=(m.Slab(id="s", top=float(random.uniform(10, 60)), outline=m.Circle(
            shape="circle", radius=float(random.uniform(1, 4)))),),
    )  # fmt: skip
    x, y = (float(v) for v in random.uniform((20, -30), (120, 60)))
    body = m.Body(id="stake", part="stake", fixed=True, pose=m.Pose(x=x, y=y))
    return base.model_copy(update={"parts": (*base.parts, post), "bodies": (*base.bodies, body)})


def dense_rod_gap(document: m.Document, evaluation: Evaluation, count: int) -> float:
    """The post as a cylinder and the rod as many points, placed by turns written out here."""
    form, motion = ClosedForm(document), evaluation.motion
    post = document.body("stake")
    slab = document.parts[-1].slabs[0]
    poses = motion.poses_at(np.linspace(0.0, motion.last, count))
    turn, swing = poses[:, 1, 2], poses[:, 3, 2]
    low = np.stack([np.cos(turn), np.sin(turn), np.zeros(count)], axis=1) * form.crank
    low[:, 2] = form.low
    high = np.stack([np.cos(swing), np.sin(swing), np.zeros(count)], axis=1) * form.rocker
    high[:, 2] = form.high
    high = high @ form.turned.T + form.at
    share = np.linspace(0.0, 1.0, 3001)[None, :, None]
    points = low[:, None] + share * (high - low)[:, None]
    off = np.hypot(points[..., 0] - float(post.pose.x), points[..., 1] - float(post.pose.y))
    off = np.maximum(off - float(slab.outline.radius), 0.0)
    rise = np.maximum(np.maximum(points[..., 2] - float(slab.top), -points[..., 2]), 0.0)
    return float(np.hypot(off, rise).min()) - 4.0


@pytest.mark.campaign
@pytest.mark.parametrize("seed", range(share(60, 2)))
def test_rods_keep_clear_of_bodies_as_dense_looks_say(seed: int) -> None:
    document = rod_past_a_post(seed)
    evaluation = evaluate(document)
    gap = evaluation.gaps.parts(frozenset())
    assert gap is not None and gap.is_certified
    assert gap.rod == 2
    seen = dense_rod_gap(document, evaluation, share(1000, 300))
    if gap.overlaps:
        assert seen < 0.2
    else:
        assert gap.most - gap.least <= 0.005 + 1e-6
        assert gap.least - 1e-6 <= seen <= gap.most + 0.2
    # It is the rod's gap, not that of what it ties.
    asked = evaluation.gaps.parts(frozenset((1, 4)))
    assert asked is None
