"""The bar of the guided first build: one step at a time, gone when done or sent away."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from anakinema.session import GUIDE_STEPS, GuideState, next_step
from anakinema.ui.fields import label
from anakinema.ui.workbench import Workbench


class GuideBar(QWidget):
    """Says what to do next; reacts to what is really done."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("guide")
        self._workbench = workbench
        self._tried = self._played = False
        self.is_on = False
        self._words = label("", wrap=True)
        self._words.setObjectName("guide_words")
        self._end = QPushButton("End the guide")
        self._end.setObjectName("guide_end")
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 7, 10, 7)
        row.addWidget(self._words, 1)
        row.addWidget(self._end)
        self._end.clicked.connect(self.stop)
        workbench.document_changed.connect(self._show)
        workbench.evaluated.connect(self._show)
        workbench.trial_changed.connect(self._trial)
        workbench.playing_changed.connect(self._playing)
        self.hide()

    def start(self) -> None:
        """Begin with the first step."""
        self._tried = self._played = False
        self.is_on = True
        self.show()
        self._show()

    def stop(self) -> None:
        """Enough."""
        self.is_on = False
        self.hide()

    def _trial(self) -> None:
        joined = len(self._workbench.session.document.joints) >= 4
        self._tried = self._tried or (joined and self._workbench.trial is not None)
        self._show()

    def _playing(self, on: bool) -> None:
        self._played = self._played or on
        self._show()

    def _show(self) -> None:
        if not self.is_on:
            return
        bench = self._workbench
        freedoms = None
        if bench.evaluation is not None and bench.is_current:
            freedoms = bench.evaluation.followed.mobility.freedoms
        state = GuideState(bench.session.document, freedoms, self._tried, self._played)
        found = next_step(state)
        if found is None:
            self._words.setText(
                "That is a mechanism: it is yours to change, drive and check. Try a length on the"
                " right while it runs."
            )
            self._end.setText("Done")
            return
        number, step = found
        self._end.setText("End the guide")
        self._words.setText(f"{number} of {len(GUIDE_STEPS)}   {step.words}")
