"""The stack in section, moves in it, and readings between places and bodies."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.authoring.measuring import at_snap, between_snaps, gap_between
from anakinema.authoring.section import faces, lifted, section, section_through
from anakinema.authoring.snap_points import placed_snap
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits.structure import SetJoint
from anakinema.findings.evaluate import evaluate
from anakinema.parts.shelf import recipe
from anakinema.session import lanes
from tests import mechanisms as build
from tests.core.test_joining import bench, four_bar, join


def test_a_cut_through_a_pin_in_its_hole_shows_both() -> None:
    document = bench(crank="40 mm")
    document = join(document, "crank.a", "base.a").edit.apply(document)
    resolved = resolve(document)
    cuts, axes = section(resolved, resolved.poses, 0.0, 0.0, 0.0)
    base = [c for c in cuts if c.body == 0]
    # Plate from -20 to 120, pins of 8 mm at 0 and 100.
    spans = sorted((round(c.start, 6), round(c.end, 6), c.bottom, c.top) for c in base)
    assert spans == [(-20.0, 120.0, -8.0, 0.0), (-4.0, 4.0, 0.0, 6.0), (96.0, 104.0, 0.0, 6.0)]
    turn = resolved.poses[1, 2]
    along = [c for c in section(resolved, resolved.poses, 0.0, 0.0, turn)[0] if c.body == 1]
    # The bar is cut from rim to hole, between the holes, and from the other hole to the rim.
    ends = sorted((round(c.start, 4), round(c.end, 4)) for c in along)
    assert ends == [(-10.0, -4.1), (4.1, 35.9), (44.1, 50.0)]
    assert {(c.bottom, c.top) for c in along} == {(0.0, 6.0)}
    assert [axis.joint for axis in axes] == ["crank_on_base"]
    assert axes[0].at == pytest.approx(0.0, abs=1e-9)


@given(st.floats(-math.pi, math.pi), st.floats(-60, 60), st.floats(-60, 60))
@hypothesis_settings(max_examples=30)
def test_a_disc_is_cut_along_its_chord(angle: float, x: float, y: float) -> None:
    part = recipe("post").part("post", diameter="50 mm")
    document = m.Document(parts=(part,), bodies=(m.Body(id="p", part="post"),))
    resolved = resolve(document)
    cuts, _ = section(resolved, resolved.poses, x, y, angle)
    away = abs(-math.sin(angle) * x + math.cos(angle) * y)
    if away > 24.999:
        return
    (cut,) = cuts
    assert cut.end - cut.start == pytest.approx(2 * math.sqrt(625 - away**2), abs=0.7)
    middle = -(math.cos(angle) * x + math.sin(angle) * y)
    assert (cut.start + cut.end) / 2 == pytest.approx(middle, abs=0.05)


@given(st.integers(1, 3), st.floats(-40, 40))
@hypothesis_settings(max_examples=20)
def test_a_body_moved_in_the_stack_leaves_all_others_where_they_are(
    body: int, height: float
) -> None:
    document, _ = four_bar()
    before = resolve(document)
    name = before.document.bodies[body].id
    after = resolve(lifted(before, name, height).apply(document))
    wanted = before.heights.copy()
    wanted[body] = height
    assert after.heights == pytest.approx(wanted, abs=1e-6)


def test_faces_and_the_joints_a_cut_is_laid_through() -> None:
    document, _ = four_bar()
    resolved = resolve(document)
    assert faces(resolved, "crank")[0] == -8.0
    assert -8.0 not in faces(resolved, "base")
    two = section_through(resolved.document, ("coupler_on_rocker",))
    assert two[0] == "coupler_on_rocker"
    assert len(two) == 2
    assert section_through(m.Document(), ()) == ()


def test_readings_between_places_say_distance_shares_and_angle() -> None:
    document, _ = four_bar()
    resolved = resolve(document)
    one = placed_snap(resolved, resolved.poses, "base", "a")
    two = placed_snap(resolved, resolved.poses, "base", "b")
    rows = dict(between_snaps(resolved, one, two).rows)
    assert rows["Distance"] == "100.00 mm"
    assert (rows["in x"], rows["in y"]) == ("100.00 mm", "0.00 mm")
    assert rows["Angle of the line"] == "0.0°"
    crank = placed_snap(resolved, resolved.poses, "crank", "a")
    turned = dict(between_snaps(resolved, one, crank).rows)["Angle between directions"]
    angle = math.degrees(float(resolved.poses[1, 2])) % 360
    assert float(turned.rstrip("°")) == pytest.approx(min(angle, 360 - angle), abs=0.06)
    assert dict(at_snap(resolved, one).rows)["Place"].startswith("a, round 8.00 mm")


def test_the_gap_of_two_bodies_counts_shared_heights_or_says_it_does_not() -> None:
    posts = (
        recipe("post").part("low", diameter="10 mm", height="5 mm"),
        recipe("post").part("high", diameter="20 mm", height="5 mm"),
    )
    for height, note in ((0, "at shared heights"), (9, "seen from above")):
        document = m.Document(
            parts=posts,
            bodies=(
                m.Body(id="a", part="low", height=0),
                m.Body(id="b", part="high", height=height, pose=m.Pose(x=30, y=40)),
            ),
        )
        resolved = resolve(document)
        for pair in ((0, 1), (1, 0)):
            reading = gap_between(resolved, resolved.poses, *pair)
            rows = dict(reading.rows)
            assert rows["Smallest gap"] == "35.00 mm"
            assert rows["Counted"].startswith(note)
            assert math.dist(reading.first, reading.second) == pytest.approx(35.0)


def test_a_kept_measure_is_a_lane_over_the_motion() -> None:
    document, _ = four_bar()
    measure = build.kept_distance("span", build.side("crank.b"), build.side("base.b"))
    driver = m.Driver(id="d", joint="crank_on_base", start="20 deg", rate="10 rpm")
    stage = m.Stage(moves=(m.Move(driver="d", to="200 deg"),), count=30)
    document = document.model_copy(
        update={"measures": (measure,), "program": m.Program(drivers=(driver,), stages=(stage,))}
    )
    evaluation = evaluate(document)
    lane = next(each for each in lanes(evaluation) if each.title == "span")
    theta = evaluation.motion.poses[:, 1, 2]
    wanted = np.sqrt(40**2 + 100**2 - 2 * 40 * 100 * np.cos(theta))
    assert lane.values == pytest.approx(wanted, abs=1e-8)


def test_a_join_that_contradicts_heights_is_refused_by_place() -> None:
    document, _ = four_bar()
    wrong = SetJoint("coupler_on_rocker", "rise", 55.0).apply(document)
    with pytest.raises(ValueError, match="stand .* apart in the stack"):
        resolve(wrong)
    assert build.mechanism(document).unknowns == 9
