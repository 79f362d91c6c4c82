"""The range of a number in which everything passes, drawn beside its field while it is edited."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QWidget

from anakinema.findings import Evaluation
from anakinema.remedies import Band, band_trust_words, band_words, end_words, number_named
from anakinema.ui.fields import NUMBER, QuantityField
from anakinema.ui.guarded import guarded
from anakinema.ui.theme import font, scaled
from anakinema.ui.workbench import Workbench

WIDE, HIGH = 330, 126
BEYOND = 0.2
"""Share of the band that is drawn beyond its ends."""


@guarded
class BandCard(QWidget):
    """Over the stage, level with the field; it takes no mouse and moves nothing."""

    def __init__(self, workbench: Workbench, window: QWidget) -> None:
        super().__init__(window)
        self._over = window
        self.setObjectName("safe_band")
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._bench = workbench
        self._field: QuantityField | None = None
        self._number = ("", "")
        self._evaluation: Evaluation | None = None
        self.band: Band | None = None
        self.hide()
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        application.focusChanged.connect(self._focus_moved)
        workbench.changes.band_found.connect(self._found)
        workbench.evaluated.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(scaled(WIDE), scaled(HIGH))

    def _focus_moved(self, old: QWidget | None, new: QWidget | None) -> None:
        """Fields of numbers that may have a band carry its name."""
        name = new.property(NUMBER) if isinstance(new, QuantityField) else None
        if isinstance(new, QuantityField) and name and new.window() is self._over:
            self.ask(new, *str(name).split(".", 1))
        elif self._field is not None:
            self.leave()

    def ask(self, field: QuantityField, part: str, name: str) -> None:
        """A number's field is entered: ask how far it may go from here."""
        evaluation = self._bench.evaluation
        self.leave()
        if evaluation is None or not evaluation.is_exact:
            return
        self._field, self._number, self._evaluation = field, (part, name), evaluation
        self._bench.changes.ask_band(evaluation, part, name)

    def leave(self) -> None:
        """The field is left."""
        self._field, self.band = None, None
        self._bench.changes.ask_no_band()
        self.hide()

    def _found(self, band: Band) -> None:
        if self._field is None or (band.number.part, band.number.name) != self._number:
            return
        self.band = band
        window = self._over
        at = self._field.mapTo(window, QPoint(0, 0))
        size = self.sizeHint()
        left = at.x() - size.width() - 150 if at.x() > window.width() / 2 else at.x() + 160
        top = min(max(at.y() - size.height() // 3, 60), window.height() - size.height() - 8)
        self.setGeometry(max(8, left), top, size.width(), size.height())
        self.setAccessibleName(f"keeps passing from {band_words(band)}")
        self.show()
        self.raise_()
        self.update()

    @property
    def words(self) -> tuple[str, str, str, str]:
        """Title, what ends it below, what ends it above, and how sure it is."""
        if self.band is None or self._evaluation is None:
            return "", "", "", ""
        low, high = (end_words(self._evaluation, e) for e in (self.band.low, self.band.high))
        sure = band_trust_words(self._evaluation, self.band)
        return f"Keeps passing from {band_words(self.band)}", low, high, sure

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        band = self.band
        if band is None:
            return
        t = self._bench.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.card))
        painter.drawRoundedRect(box, 6, 6)
        title, low, high, sure = self.words
        inner = box.adjusted(12, 8, -12, -8)
        step = scaled(16)
        painter.setFont(font(13, strong=True))
        painter.setPen(QColor(t.ink))
        painter.drawText(QRectF(inner.left(), inner.top(), inner.width(), step), 0, title)
        self._draw_bar(painter, QRectF(inner.left(), inner.top() + step + 4, inner.width(), 12))
        painter.setFont(font(12))
        painter.setPen(QColor(t.quiet))
        metrics, fit = painter.fontMetrics(), Qt.TextElideMode.ElideRight
        top = inner.top() + step + 20
        for words in (f"below: {low}", f"above: {high}"):
            shown = metrics.elidedText(words, fit, int(inner.width()))
            painter.drawText(QRectF(inner.left(), top, inner.width(), step), 0, shown)
            top += step
        room = QRectF(inner.left(), top + 2, inner.width(), inner.bottom() - top)
        painter.drawText(room, Qt.TextFlag.TextWordWrap, sure)

    def _draw_bar(self, painter: QPainter, box: QRectF) -> None:
        """The band within what lies beside it; the present value is the notch."""
        band, t = self.band, self._bench.theme
        assert band is not None
        wide = (band.high.value - band.low.value) or abs(band.number.value) * 0.01
        start, end = band.low.value - BEYOND * wide, band.high.value + BEYOND * wide
        now = self._present()
        start, end = min(start, now), max(end, now)

        def x(value: float) -> float:
            return box.left() + (value - start) / (end - start) * box.width()

        middle = box.center().y()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(t.fail))
        painter.setOpacity(0.35)
        painter.drawRoundedRect(QRectF(box.left(), middle - 2, box.width(), 4), 2, 2)
        painter.setOpacity(1.0)
        painter.setBrush(QColor(t.passed))
        low, high = x(band.low.value), x(band.high.value)
        painter.drawRoundedRect(QRectF(low, middle - 3, high - low, 6), 3, 3)
        painter.setBrush(QColor(t.ink))
        painter.drawRect(QRectF(x(now) - 1, box.top(), 2, box.height()))

    def _present(self) -> float:
        """The number's value as it is now, typed or dragged."""
        assert self.band is not None
        evaluation = self._bench.evaluation
        found = None
        if evaluation is not None:
            found = number_named(evaluation.source, *self._number)
        return found.value if found is not None else self.band.number.value
