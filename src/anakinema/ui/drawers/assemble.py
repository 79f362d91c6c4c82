"""The Assemble drawer, as far as it goes today: what there is, and what is free or held."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from anakinema.session import Outcome, mobility_words
from anakinema.ui.fields import label
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Selection, Workbench

MARKS = {Outcome.PASS: "•", Outcome.WARN: "◆", Outcome.FAIL: "▲", Outcome.UNKNOWN: "○"}
KINDS = {
    "rigid": "rigid", "revolute": "revolute", "prismatic": "prismatic",
    "pin_in_slot": "pin in slot",
}  # fmt: skip


class AssembleDrawer(QWidget):
    """Bodies, joints, and the mobility in words."""

    def __init__(self, workbench: Workbench, theme: Theme) -> None:
        super().__init__()
        self._workbench, self._theme = workbench, theme
        self._bodies = self._list("body_list", "bodies")
        self._joints = self._list("joint_list", "joints")
        self._words = label("", wrap=True)
        self._words.setObjectName("mobility")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 12, 10)
        layout.setSpacing(6)
        layout.addWidget(label("What moves", "section"))
        layout.addWidget(self._words)
        layout.addSpacing(4)
        layout.addWidget(label("Bodies", "section"))
        layout.addWidget(self._bodies, 3)
        layout.addWidget(label("Joints", "section"))
        layout.addWidget(self._joints, 3)
        self._bodies.itemActivated.connect(lambda item: self._choose("body", item))
        self._bodies.itemClicked.connect(lambda item: self._choose("body", item))
        self._joints.itemActivated.connect(lambda item: self._choose("joint", item))
        self._joints.itemClicked.connect(lambda item: self._choose("joint", item))
        workbench.document_changed.connect(self._show_lists)
        workbench.evaluated.connect(self._show_words)
        workbench.selection_changed.connect(self._show_selection)
        self._show_lists()
        self._show_words()

    def _list(self, name: str, words: str) -> QListWidget:
        widget = QListWidget()
        widget.setObjectName(name)
        widget.setAccessibleName(words)
        widget.setIconSize(QSize(14, 14))
        widget.setMinimumHeight(110)
        widget.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return widget

    def _choose(self, kind: str, item: QListWidgetItem) -> None:
        self._workbench.select(Selection(kind, str(item.data(Qt.ItemDataRole.UserRole))))

    def _chip(self, colour: str) -> QIcon:
        pixmap = QPixmap(28, 28)
        pixmap.setDevicePixelRatio(2.0)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(QColor(self._theme.bodies[colour]))
        painter.setPen(QColor(self._theme.shade))
        painter.drawRoundedRect(1, 1, 12, 12, 3, 3)
        painter.end()
        chip = QIcon(pixmap)
        chip.addPixmap(pixmap, QIcon.Mode.Selected)
        return chip

    def _show_lists(self) -> None:
        document = self._workbench.session.document
        for widget, items in (
            (self._bodies, [(b.id, f"{b.title}{', fixed' if b.fixed else ''}",
                             document.part(b.part).colour) for b in document.bodies]),
            (self._joints, [(j.id, f"{j.title}  ({KINDS[j.kind]})", None)
                            for j in document.joints]),
        ):  # fmt: skip
            shown = [(widget.item(i).data(Qt.ItemDataRole.UserRole), widget.item(i).text())
                     for i in range(widget.count())]  # fmt: skip
            if shown == [(i, words) for i, words, _ in items]:
                continue
            widget.clear()
            for item_id, words, colour in items:
                item = QListWidgetItem(words)
                item.setData(Qt.ItemDataRole.UserRole, item_id)
                if colour is not None:
                    item.setIcon(self._chip(colour))
                widget.addItem(item)

    def _show_words(self) -> None:
        evaluation = self._workbench.evaluation
        rows = mobility_words(evaluation) if evaluation is not None else []
        self._words.setText("\n".join(f"{MARKS[outcome]} {words}" for outcome, words in rows))

    def _show_selection(self) -> None:
        selection = self._workbench.selection
        for kind, widget in (("body", self._bodies), ("joint", self._joints)):
            widget.clearSelection()
            for i in range(widget.count()):
                item = widget.item(i)
                if selection == Selection(kind, str(item.data(Qt.ItemDataRole.UserRole))):
                    widget.setCurrentItem(item)
