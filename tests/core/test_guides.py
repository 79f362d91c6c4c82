"""Where slots, forks, grooves and curves end, and what happens there."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits.structure import SetJoint
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.event_wording import event_words, guide_words
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import value_words
from anakinema.motion.branch_path import End
from anakinema.motion.motion import EventKind
from tests import mechanisms as build
from tests.contacts import disc, slab, solid

CRANK = 30.0


def slotted(half: float, slot: float, pin: float, *, past: bool = False) -> m.Document:
    """A crank pin in the upright slot of a yoke that slides along x; the slot reaches ``half`` mm
    up and down to the middles of its round ends of radius ``slot``."""
    hole = m.Hole(
        id="slot",
        outline=m.Path(
            shape="path",
            vertices=(
                m.Vertex(x=slot, y=-half),
                m.Vertex(x=slot, y=half, bulge=1.0),
                m.Vertex(x=-slot, y=half),
                m.Vertex(x=-slot, y=-half, bulge=1.0),
            ),
        ),
    )
    yoke = slab([(-20, -60), (20, -60), (20, 60), (-20, 60)], (hole,))
    doc = build.document(
        [
            build.part("frame", o=(0, 0, 0)),
            solid("yoke", yoke, o=(0, 0, 0), v=(0, 0, math.pi / 2)),
            solid("crank", disc(CRANK, 0, pin), o=(0, 0), p=(CRANK, 0)),
        ],
        [build.body("frame", fixed=True), build.body("yoke", CRANK, 0), build.body("crank")],
        [
            build.joint("turn", "revolute", "frame.o", "crank.o"),
            build.joint("run", "prismatic", "frame.o", "yoke.o"),
            m.Joint(
                id="pin",
                kind="pin_in_slot",
                first=m.Side(
                    body="yoke", place="v", pieces=(m.OutlinePiece(slab="s", hole="slot"),)
                ),
                second=m.Side(body="crank", place="p", pieces=(m.OutlinePiece(slab="s"),)),
            ),
        ],
        requirements=(build.asked("pair", "gap", first="yoke", second="crank", least=0.0),),
    )
    return build.driven(doc, ("turn", 0.0, 2 * math.pi), count=24, past_limits=past)


def finding(evaluation: Evaluation, kind: str) -> Finding:
    return next(f for f in evaluation.verdict.findings if f.kind == kind)


@pytest.mark.parametrize(("slot", "pin"), [(4.0, 4.0), (4.3, 4.0), (6.0, 2.5)])
def test_pin_stops_at_the_end_of_its_slot_by_its_real_play(slot: float, pin: float) -> None:
    """sin of the crank's angle is the pin's reach over the crank, whatever the step."""
    evaluation = evaluate(slotted(20.0, slot, pin))
    reach = 20.0 + slot - pin
    assert evaluation.motion.end is End.SLOT_END
    assert evaluation.motion.values[-1, 0] == pytest.approx(math.asin(reach / CRANK), abs=1e-9)
    (event,) = [e for e in evaluation.motion.events if e.kind is EventKind.SLOT_END]
    assert "end of its slot" in event_words(evaluation, event)
    assert finding(evaluation, "program").outcome is Outcome.FAIL
    assert value_words(evaluation, finding(evaluation, "program")) == (
        "stopped by the end of a slot"
    )


def test_slot_long_enough_is_no_stop() -> None:
    evaluation = evaluate(slotted(31.0, 4.0, 4.0))
    assert evaluation.motion.end is End.COMPLETE
    assert finding(evaluation, "program").outcome is Outcome.PASS


def test_run_past_limits_tells_by_how_much_and_fails_every_gap_of_the_pair() -> None:
    evaluation = evaluate(slotted(20.0, 4.5, 4.0, past=True))
    assert evaluation.motion.end is End.COMPLETE
    for kind in ("overlap", "gap"):
        found = finding(evaluation, kind)
        assert found.outcome is Outcome.FAIL and found.gap is not None
        assert found.gap.most == pytest.approx(-(CRANK - 20.5), abs=1e-6)
        assert {found.gap.first_body, found.gap.second_body} == {1, 2}


def with_sides_named(doc: m.Document) -> m.Document:
    """Only the slot's sides belong to the joint: its ends are compared like anything else."""
    sides = m.Side(
        body="yoke", place="v", pieces=(m.OutlinePiece(slab="s", hole="slot", edges=(0, 2)),)
    )
    joints = tuple(
        j.model_copy(update={"first": sides}) if j.id == "pin" else j for j in doc.joints
    )
    return doc.model_copy(update={"joints": joints})


