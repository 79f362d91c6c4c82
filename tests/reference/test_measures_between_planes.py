"""Distances, angles, paths and speeds between planes: against turns composed by hand, differences,
and closed forms of a point on a turntable."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.analysis.places_in_space import between_places, directions_of_places, place_against
from anakinema.authoring import all_snaps
from anakinema.authoring.scene import Scene
from anakinema.authoring.scene_measures import gap_now, kept_measure, measure_now, measures_now
from anakinema.depth.meshes import Meshes
from anakinema.depth.outlines import seen_from
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.document.rods_in_space import rod_places
from anakinema.files.native import document_text, parse_document, read_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.wording import finding_why
from anakinema.geometry.contour import Floats
from anakinema.measures import Subject, answered, measure_of
from anakinema.record.bodies_in_space import assembly_stl
from anakinema.record.sheets.paper import Text
from anakinema.record.sheets.sheet_set import leaves_of
from anakinema.resources import demo_path
from anakinema.units import LENGTH
from tests.ready import evaluated
from tests.reference.test_planes import chain_by_hand

PLACES = (("pedestal", "middle"), ("jaw_left", "tip"), ("boom", "hinge"), ("turntable", "middle"))


def side(body: str, place: str) -> m.Side:
    return m.Side(body=body, place=place)


def by_hand(evaluation: Evaluation, body: str, place: str, poses: Floats) -> tuple[Floats, Floats]:
    """Where a place is in space and which way it points, by turns written out in the test."""
    frame = chain_by_hand(evaluation.resolved, poses, body)
    x, y, angle = evaluation.resolved.part_of(evaluation.document.body(body)).places[place]
    point = frame @ [x, y, 0.0, 1.0]
    return point[:3], frame[:3, :3] @ [math.cos(angle), math.sin(angle), 0.0]


def test_distances_and_angles_are_those_of_composed_turns() -> None:
    evaluation = evaluated("potting-boom")
    rows = np.arange(0, len(evaluation.motion.poses), 37)
    at = evaluation.motion.samples.taken(rows)
    for one, two in ((PLACES[0], PLACES[1]), (PLACES[1], PLACES[2]), (PLACES[3], PLACES[1])):
        sides = side(*one), side(*two)
        apart = between_places(evaluation.resolved, *sides, at)[0]
        ways = [each[0] for each in directions_of_places(evaluation.resolved, *sides, at)]
        for k, poses in enumerate(at.poses):
            (a, u), (b, v) = (by_hand(evaluation, *each, poses) for each in (one, two))
            assert np.linalg.norm(apart[k]) == pytest.approx(np.linalg.norm(b - a), abs=1e-9)
            assert ways[0][k] @ ways[1][k] == pytest.approx(u @ v, abs=1e-12)


def test_what_a_body_sees_turns_with_it() -> None:
    evaluation = evaluated("potting-boom")
    rows = np.arange(0, len(evaluation.motion.poses), 41)
    at = evaluation.motion.samples.taken(rows)
    for observer in ("pedestal", "turntable", "boom", "jib"):
        seen = place_against(evaluation.resolved, side("jaw_left", "tip"), observer, at)[0]
        for k, poses in enumerate(at.poses):
            frame = chain_by_hand(evaluation.resolved, poses, observer)
            point, _ = by_hand(evaluation, "jaw_left", "tip", poses)
            own = np.linalg.inv(frame) @ [*point, 1.0]
            # Heights count from the observer's plane, its own datum included.
            height = evaluation.resolved.heights[
                [b.id for b in evaluation.document.bodies].index(observer)
            ]
            assert seen[k] == pytest.approx(own[:3] + np.array([0, 0, height]), abs=1e-9)


def test_rates_are_those_of_differences() -> None:
    evaluation = evaluated("potting-boom")
    motion, resolved = evaluation.motion, evaluation.resolved
    middle = np.array([0.3, 1.21, 1.77, 2.4, 3.6])
    step = 1e-4

    def looked(ask, progress: Floats):  # type: ignore[no-untyped-def]
        return ask(motion.at(progress))

    asks = (
        lambda at: between_places(
            resolved, side("pedestal", "middle"), side("jaw_left", "tip"), at
        ),
        lambda at: place_against(resolved, side("jaw_left", "tip"), "boom", at),
        lambda at: directions_of_places(
            resolved, side("turntable", "middle"), side("jaw_left", "tip"), at
        )[1],
    )
    for ask in asks:
        _, first, second = looked(ask, middle)
        before, after = (looked(ask, middle + off) for off in (-step, step))
        slope = (after[0] - before[0]) / (2 * step)
        bend = (after[1] - before[1]) / (2 * step)
        scale = np.abs(first).max() + 1.0
        assert first == pytest.approx(slope, abs=2e-5 * scale)
        assert second == pytest.approx(bend, abs=2e-4 * (np.abs(second).max() + 1.0))


def turntable(radius: float = 80.0, height: float = 30.0) -> m.Document:
    """An arm stands upright on a turntable and swings: the tip runs round on a torus."""
    post = m.Part(id="post", places=(m.Place(id="eye"),))
    arm = m.Part(id="arm", places=(m.Place(id="eye"), m.Place(id="tip", x=40.0)))

    def pin(name: str, low: str, high: str) -> m.Joint:
        sides = (side(low, "eye"), side(high, "eye"))
        return m.Joint(id=name, kind="revolute", first=sides[0], second=sides[1])

    upright = m.Plane(id="up", name="up", x=radius, z=height, tilt="90 deg", on="table")
    bodies = (
        m.Body(id="floor", part="post", fixed=True),
        m.Body(id="table", part="post"),
        m.Body(id="ear", part="post", fixed=True, plane="up"),
        m.Body(id="arm", part="arm", plane="up"),
    )
    drivers = tuple(
        m.Driver(id=name, joint=name, start="0 deg", rate=rate)
        for name, rate in (("slew", "10 rpm"), ("swing", "10 rpm"))
    )
    moves = (m.Move(driver="slew", to="360 deg"), m.Move(driver="swing", to="360 deg"))
    return m.Document(
        planes=(m.Plane(), upright), parts=(post, arm), bodies=bodies,
        joints=(pin("slew", "floor", "table"), pin("swing", "ear", "arm")),
        program=m.Program(drivers=drivers, stages=(m.Stage(moves=moves, count=180, lasts="6 s"),)),
    )  # fmt: skip


def asked(document: m.Document, measure: m.Measure, reduce: str) -> float:
    requirement = m.Requirement(
        id="asked", measure=measure, reduce=reduce, greatest="1 m" if reduce else None
    )  # type: ignore[arg-type]
    evaluation = evaluate(document)
    subject = Subject(evaluation.resolved, evaluation.motion, evaluation.gaps)
    found = answered(subject, requirement, None)
    return float(found.high)  # type: ignore[union-attr]


def test_a_point_on_a_turntable_against_its_closed_form() -> None:
    """Radius R + 40 cos t turns through 2π as t does: speed √(40² + (R + 40 cos t)²) by turn."""
    document = turntable()
    tip = side("arm", "tip")
    t = np.linspace(0.0, 2 * math.pi, 200_001)
    speed = np.sqrt(40.0**2 + (80.0 + 40.0 * np.cos(t)) ** 2)
    length = float(np.sum((speed[1:] + speed[:-1]) / 2) * (t[1] - t[0]))
    path = asked(document, m.PathMeasure(kind="path", place=tip, against="floor"), "range")
    assert path == pytest.approx(length, rel=1e-6)
    own = asked(document, m.PathMeasure(kind="path", place=tip), "range")
    assert own == pytest.approx(2 * math.pi * 40.0, rel=1e-6)
    per_second = 2 * math.pi / 6.0
    fastest = asked(
        document, m.PlaceRateMeasure(kind="place_rate", place=tip, against="floor"), "greatest"
    )
    assert fastest == pytest.approx(speed.max() * per_second, rel=1e-9)
    far = asked(
        document,
        m.DistanceMeasure(kind="distance", first=side("floor", "eye"), second=tip),
        "greatest",
    )
    # From the floor's middle: √((R + 40 cos t)² + (30 + 40 sin t)²).
    wanted = np.sqrt((80 + 40 * np.cos(t)) ** 2 + (30 + 40 * np.sin(t)) ** 2)
    assert far == pytest.approx(float(wanted.max()), abs=1e-7)
    near = asked(
        document,
        m.DistanceMeasure(kind="distance", first=side("floor", "eye"), second=tip),
        "least",
    )
    assert near == pytest.approx(float(wanted.min()), abs=1e-7)
    lean = asked(
        document, m.AngleMeasure(kind="angle", first=side("table", "eye"), second=tip), "greatest"
    )
    assert lean == pytest.approx(math.pi, abs=1e-3)


def test_lanes_and_requirements_between_planes_are_shown_and_kept() -> None:
    base = read_document(demo_path("potting-boom"))
    tip = side("jaw_left", "tip")
    requirements = (
        m.Requirement(
            id="reach", measure=m.DistanceMeasure(
                kind="distance", first=side("pedestal", "middle"), second=tip),
            reduce="greatest", greatest="600 mm"),
        m.Requirement(
            id="fast", measure=m.PlaceRateMeasure(
                kind="place_rate", place=tip, against="pedestal"),
            reduce="greatest", greatest="2 m/s"),
        m.Requirement(
            id="room", measure=m.GapMeasure(kind="gap", first="turntable", second="jaw_left"),
            reduce="least", least="5 mm"),
    )  # fmt: skip
    document = base.model_copy(update={"requirements": requirements})
    assert parse_document(document_text(document).encode(), "boom") == document
    evaluation = evaluate(document)
    assert not evaluation.resolved.unjudged
    subject = Subject(evaluation.resolved, evaluation.motion, evaluation.gaps)
    for requirement in requirements:
        finding = next(f for f in evaluation.verdict.findings if f.id == requirement.id)
        assert finding.value is not None
        curve = measure_of(evaluation.resolved, requirement.measure).curve(subject)
        assert curve is not None
        most = curve.values.min() if requirement.reduce == "least" else curve.values.max()
        slack = 0.01 * abs(finding.value) + 0.01
        assert float(most) == pytest.approx(finding.value, abs=slack)
    room = next(f for f in evaluation.verdict.findings if f.id == "room")
    assert "solids in space" in finding_why(evaluation, room)


# Paper ------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["potting-boom", "rake-rocker"])
@pytest.mark.parametrize("way", [(0, 2), (0, 1), (1, 2)])
def test_lines_of_a_view_are_seen_and_hold_all_there_is(name: str, way: tuple[int, int]) -> None:
    """Against the triangles of the model that leaves the program, met one by one."""
    evaluation = evaluated(name)
    resolved, poses = evaluation.resolved, evaluation.motion.poses[0]
    places = resolved.planes.places(poses, resolved.heights, np.zeros(len(poses)))
    places = np.concatenate([places, rod_places(resolved, places)])
    axes = np.eye(3)
    across, up = axes[way[0]], axes[way[1]]
    towards = np.cross(across, up)
    seen = seen_from(Meshes.build(resolved, 0.05), places, across, up)
    records = np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("m", "<u2")])
    content = assembly_stl(resolved, poses)
    corners = np.frombuffer(content[84:], dtype=records)["c"].astype(float)
    flat = np.stack([corners @ across, corners @ up], axis=-1).reshape(-1, 2)
    assert seen.box[0] == pytest.approx(flat.min(axis=0), abs=0.1)
    assert seen.box[1] == pytest.approx(flat.max(axis=0), abs=0.1)
    assert len(seen.lines) > 40
    low, high = seen.lines.min(axis=(0, 1)), seen.lines.max(axis=(0, 1))
    assert (low, high) == (
        pytest.approx(seen.box[0], abs=0.8), pytest.approx(seen.box[1], abs=0.8)
    )  # fmt: skip
    # What is drawn lies where something ends or turns away: beside a line that is an outline the
    # nearest surface is another, or at another depth, or slopes otherwise than on its other side.
    random = np.random.default_rng(1)
    rows = random.choice(len(seen.lines), 60, replace=False)
    for one, two in seen.lines[rows]:
        middle, along = (one + two) / 2, two - one
        if np.hypot(*along) < 2.0:
            continue
        aside = np.array([-along[1], along[0]]) / np.hypot(*along)
        looks = [nearest(corners, middle + k * 0.4 * aside, across, up, towards) for k in (-1, 1)]
        depths, normals = zip(*looks, strict=True)
        bends = abs(depths[0] - depths[1]) > 0.05 or normals[0] @ normals[1] < 0.9999
        assert bends, (one, two)


def nearest(
    corners: Floats, spot: Floats, across: Floats, up: Floats, towards: Floats
) -> tuple[float, Floats]:
    """Depth of the nearest triangle at a spot of the picture, and its normal; far away if none."""
    flat = np.stack([corners @ across, corners @ up], axis=-1) - spot
    deep = corners @ towards
    (a, b, c) = (flat[:, k] for k in range(3))

    def cross(p: Floats, q: Floats) -> Floats:
        return p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]

    area = cross(b - a, c - a)
    with np.errstate(divide="ignore", invalid="ignore"):
        shares = np.stack([cross(b, c), cross(c, a), cross(a, b)], axis=1) / area[:, None]
    inside = np.isfinite(shares).all(axis=1) & (shares >= 0).all(axis=1) & (np.abs(area) > 1e-9)
    if not inside.any():
        return -1e9, np.zeros(3)
    at = (shares[inside] * deep[inside]).sum(axis=1)
    k = np.flatnonzero(inside)[int(at.argmax())]
    normal = np.cross(corners[k, 1] - corners[k, 0], corners[k, 2] - corners[k, 0])
    return float(at.max()), normal / np.linalg.norm(normal)


def test_only_what_leaves_its_plane_has_a_sheet_from_three_sides() -> None:
    leaves = leaves_of(
        evaluated("tray-shuttle"), evaluated("tray-shuttle").motion.poses[0], "views"
    )
    assert leaves == ()
    (leaf,) = leaves_of(evaluated("seed-bin"), evaluated("seed-bin").motion.poses[0], "views")
    words = [mark.words for mark in leaf.marks if isinstance(mark, Text)]
    assert {"Front", "From above", "From the left"} <= set(words)


# What is measured by hand -------------------------------------------------------------------------


def test_what_is_measured_by_hand_between_planes_is_meant_in_space() -> None:
    evaluation = evaluated("potting-boom")
    resolved, poses = evaluation.resolved, evaluation.motion.poses[150]
    scene = Scene(resolved, poses)
    snaps = {(s.body, s.snap.place.id): s for s in all_snaps(resolved, poses) if s.snap.known}
    one, two = snaps["pedestal", "middle"], snaps["jaw_left", "tip"]
    reading = measure_now(scene, poses, [one, two])
    (a, _), (b, _) = (
        by_hand(evaluation, body, place, poses)
        for body, place in (("pedestal", "middle"), ("jaw_left", "tip"))
    )
    units = resolved.units
    assert dict(reading.rows)["Distance in space"] == units.format(
        float(np.linalg.norm(b - a)), LENGTH
    )
    assert np.array(reading.first) == pytest.approx(a, abs=1e-9)
    assert np.array(reading.second) == pytest.approx(b, abs=1e-9)
    gap = gap_now(scene, poses, "pedestal", "mast")
    assert gap is not None and dict(gap.rows)["Smallest gap"] == "1.00 mm"
    assert gap.second[2] - gap.first[2] == pytest.approx(1.0, abs=1e-6)
    kept = kept_measure(scene, one, two).apply(evaluation.source)
    shown = measures_now(Scene(resolve(kept), poses), poses)
    assert shown[-1][1] == units.format(float(np.linalg.norm(b - a)), LENGTH)
