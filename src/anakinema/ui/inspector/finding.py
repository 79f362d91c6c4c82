"""The inspector's form of a finding: what was measured, what is asked, and why it is so."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QVBoxLayout, QWidget

from anakinema.edits import SetRequirement
from anakinema.findings import finding_facts, finding_inputs, finding_why
from anakinema.ui.fields import label, row, source_text
from anakinema.ui.inspector.changes import Changes, SolveFor
from anakinema.ui.inspector.form import Form
from anakinema.ui.inspector.improving import ImprovePanel
from anakinema.ui.workbench import Selection

HEAD = 4
"""Facts above the changes: outcome, value, what is asked, margin; the others follow below."""


def build_finding(form: Form, finding_id: str) -> None:
    """Rows of a finding; they follow the newest evaluation."""
    workbench, layout = form.workbench, form.layout
    title = label("", "heading", wrap=True)
    layout.addWidget(title)
    layout.addSpacing(6)
    facts = QWidget()
    facts_layout = QVBoxLayout(facts)
    facts_layout.setContentsMargins(0, 0, 0, 0)
    facts_layout.setSpacing(0)
    layout.addWidget(facts)
    rows: list[tuple[str, QWidget]] = []
    why = label("", "quiet", wrap=True)
    trail = QWidget()
    trail_layout = QVBoxLayout(trail)
    trail_layout.setContentsMargins(0, 0, 0, 0)
    trail_layout.setSpacing(0)
    last: list[object] = [None]

    def show() -> None:
        evaluation = workbench.evaluation
        if evaluation is None or evaluation is last[0]:
            return
        last[0] = evaluation
        finding = next((f for f in evaluation.verdict.findings if f.id == finding_id), None)
        for _, widget in rows:
            widget.hide()
            widget.deleteLater()
        rows.clear()
        if finding is None:
            title.setText("This check is gone")
            return
        title.setText(finding.title)
        for k, (words, value) in enumerate(finding_facts(evaluation, finding)):
            widget = row(words, value)
            (facts_layout if k < HEAD else trail_layout).addWidget(widget)
            rows.append((words, widget))
        why.setText(finding_why(evaluation, finding))

    form.on_live(show)
    requirement = next(
        (r for r in workbench.session.document.requirements if r.id == finding_id), None
    )
    if requirement is not None:
        layout.addSpacing(8)
        layout.addWidget(label("What is asked", "section"))
        for which in ("least", "greatest", "comfort"):
            if which != "greatest" or requirement.reduce != "least":
                _add_requirement_field(form, finding_id, which)
        changes = Changes(workbench, finding_id)
        layout.addWidget(changes)
        form.on_live(changes.ask)
        solving = SolveFor(workbench, finding_id)
        layout.addWidget(solving)
        form.on_live(solving.offer)
        improving = ImprovePanel(workbench, finding_id)
        layout.addWidget(improving)
        form.on_live(improving.offer)
    layout.addSpacing(8)
    layout.addWidget(label("Why", "section"))
    layout.addWidget(why)
    layout.addWidget(trail)
    _add_inputs(form, finding_id)


def _add_inputs(form: Form, finding_id: str) -> None:
    """What it is about: a click shows it."""
    evaluation = form.workbench.evaluation
    finding = None
    if evaluation is not None:
        finding = next((f for f in evaluation.verdict.findings if f.id == finding_id), None)
    if evaluation is None or finding is None:
        return
    found = finding_inputs(evaluation, finding)
    if found:
        form.section("Made from")
        form.buttons(
            *(
                (f"input_{kind}_{name}", title, partial(_show_input, form, kind, name))
                for kind, name, title in found
            )
        )


def _show_input(form: Form, kind: str, name: str) -> None:
    form.workbench.select(Selection(kind, name))


def _add_requirement_field(form: Form, finding_id: str, which: str) -> None:
    def source() -> str:
        document = form.workbench.session.document
        found = next((r for r in document.requirements if r.id == finding_id), None)
        return source_text(getattr(found, which, None))

    words = {"least": "at least", "greatest": "at most", "comfort": "comfortable from"}[which]
    form.quantity(
        words,
        f"asked_{which}",
        source,
        lambda text: SetRequirement(finding_id, which, text if text.strip() else None),
    )
