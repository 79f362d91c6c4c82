"""Contact against closed forms, published ratchet geometry, and brute force on polygons."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.errors import AnakinemaError
from anakinema.geometry.contour import Contour, path
from anakinema.geometry.distance import Question, distances
from anakinema.geometry.features import Pairs, features_of
from anakinema.geometry.region import Region
from anakinema.motion.branch_path import End
from anakinema.motion.motion import Event, EventKind, Motion
from tests import mechanisms as build
from tests.conftest import share
from tests.contacts import disc, ratchet, slab, solid, touch
from tests.strategies import contours, poses

FULL_TURN = 2 * math.pi
HAPPENED = (
    EventKind.STOP,
    EventKind.TOUCH,
    EventKind.RELEASE,
    EventKind.DROP,
    EventKind.TOOTH,
    EventKind.JAM,
)


def happened(motion: Motion) -> list[Event]:
    return [e for e in motion.events if e.kind in HAPPENED]


def value_at(motion: Motion, progress: float, joint: str) -> float:
    k = motion.mechanism.joint_index(joint)
    return float(motion.at(np.array([progress])).values[0, k])


# The features of outlines ---------------------------------------------------------------------


def bitten() -> Contour:
    """A plate with an inner corner and an arc cut out: what faces lies not on its hull."""
    corners: list[tuple[float, ...]] = [
        (-30, -20),
        (30, -20),
        (30, 0),
        (10, 0),
        (10, 20, -1.0),
        (-10, 20),
        (-30, 20),
    ]
    return path([(c[0], c[1], c[2] if len(c) > 2 else 0.0, 0.0) for c in corners])


@given(contours() | st.just(bitten()), contours(), poses(1))
def test_nearest_features_are_as_far_apart_as_the_outlines(
    one: Contour, two: Contour, pose: np.ndarray
) -> None:
    """Of the pairs that face each other the nearest has the distance of the whole outlines."""
    first, second = Region.build(one, (), ()), Region.build(two, (), ())
    whole = float(distances([Question(first, second, pose)])[0].distance[0])
    features = (features_of(r, np.ones(len(r.ring), dtype=bool)) for r in (first, second))
    gap, margin = Pairs.all_of(*features).gaps(pose)
    facing = (margin[0] >= -1e-9) & (gap[0] > -1e-9)
    if whole > 1e-6:
        assert gap[0][facing].min() == pytest.approx(whole, abs=1e-8)


# Ratchet and pawl -----------------------------------------------------------------------------


def test_pawl_rides_the_teeth_as_the_circle_and_line_say() -> None:
    """Pawl angle by intersecting the tip's circle with the flank; values recomputed by hand."""
    turns = [0.0, *(math.radians(-a) for a in (5, 10, 15, 20, 25))]
    motion = build.motion(ratchet(turns))
    expected = (0.667780136, -11.0371024, -9.87367054, -8.23355001, -6.04167273, -3.16050464)
    for k, angle in enumerate(expected):
        assert math.degrees(value_at(motion, k, "swing")) == pytest.approx(angle, abs=2e-6)


def test_tooth_passes_where_its_face_lies_along_the_way_of_the_pawl() -> None:
    """The tip rises to the tooth's tip (circle of the wheel with that of the pawl), slides down
    the radial face, and falls where that face lies along its way: T·(T − Q) = 0."""
    motion = build.motion(ratchet([0.0, math.radians(-10)]))
    swing = motion.mechanism.joint_index("swing")
    peak = next(
        e for e in motion.events if e.kind is EventKind.EXTREME and e.joint == swing and e.side > 0
    )
    assert -10 * peak.progress == pytest.approx(-2.23723352, abs=1e-6)
    assert peak.value is not None
    assert math.degrees(peak.value) == pytest.approx(2.81132544, abs=1e-5)
    drop = next(e for e in happened(motion) if e.kind is EventKind.TOOTH)
    qx, qy = -38.0, 48.0
    angle = math.atan2(-qy, -qx) + math.acos(40.0 / math.hypot(qx, qy))
    tip = math.atan2(qy + 40 * math.sin(angle), qx + 40 * math.cos(angle))
    face = math.degrees(tip) % 30 - 30
    assert -10 * drop.progress == pytest.approx(face, abs=1e-6)
    assert drop.value is not None
    landed = math.degrees(value_at(motion, drop.progress + 1e-9, "swing"))
    assert math.degrees(angle - drop.value) == pytest.approx(landed, abs=1e-5)


def polygon(part: m.Part) -> np.ndarray:
    outline = part.slabs[0].outline
    assert isinstance(outline, m.Path)
    return np.array([(v.x, v.y) for v in outline.vertices], dtype=float)


