"""Files written so that none is ever half there: beside the old one, then in its place."""

from __future__ import annotations

import contextlib
import errno
import os
import stat
import uuid
from collections.abc import Callable
from pathlib import Path

from anakinema.bounded import reason
from anakinema.errors import FileFormatError


def write_text(text: str, path: Path) -> None:
    """Write text atomically; raises `FileFormatError` with the place."""
    write_bytes(text.encode(), path)


def write_bytes(content: bytes, path: Path) -> None:
    """Write a whole file atomically; raises `FileFormatError` with the place."""
    write_checked(content, path, lambda _: None)


def write_checked(content: bytes, path: Path, read_back: Callable[[bytes], None]) -> None:
    """Write a whole file atomically once ``read_back`` has found nothing amiss with its bytes.

    Raises `FileFormatError` with the place, and what ``read_back`` raises; the old file then stays.
    """
    temporary = ""
    try:
        # What a link points to is replaced, not the link.
        real = Path(os.path.realpath(path))
        old = real.stat() if real.exists() else None
        if old is not None and not stat.S_ISREG(old.st_mode):
            raise OSError(errno.EINVAL, "it is no ordinary file")
        if old is not None and not os.access(real, os.W_OK):
            raise OSError(errno.EACCES, "it is protected against writing")
        beside = real.parent / f".{real.name[:80]}.{uuid.uuid4().hex[:8]}"
        handle = os.open(beside, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
        temporary = str(beside)
        with os.fdopen(handle, "w+b") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
            file.seek(0)
            if file.read() != content:
                raise OSError(errno.EIO, "what was written reads back otherwise")
            if old is not None:
                _take_over_rights(file.fileno(), old)
        read_back(content)
        os.replace(temporary, real)
        temporary = ""
        folder = os.open(real.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except (OSError, ValueError) as error:
        if isinstance(error, FileFormatError):
            raise
        raise FileFormatError(
            f"it cannot be written: {reason(error)}.",
            where=f"file {path}",
            remedy="Save under another name or folder.",
        ) from error
    finally:
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)


def _take_over_rights(handle: int, old: os.stat_result) -> None:
    """Give a file the rights and, if that may be, the owner of the one it replaces."""
    with contextlib.suppress(OSError):
        os.fchown(handle, old.st_uid, old.st_gid)
    os.fchmod(handle, stat.S_IMODE(old.st_mode))
