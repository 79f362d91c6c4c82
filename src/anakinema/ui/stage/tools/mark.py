"""Mark a place on a body: one spot, or two that it lies midway between."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QTransform

from anakinema.ui.stage.surface import Surface
from anakinema.ui.stage.tools.base import Pointer, SpotFinder, Tool, draw_spot
from anakinema.ui.theme import Theme


class MarkTool(Tool):
    """Click a spot, click another of the same body or type how far off; Enter marks the place."""

    wants_tab = True

    def __init__(self, stage: Surface) -> None:
        super().__init__(stage)
        self._finder = SpotFinder(stage)
        self._draft = stage.drafts.mark
        self._draft.changed.connect(stage.update)

    @property
    def spot(self):  # type: ignore[no-untyped-def]
        """The spot under the pointer."""
        return self._finder.spot

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
        spot = self._finder.spot
        if spot is None:
            return False
        first = self._draft.first
        if first is None or self._draft.second is not None or first.body != spot.body:
            self._draft.pick(spot)
        else:
            self._draft.pick(first, spot)
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
        for spot in (self._draft.first, self._draft.second):
            if spot is not None:
                draw_spot(painter, view, spot, theme)
        if self._finder.spot is not None:
            draw_spot(painter, view, self._finder.spot, theme, self._finder.words)
        if self._draft.at is not None:
            at = view.map(QPointF(*self._draft.at))
            painter.setPen(QPen(QColor(theme.accent), 2))
            painter.setBrush(QColor(theme.accent))
            painter.drawEllipse(at, 4, 4)
            painter.drawLine(at - QPointF(12, 0), at + QPointF(12, 0))
            painter.drawLine(at - QPointF(0, 12), at + QPointF(0, 12))
