"""Depth against numbers that share no code with it: pixels of corners by a projection written out
here, rays followed in small steps, areas and volumes by formulas, pictures against one another."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from anakinema.depth import (
    LEVEL,
    Camera,
    Look,
    Meshes,
    Picture,
    Plane,
    Renderer,
    Spot,
    Targets,
    apart,
    caps_of,
    cut_area,
    placed_slabs,
    shared_space,
    swept_sheet,
)
from anakinema.depth.camera import WIDE
from anakinema.document import model as m
from anakinema.document.resolve import Resolved, resolve
from anakinema.record.bodies_in_space import mesh_of
from tests.conftest import share
from tests.ready import evaluated

SIZE = 420, 320
DEMOS = ("plug-press", "tip-out-carrier", "transfer-arm", "geneva-feeder")


@pytest.fixture(scope="module")
def renderer() -> Renderer:
    return Renderer()


def plates(*boxes: tuple[float, float, float, float, float, float]) -> Resolved:
    """A body for each box: x, y of its middle, width, height, bottom and top, mm."""
    parts, bodies = [], []
    for k, (x, y, wide, high, low, top) in enumerate(boxes):
        outline = m.Rectangle(shape="rectangle", width=wide, height=high)
        slab = m.Slab(id="plate", bottom=low, top=top, outline=outline)
        parts.append(m.Part(id=f"p{k}", slabs=(slab,)))
        bodies.append(m.Body(id=f"b{k}", part=f"p{k}", pose=m.Pose(x=x, y=y), height=0.0))
    return resolve(m.Document(name="plates", parts=tuple(parts), bodies=tuple(bodies)))


def plain(count: int, width: float = 0.01) -> Look:
    """Each body in a colour of its own, and no lines."""
    fill = np.ones((count, 4))
    for k in range(count):
        fill[k, :3] = hue(k)
    ink = np.ones((count, 4))
    ink[:, :3] = 0.0
    ink[:, 3] = 0.0 if width < 0.1 else 1.0
    return Look(fill, ink, np.full(count, width), np.ones(count))


def hue(k: int) -> tuple[float, float, float]:
    """A direction of colour that shade does not change."""
    turn = 2.399963 * k
    found = np.array([1 + 0.9 * math.cos(turn), 1 + 0.9 * math.cos(turn + 2.1),
                      1 + 0.9 * math.cos(turn + 4.2)])  # fmt: skip
    return tuple(found / found.max())


def drawn(renderer: Renderer, resolved: Resolved, picture: Picture) -> np.ndarray:
    """(H, W, 4) pixels from 0 to 1."""
    data = renderer.draw(Meshes.build(resolved, 0.02), picture)
    return np.frombuffer(data, np.uint8).reshape(picture.height, picture.width, 4) / 255.0


def standing(resolved: Resolved, poses: np.ndarray) -> np.ndarray:
    """(B, 3, 4) where bodies of one plane are in space."""
    return resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))


def picture_of(resolved: Resolved, poses: np.ndarray, camera: Camera, look: Look) -> Picture:
    return Picture(camera, *SIZE, standing(resolved, poses), look)


def pixel_by_hand(camera: Camera, point: np.ndarray) -> np.ndarray:
    """Turn about the upright, then about the level axis, then the pinhole: written out plainly."""
    x, y, z = np.asarray(point) - np.asarray(camera.target)
    ct, st_ = math.cos(camera.turn), math.sin(camera.turn)
    along, back = x * ct + y * st_, -x * st_ + y * ct
    ce, se = math.cos(camera.tilt), math.sin(camera.tilt)
    up, toward = back * se + z * ce, z * se - back * ce
    scale = camera.scale
    if camera.is_perspective:
        eye = SIZE[1] / 2 / camera.scale / math.tan(WIDE / 2)
        scale = scale * eye / (eye - toward)
    return np.array([SIZE[0] / 2 + scale * along, SIZE[1] / 2 - scale * up])


@pytest.mark.parametrize("is_perspective", [False, True])
@pytest.mark.parametrize("tilt", [90.0, 35.0, 5.0, -50.0])
def test_corners_of_a_face_are_where_the_projection_says(
    renderer: Renderer, tilt: float, is_perspective: bool
) -> None:
    resolved = plates((10, -6, 60, 34, 2, 11))
    camera = Camera((8.0, -4.0, 5.0), math.radians(24), math.radians(tilt), 3.1, is_perspective)
    image = drawn(renderer, resolved, picture_of(resolved, resolved.poses, camera, plain(1)))
    corners = np.array([[10 + 30 * a, -6 + 17 * b, z] for a in (-1, 1) for b in (-1, 1)
                        for z in (2.0, 11.0)])  # fmt: skip
    seen = np.array([pixel_by_hand(camera, corner) for corner in corners])
    assert camera.seen(corners, *SIZE)[:, :2] == pytest.approx(seen)
    # What is covered is the convex hull of the corners, to the pixel.
    hull = shapely.MultiPoint(seen).convex_hull
    rows, columns = np.mgrid[0 : SIZE[1], 0 : SIZE[0]]
    inside = shapely.contains_xy(hull.buffer(-0.75), columns + 0.5, rows + 0.5)
    outside = ~shapely.contains_xy(hull.buffer(0.75), columns + 0.5, rows + 0.5)
    assert inside.sum() > 800
    assert (image[inside, 3] == 1.0).all()
    assert (image[outside, 3] == 0.0).all()


def first_met(
    resolved: Resolved,
    poses: np.ndarray,
    start: np.ndarray,
    along: np.ndarray,
    ways: np.ndarray,
    plane: Plane | None = None,
) -> tuple[float, int]:
    """Where a ray first is within a body, in small steps, and which."""  # fmt: skip
    points = start + ways[:, None] * along
    best, found = math.inf, -1
    for slab in placed_slabs(resolved, poses):
        there = (points[:, 2] > slab.bottom) & (points[:, 2] < slab.top)
        if plane is not None:
            there &= points @ np.asarray(plane.normal) < plane.offset
        index = np.flatnonzero(there)
        if len(index):
            within = shapely.contains_xy(slab.polygon, points[index, 0], points[index, 1])
            if within.any() and ways[index[np.argmax(within)]] < best:
                best, found = float(ways[index[np.argmax(within)]]), slab.body
    return best, found


def random_camera(random: np.random.Generator, box: np.ndarray) -> Camera:
    at = box[0] + (box[1] - box[0]) * random.random(3)
    turn, tilt = random.uniform(-3, 3), random.uniform(-1.5, 1.5)
    return Camera(tuple(at), turn, tilt, random.uniform(1.0, 3.0), bool(random.random() < 0.5))


@pytest.mark.campaign
@pytest.mark.parametrize("seed", range(share(24, 1)))
def test_a_pixel_shows_the_body_that_a_ray_meets_first(renderer: Renderer, seed: int) -> None:
    random = np.random.default_rng(seed)
    evaluation = evaluated(DEMOS[seed % len(DEMOS)])
    resolved = evaluation.resolved
    poses = evaluation.motion.poses[random.integers(len(evaluation.motion.poses))]
    meshes = Meshes.build(resolved, 0.02)
    count = len(poses)
    places = standing(resolved, poses)
    camera = random_camera(random, meshes.box_at(places))
    plane = None
    if seed % 2:
        normal = random.normal(size=3)
        normal /= np.linalg.norm(normal)
        plane = Plane(tuple(normal), float(normal @ np.asarray(camera.target)))
    cut = () if plane is None else caps_of(resolved, places, plane)
    look = plain(count)
    shown = Picture(camera, *SIZE, places, look, cut=plane, caps=cut)
    image = drawn(renderer, resolved, shown)
    targets, hues = Targets(resolved), np.array([hue(k) for k in range(count)])
    compared = 0
    for _ in range(70):
        x, y = int(random.integers(3, SIZE[0] - 3)), int(random.integers(3, SIZE[1] - 3))
        ray = camera.ray(x + 0.5, y + 0.5, *SIZE)
        least = ray.least if math.isfinite(ray.least) else -900.0
        way, body = first_met(resolved, poses, ray.start, ray.along,
                              np.arange(least, 1500.0, 0.03), plane)  # fmt: skip
        met = targets.hit(ray, places, (), plane)
        if met is None or body < 0:
            # A ray may graze a corner between two steps.
            assert met is None or met.way > 1400 or body < 0
        else:
            assert met.way <= way + 1e-9
            assert way - met.way < 0.04 or met.body != body
        around = image[y - 1 : y + 2, x - 1 : x + 2]
        names = {_named(pixel, hues) for pixel in around.reshape(-1, 4)}
        if len(names) == 1 and (plane is None or met is None or met.face != "cut"):
            compared += 1
            assert names == {-1 if met is None else met.body}, (seed, x, y)
    print(f"depth pixels, seed {seed}: {compared} places compared")
    assert compared > 25


def _named(pixel: np.ndarray, hues: np.ndarray) -> int:
    """Which body has a pixel's colour, whatever its shade; -1 for paper, -2 for a mixture."""
    if pixel[3] == 0.0:
        return -1
    own = pixel[:3] / max(pixel[:3].max(), 1e-6)
    away = np.abs(hues - own).max(axis=1)
    return int(away.argmin()) if away.min() < 0.03 else -2


