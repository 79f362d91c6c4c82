"""Mark a place: the snaps it is between and how far off it is, all by keys if wanted."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.ui.fields import label, row
from anakinema.ui.inspector.draft_field import draft_field
from anakinema.ui.inspector.form import FIELD
from anakinema.ui.inspector.snap_box import fill_snaps, snap_box
from anakinema.ui.marking import MarkDraft
from anakinema.ui.workbench import Workbench
from anakinema.units import LENGTH


class MarkPanel(QWidget):
    """One snap, perhaps a second, two distances, and the button that marks the place."""

    def __init__(self, workbench: Workbench, draft: MarkDraft) -> None:
        super().__init__()
        self.setObjectName("mark_panel")
        self._workbench, self._draft = workbench, draft
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(3)
        layout.addWidget(label("Mark a place", "heading"))
        layout.addWidget(
            label("Midway between two places of a body, or a distance off one.", "quiet", wrap=True)
        )
        self._first = snap_box("mark_first", "first place")
        self._second = snap_box("mark_second", "second place")
        layout.addWidget(label("At, or between", "section"))
        layout.addWidget(self._first)
        layout.addWidget(self._second)
        self._fields = {
            which: draft_field(
                workbench,
                f"mark_{which}",
                "0 mm",
                LENGTH,
                partial(lambda w, _, stated: draft.set_off(w, stated), which),
            )
            for which in ("along", "across")
        }
        layout.addWidget(row("Along its direction", self._fields["along"], width=FIELD))
        layout.addWidget(row("To its left", self._fields["across"], width=FIELD))
        self._words = label("", wrap=True)
        self._words.setObjectName("mark_words")
        layout.addWidget(self._words)
        ends = QHBoxLayout()
        self._make = QPushButton("Mark it")
        self._make.setObjectName("mark_make")
        cancel = QPushButton("Cancel")
        cancel.setObjectName("mark_cancel")
        ends.addWidget(self._make)
        ends.addWidget(cancel)
        layout.addLayout(ends)
        layout.addStretch(1)
        for box in (self._first, self._second):
            box.activated.connect(lambda _: self._picked())
        self._make.clicked.connect(draft.commit)
        cancel.clicked.connect(lambda: workbench.use_tool(""))
        draft.changed.connect(self._show)
        workbench.scene_changed.connect(self._show)
        self._show()

    def _picked(self) -> None:
        first, second = self._first.currentData(), self._second.currentData()
        same = first is not None and second is not None and first.body == second.body
        self._draft.pick(first, second if same else None)

    def _show(self) -> None:
        draft = self._draft
        if not draft.is_active:
            return
        fill_snaps(self._first, self._workbench, draft.first, "pick a place")
        body = draft.first.body if draft.first is not None else ""
        fill_snaps(self._second, self._workbench, draft.second, "no second place", body=body)
        if not draft.off:
            for field in self._fields.values():
                field.show_source("0 mm")
        self._make.setEnabled(draft.at is not None)
        scene = self._workbench.scene
        words = "Pick one or two places on the stage, or choose them here."
        if draft.trouble is not None:
            words = f"{draft.trouble.what} {draft.trouble.remedy}"
        elif draft.at is not None and scene is not None:
            stated = [scene.resolved.units.format(value, LENGTH) for value in draft.at]
            words = f"There, at {stated[0]}, {stated[1]}. Enter marks it."
        self._words.setText(words)
