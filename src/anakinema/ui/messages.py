"""What went wrong, or was written: over the lower edge of the stage, so that nothing moves."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from anakinema.errors import AnakinemaError
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.workbench import Workbench

LEAST, MOST = 46, 96
"""Pixels: two lines of words, and what is taken at most."""


@guarded
class MessageLine(QWidget):
    """Lies over ``below`` and takes no room; gone while there is nothing to say."""

    def __init__(self, workbench: Workbench, below: QWidget) -> None:
        super().__init__(below)
        self._below = below
        below.installEventFilter(self)
        self.setObjectName("messages")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._workbench = workbench
        self._trouble = QWidget()
        self._trouble.setObjectName("trouble")
        row = QHBoxLayout(self._trouble)
        row.setContentsMargins(14, 2, 8, 2)
        self._words = label("", "trouble", wrap=True)
        self._words.setObjectName("trouble_words")
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)
        row.addWidget(self._words, 1)
        close = QPushButton("Close")
        close.setObjectName("trouble_close")
        close.clicked.connect(workbench.dismiss_trouble)
        row.addWidget(close)
        self._done = label("", "quiet")
        self._done.setObjectName("done_words")
        self._act = QPushButton("Show in folder")
        self._act.setObjectName("done_act")
        self._act.clicked.connect(workbench.show_in_folder)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._trouble, 1)
        layout.addSpacing(14)
        layout.addWidget(self._done, 1)
        layout.addWidget(self._act)
        layout.addSpacing(8)
        workbench.trouble_changed.connect(self._show)
        workbench.done_changed.connect(self._show)
        self._show()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._below and event.type() == QEvent.Type.Resize:
            self._settle()
        return super().eventFilter(watched, event)

    def _settle(self) -> None:
        wide = self._below.width()
        words = self._words.heightForWidth(max(wide - 130, 60)) if self._trouble.isVisible() else 0
        high = min(max(words + 10, LEAST), MOST)
        self.setGeometry(0, self._below.height() - high, wide, high)
        self.raise_()

    def _show(self) -> None:
        trouble, done = self._workbench.trouble, self._workbench.done
        self._trouble.setVisible(trouble is not None)
        self._done.setVisible(trouble is None)
        self._act.setVisible(trouble is None and done is not None)
        self._done.setText(f"Written to {done}" if done is not None else "")
        words = str(trouble) if trouble is not None else ""
        if isinstance(trouble, AnakinemaError):
            where = trouble.where[:1].upper() + trouble.where[1:]
            words = f"{where}: {trouble.what} {trouble.remedy}".strip()
        self._words.setText(words)
        self._words.setToolTip(words)
        self.setVisible(trouble is not None or done is not None)
        self._settle()
