"""Planes in space against composed rotations written out here, a rigid-body engine, and brute
force; what cannot be is refused with a way out."""

from __future__ import annotations

import itertools
import math

import mujoco
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from anakinema.authoring.laying import moved_to_plane, plane_on_face, square_plane
from anakinema.depth import Camera, Meshes, Plane, Targets, caps_of
from anakinema.document import model as m
from anakinema.document.depending import Going
from anakinema.document.planes import turned_by
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.planes import MoveToPlane, OnPlane, RemovePlane
from anakinema.edits.structure import Add, Remove, SetBody
from anakinema.edits.subassemblies import MakeSubassembly
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.files.native import document_text, parse_document, read_document
from anakinema.findings.evaluate import evaluate
from anakinema.record.bodies_in_space import assembly_stl
from anakinema.resources import demo_path
from tests.ready import evaluated

BOOM = read_document(demo_path("potting-boom"))
angle = st.floats(-3.1, 3.1)


def about(axis: int, turn: float) -> np.ndarray:
    """(4, 4) a turn about x (0), y (1) or z (2), by the right hand."""
    found = np.eye(4)
    i, j = [k for k in range(3) if k != axis]
    if axis == 1:
        i, j = j, i
    found[i, i] = found[j, j] = math.cos(turn)
    found[i, j], found[j, i] = -math.sin(turn), math.sin(turn)
    return found


def moved(x: float, y: float, z: float) -> np.ndarray:
    found = np.eye(4)
    found[:3, 3] = x, y, z
    return found


@given(angle, angle, angle)
def test_directions_of_a_plane_are_three_turns_one_after_the_other(a: float, b: float, c: float):  # type: ignore[no-untyped-def]
    wanted = about(2, a) @ about(0, b) @ about(2, c)
    assert turned_by(a, b, c) == pytest.approx(wanted[:3, :3], abs=1e-12)


def chain_by_hand(resolved: Resolved, poses: np.ndarray, body: str) -> np.ndarray:
    """(4, 4) of a body of the boom, joint by joint from the floor up."""
    index = {b.id: k for k, b in enumerate(resolved.document.bodies)}

    def on(name: str) -> np.ndarray:
        x, y, turn = poses[index[name]]
        return moved(x, y, resolved.heights[index[name]]) @ about(2, turn)

    boom = on("turntable") @ moved(0, 0, 204) @ about(0, math.pi / 2)
    grip = boom @ on("jib") @ moved(150, 0, 3) @ about(0, math.pi / 2)
    plane = {"main": np.eye(4), "boom_plane": boom, "grip_plane": grip}
    return plane[resolved.document.body(body).plane] @ on(body)


def places_of(resolved: Resolved, poses: np.ndarray) -> np.ndarray:
    """(B, 3, 4) from each body's datum to space."""
    found = resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))
    found[:, :, 3] += found[:, :, 2] * resolved.heights[:, None]
    return found


@pytest.mark.parametrize("share", np.linspace(0.0, 1.0, 7).tolist())
def test_the_boom_stands_where_composed_turns_put_it(share: float) -> None:
    evaluation = evaluated("potting-boom")
    poses = evaluation.motion.poses[round(share * (len(evaluation.motion.poses) - 1))]
    places = places_of(evaluation.resolved, poses)
    for k, body in enumerate(evaluation.document.bodies):
        wanted = chain_by_hand(evaluation.resolved, poses, body.id)[:3]
        assert places[k] == pytest.approx(wanted, abs=1e-9), body.id


