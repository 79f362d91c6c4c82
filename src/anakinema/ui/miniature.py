"""A mechanism drawn small, that runs while it is pointed at."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QElapsedTimer, QEvent, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QEnterEvent, QFocusEvent, QHideEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton

from anakinema.ui.desk import Desk
from anakinema.ui.guarded import guarded
from anakinema.ui.theme import font

if TYPE_CHECKING:
    from anakinema.ui.miniature_picture import MiniaturePicture

FRAME = 33
"""ms between two pictures."""
PICTURE = 104
"""Pixels that the picture is high."""
LEAST, MOST = 2.0, 5.0
"""Seconds that a run takes, whatever it takes in truth."""


@guarded
class MiniatureCard(QAbstractButton):
    """A picture of a mechanism with its name and a line of what it shows."""

    def __init__(self, desk: Desk, name: str, title: str, line: str, path: Path) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setText(title)
        self.setAccessibleName(title)
        self.setAccessibleDescription(line)
        self.setToolTip(line)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.path = path
        self.share = 0.0
        """How far the run is, 0 to 1."""
        self._line = line
        self._desk = desk
        self._picture: MiniaturePicture | None = None
        self._clock = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME)
        self._timer.timeout.connect(self._tick)

    def sizeHint(self) -> QSize:
        return QSize(216, PICTURE + 62)

    @property
    def is_drawn(self) -> bool:
        """Whether its mechanism is known."""
        return self._picture is not None

    @property
    def runs(self) -> bool:
        """Whether it is moving."""
        return self._timer.isActive()

    def draw(self, picture: MiniaturePicture) -> None:
        """Show a mechanism; it runs if it is pointed at already."""
        self._picture = picture
        self._run(self.underMouse() or self.hasFocus())
        self.update()

    def _run(self, on: bool) -> None:
        moves = self._picture is not None and self._picture.seconds > 0
        if on and moves and not self._desk.settings.still and self.isVisible():
            if not self._timer.isActive():
                self._clock.restart()
                self._timer.start()
        else:
            self._timer.stop()

    def _tick(self) -> None:
        assert self._picture is not None
        lasts = min(max(self._picture.seconds, LEAST), MOST)
        self.share = (self.share + self._clock.restart() / 1000.0 / lasts) % 1.0
        self.update()

    def enterEvent(self, event: QEnterEvent) -> None:
        self._run(True)
        super().enterEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self._run(self.hasFocus())
        super().leaveEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._run(True)
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._run(self.underMouse())
        super().focusOutEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        self._timer.stop()
        super().hideEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        t = self._desk.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        pointed = self.underMouse() or self.hasFocus()
        painter.setPen(QPen(QColor(t.accent if pointed else t.line), 2 if self.hasFocus() else 1))
        painter.setBrush(QColor(t.stage))
        painter.drawRoundedRect(box, 6, 6)
        if self._picture is not None:
            painter.save()
            painter.setClipRect(box.adjusted(2, 2, -2, -60))
            self._picture.paint(painter, QSize(self.width(), PICTURE), self.share, t)
            painter.restore()
        painter.setFont(font(13, strong=True))
        painter.setPen(QColor(t.ink))
        words = QRectF(12, PICTURE + 6, self.width() - 24, 18)
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, self.text())
        painter.setFont(font(12))
        painter.setPen(QColor(t.quiet))
        flags = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.drawText(words.translated(0, 18).adjusted(0, 0, 0, 14), flags, self._line)
