"""Small input parts: a quantity field that edits live, and label rows."""

from __future__ import annotations

import re
from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from anakinema.errors import AnakinemaError
from anakinema.expressions import parse
from anakinema.ui.guarded import guarded

_LEADING = re.compile(r"^\s*(-?\d+(?:\.\d+)?)(.*)$", re.DOTALL)


@guarded
class QuantityField(QLineEdit):
    """A number with a unit, or an expression. Every sound change goes out at once.

    Up and Down nudge the leading number by its last digit (Shift: ten of them); Enter ends the
    gesture, Esc puts back what it began with.
    """

    changing = Signal(str)
    finished = Signal()
    cancelled = Signal()

    def __init__(self, text: str, name: str) -> None:
        super().__init__(text)
        self.setObjectName(name)
        self.setAccessibleName(name.replace("_", " "))
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._editing = False
        self.textEdited.connect(self._edited)
        self.editingFinished.connect(self._end)

    def show_source(self, text: str) -> None:
        """Show the document's text unless the user is just typing here."""
        if not self._editing and text != self.text():
            self.setText(text)
            self.set_wrong("")

    def set_wrong(self, why: str) -> None:
        """Mark the field as wrong, with the reason as its tip."""
        self.setToolTip(why)
        if bool(why) != bool(self.property("wrong")):
            self.setProperty("wrong", bool(why))
            self.style().unpolish(self)
            self.style().polish(self)

    def _edited(self, text: str) -> None:
        self._editing = True
        if text.strip():
            try:
                parse(text)
            except AnakinemaError as error:
                self.set_wrong(f"{error.what} {error.remedy}")
                return
        self.set_wrong("")
        self.changing.emit(text)

    def _end(self) -> None:
        if self._editing:
            self._editing = False
            self.finished.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            steps = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self._nudge(steps if event.key() == Qt.Key.Key_Up else -steps)
        elif event.key() == Qt.Key.Key_Escape and self._editing:
            self._editing = False
            self.set_wrong("")
            self.cancelled.emit()
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus():
            self._nudge(1 if event.angleDelta().y() > 0 else -1)
            event.accept()
        else:
            event.ignore()

    def _nudge(self, steps: int) -> None:
        match = _LEADING.match(self.text())
        if match is None or self.isReadOnly():
            return
        number, rest = match.groups()
        digits = len(number.partition(".")[2])
        value = float(number) + steps * 10.0**-digits
        self.setText(f"{value:.{digits}f}{rest}")
        self._edited(self.text())


def source_text(source: float | str | None) -> str:
    """A quantity as it is typed: nothing for none, no needless decimals."""
    if source is None:
        return ""
    return source if isinstance(source, str) else f"{source:.10g}"


def choice_box(name: str, words: str) -> QComboBox:
    """A choice that may be narrower than its longest entry."""
    box = QComboBox()
    box.setObjectName(name)
    box.setAccessibleName(words)
    box.setMinimumContentsLength(8)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    return box


def fill_choice(box: QComboBox, entries: tuple[tuple[str, str], ...], index: int) -> None:
    """Offer entries (key, words), keeping what was chosen."""
    chosen = box.currentData()
    box.clear()
    for key, words in entries:
        box.addItem(words, key)
    found = box.findData(chosen)
    box.setCurrentIndex(found if found >= 0 else min(index, len(entries) - 1))


def label(text: str, role: str = "", *, wrap: bool = False) -> QLabel:
    """A label; ``role`` is a style such as 'quiet', 'heading', 'section', 'strong'."""
    result = QLabel(text)
    if role:
        result.setProperty(role, True)
    result.setWordWrap(wrap)
    result.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
    return result


def row(left: str, right: QWidget | str, *, width: int = 118, note: str = "") -> QWidget:
    """A line with a label, and a note under it, on the left; a value or field on the right."""
    widget = QWidget()
    layout = QHBoxLayout(widget)
    layout.setContentsMargins(0, 3, 0, 3)
    layout.setSpacing(8)
    names = QVBoxLayout()
    names.setSpacing(0)
    names.addWidget(label(left, "plain" if note else "quiet", wrap=True))
    if note:
        names.addWidget(label(note, "quiet", wrap=True))
    layout.addLayout(names, 1)
    if isinstance(right, str):
        value = label(right, "strong", wrap=True)
        value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        layout.addWidget(value, 2)
    else:
        right.setFixedWidth(width)
        right.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        layout.addWidget(right)
    return widget


def live_field(
    text: str,
    name: str,
    change: Callable[[str], object],
    finish: Callable[[], None],
    cancel: Callable[[], None],
) -> QuantityField:
    """A quantity field wired to three callbacks; it is marked if ``change`` gives False."""
    field = QuantityField(text, name)

    def changed(typed: str) -> None:
        if change(typed) is False:
            field.set_wrong("This cannot be; the line above the stage says why.")

    field.changing.connect(changed)
    field.finished.connect(finish)
    field.cancelled.connect(cancel)
    return field


def clear(layout: QLayout) -> None:
    """Take all rows out of a layout; they are gone from sight and search at once."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.setParent(None)
            widget.deleteLater()
