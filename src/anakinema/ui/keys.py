"""Keys of the commands: bound to a window, and shown over it.

Letters follow their place on the keyboard, not the words of the commands: the upper row looks, the
middle row builds in the order of the work, the lower row measures and marks.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QGridLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from anakinema.ui.commands import GROUPS, Command
from anakinema.ui.fields import label

PLAIN = ("Space", "Left", "Right", "Home", "Delete")
"""Keys that fields need themselves."""
ROWS = ("QWERT", "ASDFG", "ZXCVB")
"""Letters by their place."""
SAYS = ("look", "build", "measure")
INSIDE = (
    ("Tab", "the next of what lies together under the pointer"),
    ("Enter", "do what is shown"),
    ("Esc", "put it back, leave the tool"),
    ("O", "joining: the other way to assemble"),
    ("P", "joining: the other way round"),
    ("Alt with arrows", "move what is selected; with Shift ten times as far"),
    ("Up, Down", "in a field: nudge its number; with Shift ten times as far"),
)
"""Keys that tools and fields have."""


def bind(commands: Sequence[Command], window: QWidget) -> list[QShortcut]:
    """Let the keys of commands run them, wherever they do not belong to what is typed in."""
    bound = []
    for command in commands:
        if command.shortcut:
            key = QShortcut(QKeySequence(command.shortcut), window)
            key.activated.connect(_runner(command))
            bound.append(key)
    return bound


def _runner(command: Command) -> Callable[[], None]:
    is_letter = len(command.shortcut.removeprefix("Shift+")) == 1
    typing = command.shortcut in PLAIN or is_letter

    def run() -> None:
        focused = QApplication.focusWidget()
        if typing and isinstance(focused, QLineEdit | QPlainTextEdit | QSpinBox):
            return
        if is_letter and isinstance(focused, QComboBox) and focused.view().isVisible():
            return
        if command.shortcut == "Space" and isinstance(focused, QAbstractButton):
            # A key that presses the button in focus must not start the play instead.
            focused.click()
            return
        if command.shortcut == "Space" and isinstance(focused, QListWidget):
            item = focused.currentItem()
            if item is not None and item.data(Qt.ItemDataRole.CheckStateRole) is not None:
                is_on = item.checkState() == Qt.CheckState.Checked
                item.setCheckState(Qt.CheckState.Unchecked if is_on else Qt.CheckState.Checked)
                return
        if command.is_enabled():
            command.run()

    return run


class KeysOverlay(QDialog):
    """All keys at one sight: the letters as they lie, then the rest by groups."""

    def __init__(self, commands: Sequence[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("keys_overlay")
        self.setWindowTitle("Keys")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 18, 14)
        layout.addWidget(label("Keys lie in the order of the work", "heading"))
        by_key = {command.shortcut: command for command in commands if command.shortcut}
        letters = QGridLayout()
        letters.setSpacing(6)
        for row, (keys, says) in enumerate(zip(ROWS, SAYS, strict=True)):
            letters.addWidget(label(says, "quiet"), row, 0)
            for column, key in enumerate(keys):
                letters.addWidget(_cap(key, by_key), row, column + 1)
        layout.addLayout(letters)
        rest = QGridLayout()
        rest.setHorizontalSpacing(16)
        rest.setVerticalSpacing(1)
        shown = [
            (command.shortcut, command.label())
            for group in ("", *GROUPS)
            for command in commands
            if command.group == group
            and command.shortcut
            and command.shortcut.removeprefix("Shift+") not in "".join(ROWS)
        ]
        lines = [*shown, *INSIDE]
        third = -(-len(lines) // 3)
        for k, (key, words) in enumerate(lines):
            rest.addWidget(label(key, "strong"), k % third, 2 * (k // third))
            rest.addWidget(label(words, "quiet"), k % third, 2 * (k // third) + 1)
        layout.addLayout(rest)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        layout.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)


def _cap(key: str, by_key: dict[str, Command]) -> QLabel:
    lines = [key]
    for shortcut, mark in ((key, ""), (f"Shift+{key}", "Shift: ")):
        if shortcut in by_key:
            lines.append(f"{mark}{by_key[shortcut].label()}")
    cap = label("\n".join(lines), "", wrap=True)
    cap.setProperty("cap", True)
    cap.setMinimumSize(132, 52)
    cap.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
    return cap
