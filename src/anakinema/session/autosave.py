"""Recovery: every edit is on disk before its result is shown, and offered after a crash."""

from __future__ import annotations

import json
import os
from dataclasses import dataclass
from pathlib import Path

from anakinema.document.model import Document
from anakinema.errors import AnakinemaError
from anakinema.files.native import document_text, parse_document


@dataclass(frozen=True, slots=True)
class Recovered:
    """Unsaved work that a session which ended badly left behind."""

    document: Document
    path: Path | None
    file: Path


class Autosave:
    """Keeps one recovery file for one open document, in a folder of the user's state."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._file = folder / f"{os.getpid()}-{id(self):x}.recovery"

    def keep(self, document: Document, path: Path | None) -> None:
        """Write the present document; a full disk must not stop the work."""
        head = json.dumps({"path": str(path) if path else None})
        part = self._file.with_suffix(".part")
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            part.write_text(f"{head}\n{document_text(document)}", "utf-8")
            os.replace(part, self._file)
        except OSError:
            return

    def forget(self) -> None:
        """Nothing is unsaved any more."""
        self._file.unlink(missing_ok=True)


def left_behind(folder: Path) -> list[Recovered]:
    """Recovery files whose session is no longer running; unreadable ones are removed."""
    found = []
    for file in sorted(folder.glob("*.recovery")) if folder.is_dir() else []:
        owner = file.stem.partition("-")[0]
        if owner.isdigit() and _runs(int(owner)):
            continue
        try:
            head, _, text = file.read_text("utf-8").partition("\n")
            path = json.loads(head)["path"]
            document = parse_document(text.encode(), file.name)
        except (OSError, ValueError, KeyError, TypeError, AnakinemaError):
            file.unlink(missing_ok=True)
            continue
        found.append(Recovered(document, Path(path) if path else None, file))
    return found


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
