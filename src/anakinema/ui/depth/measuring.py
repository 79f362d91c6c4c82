"""Measure in depth: heights and distances of faces, walls and rims."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QTransform

from anakinema.authoring import PlacedSnap
from anakinema.depth import Apart, Hit, Spot, apart
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import SnapFinder, Tool, draw_snap, draw_words
from anakinema.ui.theme import Theme
from anakinema.units import LENGTH


class Space(Surface, Protocol):
    """A surface that knows what a pixel meets in space."""

    def hit_at(self, point: QPointF) -> Hit | None:
        """The face under a pixel."""

    def seen_at(self, place: np.ndarray) -> QPointF:
        """The pixel of a place (3,) mm."""

    def place_of(self, snap: PlacedSnap) -> np.ndarray:
        """(3,) mm, where a place that was picked is in space."""


class FaceTool(Tool):
    """Two clicks on rims or faces; Esc measures anew."""

    wants_tab = True

    def __init__(self, stage: Space) -> None:
        super().__init__(stage)
        self._space = stage
        self._finder = SnapFinder(stage)
        self._picked: list[Spot] = []
        self._over: Spot | None = None
        self.found: Apart | None = None
        # What moves leaves what was measured behind.
        self.workbench.scene_changed.connect(self._forget)
        self.workbench.playhead_moved.connect(self._forget)

    @property
    def hint(self) -> str:  # type: ignore[override]
        """The step at hand."""
        if not self._picked:
            return "Pick a face, a wall or the rim of a hole"
        return "Pick another" if len(self._picked) == 1 else "Esc measures anew"

    def leave(self) -> None:
        self.workbench.scene_changed.disconnect(self._forget)
        self.workbench.playhead_moved.disconnect(self._forget)

    def _forget(self) -> None:
        self._picked, self.found, self._over = [], None, None
        self.stage.update()

    def _spot(self, at: Pointer) -> Spot | None:
        """The rim under the pointer, else the face."""
        self._finder.look(at)
        snap = self._finder.snap
        if snap is not None and snap.rise is not None:
            return Spot(self._space.place_of(snap), None, self._finder.words)
        hit, scene = self._space.hit_at(at.pixel), self.workbench.scene
        if hit is None or scene is None:
            return None
        title = scene.resolved.document.bodies[hit.body].title
        return Spot(hit.point, hit.normal, f"{title}: {hit.face}")

    def press(self, at: Pointer) -> bool:
        spot = self._spot(at)
        if spot is None:
            return False
        if len(self._picked) == 2:
            self._picked, self.found = [], None
        self._picked.append(spot)
        if len(self._picked) == 2:
            self.found = apart(*self._picked)
        self.stage.update()
        return True

    def move(self, at: Pointer) -> None:
        self._over = self._spot(at)
        self.stage.update()

    def key(self, event: QKeyEvent) -> bool:
        if event.key() == Qt.Key.Key_Tab:
            self._finder.cycle()
            self.stage.update()
            return True
        if event.key() == Qt.Key.Key_Escape and self._picked:
            self._forget()
            return True
        return super().key(event)

    def rows(self) -> list[str]:
        """What was measured, in words."""
        units = self.stage.units
        if self.found is None or units is None:
            return []
        return [f"{name}  {units.format(value, LENGTH)}" for name, value in self.found.values]

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        accent = QColor(theme.accent)
        snap = self._finder.snap
        if snap is not None and snap.rise is not None and len(self._picked) < 2:
            draw_snap(painter, self.stage.levels, snap, theme, self._finder.words)
        elif self._over is not None and len(self._picked) < 2:
            at = self._space.seen_at(self._over.at)
            draw_words(painter, at + QPointF(14, -12), self._over.words, theme)
        painter.setPen(QPen(accent, 1.8))
        painter.setBrush(QColor(theme.card))
        for spot in self._picked:
            painter.drawEllipse(self._space.seen_at(spot.at), 4.5, 4.5)
        if self.found is None:
            return
        one, two = (self._space.seen_at(end) for end in (self.found.first, self.found.second))
        painter.drawLine(one, two)
        for k, words in enumerate(self.rows()):
            draw_words(painter, (one + two) / 2 + QPointF(18, 22 * k), words, theme)
