"""Cylinders: a telescoping slide that counts from its dead length over its own stroke."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.authoring.placing import placed_at
from anakinema.document import model as m
from anakinema.document.kinds import KINDS
from anakinema.document.resolve import resolve
from anakinema.edits.joints import can_reverse
from anakinema.edits.measured_in import SetUnits
from anakinema.edits.values import SetDimension
from anakinema.errors import ValueOutOfRangeError
from anakinema.files.native import document_text, parse_document, read_document
from anakinema.findings.evaluate import evaluate
from anakinema.findings.event_wording import event_words, guide_words
from anakinema.findings.finding import Outcome
from anakinema.findings.wording import value_words
from anakinema.mechanism.kernels import rows_of, value_kernel
from anakinema.motion.motion import EventKind
from anakinema.resources import demo_path
from tests import mechanisms as build
from tests.ready import evaluated


def law_of_cosines(a: float, b: float, c: float) -> float:
    """Angle between the sides a and b of a triangle, c across from it (Euclid, Elements II.12)."""
    return math.acos((a * a + b * b - c * c) / (2 * a * b))


def lifter(dead: float, stroke: float, **more: object) -> m.Document:
    """An arm about the origin, pushed up by a cylinder from below its pivot."""
    parts = [
        build.part("frame", o=(0, 0), foot=(60, -150)),
        build.part("arm", a=(0, 0), b=(120, 0)),
        build.part("barrel", pivot=(0, 0), axis=(0, 0)),
        build.part("rod", eye=(0, 0), axis=(0, 0)),
    ]
    length = math.dist((60, -150), (120, 0))
    turn = math.atan2(150, 60)
    bodies = [
        build.body("frame", fixed=True),
        build.body("arm"),
        build.body("barrel", 60, -150, turn),
        build.body("rod", 60 + length * math.cos(turn), -150 + length * math.sin(turn), turn),
    ]
    joints = [
        build.joint("pin", "revolute", "frame.o", "arm.a"),
        build.joint("foot", "revolute", "frame.foot", "barrel.pivot"),
        build.joint("eye", "revolute", "arm.b", "rod.eye"),
        build.joint(
            "push",
            "cylinder",
            "barrel.axis",
            "rod.axis",
            dead_length=dead,
            stroke=stroke,
            guided=20.0,
            **more,
        ),
    ]
    return build.document(parts, bodies, joints)


@pytest.mark.parametrize(("dead", "stroke"), [(140.0, 80.0), (150.0, 33.0), (101.0, 81.0)])
def test_an_arm_rises_by_the_law_of_cosines(dead: float, stroke: float) -> None:
    drawn = math.hypot(60, 150) - dead
    document = build.driven(lifter(dead, stroke), ("push", drawn, stroke), count=40)
    motion = build.motion(document)
    joints = [joint.id for joint in document.joints]
    value, angle = (motion.values[:, joints.index(name)] for name in ("push", "pin"))
    foot = math.hypot(60, 150)
    below = math.atan2(150, 60)
    wanted = [law_of_cosines(120, foot, dead + v) - below for v in value.tolist()]
    assert value[-1] == pytest.approx(stroke, abs=1e-12)
    assert angle == pytest.approx(wanted, abs=1e-9)


def test_it_ends_at_its_stroke_and_says_so() -> None:
    drawn = math.hypot(60, 150) - 140.0
    document = build.driven(lifter(140.0, 40.0), ("push", drawn, 60.0), count=30)
    evaluation = evaluate(document)
    motion = evaluation.motion
    (end,) = [event for event in motion.events if event.kind is EventKind.SLOT_END]
    assert end.value == pytest.approx(40.0, abs=1e-9)
    (program,) = [f for f in evaluation.verdict.findings if f.kind == "program"]
    assert value_words(evaluation, program) == "stopped by the end of a stroke"
    assert motion.values[-1, 3] == pytest.approx(40.0, abs=1e-9)
    assert "comes to the end of its stroke at 40.00 mm" in event_words(evaluation, end)
    words = guide_words(evaluation, 3)
    assert "140.00 mm from pivot to pivot pushed in, 180.00 mm out" in words
    assert "guided over 60.00 mm to 20.00 mm" in words
    assert "at the end of its stroke at 0.00 mm and 40.00 mm" in words


@pytest.mark.parametrize(
    ("limits", "wanted"),
    [
        ({}, (0.0, 80.0, "stop", "stop")),
        ({"least": 10.0}, (10.0, 80.0, "limit", "stop")),
        ({"least": -5.0, "greatest": 70.0}, (0.0, 70.0, "stop", "limit")),
        ({"greatest": 90.0}, (0.0, 80.0, "stop", "stop")),
    ],
)
def test_limits_narrow_its_own_ends(limits: dict[str, float], wanted: tuple[object, ...]) -> None:
    document = lifter(140.0, 80.0, limits=m.Limits(**limits))
    values = resolve(document).joints[3]
    assert (values.least, values.greatest, values.least_by, values.greatest_by) == wanted


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"dead_length": None}, "no dead length"),
        ({"stroke": None}, "no stroke"),
        ({"stroke": 0.0}, "stroke is not above zero"),
        ({"guided": -1.0}, "below zero"),
        (
            {"stroke": 121.0},
            "121.00 mm with 20.00 mm guided does not go into a dead length of 140.00",
        ),
        ({"stroke": "3 deg"}, "a length is needed"),
    ],
)
def test_impossible_lengths_are_refused_with_the_joint(
    change: dict[str, object], words: str
) -> None:
    document = lifter(140.0, 80.0)
    joint = document.joints[3].model_copy(update=change)
    bad = document.model_copy(update={"joints": (*document.joints[:3], joint)})
    with pytest.raises(ValueError, match=words) as caught:
        resolve(bad)
    assert "joint 'push'" in str(caught.value)


def placed(count: int = 1) -> m.Document:
    document = m.Document()
    for k in range(count):
        edit, body = placed_at(document, "kit:cylinder", 10.0, 50.0 * k)
        document = edit.apply(document)
        assert body == document.bodies[2 * k].id
    return document


def test_the_shelf_makes_barrel_and_rod_and_what_slides() -> None:
    document = placed(2)
    assert [body.id for body in document.bodies] == [
        "cylinder_barrel",
        "cylinder_rod",
        "cylinder_barrel_2",
        "cylinder_rod_2",
    ]
    assert parse_document(document_text(document).encode(), "placed") == document
    after = SetDimension("cylinder_barrel", "stroke", "90 mm").apply(document)
    after = SetDimension("cylinder_barrel", "dead_length", "150 mm").apply(after)
    resolved = resolve(after)
    assert [values.stroke.stroke for values in resolved.joints if values.stroke] == [90.0, 80.0]
    assert resolved.poses[:, 0].tolist() == [10.0, 160.0, 10.0, 150.0]
    assert resolved.heights.tolist() == [0.0] * 4


@pytest.mark.parametrize(
    "sizes",
    [
        {},
        {"bore": "12 mm", "rod": "6 mm"},
        {"wall": "5 mm"},
        {"stroke": "1 mm"},
        {"dead_length": "1 m", "stroke": "800 mm"},
    ],
)
def test_what_is_drawn_stops_where_the_joint_does(sizes: dict[str, str]) -> None:
    """The piston touches the rear wall pushed in and the shoulders of the gland pushed out."""
    document = placed()
    for name, value in sizes.items():
        document = SetDimension("cylinder_barrel", name, value).apply(document)
    resolved = resolve(document)
    stroke = resolved.joints[0].stroke
    assert stroke is not None
    tube = next(s for s in resolved.parts["cylinder_barrel"].slabs if s.id == "tube").region.polygon
    solid = resolved.parts["cylinder_rod"]
    piston, stem = (
        next(s for s in solid.slabs if s.id == name).region.polygon for name in ("piston", "stem")
    )
    xs = sorted({round(x, 9) for x, _ in tube.exterior.coords})
    _, inner, shoulder, front = xs
    for value, at in ((0.0, inner), (stroke.stroke, shoulder)):
        low, _, high, _ = (np.array(piston.bounds) + stroke.dead_length + value).tolist()
        assert (low if value == 0.0 else high) == pytest.approx(at, abs=1e-9)
    # The rod is guided from the piston's far end to the front of the gland.
    pushed_out = piston.bounds[0] + stroke.dead_length + stroke.stroke
    assert front - pushed_out == pytest.approx(stroke.guided, abs=1e-9)
    assert stem.bounds[3] < min(abs(y) for x, y in tube.exterior.coords if x > shoulder + 1e-9)


def test_it_works_whatever_the_units_and_cannot_be_turned_round() -> None:
    document = read_document(demo_path("tip-out-carrier"))
    inches = SetUnits("in", "rad").apply(document)
    before, after = resolve(document), resolve(inches)
    for one, two in zip(before.joints, after.joints, strict=True):
        assert (two.zero, two.least, two.greatest) == pytest.approx(
            (one.zero, one.least, one.greatest), nan_ok=True
        ) or one.least is two.least is None
    slides = [joint for joint in document.joints if joint.kind == "cylinder"]
    assert len(slides) == 2 and not any(map(can_reverse, slides))
    assert rows_of("cylinder") == rows_of("prismatic")
    assert value_kernel("cylinder") is value_kernel("prismatic")
    assert KINDS["cylinder"].stated == ("dead_length", "stroke", "guided")


def test_the_tip_out_carrier_by_hand() -> None:
    """Both triangles in closed form: the arm by its lift cylinder, the tray by the other."""
    evaluation = evaluated("tip-out-carrier")
    assert evaluation.verdict.outcome is Outcome.PASS
    by_id = {finding.id: finding for finding in evaluation.verdict.findings}
    foot, lug = math.hypot(70, 170), math.hypot(110, 20)
    raised = [law_of_cosines(foot, lug, 140 + v) for v in (16.0, 76.0)]
    assert by_id["raised"].value == pytest.approx(raised[1] - raised[0], abs=1e-9)
    base, horn = math.hypot(160, 35), math.hypot(10, 45)
    tipped = [law_of_cosines(base, horn, 140 + v) for v in (11.0, 56.0)]
    assert by_id["tipped"].value == pytest.approx(tipped[1] - tipped[0], abs=1e-9)
    assert by_id["lift_reserve"].value == pytest.approx(80.0 - 76.0, abs=1e-9)


def test_a_dimension_that_no_longer_fits_is_refused_by_name() -> None:
    document = SetDimension("cylinder_barrel", "stroke", "130 mm").apply(placed())
    with pytest.raises(ValueOutOfRangeError, match="does not go into a dead length"):
        resolve(document)
