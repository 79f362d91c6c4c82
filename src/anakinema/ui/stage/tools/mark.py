"""Mark a place on a body: one snap, or two that it lies midway between."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QTransform

from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import SnapFinder, Tool, draw_snap
from anakinema.ui.theme import Theme


class MarkTool(Tool):
    """Click a snap, click another of the same body or type how far off; Enter marks the place."""

    wants_tab = True

    def __init__(self, stage: Surface) -> None:
        super().__init__(stage)
        self._finder = SnapFinder(stage)
        self._draft = stage.drafts.mark
        self._draft.changed.connect(stage.update)

    @property
    def snap(self):  # type: ignore[no-untyped-def]
        """The snap under the pointer."""
        return self._finder.snap

    @property
    def hint(self) -> str:  # type: ignore[override]
        """The step at hand."""
        if self._draft.first is None:
            return "Pick a place"
        return "Pick a second one for the middle, or type how far off. Enter marks it."

    def leave(self) -> None:
        self._draft.changed.disconnect(self.stage.update)

    def press(self, at: Pointer) -> bool:
        self._finder.look(at)
        snap = self._finder.snap
        if snap is None:
            return False
        first = self._draft.first
        if first is None or self._draft.second is not None or first.body != snap.body:
            self._draft.pick(snap)
        else:
            self._draft.pick(first, snap)
        return True

    def move(self, at: Pointer) -> None:
        self._finder.look(at)
        self.stage.update()

    def key(self, event: QKeyEvent) -> bool:
        key = event.key()
        if key == Qt.Key.Key_Tab:
            self._finder.cycle()
            self.stage.update()
            return True
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._draft.commit()
            return True
        if key == Qt.Key.Key_Escape and self._draft.first is not None:
            self._draft.clear()
            return True
        return super().key(event)

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        for snap in (self._draft.first, self._draft.second):
            if snap is not None:
                draw_snap(painter, self.stage.levels, snap, theme)
        if self._finder.snap is not None:
            draw_snap(painter, self.stage.levels, self._finder.snap, theme, self._finder.words)
        if self._draft.at is not None:
            at = view.map(QPointF(*self._draft.at))
            painter.setPen(QPen(QColor(theme.accent), 2))
            painter.setBrush(QColor(theme.accent))
            painter.drawEllipse(at, 4, 4)
            painter.drawLine(at - QPointF(12, 0), at + QPointF(12, 0))
            painter.drawLine(at - QPointF(0, 12), at + QPointF(0, 12))
