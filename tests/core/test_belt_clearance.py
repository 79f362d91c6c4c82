"""Clearance of runs: certified between the steps, and as brute force has it."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.analysis.belts import run_gap
from anakinema.analysis.gap import Gap
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.errors import AnakinemaError
from anakinema.files.native import read_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import finding_facts, finding_line, value_words
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import segment_distances
from anakinema.geometry.wraps import arc_distances
from anakinema.mechanism.belt_pairs import belt_pairs
from anakinema.motion.bounded import Bounded, with_bounds
from anakinema.motion.motion import Motion
from anakinema.resources import demo_path
from tests import mechanisms as build
from tests.conftest import share
from tests.contacts import disc, solid

TURN = 2 * math.pi
SUN, OUT, CENTRES = 50.0, 20.0, 180.0


def swept(
    outline: m.Slab, at: tuple[float, float], *, turns: float, count: int, thickness: float | None
) -> m.Document:
    """An arm carries a wheel once round a held wheel; its belt sweeps past a turning post."""
    doc = build.document(
        [
            build.part("base", a=(0.0, 0.0), post=at),
            build.part("arm", o=(0.0, 0.0), tip=(CENTRES, 0.0)),
            build.part("wheel", o=(0.0, 0.0)),
            solid("post", outline, o=(0.0, 0.0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("sun", part="wheel"),
            build.body("arm"),
            build.body("out", CENTRES, 0.0, part="wheel"),
            build.body("post", *at),
        ],
        [
            build.joint("held", "revolute", "base.a", "sun.o"),
            build.joint("arm", "revolute", "base.a", "arm.o"),
            build.joint("spin", "revolute", "arm.tip", "out.o"),
            build.joint("post", "revolute", "base.post", "post.o"),
        ],
    )
    over = (m.BeltWheel(joint="held", radius=SUN), m.BeltWheel(joint="spin", radius=OUT))
    doc = doc.model_copy(update={"belts": (m.Belt(id="belt", wheels=over, thickness=thickness),)})
    driven = (("held", 0.0, 0.0), ("arm", 0.0, TURN), ("post", 0.0, turns * TURN))
    return build.driven(doc, *driven, count=count)


def gap_of(doc: m.Document, **more: object) -> Gap:
    motion = build.motion(doc)
    passed = belt_pairs(motion.mechanism.resolved, motion.mechanism.belts)
    gap = run_gap(motion, passed, **more)  # type: ignore[arg-type]
    assert gap is not None
    return gap


def runs(arm: Floats) -> list[Floats]:
    """Both runs at some arm angles (N,), ends (N, 2, 2), from the right angles of the tangents."""
    lean = math.acos((SUN - OUT) / CENTRES)
    found = []
    for side in (1.0, -1.0):
        out = arm + side * lean
        normal = np.stack([np.cos(out), np.sin(out)], axis=1)
        centre = CENTRES * np.stack([np.cos(arm), np.sin(arm)], axis=1)
        found.append(np.stack([SUN * normal, centre + OUT * normal], axis=1))
    return found


ARC = 240
"""Chords of an arc in brute force; on the larger wheel they stand off by less than 0.005 mm."""


def wraps(arm: Floats) -> list[Floats]:
    """What lies on both wheels at some arm angles (N,), as lines (N, ARC + 1, 2)."""
    lean = math.acos((SUN - OUT) / CENTRES)
    out = arm[:, None] + np.linspace(-lean, lean, ARC + 1)
    back = arm[:, None] + np.linspace(lean, 2 * math.pi - lean, ARC + 1)
    centre = CENTRES * np.stack([np.cos(arm), np.sin(arm)], axis=1)[:, None]
    return [
        centre + OUT * np.stack([np.cos(out), np.sin(out)], axis=2),
        SUN * np.stack([np.cos(back), np.sin(back)], axis=2),
    ]


def brute_gap(
    outline: shapely.Geometry, at: tuple[float, float], turns: float, looks: int
) -> float:
    """mm: least distance from the whole belt to an outline that turns about its own place."""
    share_of = np.linspace(0.0, 1.0, looks)
    turned = -TURN * turns * share_of
    c, s = np.cos(turned)[:, None], np.sin(turned)[:, None]
    least = math.inf
    for ends in (*runs(TURN * share_of), *wraps(TURN * share_of)):
        away = ends - np.array(at)
        seen = np.stack(
            [c * away[..., 0] - s * away[..., 1], s * away[..., 0] + c * away[..., 1]], axis=-1
        )
        least = min(least, float(shapely.distance(shapely.linestrings(seen), outline).min()))
    return least


BAR = ((-20.0, -3.0), (30.0, -3.0), (30.0, 4.0), (-20.0, 4.0))


@given(
    radius=st.floats(205.0, 320.0),
    angle=st.floats(0.0, TURN),
    turns=st.floats(-2.0, 2.0),
    count=st.integers(6, 40),
    thickness=st.floats(0.0, 8.0),
)
@hypothesis_settings(max_examples=share(12, 3), deadline=None)
def test_gap_of_runs_holds_whatever_the_step(
    radius: float, angle: float, turns: float, count: int, thickness: float
) -> None:
    """A bar that turns about its place: no pose between the steps comes nearer than promised."""
    at = (radius * math.cos(angle), radius * math.sin(angle))
    bar = m.Slab(
        id="s",
        top=5.0,
        outline=m.Path(shape="path", vertices=tuple(m.Vertex(x=x, y=y) for x, y in BAR)),
    )
    doc = swept(bar, at, turns=turns, count=count, thickness=thickness)
    gap = gap_of(doc)
    found = brute_gap(shapely.Polygon(BAR), at, turns, 4_000) - thickness / 2
    assert gap.is_certified
    if gap.overlaps:
        # Brute force may step over the moment of touching; its steps are well below 1 mm.
        assert found < 1.0
    else:
        assert gap.least - 1e-2 <= found
        assert gap.most <= found + 1e-2
        assert gap.most - gap.least <= 0.0051


@pytest.mark.campaign
def test_no_run_passes_a_thin_post_between_two_steps() -> None:
    """Swept once round, a post of 0.05 mm anywhere between the wheels is cut, however few the
    steps; the steps alone would miss nearly all."""
    random = np.random.default_rng(5)
    cases, seen_by_steps = share(200, 10), 0
    for _ in range(cases):
        radius, angle = random.uniform(60.0, 183.0), random.uniform(0.0, TURN)
        at = (radius * math.cos(angle), radius * math.sin(angle))
        doc = swept(
            disc(0.0, 0.0, 0.05), at, turns=0.0, count=int(random.integers(12, 37)), thickness=None
        )
        assert gap_of(doc).overlaps, at
        seen_by_steps += gap_of(doc, exact=False).overlaps
    assert seen_by_steps < cases / 4


def test_stretches_below_what_is_asked_end_where_the_gap_is_that() -> None:
    """Beyond the arm's end: within 30 mm of a post while the outer wheel's tangent is near it."""
    at = (0.0, 215.0)
    doc = swept(disc(0.0, 0.0, 4.0), at, turns=0.0, count=20, thickness=2.0)
    gap = gap_of(doc, threshold=30.0)
    assert gap.below
    point = shapely.Point(*at)
    for progress in np.array(gap.below).ravel():
        arm = np.array([TURN * progress])
        ends = [run[0] for run in runs(arm)]
        away = min(shapely.distance(shapely.LineString(end), point) for end in ends)
        # On the outer wheel the belt is nearest along the radius that points at the post.
        centre = CENTRES * np.array([math.cos(arm[0]), math.sin(arm[0])])
        way = math.atan2(at[1] - centre[1], at[0] - centre[0]) - float(arm[0])
        if abs(math.remainder(way, math.tau)) < math.acos((SUN - OUT) / CENTRES):
            away = min(away, math.dist(centre, at) - OUT)
        # The post's rim is stated in chords that stand off by less than 0.00025 mm.
        assert away - 4.0 - 1.0 == pytest.approx(30.0, abs=3e-4)


@given(st.lists(st.integers(-480, 480).map(lambda k: k / 8), min_size=4, max_size=4))
@hypothesis_settings(max_examples=60, deadline=None)
def test_distance_of_a_segment_to_lines_and_arcs(numbers: list[float]) -> None:
    """A plate with a round end and a bore, against shapely with arcs in 4,096 pieces a quarter."""
    ends = np.array(numbers).reshape(1, 2, 2)
    plate = m.Slab(
        id="s",
        top=5.0,
        outline=m.Path(
            shape="path",
            vertices=(
                m.Vertex(x=0.0, y=-10.0),
                m.Vertex(x=40.0, y=-10.0, bulge=1.0),
                m.Vertex(x=40.0, y=10.0),
                m.Vertex(x=0.0, y=10.0),
            ),
        ),
        holes=(m.Hole(id="bore", outline=m.Circle(shape="circle", x=40.0, y=0.0, radius=6.0)),),
    )
    doc = build.document([solid("plate", plate, o=(0.0, 0.0))], [build.body("plate")], [])
    resolved = resolve(doc)
    region = resolved.part_of(resolved.document.bodies[0]).slabs[0].region
    found = segment_distances(region, ends)
    end = shapely.Point(40.0, 0.0)
    truth = shapely.box(0.0, -10.0, 40.0, 10.0).union(end.buffer(10.0, 4096))
    truth = truth.difference(end.buffer(6.0, 4096))
    line = shapely.LineString(ends[0])
    assert found.distance[0] == pytest.approx(shapely.distance(line, truth), abs=2e-6)
    assert shapely.distance(shapely.Point(found.first_point[0]), line) < 1e-9


def verdict(doc: m.Document) -> tuple[Evaluation, Finding]:
    evaluation = evaluate(doc)
    return evaluation, next(f for f in evaluation.verdict.findings if f.kind == "belt")


def test_finding_says_that_it_is_certified_and_counts_the_thickness() -> None:
    at = (0.0, 230.0)
    thin = verdict(swept(disc(0.0, 0.0, 5.0), at, turns=0.0, count=24, thickness=None))
    thick = verdict(swept(disc(0.0, 0.0, 5.0), at, turns=0.0, count=24, thickness="6 mm"))
    assert thin[1].value is not None and thick[1].value is not None
    assert thin[1].value - thick[1].value == pytest.approx(3.0, abs=0.01)
    rows = dict(finding_facts(*thick))
    assert rows["How sure"] == "certified: bounded between all steps"
    assert rows["Between"] == "belt and post"
    assert "belt and post" in finding_line(*thick)


def test_a_gap_asked_of_all_parts_is_asked_of_the_runs_too() -> None:
    doc = swept(disc(0.0, 0.0, 5.0), (0.0, 230.0), turns=0.0, count=24, thickness=None)
    asked = (
        build.asked("any", "gap", least="60 mm"),
        build.asked("post", "gap", first="post", least="3 mm"),
        build.asked("pair", "gap", first="post", second="arm", least="3 mm"),
    )
    evaluation = evaluate(doc.model_copy(update={"requirements": asked}))
    found = {f.id: f for f in evaluation.verdict.findings}
    assert found["any"].outcome is Outcome.FAIL and found["any"].gap is not None
    assert found["any"].gap.belt == 0 and found["any"].gap.below
    assert found["post"].value == pytest.approx(found["any"].value)
    assert found["pair"].outcome is Outcome.UNKNOWN


def test_a_run_through_a_part_fails_and_says_so() -> None:
    evaluation, found = verdict(
        swept(disc(0.0, 0.0, 5.0), (100.0, 0.0), turns=0.0, count=24, thickness=2.0)
    )
    assert found.outcome is Outcome.FAIL
    assert value_words(evaluation, found) == "runs into it"


@pytest.mark.parametrize("thickness", ["-1 mm", "40 mm"])
def test_a_thickness_that_cannot_be_is_stated(thickness: str) -> None:
    doc = swept(disc(0.0, 0.0, 5.0), (0.0, 230.0), turns=0.0, count=24, thickness=None)
    band = doc.belts[0].model_copy(update={"thickness": thickness})
    with pytest.raises(AnakinemaError, match=r"thickness of .* smallest wheel"):
        resolve(doc.model_copy(update={"belts": (band,)}))


@given(
    st.floats(5.0, 40.0),
    st.floats(-math.pi, math.pi),
    st.floats(0.2, 6.0),
    st.booleans(),
    st.floats(-60.0, 60.0),
    st.floats(-60.0, 60.0),
)
@hypothesis_settings(max_examples=60, deadline=None)
def test_distance_from_an_arc_is_that_of_many_chords(
    radius: float, first: float, wrap: float, back: bool, x: float, y: float
) -> None:
    """Against shapely with 20,000 chords, inside and outside the wheel."""
    turn = -wrap if back else wrap
    centre = np.array([[x, y]])
    angles = first + turn * np.linspace(0.0, 1.0, 20_001)
    arc = centre + radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    plate = shapely.Polygon([(-30, -8), (12, -20), (30, 5), (4, 2), (0, 25)])
    away, mine, theirs = arc_distances(plate, radius, centre, arc[None, [0, -1]], np.array([turn]))
    true = shapely.distance(shapely.LineString(arc), plate)
    assert away[0] == pytest.approx(true, abs=1e-5)
    if true > 0.0:
        assert math.dist(mine[0], theirs[0]) == pytest.approx(away[0], abs=1e-9)
        assert shapely.distance(shapely.Point(theirs[0]), plate) < 1e-9


def test_a_drive_that_is_fixed_nowhere_stands_as_its_first_body_does() -> None:
    """What nobody holds is held by the first body, here the frame: nothing else changes."""
    document = read_document(demo_path("head-belt"))
    adrift = tuple(b.model_copy(update={"fixed": False}) for b in document.bodies)
    found = evaluate(document.model_copy(update={"bodies": adrift})).gaps.belt(0, frozenset())
    fixed = evaluate(document).gaps.belt(0, frozenset())
    assert found is not None and fixed is not None and found.is_certified
    assert max(found.least, fixed.least) <= min(found.most, fixed.most) + 1e-6


def test_a_drive_without_bounds_of_its_speeds_is_not_looked_at_for_ever(monkeypatch) -> None:  # type: ignore[no-untyped-def]
    """More looks would not give it one, so it is called sampled."""

    def unbounded(motion: Motion, *at: Floats) -> Bounded:
        states = motion.at(at[0]) if at else motion.samples
        return with_bounds(states, np.full_like(states.poses, np.nan))

    monkeypatch.setattr("anakinema.analysis.belts.bounded_samples", unbounded)
    monkeypatch.setattr("anakinema.analysis.belts.bounded_at", unbounded)
    gaps = evaluate(read_document(demo_path("head-belt"))).gaps
    found = gaps.belt(0, frozenset())
    assert found is not None and not found.is_certified
    assert found.evaluations < 10_000
