"""Building by mouse and keys alone, from an empty stage to mechanisms that move as they should."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QMessageBox,
    QPushButton,
    QWidget,
)

from anakinema.files.native import read_document
from anakinema.ui.fields import QuantityField
from tests import mechanisms as build

LEFT = Qt.MouseButton.LeftButton
SHIFT = Qt.KeyboardModifier.ShiftModifier
PLAIN = Qt.KeyboardModifier.NoModifier
CONTROL = Qt.KeyboardModifier.ControlModifier


class Hand:
    """Mouse and keys on a window."""

    def __init__(self, qtbot, window, settled) -> None:  # type: ignore[no-untyped-def]
        self.qtbot, self.window, self.settled = qtbot, window, settled
        self.bench = window.workbench

    def child(self, kind: type, name: str):  # type: ignore[no-untyped-def]
        found = self.window.findChild(kind, name)
        assert found is not None, name
        return found

    def press_button(self, name: str) -> None:
        self.qtbot.mouseClick(self.child(QPushButton, name), LEFT)
        self.settled(self.window)

    def key(
        self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        if not self.window.isActiveWindow():
            self.window.activateWindow()
            self.qtbot.waitUntil(self.window.isActiveWindow)
        self.qtbot.keyClick(self.window.stage, key, modifier)
        self.settled(self.window)

    def pixel(self, x: float, y: float) -> QPoint:
        point = self.window.stage.to_pixels(x, y)
        return QPoint(round(point.x()), round(point.y()))

    def click(self, x: float, y: float, modifier: Qt.KeyboardModifier = PLAIN) -> None:
        stage = self.window.stage
        self.qtbot.mouseMove(stage, self.pixel(x, y))
        self.qtbot.mouseClick(stage, LEFT, modifier, self.pixel(x, y))
        self.settled(self.window)

    def drag(
        self,
        start: tuple[float, float],
        way: list[tuple[float, float]],
        *,
        release: bool = True,
        modifier=Qt.KeyboardModifier.NoModifier,
    ) -> None:  # type: ignore[no-untyped-def]
        stage = self.window.stage
        self.qtbot.mousePress(stage, LEFT, modifier, self.pixel(*start))
        for point in way:
            self.qtbot.mouseMove(stage, self.pixel(*point))
        if release:
            self.qtbot.mouseRelease(stage, LEFT, modifier, self.pixel(*way[-1]))

    def place(self, title: str, x: float, y: float, **sizes: str) -> str:
        """Take an item of the shelf in hand, put it down, type its sizes; gives the body's id."""
        field, shelf = self.child(QLineEdit, "shelf_filter"), self.child(QListWidget, "shelf")
        field.setFocus()
        field.clear()
        self.qtbot.keyClicks(field, title)
        rows = [shelf.item(k) for k in range(shelf.count())]
        wanted = [item for item in rows if item.text() == title
                  and str(item.data(Qt.ItemDataRole.UserRole)).startswith("shelf:")]  # fmt: skip
        assert wanted, title
        shelf.scrollToItem(wanted[0])
        self.qtbot.mouseClick(shelf.viewport(), LEFT, pos=shelf.visualItemRect(wanted[0]).center())
        self.click(x, y)
        body = self.bench.selection.id
        part = self.bench.session.document.body(body).part
        for name, value in sizes.items():
            self.retype(f"dimension_{part}_{name}", value)
        return str(body)

    def retype(self, name: str, text: str) -> None:
        field = self.child(QuantityField, name)
        field.setFocus()
        field.selectAll()
        self.qtbot.keyClicks(field, text)
        self.qtbot.keyClick(field, Qt.Key.Key_Return)
        self.settled(self.window)

    def choose(self, name: str, words: str) -> None:
        """Choose in a box by keyboard."""
        box = self.child(QComboBox, name)
        index = box.findText(words)
        assert index >= 0, (words, [box.itemText(k) for k in range(box.count())])
        box.setFocus()
        step = Qt.Key.Key_Down if index > box.currentIndex() else Qt.Key.Key_Up
        for _ in range(abs(index - box.currentIndex())):
            self.qtbot.keyClick(box, step)
        self.wait_for_join()

    def point(self, place: str) -> tuple[float, float]:
        body, name = place.split(".")
        found = self.bench.scene.point(body, name)
        assert found is not None, place
        return found

    def wait_for_join(self) -> None:
        draft = self.window.draft

        def answered() -> None:
            assert (
                draft.wish is None
                or draft.trouble is not None
                or (draft.proposal is not None and draft.proposal.wish == draft.wish)
            )

        self.qtbot.waitUntil(answered, timeout=20000)

    def join(self, first: str, second: str, kind: str = "", branch: int = 0) -> None:
        """Press J, pick two places on the stage, Enter."""
        self.window.stage.setFocus()
        self.key(Qt.Key.Key_J)
        for place in (first, second):
            self.pick(place)
        self.wait_for_join()
        if kind:
            self.choose("join_kind", kind)
        if branch:
            self.qtbot.keyClick(self.window.stage, Qt.Key.Key_O)
            self.wait_for_join()
        self.qtbot.keyClick(self.window.stage, Qt.Key.Key_Return)
        self.settled(self.window)
        assert self.bench.tool == ""

    def pick(self, place: str) -> None:
        """Click a place; Tab goes through those that lie together until it is the one wanted."""
        stage, body = self.window.stage, place.split(".")[0]
        self.qtbot.mouseMove(stage, self.pixel(*self.point(place)))
        for _ in range(12):
            spot = stage.tool.spot
            if spot is not None and f"{spot.body}.{spot.spot.place.id}" == place:
                break
            self.qtbot.keyClick(stage, Qt.Key.Key_Tab)
        assert spot is not None and spot.body == body, (place, spot)
        self.qtbot.mouseClick(stage, LEFT, pos=self.pixel(*self.point(place)))


