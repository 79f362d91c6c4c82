"""Ghosts of the copies that the repeat panel would make."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QTransform

from anakinema.ui.stage.tools.base import Pointer, Tool
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Selection


class RepeatTool(Tool):
    """Click selects what is to be repeated; Enter makes the copies."""

    hint = "Enter makes the copies. Esc: none."

    def __init__(self, stage) -> None:  # type: ignore[no-untyped-def]
        super().__init__(stage)
        stage.drafts.repeat.changed.connect(stage.update)

    def leave(self) -> None:
        self.stage.drafts.repeat.changed.disconnect(self.stage.update)

    def release(self, at: Pointer) -> None:
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
        return super().key(event)

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        found, bodies = self.stage.drafts.repeat.found, self.stage.bodies
        if found is None or bodies is None:
            return
        ink = QColor(theme.accent)
        for pose, original in zip(found.poses, found.originals, strict=True):
            bodies.draw_one_ghost(painter, view, pose, original, ink)
