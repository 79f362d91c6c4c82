"""Changes that would let a finding pass, as they are found; each can be tried and undone."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.edits import Keep
from anakinema.errors import AnakinemaError
from anakinema.findings import Evaluation, Outcome
from anakinema.remedies import (
    Remedy,
    change_words,
    effects_words,
    free_numbers,
    number_named,
    trial_of,
)
from anakinema.ui.fields import QuantityField, choice_box, clear, fill_choice, label
from anakinema.ui.workbench import Workbench

SHOWN = 6


class Changes(QWidget):
    """A section of the inspector; empty while the finding passes."""

    def __init__(self, workbench: Workbench, finding_id: str) -> None:
        super().__init__()
        self.setObjectName("changes")
        self._bench, self._id = workbench, finding_id
        self._shown: tuple[Remedy, ...] | None = None
        self._is_asked = False
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 8, 0, 0)
        self._layout.setSpacing(4)
        self._title = label("Changes that would pass", "section")
        self._layout.addWidget(self._title)
        self._rows = QVBoxLayout()
        self._rows.setSpacing(6)
        self._layout.addLayout(self._rows)
        self._state = label("", "quiet", wrap=True)
        self._state.setObjectName("changes_state")
        self._layout.addWidget(self._state)
        workbench.changes.changes_found.connect(self._show)

    def ask(self) -> None:
        """Look for changes for the newest answer, if it is one that needs them."""
        bench = self._bench
        evaluation = bench.evaluation
        finding = None
        if evaluation is not None and evaluation.is_exact:
            finding = next((f for f in evaluation.verdict.findings if f.id == self._id), None)
        asked = any(r.id == self._id for r in bench.session.document.requirements)
        doubtful = finding is not None and finding.outcome is Outcome.WARN and finding.comfort
        needs = finding is not None and (finding.outcome is Outcome.FAIL or doubtful)
        self._is_asked = bool(needs and asked and finding is not None and finding.value is not None)
        self.setVisible(self._is_asked)
        if self._is_asked and evaluation is not None:
            bench.changes.look_for(evaluation, self._id)

    def _show(self) -> None:
        changes, evaluation = self._bench.changes, self._bench.evaluation
        if evaluation is None or not self._is_asked:
            return
        if changes.found != self._shown:
            self._shown = changes.found
            clear(self._rows)
            for k, remedy in enumerate(changes.found[:SHOWN]):
                self._rows.addWidget(self._row(k, remedy))
        if changes.is_looking:
            self._state.setText("Looking for more…" if changes.found else "Looking…")
        elif not changes.found:
            self._state.setText(
                "Found none by one or two named numbers within half their value. Others may"
                " exist: another joint, another place, more than two numbers."
            )
        else:
            self._state.setText("Each was judged over the whole motion. Undo takes it back.")

    def _row(self, k: int, remedy: Remedy) -> QWidget:
        evaluation = self._bench.evaluation
        assert evaluation is not None
        return change_row(self._bench, evaluation, remedy, f"{k}")


def change_row(bench: Workbench, evaluation: Evaluation, remedy: Remedy, name: str) -> QWidget:
    """A change in words, with what it does, and a button that tries it."""
    row = QWidget()
    row.setObjectName(f"change_{name}")
    words = QVBoxLayout()
    words.setSpacing(0)
    words.addWidget(label(change_words(remedy), "strong", wrap=True))
    effects = label(effects_words(evaluation, remedy), "quiet", wrap=True)
    if remedy.broken:
        effects.setProperty("trouble", True)
    words.addWidget(effects)
    button = QPushButton("Try")
    button.setObjectName(f"try_{name}")
    button.setProperty("tight", True)
    button.setAccessibleName(f"try {change_words(remedy)}")
    # A click must leave the keys to the stage: Space plays, it does not press again.
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    button.clicked.connect(lambda: _try(bench, remedy))
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    line.addLayout(words, 1)
    line.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
    return row


def _try(bench: Workbench, remedy: Remedy) -> None:
    """It is logged as a trial first, so that undoing it leaves what was tried."""
    trial = trial_of(remedy.evaluation, change_words(remedy)[:80], datetime.now())
    bench.do_once(Keep(trial))
    bench.do_once(remedy.edit)


class SolveFor(QWidget):
    """One number that brings a finding to a target."""

    def __init__(self, workbench: Workbench, finding_id: str) -> None:
        super().__init__()
        self.setObjectName("solve_for")
        self._bench, self._id = workbench, finding_id
        self._offered: Evaluation | None = None
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 8, 0, 0)
        self._layout.setSpacing(4)
        self._layout.addWidget(label("Bring it to", "section"))
        self._target = QuantityField("", "solve_target")
        self._target.setAccessibleName("target")
        self._target.setPlaceholderText("a value")
        self._target.setMinimumWidth(72)
        self._number = choice_box("solve_number", "number that may change")
        button = QPushButton("Find")
        button.setObjectName("solve_find")
        button.setProperty("tight", True)
        # A click must leave the keys to the stage: Space plays, it does not press again.
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(self._find)
        self._target.returnPressed.connect(self._find)
        for left, right in ((self._target, label("by", "quiet")), (self._number, button)):
            line = QHBoxLayout()
            line.setSpacing(4)
            line.addWidget(left, 1)
            line.addWidget(right)
            self._layout.addLayout(line)
        self._found = QVBoxLayout()
        self._layout.addLayout(self._found)
        workbench.changes.solved_for.connect(self._show)
        self._number.currentIndexChanged.connect(lambda _: self._choose())

    def _choose(self) -> None:
        """This number follows too where the result is pulled on the strip."""
        part, _, name = str(self._number.currentData() or ".").partition(".")
        self._bench.pull.choose(self._id, part, name)

    def offer(self) -> None:
        """The numbers there are, for the newest answer; gone where nothing was measured."""
        evaluation = self._bench.evaluation
        asked = any(r.id == self._id for r in self._bench.session.document.requirements)
        if evaluation is self._offered:
            return
        self._offered = evaluation
        clear(self._found)
        numbers = free_numbers(evaluation.source) if evaluation is not None and asked else ()
        entries = tuple((f"{n.part}.{n.name}", n.title) for n in numbers)
        fill_choice(self._number, entries, 0)
        self._choose()
        self.setVisible(bool(entries))

    def _find(self) -> None:
        evaluation, key = self._bench.evaluation, str(self._number.currentData() or "")
        clear(self._found)
        if evaluation is None or "." not in key:
            return
        number = number_named(evaluation.source, *key.split(".", 1))
        if number is not None:
            self._found.addWidget(label("Looking…", "quiet"))
            self._bench.changes.solve(evaluation, self._id, number, self._target.text())

    def _show(self, answer: object) -> None:
        evaluation = self._bench.evaluation
        clear(self._found)
        if isinstance(answer, AnakinemaError):
            self._found.addWidget(label(answer.advice, "quiet", wrap=True))
        elif isinstance(answer, Remedy) and evaluation is not None:
            self._found.addWidget(change_row(self._bench, evaluation, answer, "solved"))