@pytest.fixture
def hand(qtbot, window, settled) -> Hand:  # type: ignore[no-untyped-def]
    """An empty stage, opened from the start page."""
    found = Hand(qtbot, window, settled)
    found.press_button("start_blank")
    assert window.stage.isVisible()
    return found


def four_bar(hand: Hand, branch: int = 0) -> None:
    """Base 100, crank 30, coupler 90, rocker 70, and a driver on the crank."""
    hand.place("base with two pins", -50, -40, spacing="100 mm")
    hand.place("crank with pin", -120, 60, throw="30 mm")
    hand.place("link", -40, 70, length="90 mm")
    hand.place("link", 60, 40, length="70 mm")
    hand.join("crank.shaft", "base.a")
    hand.join("link_2.a", "base.b")
    hand.join("link.a", "crank.pin")
    hand.join("link.b", "link_2.b", branch=branch)
    hand.click(*hand.point("base.a"))
    assert hand.bench.selection.id == "crank_on_base"
    hand.press_button("joint_drive")


@pytest.mark.parametrize("branch", [0, 1])
def test_a_four_bar_from_nothing_moves_as_its_closed_form(hand: Hand, branch: int) -> None:
    four_bar(hand, branch)
    evaluation = hand.bench.evaluation
    motion = evaluation.motion
    index = {b.id: i for i, b in enumerate(evaluation.document.bodies)}
    assert np.ptp(motion.poses[:, index["crank"], 2]) == pytest.approx(2 * math.pi, abs=1e-6)
    branches = set()
    for poses in motion.poses:
        theta, rocker = poses[index["crank"], 2], poses[index["link_2"], 2]
        off = [
            abs(float(build.wrap(rocker - build.four_bar_angles(30, 90, 70, 100, theta,
                                                                is_open=way)[1])))
            for way in (True, False)
        ]  # fmt: skip
        branches.add(int(np.argmin(off)))
        assert min(off) < 1e-7
    assert len(branches) == 1
    assert hand.window.route.stations["Assemble"].words == "4 bodies, 1 freedom"


def test_undo_takes_every_step_back_and_redo_brings_all_again(hand: Hand, tmp_path) -> None:  # type: ignore[no-untyped-def]
    four_bar(hand)
    built = hand.bench.session.document
    steps = 0
    while hand.bench.session.undo_label is not None:
        hand.key(Qt.Key.Key_Z, CONTROL)
        steps += 1
        assert steps < 60
    assert not hand.bench.session.document.bodies
    while hand.bench.session.redo_label is not None:
        hand.key(Qt.Key.Key_Z, CONTROL | SHIFT)
    assert hand.bench.session.document == built
    path = tmp_path / "built.anakinema"
    hand.bench.save(path)
    assert read_document(path) == built


