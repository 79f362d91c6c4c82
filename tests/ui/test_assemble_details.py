"""The Assemble station in detail: lists, sizes, forms, the join panel, keys that go back."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QDragEnterEvent, QDropEvent, QImage
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QPushButton,
    QWidget,
)

from anakinema.document.depending import Going
from anakinema.edits.structure import Remove
from anakinema.files.native import read_document
from anakinema.ui.fields import QuantityField
from anakinema.ui.stage.tools.place import ITEM
from anakinema.ui.workbench import Selection
from tests import mechanisms as build
from tests.ui.test_assemble import CONTROL, LEFT, SHIFT, Hand, ready_four_bar, select
from tests.waiting import until


@pytest.fixture
def hand(qtbot, window, settled) -> Hand:  # type: ignore[no-untyped-def]
    """An empty stage."""
    found = Hand(qtbot, window, settled)
    found.press_button("start_blank")
    return found


def pick_two(hand: Hand, first: str, second: str) -> None:
    hand.window.stage.setFocus()
    hand.command("join")
    hand.pick(first)
    hand.pick(second)
    hand.wait_for_join()


def test_sizes_are_added_used_changed_and_taken_out(hand: Hand) -> None:
    hand.press_button("assemble_sizes")
    name, value = (hand.child(QLineEdit, f"parameter_{k}") for k in ("name", "value"))
    hand.qtbot.keyClicks(name, "arm length")
    hand.qtbot.keyClicks(value, "3/8 in + 2 mm")
    hand.qtbot.keyClick(value, Qt.Key.Key_Return)
    hand.settled(hand.window)
    (parameter,) = hand.bench.session.document.parameters
    assert (parameter.id, parameter.value) == ("arm_length", "3/8 in + 2 mm")
    hand.press_button("assemble_parts")
    hand.place("link", 0, 0, length="4*arm_length")
    places = hand.bench.scene.resolved.parts["link"].places
    assert places["b"][0] == pytest.approx(4 * (3 / 8 * 25.4 + 2))
    hand.press_button("assemble_sizes")
    hand.retype("size_arm_length", "20 mm")
    assert hand.bench.scene.resolved.parts["link"].places["b"][0] == pytest.approx(80.0)
    hand.press_button("drop_arm_length")
    assert "arm_length" in hand.child(QLabel, "trouble_words").text()
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.trouble is None


def test_a_wrong_size_is_marked_and_nothing_is_added(hand: Hand) -> None:
    hand.press_button("assemble_sizes")
    hand.qtbot.keyClicks(hand.child(QLineEdit, "parameter_name"), "arm")
    hand.qtbot.keyClicks(hand.child(QLineEdit, "parameter_value"), "3 mm +")
    hand.press_button("parameter_add")
    assert not hand.bench.session.document.parameters
    assert hand.child(QLineEdit, "parameter_value").property("wrong")


def test_the_shelf_finds_parts_and_offers_those_in_use_again(hand: Hand) -> None:
    shelf, field = hand.child(QListWidget, "shelf"), hand.child(QLineEdit, "shelf_filter")
    hand.qtbot.keyClicks(field, "slotted")
    rows = [shelf.item(k) for k in range(shelf.count())]
    titles = [row.text() for row in rows if not row.isHidden()]
    assert "slotted link" in titles
    assert "bolt" not in titles and "Hardware" not in titles
    field.clear()
    assert not any(row.isHidden() for row in rows)
    hand.place("link", 0, 0)
    field.clear()
    keys = [shelf.item(k).data(Qt.ItemDataRole.UserRole) for k in range(shelf.count())]
    assert keys[1] == "part:link"
    shelf.setCurrentRow(1)
    shelf.setFocus()
    hand.qtbot.keyClick(shelf, Qt.Key.Key_Return)
    assert hand.bench.tool == "place:part:link"
    hand.click(50, 50, SHIFT)
    hand.click(80, 20, SHIFT)
    assert hand.bench.tool == "place:part:link"
    hand.key(Qt.Key.Key_Escape)
    document = hand.bench.session.document
    assert hand.bench.tool == ""
    assert (len(document.parts), len(document.bodies)) == (1, 3)


def test_a_part_is_dragged_from_the_shelf_on_to_the_stage(hand: Hand) -> None:
    data = QMimeData()
    data.setData(ITEM, b"shelf:bell_crank")
    stage = hand.window.stage
    at = QPointF(hand.pixel(20, 30))
    keys = Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(at.toPoint(), Qt.DropAction.CopyAction, data, LEFT, keys)
    QApplication.sendEvent(stage, enter)
    assert enter.isAccepted()
    drop = QDropEvent(at, Qt.DropAction.CopyAction, data, LEFT, keys)
    QApplication.sendEvent(stage, drop)
    hand.settled(hand.window)
    (body,) = hand.bench.session.document.bodies
    assert body.part == "bell_crank"
    assert (body.pose.x, body.pose.y) == (pytest.approx(20, abs=1.5), pytest.approx(30, abs=1.5))


def test_names_colours_notes_and_material_of_a_body(hand: Hand) -> None:
    hand.place("link", 0, 0)
    for name, text in (("body_name", "tie bar"), ("part_name", "bar"), ("part_note", "oak")):
        field = hand.child(QLineEdit, name)
        field.setFocus()
        field.selectAll()
        hand.qtbot.keyClicks(field, text)
        hand.qtbot.keyClick(field, Qt.Key.Key_Return)
        hand.settled(hand.window)
    hand.choose("part_colour", "plum")
    hand.choose("part_material", "brass")
    hand.settled(hand.window)
    document = hand.bench.session.document
    part = document.parts[0]
    assert (document.bodies[0].name, part.name, part.note) == ("tie bar", "bar", "oak")
    assert (part.colour, part.material.name, part.material.density) == ("plum", "brass", 8500.0)
    field = hand.child(QLineEdit, "body_name")
    field.setFocus()
    field.selectAll()
    hand.qtbot.keyClicks(field, "wrong")
    hand.qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "tie bar"
    assert hand.bench.session.document == document


def test_a_body_and_a_joint_are_switched_off_for_the_moment(hand: Hand) -> None:
    ready_four_bar(hand)
    select(hand, "link")
    hand.qtbot.mouseClick(hand.child(QCheckBox, "body_off"), LEFT, pos=QPoint(8, 8))
    hand.settled(hand.window)
    assert hand.bench.scene.resolved.off == ("link",)
    assert [b.id for b in hand.bench.scene.resolved.document.bodies] == ["base", "crank", "link_2"]
    assert any(f.kind == "off" for f in hand.bench.evaluation.verdict.findings)
    hand.press_button("assemble_list")
    listed = hand.child(QListWidget, "body_list")
    row = next(k for k in range(listed.count()) if "off" in listed.item(k).text())
    listed.setCurrentRow(row)
    hand.qtbot.mouseClick(
        listed.viewport(), LEFT, pos=listed.visualItemRect(listed.item(row)).center()
    )
    hand.qtbot.mouseClick(hand.child(QCheckBox, "body_off"), LEFT, pos=QPoint(8, 8))
    hand.settled(hand.window)
    assert hand.bench.scene.resolved.off == ()
    joints = hand.child(QListWidget, "joint_list")
    hand.qtbot.mouseClick(
        joints.viewport(), LEFT, pos=joints.visualItemRect(joints.item(3)).center()
    )
    assert hand.bench.selection.kind == "joint"
    hand.qtbot.mouseClick(hand.child(QCheckBox, "joint_off"), LEFT, pos=QPoint(8, 8))
    hand.settled(hand.window)
    assert hand.bench.evaluation.followed.mobility.freedoms == 3


def test_the_join_panel_turns_offsets_stacks_and_says_how_far_apart(hand: Hand) -> None:
    hand.place("straight guide", 0, 0)
    hand.place("block", 30, 70)
    pick_two(hand, "block.middle", "guide.axis")
    assert hand.child(QComboBox, "join_kind").currentText() == "prismatic"
    hand.retype("join_offset", "3 mm")
    hand.wait_for_join()
    hand.choose("join_stack", "middle to middle")
    box = hand.child(QCheckBox, "join_flip")
    hand.qtbot.mouseClick(box, LEFT, pos=QPoint(8, 8))
    hand.wait_for_join()
    proposal = hand.window.drafts.join.proposal
    assert proposal.is_closed
    index = [b.id for b in proposal.resolved.document.bodies].index("block")
    assert build.wrap(proposal.poses[index, 2] - math.pi) == pytest.approx(0, abs=1e-9)
    assert abs(proposal.poses[index, 1]) == pytest.approx(3.0, abs=1e-8)
    field = hand.child(QuantityField, "join_offset")
    field.setFocus()
    field.selectAll()
    hand.qtbot.keyClicks(field, "3 deg")
    assert "a length is needed" in field.toolTip()
    hand.choose("join_manner", "as they stand")
    assert "apart" in hand.child(QLabel, "join_words").text()
    hand.press_button("join_keep_offset")
    hand.wait_for_join()
    assert hand.window.drafts.join.proposal.moved == ()
    hand.press_button("join_cancel")
    assert hand.bench.tool == ""
    assert not hand.bench.session.document.joints


def test_escape_goes_back_one_pick_at_a_time(hand: Hand) -> None:
    hand.place("base with two pins", -50, -40)
    hand.place("link", 0, 60)
    before = hand.bench.session.document
    pick_two(hand, "link.a", "base.a")
    stage = hand.window.stage
    assert "Enter makes the join" in stage.tool.hint
    hand.key(Qt.Key.Key_Escape)
    assert hand.window.drafts.join.first is None
    assert hand.bench.tool == "join"
    assert "Pick a place on the part that comes" in stage.tool.hint
    hand.key(Qt.Key.Key_Escape)
    assert hand.bench.tool == ""
    assert hand.bench.session.document is before


def test_a_block_comes_on_to_a_curved_guide(hand: Hand) -> None:
    hand.place("curved guide", -60, -60, radius="70 mm")
    hand.place("block", 60, 60)
    pick_two(hand, "block.middle", "arc_guide.centre")
    hand.choose("join_kind", "block on arc")
    assert hand.window.drafts.join.wish.radius == pytest.approx(70.0)
    hand.qtbot.keyClick(hand.window.stage, Qt.Key.Key_Return)
    hand.settled(hand.window)
    cx, cy = hand.point("arc_guide.centre")
    x, y = hand.point("block.middle")
    assert math.hypot(x - cx, y - cy) == pytest.approx(70.0, abs=1e-6)
    hand.drag((x, y), [(x - 5, y + 3), (x - 30, y + 16)], release=False)
    x, y = hand.point("block.middle")
    assert math.hypot(x - cx, y - cy) == pytest.approx(70.0, abs=1e-6)
    hand.qtbot.mouseRelease(hand.window.stage, LEFT, pos=QPoint(5, 5))


def test_loose_parts_are_carried_and_escape_puts_them_back(hand: Hand) -> None:
    hand.place("link", 0, 0)
    before = hand.bench.session.document
    hand.drag((40, 0), [(45, 5), (70, 30)], release=False)
    hand.settled(hand.window)
    moved = hand.bench.session.document.bodies[0].pose
    assert (moved.x, moved.y) == (pytest.approx(30, abs=1), pytest.approx(30, abs=1))
    hand.key(Qt.Key.Key_Escape)
    assert hand.bench.session.document == before
    hand.drag((40, 0), [(45, 5), (60, 20)])
    hand.settled(hand.window)
    assert hand.bench.session.undo_label == "Place"
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before


def test_a_limit_holds_a_drag_and_names_itself(hand: Hand) -> None:
    ready_four_bar(hand)
    hand.bench.select(Selection("joint", "crank_on_base"))
    now = hand.child(QLabel, "live_present").text().rstrip("°").replace("−", "-")
    hand.retype("limit_greatest", f"{float(now) + 20} deg")
    (x, y), (cx, cy) = hand.point("crank.pin"), hand.point("base.a")
    angle = math.atan2(y - cy, x - cx)
    grab = (cx + 22 * math.cos(angle), cy + 22 * math.sin(angle))
    way = [
        (cx + 22 * math.cos(angle + 0.06 * k), cy + 22 * math.sin(angle + 0.06 * k))
        for k in range(1, 16)
    ]
    hand.drag(grab, way, release=False)
    crank = [b.id for b in hand.bench.session.document.bodies].index("crank")
    turned = hand.bench.shown_poses()[crank, 2] - hand.bench.scene.poses[crank, 2]
    assert turned == pytest.approx(math.radians(20), abs=2e-3)
    assert "Held by the limit of crank on base" in hand.window.stage.tool.hint
    hand.qtbot.mouseRelease(hand.window.stage, LEFT, pos=hand.pixel(*way[-1]))


def test_what_is_hidden_seen_through_or_coloured_shows_on_the_stage(hand: Hand) -> None:
    hand.place("plate with holes", 0, 0)
    stage = hand.window.stage
    hand.bench.select(Selection())
    x, y = 0.0, 12.0

    def colour() -> str:
        point = hand.pixel(x, y)
        return str(stage.grab().toImage().pixelColor(point).name())

    solid = colour()
    hand.command("see_through")
    faint = colour()
    assert faint != solid
    hand.command("see_through")
    assert colour() == solid
    hand.bench.select(Selection("body", hand.bench.session.document.bodies[0].id))
    hand.press_button("body_hide")
    hand.bench.select(Selection())
    assert colour() not in (solid, faint)
    assert stage.body_at(QPointF(hand.pixel(x, y))) is None
    hand.key(Qt.Key.Key_H, CONTROL | SHIFT)
    assert colour() == solid


def test_units_are_named_taken_apart_and_keep_limits_of_their_own(hand: Hand) -> None:
    ready_four_bar(hand)
    select(hand, "link", "link_2")
    hand.key(Qt.Key.Key_U, CONTROL)
    assert hand.bench.selection.id == "unit__link_2"
    field = hand.child(QLineEdit, "unit_name")
    field.setFocus()
    field.selectAll()
    hand.qtbot.keyClicks(field, "dyad")
    hand.qtbot.keyClick(field, Qt.Key.Key_Return)
    hand.settled(hand.window)
    assert hand.bench.session.document.subassemblies[0].name == "dyad"
    joint = hand.bench.session.document.subassemblies[0].joints[0].id
    hand.press_button(f"go_unit__{joint}")
    hand.retype("limit_greatest", "200 deg")
    (use,) = hand.bench.session.document.instances
    assert use.settings[0].limits.greatest == "200 deg"
    assert hand.bench.evaluation.followed.mobility.freedoms == 1
    poses = hand.bench.scene.poses.copy()
    hand.press_button("joint_use")
    hand.press_button("use_apart")
    document = hand.bench.session.document
    assert not document.instances
    assert len(document.bodies) == 4
    assert sorted(np.round(hand.bench.scene.poses[:, 0], 6)) == pytest.approx(
        sorted(np.round(poses[:, 0], 6))
    )


def test_the_map_is_walked_by_keys(hand: Hand) -> None:
    ready_four_bar(hand)
    hand.press_button("assemble_map")
    chain = hand.child(QWidget, "chain_map")
    chain.setFocus()
    hand.bench.select(Selection())
    seen = []
    for _ in range(4):
        hand.qtbot.keyClick(chain, Qt.Key.Key_Down)
        seen.append(hand.bench.selection.id)
    assert sorted(seen) == ["base", "crank", "link", "link_2"]


def test_play_is_given_to_tight_holes_by_one_click(hand: Hand) -> None:
    hand.place("base with two pins", -50, -40)
    hand.place("link", 0, 60, hole="7.8 mm")
    hand.join("link.a", "base.a")
    (tight,) = {
        b.objectName()
        for b in hand.window.findChildren(QPushButton)
        if "no play" in b.accessibleName()
    }
    hand.press_button(f"{tight}_fix")
    hole = hand.bench.session.document.part("link").slabs[0].holes[0].outline
    assert hole.radius == pytest.approx(4.1)


def test_a_picture_is_laid_scaled_and_saved_with_the_document(hand: Hand, tmp_path) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "sketch.png"
    image = QImage(200, 100, QImage.Format.Format_RGB32)
    image.fill(QColor("#204080"))
    image.save(str(path))
    hand.window.assembling.lay_picture(path)
    hand.settled(hand.window)
    (picture,) = hand.bench.session.document.pictures
    stage = hand.window.stage
    middle = QColor(stage.grab().toImage().pixelColor(hand.pixel(7, 13)))
    paper = QColor(hand.bench.theme.stage)
    # Half seen over paper.
    assert middle.blue() == pytest.approx((0x80 + paper.blue()) / 2, abs=6)
    hand.press_button("picture_scale")
    stage.tool.scale((-150.0, 0.0), (150.0, 0.0), "12 cm")
    hand.settled(hand.window)
    at = hand.bench.scene.resolved.pictures[0]
    assert at.pixel * 200 == pytest.approx(120.0)
    assert at.x == pytest.approx(-150.0)
    assert hand.bench.tool == ""
    saved = tmp_path / "traced.anakinema"
    hand.bench.save(saved)
    assert read_document(saved).pictures[0].data == picture.data
    hand.press_button("picture_drop")
    assert not hand.bench.session.document.pictures
    broken = tmp_path / "broken.jpg"
    broken.write_bytes(b"no picture")
    hand.window.assembling.lay_picture(broken)
    assert "broken.jpg" in hand.child(QLabel, "trouble_words").text()


def test_a_dimension_is_dragged_on_the_stage_by_its_grip(hand: Hand) -> None:
    body = hand.place("link", 0, 0)
    hand.place("disc", 0, 80)
    tool = hand.window.stage.tool
    assert not any(grip.part == "link" for grip in tool.grips())
    hand.click(40, 0)
    assert hand.bench.selection.id == body
    grip = next(g for g in tool.grips() if g.name == "length")
    before = hand.bench.session.document
    hand.drag((grip.x, grip.y), [(grip.x + 8, grip.y), (grip.x + 20, grip.y + 6)])
    hand.settled(hand.window)
    assert hand.bench.scene.resolved.names["link.length"].value == pytest.approx(100, abs=0.6)
    assert hand.bench.session.document.body(body).pose == before.body(body).pose
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before
    # Too far inwards the part would be impossible: that is stated, and the last sound size stays.
    hole = next(g for g in tool.grips() if g.name == "hole")
    hand.drag((hole.x, hole.y), [(hole.x - 1, hole.y), (hole.x - 30, hole.y)])
    assert "plain closed shape" in hand.child(QLabel, "trouble_words").text()
    hand.settled(hand.window)
    assert hand.bench.scene.resolved.names["link.hole"].value < 20
    # Esc in the middle of a drag puts back what was there.
    size = hand.bench.session.document
    width = next(g for g in tool.grips() if g.name == "width")
    hand.drag((width.x, width.y), [(width.x - 6, width.y)], release=False)
    assert hand.bench.session.document != size
    hand.qtbot.keyClick(hand.window.stage, Qt.Key.Key_Escape)
    hand.settled(hand.window)
    assert hand.bench.session.document == size


def test_a_typed_height_settles_the_place_in_the_stack(hand: Hand) -> None:
    hand.place("base with two pins", -50, -40)
    hand.place("link", 0, 60)
    pick_two(hand, "link.a", "base.a")
    hand.choose("join_stack", "at a height")
    field = hand.child(QuantityField, "join_rise")
    field.selectAll()
    hand.qtbot.keyClicks(field, "17 mm")
    hand.wait_for_join()
    hand.press_button("join_make")
    (joint,) = hand.bench.session.document.joints
    assert joint.rise == 17.0
    heights = hand.bench.scene.resolved.heights
    assert heights[1] - heights[0] == pytest.approx(17.0)


def test_a_spot_under_the_pointer_goes_with_its_body(hand: Hand) -> None:
    hand.place("base with two pins", -50, -40)
    hand.place("link", 0, 60)
    stage = hand.window.stage
    stage.setFocus()
    hand.command("join")
    hand.qtbot.mouseMove(stage, hand.pixel(0, -20))
    hand.qtbot.mouseMove(stage, hand.pixel(*hand.point("link.b")))
    assert stage.tool.snap is not None and stage.tool.snap.body == "link"
    hand.bench.do(Remove(Going(bodies=frozenset(("link",)))))
    hand.settled(hand.window)
    assert stage.tool.snap is None
    assert not stage.grab().isNull()


def test_the_shelf_is_there_before_its_drawings(window, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    monkeypatch.setattr("anakinema.ui.drawers.shelf._known", {})
    monkeypatch.setattr("anakinema.ui.drawers.shelf._drawings", {})
    window.new()
    shelf = window.assemble.shelf
    rows = shelf.findChild(QListWidget, "shelf")
    (link,) = rows.findItems("link", Qt.MatchFlag.MatchExactly)

    def inked() -> bool:
        image = link.icon().pixmap(rows.iconSize()).toImage()
        spots = [(x, y) for x in range(image.width()) for y in range(image.height())]
        return any(image.pixelColor(x, y).alpha() for x, y in spots)

    height = rows.visualItemRect(link).height()
    assert not shelf.is_drawn and not inked()
    until(lambda: shelf.is_drawn and inked())
    assert rows.visualItemRect(link).height() == height, "nothing jumps"
