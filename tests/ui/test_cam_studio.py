"""The cam studio by mouse and keys: a cam made, changed, checked, and its follower seen to move."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
import shapely
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QLabel, QPlainTextEdit

from anakinema.files.native import read_document
from anakinema.geometry.contour import path
from anakinema.geometry.distance import outline_span
from anakinema.geometry.region import Region
from anakinema.ui.cams.canvas import CamCanvas
from anakinema.ui.fields import QuantityField
from tests.conftest import some
from tests.ui.test_assemble import CONTROL, LEFT, Hand


@pytest.fixture
def hand(qtbot, window, settled) -> Hand:  # type: ignore[no-untyped-def]
    """A blank document with the studio open."""
    window.new()
    settled(window)
    found = Hand(qtbot, window, settled)
    found.command("cams")
    assert window.middle.currentWidget() is window.studio
    return found


def lift(hand: Hand) -> np.ndarray:
    """Lift of the follower over the program, mm or rad."""
    evaluation = hand.bench.evaluation
    index = [j.id for j in evaluation.document.joints].index("follower_guide")
    values = evaluation.motion.values[:, index]
    return np.asarray(values - values[0])


def diagnostics(hand: Hand) -> str:
    return hand.child(QLabel, "cam_doubts").text()


def test_a_cam_is_made_and_its_follower_moves_by_its_law(hand: Hand, tmp_path: Path) -> None:
    hand.press_button("cam_make")
    evaluation = hand.bench.evaluation
    assert [b.id for b in evaluation.document.bodies if b.fixed] == ["plate"]
    turn = np.degrees(evaluation.motion.values[:, 0])
    x = np.clip(turn / 120, 0, 1)
    rise = 12 * (x - np.sin(2 * math.pi * x) / (2 * math.pi))
    out = turn <= 180
    assert lift(hand)[out] == pytest.approx(rise[out], abs=1.2e-5)
    # Another lift, another law: shape, diagrams and motion follow.
    hand.retype("segment_0_to", "20 mm")
    hand.retype("segment_1_to", "20 mm")
    hand.choose("segment_0_law", "3-4-5")
    hand.settled(hand.window)
    middle = float(np.interp(60.0, turn, lift(hand)))
    assert middle == pytest.approx(10.0, abs=2e-3)
    assert hand.window.studio.canvas._view.diagrams[0].peak == "20 mm"
    path = tmp_path / "cam.anakinema"
    assert hand.bench.save(path)
    assert read_document(path) == hand.bench.session.document
    hand.press_button("cam_done")
    assert hand.window.middle.currentWidget() is hand.window.pair


def test_what_the_roller_cannot_follow_is_told_and_nothing_is_lost(hand: Hand) -> None:
    hand.press_button("cam_make")
    before = hand.bench.session.document
    hand.retype("segment_0_turn", "20 deg")
    assert "cover 260°" in diagnostics(hand)
    hand.retype("segment_1_turn", "160 deg")
    hand.retype("dimension_cam_base", "6 mm")
    hand.retype("dimension_cam_roller", "14 mm")
    assert "undercut" in diagnostics(hand)
    assert "below" in diagnostics(hand)
    assert "undercut" in hand.bench.trouble.what
    for _ in range(4):
        hand.qtbot.keyClick(hand.window.studio.canvas, Qt.Key.Key_Z, CONTROL)
        hand.settled(hand.window)
    assert hand.bench.session.document == before
    assert "undercut" not in diagnostics(hand)


def test_smallest_base_is_found_and_set(hand: Hand) -> None:
    hand.press_button("cam_make")
    hand.retype("most_pressure", "15 deg")
    hand.press_button("cam_smallest")
    base = float(hand.child(QuantityField, "dimension_cam_base").whole.split()[0])
    facts = hand.child(QLabel, "cam_facts").text()
    assert "Greatest pressure angle: 15.00°" in facts
    # tan φ = s' / (Rp + s) at its worst, by the closed form of the law.
    x = np.linspace(0, 1, 20001)
    s = 12 * (x - np.sin(2 * math.pi * x) / (2 * math.pi))
    slope = 12 * (1 - np.cos(2 * math.pi * x)) / math.radians(120)
    true = float((slope / math.tan(math.radians(15)) - s).max()) - 8.0
    assert base == pytest.approx(true, abs=2e-4)
    # The points copied are those of the profile on show, in the document's unit.
    hand.press_button("cam_copy")
    lines = QGuiApplication.clipboard().text().splitlines()
    points = np.array([[float(cell) for cell in line.split("\t")] for line in lines])
    assert len(points) == 721
    assert np.hypot(*points.T).min() == pytest.approx(base, abs=1e-6)
    assert np.hypot(*points.T).max() == pytest.approx(base + 12.0, abs=1e-6)
    hand.choose("cam_form", "arcs: x, y, bulge")
    hand.press_button("cam_copy")
    rows = np.array(
        [line.split("\t") for line in QGuiApplication.clipboard().text().splitlines()], dtype=float
    )
    outline = path([(x, y, bulge, 0.0) for x, y, bulge in rows.tolist()])
    region = Region.build(outline, (), ())
    near, far = outline_span(region, np.zeros((1, 2)))
    assert (near[0], far[0]) == pytest.approx((base, base + 12.0), abs=2e-4)
    hand.choose("cam_form", "cubics: 4 points")
    hand.press_button("cam_copy")
    rows = np.array(
        [line.split("\t") for line in QGuiApplication.clipboard().text().splitlines()], dtype=float
    ).reshape(-1, 4, 2)
    # Each goes on where the one before ends, in its direction, and the last one closes the ring.
    after = np.roll(rows, -1, axis=0)
    assert rows[:, 3] == pytest.approx(after[:, 0], abs=1e-6)
    leaves, arrives = after[:, 1] - after[:, 0], rows[:, 3] - rows[:, 2]
    across = leaves[:, 0] * arrives[:, 1] - leaves[:, 1] * arrives[:, 0]
    assert across == pytest.approx(np.zeros(len(rows)), abs=1e-5)
    middle = (rows[:, 0] + 3 * rows[:, 1] + 3 * rows[:, 2] + rows[:, 3]) / 8
    ring = shapely.LinearRing(points[:-1])
    assert float(shapely.distance(shapely.points(middle), ring).max()) < 1e-2
    hand.retype("most_pressure", "zero")
    hand.press_button("cam_smallest")
    assert hand.bench.trouble is not None


def test_a_table_is_pasted_and_a_wrong_line_is_named(hand: Hand) -> None:
    hand.press_button("cam_make")
    table = hand.child(QPlainTextEdit, "cam_table")
    table.setPlainText("0\t0\n60\tsix\n")
    hand.press_button("cam_paste")
    assert "line 2" in hand.bench.trouble.where
    rows = [f"{30 * k}\t{6 - 6 * math.cos(math.radians(30 * k)):.6f}" for k in range(13)]
    table = hand.child(QPlainTextEdit, "cam_table")
    table.setPlainText("\n".join(rows))
    hand.press_button("cam_paste")
    turn = hand.bench.evaluation.motion.values[:, 0]
    assert lift(hand) == pytest.approx(6 - 6 * np.cos(turn), abs=2e-3)
    hand.press_button("cam_segments")
    assert hand.bench.session.document.part("cam").cams[0].points == ()


def test_the_cam_is_turned_by_mouse_and_keys(hand: Hand) -> None:
    hand.press_button("cam_make")
    canvas = hand.child(CamCanvas, "cam_canvas")
    hand.qtbot.mouseClick(canvas, LEFT, pos=QPoint(round(canvas.x_of(90.0)), 60))
    assert canvas.degrees == pytest.approx(90.0, abs=1.0)
    before = canvas.degrees
    hand.qtbot.keyClick(canvas, Qt.Key.Key_Right)
    assert canvas.degrees == pytest.approx(before + 1.0)
    hand.qtbot.keyClick(canvas, Qt.Key.Key_Escape)
    assert hand.window.middle.currentWidget() is hand.window.pair


@pytest.mark.parametrize("face", ["round face", "flat face"])
def test_every_follower_swings_and_slides(hand: Hand, face: str) -> None:
    for moves, most in (("slides", 12.0), ("swings", math.radians(15))):
        hand.press_button("cam_new")
        hand.choose("cam_face", face)
        hand.choose("cam_moves", moves)
        if moves == "swings":
            hand.retype("cam_lift", "15 deg")
        hand.press_button("cam_make")
        evaluation = hand.bench.evaluation
        guides = [k for k, j in enumerate(evaluation.document.joints) if j.id.endswith("guide")]
        values = evaluation.motion.values[:, guides[-1]]
        assert float(np.ptp(values)) == pytest.approx(most, rel=1e-5)


def test_a_second_cam_takes_the_lift_of_the_first_under_another_face(hand: Hand) -> None:
    hand.press_button("cam_make")
    hand.retype("segment_0_to", "20 mm")
    hand.retype("segment_1_to", "20 mm")
    hand.press_button("cam_new")
    hand.choose("cam_like", "as cam")
    assert not hand.child(QuantityField, "cam_lift").isVisible()
    hand.choose("cam_moves", "swings")
    hand.press_button("cam_make")
    assert "its lift is a length" in str(hand.bench.trouble).lower()
    assert len(hand.bench.session.document.parts) == 4
    hand.choose("cam_moves", "slides")
    hand.choose("cam_face", "flat face")
    hand.press_button("cam_make")
    evaluation = hand.bench.evaluation
    ids = [joint.id for joint in evaluation.document.joints]
    one, two = (ids.index(name) for name in ("follower_guide", "follower_2_guide"))
    grid = np.linspace(0.05, 0.95, 19)
    values = evaluation.motion.at(np.concatenate([grid, 1 + grid])).values
    # One cam after the other, each by a full turn.
    first, second = values[:19, one], values[19:, two]
    assert np.ptp(first) > 19.0
    assert second - values[0, two] == pytest.approx(first - values[19, one], abs=1e-5)
    assert all(f.gap is None or not f.gap.overlaps for f in evaluation.verdict.findings)


@pytest.mark.campaign
@pytest.mark.parametrize("moves", some(["slides", "swings"], 2))
def test_a_groove_holds_its_roller_with_the_play_it_is_given(hand: Hand, moves: str) -> None:
    hand.choose("cam_moves", moves)
    if moves == "swings":
        hand.retype("cam_lift", "15 deg")
    hand.choose("cam_face", "flat face")
    hand.choose("cam_returns", "groove")
    hand.press_button("cam_make")
    assert "guides a roller" in str(hand.bench.trouble)
    hand.choose("cam_face", "roller")
    hand.press_button("cam_make")
    evaluation = hand.bench.evaluation
    found = next(f for f in evaluation.verdict.findings if f.id == "built_in.overlap")
    assert found.gap is not None and found.gap.is_certified
    # Its outer wall is that much wider than the roller; the profile itself it rolls on.
    assert found.gap.most == pytest.approx(0.2, abs=2e-3)
    assert np.ptp(lift(hand)) == pytest.approx(12.0 if moves == "slides" else math.radians(15))
    assert "hold the follower down" not in diagnostics(hand)