@pytest.mark.campaign
@pytest.mark.parametrize("seed", range(share(40, 2)))
def test_a_cut_is_what_points_of_its_plane_lie_in(seed: int) -> None:
    random = np.random.default_rng(seed)
    checked = 0
    while checked < 25:
        normal = random.normal(size=3)
        if checked % 5 == 0:
            normal = np.array([0.0, 0.0, float(random.choice([-1, 1]))])
        if checked % 5 == 1:
            normal[2] = 0.0
        normal /= np.linalg.norm(normal)
        turns = np.sort(random.uniform(0, 2 * math.pi, 7))
        ring = np.column_stack([30 * np.cos(turns), 25 * np.sin(turns)]) + random.normal(size=2)
        shape = shapely.Polygon(ring).buffer(0)
        hole = shape.buffer(-3)
        if shape.geom_type != "Polygon" or hole.geom_type != "Polygon" or hole.is_empty:
            continue
        checked += 1
        shape = shape.difference(hole)
        low = random.uniform(-5, 5)
        high = low + random.uniform(2, 12)
        plane = Plane(tuple(normal), float(random.uniform(-8, 8)))
        found = shapely.union_all(list(cut_area(shape, low, high, plane)))
        places = random.uniform(-70, 70, size=(1500, 2))
        points = plane.in_space(places)
        assert np.abs(plane.beyond(points)).max() < 1e-9
        inside = shapely.contains_xy(shape, points[:, 0], points[:, 1])
        inside &= (points[:, 2] > low) & (points[:, 2] < high)
        told = shapely.contains_xy(found, places[:, 0], places[:, 1])
        near = shapely.distance(found.boundary, shapely.points(places)) < 1e-6
        assert not ((inside != told) & ~near).any()


