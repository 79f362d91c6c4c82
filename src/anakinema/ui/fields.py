"""Small input parts: a quantity field that edits live, and label rows."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable

from PySide6.QtCore import QSize, QStringListModel, Qt, QTimer, Signal
from PySide6.QtGui import QFocusEvent, QHideEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
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
from anakinema.ui.reason import Reason

_LEADING = re.compile(r"^\s*(-?\d+(?:\.\d+)?)(.*)$", re.DOTALL)
_PLAIN = re.compile(r"^\s*(-?\d+\.\d+)(\s*[A-Za-z°]*)\s*$")
_NAME = re.compile(r"[A-Za-z_][A-Za-z0-9_.]*$")
DECIMALS = 3
"""Decimals of a plain number that is not being edited."""
SHOWN_FOR = 6000
"""ms that a reason stays after the last good value has returned."""
PIXELS = 5
"""Pixels of a drag that change a number by one step."""


def significant(text: str) -> str:
    """A plain number with its unit to at most three decimals; anything else as it is."""
    match = _PLAIN.match(text)
    if match is None:
        return text
    number, unit = match.groups()
    if len(number.partition(".")[2]) <= DECIMALS:
        return text
    short = f"{float(number):.{DECIMALS}f}".rstrip("0").rstrip(".")
    return f"{short if float(short) or not float(number) else number}{unit}"


NUMBER = "number"
"""Property of a field of a named number: ``part.dimension``, or ``.parameter``."""


@guarded
class QuantityField(QLineEdit):
    """A number with a unit, or an expression. Every sound change goes out at once.

    Up and Down nudge the leading number by its last digit (Shift: ten of them), and so does the
    wheel, or a drag across a field that is not being typed in. While nobody types it shows what is
    significant; the whole text stands there as soon as it is entered. Enter ends the gesture and
    gives the keys back to the stage, Esc puts back what it began with. A value that is refused says
    why below, and leaving it brings the last good one back.
    """

    changing = Signal(str)
    finished = Signal()
    cancelled = Signal()

    def __init__(self, text: str, name: str) -> None:
        super().__init__(significant(text))
        self.setObjectName(name)
        self.setAccessibleName(name.replace("_", " "))
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setCursorPosition(0)
        self._whole = self._before = text
        self._editing = False
        self._reason: Reason | None = None
        self._dragged: tuple[float, int] | None = None
        self._entered = False
        self._names: Callable[[], Iterable[str]] | None = None
        self._completer: QCompleter | None = None
        self.textEdited.connect(self._edited)
        self.editingFinished.connect(self._end)

    @property
    def whole(self) -> str:
        """All of what it holds, whatever of it is shown."""
        return self.text() if self.hasFocus() or self._editing else self._whole

    def setText(self, text: str | None) -> None:
        """Hold a text; what is significant of it is shown while nobody types here."""
        self._whole = text or ""
        super().setText(self._whole if self.hasFocus() else significant(self._whole))
        if not self.hasFocus():
            self.setCursorPosition(0)

    def complete_from(self, names: Callable[[], Iterable[str]]) -> None:
        """Offer names while an expression is typed."""
        self._names = names

    def show_source(self, text: str) -> None:
        """Show the document's text unless the user is just typing here."""
        if self._editing:
            return
        before = self.text()
        self.setText(text)
        if self.text() != before:
            self.setCursorPosition(0)
            self.set_wrong("")

    def set_wrong(self, why: str) -> None:
        """Mark the field as wrong, with the reason below it and as its tip."""
        self.setToolTip(why)
        self.setAccessibleDescription(why)
        if why and self._reason is None:
            self._reason = Reason(self)
        if self._reason is not None:
            self._reason.say(why if self.hasFocus() else "")
        if bool(why) != bool(self.property("wrong")):
            self.setProperty("wrong", bool(why))
            self.style().unpolish(self)
            self.style().polish(self)

    def _edited(self, text: str) -> None:
        if not self._editing:
            self._before = self._whole
        self._editing = True
        self._offer(text)
        if text.strip():
            try:
                parse(text)
            except AnakinemaError as error:
                self.set_wrong(f"{error.what} {error.remedy}")
                return
        self.set_wrong("")
        self.changing.emit(text)

    def _end(self) -> None:
        if not self._editing:
            return
        why = self.toolTip() if self.property("wrong") else ""
        self._editing = False
        if not why:
            self._whole = self.text()
            self.finished.emit()
            return
        # What is refused never stays: all is as it was before it was typed, the reason for a while.
        self.cancelled.emit()
        self.setText(self._before)
        self.set_wrong("")
        self._tell(why)

    def refuse(self, why: str) -> None:
        """The last good value is back already; say for a while why the other is not."""
        self._tell(why)

    def _tell(self, why: str) -> None:
        if self._reason is None:
            self._reason = Reason(self)
        if why:
            self._reason.say(why)
            QTimer.singleShot(SHOWN_FOR, self, lambda: self._forget(why))

    def _forget(self, why: str) -> None:
        if self._reason is not None and self._reason.text() == why and not self.property("wrong"):
            self._reason.say("")

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        # The press that brings the focus comes after it.
        self._entered = event.reason() is Qt.FocusReason.MouseFocusReason
        if not self._editing and self.text() != self._whole:
            super().setText(self._whole)
            self.selectAll()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if not self._editing:
            super().setText(significant(self._whole))
            self.setCursorPosition(0)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        if self._reason is not None:
            self._reason.say("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        popup = self._completer.popup() if self._completer is not None else None
        if popup is not None and popup.isVisible() and event.key() in _TAKES:
            event.ignore()
            return
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            steps = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self._nudge(steps if event.key() == Qt.Key.Key_Up else -steps)
        elif event.key() == Qt.Key.Key_Escape and self._editing:
            self._editing = False
            self.set_wrong("")
            self.cancelled.emit()
        else:
            is_enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            super().keyPressEvent(event)
            if is_enter:
                self._give_back()

    def _give_back(self) -> None:
        """The keys belong to the stage again, if there is one on show."""
        stage = self.window().findChild(QWidget, "stage")
        if stage is not None and stage.isVisible():
            stage.setFocus()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus():
            self._nudge(1 if event.angleDelta().y() > 0 else -1)
            event.accept()
        else:
            event.ignore()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._entered and event.button() == Qt.MouseButton.LeftButton:
            self._dragged = event.position().x(), 0
        self._entered = False
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is None:
            super().mouseMoveEvent(event)
            return
        begun, done = self._dragged
        steps = int((event.position().x() - begun) / PIXELS)
        if steps != done:
            self._nudge(steps - done)
            self._dragged = begun, steps

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None and self._dragged[1]:
            self._end()
        self._dragged = None
        super().mouseReleaseEvent(event)

    def _nudge(self, steps: int) -> None:
        match = _LEADING.match(self.whole)
        if match is None or self.isReadOnly():
            return
        number, rest = match.groups()
        digits = len(number.partition(".")[2])
        value = float(number) + steps * 10.0**-digits
        super().setText(f"{value:.{digits}f}{rest}")
        self._edited(self.text())

    # Names -----------------------------------------------------------------------------------

    def _offer(self, text: str) -> None:
        """Names that begin as what stands before the cursor does."""
        begun = _NAME.search(text[: self.cursorPosition()])
        known = sorted(self._names()) if self._names is not None and begun is not None else []
        fitting = [
            n for n in known if begun is not None and n.startswith(begun[0]) and n != begun[0]
        ]
        if not fitting or begun is None:
            if self._completer is not None:
                popup = self._completer.popup()
                if popup is not None:
                    popup.hide()
            return
        if self._completer is None:
            self._completer = QCompleter(self)
            self._completer.setWidget(self)
            self._completer.activated.connect(self._take_name)
        self._completer.setModel(QStringListModel(fitting, self._completer))
        self._completer.complete()

    def _take_name(self, name: str) -> None:
        at = self.cursorPosition()
        begun = _NAME.search(self.text()[:at])
        start = at if begun is None else begun.start()
        super().setText(self.text()[:start] + name + self.text()[at:])
        self.setCursorPosition(start + len(name))
        self._edited(self.text())


_TAKES = (
    Qt.Key.Key_Return,
    Qt.Key.Key_Enter,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Tab,
    Qt.Key.Key_Escape,
)
"""Keys that belong to the names on offer."""


@guarded
class WordBox(QComboBox):
    """A choice that is as wide as what is chosen, so that the line reads as a sentence."""

    def sizeHint(self) -> QSize:
        self.ensurePolished()
        words = self.fontMetrics().horizontalAdvance(self.currentText())
        return QSize(words + 36, super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(54, super().minimumSizeHint().height())


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


def in_lines(words: str, widget: QWidget, width: int) -> str:
    """Words broken between each other into lines of at most ``width`` pixels, for a button."""
    metrics = widget.fontMetrics()
    lines: list[str] = []
    for word in words.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and metrics.horizontalAdvance(longer) <= width:
            lines[-1] = longer
        else:
            lines.append(word)
    return "\n".join(lines)


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
