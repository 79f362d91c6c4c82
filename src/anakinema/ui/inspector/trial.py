"""The inspector's form of a trial: what it gave beside what is so now, and the way back."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.edits import RemoveTrial, SetTrial
from anakinema.findings import value_words
from anakinema.remedies import back_to, differences, standing_words
from anakinema.ui.drawers.trials import when_words
from anakinema.ui.fields import clear, label, row
from anakinema.ui.inspector.form import Form

DECISIONS = [("open", "open"), ("taken", "taken"), ("rejected", "rejected")]


def build_trial(form: Form, trial_id: str) -> None:
    """Name, decision, reason; numbers and results, then and now."""
    bench = form.workbench

    def trial() -> model.Trial:
        return model.next_by_id(bench.session.document.trials, trial_id)

    form.heading(trial().title, f"{standing_words(trial())}, {when_words(trial().when)}")
    form.text("Name", "trial_name", lambda: trial().title, lambda t: SetTrial(trial_id, "name", t))
    form.choice(
        "Decision",
        "trial_decision",
        DECISIONS,
        lambda: trial().decision,
        lambda which: SetTrial(trial_id, "decision", which),
    )
    form.text(
        "Reason", "trial_reason", lambda: trial().reason, lambda t: SetTrial(trial_id, "reason", t)
    )
    form.buttons(
        ("trial_back", "Go back to it", lambda: _go_back(form, trial())),
        ("trial_delete", "Delete", lambda: form.once(RemoveTrial(trial_id))),
    )
    form.section("Then, and now")
    holder = QWidget()
    holder.setObjectName("trial_rows")
    rows = QVBoxLayout(holder)
    rows.setContentsMargins(0, 0, 0, 0)
    rows.setSpacing(0)
    form.layout.addWidget(holder)
    shown: list[object] = [None]

    def show() -> None:
        lines = _lines(form, trial())
        if lines == shown[0]:
            return
        shown[0] = lines
        clear(rows)
        for title, then, now in lines:
            words = then if now == then else f"{then}, now {now or 'gone'}"
            rows.addWidget(row(title, words))
        if not lines:
            rows.addWidget(label("Nothing of it differs now.", "quiet", wrap=True))

    form.on_refresh(show)
    form.on_live(show)


def _lines(form: Form, trial: model.Trial) -> list[tuple[str, str, str]]:
    """Numbers that differ, then all results; each then and now."""
    document, evaluation = form.workbench.session.document, form.workbench.evaluation
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
