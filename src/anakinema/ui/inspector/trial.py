"""The inspector's form of a trial: what it gave beside what is so now, and the way back."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.edits import RemoveKept, SetKept
from anakinema.findings import value_words
from anakinema.remedies import back_to, between, differences, standing_words
from anakinema.ui.drawers.trials import when_words
from anakinema.ui.fields import choice_box, clear, label, row
from anakinema.ui.inspector.form import Form
from anakinema.ui.miniature import MiniatureCard
from anakinema.ui.miniature_picture import MiniaturePicture
from anakinema.ui.workbench import Workbench

DECISIONS = [("open", "open"), ("taken", "taken"), ("rejected", "rejected")]


class TrialPicture(MiniatureCard):
    """The trial that is compared, moving when pointed at."""

    def __init__(self, bench: Workbench, title: str) -> None:
        super().__init__(bench.desk, "trial_picture", title, "outlined on the stage too", Path())
        self.setMinimumHeight(self.sizeHint().height())
        self._comparison = bench.comparison
        self._comparison.changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        if self._comparison.shown is not None:
            self.draw(MiniaturePicture(self._comparison.shown))


def build_trial(form: Form, trial_id: str) -> None:
    """Name, decision, reason; numbers and results, then and now."""
    bench = form.workbench

    def trial() -> model.Trial:
        return model.next_by_id(bench.session.document.trials, trial_id)

    form.heading(trial().title, f"{standing_words(trial())}, {when_words(trial().when)}")
    form.text(
        "Name",
        "trial_name",
        lambda: trial().title,
        lambda t: SetKept("trials", trial_id, "name", t),
    )
    form.choice(
        "Decision",
        "trial_decision",
        DECISIONS,
        lambda: trial().decision,
        lambda which: SetKept("trials", trial_id, "decision", which),
    )
    form.text(
        "Reason",
        "trial_reason",
        lambda: trial().reason,
        lambda t: SetKept("trials", trial_id, "reason", t),
    )
    form.buttons(
        ("trial_back", "Go back to it", lambda: _go_back(form, trial())),
        ("trial_delete", "Delete", lambda: form.once(RemoveKept("trials", trial_id))),
    )
    form.layout.addWidget(TrialPicture(bench, trial().title))
    form.section("Beside")
    beside = choice_box("trial_beside", "what it stands beside")
    beside.addItem("what is so now", "")
    for each in bench.session.document.trials:
        if each.id != trial_id:
            beside.addItem(each.title, each.id)
    form.layout.addWidget(beside)
    holder = QWidget()
    holder.setObjectName("trial_rows")
    rows = QVBoxLayout(holder)
    rows.setContentsMargins(0, 0, 0, 0)
    rows.setSpacing(0)
    form.layout.addWidget(holder)
    shown: list[object] = [None]

    def show() -> None:
        other = str(beside.currentData() or "")
        lines = _lines(form, trial(), other)
        if (other, lines) == shown[0]:
            return
        shown[0] = other, lines
        clear(rows)
        for title, then, now in lines:
            after = f"{now or 'gone'}" if other else f"now {now or 'gone'}"
            rows.addWidget(row(title, then if now == then else f"{then}, {after}"))
        if not lines:
            rows.addWidget(label("Nothing of it differs.", "quiet", wrap=True))

    beside.currentIndexChanged.connect(lambda _: show())
    form.on_refresh(show)
    form.on_live(show)


def _lines(form: Form, trial: model.Trial, other: str) -> list[tuple[str, str, str]]:
    """Numbers that differ, then all results: those of the trial, and now or of another one."""
    document, evaluation = form.workbench.session.document, form.workbench.evaluation
    beside = {each.id: each for each in document.trials}.get(other)
    if beside is not None:
        numbers = [(d.title, d.then, d.now) for d in between(document, trial, beside)]
        gave = {each.title: each.value or each.outcome for each in beside.results}
        return numbers + [
            (each.title, each.value or each.outcome, gave.get(each.title, ""))
            for each in trial.results
        ]
    numbers = [(d.title, d.then, d.now) for d in differences(document, trial)]
    now = {}
    if evaluation is not None:
        now = {f.title: value_words(evaluation, f) for f in evaluation.verdict.findings}
    results = [
        (each.title, each.value or each.outcome, now.get(each.title, "")) for each in trial.results
    ]
    return numbers + results


def _go_back(form: Form, trial: model.Trial) -> None:
    edit = back_to(form.workbench.session.document, trial)
    if edit is None:
        form.workbench.report("All numbers are those of this trial already.")
    else:
        form.once(edit)
