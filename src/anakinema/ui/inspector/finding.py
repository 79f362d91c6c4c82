"""The inspector's form of a finding: what was measured, what is asked, and why it is so."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from anakinema.edits import SetRequirement
from anakinema.findings import finding_facts, finding_why
from anakinema.ui.fields import label, row, source_text
from anakinema.ui.inspector.form import Form


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
    last: list[object] = [None]

    def show() -> None:
        evaluation = workbench.evaluation
        if evaluation is None or evaluation is last[0]:
            return
        last[0] = evaluation
        finding = next((f for f in evaluation.verdict.findings if f.id == finding_id), None)
        for _, widget in rows:
            facts_layout.removeWidget(widget)
            widget.hide()
            widget.deleteLater()
        rows.clear()
        if finding is None:
            title.setText("This check is gone")
            return
        title.setText(finding.title)
        for words, value in finding_facts(evaluation, finding):
            widget = row(words, value)
            facts_layout.addWidget(widget)
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
    layout.addSpacing(8)
    layout.addWidget(label("Why", "section"))
    layout.addWidget(why)


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
