"""The arrow of the selected body: dragged, it moves the body in the stack."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anakinema.authoring import Scene, lifted_body, rested_height
from anakinema.depth import Camera
from anakinema.ui.stage.tools.base import draw_words
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Workbench
from anakinema.units import LENGTH

LONG, NEAR = 44.0, 9.0
"""Pixels of the arrow, and within which it is taken hold of."""
FLAT = 0.2
"""Share of its length below which heights are not seen, and no arrow is offered."""
REST = 8.0
"""Pixels within which a face comes to rest on another."""


@dataclass(slots=True)
class Lift:
    """A body held by its arrow: where the drag began (pixel), and its height then, mm."""

    body: str
    start: QPointF
    height: float


class LiftArrow:
    """Offers the arrow, and drags by it as one step of undo."""

    def __init__(self, workbench: Workbench) -> None:
        self._bench = workbench
        self.held: Lift | None = None
        self._normal = np.array([0.0, 0.0, 1.0])

    def _offered(self) -> tuple[Scene, int] | None:
        bench = self._bench
        scene, bodies = bench.scene, bench.selection.bodies
        if scene is None or bench.station != "Assemble" or bench.tool or bench.is_playing:
            return None
        index = scene.index(bodies[0]) if len(bodies) == 1 else None
        return None if index is None else (scene, index)

    def ends(
        self, poses: np.ndarray, places: np.ndarray, camera: Camera, size: tuple[float, float]
    ) -> tuple[QPointF, QPointF] | None:
        """Foot and tip in pixels of bodies at places (B, 3, 4); None where there is no arrow."""
        found = self._offered()
        if found is None or len(poses) != len(found[0].poses):
            return None
        scene, index = found
        slabs = scene.resolved.part_of(scene.resolved.document.bodies[index]).slabs
        if not slabs:
            return None
        top = max(slabs, key=lambda slab: slab.top)
        middle = top.region.polygon.representative_point()
        place = places[index]
        z = float(scene.resolved.heights[index]) + top.top
        base = place[:, :3] @ np.array([middle.x, middle.y, z]) + place[:, 3]
        self._normal = place[:, 2]
        foot, up = camera.seen(np.array([base, base + self._normal]), *size)[:, :2]
        way = up - foot
        if np.hypot(*way) < FLAT * camera.scale:
            return None
        tip = foot + way / np.hypot(*way) * LONG
        return QPointF(*(float(v) for v in foot)), QPointF(*(float(v) for v in tip))

    def press(self, point: QPointF, ends: tuple[QPointF, QPointF] | None) -> bool:
        """Take hold of it; whether it was there."""
        found = self._offered()
        if ends is None or found is None or _away(point, *ends) > NEAR:
            return False
        scene = self._bench.rest()
        if scene is None:
            return False
        index = found[1]
        body = scene.resolved.document.bodies[index].id
        self.held = Lift(body, point, float(scene.resolved.heights[index]))
        return True

    def pull(self, point: QPointF, camera: Camera, size: tuple[float, float]) -> None:
        """Bring the body where the pointer is, or to rest on a face near there."""
        held, scene = self.held, self._bench.scene
        if held is None or scene is None or scene.index(held.body) is None:
            self.held = None
            return
        zero = np.asarray(camera.target)
        above = zero + self._normal
        one, two = camera.seen(np.array([zero, above]), *size)[:, :2]
        way = two - one
        square = max(float(way @ way), 1e-9)
        delta = point - held.start
        wanted = held.height + float(way @ [delta.x(), delta.y()]) / square
        height = rested_height(scene, held.body, wanted, REST / math.sqrt(square))
        self._bench.do(lifted_body(scene, held.body, height))

    def let_go(self) -> None:
        """One step of undo is made."""
        if self.held is not None:
            self.held = None
            self._bench.finish_gesture()

    def put_back(self) -> bool:
        """As it was before it was held; whether it was."""
        if self.held is None:
            return False
        self.held = None
        self._bench.cancel_gesture()
        return True

    def draw(self, painter: QPainter, ends: tuple[QPointF, QPointF] | None, theme: Theme) -> None:
        """The arrow, and the height while it is held."""
        if ends is None:
            return
        foot, tip = ends
        accent = QColor(theme.accent)
        painter.setPen(QPen(accent, 2.6))
        painter.drawLine(foot, tip)
        along = (tip - foot) / LONG
        side = QPointF(along.y(), -along.x())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(accent)
        painter.drawPolygon(
            QPolygonF([tip + along * 9, tip - along * 2 + side * 6, tip - along * 2 - side * 6])
        )
        painter.drawEllipse(foot, 3.2, 3.2)
        scene = self._bench.scene
        if self.held is not None and scene is not None:
            index = scene.index(self.held.body)
            if index is not None:
                height = float(scene.resolved.heights[index])
                words = f"height {scene.resolved.units.format(height, LENGTH)}"
                draw_words(painter, tip + QPointF(14, 8), words, theme)


def _away(point: QPointF, foot: QPointF, tip: QPointF) -> float:
    along = tip + (tip - foot) * 0.2 - foot
    square = max(along.x() ** 2 + along.y() ** 2, 1e-9)
    off = point - foot
    share = min(max((off.x() * along.x() + off.y() * along.y()) / square, 0.25), 1.0)
    away = off - along * share
    return math.hypot(away.x(), away.y())
