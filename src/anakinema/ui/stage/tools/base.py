"""What the stage asks of the tool in hand."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QTransform

from anakinema.authoring import PlacedSnap
from anakinema.ui.stage.levels import Levels
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.theme import Theme, font

SNAP = 12
"""Pixels within which a snap is taken."""


class Tool:
    """Does nothing; the stage then pans and picks as usual."""

    hint = ""
    wants_tab = False

    def __init__(self, stage: Surface) -> None:
        self.stage = stage
        self.workbench = stage.workbench

    def press(self, at: Pointer) -> bool:
        """The left button goes down; True if the tool takes the gesture."""
        return False

    def move(self, at: Pointer) -> None:
        """The pointer moves, button down or not."""

    def release(self, at: Pointer) -> None:
        """The button goes up after a gesture that the tool took."""

    def key(self, event: QKeyEvent) -> bool:
        """A key; True if the tool takes it."""
        if event.key() == Qt.Key.Key_Escape:
            self.workbench.use_tool("")
            return True
        return False

    def leave(self) -> None:
        """Another tool is taken in hand."""

    def interrupt(self) -> None:
        """Something else has happened: what is only tried by keyboard ends."""

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        """Draw over the mechanism."""


class SnapFinder:
    """The snap under the pointer; Tab goes through those that lie close together."""

    def __init__(self, stage: Surface) -> None:
        self._stage = stage
        self._found: tuple[PlacedSnap, ...] = ()
        self._turn = 0

    def look(self, at: Pointer, without: frozenset[str] = frozenset()) -> None:
        """Look for snaps near the pointer, none on some bodies."""
        found = self._stage.snaps_at(at, SNAP)
        hidden = self._stage.workbench.hidden | without
        found = tuple(snap for snap in found if snap.body not in hidden)
        if [_key(s) for s in found] != [_key(s) for s in self._found]:
            self._turn = 0
        self._found = found

    def cycle(self) -> None:
        """Take the next of the snaps that lie close together."""
        self._turn += 1

    @property
    def snap(self) -> PlacedSnap | None:
        """The snap taken."""
        found = self._there()
        return found[self._turn % len(found)] if found else None

    def _there(self) -> list[PlacedSnap]:
        """Of the snaps found those whose bodies are still there."""
        scene = self._stage.workbench.scene
        return [s for s in self._found if scene is not None and scene.index(s.body) is not None]

    @property
    def words(self) -> str:
        """'link: b, hole 8.20 mm (1 of 3, Tab for the next)'."""
        snap = self.snap
        scene = self._stage.workbench.scene
        if snap is None or scene is None:
            return ""
        words = f"{scene.resolved.document.body(snap.body).title}: {snap.snap.words}"
        if snap.rim:
            words += f", {snap.rim}"
        count = len(self._there())
        if count > 1:
            words += f"  ({self._turn % count + 1} of {count}, Tab for the next)"
        return words


def _key(snap: PlacedSnap) -> tuple[str, str, str]:
    return snap.body, snap.snap.place.id, snap.rim


def draw_snap(
    painter: QPainter, levels: Levels, snap: PlacedSnap, theme: Theme, words: str = ""
) -> None:
    """A ring with the direction of the place, and why it is one."""
    point = levels.at(snap).map(QPointF(snap.x, snap.y))
    accent = QColor(theme.accent)
    painter.setPen(QPen(accent, 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(point, 8, 8)
    along = QPointF(math.cos(snap.angle), -math.sin(snap.angle))
    if snap.snap.kind.is_lengthwise:
        painter.drawLine(point - along * 16, point + along * 16)
    else:
        painter.drawLine(point + along * 8, point + along * 13)
    if words:
        draw_words(painter, point + QPointF(14, -16), words, theme)


def draw_words(painter: QPainter, at: QPointF, words: str, theme: Theme) -> None:
    """Words on a card, its lower left corner at a pixel, kept on the stage."""
    painter.setFont(font(12))
    metrics = painter.fontMetrics()
    box = QRectF(at.x(), at.y() - 20, metrics.horizontalAdvance(words) + 14, 20)
    # Its viewport may be that of the whole window.
    right, bottom = painter.device().width(), painter.device().height()
    box.moveLeft(min(max(box.left(), 6.0), max(6.0, right - box.width() - 6)))
    box.moveTop(min(max(box.top(), 6.0), bottom - 26))
    painter.setPen(QPen(QColor(theme.line), 1))
    painter.setBrush(QColor(theme.card))
    painter.drawRoundedRect(box, 5, 5)
    painter.setPen(QColor(theme.ink))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
