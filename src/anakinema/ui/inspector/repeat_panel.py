"""Repeat what is selected: manner and numbers, with ghosts of what would come."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from anakinema.ui.fields import QuantityField, label, row
from anakinema.ui.inspector.draft_field import draft_field
from anakinema.ui.inspector.form import FIELD
from anakinema.ui.inspector.snap_box import fill_snaps, snap_box
from anakinema.ui.repeating import RepeatDraft
from anakinema.ui.workbench import Workbench
from anakinema.units import ANGLE, LENGTH, NUMBER, Dimension

WORDS = 150
"""Pixels for the longest manner."""
MANNERS = {
    "row": "in a row",
    "ring": "round a centre",
    "stack": "along the stack",
    "mirror": "mirrored",
    "side": "to the other side",
    "chain": "as a chain",
    "places": "onto places",
}
SHOWN = {
    "row": ("count", "x", "y"),
    "ring": ("count", "angle", "about"),
    "stack": ("count", "lift"),
    "mirror": ("angle", "about"),
    "side": ("lift",),
    "chain": ("count",),
    "places": ("by",),
}


JOINT = Qt.ItemDataRole.UserRole


def _ticks(name: str, words: str) -> QListWidget:
    """A list whose rows can be ticked."""
    found = QListWidget()
    found.setObjectName(name)
    found.setAccessibleName(words)
    return found


def _state(on: bool) -> Qt.CheckState:
    return Qt.CheckState.Checked if on else Qt.CheckState.Unchecked


class RepeatPanel(QWidget):
    """Manner, count, steps; what is left open; Enter makes it."""

    def __init__(self, workbench: Workbench, draft: RepeatDraft) -> None:
        super().__init__()
        self.setObjectName("repeat_panel")
        self._workbench, self._draft = workbench, draft
        self._filling = False
        self._listed: tuple[tuple[str, str], ...] = ()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(3)
        layout.addWidget(label("Repeat", "heading"))
        self._manner = QComboBox()
        self._manner.setObjectName("repeat_manner")
        self._manner.setAccessibleName("manner")
        for key, words in MANNERS.items():
            self._manner.addItem(words, key)
        layout.addWidget(row("Manner", self._manner, width=WORDS))
        self._about = snap_box("repeat_about", "about")
        self._by = snap_box("repeat_by", "joint that the copy comes by")

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
            "by": row("Comes by", self._by, width=FIELD),
        }
        for widget in self._rows.values():
            layout.addWidget(widget)
        self._places_title = label("Onto which places", "section")
        self._places = _ticks("repeat_places", "places to come onto")
        self._joints_title = label("Joined again", "section")
        self._joints = _ticks("repeat_joints", "joints to make again")
        for widget in (self._places_title, self._places, self._joints_title, self._joints):
            layout.addWidget(widget)
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
        self._by.activated.connect(
            lambda _: draft.set_wish(by=str(self._by.currentData()), targets=())
        )
        self._places.itemChanged.connect(lambda _: self._ticked())
        self._joints.itemChanged.connect(lambda _: self._ticked())
        self._make.clicked.connect(draft.commit)
        cancel.clicked.connect(lambda: workbench.use_tool(""))
        draft.changed.connect(self._show)
        workbench.tool_changed.connect(self._fill)
        self._fill()
        self._show()

    def _fill(self) -> None:
        """The places that a ring or a mirror can be about."""
        if self._draft.is_active:
            fill_snaps(self._about, self._workbench, self._about.currentData(), "the origin")

    def _ticked(self) -> None:
        """Something was ticked or unticked, by mouse or by Space."""
        if self._filling:
            return
        joints, places = self._joints, self._places
        without = [
            str(joints.item(k).data(JOINT))
            for k in range(joints.count())
            if joints.item(k).checkState() != Qt.CheckState.Checked
        ]
        ticked = [
            snap
            for k, snap in enumerate(self._draft.offered)
            if k < places.count() and places.item(k).checkState() == Qt.CheckState.Checked
        ]
        self._draft.set_wish(without=frozenset(without), targets=tuple(ticked))

    def _show_joints(self) -> None:
        """Joints to what stays, each to be made again or not; and which the copies come by."""
        draft, wish = self._draft, self._draft.wish
        shown = bool(draft.joints) and wish.manner != "chain"
        for widget in (self._joints_title, self._joints):
            widget.setVisible(shown)
        self._filling = True
        if self._listed != draft.joints:
            self._listed = draft.joints
            for box in (self._joints, self._by):
                box.clear()
            for joint, title in draft.joints:
                item = QListWidgetItem(title, self._joints)
                item.setData(JOINT, joint)
                self._by.addItem(title, joint)
            self._joints.setFixedHeight(8 + 27 * min(6, len(draft.joints)))
        for k, (joint, _) in enumerate(draft.joints):
            self._joints.item(k).setCheckState(_state(joint not in wish.without))
            if joint == wish.by:
                self._by.setCurrentIndex(k)
        self._filling = False

    def _show_places(self) -> None:
        """All places that fit, to be ticked here or clicked on the stage."""
        draft = self._draft
        shown = draft.wish.manner == "places" and bool(draft.joints)
        for widget in (self._places_title, self._places):
            widget.setVisible(shown)
        scene = self._workbench.scene
        if not shown or scene is None:
            return
        self._filling = True
        titles = {body.id: body.title for body in scene.resolved.document.bodies}
        words = [f"{titles[s.body]}: {s.snap.words}" for s in draft.offered]
        if [self._places.item(k).text() for k in range(self._places.count())] != words:
            self._places.clear()
            self._places.addItems(words)
            self._places.setFixedHeight(8 + 27 * min(8, max(1, len(words))))
        for k, snap in enumerate(draft.offered):
            self._places.item(k).setCheckState(_state(draft.is_target(snap)))
        self._filling = False

    def _show(self) -> None:
        draft = self._draft
        shown = SHOWN[draft.wish.manner]
        for name, widget in self._rows.items():
            widget.setVisible(name in shown)
        caption = "Middle lies below" if draft.wish.manner == "side" else "Step in height"
        beside = self._rows["lift"].findChild(QLabel)
        if beside is not None:
            beside.setText(caption)
        self._show_joints()
        self._show_places()
        self._make.setEnabled(draft.found is not None)
        words = draft.trouble
        if draft.found is not None:
            count = len(draft.found.bodies)
            words = f"{count} more {'body' if count == 1 else 'bodies'}."
            if draft.found.open:
                words += f" Left open, no place there: {', '.join(draft.found.open)}."
        self._words.setText(words)
