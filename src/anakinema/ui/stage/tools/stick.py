"""Draw a skeleton: drag from pivot to pivot, and a bare length stands there, pinned where it
begins and ends on others."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPen, QTransform

from anakinema.authoring import PlacedSnap, stick
from anakinema.errors import AnakinemaError
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import SnapFinder, Tool, draw_snap, draw_words
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Selection
from anakinema.units import LENGTH


class StickTool(Tool):
    """Press, drag, release: one stick. Stays in hand until Esc."""

    hint = "Drag from pivot to pivot. Esc: no more."

    def __init__(self, stage: Surface) -> None:
        super().__init__(stage)
        self._finder = SnapFinder(stage)
        self._start: tuple[tuple[float, float], PlacedSnap | None] | None = None
        self._at: Pointer | None = None

    def _end_at(self, at: Pointer) -> tuple[tuple[float, float], PlacedSnap | None]:
        self._finder.look(at)
        snap = self._finder.snap
        if snap is not None:
            return (snap.x, snap.y), snap
        return (self.stage.snapped(at.x), self.stage.snapped(at.y)), None

    def press(self, at: Pointer) -> bool:
        self.workbench.rest()
        self._at = at
        self._start = self._end_at(at)
        return True

    def move(self, at: Pointer) -> None:
        self._at = at
        self._finder.look(at)
        self.stage.update()

    def release(self, at: Pointer) -> None:
        scene, start = self.workbench.rest(), self._start
        self._start = None
        if scene is None or start is None:
            return
        end = self._end_at(at)
        if start[1] is not None and end[1] is not None and start[1].body == end[1].body:
            end = (end[0], None)
        try:
            edit, body = stick(scene, start, end)
        except AnakinemaError as error:
            self.workbench.report(error)
            return
        self.workbench.do_once(edit)
        self.workbench.select(Selection("body", body))

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        if self._at is None:
            return
        if self._finder.snap is not None:
            draw_snap(painter, self.stage.levels, self._finder.snap, theme, self._finder.words)
        if self._start is None:
            return
        end, _ = self._end_at(self._at)
        one, two = view.map(QPointF(*self._start[0])), view.map(QPointF(*end))
        painter.setPen(QPen(QColor(theme.accent), 2.5))
        painter.drawLine(one, two)
        units = self.stage.units
        if units is not None:
            words = units.format(math.dist(self._start[0], end), LENGTH)
            draw_words(painter, (one + two) / 2 + QPointF(10, -8), words, theme)
