"""Repeat what is selected: manner and numbers, with ghosts of what would come."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.ui.fields import QuantityField, label, row
from anakinema.ui.inspector.draft_field import draft_field
from anakinema.ui.inspector.form import FIELD
from anakinema.ui.inspector.spot_box import fill_spots, spot_box
from anakinema.ui.repeating import RepeatDraft
from anakinema.ui.workbench import Workbench
from anakinema.units import ANGLE, LENGTH, NUMBER, Dimension

MANNERS = {
    "row": "in a row", "ring": "round a centre", "stack": "along the stack",
    "mirror": "mirrored", "chain": "as a chain",
}  # fmt: skip
SHOWN = {
    "row": ("count", "x", "y"), "ring": ("count", "angle", "about"), "stack": ("count", "lift"),
    "mirror": ("angle", "about"), "chain": ("count",),
}  # fmt: skip


class RepeatPanel(QWidget):
    """Manner, count, steps; what is left open; Enter makes it."""

    def __init__(self, workbench: Workbench, draft: RepeatDraft) -> None:
        super().__init__()
        self.setObjectName("repeat_panel")
        self._workbench, self._draft = workbench, draft
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(3)
        layout.addWidget(label("Repeat", "heading"))
        self._manner = QComboBox()
        self._manner.setObjectName("repeat_manner")
        self._manner.setAccessibleName("manner")
        for key, words in MANNERS.items():
            self._manner.addItem(words, key)
        layout.addWidget(row("Manner", self._manner, width=FIELD))
        self._about = spot_box("repeat_about", "about")

        def field(wish: str, dimension: Dimension, text: str) -> QuantityField:
            def take(value: float, _: str) -> None:
                draft.set_wish(**{wish: round(value) if wish == "count" else value})

            return draft_field(workbench, f"repeat_{wish}", text, dimension, take)

        self._rows = {
            "count": row("How many in all", field("count", NUMBER, "2"), width=FIELD),
            "x": row("Step in x", field("x", LENGTH, "50 mm"), width=FIELD),
            "y": row("Step in y", field("y", LENGTH, "0 mm"), width=FIELD),
            "angle": row("Angle", field("angle", ANGLE, "0 deg"), width=FIELD),
            "lift": row("Step in height", field("lift", LENGTH, "10 mm"), width=FIELD),
            "about": row("About", self._about, width=FIELD),
        }
        for widget in self._rows.values():
            layout.addWidget(widget)
        self._connect = QCheckBox("join where places coincide")
        self._connect.setObjectName("repeat_connect")
        self._connect.setChecked(True)
        layout.addWidget(self._connect)
        self._words = label("", wrap=True)
        self._words.setObjectName("repeat_words")
        layout.addWidget(self._words)
        ends = QHBoxLayout()
        self._make = QPushButton("Repeat")
        self._make.setObjectName("repeat_make")
        cancel = QPushButton("Cancel")
        cancel.setObjectName("repeat_cancel")
        ends.addWidget(self._make)
        ends.addWidget(cancel)
        layout.addLayout(ends)
        layout.addStretch(1)
        self._manner.currentIndexChanged.connect(
            lambda _: draft.set_wish(manner=self._manner.currentData())
        )
        self._about.activated.connect(lambda _: draft.set_wish(about=self._about.currentData()))
        self._connect.toggled.connect(lambda on: draft.set_wish(connect=on))
        self._make.clicked.connect(draft.commit)
        cancel.clicked.connect(lambda: workbench.use_tool(""))
        draft.changed.connect(self._show)
        workbench.tool_changed.connect(self._fill)

    def _fill(self) -> None:
        """The places that a ring or a mirror can be about."""
        if self._draft.is_active:
            fill_spots(self._about, self._workbench, self._about.currentData(), "the origin")

    def _show(self) -> None:
        draft = self._draft
        shown = SHOWN[draft.wish.manner]
        for name, widget in self._rows.items():
            widget.setVisible(name in shown)
        self._connect.setVisible(draft.wish.manner != "chain")
        self._make.setEnabled(draft.found is not None)
        words = draft.trouble
        if draft.found is not None:
            count = len(draft.found.bodies)
            words = f"{count} more {'body' if count == 1 else 'bodies'}."
            if draft.found.open:
                words += f" Left open, no place there: {', '.join(draft.found.open)}."
        self._words.setText(words)
