"""Whole chain: demos, command line, an independent engine, start-up and import habits."""

from __future__ import annotations

import csv
import json
import math
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from defusedxml.ElementTree import fromstring

from anakinema.analysis.splitting import TOLERANCE
from anakinema.authoring.diagnostics import diagnostics
from anakinema.cli import UNREAD, main
from anakinema.document import model as m
from anakinema.edits.requirements import SetRequirement
from anakinema.edits.values import SetDimension, SetLimit
from anakinema.files.native import read_document, write_document
from anakinema.findings.evaluate import Evaluation, evaluate, first_look
from anakinema.findings.event_wording import event_words
from anakinema.findings.finding import Outcome
from anakinema.findings.mobility_wording import mobility_words, program_notes
from anakinema.findings.wording import verdict_words
from anakinema.motion.motion import Event, EventKind
from anakinema.record.report import report_json
from anakinema.record.table import motion_csv
from anakinema.resources import demo_names, demo_path
from tests import mechanisms as build
from tests.ready import evaluated

EXPECTED = {
    "tray-shuttle": {"post_gap": Outcome.FAIL},
    "vent-opener": {"post_gap": Outcome.WARN},
    "side-rods": {"bar_angle": Outcome.FAIL},
    "water-pump": {},
    "geared-vent": {},
    "potting-boom": {},
    "seed-bin": {},
    "rake-rocker": {},
    "bevel-drive": {},
    "dibber-axle": {},
    "transfer-head": {},
    "transfer-arm": {"rack_gap": Outcome.FAIL, "built_in.overlap": Outcome.FAIL},
    "cam-dibber": {},
    "carrier-gears": {},
    "chain-take-up": {},
    "plug-press": {},
    "sluice-lever": {},
    "geneva-feeder": {},
    "head-belt": {},
    "lid-latch": {"built_in.program": Outcome.FAIL},
    "offset-coupling": {},
    "tip-out-carrier": {},
    "tray-indexer": {},
}


@pytest.mark.parametrize("name", demo_names())
def test_demos_say_what_they_are_made_to_say(name: str) -> None:
    evaluation = evaluated(name)
    outcomes = {f.id: f.outcome for f in evaluation.verdict.findings}
    expected = EXPECTED[name]
    assert {k: v for k, v in outcomes.items() if v is not Outcome.PASS} == expected
    assert evaluation.motion.samples.residual < 1e-10 * evaluation.mechanism.size
    assert evaluation.verdict.exit_status == (1 if Outcome.FAIL in expected.values() else 0)
    assert verdict_words(evaluation)


def test_tray_shuttle_by_hand() -> None:
    """Swing and time ratio of the slotted rocker in closed form: asin(46/120)."""
    evaluation = evaluated("tray-shuttle")
    half = math.asin(46 / 120)
    ratio = (math.pi + 2 * half) / (math.pi - 2 * half)
    by_id = {f.id: f for f in evaluation.verdict.findings}
    assert by_id["quick_return"].value == pytest.approx(ratio, abs=1e-9)
    assert by_id["slot_reserve"].value == pytest.approx(74.0 - 64.0, abs=1e-9)
    tips = [(230 * math.sin(s * half), -120 + 230 * math.cos(half)) for s in (-1, 1)]
    ends = [x - math.sqrt(118**2 - (132 - y) ** 2) for x, y in tips]
    assert by_id["stroke"].value == pytest.approx(ends[1] - ends[0], abs=1e-9)


def test_geared_vent_by_hand() -> None:
    """The wheel turns half as far as the hand, the other way; the bar as a crank slider."""
    evaluation = evaluated("geared-vent")
    motion = evaluation.motion
    joints = [joint.id for joint in evaluation.document.joints]
    wheel, hand, slide = (
        motion.values[:, joints.index(name)]
        for name in ("wheel_bearing", "hand_crank", "bar_guide")
    )
    assert wheel == pytest.approx(math.pi / 2 - (hand - hand[0]) / 2, abs=1e-9)
    down = -24 * np.sin(wheel) + np.sqrt(150**2 - (24 * np.cos(wheel)) ** 2)
    assert slide == pytest.approx(down - 150, abs=1e-9)


def value(evaluation: Evaluation, joint: str, progress: float) -> float:
    """Value of a joint, rad or mm, at a progress."""
    index = [each.id for each in evaluation.document.joints].index(joint)
    return float(evaluation.motion.at(np.array([progress])).values[0, index])