def test_a_rigid_body_engine_puts_the_gripper_where_we_do_at_36_poses() -> None:
    """MuJoCo: floor, turntable, boom, jib and a jaw as a tree of hinges, at the angles of our
    motion, which our planar loops over both cylinders close."""
    evaluation = evaluated("potting-boom")
    resolved = evaluation.resolved
    index = {b.id: k for k, b in enumerate(resolved.document.bodies)}
    reach = resolved.part_of(resolved.document.body("boom")).places["hinge"][0]
    heights = {name: float(resolved.heights[k]) for name, k in index.items()}
    model = mujoco.MjModel.from_xml_string(f"""
      <mujoco><compiler angle="radian" eulerseq="XYZ"/><option gravity="0 0 0"/><worldbody>
      <body name="turntable"><joint name="slew" axis="0 0 1"/><geom size="1"/>
       <body name="plane" pos="0 0 204" euler="{math.pi / 2} 0 0"><geom size="1"/>
        <body name="boom" pos="0 0 {heights["boom"]}"><joint name="boom" axis="0 0 1"/>
         <geom size="1"/>
         <body name="jib" pos="{reach} 0 {heights["jib"] - heights["boom"]}">
          <joint name="jib" axis="0 0 1"/><geom size="1"/>
          <body name="grip" pos="150 0 3" euler="{math.pi / 2} 0 0"><geom size="1"/>
           <body name="jaw_left" pos="24 16 0"><joint name="left" axis="0 0 1"/>
            <geom size="1"/></body>
          </body></body></body></body></body></worldbody></mujoco>""")
    data = mujoco.MjData(model)
    rows = np.linspace(0, len(evaluation.motion.poses) - 1, 36).round().astype(int)
    for row in rows:
        poses = evaluation.motion.poses[row]
        turn = {name: float(poses[k, 2]) for name, k in index.items()}
        data.qpos[:] = (
            turn["turntable"], turn["boom"], turn["jib"] - turn["boom"], turn["jaw_left"]
        )  # fmt: skip
        mujoco.mj_kinematics(model, data)
        places = places_of(resolved, poses)
        for name in ("boom", "jib", "jaw_left"):
            body = mujoco.mj_name2id(model, mujoco.mjtObj.mjOBJ_BODY, name)
            assert places[index[name], :, 3] == pytest.approx(data.xpos[body], abs=1e-6)
            turned = data.xmat[body].reshape(3, 3)
            assert places[index[name], :, :3] == pytest.approx(turned, abs=1e-8)


def test_loops_close_within_the_plane_that_is_carried() -> None:
    """The cylinder is as long as it says between its pins, wherever the turntable stands."""
    evaluation = evaluated("potting-boom")
    document, poses = evaluation.document, evaluation.motion.poses
    index = {b.id: k for k, b in enumerate(document.bodies)}
    value = evaluation.motion.values[:, [j.id for j in document.joints].index("lift_stroke")]

    def at(body: str, x: float, y: float) -> np.ndarray:
        px, py, turn = poses[:, index[body]].T
        c, s = np.cos(turn), np.sin(turn)
        return np.stack([px + c * x - s * y, py + s * x + c * y], axis=1)

    apart = np.hypot(*(at("mast", 70, -170) - at("boom", 110, -20)).T)
    assert apart == pytest.approx(140.0 + value, abs=1e-8)
    assert np.ptp(value) == pytest.approx(54.0)


def test_rays_and_cuts_meet_bodies_of_all_planes() -> None:
    evaluation = evaluated("potting-boom")
    resolved, poses = evaluation.resolved, evaluation.motion.poses[40]
    places = resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))
    targets, meshes = Targets(resolved), Meshes.build(resolved, 0.1)
    random = np.random.default_rng(4)
    met = 0
    for _ in range(60):
        k = int(random.integers(len(places)))
        middle = np.nanmean(meshes.box[k], axis=0)
        at = places[k, :, :3] @ middle + places[k, :, 3] + random.normal(size=3) * 3.0
        camera = Camera(tuple(at), random.uniform(-3, 3), random.uniform(-1.4, 1.4), 1.5)
        ray = camera.ray(210, 160, 420, 320)
        normal = random.normal(size=3)
        normal /= np.linalg.norm(normal)
        plane = Plane(tuple(normal), float(normal @ at))
        ways = np.arange(-900.0, 900.0, 0.05)
        points = ray.start + ways[:, None] * ray.along
        there = points @ normal < plane.offset
        best, first = math.inf, -1
        for k, body in enumerate(resolved.document.bodies):
            own = (points - places[k, :, 3]) @ places[k, :, :3]
            height = float(resolved.heights[k])
            for slab in resolved.part_of(body).slabs:
                inside = shapely.contains_xy(slab.region.polygon, own[:, 0], own[:, 1]) & there
                inside &= (own[:, 2] > height + slab.bottom) & (own[:, 2] < height + slab.top)
                if inside.any() and ways[inside.argmax()] < best:
                    best, first = float(ways[inside.argmax()]), k
        hit = targets.hit(ray, places, (), plane)
        assert (hit is None) == (first < 0)
        if hit is not None:
            met += 1
            assert hit.way == pytest.approx(best, abs=0.06)
            assert hit.body == first or abs(hit.way - best) < 0.06
        for cap in caps_of(resolved, places, plane):
            assert np.abs(cap.corners @ normal - plane.offset).max() < 1e-6
    assert met > 15


