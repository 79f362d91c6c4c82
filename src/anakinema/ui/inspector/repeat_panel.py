"""Repeat what is selected: manner and numbers, with ghosts of what would come."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.errors import AnakinemaError
from anakinema.expressions import quantity_in
from anakinema.session import BodySpot, Repeat, RepeatWish, all_spots, repeat
from anakinema.ui.fields import QuantityField, label, row
from anakinema.ui.inspector.form import FIELD
from anakinema.ui.workbench import Selection, Workbench
from anakinema.units import ANGLE, LENGTH, NUMBER, Dimension

MANNERS = {
    "row": "in a row", "ring": "round a centre", "stack": "along the stack",
    "mirror": "mirrored", "chain": "as a chain",
}  # fmt: skip
SHOWN = {
    "row": ("count", "x", "y"), "ring": ("count", "angle", "about"), "stack": ("count", "lift"),
    "mirror": ("angle", "about"), "chain": ("count",),
}  # fmt: skip


class RepeatDraft(QObject):
    """What would be repeated, and how it would come."""

    changed = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self.wish = RepeatWish()
        self.found: Repeat | None = None
        self.trouble = ""
        workbench.tool_changed.connect(self._ask)
        workbench.selection_changed.connect(self._ask)
        workbench.scene_changed.connect(self._ask)

    @property
    def is_active(self) -> bool:
        """Whether the panel is open."""
        return self._workbench.tool == "repeat"

    def set_wish(self, **values: object) -> None:
        """Wish something else."""
        self.wish = replace(self.wish, **values)  # type: ignore[arg-type]
        self._ask()

    def _ask(self) -> None:
        self.found, self.trouble = None, ""
        if self.is_active:
            scene, bodies = self._workbench.rest(), self._workbench.selection.bodies
            if not bodies:
                self.trouble = "Select the bodies to repeat."
            elif scene is not None:
                try:
                    self.found = repeat(scene, bodies, self.wish)
                except AnakinemaError as error:
                    self.trouble = f"{error.what} {error.remedy}"
        self.changed.emit()

    def commit(self) -> bool:
        """Make the copies."""
        if self.found is None:
            return False
        found = self.found
        self._workbench.use_tool("")
        self._workbench.do(found.edit)
        self._workbench.finish_gesture()
        self._workbench.select(Selection("body", found.bodies[0], found.bodies[1:]))
        return True


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
        self._about = QComboBox()
        self._about.setObjectName("repeat_about")
        self._about.setMinimumContentsLength(8)
        self._about.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self._rows = {
            "count": row("How many in all", self._field("count", NUMBER, "2"), width=FIELD),
            "x": row("Step in x", self._field("x", LENGTH, "50 mm"), width=FIELD),
            "y": row("Step in y", self._field("y", LENGTH, "0 mm"), width=FIELD),
            "angle": row("Angle", self._field("angle", ANGLE, "0 deg"), width=FIELD),
            "lift": row("Step in height", self._field("lift", LENGTH, "10 mm"), width=FIELD),
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

    def _field(self, wish: str, dimension: Dimension, text: str) -> QuantityField:
        field = QuantityField(text, f"repeat_{wish}")

        def changed(typed: str) -> None:
            scene = self._workbench.scene
            if scene is None or not typed.strip():
                return
            try:
                value = quantity_in(typed, dimension, scene.resolved.units, scene.resolved.names)
            except AnakinemaError as error:
                field.set_wrong(f"{error.what} {error.remedy}")
                return
            field.set_wrong("")
            self._draft.set_wish(**{wish: round(value) if wish == "count" else value})

        field.changing.connect(changed)
        return field

    def _fill(self) -> None:
        """The places that a ring or a mirror can be about."""
        scene = self._workbench.scene
        if not self._draft.is_active or scene is None:
            return
        chosen = self._about.currentData()
        self._about.clear()
        self._about.addItem("the origin", None)
        titles = {body.id: body.title for body in scene.resolved.document.bodies}
        for spot in all_spots(scene.resolved, scene.poses):
            self._about.addItem(f"{titles[spot.body]}: {spot.spot.words}", spot)
            if isinstance(chosen, BodySpot) and spot == chosen:
                self._about.setCurrentIndex(self._about.count() - 1)

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