def happened(evaluation: Evaluation, kind: EventKind) -> list[Event]:
    return [event for event in evaluation.motion.events if event.kind is kind]


def test_tray_indexer_steps_one_tooth_a_stroke_and_keeps_it() -> None:
    """12 teeth: 30 degrees a stroke; while the lever goes back the wheel stands still."""
    evaluation = evaluated("tray-indexer")
    turned = [math.degrees(value(evaluation, "wheel_bearing", p)) for p in (1, 2, 3, 4)]
    assert turned[1] == pytest.approx(turned[0], abs=1e-9)
    assert turned[3] == pytest.approx(turned[2], abs=1e-9)
    assert turned[2] - turned[0] == pytest.approx(-30.0, abs=1e-6)
    # Each pawl passes one tooth a stroke: the keeper going out, the driving one coming back.
    passed = [event.progress for event in happened(evaluation, EventKind.TOOTH)]
    assert [int(p) for p in passed] == [0, 1, 2, 3]


def test_geneva_feeder_moves_its_drum_as_the_closed_form_says() -> None:
    """β = atan(λ sin θ / (1 − λ cos θ)), λ = sin 45°, less what the pin's play lets it lag."""
    evaluation = evaluated("geneva-feeder")
    ratio, pin, play = math.sin(math.pi / 4), 8.0, 0.1
    for degrees in (-30.0, -10.0, 0.0, 10.0, 30.0):
        theta = math.radians(degrees)
        beta = math.atan2(ratio * math.sin(theta), 1 - ratio * math.cos(theta))
        reach = 60 * math.hypot(1 - ratio * math.cos(theta), ratio * math.sin(theta))
        lag = math.asin(play / 2 / reach)
        drum = value(evaluation, "drum_bearing", (degrees + 180) / 720)
        assert drum == pytest.approx(math.pi / 2 - beta + lag, abs=1e-7)
    dwell = [value(evaluation, "drum_bearing", p) for p in (0.35, 0.5, 0.65)]
    assert dwell == pytest.approx([dwell[0]] * 3, abs=1e-12)
    assert pin > play


def test_lid_latch_drops_behind_the_lid_and_holds_it() -> None:
    evaluation = evaluated("lid-latch")
    [drop] = happened(evaluation, EventKind.DROP)
    assert drop.value is not None
    assert 5.0 < math.degrees(drop.value) < 6.0
    assert math.degrees(value(evaluation, "catch_pin", 1.0)) == pytest.approx(0.0, abs=1e-9)
    [jam] = happened(evaluation, EventKind.JAM)
    held = value(evaluation, "rail", jam.progress)
    assert jam.value == pytest.approx(held - 64.0, abs=1e-6)
    assert 57.0 < held < 58.0
    words = event_words(evaluation, jam)
    assert "lid slide" in words and "catch" in words


def test_offset_coupling_turns_alike_and_its_middle_goes_round_twice() -> None:
    """Oldham: equal angles; the middle's centre on a circle about half way, at double speed."""
    evaluation = evaluated("offset-coupling")
    progress = np.linspace(0, 1, 25)
    at = evaluation.motion.at(progress)
    joints = [joint.id for joint in evaluation.document.joints]
    first, second = (at.values[:, joints.index(n)] for n in ("driving_shaft", "driven_shaft"))
    assert second - first == pytest.approx(np.full(25, math.pi / 2), abs=1e-9)
    middle = at.poses[:, [b.id for b in evaluation.document.bodies].index("middle"), :2]
    assert np.hypot(middle[:, 0] - 3, middle[:, 1]) == pytest.approx(np.full(25, 3.0), abs=1e-9)
    angle = np.unwrap(np.arctan2(middle[:, 1], middle[:, 0] - 3))
    assert abs(angle[-1] - angle[0]) == pytest.approx(4 * math.pi, abs=1e-9)


def test_carrier_gears_turn_by_willis() -> None:
    """Ring held: sun over carrier is 1 + 60/24 (Willis)."""
    evaluation = evaluated("carrier-gears")
    sun, arm = (value(evaluation, name, 1.0) for name in ("sun_shaft", "carrier_shaft"))
    assert sun / arm == pytest.approx(1 + 60 / 24, abs=1e-12)
    planets = {round(value(evaluation, f"planet_pin_{k}", 0.3), 9) for k in (1, 2, 3)}
    assert len(planets) == 1