def placed(points: np.ndarray, angle: float, x: float = 0.0, y: float = 0.0) -> np.ndarray:
    c, s = math.cos(angle), math.sin(angle)
    return points @ np.array([[c, s], [-s, c]]) + (x, y)


def crosses(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether the edges of two polygons cross: the brute-force truth."""
    p, r = a[:, None], (np.roll(a, -1, axis=0) - a)[:, None]
    q, s = b[None], (np.roll(b, -1, axis=0) - b)[None]
    cross = r[..., 0] * s[..., 1] - r[..., 1] * s[..., 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((q - p)[..., 0] * s[..., 1] - (q - p)[..., 1] * s[..., 0]) / cross
        u = ((q - p)[..., 0] * r[..., 1] - (q - p)[..., 1] * r[..., 0]) / cross
    return bool(((t > 0) & (t < 1) & (u > 0) & (u < 1)).any())


def dropped_onto(
    wheel: np.ndarray, pawl: np.ndarray, turn: float, high: float, low: float
) -> float:
    """The angle at which a pawl lowered from above first meets the wheel, by bisection."""
    rim = placed(wheel, turn)
    angles = np.linspace(high, low, 60)
    hit = next((k for k, a in enumerate(angles) if crosses(rim, placed(pawl, a, -38, 48))), None)
    if hit is None:
        return low
    above, below = float(angles[hit - 1]), float(angles[hit])
    for _ in range(40):
        middle = (above + below) / 2
        if crosses(rim, placed(pawl, middle, -38, 48)):
            below = middle
        else:
            above = middle
    return above


@pytest.mark.campaign
@pytest.mark.parametrize("teeth", [12, 16, 20, 24])
def test_pawl_angle_is_that_of_brute_force(teeth: int) -> None:
    """500 angles each, the stretches of a fraction of a degree next to a drop left to the drop."""
    pitch = FULL_TURN / teeth
    tip, root = 50.0, 50.0 - 120.0 / teeth
    doc = ratchet([0.0, -3 * pitch], teeth=teeth, tip=tip, root=root)
    motion = build.motion(doc)
    assert motion.end is End.COMPLETE
    drops = np.array([e.progress for e in happened(motion) if e.kind is EventKind.TOOTH])
    assert len(drops) == 3
    assert np.diff(drops) == pytest.approx(1 / 3, abs=1e-9)
    wheel, pawl = (polygon(doc.part(name)) for name in ("wheel", "pawl"))
    progress = (np.arange(500) + 0.5) / 500
    progress = progress[np.abs(progress[:, None] - drops).min(axis=1) > 0.005]
    progress = progress[:: share(1, 10)]
    k = motion.mechanism.joint_index("swing")
    for p, angle in zip(progress, motion.at(progress).values[:, k], strict=True):
        true = dropped_onto(wheel, pawl, -3 * pitch * p, float(angle) + 0.02, float(angle) - 0.1)
        assert angle == pytest.approx(true, abs=1e-9)


def test_reversed_wheel_is_blocked_and_says_by_whom_and_after_how_much_play() -> None:
    """Forward until the pawl stands on a flank, then back until the radial face meets its tip."""
    motion = build.motion(ratchet([0.0, math.radians(-47), math.radians(0)]))
    assert motion.end is End.TOUCHED
    last = happened(motion)[-1]
    assert last.kind is EventKind.JAM
    assert last.bodies is not None
    titles = {motion.mechanism.resolved.document.bodies[b].id for b in last.bodies}
    assert titles == {"wheel", "pawl"}
    # The face passes the tip at -2.237 - 30 degrees going out: the blocked wheel stands there.
    turned = math.degrees(value_at(motion, motion.last, "spin"))
    assert turned == pytest.approx(-32.2372, abs=0.1)
    assert last.value is not None
    assert math.degrees(last.value) == pytest.approx(turned + 47, abs=1e-6)
    assert 0 < math.degrees(last.value) < 30


# Followers on given shapes ---------------------------------------------------------------------


def lifted(cam: m.Slab, follower: m.Slab, count: int = 72, turn: float = FULL_TURN) -> Motion:
    """A cam turned once under a follower that its own weight brings down along y."""
    doc = build.document(
        [
            build.part("frame", o=(0.0, 0.0), up=(0.0, 0.0, math.pi / 2)),
            solid("cam", cam, o=(0.0, 0.0)),
            solid("tappet", follower, p=(0.0, 0.0, math.pi / 2)),
        ],
        [build.body("frame", fixed=True), build.body("cam"), build.body("tappet", 0.0, 60.0)],
        [
            build.joint("spin", "revolute", "frame.o", "cam.o"),
            build.joint(
                "lift",
                "prismatic",
                "frame.up",
                "tappet.p",
                yields="gravity",
                limits=m.Limits(rest=0.0),
            ),
        ],
        contacts=(touch("push", "cam", "tappet"),),
    )
    return build.motion(build.driven(doc, ("spin", 0.0, turn), count=count))


def test_roller_on_an_eccentric_is_an_in_line_slider_crank() -> None:
    """Circle 30 at eccentricity 12, roller 8: y = e cos + sqrt((R + r)² - e² sin²)."""
    motion = lifted(disc(0.0, 12.0, 30.0), disc(0.0, 0.0, 8.0))
    turn = motion.progress * FULL_TURN
    y = 12 * np.cos(turn) + np.sqrt(38**2 - (12 * np.sin(turn)) ** 2)
    k = motion.mechanism.joint_index("lift")
    assert motion.end is End.COMPLETE
    assert motion.values[:, k] == pytest.approx(y, abs=1e-8)
    for degrees, height in ((60, 42.5513338), (90, 36.0555128), (180, 26.0)):
        assert value_at(motion, degrees / 360, "lift") == pytest.approx(height, abs=1e-6)
    # Rates by the chain rule of the same closed form.
    root = np.sqrt(38**2 - (12 * np.sin(turn)) ** 2)
    slope = -12 * np.sin(turn) - 144 * np.sin(turn) * np.cos(turn) / root
    assert motion.samples.value_first[:, k] == pytest.approx(slope * FULL_TURN, abs=1e-6)


def test_flat_face_on_an_eccentric_is_simple_harmonic() -> None:
    """y = R + e cos, stroke 24."""
    motion = lifted(disc(0.0, 12.0, 30.0), slab([(-20, 0), (20, 0), (20, 6), (-20, 6)]))
    k = motion.mechanism.joint_index("lift")
    turn = motion.progress * FULL_TURN
    assert motion.values[:, k] == pytest.approx(30 + 12 * np.cos(turn), abs=1e-9)
    assert motion.samples.value_second[:, k] == pytest.approx(
        -12 * np.cos(turn) * FULL_TURN**2, abs=1e-6
    )


def test_face_that_ends_before_the_touch_comes_down_to_the_next_thing() -> None:
    """A face 10 mm long on the eccentric above is too short: touch runs off it at e sin = 5."""
    motion = lifted(disc(0.0, 12.0, 30.0), slab([(-5, 0), (5, 0), (5, 6), (-5, 6)]))
    k = motion.mechanism.joint_index("lift")
    turn = motion.progress * FULL_TURN
    # Past the end the corner rides on the circle: x = ±5 on a circle around (e sin, e cos).
    x = np.clip(-12 * np.sin(turn), -5.0, 5.0)
    height = 12 * np.cos(turn) + np.sqrt(30**2 - (x + 12 * np.sin(turn)) ** 2)
    assert motion.end is End.COMPLETE
    assert motion.values[:, k] == pytest.approx(height, abs=1e-8)


@pytest.mark.parametrize("sides", [3, 4, 5, 6])
def test_polygon_under_a_flat_face_lifts_by_its_highest_corner(sides: int) -> None:
    """y = max over the corners of R cos(angle): the support function of a regular polygon."""
    corners = [FULL_TURN * k / sides + 0.1 for k in range(sides)]
    cam = slab([(20 * math.cos(a), 20 * math.sin(a)) for a in corners])
    motion = lifted(cam, slab([(-25, 0), (25, 0), (25, 6), (-25, 6)]), count=144)
    assert motion.end is End.COMPLETE
    turn = motion.progress[:, None] * FULL_TURN
    height = (20 * np.sin(turn + corners)).max(axis=1)
    k = motion.mechanism.joint_index("lift")
    assert motion.values[:, k] == pytest.approx(height, abs=1e-7)


def test_snail_drops_its_follower_and_says_how_far() -> None:
    """Two half circles meet in steps of 8 and 4 mm; the upright back of a blade leaves them.

    At the steps the circles' tops are upright over the shaft, so it lands at 16 and 20 mm.
    """
    snail = slab([(20, 0, 1.0), (-24, 0), (-16, 0, 1.0), (24, 0)])
    motion = lifted(snail, slab([(-3, 0), (0, 0), (0, 8), (-3, 8)]), turn=-FULL_TURN)
    drops = [e for e in happened(motion) if e.kind in (EventKind.DROP, EventKind.TOOTH)]
    assert motion.end is End.COMPLETE
    assert [e.progress for e in drops] == pytest.approx([0.25, 0.75], abs=1e-9)
    assert [e.value for e in drops] == pytest.approx([8.0, 4.0], abs=1e-6)
    for k, (high, low) in enumerate(((24.0, 16.0), (24.0, 20.0))):
        p = drops[k].progress
        assert value_at(motion, p - 1e-9, "lift") == pytest.approx(high, abs=1e-5)
        assert value_at(motion, p + 1e-9, "lift") == pytest.approx(low, abs=1e-5)


def test_snail_turned_the_wrong_way_blocks_its_follower() -> None:
    snail = slab([(20, 0, 1.0), (-24, 0), (-16, 0, 1.0), (24, 0)])
    motion = lifted(snail, slab([(-3, 0), (0, 0), (0, 8), (-3, 8)]))
    assert motion.end is End.TOUCHED
    assert happened(motion)[-1].kind is EventKind.JAM


def test_yielding_joint_without_rest_is_named() -> None:
    doc = ratchet([0.0, -0.1])
    bare = tuple(
        j.model_copy(update={"limits": m.Limits()}) if j.id == "swing" else j for j in doc.joints
    )
    with pytest.raises(AnakinemaError, match="swing.*rest"):
        build.motion(doc.model_copy(update={"joints": bare}))


# Kept in touch ----------------------------------------------------------------------------------


def test_wheel_rolls_round_a_fixed_one_as_the_gears_would() -> None:
    """Planet of radius 20 round a fixed sun of 30: it turns 1 + 30/20 times a turn of its arm."""
    doc = build.document(
        [
            solid("sun", disc(0, 0, 30), o=(0.0, 0.0)),
            build.part("arm", a=(0.0, 0.0), b=(50.0, 0.0)),
            solid("planet", disc(0, 0, 20), o=(0.0, 0.0)),
        ],
        [build.body("sun", fixed=True), build.body("arm"), build.body("planet", 50.0, 0.0)],
        [
            build.joint("turn", "revolute", "sun.o", "arm.a"),
            build.joint("spin", "revolute", "arm.b", "planet.o"),
        ],
        contacts=(touch("keep", "sun", "planet", rolling=True),),
    )
    motion = build.motion(build.driven(doc, ("turn", 0.0, FULL_TURN)))
    assert motion.mobility.freedoms == 1
    assert motion.poses[:, 2, 2] == pytest.approx(2.5 * motion.progress * FULL_TURN, abs=1e-9)


def rolling(floor: list[tuple[float, float]], travel: float) -> Motion:
    doc = build.document(
        [
            solid("floor", slab(floor), o=(0.0, 0.0)),
            build.part("cart", a=(0.0, -20.0), b=(0.0, 0.0)),
            solid("wheel", disc(0, 0, 20), o=(0.0, 0.0)),
        ],
        [
            build.body("floor", fixed=True),
            build.body("cart", 0.0, 20.0),
            build.body("wheel", 0.0, 20.0),
        ],
        [
            build.joint("push", "prismatic", "floor.o", "cart.a"),
            build.joint("axle", "revolute", "cart.b", "wheel.o"),
        ],
        contacts=(touch("keep", "floor", "wheel", rolling=True),),
    )
    return build.motion(build.driven(doc, ("push", 0.0, travel)))


def test_wheel_on_a_floor_turns_by_way_over_radius_until_the_floor_ends() -> None:
    """No slip: turn = -x / r. The touch is lost at the end of the real floor, and it says so."""
    motion = rolling([(-30, -8), (150, -8), (150, 0), (-30, 0)], 240.0)
    x = motion.progress * 240.0
    assert motion.poses[:, 2, 2] == pytest.approx(-x / 20.0, abs=1e-9)
    assert motion.end is End.TOUCHED
    last = happened(motion)[-1]
    assert last.kind is EventKind.RELEASE
    assert 240.0 * last.progress == pytest.approx(150.0, abs=1e-6)


# Stops ------------------------------------------------------------------------------------------


def capsule(length: float, half: float) -> m.Slab:
    return slab([(0, -half), (length, -half, 1.0), (length, half), (0, half, 1.0)])


def swung(arm: m.Slab, post: m.Slab, begin: float, travel: float, step: float) -> Motion:
    """An arm on a pivot turned by ``travel`` in steps, a fixed post in its way."""
    doc = build.document(
        [
            build.part("frame", o=(0.0, 0.0)),
            solid("arm", arm, o=(0.0, 0.0)),
            solid("post", post, o=(0.0, 0.0)),
        ],
        [
            build.body("frame", fixed=True),
            build.body("arm", angle=begin),
            build.body("post", fixed=True),
        ],
        [build.joint("pivot", "revolute", "frame.o", "arm.o")],
        contacts=(touch("stop", "arm"),),
    )
    count = max(1, round(abs(travel) / step))
    return build.motion(build.driven(doc, ("pivot", begin, begin + travel), count=count))


def test_bar_stops_at_the_post() -> None:
    """Bar of half-width 6 and a post of radius 5 at (70, 40): distance of a point to a segment."""
    motion = swung(capsule(100, 6), disc(70, 40, 5), 0.0, math.pi, math.radians(10))
    assert motion.end is End.TOUCHED
    assert math.degrees(value_at(motion, motion.last, "pivot")) == pytest.approx(
        21.9030886, abs=1e-6
    )
    last = happened(motion)[-1]
    assert (last.kind, last.joint) == (EventKind.STOP, 0)
    back = swung(capsule(100, 6), disc(70, 40, 5), math.pi, -math.pi, math.radians(10))
    assert math.degrees(value_at(back, back.last, "pivot")) == pytest.approx(37.586674, abs=1e-6)


def test_thin_blade_does_not_step_over_a_thin_post() -> None:
    """A window of 0.4 degrees that steps of 30 degrees never land in."""
    blade = slab([(0, -0.2), (100, -0.2), (100, 0.2), (0, 0.2)])
    motion = swung(blade, disc(0, 99.5, 0.15), 0.0, 1.9, math.radians(30))
    reached = math.degrees(value_at(motion, motion.last, "pivot"))
    assert reached == pytest.approx(90 - math.degrees(math.asin(0.35 / 99.5)), abs=1e-6)


def first_touch(length: float, half: float, wall: np.ndarray, begin: float) -> float:
    """How far a capsule from the origin turns left before it meets a thin rectangle (4, 2).

    Closed form: its side or its round end meets a corner, or its round end meets an edge.
    """
    angles = []
    for x, y in wall:
        rho, phi = math.hypot(x, y), math.atan2(y, x)
        if rho <= math.hypot(length, half):
            angles.append(phi - math.asin(half / rho))
        elif rho <= length + half:
            cosine = (length**2 + rho**2 - half**2) / (2 * length * rho)
            angles.append(phi - math.acos(cosine))
    for (ax, ay), (bx, by) in zip(wall, np.roll(wall, -1, axis=0), strict=True):
        long = math.hypot(bx - ax, by - ay)
        nx, ny = (by - ay) / long, (ax - bx) / long
        reach = (ax * nx + ay * ny + half) / length
        if abs(reach) > 1:
            continue
        for sign in (1.0, -1.0):
            angle = math.atan2(ny, nx) + sign * math.acos(reach)
            cx, cy = length * math.cos(angle), length * math.sin(angle)
            if 0 <= ((cx - ax) * (bx - ax) + (cy - ay) * (by - ay)) / long <= long:
                angles.append(angle)
    return min((a - begin) % FULL_TURN for a in angles)


@pytest.mark.campaign
def test_random_stops_and_thin_walls_are_never_passed_whatever_the_step() -> None:
    """1,000 arms against thin walls in steps of 0.1 to 30 degrees, each also in another step."""
    random = np.random.default_rng(11)
    worst, count = 0.0, share(1000, 20)
    for _ in range(count):
        length, half = random.uniform(40, 120), 10 ** random.uniform(-1, 0.9)
        middle = random.uniform(0.4, 1.0) * length
        across, along = 10 ** random.uniform(-2, 0.5), random.uniform(2, 12)
        lean, begin = random.uniform(0, math.pi), random.uniform(0, FULL_TURN)
        # Far enough ahead that the arm starts clear, and behind it after a full turn.
        ahead = random.uniform(0.8, 5.4)
        box = np.array([(-along, -across), (along, -across), (along, across), (-along, across)]) / 2
        centre = middle * math.cos(begin + ahead), middle * math.sin(begin + ahead)
        wall = placed(box, lean, *centre)
        true = first_touch(length, half, wall, begin)
        step = math.radians(10 ** random.uniform(-1, math.log10(30)))
        for each in (max(step, math.radians(1)), math.radians(30)):
            motion = swung(capsule(length, half), slab(wall.tolist()), begin, FULL_TURN, each)
            assert motion.end is End.TOUCHED, (length, half, wall, begin, each)
            turned = value_at(motion, motion.last, "pivot") - begin
            worst = max(worst, abs(turned - true))
    print(f"{count} stops: none passed, at most {worst / FULL_TURN:.1e} of the range off")
    assert worst < 1e-6 * FULL_TURN
