"""Guided builds, followed literally: only what the words say, only where the ring points."""

from __future__ import annotations

import re

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QPushButton, QWidget

from anakinema.findings import Outcome
from anakinema.ui.fields import QuantityField
from anakinema.ui.guide import Ring
from tests.waiting import until

LEFT = Qt.MouseButton.LeftButton
KEYS = {"Space": Qt.Key.Key_Space, "Esc": Qt.Key.Key_Escape, "C": Qt.Key.Key_C, "D": Qt.Key.Key_D}
MOST = 25
"""Gestures from which on a first build is too long: a click, a drag, a key or a typed field."""


class Newcomer:
    """Reads the bar, looks for the ring, and does just that."""

    def __init__(self, qtbot, window, settled) -> None:  # type: ignore[no-untyped-def]
        self.qtbot, self.window, self.settled = qtbot, window, settled
        self.gestures = 0

    @property
    def words(self) -> str:
        return str(self.window.findChild(QLabel, "guide_words").text())

    @property
    def targets(self) -> list[QPoint]:
        self.window.guide._look()
        ring = self.window.findChild(Ring, "guide_ring")
        return [rect.center() for rect in ring.targets]

    def _at(self, point: QPoint) -> tuple[QWidget, QPoint]:
        widget = self.window.childAt(point)
        if isinstance(widget, Ring) or widget is None:
            ring = self.window.findChild(Ring, "guide_ring")
            ring.hide()
            widget = self.window.childAt(point)
            ring.show()
        assert widget is not None, point
        return widget, widget.mapFrom(self.window, point)

    def click(self, point: QPoint) -> None:
        widget, at = self._at(point)
        self.qtbot.mouseMove(widget, at)
        self.qtbot.mouseClick(widget, LEFT, pos=at)
        self.gestures += 1

    def drag(self, start: QPoint, end: QPoint) -> None:
        stage = self.window.stage
        one, two = (stage.mapFrom(self.window, point) for point in (start, end))
        self.qtbot.mousePress(stage, LEFT, pos=one)
        for share in (0.3, 0.6, 0.9, 1.0):
            self.qtbot.mouseMove(stage, one + (two - one) * share)
        self.qtbot.mouseRelease(stage, LEFT, pos=two)
        self.gestures += 1

    def key(self, key: Qt.Key) -> None:
        focused = QApplication.focusWidget() or self.window
        self.qtbot.keyClick(focused, key)
        self.gestures += 1

    def type_into(self, text: str, point: QPoint) -> None:
        widget, _ = self._at(point)
        assert isinstance(widget, QuantityField), widget
        widget.setFocus()
        widget.selectAll()
        self.qtbot.keyClicks(widget, text)
        self.qtbot.keyClick(widget, Qt.Key.Key_Return)
        self.gestures += 1

    def choose(self, words: str, point: QPoint) -> None:
        widget, _ = self._at(point)
        assert isinstance(widget, QComboBox), widget
        widget.setFocus()
        for _ in range(widget.findText(words) - widget.currentIndex()):
            self.qtbot.keyClick(widget, Qt.Key.Key_Down)
        self.gestures += 1

    def follow(self) -> list[str]:
        """Do step after step until there is none left; what was read on the way."""
        read: list[str] = []
        while self.window.guide.is_on and "yours to change" not in self.words:
            words = self.words
            assert words not in read, f"no way on from: {words}"
            read.append(words)
            playback = self.window.workbench.playback
            if "on the stage" in words and playback is not None:
                # Wherever it was stopped: here the crank is hidden.
                self.window.workbench.move_playhead((playback.first + playback.last) / 2)
            self._do(words)
            self.settled(self.window)
            try:
                until(lambda before=words: self.words != before)
            except AssertionError as error:
                raise AssertionError(f"nothing came of: {words} at {self.targets}") from error
        return read

    def _do(self, words: str) -> None:
        stage, bench = self.window.stage, self.window.workbench
        pressed = re.search(r"Press (Space|Esc|C|D)\b", words)
        if pressed is None:
            # A ring comes as soon as there is what it points at.
            until(lambda: bool(self.targets))
        targets = self.targets
        chosen = re.search(r"choose “(.+)”", words)
        typed = re.search(r"Type (-?\d+(?:\.\d+)?)", words)
        if typed is not None:
            self.type_into(typed[1], targets[0])
        elif chosen is not None:
            self.choose(chosen[1], targets[0])
        elif pressed is not None:
            self.key(KEYS[pressed[1]])
        elif len(targets) == 2:
            self.drag(*targets)
            draft = self.window.drafts.join
            until(lambda: draft.proposal is not None and draft.proposal.is_closed)
            self.key(Qt.Key.Key_Return)
        elif words.split("   ")[1].startswith("Drag"):
            at = stage.mapFrom(self.window, targets[0])
            self.drag(stage.mapTo(self.window, at), stage.mapTo(self.window, at + QPoint(4, 22)))
        else:
            assert targets, words
            self.click(targets[0])
        until(lambda: not bench.busy)


@pytest.mark.parametrize(
    ("button", "most", "size"),
    [
        ("start_guided", MOST, (1280, 800)),
        ("start_guided_cam", 12, (1280, 800)),
        ("start_guided_pawl", 40, (1024, 668)),
    ],
)
def test_a_guided_build_ends_green_by_doing_only_what_it_says(
    qtbot, window, settled, button: str, most: int, size: tuple[int, int]
) -> None:  # type: ignore[no-untyped-def]
    window.resize(*size)
    newcomer = Newcomer(qtbot, window, settled)
    qtbot.mouseClick(window.findChild(QPushButton, button), LEFT)
    settled(window)
    read = newcomer.follow()
    window.workbench.play(False)
    assert len(read) > 6
    assert newcomer.gestures <= most, newcomer.gestures
    verdict = window.workbench.evaluation.verdict
    assert verdict.outcome in (Outcome.PASS, Outcome.WARN)
    asked = [f for f in verdict.findings if not f.id.startswith("built_in")]
    assert [f.outcome for f in asked] == [Outcome.PASS]
    mobility = window.workbench.evaluation.followed.mobility
    assert all(freedom.idle_spin for freedom in mobility.undriven)
    qtbot.mouseClick(window.findChild(QPushButton, "guide_end"), LEFT)
    assert not window.guide.isVisible()
