"""One table of commands: it feeds shortcuts, the menu and the command search."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from anakinema.ui.guarded import guarded

GROUPS = ("File", "Edit", "Make", "Relate", "Look", "Move", "Subassembly", "Help")
"""Groups of the menu, in its order; what belongs to none is found by search only."""
NEAR = 0.55
"""Likeness from which on a command is offered although no word fits."""


@dataclass(frozen=True, slots=True)
class Command:
    """Something the user can ask for. ``label`` may change with the state of the work.

    tip : what it does and when one needs it. also : other words that one may search it by.
    """

    id: str
    label: Callable[[], str]
    run: Callable[[], object]
    shortcut: str = ""
    is_enabled: Callable[[], bool] = lambda: True
    group: str = ""
    tip: str = ""
    also: str = ""

    @property
    def key_words(self) -> str:
        """Its key, short."""
        return self.shortcut.replace("Ctrl+", "^")


def found(commands: Sequence[Command], text: str) -> tuple[list[Command], bool]:
    """Commands that fit what was typed, the best first; True behind them if none fits and these
    are only the nearest."""
    wanted = text.lower().split()
    scored = []
    for order, command in enumerate(commands):
        words, also = command.label().lower(), f"{command.also} {command.tip}".lower()
        if all(word in words for word in wanted):
            scored.append((0 if not wanted or words.startswith(wanted[0]) else 1, order, command))
        elif all(word in words or word in also for word in wanted):
            scored.append((2, order, command))
    if scored or not wanted:
        return [command for _, _, command in sorted(scored, key=lambda each: each[:2])], False
    likeness = [
        (max(_like(word, each) for word in wanted for each in _words(command)), command)
        for command in commands
    ]
    near = sorted((each for each in likeness if each[0] >= NEAR), key=lambda each: -each[0])
    return [command for _, command in near[:5]], True


def _words(command: Command) -> list[str]:
    return f"{command.label()} {command.also}".lower().split()


def _like(one: str, other: str) -> float:
    return SequenceMatcher(None, one, other).ratio()


@guarded
class CommandSearch(QDialog):
    """Type a few letters of a command, a body, a joint, a page of the guide; Enter goes there."""

    def __init__(self, commands: Sequence[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("command_search")
        self.setWindowTitle("Find")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setModal(True)
        self.resize(520, 420)
        self._commands = {command.id: command for command in commands if command.is_enabled()}
        self._field = QLineEdit()
        self._field.setObjectName("command_field")
        self._field.setAccessibleName("what to find")
        self._field.setPlaceholderText("A command, a body, a joint, a check, a page of the guide")
        self._list = QListWidget()
        self._list.setObjectName("command_list")
        self._list.setAccessibleName("what was found")
        layout = QVBoxLayout(self)
        layout.addWidget(self._field)
        layout.addWidget(self._list)
        self._field.textChanged.connect(self._filter)
        self._field.returnPressed.connect(self._run)
        self._list.itemClicked.connect(lambda _: self._run())
        self._field.installEventFilter(self)
        self._filter("")

    def _filter(self, text: str) -> None:
        self._list.clear()
        fitting, only_near = found(list(self._commands.values()), text)
        if only_near:
            words = "Nothing fits; the nearest:" if fitting else "Nothing fits."
            note = QListWidgetItem(words)
            note.setFlags(Qt.ItemFlag.NoItemFlags)
            self._list.addItem(note)
        for command in fitting:
            item = QListWidgetItem(f"{command.label()}    {command.shortcut}".rstrip())
            item.setData(Qt.ItemDataRole.UserRole, command.id)
            item.setToolTip(command.tip)
            self._list.addItem(item)
        self._list.setCurrentRow(1 if only_near and fitting else 0)

    def _run(self) -> None:
        item = self._list.currentItem()
        chosen = None if item is None else item.data(Qt.ItemDataRole.UserRole)
        if chosen is None or not self.isVisible():
            return
        self.accept()
        # Once this dialog is gone: a command may open another one, and what is closed must not be
        # destroyed within the key that it is still handling.
        QTimer.singleShot(0, self._commands[chosen].run)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step and self._list.count():
                self._list.setCurrentRow((self._list.currentRow() + step) % self._list.count())
                return True
        return super().eventFilter(watched, event)
