"""The row above the stage: what its station does most, always as high."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QStackedWidget, QWidget

from anakinema.ui.asking import AskingLine
from anakinema.ui.commands import Command
from anakinema.ui.driving import DrivingLine
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.route import STATIONS
from anakinema.ui.workbench import Workbench

HIGH, TWICE = 46, 76
"""Pixels of one row, and of two where the window is narrow."""
SENTENCE = 1000
"""Pixels of the bar below which a sentence takes two rows."""
NARROW = 700
"""Those below which buttons lose their keys."""
SHORT = {
    "join": "Join", "stick": "Stick", "outline": "Outline", "repeat": "Repeat",
    "measure": "Measure", "stack": "Stack", "depth": "Depth", "keep_pose": "Keep",
}  # fmt: skip
"""Assembling's commands in the order of the bar, by the words they have there."""


@guarded
class StationBar(QStackedWidget):
    """One page for each station; the stage below never moves for what stands here."""

    def __init__(self, workbench: Workbench, commands: Sequence[Command]) -> None:
        super().__init__()
        self.setObjectName("station_bar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(HIGH)
        # Narrow windows cut the bar rather than grow for it; all is in the menu as well.
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setMinimumWidth(1)
        self._shape: tuple[bool, bool] | None = None
        self._buttons: list[tuple[QPushButton, str, str]] = []
        self.asking = AskingLine(workbench)
        self.driving = DrivingLine(workbench)
        self.addWidget(self._assemble_page(commands))
        self.addWidget(self.driving)
        self.addWidget(self.asking)
        self.addWidget(_words("Poses to come back to, the parts list, and files in open formats."))
        workbench.station_changed.connect(self._show)
        self._show(workbench.station)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        narrow, folded = self.width() < NARROW, self.width() < SENTENCE
        if (narrow, folded) == self._shape:
            return
        self._shape = narrow, folded
        # By the width of the window only: no edit and no station changes it.
        self.setFixedHeight(TWICE if folded else HIGH)
        self.asking.fold(folded)
        for button, words, key in self._buttons:
            button.setText(words if narrow else f"{words}  {key}")
            button.setProperty("tight", not narrow)
            button.setProperty("tightest", narrow)
            button.style().unpolish(button)
            button.style().polish(button)

    def _show(self, station: str) -> None:
        self.setCurrentIndex(STATIONS.index(station))

    def _assemble_page(self, commands: Sequence[Command]) -> QWidget:
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(8, 5, 6, 5)
        row.setSpacing(3)
        known = {command.id: command for command in commands}
        for name, words in SHORT.items():
            command = known[name]
            button = QPushButton(f"{words}  {command.key_words}")
            button.setToolTip(command.tip or command.label())
            button.setObjectName(f"bar_{name}")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setProperty("tight", True)
            button.clicked.connect(lambda _=False, c=command: c.run() if c.is_enabled() else None)
            row.addWidget(button)
            self._buttons.append((button, words, command.key_words))
        row.addStretch(1)
        return page


def _words(text: str) -> QWidget:
    page = QWidget()
    row = QHBoxLayout(page)
    row.setContentsMargins(14, 5, 10, 5)
    row.addWidget(label(text, "quiet"))
    row.addStretch(1)
    return page
