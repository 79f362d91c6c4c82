"""The route: four stations in the order of the work, each with its state in words."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from anakinema.ui.desk import Desk
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.theme import font

NAMES = 196
"""Pixels of the name of the document and of its file."""
STATIONS = ("Assemble", "Drive", "Check", "Record")


@guarded
class Station(QAbstractButton):
    """One station: its name, and what it has to say."""

    def __init__(self, name: str, desk: Desk) -> None:
        super().__init__()
        self.setObjectName(f"station_{name.lower()}")
        self.setText(name)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.words = self._short = ""
        self.is_bad = False
        self._desk = desk

    def sizeHint(self) -> QSize:
        return QSize(170, 46)

    def minimumSizeHint(self) -> QSize:
        return QSize(112, 46)

    def say(self, words: str, short: str = "", *, bad: bool = False) -> None:
        """Show a state; ``short`` says it where there is less room."""
        self.words, self._short, self.is_bad = words, short or words, bad
        self.setAccessibleName(f"{self.text()}: {words}")
        self.setToolTip(words)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = self._desk.theme
        box = QRectF(self.rect()).adjusted(2, 3, -2, -3)
        if self.isChecked():
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.ink))
            painter.drawRoundedRect(box, 6, 6)
        elif self.underMouse():
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.deep))
            painter.drawRoundedRect(box, 6, 6)
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.accent), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 6, 6)
        painter.setFont(font(13, strong=True))
        painter.setPen(QColor(t.panel if self.isChecked() else t.ink))
        painter.drawText(box.adjusted(12, 3, -4, -18), Qt.AlignmentFlag.AlignVCenter, self.text())
        painter.setFont(font(12))
        quiet = t.line if self.isChecked() else t.quiet
        if self.is_bad:
            quiet = "#F0A898" if self.isChecked() and t.name == "light" else t.fail
        painter.setPen(QColor(quiet))
        metrics, width = painter.fontMetrics(), int(box.width()) - 18
        words = self.words if metrics.horizontalAdvance(self.words) <= width else self._short
        words = metrics.elidedText(words, Qt.TextElideMode.ElideRight, width)
        painter.drawText(box.adjusted(12, 18, -4, -2), Qt.AlignmentFlag.AlignVCenter, words)


class Route(QWidget):
    """Name of the document, the stations, and the door to all commands."""

    search_asked = Signal()
    station_asked = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("route")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(54)
        self._name = label("", "heading")
        self.state = label("", "quiet")
        self.stations = {name: Station(name, desk) for name in STATIONS}
        names = QVBoxLayout()
        names.setContentsMargins(0, 0, 0, 0)
        names.setSpacing(0)
        names.addStretch(1)
        names.addWidget(self._name)
        names.addWidget(self.state)
        names.addStretch(1)
        self.menu_button = QPushButton("Menu")
        self.menu_button.setObjectName("menu_button")
        self.search = QPushButton("Find   Ctrl+K")
        self.search.setObjectName("search")
        self.search.clicked.connect(self.search_asked)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 2, 14, 2)
        # As wide whatever it says, so that no station moves.
        holder = QWidget()
        holder.setFixedWidth(NAMES)
        holder.setLayout(names)
        layout.addWidget(holder)
        for name, station in self.stations.items():
            layout.addWidget(station)
            station.clicked.connect(lambda _=False, n=name: self.station_asked.emit(n))
        layout.addStretch(1)
        layout.addWidget(self.search)
        layout.addWidget(self.menu_button)
        self.name("Anakinema", "")
        self.close_stations()

    def name(self, name: str, state: str) -> None:
        """Say what is open and where it stands."""
        _fit(self._name, name)
        _fit(self.state, state)

    def close_stations(self) -> None:
        """No station to go to: nothing is open."""
        for station in self.stations.values():
            station.setEnabled(False)
            station.setAutoExclusive(False)
            station.setChecked(False)
            station.say("")

    def open_stations(self, here: str) -> None:
        """All stations can be gone to; one of them is where we are."""
        for station in self.stations.values():
            station.setEnabled(True)
            station.setAutoExclusive(True)
            station.setChecked(station.text() == here)


def _fit(shown: QLabel, words: str) -> None:
    """Words in a label of a given width; all of them are its tip."""
    shown.ensurePolished()
    metrics = shown.fontMetrics()
    shown.setText(metrics.elidedText(words, Qt.TextElideMode.ElideMiddle, NAMES - 4))
    shown.setToolTip(words)
