"""Ghosts of the copies that the repeat panel would make."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QTransform

from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import SnapFinder, Tool, draw_snap
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Selection


class RepeatTool(Tool):
    """Click selects what is to be repeated, or a place it shall come onto; Enter makes it."""

    wants_tab = True

    def __init__(self, stage: Surface) -> None:
        super().__init__(stage)
        self._finder = SnapFinder(stage)
        stage.drafts.repeat.changed.connect(stage.update)

    @property
    def hint(self) -> str:  # type: ignore[override]
        """The step at hand."""
        if self.stage.drafts.repeat.offered:
            return "Click the places it shall come onto. Enter makes the copies."
        return "Enter makes the copies. Esc: none."

    @property
    def snap(self):  # type: ignore[no-untyped-def]
        """The snap under the pointer."""
        return self._finder.snap

    def move(self, at: Pointer) -> None:
        if self.stage.drafts.repeat.offered:
            self._finder.look(at)
            self.stage.update()

    def leave(self) -> None:
        self.stage.drafts.repeat.changed.disconnect(self.stage.update)

    def release(self, at: Pointer) -> None:
        draft = self.stage.drafts.repeat
        if draft.offered:
            self._finder.look(at)
            if self._finder.snap is not None and draft.toggle(self._finder.snap):
                return
        body = self.stage.body_at(at.pixel)
        if body is None:
            return
        selection = self.workbench.selection
        adds = (at.control or at.shift) and selection.kind == "body"
        self.workbench.select(selection.toggled(body) if adds else Selection("body", body))

    def key(self, event: QKeyEvent) -> bool:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.stage.drafts.repeat.commit()
            return True
        if event.key() == Qt.Key.Key_Tab:
            self._finder.cycle()
            self.stage.update()
            return True
        return super().key(event)

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        draft, bodies, ink = self.stage.drafts.repeat, self.stage.bodies, QColor(theme.accent)
        for snap in draft.offered:
            painter.setPen(QPen(ink, 1.6))
            painter.setBrush(ink if draft.is_target(snap) else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(view.map(QPointF(snap.x, snap.y)), 5, 5)
        if draft.offered and self._finder.snap is not None:
            draw_snap(painter, self.stage.levels, self._finder.snap, theme, self._finder.words)
        found = draft.found
        if found is None or bodies is None:
            return
        for pose, original in zip(found.poses, found.originals, strict=True):
            bodies.draw_one_ghost(painter, view, pose, original, ink)