def test_head_belt_keeps_its_length_and_the_arm_takes_it_up() -> None:
    """Both runs over the idler and what lies on the wheels add up to the same at any place."""
    evaluation = evaluated("head-belt")
    lengths = []
    for progress in (0.0, 0.4, 1.0, 1.7):
        head, arm = (value(evaluation, name, progress) for name in ("track", "arm_post"))
        wheel, idler = 51.5, 16.5
        centre = np.array([50 + 128 * math.cos(arm), 120 + 128 * math.sin(arm)])
        along, below = [], []
        for apart in (centre, centre - [head, 0.0]):
            reach = float(np.hypot(*apart))
            run = math.sqrt(reach**2 - (wheel + idler) ** 2)
            along.append(run)
            # How far the crossed run turns down from the line of the wheels' centres.
            rise = math.atan2(float(apart[1]), abs(float(apart[0])))
            below.append(math.atan2(wheel + idler, run) - rise)
        wrapped = wheel * (2 * math.pi - (math.pi - sum(below))) + idler * sum(below)
        lengths.append(head + sum(along) + wrapped)
    assert lengths == pytest.approx([lengths[0]] * 4, abs=1e-8)


def test_cam_dibber_lifts_by_its_law() -> None:
    """Cycloidal rise of 20 in 100 degrees: s = h (x − sin 2πx / 2π)."""
    evaluation = evaluated("cam-dibber")
    for degrees in (10.0, 25.0, 50.0, 80.0, 100.0):
        x = degrees / 100
        lift = 20 * (x - math.sin(2 * math.pi * x) / (2 * math.pi))
        assert value(evaluation, "guide", degrees / 360) == pytest.approx(lift, abs=2e-5)


def test_a_length_edit_reuses_nothing_wrong_and_a_limit_edit_reuses_the_motion() -> None:
    document = read_document(demo_path("tray-shuttle"))
    before = evaluate(document)
    longer = SetDimension("crank", "radius", "47 mm").apply(document)
    fresh, reused = evaluate(longer), evaluate(longer, earlier=before)
    assert [f.value for f in fresh.verdict.findings] == [f.value for f in reused.verdict.findings]
    look = first_look(longer, before)
    assert look is not None
    for coarse, exact in zip(look.verdict.findings, fresh.verdict.findings, strict=True):
        if coarse.value is not None and coarse.kind == "travel":
            assert coarse.value == pytest.approx(exact.value, abs=0.5)
    limited = SetLimit("slide", "least", "-150 mm").apply(document)
    after = evaluate(limited, earlier=before)
    assert after.whole.samples is before.whole.samples
    assert after.motion.values[-1, 5] == pytest.approx(-150.0, abs=1e-9)
    stricter = SetRequirement("stroke", "least", "180 mm").apply(document)
    again = evaluate(stricter, earlier=before)
    assert again.gaps.smallest(frozenset()) is before.gaps.smallest(frozenset())
    assert {f.id for f in again.verdict.findings if f.outcome is Outcome.FAIL} == {
        "post_gap",
        "stroke",
    }


def test_reordering_and_renaming_bodies_changes_no_finding() -> None:
    document = read_document(demo_path("vent-opener"))
    one = evaluate(document)
    shuffled = document.model_copy(
        update={"bodies": document.bodies[::-1], "joints": document.joints[::-1]}
    )
    other = evaluate(shuffled)
    values = [[f.value or 0.0 for f in e.verdict.findings] for e in (one, other)]
    outcomes = [[f.outcome for f in e.verdict.findings] for e in (one, other)]
    # Which poses are measured differs, so a gap may differ by what it is certified to.
    assert values[0] == pytest.approx(values[1], abs=TOLERANCE)
    assert outcomes[0] == outcomes[1]


def test_nothing_to_compare_is_no_pass_but_where_nothing_could_meet() -> None:
    doc = build.driven(build.four_bar(40, 120, 80, 100, 0.5), ("crank_pivot", 0.5, 1.0))
    need = build.asked("g", "gap", first="coupler", least=1.0)
    evaluation = evaluate(doc.model_copy(update={"requirements": (need,)}))
    assert [f.outcome for f in evaluation.verdict.findings] == [
        Outcome.PASS,
        Outcome.PASS,
        Outcome.UNKNOWN,
    ]
    assert evaluation.verdict.exit_status == 1