def test_ends_of_a_slot_that_are_compared_tell_the_true_depth() -> None:
    found = finding(evaluate(with_sides_named(slotted(20.0, 4.0, 4.0, past=True))), "overlap")
    assert found.outcome is Outcome.FAIL and found.gap is not None
    assert found.gap.most == pytest.approx(-10.0, abs=1e-3)


def test_pin_at_rest_in_the_end_of_its_slot_is_no_overlap() -> None:
    evaluation = evaluate(with_sides_named(slotted(20.0, 4.0, 4.0)))
    assert finding(evaluation, "overlap").outcome is Outcome.PASS
    gap = finding(evaluation, "gap")
    assert gap.outcome is Outcome.PASS and gap.value == pytest.approx(0.0, abs=1e-9)


def forked(*, may_leave: bool, past: bool = False) -> m.Document:
    """A pin that is pushed out of the fork of an arm: walls along x from 0 to 40, open at 40."""
    fork = slab([(-20, -15), (40, -15), (40, -5), (0, -5), (0, 5), (40, 5), (40, 15), (-20, 15)])
    doc = build.document(
        [
            solid("frame", fork, o=(0, 0, 0), far=(0, 100, 0)),
            solid("pin", disc(0, 0, 5.0), o=(0, 0), along=(0, 0, 0)),
        ],
        [build.body("frame", fixed=True), build.body("pin", 20, 0)],
        [
            m.Joint(
                id="ride",
                kind="pin_in_slot",
                may_leave=may_leave,
                first=m.Side(
                    body="frame", place="o", pieces=(m.OutlinePiece(slab="s", edges=(2, 4)),)
                ),
                second=m.Side(body="pin", place="o", pieces=(m.OutlinePiece(slab="s"),)),
            )
        ],
    )
    return build.driven(doc, ("ride", 20.0, 70.0), count=10, past_limits=past)


def test_pin_leaves_a_fork_by_its_open_end_and_the_program_fails_there() -> None:
    evaluation = evaluate(forked(may_leave=False))
    assert evaluation.motion.end is End.LEFT
    assert evaluation.motion.values[-1, 0] == pytest.approx(40.0, abs=1e-9)
    assert finding(evaluation, "program").outcome is Outcome.FAIL
    (event,) = [e for e in evaluation.motion.events if e.kind is EventKind.LEAVES]
    assert "leaves its guide" in event_words(evaluation, event)
    assert "leaves its guide at 40" in guide_words(evaluation, 0)
    # At its bottom the fork is closed: the pin of radius 5 stops with its middle at 5 mm.
    (ride,) = evaluation.resolved.joints
    assert (ride.least, ride.least_by) == (pytest.approx(5.0, abs=1e-9), "stop")


def test_pin_that_may_leave_is_followed_and_stated() -> None:
    evaluation = evaluate(SetJoint("ride", "may_leave", True).apply(forked(may_leave=False)))
    assert evaluation.motion.end is End.COMPLETE
    (event,) = [e for e in evaluation.motion.events if e.kind is EventKind.LEAVES]
    assert 20 + 50 * event.progress == pytest.approx(40.0, abs=1e-9)
    assert not [f for f in evaluation.verdict.findings if f.kind == "guide"]


def test_run_past_an_open_end_tells_by_how_much() -> None:
    evaluation = evaluate(forked(may_leave=False, past=True))
    found = finding(evaluation, "guide")
    assert found.outcome is Outcome.FAIL
    assert found.value == pytest.approx(-30.0, abs=1e-9)


