"""Place a part from the shelf, or another use of one that the document has: click where it goes."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from anakinema.authoring import part_outlines, placed_at, seated, seats_itself
from anakinema.errors import AnakinemaError
from anakinema.ui.stage.bodies import region_path
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import SnapFinder, Tool, draw_snap, draw_words
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Selection
from anakinema.units import LENGTH

ITEM = "application/x-anakinema-part"
"""What a part dragged from the shelf is carried as."""


class PlaceTool(Tool):
    """The part hangs on the pointer until it is put down; Shift puts down several."""

    def __init__(self, stage: Surface, item: str) -> None:
        super().__init__(stage)
        self._item = item
        self._at: Pointer | None = None
        self._paths: list[QPainterPath] = [
            region_path(region) for region in part_outlines(self.workbench.session.document, item)
        ]
        self._seats = seats_itself(item)
        self._finder = SnapFinder(stage)
        self.hint = "Click where it goes. Shift: several. Esc: no more."
        if self._seats:
            self.hint = (
                "Click a hole or a pin: it seats itself there. Shift: several. Esc: no more."
            )

    def press(self, at: Pointer) -> bool:
        self._at = at
        return True

    def move(self, at: Pointer) -> None:
        self._at = at
        if self._seats:
            self._finder.look(at)
        self.stage.update()

    def release(self, at: Pointer) -> None:
        if not self._seat(at):
            self._put_down(at)
        if not at.shift:
            self.workbench.use_tool("")

    def _seat(self, at: Pointer) -> bool:
        """Put hardware on the hole or pin under the pointer, if there is one."""
        if not self._seats:
            return False
        scene = self.workbench.rest()
        self._finder.look(at)
        snap = self._finder.snap
        if scene is None or snap is None:
            return False
        try:
            edit, body = seated(scene, self._item, snap)
        except AnakinemaError as error:
            self.workbench.report(error)
            return False
        self.workbench.do_once(edit)
        self.workbench.select(Selection("body", body))
        return True

    def _put_down(self, at: Pointer) -> None:
        x, y = self.stage.snapped(at.x), self.stage.snapped(at.y)
        edit, body = placed_at(
            self.workbench.session.document, self._item, x, y, plane=self.workbench.plane
        )
        self.workbench.do_once(edit)
        self.workbench.select(Selection("body", body))

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        if self._at is None:
            return
        snap = self._finder.snap if self._seats else None
        if snap is not None:
            draw_snap(painter, self.stage.levels, snap, theme, f"seats on {self._finder.words}")
            return
        x, y = self.stage.snapped(self._at.x), self.stage.snapped(self._at.y)
        painter.setTransform(QTransform().translate(x, y) * view)
        pen = QPen(QColor(theme.accent), 1.5)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for path in self._paths:
            painter.drawPath(path)
        painter.resetTransform()
        units = self.stage.units
        if units is not None:
            words = f"x {units.format(x, LENGTH)}, y {units.format(y, LENGTH)}"
            draw_words(painter, self._at.pixel + QPointF(16, -12), words, theme)
