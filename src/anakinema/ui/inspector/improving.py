"""Several numbers improved together: which may change, how far, and what was found."""

from __future__ import annotations

import math
from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.edits import Keep
from anakinema.errors import AnakinemaError
from anakinema.findings import Evaluation
from anakinema.remedies import (
    Design,
    Goal,
    Progress,
    Range,
    design_words,
    edit_to,
    free_numbers,
    goal_words,
    progress_words,
    ranges_about,
    trial_of,
)
from anakinema.ui.fields import QuantityField, choice_box, clear, label
from anakinema.ui.finding_changes import Improved
from anakinema.ui.workbench import Workbench

SENSES = (("greatest", "as large as can be"), ("least", "as small as can be"))
CHOSEN = 3
"""Parameters that may change to begin with."""


class _NumberRow(QWidget):
    """A number that may change, and between what."""

    def __init__(self, k: int, each: Range, chosen: bool) -> None:
        super().__init__()
        self._number = each.number
        self._box = QCheckBox(each.number.title)
        self._box.setObjectName(f"improve_{k}")
        self._box.setChecked(chosen)
        self._low, self._high = (
            QuantityField(f"{value:.6g}", f"improve_{k}_{end}")
            for value, end in ((each.low, "low"), (each.high, "high"))
        )
        ends = QWidget()
        line = QHBoxLayout(ends)
        line.setContentsMargins(22, 0, 0, 0)
        line.setSpacing(4)
        for words, field in (("from", self._low), ("to", self._high)):
            field.setAccessibleName(f"{each.number.title} {words}")
            field.setMinimumWidth(56)
            line.addWidget(label(words, "quiet"))
            line.addWidget(field, 1)
        line.addWidget(label(each.number.unit, "quiet"))
        ends.setVisible(chosen)
        self._box.toggled.connect(ends.setVisible)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self._box)
        column.addWidget(ends)

    def range(self) -> Range | None:
        """The range, None if the number is to stay. Wrong ends are said at their field."""
        if not self._box.isChecked():
            return None
        ends = []
        for field in (self._low, self._high):
            try:
                value = float(field.text().replace("−", "-"))
            except ValueError:
                value = math.nan
            field.set_wrong("" if math.isfinite(value) else "a number is needed, without its unit")
            ends.append(value)
        return Range(self._number, *ends)


class ImprovePanel(QWidget):
    """A section of the inspector of what is asked."""

    def __init__(self, workbench: Workbench, finding_id: str) -> None:
        super().__init__()
        self.setObjectName("improve")
        self._bench, self._id = workbench, finding_id
        self._offered: Evaluation | None = None
        self._under_way = False
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 8, 0, 0)
        self._layout.setSpacing(4)
        self._layout.addWidget(label("Improve by several numbers", "section"))
        self._open = self._button("improve_open", "Choose numbers…", self._unfold)
        self._layout.addWidget(self._open)
        self._form = QWidget()
        form = QVBoxLayout(self._form)
        form.setContentsMargins(0, 0, 0, 0)
        form.setSpacing(4)
        self._sense = choice_box("improve_sense", "what is wanted")
        for key, words in SENSES:
            self._sense.addItem(words, key)
        form.addWidget(self._sense)
        self._rows = QVBoxLayout()
        form.addLayout(self._rows)
        self._numbers: list[_NumberRow] = []
        self._run = self._button("improve_run", "Improve", self._begin_or_stop)
        form.addWidget(self._run)
        self._state = label("", "quiet", wrap=True)
        self._state.setObjectName("improve_state")
        form.addWidget(self._state)
        self._found = QVBoxLayout()
        self._found.setSpacing(6)
        form.addLayout(self._found)
        self._form.hide()
        self._layout.addWidget(self._form)
        workbench.changes.improved.connect(self._show)

    def _button(self, name: str, words: str, run) -> QPushButton:  # type: ignore[no-untyped-def]
        button = QPushButton(words)
        button.setObjectName(name)
        # A click must leave the keys to the stage: Space plays, it does not press again.
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(run)
        return button

    def offer(self) -> None:
        """For the newest answer; gone where there is nothing to change."""
        evaluation = self._bench.evaluation
        if evaluation is self._offered or evaluation is None:
            return
        self._offered = evaluation
        self.setVisible(bool(free_numbers(evaluation.source)))

    def _unfold(self) -> None:
        evaluation = self._bench.evaluation
        if evaluation is None:
            return
        self._open.hide()
        self._form.show()
        numbers = sorted(free_numbers(evaluation.source), key=lambda n: bool(n.part))
        clear(self._rows)
        self._numbers = []
        for k, each in enumerate(ranges_about(numbers)):
            row = _NumberRow(k, each, k < CHOSEN and not each.number.part)
            self._numbers.append(row)
            self._rows.addWidget(row)

    def _begin_or_stop(self) -> None:
        evaluation = self._bench.evaluation
        if self._under_way:
            self._bench.changes.improve_no_more()
            self._set_under_way(False)
            self._state.setText("Stopped. What was found stands below.")
            return
        if evaluation is None:
            return
        ranges = tuple(each for each in (row.range() for row in self._numbers) if each is not None)
        if any(math.isnan(each.low) or math.isnan(each.high) for each in ranges):
            return
        clear(self._found)
        self._set_under_way(True)
        self._state.setText("Looking…")
        goal = Goal(self._id, self._sense.currentData())
        self._bench.changes.improve(evaluation, goal, ranges)

    def _set_under_way(self, on: bool) -> None:
        self._under_way = on
        self._run.setText("Stop" if on else "Improve")

    def _show(self, answer: object) -> None:
        if isinstance(answer, AnakinemaError):
            self._set_under_way(False)
            self._state.setText(answer.advice)
            return
        if not isinstance(answer, Improved) or answer.goal.finding != self._id:
            return
        progress, evaluation = answer.progress, answer.evaluation
        words = progress_words(evaluation, answer.goal, progress)
        if not answer.whole:
            self._state.setText(words)
            return
        self._set_under_way(False)
        self._state.setText(
            f"{words}. Ended: {progress.ended}. It is what was reached, not what is possible."
        )
        clear(self._found)
        for k, (design, whole) in enumerate(answer.whole):
            self._found.addWidget(self._row(k, answer, progress, design, whole))

    def _row(
        self, k: int, answer: Improved, progress: Progress, design: Design, whole: Evaluation
    ) -> QWidget:
        row = QWidget()
        words = QVBoxLayout()
        words.setSpacing(0)
        text = design_words(answer.ranges, design)
        words.addWidget(label(text, "strong", wrap=True))
        name = "best" if design is progress.best else "runner-up"
        gives = goal_words(answer.evaluation, answer.goal, design)
        standing = "all pass" if design.passes else "not all pass"
        words.addWidget(label(f"{name}: gives {gives}; {standing}", "quiet", wrap=True))
        button = self._button(f"improve_try_{k}", "Try", lambda: self._try(answer, design, whole))
        button.setProperty("tight", True)
        button.setAccessibleName(f"try {text}")
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.addLayout(words, 1)
        line.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        return row

    def _try(self, answer: Improved, design: Design, whole: Evaluation) -> None:
        """It is logged as a trial first, so that undoing it leaves what was tried."""
        name = design_words(answer.ranges, design)[:80]
        self._bench.do_once(Keep(trial_of(whole, name, datetime.now())))
        self._bench.do_once(edit_to(answer.ranges, design))
