"""What there is before any document is open: settings, colours, and where mistakes are told."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from anakinema.settings import TEXT_SIZES, Settings
from anakinema.ui.theme import THEMES, Theme


class Desk(QObject):
    """Holds the settings of a state folder; everything on the screen hears of other colours."""

    theme_changed = Signal()
    broke = Signal(object)
    """A mistake of the program's own, from any thread; `anakinema.ui.faults` tells of it."""

    def __init__(self, folder: Path) -> None:
        super().__init__()
        self.folder = folder
        self.settings = Settings.load(folder)

    @property
    def theme(self) -> Theme:
        """The colours that everything is drawn in."""
        return THEMES[self.settings.theme]

    def switch_theme(self) -> None:
        """Light or dark, remembered."""
        self.change_settings(theme="dark" if self.settings.theme == "light" else "light")
        self.theme_changed.emit()

    def switch_still(self) -> None:
        """Let small pictures move, or not; remembered."""
        self.change_settings(still=not self.settings.still)

    def scale_text(self, steps: int) -> None:
        """All words larger or smaller by a step, from 100 to 200 per cent, remembered."""
        now = TEXT_SIZES.index(self.settings.text)
        self.change_settings(text=TEXT_SIZES[min(max(now + steps, 0), len(TEXT_SIZES) - 1)])
        self.theme_changed.emit()

    def change_settings(self, **values: object) -> None:
        """Other settings, remembered."""
        self._change(lambda now: replace(now, **values))  # type: ignore[arg-type]

    def remember(self, path: Path) -> None:
        """Put a file among the recent ones."""
        self._change(lambda now: now.with_recent(path))

    def _change(self, change: Callable[[Settings], Settings]) -> None:
        self.settings = Settings.changed_in(self.folder, change)
