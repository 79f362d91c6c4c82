"""What stays on show until it is settled: work left behind, a journal that cannot be written."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.session import LeftBehind, left_behind
from anakinema.ui.fields import clear, label
from anakinema.ui.workbench import Workbench


class NoticeBar(QWidget):
    """Lines above the stage, each with what can be done about it."""

    def __init__(self, workbench: Workbench, may_leave: Callable[[], bool]) -> None:
        super().__init__()
        self._workbench, self._may_leave = workbench, may_leave
        self._left: list[LeftBehind] = []
        self._lines = QVBoxLayout(self)
        self._lines.setContentsMargins(0, 0, 0, 0)
        self._lines.setSpacing(0)
        workbench.notices_changed.connect(self._show)
        workbench.document_changed.connect(self._show)
        self._shown: object = None
        self.hide()

    def look_for_work(self, folder: Path) -> None:
        """Offer what sessions that ended badly have left in a folder."""
        self._left = left_behind(folder)
        self._show()

    def release(self) -> None:
        """The window closes: what was not settled is offered again."""
        for left in self._left:
            left.release()
        self._left = []

    def _show(self) -> None:
        bench = self._workbench
        name = bench.session.path.name if bench.session.path is not None else ""
        shared = name if bench.session.is_shared else ""
        key = (tuple(map(id, self._left)), bench.journal_trouble, shared)
        if key == self._shown:
            return
        self._shown = key
        clear(self._lines)
        if self._left:
            self._offer(self._left[0])
        if bench.journal_trouble:
            self._line(
                "journal_notice",
                f"Steps cannot be kept for recovery: {bench.journal_trouble}. Save your work; it is"
                " tried again every few seconds.",
            )
        if shared:
            self._line("shared_notice", f"{shared} is open in another window too. Saving will ask.")
        self.setVisible(bool(self._lines.count()))

    def _offer(self, left: LeftBehind) -> None:
        when = time.strftime("%d %b %H:%M", time.localtime(left.when))
        more = f" {len(self._left) - 1} more after it." if len(self._left) > 1 else ""
        if left.moment is None:
            self._line(
                "recovery_words",
                f"A journal of {when} cannot be read: {left.trouble}. It is kept as it is.{more}",
                [("forget_recovery", "Understood", lambda: self._let_go(left))],
            )
            return
        steps = f"{left.steps} step{'s' if left.steps != 1 else ''}"
        words = f"“{left.name}” was not saved when the program last ended ({when}, {steps})."
        if left.trouble:
            words += f" Its journal could not be read whole: {left.trouble}."
        self._line(
            "recovery_words",
            words + more,
            [
                ("recover", "Recover", lambda: self._recover(left)),
                ("forget_recovery", "Forget", lambda: self._let_go(left)),
            ],
        )

    def _line(
        self, name: str, words: str, buttons: Sequence[tuple[str, str, Callable[[], None]]] = ()
    ) -> None:
        line = QWidget()
        line.setObjectName("notice")
        # A bare widget draws nothing of a style sheet by itself.
        line.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(line)
        row.setContentsMargins(14, 6, 8, 6)
        stated = label(words, wrap=True)
        stated.setObjectName(name)
        row.addWidget(stated, 1)
        for key, title, run in buttons:
            button = QPushButton(title)
            button.setObjectName(key)
            button.clicked.connect(lambda _=False, r=run: r())
            row.addWidget(button)
        self._lines.addWidget(line)

    def _recover(self, left: LeftBehind) -> None:
        if left not in self._left or not self._may_leave():
            return
        self._left.remove(left)
        self._workbench.recover(left)
        self._show()

    def _let_go(self, left: LeftBehind) -> None:
        if left not in self._left:
            return
        self._left.remove(left)
        kept = left.let_go()
        if kept is not None:
            self._workbench.report(f"The damaged journal is kept as {kept}.")
        self._show()
