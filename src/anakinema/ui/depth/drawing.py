"""Pictures of the scene in depth for the screen: through the graphics library, else painted."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF

from anakinema.authoring import Scene
from anakinema.depth import (
    Camera,
    Cap,
    Look,
    Meshes,
    NoGraphicsError,
    Picture,
    Piece,
    Plane,
    Prism,
    Renderer,
    Sheet,
    Sight,
    caps_of,
    pieces,
    placed_slabs,
)
from anakinema.document import Resolved
from anakinema.ui.stage.bodies import CHOSEN_LINE, FULL_LINE, PALE, PALE_LINE
from anakinema.ui.theme import Theme, blend

FINE = 0.2
"""Pixels that chords may miss their arcs by."""
COARSER = 4.0
"""Times as coarse as that a mesh may be while the picture moves."""
SEEN_THROUGH = 0.35
"""Opacity of painted bodies that are seen through."""
LONGEST = 60.0
"""Pixels of painted walls, so that their middles tell which is nearer."""


@dataclass(frozen=True, slots=True, eq=False)
class Shot:
    """What is to be seen: a scene at poses (B, 3), its bodies at ``places`` (B, 3, 4) in space, and
    behind them its rods, raised by ``lifts`` (B,) mm, from a camera."""

    scene: Scene
    poses: np.ndarray
    lifts: np.ndarray
    places: np.ndarray
    camera: Camera
    theme: Theme
    selected: frozenset[int] = frozenset()
    hovered: int | None = None
    hidden: frozenset[int] = frozenset()
    each_its_own: bool = False
    see_through: bool = False
    hidden_edges: bool = False
    cut: Plane | None = None
    sheets: tuple[Sheet, ...] = ()


class DepthDrawer:
    """Keeps meshes and the graphics library between pictures."""

    def __init__(self) -> None:
        self._renderer: Renderer | None = None
        self._meshes: tuple[Resolved, Meshes] | None = None
        self.trouble = ""
        """Why pictures are painted, where they are."""

    @property
    def is_painted(self) -> bool:
        """Whether there is no graphics library."""
        return bool(self.trouble)

    def meshes(self, shot: Shot, *, moving: bool = False) -> Meshes:
        """Meshes of the scene, fine enough for how large it is seen."""
        resolved, wanted = shot.scene.resolved, fineness(shot.camera.scale)
        kept = self._meshes
        if kept is not None and kept[0] is resolved:
            most = wanted * (COARSER if moving else 1.0)
            if wanted / COARSER <= kept[1].fine <= most:
                return kept[1]
        made = Meshes.build(resolved, wanted)
        self._meshes = resolved, made
        return made

    def meshes_near(self, scene: Scene, camera: Camera) -> Meshes:
        """Those kept if they may serve, for sizes rather than for pictures."""
        kept = self._meshes
        if kept is not None and kept[0] is scene.resolved:
            return kept[1]
        self._meshes = scene.resolved, Meshes.build(scene.resolved, fineness(camera.scale))
        return self._meshes[1]

    def image(
        self, shot: Shot, width: int, height: int, share: float = 1.0, *, moving: bool = False
    ) -> QImage:
        """A picture of so many pixels, each of its lines ``share`` times as wide."""
        renderer = self._graphics()
        if renderer is None:
            return _painted(shot, width, height, share)
        camera = replace(shot.camera, scale=shot.camera.scale * share)
        meshes = self.meshes(shot, moving=moving)
        cut = shot.cut
        made: tuple[Cap, ...] = ()
        if cut is not None:
            count = len(shot.poses)
            made = caps_of(shot.scene.resolved, shot.places[:count], cut, shot.hidden)
        picture = Picture(
            camera,
            width,
            height,
            shot.places,
            look_of(shot),
            share,
            cut,
            made,
            shot.sheets,
            shot.hidden_edges,
            shot.see_through,
        )
        data = renderer.draw(meshes, picture)
        form = QImage.Format.Format_RGBA8888_Premultiplied
        return QImage(data, width, height, 4 * width, form).copy()

    def _graphics(self) -> Renderer | None:
        if self._renderer is None and not self.trouble:
            try:
                self._renderer = Renderer()
            except NoGraphicsError as error:
                self.trouble = str(error) or "no graphics library"
        return self._renderer


def fineness(scale: float) -> float:
    """mm that chords may miss their arcs by at so many pixels for each mm, in steps of two."""
    return float(2.0 ** round(math.log2(min(max(FINE / scale, 0.002), 2.0))))


def look_of(shot: Shot) -> Look:
    """Colours of all bodies: what is fixed steps back, what is selected stands out."""
    count, bodies = len(shot.places), len(shot.scene.resolved.document.bodies)
    fill, ink = np.ones((count, 4)), np.ones((count, 4))
    width, shown = np.full(count, FULL_LINE), np.ones(count)
    for k in range(bodies, count):
        for rows, colour in (
            (fill, QColor(shot.theme.bodies["steel"])),
            (ink, QColor(shot.theme.shade)),
        ):
            rows[k] = colour.redF(), colour.greenF(), colour.blueF(), 1.0
    for k in range(bodies):
        face, line, width[k] = body_colours(shot, k)
        for rows, colour in ((fill, face), (ink, line)):
            rows[k] = colour.redF(), colour.greenF(), colour.blueF(), 1.0
        shown[k] = k not in shot.hidden
    ink[:, 3] = np.where(np.isclose(width, PALE_LINE), 0.8, 1.0)
    return Look(fill, ink, width, shown)


def body_colours(shot: Shot, body: int) -> tuple[QColor, QColor, float]:
    """Face, edges and their width of one body."""
    document, theme = shot.scene.resolved.document, shot.theme
    hues = list(theme.bodies.values())
    own = theme.bodies[document.part(document.bodies[body].part).colour]
    face = QColor(hues[body % len(hues)] if shot.each_its_own else own)
    line, width = QColor(theme.shade), FULL_LINE
    if document.bodies[body].fixed:
        face = blend(face.name(), theme.stage, PALE)
        line, width = blend(theme.shade, theme.stage, PALE), PALE_LINE
    if body == shot.hovered:
        line, width = blend(theme.shade, theme.accent, 0.6), CHOSEN_LINE - 0.6
    if body in shot.selected:
        line, width = QColor(theme.accent), CHOSEN_LINE
    return face, line, width


def _painted(shot: Shot, width: int, height: int, share: float) -> QImage:
    """The same from the exact painter's order, in parallel projection and without a cut."""
    image = QImage(width, height, QImage.Format.Format_RGBA8888_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    camera = shot.camera
    sight = Sight(camera.turn, camera.tilt)
    scale = camera.scale * share
    across, rise = sight.projected(*camera.target)
    found = painted_pieces(shot.scene, shot.poses, shot.lifts, sight, scale, shot.hidden)
    with QPainter(image) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(width / 2 - across * scale, height / 2 + rise * scale)
        if shot.see_through:
            painter.setOpacity(SEEN_THROUGH)
        for piece in found:
            assert piece.prism is not None
            face, line, thick = body_colours(shot, piece.prism.slab.body)
            fill = face if piece.is_face else blend(face.name(), shot.theme.shade, 0.22)
            _paint(painter, piece, scale, fill, QPen(line, thick * share))
    return image


def painted_pieces(
    scene: Scene,
    poses: np.ndarray,
    lifts: np.ndarray,
    sight: Sight,
    scale: float,
    hidden: Collection[int],
) -> list[Piece]:
    """Faces and walls of all bodies that are shown, the farthest first."""
    slabs = placed_slabs(scene.resolved, poses)
    prisms = [Prism(s, float(lifts[s.body])) for s in slabs if s.body not in hidden]
    return pieces(prisms, [], sight, fine=FINE / scale, longest=LONGEST / scale)


def _paint(painter: QPainter, piece: Piece, scale: float, fill: QColor, pen: QPen) -> None:
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for ring in piece.rings:
        path.addPolygon(QPolygonF([QPointF(u * scale, -v * scale) for u, v in ring]))
        path.closeSubpath()
    # A seam of its own colour, or paper shows between neighbours.
    painter.setPen(pen if piece.is_face else QPen(fill, 0.7))
    painter.setBrush(fill)
    painter.drawPath(path)
    painter.setPen(pen)
    for (a, b), (c, d) in piece.lines:
        painter.drawLine(QPointF(a * scale, -b * scale), QPointF(c * scale, -d * scale))
