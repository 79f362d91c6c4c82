"""What is remembered between sessions: recent files and the theme. Never part of a document."""

from __future__ import annotations

import fcntl
import json
import os
from collections.abc import Callable
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path

from anakinema.bounded import read_regular
from anakinema.errors import FileFormatError
from anakinema.writing import write_text

MOST_RECENT = 8
MOST_BYTES = 100_000
LONGEST_NAME = 4000
FILE = "settings.json"
TEXT_SIZES = (100, 125, 150, 175, 200)
"""Per cent."""


@dataclass(frozen=True)
class Settings:
    """Remembered settings; unreadable ones are forgotten without a word."""

    theme: str = "light"
    recent: tuple[str, ...] = field(default_factory=tuple)
    still: bool = False
    """Nothing moves that need not."""
    text: int = 100
    """Per cent of the usual size of words."""

    def with_recent(self, path: Path) -> Settings:
        """The same with a file moved to the front of the recent ones."""
        name = str(path.resolve())
        others = tuple(item for item in self.recent if item != name)
        return replace(self, recent=(name, *others)[:MOST_RECENT])

    @staticmethod
    def load(folder: Path) -> Settings:
        """Read from a folder, defaults where there is nothing sound."""
        try:
            data = json.loads(read_regular(folder / FILE, MOST_BYTES, ""))
            recent = [str(item) for item in data["recent"] if _is_name(item)]
            theme = "dark" if data["theme"] == "dark" else "light"
            still = data.get("still") is True
            text = data.get("text", 100)
            text = text if text in TEXT_SIZES else 100
        except (FileFormatError, ValueError, KeyError, TypeError, RecursionError):
            return Settings()
        return Settings(theme, tuple(recent[:MOST_RECENT]), still, text)

    @staticmethod
    def changed_in(folder: Path, change: Callable[[Settings], Settings]) -> Settings:
        """The settings in a folder after a change, written back.

        Other windows' changes stay: what is changed is what lies there now, under a lock. A folder
        that cannot be written only means that nothing is kept.
        """
        try:
            folder.mkdir(parents=True, exist_ok=True)
            lock = os.open(folder / f"{FILE}.lock", os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError:
            return change(Settings.load(folder))
        try:
            fcntl.flock(lock, fcntl.LOCK_EX)
            settings = change(Settings.load(folder))
            write_text(json.dumps(asdict(settings), indent=1), folder / FILE)
        except (OSError, FileFormatError):
            settings = change(Settings.load(folder))
        finally:
            os.close(lock)
        return settings


def _is_name(item: object) -> bool:
    """Whether it could be the name of a file at all."""
    return isinstance(item, str) and item.isprintable() and 0 < len(item) < LONGEST_NAME
