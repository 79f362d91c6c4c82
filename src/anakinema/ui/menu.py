"""The menu: the commands by groups of at most nine."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QWidget

from anakinema.resources import demo_lines, demo_path
from anakinema.ui.commands import GROUPS, Command


def add_command(menu: QMenu, command: Command) -> None:
    """A line of a menu that runs a command."""
    action = QAction(f"{command.label()}\t{command.shortcut}".rstrip(), menu)
    action.setEnabled(command.is_enabled())
    action.setToolTip(command.tip)
    action.triggered.connect(lambda _=False: command.run())
    menu.addAction(action)


def command_menu(
    commands: Sequence[Command],
    recent: Sequence[str],
    open_path: Callable[[Path], object],
    parent: QWidget,
) -> QMenu:
    """All commands that belong to a group, then recent files and ready mechanisms."""
    menu = QMenu(parent)
    menu.setToolTipsVisible(True)
    for group in GROUPS:
        inner = menu.addMenu(group)
        inner.setToolTipsVisible(True)
        for command in commands:
            if command.group == group:
                add_command(inner, command)
    menu.addSeparator()
    files = menu.addMenu("Recent")
    for item in recent:
        files.addAction(Path(item).name, partial(open_path, Path(item)))
    files.setEnabled(bool(recent))
    ready = menu.addMenu("Ready mechanisms")
    for name, title, line in demo_lines():
        action = ready.addAction(title, partial(open_path, demo_path(name)))
        action.setToolTip(line)
    return menu
