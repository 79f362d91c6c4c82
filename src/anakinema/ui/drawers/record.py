"""The Record drawer: kept poses, and what leaves the program in open formats."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from anakinema.errors import AnakinemaError
from anakinema.record import EXPORTS, Export
from anakinema.session import write_export
from anakinema.ui.drawers.poses import PoseList
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
        layout.addWidget(PoseList(workbench, workbench.poses))
        layout.addWidget(label("Take it with you", "section"))
        for export in EXPORTS:
            button = QPushButton(export.title)
            button.setObjectName(f"export_{export.id}")
            button.clicked.connect(lambda _=False, e=export: self._export(e))
            layout.addWidget(button)
            layout.addWidget(label(export.why, "quiet", wrap=True))
        layout.addWidget(self._done)
        layout.addStretch(1)

    def _export(self, export: Export) -> None:
        evaluation = self._workbench.evaluation
        if evaluation is None:
            self._done.setText("There is no result to record yet.")
            return
        stem = evaluation.document.name.lower().replace(" ", "-")
        kind = export.suffix
        name, _ = QFileDialog.getSaveFileName(
            self, "Record", f"{stem}.{kind}", f"{kind.upper()} (*.{kind})"
        )
        if not name:
            return
        try:
            write_export(export, evaluation, Path(name))
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._done.setText(f"Written to {Path(name).name}.")
