"""One table of commands: it feeds shortcuts, the menu and the command search."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from anakinema.ui.guarded import guarded


@dataclass(frozen=True, slots=True)
class Command:
    """Something the user can ask for. ``label`` may change with the state of the work."""

    id: str
    label: Callable[[], str]
    run: Callable[[], object]
    shortcut: str = ""
    is_enabled: Callable[[], bool] = lambda: True
    in_menu: bool = True


@guarded
class CommandSearch(QDialog):
    """Type a few letters of a command, Enter runs it."""

    def __init__(self, commands: list[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("command_search")
        self.setWindowTitle("Find a command")
        self.setModal(True)
        self.resize(460, 380)
        self._commands = commands
        self._field = QLineEdit()
        self._field.setObjectName("command_field")
        self._field.setPlaceholderText("What do you want to do?")
        self._list = QListWidget()
        self._list.setObjectName("command_list")
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
        wanted = text.lower().split()
        for command in self._commands:
            words = command.label()
            if all(word in words.lower() for word in wanted) and command.is_enabled():
                item = QListWidgetItem(f"{words}    {command.shortcut}".rstrip())
                item.setData(Qt.ItemDataRole.UserRole, command.id)
                self._list.addItem(item)
        self._list.setCurrentRow(0)

    def _run(self) -> None:
        item = self._list.currentItem()
        if item is None:
            return
        chosen = item.data(Qt.ItemDataRole.UserRole)
        self.accept()
        next(command for command in self._commands if command.id == chosen).run()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step and self._list.count():
                self._list.setCurrentRow((self._list.currentRow() + step) % self._list.count())
                return True
        return super().eventFilter(watched, event)
