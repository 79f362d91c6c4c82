"""What a new user sees first: ready mechanisms and recent files."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.resources import demo_names, demo_path
from anakinema.ui.fields import label
from anakinema.ui.workbench import Workbench

WIDE = 300


class StartPage(QFrame):
    """A choice, not an empty stage."""

    chosen = Signal(Path)
    browse = Signal()
    blank = Signal()
    guided = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("start_page")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(40, 30, 40, 30)
        layout.setSpacing(8)
        layout.addStretch(1)
        layout.addWidget(label("Does it do its job over the whole motion?", "heading"))
        layout.addWidget(
            label("Open a ready mechanism, press Space, and read what it says.", "quiet")
        )
        layout.addSpacing(8)
        ready = QGridLayout()
        ready.setSpacing(8)
        names = demo_names()
        half = (len(names) + 1) // 2
        for k, name in enumerate(names):
            words = name.replace("-", " ").capitalize()
            button = self._button(f"demo_{name}", words, demo_path(name))
            ready.addWidget(button, k % half, k // half)
        layout.addLayout(ready)
        recent = [Path(item) for item in workbench.settings.recent if Path(item).is_file()]
        if recent:
            layout.addSpacing(8)
            layout.addWidget(label("Recent", "section"))
            for path in recent[:5]:
                button = self._button(f"recent_{path.stem}", path.name, path)
                layout.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addSpacing(8)
        guided = QPushButton("Build your first mechanism: two minutes")
        guided.setObjectName("start_guided")
        guided.setFixedWidth(WIDE)
        guided.clicked.connect(self.guided)
        layout.addWidget(guided, 0, Qt.AlignmentFlag.AlignLeft)
        fresh = QPushButton("Blank: build your own")
        fresh.setObjectName("start_blank")
        fresh.setFixedWidth(WIDE)
        fresh.clicked.connect(self.blank)
        layout.addWidget(fresh, 0, Qt.AlignmentFlag.AlignLeft)
        button = QPushButton("Open a file…")
        button.setObjectName("start_open")
        button.clicked.connect(self.browse)
        layout.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addStretch(2)

    def focus_first(self) -> None:
        """Enter opens the first choice."""
        self.findChildren(QPushButton)[0].setFocus()

    def _button(self, name: str, words: str, path: Path) -> QPushButton:
        button = QPushButton(words)
        button.setObjectName(name)
        button.setFixedWidth(WIDE)
        button.clicked.connect(lambda: self.chosen.emit(path))
        return button


def centred(widget: QWidget) -> QWidget:
    """A widget in the middle of what holds it."""
    holder = QWidget()
    layout = QVBoxLayout(holder)
    layout.addWidget(widget, 1, Qt.AlignmentFlag.AlignHCenter)
    return holder