def test_the_mesh_that_leaves_the_program_stands_in_space() -> None:
    evaluation = evaluated("potting-boom")
    poses = evaluation.motion.poses[0]
    content = assembly_stl(evaluation.resolved, poses)
    record = np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("m", "<u2")])
    corners = np.frombuffer(content[84:], dtype=record)["c"].astype(float)
    places = evaluation.resolved.planes.places(
        poses, evaluation.resolved.heights, np.zeros(len(poses))
    )
    box = Meshes.build(evaluation.resolved, 0.05).box_at(places)
    # The box of turned boxes holds the corners, and is no larger than these by much.
    assert (corners.min(axis=(0, 1)) >= box[0] - 0.1).all()
    assert (corners.max(axis=(0, 1)) <= box[1] + 0.1).all()
    assert np.ptp(corners[:, :, 2]) > 200


# What cannot be ---------------------------------------------------------------------------------


def changed(document: m.Document, plane: str, **values: object) -> m.Document:
    planes = tuple(p.model_copy(update=values) if p.id == plane else p for p in document.planes)
    return document.model_copy(update={"planes": planes})


@pytest.mark.parametrize(
    ("document", "words"),
    [
        (changed(BOOM, "boom_plane", on="jib"), "carries itself"),
        (changed(BOOM, "boom_plane", on="nobody"), "not there"),
        (changed(BOOM, "boom_plane", z="10 deg"), "length"),
        (BOOM.model_copy(update={"bodies": tuple(
             b.model_copy(update={"plane": "attic"}) if b.id == "mast" else b
             for b in BOOM.bodies)}), "no plane 'attic'"),
        (MoveToPlane(("boom",), "main").apply(BOOM), "different planes"),
    ],
)  # fmt: skip
def test_what_cannot_be_names_the_place_and_a_way_out(document: m.Document, words: str) -> None:
    with pytest.raises(AnakinemaError) as caught:
        resolve(document)
    said = f"{caught.value.where} {caught.value.what} {caught.value.remedy}"
    assert words in said and caught.value.remedy


def test_a_check_across_planes_cannot_be_judged_and_stops_nothing() -> None:
    asked = m.Requirement(
        id="across",
        measure=m.HousingMeasure(kind="housing", housing="turntable", body="jaw_left"),
        reduce="least",
        least="5 mm",
    )
    evaluation = evaluate(BOOM.model_copy(update={"requirements": (*BOOM.requirements, asked)}))
    assert "different planes" in evaluation.resolved.unjudged["across"]
    words = next(f for f in evaluation.verdict.findings if f.id == "built_in.overlap")
    assert words.outcome.value == "pass"


def test_a_plane_with_bodies_is_not_deleted_and_the_first_never() -> None:
    for plane, words in (("grip_plane", "palm"), ("main", "pedestal")):
        with pytest.raises(ValueOutOfRangeError, match=words):
            RemovePlane(plane).apply(BOOM)
    bare = Remove(Going(bodies=frozenset(("palm", "jaw_left", "jaw_right")))).apply(BOOM)
    assert [p.id for p in RemovePlane("grip_plane").apply(bare).planes] == ["main", "boom_plane"]


def test_what_a_switched_off_carrier_carries_is_left_out_with_it() -> None:
    off = SetBody("turntable", "off", True).apply(BOOM)
    resolved = resolve(off)
    assert [b.id for b in resolved.document.bodies] == ["pedestal"]
    assert [p.id for p in resolved.document.planes] == ["main"]
    assert parse_document(document_text(off).encode(), "boom") == off


