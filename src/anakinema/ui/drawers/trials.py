"""The log of trials: sets of numbers that were tried, with what they gave."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.edits import Keep
from anakinema.remedies import standing_words, trial_of
from anakinema.ui.drawers.listing import two_lines
from anakinema.ui.fields import clear, label
from anakinema.ui.workbench import Selection, Workbench

DECISIONS = {"open": "", "taken": ", taken", "rejected": ", rejected"}


class TrialList(QWidget):
    """Keep what is so now; a click on a trial shows it beside what is now."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._bench = workbench
        self._shown: tuple[model.Trial, ...] | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 12, 4)
        layout.setSpacing(4)
        layout.addWidget(label("Trials", "section"))
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        layout.addLayout(self._rows)
        keep = QPushButton("Keep what is so now")
        keep.setObjectName("trial_keep")
        keep.setProperty("tight", True)
        keep.setToolTip("All named numbers and what they give, to compare with and to come back to")
        # A click must leave the keys to the stage: Space plays, it does not press again.
        keep.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        keep.clicked.connect(self._keep)
        layout.addWidget(keep, 0, Qt.AlignmentFlag.AlignLeft)
        workbench.document_changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        trials = self._bench.session.document.trials
        if trials == self._shown:
            return
        self._shown = trials
        clear(self._rows)
        for trial in trials:
            words = f"{standing_words(trial)}{DECISIONS[trial.decision]}, {when_words(trial.when)}"
            button = two_lines(f"trial_{trial.id}", f"{trial.title}: {words}", trial.title, words)
            chosen = Selection("trial", trial.id)
            button.clicked.connect(lambda _=False, c=chosen: self._bench.select(c))
            self._rows.addWidget(button)

    def _keep(self) -> None:
        evaluation = self._bench.evaluation
        if evaluation is None or not evaluation.is_exact:
            self._bench.report("Nothing is known of it yet: wait for its verdict.")
            return
        count = len(self._bench.session.document.trials) + 1
        trial = trial_of(evaluation, f"Trial {count}", datetime.now())
        self._bench.do_once(Keep(trial))
        self._bench.select(Selection("trial", trial.id))


def when_words(when: str) -> str:
    """'29 Nov 14:05'; as it is written where it is no time."""
    try:
        at = datetime.fromisoformat(when)
    except ValueError:
        return when or "no time"
    return f"{at.day} {at:%b %H:%M}"