def test_cut_areas_are_those_of_the_outlines(renderer: Renderer) -> None:
    resolved = evaluated("geneva-feeder").resolved
    poses = resolved.poses
    places = standing(resolved, poses)
    levels = sorted({(s.bottom + s.top) / 2 for s in placed_slabs(resolved, poses)})
    for z in levels:
        found = {cap.body: cap.area for cap in caps_of(resolved, places, Plane((0, 0, 1), z))}
        for k, body in enumerate(resolved.document.bodies):
            height = float(resolved.heights[k])
            cut = [s for s in resolved.part_of(body).slabs
                   if height + s.bottom < z < height + s.top]  # fmt: skip
            # Arcs exactly, by Green's theorem; chords are within 0.005 mm of them.
            rings = [[abs(c.area()) for c in s.region.contours] for s in cut]
            area = sum(2 * each[0] - sum(each) for each in rings)
            rim = sum(s.region.polygon.length for s in cut)
            if len(cut) == 1:
                assert found[k] == pytest.approx(area, abs=0.005 * rim + 1e-9)
    # A wedge at an angle is longer by the slope; seen square it covers as many pixels.
    resolved = plates((0, 0, 40, 20, 0, 30))
    lean = math.radians(30)
    plane = Plane((math.sin(lean), 0.0, math.cos(lean)), 15 * math.cos(lean))
    (cap,) = caps_of(resolved, standing(resolved, resolved.poses), plane)
    assert cap.area == pytest.approx(40 * 20 / math.cos(lean))
    scale = 5.0
    camera = Camera((0.0, 0.0, 15.0), math.pi / 2, math.pi / 2 - lean, scale)
    shown = replace(picture_of(resolved, resolved.poses, camera, plain(1)), cut=plane, caps=(cap,))
    image = drawn(renderer, resolved, shown)
    corner = [pixel_by_hand(camera, plane.in_space(np.array([[a, b]]))[0])
              for a, b in ((-10, -20), (10, 20))]  # fmt: skip
    assert np.ptp(corner, axis=0) == pytest.approx([20 * scale, 40 * scale], rel=0.5)
    assert (image[..., 3] > 0).sum() == pytest.approx(cap.area * scale**2, rel=0.35)


