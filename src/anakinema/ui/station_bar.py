"""The row above the stage: what its station does most, always as high."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QStackedWidget, QWidget

from anakinema.ui.asking import AskingLine
from anakinema.ui.commands import Command
from anakinema.ui.driving import DrivingLine
from anakinema.ui.fields import label
from anakinema.ui.route import STATIONS
from anakinema.ui.workbench import Workbench

HIGH = 46
SHORT = {
    "join": "Join", "stick": "Stick", "outline": "Outline", "repeat": "Repeat",
    "measure": "Measure", "stack": "Stack", "relief": "Corner", "keep_pose": "Keep",
}  # fmt: skip
"""Assembling's commands in the order of the bar, by the words they have there."""


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
        self.asking = AskingLine(workbench)
        self.driving = DrivingLine(workbench)
        self.addWidget(self._assemble_page(commands))
        self.addWidget(self.driving)
        self.addWidget(self.asking)
        self.addWidget(_words("The motion as a table, the verdict as a report: open formats."))
        workbench.station_changed.connect(self._show)
        self._show(workbench.station)

    def _show(self, station: str) -> None:
        self.setCurrentIndex(STATIONS.index(station))

    def _assemble_page(self, commands: Sequence[Command]) -> QWidget:
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(10, 5, 10, 5)
        row.setSpacing(5)
        known = {command.id: command for command in commands}
        for name, words in SHORT.items():
            command = known[name]
            button = QPushButton(f"{words}  {command.key_words}")
            button.setToolTip(command.tip or command.label())
            button.setObjectName(f"bar_{name}")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, c=command: c.run() if c.is_enabled() else None)
            row.addWidget(button)
        row.addStretch(1)
        return page


def _words(text: str) -> QWidget:
    page = QWidget()
    row = QHBoxLayout(page)
    row.setContentsMargins(14, 5, 10, 5)
    row.addWidget(label(text, "quiet"))
    row.addStretch(1)
    return page
