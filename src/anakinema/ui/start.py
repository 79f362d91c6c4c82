"""What a new user sees first: a guided build, a blank stage, recent files, ready mechanisms."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from anakinema.errors import AnakinemaError
from anakinema.resources import demo_lines, demo_path
from anakinema.ui.desk import Desk
from anakinema.ui.fields import label
from anakinema.ui.miniature import MiniatureCard
from anakinema.ui.worker import Worker

if TYPE_CHECKING:
    from anakinema.ui.miniature_picture import MiniaturePicture

CALM = 250
"""ms that the page stands before pictures are made: who goes on at once does not wait for them."""
GAP = 12
_known: dict[Path, MiniaturePicture] = {}
"""Ready mechanisms drawn before, by file: they do not change while the program runs."""


class StartPage(QScrollArea):
    """A choice, not an empty stage. It loads nothing of the core before it `draw_pictures`."""

    chosen = Signal(Path)
    browse = Signal()
    blank = Signal()
    guided = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("start_page")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._worker = Worker("miniatures", self)
        self._worker.answered.connect(self._drawn)
        self._worker.broke.connect(lambda _, error: desk.broke.emit(error))
        self._may_draw = False
        self._calm = QTimer(self)
        self._calm.setSingleShot(True)
        self._calm.setInterval(CALM)
        self._calm.timeout.connect(self._draw)
        self._page = page = QWidget()
        self._lines = layout = QVBoxLayout(page)
        layout.setContentsMargins(36, 26, 36, 26)
        layout.setSpacing(8)
        layout.addWidget(label("Does it do its job over the whole motion?", "heading"))
        words = "Build your own, go on with a file, or open a ready mechanism and press Space."
        layout.addWidget(label(words, "quiet"))
        layout.addSpacing(6)
        self._add_first(layout)
        self._add_recent(layout, desk)
        layout.addSpacing(10)
        layout.addWidget(label("Ready mechanisms: point at one to see it run", "section"))
        self._grid = QGridLayout()
        self._grid.setSpacing(GAP)
        self.cards = [
            MiniatureCard(desk, f"demo_{name}", title, line, demo_path(name))
            for name, title, line in demo_lines()
        ]
        for card in self.cards:
            card.clicked.connect(lambda _=False, path=card.path: self.chosen.emit(path))
        layout.addLayout(self._grid)
        layout.addStretch(1)
        self._columns = 0
        self.setWidget(page)
        self._lay_out()

    def _add_first(self, layout: QVBoxLayout) -> None:
        line = QHBoxLayout()
        line.setSpacing(8)
        for name, words, asked in (
            ("start_guided", "Guided build: a four-bar", lambda: self.guided.emit("four-bar")),
            ("start_guided_cam", "Guided build: a cam", lambda: self.guided.emit("cam")),
            ("start_guided_pawl", "Guided build: a pawl", lambda: self.guided.emit("pawl")),
            ("start_blank", "Blank stage", self.blank.emit),
            ("start_open", "Open a file…", self.browse.emit),
        ):
            button = QPushButton(words)
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, ask=asked: ask())
            line.addWidget(button)
        line.addStretch(1)
        layout.addLayout(line)

    def _add_recent(self, layout: QVBoxLayout, desk: Desk) -> None:
        recent = [Path(item) for item in desk.settings.recent if Path(item).is_file()]
        if not recent:
            return
        layout.addSpacing(6)
        layout.addWidget(label("Recent", "section"))
        line = QHBoxLayout()
        line.setSpacing(8)
        for path in recent[:5]:
            button = QPushButton(path.stem)
            button.setObjectName(f"recent_{path.stem}")
            button.setToolTip(str(path))
            button.clicked.connect(lambda _=False, chosen=path: self.chosen.emit(chosen))
            line.addWidget(button)
        line.addStretch(1)
        layout.addLayout(line)

    def focus_first(self) -> None:
        """Enter opens the first choice."""
        self.findChildren(QPushButton)[0].setFocus()

    def hold_back(self, held: bool) -> None:
        """Show nothing, while a file is being opened; or all again."""
        self._page.setVisible(not held)
        bars = Qt.ScrollBarPolicy
        self.setVerticalScrollBarPolicy(bars.ScrollBarAlwaysOff if held else bars.ScrollBarAsNeeded)

    def settle(self) -> None:
        """Undressed and dressed again out of sight, its lines stand at heights that are gone."""
        self._lines.invalidate()
        self._lines.activate()

    def draw_pictures(self) -> None:
        """From now on the cards may show their mechanisms."""
        self._may_draw = True
        if self.isVisible():
            self._calm.start()

    def stop(self) -> None:
        """No more pictures; call before the application goes."""
        self._calm.stop()
        self._worker.stop()

    def _lay_out(self) -> None:
        """As many cards side by side as there is room for."""
        wide = self.cards[0].sizeHint().width() + GAP
        columns = max(1, (self.viewport().width() - 72 + GAP) // wide)
        if columns == self._columns:
            return
        self._columns = columns
        for k, card in enumerate(self.cards):
            card.setFixedSize(card.sizeHint())
            self._grid.addWidget(card, k // columns, k % columns, Qt.AlignmentFlag.AlignLeft)
        for column in range(columns + 1):
            self._grid.setColumnStretch(column, 0)
        self._grid.setColumnStretch(columns, 1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._may_draw:
            self._calm.start()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._calm.stop()
        self._worker.cancel()

    def _draw(self) -> None:
        """Make the pictures that are missing, one after another."""
        wanted = [card.path for card in self.cards if not card.is_drawn]

        def task() -> Iterator[object]:
            from anakinema.files import read_document
            from anakinema.findings import small
            from anakinema.ui.miniature_picture import MiniaturePicture

            for path in wanted:
                try:
                    found = _known.get(path) or MiniaturePicture(small(read_document(path)))
                except AnakinemaError:
                    continue
                _known[path] = found
                yield path, found

        if wanted:
            self._worker.request(task)

    def _drawn(self, number: int, answer: object) -> None:
        if number != self._worker.newest or not isinstance(answer, tuple):
            return
        for card in self.cards:
            if card.path == answer[0]:
                card.draw(answer[1])
