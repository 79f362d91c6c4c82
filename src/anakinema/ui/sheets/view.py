"""One sheet as it will be printed; its dimensions can be taken hold of."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPixmap, QWheelEvent
from PySide6.QtWidgets import QWidget

from anakinema.record import Dimension, Sheet
from anakinema.ui.guarded import guarded
from anakinema.ui.sheets.painting import paint_marks
from anakinema.ui.workbench import Workbench

MARGIN = 18
NEAR = 7.0
"""Pixels from a dimension's line at which it is meant."""
MOST_ZOOM = 12.0


@guarded
class SheetView(QWidget):
    """Draws a sheet as large as there is room, or larger about the pointer by the wheel."""

    chosen = Signal(str)
    """The key of the dimension that was clicked, '' for none."""
    moved = Signal(str, float)
    """A dimension's key, and by how many mm of paper it was dragged away from what it measures."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("sheet_view")
        self.setAccessibleName("sheet")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._bench = workbench
        self.sheet: Sheet | None = None
        self.picked = ""
        self._under = ""
        self._grabbed: tuple[Dimension, QPointF] | None = None
        self._away = 0.0
        self._panned: QPointF | None = None
        self._zoom, self._centre = 1.0, QPointF(0.5, 0.5)
        self._picture: QPixmap | None = None

    def show_sheet(self, sheet: Sheet | None) -> None:
        """Another sheet, or the same as it is now."""
        if sheet is self.sheet:
            return
        old = self.sheet
        if old is None or sheet is None or (old.width, old.height) != (sheet.width, sheet.height):
            self._zoom, self._centre = 1.0, QPointF(0.5, 0.5)
        self.sheet, self._picture = sheet, None
        self.update()

    def pick(self, key: str) -> None:
        """Stress a dimension."""
        self.picked = key
        self.update()

    # Where things are ---------------------------------------------------------------------------

    @property
    def scale(self) -> float:
        """Pixels for each mm of paper."""
        if self.sheet is None:
            return 1.0
        room = max(self.width() - 2 * MARGIN, 10), max(self.height() - 2 * MARGIN, 10)
        return self._zoom * min(room[0] / self.sheet.width, room[1] / self.sheet.height)

    def place(self, x: float, y: float) -> QPointF:
        """Pixels of a point of the sheet, mm."""
        paper = self._paper()
        return QPointF(paper.left() + x * self.scale, paper.bottom() - y * self.scale)

    def _paper(self) -> QRectF:
        assert self.sheet is not None
        wide, tall = self.sheet.width * self.scale, self.sheet.height * self.scale
        return QRectF(
            self.width() / 2 - self._centre.x() * wide,
            self.height() / 2 - self._centre.y() * tall,
            wide,
            tall,
        )

    def dimension_at(self, spot: QPointF) -> Dimension | None:
        """The dimension whose line is there."""
        best, found = NEAR, None
        for each in self.sheet.leaf.dimensions if self.sheet is not None else ():
            low, high = (self.place(*each.at(along)) for along in each.span)
            box = QRectF(low, high).normalized()
            away = max(box.left() - spot.x(), spot.x() - box.right(), 0.0) + max(
                box.top() - spot.y(), spot.y() - box.bottom(), 0.0
            )
            if away < best:
                best, found = away, each
        return found

    # Painting ----------------------------------------------------------------------------------

    def paintEvent(self, _: object) -> None:
        painter = QPainter(self)
        theme = self._bench.theme
        painter.fillRect(self.rect(), QColor(theme.deep))
        if self.sheet is None:
            return
        if self._picture is None:
            self._picture = self._painted()
        painter.drawPixmap(0, 0, self._picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for each in self.sheet.leaf.dimensions:
            if each.key not in (self.picked, self._under):
                continue
            away = self._away if self._grabbed and self._grabbed[0].key == each.key else 0.0
            ends = [self.place(*each.at(along)) for along in each.span]
            shift = away * each.outwards * self.scale
            off = QPointF(0.0, -shift) if each.is_level else QPointF(shift, 0.0)
            painter.setPen(QPen(QColor(theme.accent), 2.0))
            painter.drawLine(ends[0] + off, ends[1] + off)

    def _painted(self) -> QPixmap:
        assert self.sheet is not None
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paper = self._paper()
        painter.setPen(QPen(QColor(self._bench.theme.line), 1.0))
        painter.setBrush(QColor("#FFFFFF"))
        painter.drawRect(paper)
        painter.setClipRect(paper)
        painter.translate(paper.left(), paper.bottom())
        painter.scale(self.scale, -self.scale)
        paint_marks(painter, self.sheet.marks)
        painter.end()
        return picture

    def resizeEvent(self, _: object) -> None:
        self._picture = None

    # Hands --------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spot = event.position()
        if event.button() is Qt.MouseButton.MiddleButton:
            self._panned = spot
            return
        found = self.dimension_at(spot)
        if event.button() is Qt.MouseButton.LeftButton:
            self.pick("" if found is None else found.key)
            self.chosen.emit(self.picked)
            if found is not None:
                self._grabbed, self._away = (found, spot), 0.0
            elif self._zoom > 1.0:
                self._panned = spot

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        spot = event.position()
        if self._panned is not None and self.sheet is not None:
            paper, by = self._paper(), spot - self._panned
            self._panned = spot
            self._centre -= QPointF(by.x() / paper.width(), by.y() / paper.height())
            self._picture = None
        elif self._grabbed is not None:
            each, begun = self._grabbed
            by = spot - begun
            pixels = -by.y() if each.is_level else by.x()
            self._away = pixels / self.scale * each.outwards
        else:
            found = self.dimension_at(spot)
            self._under = "" if found is None else found.key
            level = found is not None and found.is_level
            shape = Qt.CursorShape.SizeVerCursor if level else Qt.CursorShape.SizeHorCursor
            self.setCursor(Qt.CursorShape.ArrowCursor if found is None else shape)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._panned = None
        if self._grabbed is not None:
            each, away = self._grabbed[0], self._away
            self._grabbed, self._away = None, 0.0
            if abs(away) * self.scale >= 2.0:
                self.moved.emit(each.key, away)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.sheet is None:
            return
        spot, paper = event.position(), self._paper()
        at = QPointF(
            (spot.x() - paper.left()) / paper.width(), (spot.y() - paper.top()) / paper.height()
        )
        factor = 1.2 if event.angleDelta().y() > 0 else 1 / 1.2
        self._zoom = min(max(self._zoom * factor, 1.0), MOST_ZOOM)
        if self._zoom == 1.0:
            self._centre = QPointF(0.5, 0.5)
        else:
            wide, tall = self.sheet.width * self.scale, self.sheet.height * self.scale
            self._centre = QPointF(
                at.x() - (spot.x() - self.width() / 2) / wide,
                at.y() - (spot.y() - self.height() / 2) / tall,
            )
        self._picture = None
        self.update()