def test_nothing_flickers_where_faces_coincide(renderer: Renderer) -> None:
    # A pin flush with its plate, two plates side by side at one height, one lying in another's
    # wall: five faces that are shared.
    resolved = plates(
        (0, 0, 80, 50, 0, 8), (0, 0, 20, 20, 2, 8), (60, 0, 40, 50, 0, 8), (-30, 25, 20, 10, 0, 8),
        (0, -20, 30, 10, 0, 8),
    )  # fmt: skip
    count = len(resolved.poses)
    look = plain(count)
    for is_perspective in (False, True):
        camera = Camera((10.0, 0.0, 4.0), 0.4, 0.7, 2.6, is_perspective)
        before = None
        for k in range(6):
            image = drawn(renderer, resolved, picture_of(
                resolved, resolved.poses, replace(camera, turn=0.4 + 2e-4 * k), look
            ))  # fmt: skip
            if before is not None:
                changed = np.abs(image - before).max(axis=2) > 0.08
                edges = np.zeros_like(changed)
                for axis in (0, 1):
                    step = np.abs(np.diff(before, axis=axis)).max(axis=2) > 0.08
                    if axis == 0:
                        edges[:-1] |= step
                        edges[1:] |= step
                    else:
                        edges[:, :-1] |= step
                        edges[:, 1:] |= step
                assert not (changed & ~edges).any()
            before = image
        names = {_named(pixel, np.array([hue(k) for k in range(count)]))
                 for pixel in before[::3, ::3].reshape(-1, 4)}  # fmt: skip
        assert names <= {-1, 0, 1, 2, 3, 4}


@pytest.mark.parametrize("name", DEMOS)
def test_the_surface_of_a_part_holds_its_volume_and_looks_outward(name: str) -> None:
    resolved = evaluated(name).resolved
    meshes = Meshes.build(resolved, 0.01)
    faces = meshes.faces
    for k, body in enumerate(resolved.document.bodies):
        own = faces.corners[faces.body[faces.corners[:, 0]] == k]
        if not len(own):
            continue
        a, b, c = (faces.at[own[:, i]].astype(float) for i in range(3))
        volume = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6.0
        points, triangles = mesh_of(resolved.part_of(body))
        p, q, r = (points[triangles[:, i]] for i in range(3))
        wanted = float(np.einsum("ij,ij->i", p, np.cross(q, r)).sum()) / 6.0
        across = np.cross(b - a, c - a)
        # Chords lie within 0.01 mm of what they stand for, all over the surface.
        assert volume == pytest.approx(wanted, abs=0.01 * _area(np.stack([a, b, c], 1))), body.id
        normal = faces.normal[own[:, 0]].astype(float)
        size = np.linalg.norm(across, axis=1)
        whole = size > 1e-3
        assert (np.einsum("ij,ij->i", across, normal)[whole] > 0.5 * size[whole]).all(), body.id