def test_a_slotted_quick_return_from_nothing(hand: Hand) -> None:
    hand.place("base with two pins", 0, -60, spacing="80 mm")
    hand.retype("pose_angle", "90 deg")
    hand.place("crank with pin", -110, 40, throw="30 mm", pin="8 mm")
    hand.place("slotted link", 40, 90, length="180 mm", slot_start="35 mm", slot_end="130 mm")
    hand.join("crank.shaft", "base.b")
    hand.join("slotted_link.a", "base.a")
    hand.join("crank.pin", "slotted_link.slot", "pin in slot")
    joint = hand.bench.session.document.joints[-1]
    assert (joint.kind, joint.first.body) == ("pin_in_slot", "slotted_link")
    hand.click(*hand.point("base.b"))
    hand.press_button("joint_drive")
    motion = hand.bench.evaluation.motion
    index = {b.id: i for i, b in enumerate(hand.bench.evaluation.document.bodies)}
    swing = motion.poses[:, index["slotted_link"], 2]
    # The arm swings by twice the angle whose sine is crank over centre distance.
    joints = motion.mechanism.resolved.document.joints
    events = [e.value for e in motion.events if e.kind.value == "extreme"
              and joints[e.joint].second.body == "slotted_link"]  # fmt: skip
    assert max(events) - min(events) == pytest.approx(2 * math.asin(30 / 80), abs=1e-9)
    assert np.ptp(swing) < math.pi / 2


def test_drag_to_try_returns_and_k_keeps(hand: Hand) -> None:
    four_bar(hand)
    hand.press_button("bar_keep_pose")
    assert "Nothing to keep" in hand.child(QLabel, "trouble_words").text()
    before = hand.bench.session.document
    shown = hand.bench.shown_poses().copy()
    x, y = hand.point("link_2.b")
    grab = ((x + hand.point("base.b")[0]) / 2, (y + hand.point("base.b")[1]) / 2)
    hand.drag(grab, [(grab[0] + 2, grab[1]), (grab[0] + 9, grab[1] - 2)], release=False)
    tried = hand.bench.shown_poses().copy()
    assert np.abs(tried - shown).max() > 1.0
    assert hand.bench.session.document is before
    hand.qtbot.mouseRelease(hand.window.stage, LEFT, pos=hand.pixel(*grab))
    assert hand.bench.shown_poses() == pytest.approx(shown)
    hand.key(Qt.Key.Key_K)
    assert hand.bench.session.undo_label == "Keep the pose"
    document = hand.bench.session.document
    assert [b.id for b in document.bodies] == [b.id for b in before.bodies]
    index = [b.id for b in document.bodies].index("link_2")
    assert float(document.bodies[index].pose.angle) == pytest.approx(
        math.degrees(tried[index, 2]), abs=1e-6
    )
    hand.key(Qt.Key.Key_Z, CONTROL)
    assert hand.bench.session.document == before


def test_a_held_body_stays_and_is_marked(hand: Hand) -> None:
    four_bar(hand)
    x, y = hand.point("link.a")
    hand.window.stage.setFocus()
    hand.drag((x + 8, y + 1), [(x + 12, y + 8)], release=False)
    moved = hand.bench.shown_poses()
    assert np.abs(moved - hand.bench.scene.poses).max() > 0.5
    hand.qtbot.mouseRelease(hand.window.stage, LEFT, pos=hand.pixel(x, y))
    crank = [b.id for b in hand.bench.session.document.bodies].index("crank")
    hand.bench.hold(["crank"])
    hand.drag((x + 30, y + 9), [(x + 40, y + 30)], release=False)
    assert hand.bench.shown_poses()[crank] == pytest.approx(hand.bench.scene.poses[crank])
    hand.qtbot.mouseRelease(hand.window.stage, LEFT, pos=hand.pixel(x, y))
    assert hand.bench.held == {"crank"}


def test_doubts_are_told_and_mended_by_a_click(hand: Hand) -> None:
    hand.place("link", 0, 0)
    assert hand.window.route.stations["Assemble"].words == "nothing is fixed"
    hand.press_button("doubt_0_fix")
    assert hand.bench.session.document.bodies[0].fixed
    hand.place("link", 60, 40)
    assert hand.window.route.stations["Assemble"].words == "link 2 is not joined yet"
    hand.press_button("doubt_0")
    assert hand.bench.selection.bodies == ("link_2",)