def test_mobility_in_words() -> None:
    words = [text for _, text in mobility_words(evaluated("side-rods"))]
    assert any("1 condition repeated among" in text and "middle pin" in text for text in words)
    words = [text for _, text in mobility_words(evaluated("transfer-arm"))]
    assert any("drip tray hangs free" in text for text in words)
    floating = build.four_bar(40, 120, 80, 100, 0.5)
    bodies = tuple(b.model_copy(update={"fixed": False}) for b in floating.bodies)
    words = [t for _, t in mobility_words(evaluate(floating.model_copy(update={"bodies": bodies})))]
    assert "Nothing is fixed: fix the frame." in words
    assert any("4 freedoms" in text for text in words)


def test_groups_that_no_joint_connects_are_told_apart() -> None:
    """Two cranks on one frame and a pair of bars on nothing: 1, 1 and 3 + 1 freedoms."""
    doc = build.document(
        [
            build.part("base", a=(0, 0), b=(80, 0)),
            build.part("crank", a=(0, 0), b=(30, 0)),
            build.part("bar", a=(0, 0), b=(50, 0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("left", part="crank"),
            build.body("right", 80, 0, part="crank"),
            build.body("one", 0, 90, part="bar"),
            build.body("two", 50, 90, part="bar"),
        ],
        [
            build.joint("left_pivot", "revolute", "base.a", "left.a"),
            build.joint("right_pivot", "revolute", "base.b", "right.a"),
            build.joint("hinge", "revolute", "one.b", "two.a"),
        ],
    )
    evaluation = evaluate(doc)
    report = report_json(evaluation)["mobility"]
    assert report["groups"] == [
        {"bodies": ["left"], "has_frame": True, "freedoms": 1},
        {"bodies": ["right"], "has_frame": True, "freedoms": 1},
        {"bodies": ["one", "two"], "has_frame": False, "freedoms": 4},
    ]
    assert "one, two: 4 freedoms; not joined to anything fixed." in report["words"]
    assert sum(group["freedoms"] for group in report["groups"]) == report["freedoms"] == 6


def test_command_line_check_and_sweep(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["check", str(demo_path("water-pump"))]) == 0
    assert "Water pump: all 5 pass" in capsys.readouterr().out
    assert main(["check", str(demo_path("tray-shuttle")), "--json"]) == 1
    report = json.loads(capsys.readouterr().out)
    gap = next(f for f in report["findings"] if f["id"] == "post_gap")
    assert report["verdict"] == gap["outcome"] == "fail"
    assert gap["gap"]["certified"] is True
    assert gap["gap"]["least"] <= gap["gap"]["most"] < 3.0
    out = tmp_path / "sweep.csv"
    assert main(["sweep", str(demo_path("water-pump")), "--csv", str(out)]) == 0
    rows = list(csv.DictReader(out.read_text("utf-8").splitlines()))
    assert len(rows) == 361
    theta = np.radians([float(row["main_bearing_deg"]) for row in rows])
    x = 30 * np.cos(theta) + np.sqrt(95**2 - (30 * np.sin(theta)) ** 2)
    assert [float(row["cylinder_mm"]) for row in rows] == pytest.approx(x, abs=1e-9)
    speed = np.gradient(x, [float(row["time_s"]) for row in rows])
    found = np.array([float(row["cylinder_velocity_mm_per_s"]) for row in rows])
    assert np.abs(found - speed)[1:-1].max() < 0.05


def test_command_line_says_what_is_wrong(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    broken = tmp_path / "broken.anakinema"
    broken.write_text("{")
    assert main(["check", str(broken), "--json"]) == 2
    captured = capsys.readouterr()
    assert "not valid JSON" in captured.err
    assert json.loads(captured.out)["where"].endswith("line 1, column 2")
    open_loop = build.four_bar(40, 120, 80, 100, 0.5)
    parts = tuple(
        m.Part(id=p.id, places=(*p.places[:1], m.Place(id="b", x=2.0))) if p.id == "coupler" else p
        for p in open_loop.parts
    )
    parts = tuple(
        m.Part(id=p.id, places=(*p.places[:1], m.Place(id="b", x=900.0))) if p.id == "base" else p
        for p in parts
    )
    path = tmp_path / "open.anakinema"
    write_document(open_loop.model_copy(update={"parts": parts}), path)
    assert main(["check", str(path)]) == 2
    assert "cannot close" in capsys.readouterr().err
    assert main(["sweep", str(demo_path("water-pump")), "--csv", str(tmp_path / "no" / "f")]) == 2


def test_rates_at_change_points_are_those_of_the_branch() -> None:
    """The bar of parallel cranks moves as its crank pins do, through the change points too."""
    evaluation = evaluated("side-rods")
    rows = list(csv.DictReader(motion_csv(evaluation).splitlines()))
    pace = [float(row["bar_x_mm_per_s"]) ** 2 + float(row["bar_y_mm_per_s"]) ** 2 for row in rows]
    assert len(rows) > 100
    assert pace == pytest.approx([pace[1]] * len(pace), rel=1e-8)


def test_dead_points_leave_their_rates_empty_in_the_table() -> None:
    doc = build.driven(build.four_bar(80, 60, 80, 100, 1.0), ("crank_pivot", 1.0, 4.0))
    rows = list(csv.DictReader(motion_csv(evaluate(doc)).splitlines()))
    assert [row["coupler_x_mm_per_s"] == "" for row in rows[-3:]] == [False, False, True]
    assert all(row["coupler_x_mm"] for row in rows)


def test_an_independent_rigid_body_engine_agrees_on_a_closed_loop() -> None:
    """MuJoCo (DeepMind, open source): hinge tree and a loop constraint, at 24 crank angles."""
    mujoco = pytest.importorskip("mujoco")
    a, b, c, d = 0.040, 0.120, 0.080, 0.100
    spec = f"""<mujoco><compiler angle="radian"/><option gravity="0 0 0"/><worldbody>
      <body name="crank"><joint name="j0" axis="0 0 1"/><geom size=".001" mass="1"/>
       <body name="coupler" pos="{a} 0 0"><joint name="j1" axis="0 0 1"/>
        <geom size=".001" mass="1"/><site name="s1" pos="{b} 0 0"/></body></body>
      <body name="rocker" pos="{d} 0 0"><joint name="j2" axis="0 0 1"/>
       <geom size=".001" mass="1"/><site name="s2" pos="{c} 0 0"/></body></worldbody></mujoco>"""
    engine = mujoco.MjModel.from_xml_string(spec)
    data = mujoco.MjData(engine)
    motion = build.motion(
        build.driven(
            build.four_bar(40, 120, 80, 100, 0.0), ("crank_pivot", 0.0, build.FULL_TURN), count=24
        )
    )
    start = build.four_bar_angles(40, 120, 80, 100, 0.0)
    guess = np.array([start[0], start[1]])
    for k in range(24):
        theta = motion.values[k, 0]

        def opening(free: np.ndarray, theta: float = theta) -> np.ndarray:
            data.qpos[:] = [theta, free[0], free[1]]
            mujoco.mj_kinematics(engine, data)
            return data.site("s1").xpos[:2] - data.site("s2").xpos[:2]

        for _ in range(30):
            error = opening(guess)
            slopes = np.column_stack(
                [(opening(guess + h) - opening(guess - h)) / 2e-6 for h in np.eye(2) * 1e-6]
            )
            guess = guess - np.linalg.solve(slopes, error)
        coupler, rocker = theta + guess[0], guess[1]
        found = motion.poses[k, 2:4, 2]
        assert build.wrap(found - [coupler, rocker]) == pytest.approx([0.0, 0.0], abs=1e-7)


def test_starting_the_window_does_not_wait_for_slow_libraries() -> None:
    code = (
        "import sys; from anakinema.ui import app; a = app.application();"
        "import tempfile, pathlib; w = app.make_window(pathlib.Path(tempfile.mkdtemp()));"
        "w.show(); a.processEvents(); slow = [n for n in ('scipy', 'networkx', 'mujoco', 'PIL')"
        " if n in sys.modules]; print('slow', slow); w.close()"
    )
    done = subprocess.run(
        [sys.executable, "-c", code],
        capture_output=True,
        text=True,
        check=True,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )
    assert "slow []" in done.stdout


def test_sweep_exits_as_check_does(tmp_path: Path) -> None:
    for name in ("tray-shuttle", "water-pump", "vent-opener"):
        path = str(demo_path(name))
        out = str(tmp_path / f"{name}.csv")
        assert main(["sweep", path, "--csv", out]) == main(["check", path])


def test_report_for_machines_has_numbers_with_units_beside_the_words() -> None:
    evaluation = evaluated("tray-shuttle")
    report = report_json(evaluation)
    assert report["units"]["angle"] == "deg" and report["units"]["length"] == "mm"
    rows = list(csv.DictReader(motion_csv(evaluation).splitlines()))
    for event in report["events"]:
        (driver,) = event["at"]["drivers"]
        assert driver["unit"] == "deg"
        assert event["at"]["words"].endswith("°")
        shown = float(event["at"]["words"].split()[-1].rstrip("°").replace("−", "-"))
        assert driver["value"] == pytest.approx(shown, abs=0.051)
        if event["kind"] == "extreme":
            column = f"{event['joint']}_{event['unit']}"
            near = sorted(rows, key=lambda row: abs(float(row["progress"]) - event["progress"]))
            beside = [float(row[column]) for row in near[:3]]
            sign = 1.0 if event["side"] == "highest" else -1.0
            assert all(sign * (event["value"] - value) > -1e-9 for value in beside)
    extremes = [e for e in report["events"] if e["kind"] == "extreme"]
    assert extremes and all(e["unit"] in ("deg", "mm") for e in extremes)
    stroke = next(f for f in report["findings"] if f["kind"] == "travel")
    assert stroke["unit"] == "mm" and stroke["at"]["drivers"][0]["unit"] == "deg"
    angle = next(f for f in report["findings"] if f["kind"] == "transmission")
    assert angle["unit"] == "deg" and f"{angle['value']:.1f}" in angle["words"]


def test_table_carries_places_and_measures_when_asked() -> None:
    document = read_document(demo_path("water-pump"))
    body = document.bodies[1]
    place = document.part(body.part).places[0].id
    side = m.Side(body=body.id, place=place)
    other = m.Side(
        body=document.bodies[0].id, place=document.part(document.bodies[0].part).places[0].id
    )
    measure = build.kept_distance("reach", side, other)
    evaluation = evaluate(document.model_copy(update={"measures": (measure,)}))
    plain = list(csv.DictReader(motion_csv(evaluation).splitlines()))
    rows = list(csv.DictReader(motion_csv(evaluation, points=True).splitlines()))
    assert len(plain) == len(rows) and "reach_mm" not in plain[0]
    for row in rows[::17]:
        one = float(row[f"{body.id}.{place}_x_mm"]), float(row[f"{body.id}.{place}_y_mm"])
        two = (
            float(row[f"{other.body}.{other.place}_x_mm"]),
            float(row[f"{other.body}.{other.place}_y_mm"]),
        )
        assert float(row["reach_mm"]) == pytest.approx(math.dist(one, two), abs=1e-9)


def test_no_requirement_can_have_the_id_of_a_built_in_finding() -> None:
    evaluation = evaluated("head-belt")
    asked = {r.id for r in evaluation.document.requirements}
    built_in = [f.id for f in evaluation.verdict.findings if f.id not in asked]
    assert built_in
    for name in built_in:
        with pytest.raises(ValueError, match="pattern"):
            build.asked(name, "gap", least=1.0)


def test_uneven_steps_and_whose_rate_sets_the_time_are_stated() -> None:
    four = build.four_bar(40, 120, 80, 100, 0.5)
    doc = build.driven(four, ("crank_pivot", 0.5, 1.5))
    (stage,) = doc.program.stages
    uneven = stage.model_copy(update={"count": None, "step": 0.3})
    program = doc.program.model_copy(update={"stages": (uneven,)})
    (note,) = program_notes(evaluate(doc.model_copy(update={"program": program})))
    assert "do not divide" in note and "4 steps" in note
    even = program.model_copy(update={"stages": (uneven.model_copy(update={"step": 0.25}),)})
    assert program_notes(evaluate(doc.model_copy(update={"program": even}))) == []
    notes = program_notes(evaluated("transfer-arm"))
    assert len(notes) == 1 and "the rate of elbow sets its time" in notes[0]


def test_a_reader_that_leaves_early_sees_no_traceback() -> None:
    """As in ``anakinema check FILE | head``: nobody reads what is written."""
    reading, writing = os.pipe()
    os.close(reading)
    done = subprocess.run(
        [sys.executable, "-m", "anakinema", "check", str(demo_path("vent-opener"))],
        stdout=writing,
        stderr=subprocess.PIPE,
        text=True,
        check=False,
    )
    os.close(writing)
    assert done.returncode == UNREAD
    assert done.stderr == ""


def test_doubts_about_ready_mechanisms_mean_something() -> None:
    """All pins and blocks have play; what is left to doubt is there on purpose."""
    kinds = {
        name: [found.kind for found in diagnostics(resolved, evaluated(name))]
        for name in demo_names()
        for resolved in [evaluated(name).resolved]
    }
    assert {name: found for name, found in kinds.items() if found} == {
        "carrier-gears": ["repeated"],
        "side-rods": ["repeated"],
        "transfer-arm": ["free"],
    }


def test_the_verdict_goes_to_build_servers(tmp_path: Path, capsys) -> None:  # type: ignore[no-untyped-def]
    """A case for each finding; what fails and what cannot be judged is counted as they read it."""
    shuttle = read_document(demo_path("tray-shuttle"))
    stated = {"id": "share", "name": 'used "of" <limits>', "reduce": "range", "greatest": 0.5}
    measure = {"kind": "used", "joint": "rod_pin"}
    asked = m.Requirement.model_validate({**stated, "measure": measure})
    document = shuttle.model_copy(update={"requirements": (*shuttle.requirements, asked)})
    path, out = tmp_path / "shuttle.anakinema", tmp_path / "verdict.xml"
    write_document(document, path)
    assert main(["check", str(path), "--junit", str(out)]) == 1
    capsys.readouterr()
    suite = fromstring(out.read_text("utf-8"))[0]
    assert suite.get("name") == "Tray shuttle"
    counts = [suite.get(name) for name in ("tests", "failures", "errors")]
    assert counts == ["8", "1", "1"]
    cases = {case.get("name"): [child.tag for child in case] for case in suite}
    assert cases["Gap rod to guard post"] == ["failure", "system-out"]
    assert cases['used "of" <limits>'] == ["error", "system-out"]
    assert cases["Pusher travel"] == ["system-out"]
    assert main(["check", str(path), "--junit", "-"]) == 1
    assert fromstring(capsys.readouterr().out)[0].get("tests") == "8"


def test_changes_that_would_pass_are_printed(capsys) -> None:  # type: ignore[no-untyped-def]
    path = str(demo_path("tray-shuttle"))
    assert main(["check", path, "--changes"]) == 1
    text = capsys.readouterr().out
    assert "Changes that would let 'Gap rod to guard post' pass:" in text
    assert "rail height 132 mm → 133.7 mm: gives 3.0" in text
    assert main(["check", path, "--changes", "--json"]) == 1
    found = json.loads(capsys.readouterr().out)["changes"]["Gap rod to guard post"]
    assert found[0]["change"] == "rail height 132 mm → 133.7 mm" and len(found) >= 5
    assert main(["check", str(demo_path("vent-opener")), "--changes"]) == 0
    assert "Changes" not in capsys.readouterr().out


def test_numbers_are_improved_and_the_best_is_written(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file, out = str(demo_path("tray-shuttle")), tmp_path / "best.anakinema"
    ranges = ("--change", "rail_height=130..145")
    asked = ("improve", file, "--goal", "post_gap", *ranges)
    assert main([*asked, "--out", str(out)]) == 0
    said = capsys.readouterr()
    lines = said.out.splitlines()
    assert lines[0] == "Gap rod to guard post: 2.14 mm at the start"
    assert lines[1].startswith("best: ") and "all pass" in lines[1]
    assert "not what is possible" in lines[-1]
    assert said.err.count("round ") == len(said.err.splitlines()) > 3
    assert main(["check", str(out)]) == 0
    capsys.readouterr()
    for wrong, words in (
        (("--change", "rod=wide"), "no range"),
        (("--change", "nothing=1..2"), "no number"),
        (("--change", "rod=1..2"), "does not hold"),
    ):
        assert main(["improve", file, "--goal", "post_gap", *wrong]) == 2
        assert words in capsys.readouterr().err
    assert main(["improve", file, "--goal", "nothing", *ranges]) == 2
