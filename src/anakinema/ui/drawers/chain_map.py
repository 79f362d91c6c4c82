"""The chain map, painted: bodies as plates, joints as lines with their symbol, the frame below."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QWidget

from anakinema.authoring import ChainMap, chain_map
from anakinema.document import spec_of
from anakinema.document.model import JointKind
from anakinema.ui.guarded import guarded
from anakinema.ui.theme import font
from anakinema.ui.workbench import Selection, Workbench

ROW = 62
PLATE = QSize(84, 24)


@guarded
class ChainMapView(QWidget):
    """Click a plate or a joint to select it; Up and Down go from plate to plate."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("chain_map")
        self.setAccessibleName("chain map")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._workbench = workbench
        self._map: ChainMap = ChainMap((), (), 0)
        workbench.scene_changed.connect(self._refresh)
        workbench.evaluated.connect(self._refresh)
        workbench.selection_changed.connect(self.update)
        self._refresh()

    @property
    def chain(self) -> ChainMap:
        """What is on show."""
        return self._map

    def _refresh(self) -> None:
        scene = self._workbench.scene
        if scene is not None:
            self._map = chain_map(scene.resolved.document, self._workbench.evaluation)
        else:
            self._map = ChainMap((), (), 0)
        self.setMinimumHeight(max(1, self._map.rows) * ROW + 24)
        self.update()

    def _place(self, node: int) -> QPointF:
        each = self._map.nodes[node]
        rows = max(self._map.rows, 1)
        margin = 8
        x = margin + each.x * (self.width() - 2 * margin)
        height = rows * ROW
        y = 12 + height - ROW / 2 - each.y * (height - ROW)
        return QPointF(x, y)

    def _plate(self, node: int) -> QRectF:
        row = [n for n in self._map.nodes if n.y == self._map.nodes[node].y]
        width = min(PLATE.width(), (self.width() - 16) / max(len(row), 1) - 8)
        box = QRectF(0, 0, max(width, 26), PLATE.height())
        box.moveCenter(self._place(node))
        return box

    def edge_point(self, edge: int) -> QPointF:
        """Where the symbol of a joint stands, in pixels."""
        path = self._path(edge)
        return path.pointAtPercent(0.5)

    def node_point(self, node: int) -> QPointF:
        """The middle of a body's plate, in pixels."""
        return self._plate(node).center()

    def _path(self, edge: int) -> QPainterPath:
        each = self._map.edges[edge]
        one, two = self._place(each.first), self._place(each.second)
        path = QPainterPath(one)
        along = two - one
        length = math.hypot(along.x(), along.y()) or 1.0
        side = QPointF(-along.y(), along.x()) / length
        bow = 22.0 * each.lane
        same_row = abs(along.y()) < 1
        if same_row and length > 1.6 * PLATE.width() and not each.lane:
            bow = 20.0
        path.quadTo((one + two) / 2 + side * bow * 2, two)
        return path

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        t, selection = self._workbench.theme, self._workbench.selection
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self._map.nodes:
            painter.setPen(QColor(t.quiet))
            painter.setFont(font(12))
            words = "Bodies and their joints will stand here."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
        for k, edge in enumerate(self._map.edges):
            chosen = selection == Selection("joint", edge.joint)
            ink = QColor(t.accent if chosen or edge.is_driven else t.quiet)
            painter.setPen(QPen(ink, 2.2 if chosen else 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(self._path(k))
            self._symbol(painter, self.edge_point(k), edge.kind, ink)
        for k, node in enumerate(self._map.nodes):
            box = self._plate(k)
            chosen = node.body in selection.bodies
            painter.setBrush(QColor(t.bodies[node.colour]))
            painter.setPen(QPen(QColor(t.accent if chosen else t.shade), 2.4 if chosen else 1.0))
            painter.drawRoundedRect(box, 8, 8)
            painter.setFont(font(12))
            painter.setPen(QColor(t.ink))
            title = painter.fontMetrics().elidedText(
                node.title, Qt.TextElideMode.ElideRight, int(box.width()) - 8
            )
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, title)
            if node.is_fixed:
                self._frame(painter, box)
            if node.is_free:
                self._free(painter, box)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(t.accent), 1))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)

    def _symbol(self, painter: QPainter, at: QPointF, kind: JointKind, ink: QColor) -> None:
        painter.setPen(QPen(ink, 1.4))
        painter.setBrush(QColor(self._workbench.theme.panel))
        spec = spec_of(kind)
        if not spec.moves:
            painter.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
        elif spec.is_straight:
            painter.drawRoundedRect(QRectF(at.x() - 8, at.y() - 4, 16, 8), 4, 4)
            if spec.is_pin:
                painter.setBrush(ink)
                painter.drawEllipse(at, 1.5, 1.5)
        else:
            painter.drawEllipse(at, 5, 5)
            painter.setBrush(ink)
            painter.drawEllipse(at, 1.5, 1.5)

    def _frame(self, painter: QPainter, box: QRectF) -> None:
        painter.setPen(QPen(QColor(self._workbench.theme.shade), 1))
        count = int(box.width() // 9)
        for k in range(count):
            x = box.left() + 8 + 9 * k
            painter.drawLine(QPointF(x, box.bottom() + 2), QPointF(x - 5, box.bottom() + 7))

    def _free(self, painter: QPainter, box: QRectF) -> None:
        """A little arc with two heads: this body can still move by itself."""
        painter.setPen(QPen(QColor(self._workbench.theme.warn), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        centre = QPointF(box.right() - 4, box.top() - 1)
        painter.drawArc(QRectF(centre.x() - 8, centre.y() - 8, 16, 16), 16 * 20, 16 * 140)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        for k, edge in enumerate(self._map.edges):
            away = self.edge_point(k) - at
            if math.hypot(away.x(), away.y()) <= 9:
                self._workbench.select(Selection("joint", edge.joint))
                return
        for k, node in enumerate(self._map.nodes):
            if self._plate(k).contains(at):
                selection = self._workbench.selection
                adds = event.modifiers() & Qt.KeyboardModifier.ControlModifier
                if adds and selection.kind == "body":
                    self._workbench.select(selection.toggled(node.body))
                else:
                    self._workbench.select(Selection("body", node.body))
                return
        self._workbench.select(Selection())

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self._workbench.menu_asked.emit(self._workbench.selection, event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None or not self._map.nodes:
            super().keyPressEvent(event)
            return
        ids = [node.body for node in self._map.nodes]
        here = (
            ids.index(self._workbench.selection.id) if self._workbench.selection.id in ids else -1
        )
        self._workbench.select(Selection("body", ids[(here + step) % len(ids)]))
