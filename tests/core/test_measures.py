"""Measures and what is made of them, against closed forms and against many fine steps."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.document.depending import Going, dependents
from anakinema.document.flatten import flatten
from anakinema.document.measured import measured_as, requirement_dimension
from anakinema.document.model.earlier import MADE_OF
from anakinema.document.references import bodies_named, joints_named, renamed
from anakinema.document.resolve import resolve
from anakinema.edits.joints import ReverseJoint
from anakinema.errors import AnakinemaError, MissingNameError, ValueOutOfRangeError
from anakinema.files.native import document_text, parse_document, read_document
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import finding_why, value_words
from anakinema.measures import Located, Subject, measure_of
from anakinema.measures.joint import folded
from anakinema.record.report import report_json
from anakinema.resources import demo_names, demo_path
from anakinema.session.lane import lanes
from anakinema.units import ANGLE, LENGTH, NUMBER
from tests import mechanisms as build

SIDES = {"first": build.side("crank.gone"), "second": build.side("base.b")}


def rocker(*requirements: m.Requirement, start: float = 0.1, count: int = 90) -> Evaluation:
    """Crank 40, coupler 120, rocker 80, base 100, one turn, with requirements."""
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, start),
        ("crank_pivot", start, start + build.FULL_TURN),
        count=count,
    )
    return evaluate(doc.model_copy(update={"requirements": requirements}))


def found(evaluation: Evaluation, name: str) -> Finding:
    return next(f for f in evaluation.verdict.findings if f.id == name)


TIP, PIVOT = build.side("crank.b"), build.side("base.b")
"""The pin of crank and coupler, and where the rocker turns."""


@pytest.mark.parametrize("count", [7, 90, 721])
@pytest.mark.parametrize(
    ("reduce", "value"), [("least", 60.0), ("greatest", 140.0), ("range", 80.0)]
)
def test_a_distance_is_least_and_greatest_where_crank_and_base_are_in_line(
    reduce: str, value: float, count: int
) -> None:
    """Crank 40 on base 100: 60 folded, 140 stretched, between the steps whatever their number."""
    need = build.asked("d", "distance", reduce, first=TIP, second=PIVOT, least=1.0)
    evaluation = rocker(need, count=count)
    finding = found(evaluation, "d")
    assert finding.value == pytest.approx(value, abs=1e-9)
    assert finding.outcome is Outcome.PASS and finding.dimension == LENGTH
    words = finding_why(evaluation, finding)
    assert "located exactly" in words and "two places" in words


def test_the_time_ratio_of_a_distance_is_that_of_equal_halves() -> None:
    """In line at 0 and at half a turn: both strokes last as long."""
    need = build.asked("q", "distance", "time_ratio", first=TIP, second=PIVOT, least=0.99)
    finding = found(rocker(need), "q")
    assert finding.value == pytest.approx(1.0, abs=1e-9)
    assert finding.dimension == NUMBER


@settings(max_examples=25)
@given(
    crank=st.floats(20, 39), base=st.floats(95, 130), count=st.integers(5, 60), far=st.booleans()
)
def test_extremes_of_distances_are_those_of_fine_steps(
    crank: float, base: float, count: int, far: bool
) -> None:
    """Against 20,000 steps of the closed loop, for a point of the coupler too."""
    doc = build.driven(
        build.four_bar(crank, 120, 80, base, 0.3), ("crank_pivot", 0.3, 0.3 + 6.0), count=count
    )
    evaluation = evaluate(doc)
    one, two = (build.side("coupler.b"), build.side("base.a")) if far else (TIP, PIVOT)
    measure = measure_of(
        evaluation.resolved, m.DistanceMeasure(kind="distance", first=one, second=two)
    )
    assert isinstance(measure, Located)
    looks = measure.looks(evaluation.motion, "range")
    fine = evaluation.motion.at(np.linspace(0.0, evaluation.motion.last, 20_001))
    values = measure.values(fine)
    assert looks.values.min() <= values.min() + 1e-9
    assert looks.values.max() >= values.max() - 1e-9
    assert looks.values.min() == pytest.approx(values.min(), abs=1e-5)
    assert looks.values.max() == pytest.approx(values.max(), abs=1e-5)


def test_a_transmission_angle_is_greatest_where_the_links_stand_square() -> None:
    """120 and 80 stand square over sqrt(120^2 + 80^2) = 144 > 140: never, so at the far end."""
    need = build.asked(
        "mu",
        "transmission",
        "greatest",
        joint="rocker_pin",
        first_place="a",
        second_place="a",
        least=0.1,
    )
    finding = found(rocker(need), "mu")
    wide = math.acos((120**2 + 80**2 - 140**2) / (2 * 120 * 80))
    assert finding.value == pytest.approx(wide, abs=1e-9)
    assert finding.dimension == ANGLE
    # A longer base reaches past the square.
    doc = build.driven(build.four_bar(40, 120, 80, 110, 0.1), ("crank_pivot", 0.1, 6.3), count=31)
    finding = found(evaluate(doc.model_copy(update={"requirements": (need,)})), "mu")
    assert finding.value == pytest.approx(math.pi / 2, abs=1e-12)


@given(st.floats(-50, 50))
def test_folding_is_into_a_quarter_turn(angle: float) -> None:
    turned = float(folded(np.array([angle]))[0])
    assert 0.0 <= turned <= math.pi / 2 + 1e-12
    assert math.cos(turned) == pytest.approx(abs(math.cos(angle)), abs=1e-9)


def test_a_bound_on_both_ends_is_judged_on_the_nearer() -> None:
    need = build.asked("d", "distance", "least", first=TIP, second=PIVOT, least=10.0, greatest=59.0)
    finding = found(rocker(need), "d")
    assert finding.outcome is Outcome.FAIL
    assert finding.margin == pytest.approx(-1.0, abs=1e-9)


def test_every_measure_kept_or_asked_is_a_lane_and_joints_are_shown_once() -> None:
    kept = build.kept_distance("span", TIP, PIVOT)
    angle = m.KeptMeasure(id="swing", measure=m.JointMeasure(kind="joint", joint="rocker_pivot"))
    asked = (
        build.asked("t", "joint", "range", joint="rocker_pivot", least=0.1),
        build.asked("q", "joint", "time_ratio", joint="rocker_pivot", least=0.1),
        build.asked("d", "distance", first=TIP, second=PIVOT, least=1.0, greatest=70.0),
        build.asked("r", "distance", "range", first=TIP, second=PIVOT, least=70.0),
    )
    doc = rocker().source.model_copy(update={"requirements": asked, "measures": (kept, angle)})
    shown = lanes(evaluate(doc))
    assert [lane.title for lane in shown] == ["rocker pivot", "d", "r", "span", "swing"]
    assert (shown[1].least, shown[1].greatest, shown[1].dimension) == (1.0, 70.0, LENGTH)
    # What is asked of a range bounds none of the values.
    assert (shown[2].least, shown[2].greatest, shown[2].finding) == (None, None, "r")
    assert shown[4].dimension == ANGLE
    assert np.array_equal(shown[1].values, shown[3].values)


def test_a_first_look_measures_at_its_steps() -> None:
    need = build.asked("d", "distance", first=TIP, second=PIVOT, least=1.0)
    exact = rocker(need)
    look = first_look(exact.source, exact)
    assert look is not None and not look.is_exact
    assert found(look, "d").value == pytest.approx(60.0, abs=0.2)
    assert (found(look, "d").value or 0.0) >= 60.0 - 1e-9


@pytest.mark.parametrize("along", [0.0, 1.0, -2.5, "30 deg"])
def test_the_way_of_a_crank_pin_along_any_direction_is_its_diameter(along: float | str) -> None:
    """At most where the crank points that way, by 40 either way of its pivot."""
    asked = (
        build.asked("r", "way", "range", place=TIP, along=along, least=79.9999),
        build.asked("g", "way", "greatest", place=TIP, along=along, greatest=40.0001),
        build.asked("l", "way", "least", place=TIP, along=along, least=-40.0001),
    )
    evaluation = rocker(*asked, count=17)
    values = [found(evaluation, name).value for name in "rgl"]
    assert values == pytest.approx([80.0, 40.0, -40.0], abs=1e-9)
    assert all(found(evaluation, name).outcome is Outcome.PASS for name in "rgl")
    angle = math.pi / 6 if isinstance(along, str) else along
    high = found(evaluation, "g").progress or 0.0
    turned = evaluation.motion.at(np.array([high])).poses[0, 1, 2]
    assert math.cos(turned - angle) == pytest.approx(1.0, abs=1e-9)


def test_a_direction_that_cannot_be_read_is_named() -> None:
    with pytest.raises(AnakinemaError, match="no_such"):
        rocker(build.asked("x", "way", place=TIP, along="no_such", least=1.0))


@pytest.mark.parametrize(
    ("need", "reason"),
    [
        (build.asked("x", "gap", "greatest", least=1.0), "no greatest is made of a gap"),
        (build.asked("x", "gap", first="crank", second="crank", least=1.0), "with itself"),
        (build.asked("x", "joint", joint="rocker_pivot"), "asks for nothing"),
    ],
)
def test_what_cannot_be_asked_is_refused_at_its_requirement(
    need: m.Requirement, reason: str
) -> None:
    with pytest.raises(AnakinemaError, match=reason) as caught:
        rocker(need)
    error = caught.value
    assert isinstance(error, (MissingNameError, ValueOutOfRangeError))
    assert error.where == "requirement 'x'" and error.remedy


@pytest.mark.parametrize(
    ("need", "reason"),
    [
        (build.asked("x", "joint", joint="gone", least=1.0), "no joint 'gone'"),
        (build.asked("x", "gap", first="gone", least=1.0), "no body 'gone'"),
        (build.asked("x", "distance", **SIDES, least=1.0), "no place"),
    ],
)
def test_what_is_asked_of_nothing_cannot_be_judged_and_stops_nothing(
    need: m.Requirement, reason: str
) -> None:
    """The rest of the mechanism is judged as ever; the requirement never passes."""
    evaluation = rocker(need, build.asked("ok", "joint", "range", joint="rocker_pivot", least=0.1))
    finding = found(evaluation, "x")
    assert finding.outcome is Outcome.UNKNOWN and evaluation.verdict.exit_status == 1
    assert reason in value_words(evaluation, finding) and finding_why(evaluation, finding)
    assert found(evaluation, "ok").outcome is Outcome.PASS
    assert [lane.title for lane in lanes(evaluation)] == ["rocker pivot"]
    assert parse_document(document_text(evaluation.source).encode(), "file") == evaluation.source


def test_a_measure_without_limits_is_not_judged() -> None:
    need = build.asked("r", "reserve", joint="rocker_pivot", least=0.1)
    evaluation = rocker(need)
    finding = found(evaluation, "r")
    assert (finding.outcome, finding.reason) == (Outcome.UNKNOWN, "no limits")
    # Its joint is shown all the same.
    assert [lane.title for lane in lanes(evaluation)] == ["rocker pivot"]


EARLIER = {
    "travel": ({"joint": "rocker_pivot"}, {"least": 0.1, "greatest": 2.0, "comfort": 0.2}),
    "reserve": ({"joint": "rocker_pivot"}, {"least": 0.1, "comfort": 0.2}),
    "transmission": (
        {"joint": "rocker_pin", "first_place": "a", "second_place": "a"},
        {"least": 0.1},
    ),
    "time_ratio": ({"joint": "rocker_pivot"}, {"least": 1.0, "greatest": 2.0}),
    "gap": ({"first": "crank", "second": "rocker"}, {"least": "1 mm", "comfort": "2 mm"}),
}


def test_files_of_version_1_open_and_ask_the_same() -> None:
    assert set(EARLIER) == set(MADE_OF)
    data = json.loads(document_text(rocker().source))
    data["version"] = 1
    data["requirements"] = [
        {"kind": kind, "id": kind, "name": "as before", **named, **bounds}
        for kind, (named, bounds) in EARLIER.items()
    ]
    ends = {"first": {"body": "crank", "place": "a"}, "second": {"body": "base", "place": "a"}}
    data["measures"] = [{"id": "span", "name": "Span", **ends}]
    document = parse_document(json.dumps(data).encode(), "old file")
    assert document.version == 2
    for requirement in document.requirements:
        named, bounds = EARLIER[requirement.id]
        assert requirement.name == "as before"
        stated = requirement.model_dump(exclude_defaults=True)
        assert {key: stated[key] for key in bounds} == bounds
        assert {key: stated["measure"][key] for key in named} == named
        assert (stated["measure"]["kind"], stated["reduce"]) == MADE_OF[requirement.id]
    (kept,) = document.measures
    assert kept.measure.model_dump(exclude_defaults=True) == {"kind": "distance", **ends}
    judged = {f.kind for f in evaluate(document).verdict.findings}
    assert set(EARLIER) <= judged
    assert parse_document(document_text(document).encode(), "again") == document


def test_the_places_of_an_earlier_kind_are_still_named_in_errors() -> None:
    data = json.loads(document_text(rocker().source))
    data["requirements"] = [{"kind": "travel", "id": "t", "joint": "rocker_pivot", "least": []}]
    with pytest.raises(AnakinemaError) as caught:
        parse_document(json.dumps(data).encode(), "old file")
    assert "requirements 't'" in caught.value.where and "least" in caught.value.where


@pytest.mark.parametrize("name", demo_names())
def test_whatever_names_a_body_or_joint_goes_with_it_and_is_renamed_with_it(name: str) -> None:
    """Against the text of the file: an id in quotes as a value is a name."""
    document = flatten(read_document(demo_path(name))).document
    for body in document.bodies:
        gone = dependents(document, Going(bodies=frozenset((body.id,))))
        for requirement in document.requirements:
            text = requirement.model_dump_json(include={"measure", "at"})
            named = f'"{body.id}"' in text or any(
                f'"joint":"{joint}"' in text for joint in gone.joints
            )
            assert (requirement.id in gone.requirements) == named
    new = renamed(document.requirements, lambda b: f"{b}_x", lambda j: f"{j}_y")
    assert list(bodies_named(new)) == [f"{b}_x" for b in bodies_named(document.requirements)]
    assert list(joints_named(new)) == [f"{j}_y" for j in joints_named(document.requirements)]
    same = renamed(document.requirements, lambda b: b, lambda j: j)
    assert all(one is two for one, two in zip(same, document.requirements, strict=True))


def test_a_joint_turned_round_keeps_its_transmission_angle() -> None:
    need = build.asked(
        "mu", "transmission", joint="crank_pin", first_place="a", second_place="b", least=0.1
    )
    before = rocker(need)
    after = evaluate(ReverseJoint("crank_pin").apply(before.source))
    assert found(after, "mu").value == pytest.approx(found(before, "mu").value, abs=1e-9)
    turned = after.source.requirements[0].measure
    assert isinstance(turned, m.TransmissionMeasure)
    assert (turned.first_place, turned.second_place) == ("b", "a")


def test_every_kind_of_measure_can_be_read_measured_and_worded() -> None:
    """One requirement of each kind and reduction on one mechanism, none forgotten anywhere."""
    evaluation = rocker()
    named = {
        "joint": {"joint": "rocker_pivot"},
        "reserve": {"joint": "rocker_pivot"},
        "transmission": {"joint": "rocker_pin", "first_place": "a", "second_place": "a"},
        "gap": {},
        "distance": {"first": TIP, "second": PIVOT},
        "way": {"place": TIP, "along": 0.3},
        "used": {"joint": "rocker_pivot"},
        "joint_rate": {"joint": "rocker_pivot", "order": 2},
        "place_rate": {"place": TIP},
        "path": {"place": TIP},
        "straight": {"place": TIP},
        "round": {"place": TIP},
        "dwell": {"joint": "rocker_pivot", "band": 0.1},
        "angle": {"first": PIVOT, "second": build.side("rocker.a")},
        "freedoms": {},
        "phase": {"joint": "rocker_pivot", "other": "crank_pivot"},
        "driver_share": {"joint": "crank_pivot"},
        "housing": {"housing": "base"},
        "pinch": {"what": "speed", "size": "25 mm"},
        "faces": {"first": "crank", "second": "base"},
        "rubbing": {},
        "wall": {"body": "crank"},
        "formula": {"text": "2 mm", "gives": "mm"},
    }
    # They need joints that this mechanism has not; they have tests of their own.
    elsewhere = {"pressure", "guided", "overhang"}
    asked = []
    for kind in m.MEASURES:
        word = kind.model_fields["kind"].annotation.__args__[0]  # type: ignore[union-attr]
        if word in elsewhere:
            continue
        measure = kind.model_validate({"kind": word, **named[word]})
        for reduce in measured_as(measure).reductions:
            asked.append(build.asked(f"{word}_{reduce}", word, reduce, **named[word], least=-9.0))
    evaluation = rocker(*asked)
    kinds = {joint.id: joint.kind for joint in evaluation.document.joints}
    for requirement in asked:
        finding = found(evaluation, requirement.id)
        assert finding.dimension == requirement_dimension(kinds, requirement)
        assert finding_why(evaluation, finding)
        assert finding.value is not None or finding.reason in ("no limits", "nothing to compare")
    told = {f["id"]: f for f in json.loads(json.dumps(report_json(evaluation)))["findings"]}
    assert told["joint_rate_size"]["unit"] == "deg/s^2" and told["path_range"]["unit"] == "mm"
    assert told["path_range"]["value"] == pytest.approx(80 * math.pi, rel=1e-6)
    subject = Subject(evaluation.resolved, evaluation.motion, evaluation.gaps)
    assert resolve(evaluation.source).requirements == evaluation.resolved.requirements
    for requirement in asked:
        measure = measure_of(evaluation.resolved, requirement.measure)
        if isinstance(measure, Located):
            curve = measure.curve(subject)
            if curve is None:
                assert requirement.measure.kind == "used"
            else:
                assert curve.values.shape == evaluation.motion.progress.shape