@given(
    st.floats(-3.1, 3.1), st.floats(-1.57, 1.57), st.floats(0.2, 20), st.booleans(),
    st.floats(-100, 100), st.floats(-100, 100), st.floats(-1, 1), st.floats(-0.7, 0.7),
)  # fmt: skip
def test_rays_levels_and_turning_agree(
    turn: float, tilt: float, scale: float, is_perspective: bool, x: float, y: float,
    more: float, lean: float,
) -> None:  # fmt: skip
    camera = Camera((3.0, -2.0, 7.0), turn, tilt, scale, is_perspective)
    ray = camera.ray(SIZE[0] / 2 + x, SIZE[1] / 2 + y, *SIZE)
    way = camera.distance(SIZE[1]) * 0.8 if is_perspective else 5.0
    at = ray.at(way)
    pixel = camera.seen(at, *SIZE)
    assert pixel[:2] == pytest.approx([SIZE[0] / 2 + x, SIZE[1] / 2 + y], abs=1e-6)
    assert pixel[:2] == pytest.approx(pixel_by_hand(camera, at), abs=1e-6)
    level = camera.plane(LEVEL, float(at[2]), *SIZE) @ [at[0], at[1], 1.0]
    assert level[:2] / level[2] == pytest.approx(pixel[:2], abs=1e-5)
    clip = camera.matrix(*SIZE, -1e4, 1e4) @ [*at, 1.0]
    assert [(clip[0] / clip[3] + 1) * SIZE[0] / 2, (1 - clip[1] / clip[3]) * SIZE[1] / 2] == (
        pytest.approx(pixel[:2], abs=1e-5)
    )
    kept = camera.turned(more, lean, at).seen(at, *SIZE)
    assert kept[:2] == pytest.approx(pixel[:2], abs=1e-6)
    zoomed = camera.zoomed(1.7, SIZE[0] / 2 + x, SIZE[1] / 2 + y, *SIZE)
    flat = np.asarray(camera.target) + (
        camera.axes[0] * x / camera.scale - camera.axes[1] * y / camera.scale
    )
    assert zoomed.seen(flat, *SIZE)[:2] == pytest.approx(camera.seen(flat, *SIZE)[:2], abs=1e-6)


@given(st.floats(-3, 3), st.floats(-1.5, 1.5), st.booleans())
def test_what_is_fitted_is_in_the_picture(turn: float, tilt: float, is_perspective: bool) -> None:
    box = np.array([[-40.0, 10.0, -3.0], [90.0, 75.0, 22.0]])
    camera = Camera(turn=turn, tilt=tilt, is_perspective=is_perspective).fitted(box, *SIZE, 20.0)
    corners = np.array([[box[i, 0], box[j, 1], box[k, 2]] for i in (0, 1) for j in (0, 1)
                        for k in (0, 1)])  # fmt: skip
    seen = camera.seen(corners, *SIZE)[:, :2]
    assert (seen >= 19.0).all() and (seen <= np.array(SIZE) - 19.0).all()


def test_what_is_swept_and_what_is_shared_have_the_areas_of_the_formulas() -> None:
    resolved = plates((0, 0, 40, 20, 0, 10), (25, 5, 30, 8, 4, 16))
    turns = np.linspace(0.0, 2 * math.pi, 121)
    poses = np.repeat(resolved.poses[None], len(turns), axis=0)
    poses[:, 0, 2] = turns
    area = _area(swept_sheet(resolved, poses, 0))
    # A rectangle that turns about its middle sweeps the disc through its corners; chords of 6
    # degrees and of 0.15 mm miss at most a hundredth of it.
    assert area == pytest.approx(math.pi * (20**2 + 10**2), rel=1e-2)
    # x from 10 to 20, y from 1 to 9, z from 4 to 10.
    space = shared_space(resolved, resolved.poses, 0, 1)
    assert _area(space) == pytest.approx(2 * (10 * 8 + 10 * 6 + 8 * 6))
    assert not len(shared_space(resolved, resolved.poses + np.array([[0, 0, 0], [60, 0, 0]]), 0, 1))


def _area(corners: np.ndarray) -> float:
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return float(np.linalg.norm(across, axis=1).sum()) / 2.0


def test_faces_and_rims_are_apart_as_plain_geometry_says() -> None:
    up, side = np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0])
    one, two = np.array([3.0, 4.0, 6.0]), np.array([6.0, 8.0, -6.0])
    assert apart(Spot(one, up, ""), Spot(two, -up, "")).values == (("height", 12.0),)
    walls = apart(Spot(one, side, ""), Spot(two, side, ""))
    assert walls.values == (("between the walls", 3.0),)
    assert walls.second == pytest.approx([6.0, 4.0, 6.0])
    values = dict(apart(Spot(one, None, ""), Spot(two, up, "")).values)
    assert values == {"straight through": 13.0, "in the plane": 5.0, "height": 12.0}
    assert len(apart(Spot(one, side, ""), Spot(two, up, "")).values) == 3
