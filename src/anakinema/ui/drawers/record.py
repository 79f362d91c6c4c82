"""The Record drawer, as far as it goes today: the motion as a table, the verdict as a report."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from anakinema.errors import AnakinemaError
from anakinema.session import Evaluation, export_report, export_table
from anakinema.ui.fields import label
from anakinema.ui.workbench import Workbench


class RecordDrawer(QWidget):
    """What leaves the program in open formats."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._done = label("", "quiet", wrap=True)
        self._done.setObjectName("record_done")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 12, 10)
        layout.setSpacing(8)
        layout.addWidget(label("Take it with you", "section"))
        for name, words, why, suffix, export in (
            (
                "export_table",
                "Motion table…",
                "Every step with poses, joint values, velocities and accelerations, as CSV.",
                "csv",
                export_table,
            ),
            (
                "export_report",
                "Verdict report…",
                "Findings, events and mobility, as JSON for other programs.",
                "json",
                export_report,
            ),
        ):
            button = QPushButton(words)
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, s=suffix, e=export: self._export(s, e))
            layout.addWidget(button)
            layout.addWidget(label(why, "quiet", wrap=True))
        layout.addWidget(self._done)
        layout.addStretch(1)

    def _export(self, suffix: str, export: Callable[[Evaluation, Path], None]) -> None:
        evaluation = self._workbench.evaluation
        if evaluation is None:
            self._done.setText("There is no result to record yet.")
            return
        stem = evaluation.document.name.lower().replace(" ", "-")
        name, _ = QFileDialog.getSaveFileName(
            self, "Record", f"{stem}.{suffix}", f"{suffix.upper()} (*.{suffix})"
        )
        if not name:
            return
        try:
            export(evaluation, Path(name))
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._done.setText(f"Written to {Path(name).name}.")