def test_a_join_by_keyboard_only(hand: Hand) -> None:
    hand.place("base with two pins", -50, -40)
    hand.place("link", 0, 60)
    hand.window.stage.setFocus()
    hand.key(Qt.Key.Key_J)
    hand.choose("join_first", "link: a, hole 8.20 mm")
    hand.choose("join_second", "base: b, round 8.00 mm")
    words = hand.child(QLabel, "join_words").text()
    assert "play 0.20 mm" in words
    assert "Leaves 1 freedom" in words
    button = hand.child(QPushButton, "join_make")
    button.setFocus()
    hand.qtbot.keyClick(button, Qt.Key.Key_Space)
    hand.settled(hand.window)
    assert hand.point("link.a") == pytest.approx(hand.point("base.b"), abs=1e-9)


def test_deleting_names_what_goes_with_it(hand: Hand, qtbot) -> None:  # type: ignore[no-untyped-def]
    four_bar(hand)
    before = hand.bench.session.document
    hand.click(
        *[(a + b) / 2 for a, b in zip(hand.point("link.a"), hand.point("link.b"), strict=True)]
    )
    assert hand.bench.selection.bodies == ("link",)
    told: list[str] = []

    def answer(words: str) -> None:
        box = QApplication.activeModalWidget()
        assert isinstance(box, QMessageBox)
        told.append(box.text())
        next(b for b in box.buttons() if b.text() == words).click()

    QTimer.singleShot(50, lambda: answer("Keep"))
    hand.key(Qt.Key.Key_Delete)
    assert hand.bench.session.document is before
    QTimer.singleShot(50, lambda: answer("Delete all"))
    hand.key(Qt.Key.Key_Delete)
    assert told[0] == "With it go: link on crank, link on link 2."
    assert len(hand.bench.session.document.joints) == 2


def test_box_selection_and_chain_map(hand: Hand) -> None:
    four_bar(hand)
    hand.key(Qt.Key.Key_F)
    stage = hand.window.stage
    corners = [stage.view.to_plane(QPointF(x, y), stage.width(), stage.height())
               for x, y in ((4, stage.height() - 4), (stage.width() - 4, 4))]  # fmt: skip
    hand.drag(corners[0], [(0, 0), corners[1]], modifier=SHIFT)
    assert set(hand.bench.selection.bodies) == {"base", "crank", "link", "link_2"}
    hand.press_button("assemble_map")
    chain = hand.child(QWidget, "chain_map")
    assert len(chain.chain.nodes) == 4
    assert len(chain.chain.edges) == 4
    frame = next(k for k, n in enumerate(chain.chain.nodes) if n.is_fixed)
    assert chain.chain.nodes[frame].y == 0
    edge = next(k for k, e in enumerate(chain.chain.edges) if e.joint == "crank_on_base")
    hand.qtbot.mouseClick(chain, LEFT, pos=chain.edge_point(edge).toPoint())
    assert hand.bench.selection.id == "crank_on_base"
    node = next(k for k, n in enumerate(chain.chain.nodes) if n.body == "link_2")
    hand.qtbot.mouseClick(chain, LEFT, pos=chain.node_point(node).toPoint())
    assert hand.bench.selection.bodies == ("link_2",)


def test_a_joint_can_be_changed_afterwards_and_says_what_no_longer_fits(hand: Hand) -> None:
    four_bar(hand)
    hand.click(*hand.point("base.b"))
    hand.retype("limit_least", "10 deg")
    hand.choose("joint_kind", "prismatic")
    assert "its limits" in hand.child(QLabel, "trouble_words").text()
    assert hand.bench.session.document.joint("link_2_on_base").kind == "prismatic"
    for _ in range(2):
        hand.key(Qt.Key.Key_Z, CONTROL)
    hand.click(*hand.point("base.b"))
    before = hand.bench.shown_poses().copy()
    hand.press_button("joint_zero")
    assert hand.bench.shown_poses() == pytest.approx(before, abs=1e-9)
    assert hand.child(QLabel, "live_present").text() == "0.0°"
    hand.press_button("joint_reverse")
    assert hand.bench.session.document.joint("link_2_on_base").first.body == "link_2"
    assert hand.bench.shown_poses() == pytest.approx(before, abs=1e-9)
