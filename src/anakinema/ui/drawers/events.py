"""What happens over the motion, as a list: a click or Enter takes the playhead there."""

from __future__ import annotations

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QSizePolicy, QVBoxLayout, QWidget

from anakinema.findings import Evaluation, event_words, progress_words, window_words
from anakinema.motion import contact_windows
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.workbench import Workbench

MOST_SHOWN = 200
PADDING = 58
"""Pixels beside the words of a line."""
LINE_GAP = 14
"""Pixels between the words of two lines."""
ROWS = 8
"""Lines in sight at once."""


@guarded
class EventList(QWidget):
    """Every located event and contact window: where it is, and what it is."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._progress: list[float] = []
        self._told: Evaluation | None = None
        self._list = QListWidget()
        self._list.setObjectName("events")
        self._list.setAccessibleName("what happens over the motion")
        self._list.setWordWrap(True)
        self._list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._list.setUniformItemSizes(False)
        self._list.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._none = label("Nothing happens but the motion itself.", "quiet", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 8, 0)
        layout.setSpacing(4)
        layout.addWidget(label("What happens", "section"))
        layout.addWidget(self._none)
        layout.addWidget(self._list)
        self._list.itemActivated.connect(self._go)
        self._list.itemClicked.connect(self._go)
        workbench.evaluated.connect(self._show)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show()
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _show(self) -> None:
        evaluation = self._workbench.evaluation
        # To find where things happen takes longer than to paint a frame: once for each answer.
        if evaluation is None or evaluation is self._told or not self.isVisible():
            return
        self._told = evaluation
        lines = [
            (
                event.progress,
                f"{progress_words(evaluation, event.progress)}: {event_words(evaluation, event)}",
            )
            for event in evaluation.motion.events[:MOST_SHOWN]
        ]
        windows = contact_windows(evaluation.motion)
        lines += [(w.begin, window_words(evaluation, w)) for w in windows[:MOST_SHOWN]]
        self._progress = [progress for progress, _ in lines]
        self._list.clear()
        for _, words in lines:
            self._list.addItem(QListWidgetItem(words))
        self._fit()
        left = len(evaluation.motion.events) + len(windows) - len(lines)
        if left:
            self._list.addItem(QListWidgetItem(f"and {left} more, see the report"))
        self._none.setVisible(not lines)
        self._list.setVisible(bool(lines))

    def _fit(self) -> None:
        """Lines as high as their words need within the list's padding, which Qt leaves out."""
        wide = self.width() - self._list.verticalScrollBar().sizeHint().width() - PADDING
        room = QRect(0, 0, max(60, wide), 10_000)
        for row in range(len(self._progress)):
            item = self._list.item(row)
            flag = Qt.TextFlag.TextWordWrap
            need = self._list.fontMetrics().boundingRect(room, flag, item.text())
            item.setSizeHint(QSize(wide, need.height() + LINE_GAP))
        line = self._list.fontMetrics().height() + 6
        self._list.setFixedHeight(line * 2 * min(ROWS, max(1, len(self._progress))))

    def _go(self, item: QListWidgetItem) -> None:
        row = self._list.row(item)
        if row < len(self._progress):
            self._workbench.play(False)
            self._workbench.move_playhead(self._progress[row])
