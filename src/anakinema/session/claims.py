"""Who has a file open: a lock in the user's state that dies with its process."""

from __future__ import annotations

import fcntl
import hashlib
import os
from pathlib import Path


class Claim:
    """One session's claim on the file it has open. Without a writable state nobody has any."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._held: tuple[str, int] | None = None

    def take(self, path: Path) -> bool:
        """Claim a file in place of the one before; False if another session has it open."""
        key = _key(path)
        if self._held is not None and self._held[0] == key:
            return True
        self.release()
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            handle = os.open(self._folder / key, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError:
            return True
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(handle)
            return False
        self._held = key, handle
        return True

    def release(self) -> None:
        """Let others have the file."""
        if self._held is not None:
            os.close(self._held[1])
            self._held = None


def _key(path: Path) -> str:
    real = os.fsencode(os.path.realpath(path))
    return f"{hashlib.blake2b(real, digest_size=12).hexdigest()}.open"