@pytest.mark.parametrize("turn", [0.0, 0.7, -2.0])
def test_tongue_in_a_groove_stops_at_both_walls(turn: float) -> None:
    """A tongue 30 long in a groove of 80: 25 mm each way, wherever the groove points."""
    c, s = math.cos(turn), math.sin(turn)

    def turned(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
        return [(c * x - s * y, s * x + c * y) for x, y in points]

    rim = turned([(-40, -6), (40, -6), (40, 6), (-40, 6)])
    groove = m.Hole(
        id="groove",
        outline=m.Path(shape="path", vertices=tuple(m.Vertex(x=x, y=y) for x, y in rim)),
    )
    plate = slab(turned([(-60, -20), (60, -20), (60, 20), (-60, 20)]), (groove,))
    doc = build.document(
        [
            solid("plate", plate, axis=(0, 0, turn)),
            solid("tongue", slab([(-15, -6), (15, -6), (15, 6), (-15, 6)]), axis=(0, 0, 0)),
        ],
        [build.body("plate", fixed=True), build.body("tongue", angle=turn)],
        [
            m.Joint(
                id="slide",
                kind="prismatic",
                first=m.Side(
                    body="plate", place="axis", pieces=(m.OutlinePiece(slab="s", hole="groove"),)
                ),
                second=m.Side(body="tongue", place="axis", pieces=(m.OutlinePiece(slab="s"),)),
            )
        ],
    )
    (values,) = resolve(doc).joints
    assert (values.least_by, values.greatest_by) == ("stop", "stop")
    assert (values.least, values.greatest) == pytest.approx((-25.0, 25.0), abs=1e-9)


def test_pin_in_a_bent_slot_stops_at_its_angles() -> None:
    """A slot on an arc of 50 mm over ±40 degrees, half-width 5, pin 4: the pin's middle goes on by
    the play of 1 mm beyond the middle of the round end, on the arc."""
    wide, lean = 5.0, math.radians(40)
    outer, inner = 50 + wide, 50 - wide
    ends = [
        (r * math.cos(a), r * math.sin(a))
        for r, a in ((outer, -lean), (outer, lean), (inner, lean), (inner, -lean))
    ]
    sweep = math.tan(2 * lean / 4)
    hole = m.Hole(
        id="slot",
        outline=m.Path(
            shape="path",
            vertices=(
                m.Vertex(x=ends[0][0], y=ends[0][1], bulge=sweep),
                m.Vertex(x=ends[1][0], y=ends[1][1], bulge=1.0),
                m.Vertex(x=ends[2][0], y=ends[2][1], bulge=-sweep),
                m.Vertex(x=ends[3][0], y=ends[3][1], bulge=1.0),
            ),
        ),
    )
    plate = slab([(-10, -70), (70, -70), (70, 70), (-10, 70)], (hole,))
    doc = build.document(
        [solid("plate", plate, o=(0, 0, 0)), solid("pin", disc(0, 0, 4.0), o=(0, 0))],
        [build.body("plate", fixed=True), build.body("pin", 50, 0)],
        [
            m.Joint(
                id="ride",
                kind="pin_on_arc",
                radius=50.0,
                first=m.Side(
                    body="plate", place="o", pieces=(m.OutlinePiece(slab="s", hole="slot"),)
                ),
                second=m.Side(body="pin", place="o", pieces=(m.OutlinePiece(slab="s"),)),
            )
        ],
    )
    (values,) = resolve(doc).joints
    # The end's cap has its middle on the arc at 40 degrees; the pin's middle comes 1 mm from it.
    beyond = 2 * math.asin(1.0 / 2 / 50)
    assert values.greatest_by == values.least_by == "stop"
    assert values.greatest == pytest.approx(lean + beyond, abs=1e-8)
    assert values.least == pytest.approx(-lean - beyond, abs=1e-8)


def test_limits_that_are_told_come_first_and_other_heights_are_no_stop() -> None:
    doc = slotted(20.0, 4.0, 4.0)
    tight = doc.joint("pin").model_copy(update={"limits": m.Limits(least=-9.0, greatest=15.0)})
    joints = tuple(tight if j.id == "pin" else j for j in doc.joints)
    values = resolve(doc.model_copy(update={"joints": joints})).joints[2]
    assert (values.least, values.least_by) == (-9.0, "limit")
    assert (values.greatest, values.greatest_by) == (15.0, "limit")
    bodies = tuple(
        b.model_copy(update={"height": 50.0}) if b.id == "crank" else b for b in doc.bodies
    )
    apart = resolve(doc.model_copy(update={"bodies": bodies})).joints[2]
    assert apart.least is None and apart.greatest is None


def test_overlap_reports_its_deepest_place_over_the_motion() -> None:
    """A bar turned into a block and out again is deepest where its corner points straight in."""
    bar = slab([(0, -2), (100, -2), (100, 2), (0, 2)])
    doc = build.document(
        [
            solid("frame", slab([(-300, 60), (300, 60), (300, 400), (-300, 400)]), o=(0, 0)),
            solid("bar", bar, o=(0, 0)),
        ],
        [build.body("frame", fixed=True), build.body("bar")],
        [build.joint("spin", "revolute", "frame.o", "bar.o")],
    )
    found = finding(evaluate(build.driven(doc, ("spin", 0.0, math.pi), count=37)), "overlap")
    assert found.gap is not None
    assert found.gap.most == pytest.approx(60.0 - math.hypot(100.0, 2.0), abs=1e-4)
    assert found.progress == pytest.approx(0.5, abs=0.01)


def test_drivers_and_freedoms_that_do_not_match_are_told_by_the_program() -> None:
    four = build.four_bar(40, 120, 80, 100, 0.5)
    _, rocker = build.four_bar_angles(40, 120, 80, 100, 0.5)
    crossed = build.driven(four, ("crank_pivot", 0.5, 0.9), ("rocker_pivot", rocker, rocker + 0.3))
    too_many = finding(evaluate(crossed), "program")
    assert too_many.outcome is Outcome.FAIL and too_many.reason == "too many drivers"
    five = build.bars(
        {"A": (0, 0), "B": (60, 30), "C": (110, 110), "D": (190, 70), "E": (160, 0)},
        ["AB", "BC", "CD", "DE"],
        ["A", "E"],
    )
    start = math.atan2(30, 60)
    evaluation = evaluate(build.driven(five, ("pin_a1", start, start + 0.2)))
    too_few = finding(evaluation, "program")
    assert too_few.outcome is Outcome.WARN
    assert "nothing drives that" in value_words(evaluation, too_few)
    hung = finding(evaluate(build.driven(build.hung_weight(60), ("pivot", 0.0, 1.0))), "program")
    assert hung.outcome is Outcome.PASS


def test_a_lug_beyond_the_teeth_is_compared_though_the_teeth_are_in_mesh() -> None:
    """Wheels of 20 and 40 teeth of module 2; a lug on one reaches into the other's way."""

    def wheel(teeth: int, lug: float) -> m.Slab:
        tip = teeth + 2.0
        points = [(tip * math.cos(a), tip * math.sin(a)) for a in np.linspace(0.3, 5.98, 60)]
        return slab([*points, (tip + lug, -3.0), (tip + lug, 3.0)])

    def meshing(lug: float) -> m.Document:
        doc = build.document(
            [
                build.part("frame", a=(0, 0), b=(60, 0)),
                solid("one", wheel(20, 0.5), o=(0, 0)),
                solid("two", wheel(40, lug), o=(0, 0)),
            ],
            [
                build.body("frame", fixed=True),
                build.body("one", angle=2.0),
                build.body("two", 60, 0, 1.0),
            ],
            [
                build.joint("ja", "revolute", "frame.a", "one.o"),
                build.joint("jb", "revolute", "frame.b", "two.o"),
            ],
            couplings=(
                m.Coupling(
                    id="mesh",
                    kind="gears",
                    first="ja",
                    second="jb",
                    first_size=20,
                    second_size=40,
                    first_pieces=(m.OutlinePiece(slab="s"),),
                    second_pieces=(m.OutlinePiece(slab="s"),),
                ),
            ),
        )
        return build.driven(doc, ("ja", 0.0, 4 * math.pi), count=90)

    plain = finding(evaluate(meshing(0.5)), "overlap")
    assert plain.outcome is Outcome.PASS and plain.reason == "nothing could meet"
    lugged = finding(evaluate(meshing(15.0)), "overlap")
    assert lugged.outcome is Outcome.FAIL
