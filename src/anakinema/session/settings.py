"""What is remembered between sessions: recent files and the theme. Never part of a document."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path

from anakinema.errors import FileFormatError
from anakinema.files.native import write_text

MOST_RECENT = 8


@dataclass(frozen=True)
class Settings:
    """Remembered settings; unreadable ones are forgotten without a word."""

    theme: str = "light"
    recent: tuple[str, ...] = field(default_factory=tuple)

    def with_recent(self, path: Path) -> Settings:
        """The same with a file moved to the front of the recent ones."""
        name = str(path.resolve())
        others = tuple(item for item in self.recent if item != name)
        return replace(self, recent=(name, *others)[:MOST_RECENT])

    @staticmethod
    def load(folder: Path) -> Settings:
        """Read from a folder, defaults where there is nothing sound."""
        try:
            data = json.loads((folder / "settings.json").read_text("utf-8"))
            recent = tuple(str(item) for item in data["recent"])[:MOST_RECENT]
            theme = "dark" if data["theme"] == "dark" else "light"
        except (OSError, ValueError, KeyError, TypeError):
            return Settings()
        return Settings(theme, recent)

    def save(self, folder: Path) -> None:
        """Write to a folder; a folder that cannot be written only means nothing is kept."""
        try:
            folder.mkdir(parents=True, exist_ok=True)
            write_text(json.dumps(asdict(self), indent=1), folder / "settings.json")
        except (OSError, FileFormatError):
            return