def test_new_bodies_lie_on_the_plane_of_what_they_are_joined_to() -> None:
    part = m.Part(id="tag", places=(m.Place(id="eye"),))
    side = next(j for j in BOOM.joints if j.id == "left_pivot").first
    joined = m.Joint(id="held", kind="rigid", first=side, second=m.Side(body="tag", place="eye"))
    bodies = (m.Body(id="tag", part="tag"), m.Body(id="loose", part="tag"))
    add = Add("Tag", parts=(part,), bodies=bodies, joints=(joined,))
    after = OnPlane(add, "boom_plane").apply(BOOM)
    assert after.body("tag").plane == "grip_plane"
    assert after.body("loose").plane == "boom_plane"
    assert resolve(after).planes.of[-2:].tolist() == [2, 1]


def test_a_subassembly_is_used_on_another_plane_and_made_of_one_only() -> None:
    made = MakeSubassembly(("jaw_left",), "jaw", "jaw_1")
    document = made.apply(BOOM)
    assert document.instances[0].plane == "grip_plane"
    resolved = resolve(document)
    inner = next(b for b in resolved.document.bodies if b.id.startswith("jaw_1"))
    assert inner.plane == "grip_plane"
    loose = document.instances[0].model_copy(update={"id": "jaw_2", "plane": "main"})
    both = document.model_copy(update={"instances": (*document.instances, loose)})
    planes = {b.id: b.plane for b in resolve(both).document.bodies if "jaw_left" in b.id}
    assert sorted(planes.values()) == ["grip_plane", "main"]
    with pytest.raises(ValueOutOfRangeError, match="different planes"):
        MakeSubassembly(("jaw_left", "turntable"), "odd", "odd_1").apply(BOOM)


@given(angle, st.floats(0.2, 2.9), angle)
def test_planes_are_laid_square_and_on_faces(turn: float, tilt: float, spin: float) -> None:
    base = changed(
        BOOM, "boom_plane", turn=turn, tilt=tilt, spin=spin, on=None, x=5.0, y=-3.0
    ).model_copy(update={"units": m.Units(angle="rad")})
    small = Remove(Going(bodies=frozenset(b.id for b in BOOM.bodies if b.id != "mast"))).apply(
        base.model_copy(update={"program": m.Program(), "requirements": ()})
    )
    resolved = resolve(small)
    edit, name = square_plane(resolved, "boom_plane")
    after = resolve(edit.apply(small)).planes.all
    old = next(p for p in after if p.id == "boom_plane")
    new = next(p for p in after if p.id == name)
    assert new.turned[:, 2] @ old.turned[:, 2] == pytest.approx(0.0, abs=1e-5)
    assert new.turned[:, 0] == pytest.approx(old.turned[:, 0], abs=1e-5)
    assert new.origin == pytest.approx(old.origin, abs=1e-5)
    normal = np.array([math.cos(spin), math.sin(spin), 0.0])
    edit, name = plane_on_face(resolved, 0, np.array([4.0, 5.0, 6.0]), normal)
    laid = resolve(edit.apply(small)).planes
    frames = laid.frames(resolved.poses, resolved.heights)
    k = [p.id for p in laid.all].index(name)
    place = resolved.planes.places(resolved.poses, resolved.heights, np.zeros(1))[0]
    up = place[:, :3] @ normal
    assert frames[k][:, 2] == pytest.approx(up, abs=1e-5)
    at = place[:, :3] @ np.array([4.0, 5.0, 6.0 + resolved.heights[0]]) + place[:, 3]
    assert frames[k][:, 3] == pytest.approx(at, abs=1e-5)


def test_a_body_moves_to_another_plane_with_all_that_is_joined_to_it() -> None:
    resolved = resolve(BOOM)
    moved_there = moved_to_plane(resolved, "jaw_left", "main").apply(BOOM)
    planes = {b.id: b.plane for b in moved_there.bodies}
    assert {planes[name] for name in ("palm", "jaw_left", "jaw_right")} == {"main"}
    assert planes["jib"] == "boom_plane"
    resolve(moved_there)
    assert list(itertools.islice((p.id for p in moved_there.planes), 1)) == ["main"]
