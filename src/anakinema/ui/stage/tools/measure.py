"""Measure between two places, or the gap between two bodies; keep it as a dimension and a lane."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QTransform

from anakinema.authoring import PlacedSnap, Reading, gap_now, kept_measure, measure_now, trace_of
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import SnapFinder, Tool, draw_snap, draw_words
from anakinema.ui.theme import Theme


class MeasureTool(Tool):
    """Two clicks on places; a click on a body where there is no place takes the body."""

    wants_tab = True

    def __init__(self, stage: Surface) -> None:
        super().__init__(stage)
        self._finder = SnapFinder(stage)
        self._picked: list[PlacedSnap | str] = []
        self.reading: Reading | None = None
        self.workbench.trial_changed.connect(self._again)
        self.workbench.scene_changed.connect(self._again)

    @property
    def snap(self) -> PlacedSnap | None:
        """The snap under the pointer."""
        return self._finder.snap

    @property
    def hint(self) -> str:  # type: ignore[override]
        """The step at hand."""
        if not self._picked:
            return "Pick a place or a body"
        if len(self._picked) == 1:
            return "Pick another, or press Enter to trace its path"
        if all(isinstance(p, PlacedSnap) for p in self._picked):
            return "Enter keeps it as a dimension and a lane"
        return "Esc measures anew"

    def leave(self) -> None:
        self.workbench.trial_changed.disconnect(self._again)
        self.workbench.scene_changed.disconnect(self._again)

    def press(self, at: Pointer) -> bool:
        self._finder.look(at)
        snap: PlacedSnap | str | None = self._finder.snap or self.stage.body_at(at.pixel)
        if snap is None:
            return False
        if len(self._picked) == 2:
            self._picked = []
        self._picked.append(snap)
        self._again()
        return True

    def move(self, at: Pointer) -> None:
        self._finder.look(at)
        self.stage.update()

    def _again(self) -> None:
        """Read anew: poses may have changed."""
        scene, poses = self.workbench.scene, self.workbench.shown_poses()
        self.reading = None
        if scene is not None and poses is not None and self._picked:
            snaps = [p for p in self._picked if isinstance(p, PlacedSnap)]
            if len(snaps) == len(self._picked):
                self.reading = measure_now(scene, poses, snaps)
            elif len(self._picked) == 2:
                names = [p.body if isinstance(p, PlacedSnap) else p for p in self._picked]
                self.reading = gap_now(scene, poses, names[0], names[1])
        self.stage.update()

    def key(self, event: QKeyEvent) -> bool:
        key = event.key()
        if key == Qt.Key.Key_Tab:
            self._finder.cycle()
            self.stage.update()
            return True
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.keep()
            return True
        if key == Qt.Key.Key_Escape and self._picked:
            self._picked, self.reading = [], None
            self.stage.update()
            return True
        return super().key(event)

    def keep(self) -> None:
        """Make the distance on show, or the path of the one place, a part of the document."""
        scene = self.workbench.rest()
        snaps = [p for p in self._picked if isinstance(p, PlacedSnap)]
        if scene is not None and len(snaps) == len(self._picked) == 1:
            self.workbench.do_once(trace_of(scene.resolved, snaps[0]))
            self.workbench.use_tool("")
            return
        if scene is None or len(snaps) != 2 or snaps[0].body == snaps[1].body:
            self.workbench.report("To keep a measure, pick a place on each of two bodies.")
            return
        self.workbench.do_once(kept_measure(scene, snaps[0], snaps[1]))
        self.workbench.use_tool("")

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        for snap in self._picked:
            if isinstance(snap, PlacedSnap):
                draw_snap(painter, self.stage.levels, snap, theme)
        if len(self._picked) < 2 and self._finder.snap is not None:
            draw_snap(painter, self.stage.levels, self._finder.snap, theme, self._finder.words)
        reading = self.reading
        if reading is None:
            return
        poses = self.workbench.shown_poses()
        if poses is None:
            return
        one, two = (
            view.map(QPointF(*end)) if len(end) == 2 else self.stage.levels.spot(end, poses)
            for end in (reading.first, reading.second)
        )
        painter.setPen(QPen(QColor(theme.accent), 1.6))
        painter.drawLine(one, two)
        middle = (one + two) / 2
        for k, (name, value) in enumerate(reading.rows):
            draw_words(painter, middle + QPointF(18, 22 * k), f"{name}  {value}", theme)
