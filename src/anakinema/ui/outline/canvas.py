"""The paper of the outline editor: outlines, what is picked, ghosts, neighbours.

One long class: a widget whose painting and picking read the same few things.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from anakinema.authoring import (
    Neighbour,
    Scene,
    corners_of,
    elements_of,
    following,
    just_set,
    kept_of,
    neighbours,
    outcome,
    outline_keys,
    ring_of,
    traces,
)
from anakinema.document import model
from anakinema.edits import (
    AddCorner,
    Edit,
    OutlineKey,
    RemoveCorner,
    SetCorner,
    SetPlace,
    SetShape,
    Together,
    made,
    outline_in,
)
from anakinema.errors import AnakinemaError
from anakinema.ui.guarded import guarded
from anakinema.ui.stage.bodies import polygon
from anakinema.ui.stage.tools.base import draw_words
from anakinema.ui.stage.view import View, fitted, nice_step
from anakinema.ui.theme import font
from anakinema.ui.workbench import Workbench
from anakinema.units import LENGTH

REACH = 9.0
"""Pixels within which a corner is hit; an edge needs to be a little nearer."""
POINTS = ("corner", "centre", "place")


@dataclass(frozen=True, slots=True, eq=False)
class Ghost:
    """An outline that would come: its rings (V, 2) mm, its letter, and whether it is sound."""

    rings: tuple[np.ndarray, ...]
    words: str
    is_sound: bool


@guarded
class OutlineCanvas(QWidget):
    """Drag corners, centres and places; click edges; Shift-click picks several to relate."""

    picked = Signal()
    neighbour_picked = Signal(str)

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("outline_canvas")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self._workbench = workbench
        self.part = self.body = ""
        self.key: OutlineKey | None = None
        self.picks: list[model.Element] = []
        self.ghosts: tuple[Ghost, ...] = ()
        self.neighbour = ""
        self.shows_neighbours = True
        self.view = View()
        self._is_fitted = True
        self._drag: model.Element | None = None
        self._under: model.Element | None = None
        self._snapped = ""
        self.last: Edit | None = None
        self._near: tuple[Neighbour, ...] = ()
        workbench.scene_changed.connect(self._scene_changed)

    # What is shown ------------------------------------------------------------------------

    def show_part(self, part: str, body: str) -> None:
        """Begin with a part, drawn where a body of it stands."""
        self.part, self.body, self.picks, self.ghosts = part, body, [], ()
        found = self.found()
        keys = outline_keys(found) if found is not None else []
        self.key = keys[0] if keys else None
        self.neighbour = ""
        self._scene_changed()
        self.fit()

    def _scene_changed(self) -> None:
        scene = self._workbench.scene
        if scene is not None and self.part and self.isVisible():
            self._near = neighbours(scene, self.body)
        self.update()

    def found(self) -> model.Part | None:
        """The part in the document, None if it is gone."""
        parts = self._workbench.session.document.parts
        return next((part for part in parts if part.id == self.part), None)

    def keys(self) -> list[OutlineKey]:
        """Outlines that the scene on show has."""
        scene, found = self._workbench.scene, self.found()
        if scene is None or found is None or self.part not in scene.resolved.parts:
            return []
        known = {
            OutlineKey(self.part, slab.id, name)
            for slab in scene.resolved.parts[self.part].slabs
            for name in (None, *slab.region.hole_names)
        }
        return [key for key in outline_keys(found) if key in known]

    @property
    def corner(self) -> int:
        """Which corner or round of the outline at hand is picked, alone; -1 for none."""
        if len(self.picks) == 1 and self.picks[0].kind in ("corner", "centre"):
            pick = self.picks[0]
            if self.key is not None and (pick.slab, pick.hole) == (self.key.slab, self.key.hole):
                return pick.index
        return -1

    def pick(self, element: model.Element, *, more: bool = False) -> None:
        """Pick something of the part, besides what is picked or instead; again lets it go."""
        if more:
            kept = [other for other in self.picks if other != element]
            self.picks = kept if len(kept) < len(self.picks) else [*kept, element][-3:]
        else:
            self.picks = [element]
        if element.slab is not None and not more:
            self.key = OutlineKey(self.part, element.slab, element.hole)
        self.ghosts = ()
        self.update()
        self.picked.emit()

    def clear(self) -> None:
        """Pick nothing."""
        self.picks, self.ghosts = [], ()
        self.update()
        self.picked.emit()

    def fit(self) -> None:
        """Show the whole part, and what it would become."""
        scene, keys = self._workbench.scene, self.keys()
        if scene is not None and keys:
            rings = [ring_of(scene, key) for key in keys if key.hole is None]
            rings += [ring for ghost in self.ghosts for ring in ghost.rings]
            low_x, low_y = (min(float(r[:, k].min()) for r in rings) for k in (0, 1))
            high_x, high_y = (max(float(r[:, k].max()) for r in rings) for k in (0, 1))
            self.view = fitted((low_x, low_y, high_x, high_y), self.width(), self.height())
            self._is_fitted = True
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._is_fitted:
            self.fit()

    def to_pixels(self, x: float, y: float) -> QPointF:
        """Where a place of the part (mm) is on the canvas."""
        return self.view.transform(self.width(), self.height()).map(QPointF(x, y))

    # Painting -----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        t, scene = self._workbench.theme, self._workbench.scene
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.stage))
        keys, found = self.keys(), self.found()
        if scene is None or found is None or not keys:
            painter.setPen(QColor(t.quiet))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "This part has no outline.")
            return
        view = self.view.transform(self.width(), self.height())
        step = nice_step(self.view.scale, 44)
        self._paint_grid(painter, view, step)
        if self.shows_neighbours:
            self._paint_neighbours(painter, view)
        for key in keys:
            chosen = key == self.key
            painter.setPen(QPen(QColor(t.accent if chosen else t.shade), 2.2 if chosen else 1.2))
            fill = QColor(t.stage if key.hole else t.bodies[found.colour])
            fill.setAlphaF(0.92 if key.hole else 0.8)
            painter.setBrush(fill)
            painter.drawPolygon(view.map(polygon(ring_of(scene, key))))
        self._paint_elements(painter, view, scene, found)
        self._paint_tags(painter, found)
        self._paint_ghosts(painter, view)
        units = scene.resolved.units
        painter.setPen(QColor(t.quiet))
        painter.setFont(font(12))
        painter.drawText(12, self.height() - 12, f"grid {units.format(step, LENGTH, 0)}")
        if self._snapped:
            draw_words(painter, QPointF(12, self.height() - 34), self._snapped, t)

    def _paint_grid(self, painter: QPainter, view: QTransform, step: float) -> None:
        t = self._workbench.theme
        painter.setPen(QPen(QColor(t.grid), 1))
        origin = view.map(QPointF(0, 0))
        for k in range(-200, 201):
            x, y = origin.x() + k * step * self.view.scale, origin.y() + k * step * self.view.scale
            if 0 <= x <= self.width():
                painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
            if 0 <= y <= self.height():
                painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        painter.setPen(QPen(QColor(t.quiet), 1.2))
        painter.drawLine(origin - QPointF(9, 0), origin + QPointF(9, 0))
        painter.drawLine(origin - QPointF(0, 9), origin + QPointF(0, 9))

    def _paint_neighbours(self, painter: QPainter, view: QTransform) -> None:
        t = self._workbench.theme
        for near in self._near:
            chosen = near.body == self.neighbour
            ink = QColor(t.accent if chosen else t.quiet)
            ink.setAlphaF(0.9 if chosen else 0.45)
            painter.setPen(QPen(ink, 1.4 if chosen else 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for ring in near.rings:
                painter.drawPolygon(view.map(polygon(ring)))
            for x, y in near.points:
                painter.drawEllipse(view.map(QPointF(x, y)), 2.5, 2.5)

    def _paint_elements(
        self, painter: QPainter, view: QTransform, scene: Scene, found: model.Part
    ) -> None:
        """Corners of the outline at hand, all places, and what is picked or pointed at."""
        t = self._workbench.theme
        shown = [element for element, _ in elements_of(found, self.key)] if self.key else []
        own = [
            e
            for e in shown
            if e.kind == "place"
            or (
                e.kind in POINTS and self.key and (e.slab, e.hole) == (self.key.slab, self.key.hole)
            )
        ]
        special = [*self.picks, *([self._under] if self._under else [])]
        for element, line in zip(
            [*own, *special], traces(scene.resolved, self.part, [*own, *special]), strict=True
        ):
            if not len(line):
                continue
            is_picked = element in self.picks
            if element.kind in POINTS:
                self._paint_point(painter, view.map(QPointF(*line[0])), element, is_picked)
                continue
            ends = [view.map(QPointF(*p)) for p in (line * 1e4 if element.kind == "axis" else line)]
            if element.kind == "axis":
                ends = [ends[1], view.map(QPointF(0, 0)) * 2 - ends[1]]
            points = QPolygonF(ends)
            painter.setPen(QPen(QColor(t.accent), 4.0 if is_picked else 2.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(points)

    def _paint_point(
        self, painter: QPainter, at: QPointF, element: model.Element, is_picked: bool
    ) -> None:
        t = self._workbench.theme
        painter.setPen(QPen(QColor(t.accent if element.kind != "place" else t.ink), 1.6))
        painter.setBrush(QColor(t.accent if is_picked else t.card))
        if element.kind == "place":
            painter.drawPolygon(
                QPolygonF(
                    [
                        at + QPointF(0, -6),
                        at + QPointF(6, 0),
                        at + QPointF(0, 6),
                        at + QPointF(-6, 0),
                    ]
                )
            )
            return
        painter.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
        if element.kind == "corner" or element.index:
            painter.setFont(font(12))
            painter.drawText(at + QPointF(8, -6), str(element.index + 1))

    def _paint_tags(self, painter: QPainter, found: model.Part) -> None:
        """What is kept of what is picked or pointed at, in words."""
        special = [*self.picks, *([self._under] if self._under else [])]
        wanted = [
            k
            for k, relation in enumerate(found.relations)
            if any(element in special for element in relation.of)
        ]
        if not wanted:
            return
        words = kept_of(self._workbench.session.document, self.part)
        for line, k in enumerate(wanted):
            stated = words[k].words + (f" {words[k].value}" if words[k].value else "")
            draw_words(painter, QPointF(12, 32 + 24 * line), stated, self._workbench.theme)

    def _paint_ghosts(self, painter: QPainter, view: QTransform) -> None:
        t = self._workbench.theme
        for k, ghost in enumerate(self.ghosts):
            ink = QColor(t.accent if ghost.is_sound else t.fail)
            fill = QColor(ink)
            fill.setAlphaF(0.10)
            style = Qt.PenStyle.DashLine if k == 0 else Qt.PenStyle.DashDotLine
            painter.setPen(QPen(ink, 2, style))
            painter.setBrush(fill)
            for ring in ghost.rings:
                painter.drawPolygon(view.map(polygon(ring)))
            if ghost.rings:
                top = ghost.rings[0][int(np.argmax(ghost.rings[0][:, 1]))]
                draw_words(
                    painter, view.map(QPointF(*top)) + QPointF(6 + 34 * k, -4), ghost.words, t
                )

    # Mouse and keys -----------------------------------------------------------------------

    def _plane(self, at: QPointF) -> tuple[float, float]:
        return self.view.to_plane(at, self.width(), self.height())

    def _hit(self, at: QPointF) -> model.Element | None:
        """The corner, centre or place under a pixel, else the edge; of this outline first."""
        scene, found = self._workbench.scene, self.found()
        if scene is None or found is None or self.key is None or not self.keys():
            return None
        elements = [element for element, _ in elements_of(found, self.key)]
        view = self.view.transform(self.width(), self.height())
        best: tuple[float, model.Element] | None = None
        for element, line in zip(
            elements, traces(scene.resolved, self.part, elements), strict=True
        ):
            if not len(line) or element.kind == "axis":
                continue
            pixels = np.array([view.map(QPointF(*p)).toTuple() for p in line])
            away = _away(pixels, at)
            if away <= (REACH if element.kind in POINTS else REACH - 3):
                rank = away if element.kind in POINTS else away + REACH
                if best is None or rank < best[0]:
                    best = rank, element
        return best[1] if best is not None else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        scene, keys, at = self._workbench.scene, self.keys(), event.position()
        if scene is None:
            return
        more = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        element = self._hit(at)
        if element is not None:
            self._drag = element if element.kind in POINTS and not more else None
            if more or element not in self.picks or len(self.picks) > 1:
                self.pick(element, more=more)
            return
        place = QPointF(*self._plane(at))
        for key in reversed(keys):
            if polygon(ring_of(scene, key)).containsPoint(place, Qt.FillRule.OddEvenFill):
                self.key = key
                self.clear()
                return
        for near in self._near if self.shows_neighbours else ():
            if any(polygon(r).containsPoint(place, Qt.FillRule.OddEvenFill) for r in near.rings):
                self.neighbour = near.body
                self.update()
                self.neighbour_picked.emit(near.body)
                return
        self.clear()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._drag is None:
            under = self._hit(at)
            if under != self._under:
                self._under = under
                self.update()
            return
        x, y = self._snap(at)
        edit = self._moved(self._drag, f"{x:.6g} mm", f"{y:.6g} mm")
        if edit is not None:
            self.attempt(edit)

    def _snap(self, at: QPointF) -> tuple[float, float]:
        """mm: a place of a neighbour that is near, else the fine grid."""
        self._snapped = ""
        for near in self._near if self.shows_neighbours else ():
            for x, y in near.points:
                away = self.to_pixels(x, y) - at
                if math.hypot(away.x(), away.y()) <= REACH:
                    self._snapped = f"over a place of {near.title}"
                    return x, y
        step = nice_step(self.view.scale, 44) / 10
        px, py = self._plane(at)
        return round(px / step) * step, round(py / step) * step

    def _moved(self, element: model.Element, x: str, y: str) -> Edit | None:
        found = self.found()
        if found is None:
            return None
        values = (("x", x), ("y", y))
        if element.kind == "place":
            return SetPlace(self.part, str(element.place), values)
        key = OutlineKey(self.part, str(element.slab), element.hole)
        shape = outline_in(found, key)
        if isinstance(shape, (model.Path, model.Hull, model.SlotAlong)):
            return SetCorner(key, element.index, values)
        edits = tuple(SetShape(key, name, value) for name, value in values)
        return Together("Move outline", edits, repr(key))

    def attempt(self, edit: Edit) -> bool:
        """Apply an edit with all that follows from it; one that folds is ghosted and stated.

        Gives whether it was done.
        """
        bench = self._workbench
        document = bench.session.document
        self.last = edit
        try:
            whole = made(
                lambda: following(document, edit, self.part, just_set(document, edit)), edit.label
            )
            way = made(lambda: outcome(document, whole, self.part), edit.label)
        except AnakinemaError as error:
            bench.report(error)
            return False
        if way.trouble is None:
            self.ghosts = ()
            bench.dismiss_trouble()
            return bench.do(whole)
        rings = tuple(ring for _, ring in way.rings)
        self.ghosts = (Ghost(rings, "folds: not done", False),)
        self.update()
        bench.report(way.trouble)
        return False

    def finish(self) -> None:
        """The gesture is over; if what it ended with folds, all is as it was before it."""
        if self.ghosts and not self.ghosts[0].is_sound:
            self._workbench.cancel_gesture()
        else:
            self._workbench.finish_gesture()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self.finish()
        self._drag, self._snapped = None, ""
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        scene, found = self._workbench.scene, self.found()
        if scene is None or found is None or self.key is None or self.key not in self.keys():
            return
        shape = outline_in(found, self.key)
        if not isinstance(shape, (model.Path, model.Hull, model.SlotAlong)):
            return
        x, y = self._plane(event.position())
        corners = corners_of(scene, self.key)
        ends = corners[1:] if isinstance(shape, model.SlotAlong) else (*corners[1:], corners[0])
        pairs = zip(corners, ends, strict=False)
        away = [math.dist((x, y), a) + math.dist((x, y), b) - math.dist(a, b) for a, b in pairs]
        after = away.index(min(away))
        self.attempt(AddCorner(self.key, after, f"{x:.6g} mm", f"{y:.6g} mm", "5 mm"))
        self.finish()
        kind = "centre" if isinstance(shape, model.Hull) else "corner"
        self.pick(
            model.Element.model_validate(
                {"kind": kind, "slab": self.key.slab, "hole": self.key.hole, "index": after + 1}
            )
        )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Backspace and self.key is not None and self.corner >= 0:
            corner = self.corner
            self.picks = []
            self.attempt(RemoveCorner(self.key, corner))
            self.finish()
            self.picked.emit()
        elif event.key() == Qt.Key.Key_Escape and (self.picks or self.ghosts):
            self.clear()
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.0015 ** event.angleDelta().y()
        self._is_fitted = False
        self.view = self.view.zoomed(factor, event.position(), self.width(), self.height())
        self.update()


def _away(line: np.ndarray, at: QPointF) -> float:
    """Pixels from a point to a polyline, or to a single point."""
    p = np.array([at.x(), at.y()])
    if len(line) == 1:
        return float(np.hypot(*(line[0] - p)))
    a, b = line[:-1], line[1:]
    along = b - a
    size = np.maximum((along**2).sum(axis=1), 1e-12)
    t = np.clip(((p - a) * along).sum(axis=1) / size, 0.0, 1.0)
    return float(np.hypot(*(a + t[:, None] * along - p).T).min())
