"""Bounds of what is read: only regular files, never more than was agreed."""

from __future__ import annotations

import os
import stat
from pathlib import Path

from anakinema.errors import FileFormatError

MOST_ITEMS = 2000
"""Entries of any list of a file, corners of an outline."""


def read_regular(path: Path, most: int, remedy: str) -> bytes:
    """The bytes of a regular file of at most ``most`` bytes.

    Raises `FileFormatError`, also for devices, pipes and folders, which are never waited for;
    ``remedy`` is the advice where the file is too large.
    """
    where = f"file {path.name}"
    try:
        # A pipe without a writer would keep an ordinary open waiting for ever.
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except (OSError, ValueError) as error:
        raise FileFormatError(
            f"{reason(error)}.", where=where, remedy="Check the name and the folder."
        ) from error
    try:
        stated = os.fstat(handle)
        if not stat.S_ISREG(stated.st_mode):
            kind = "directory" if stat.S_ISDIR(stated.st_mode) else "device or a pipe"
            raise FileFormatError(
                f"it is a {kind}, not a file.", where=where, remedy="Choose a file."
            )
        content = b""
        # It may grow while it is read, so its size alone is not believed.
        while stated.st_size <= most and len(content) <= most:
            more = os.read(handle, most + 1 - len(content))
            if not more:
                break
            content += more
    except OSError as error:
        raise FileFormatError(
            f"{reason(error)}.", where=where, remedy="Check the name and the folder."
        ) from error
    finally:
        os.close(handle)
    size = max(stated.st_size, len(content))
    if size > most:
        raise FileFormatError(
            f"it is {size / 1e6:.0f} MB, more than the {most / 1e6:.0f} MB it may be.",
            where=where,
            remedy=remedy,
        )
    return content


def reason(error: OSError | ValueError) -> str:
    """Why a file cannot be opened, as the start of a sentence."""
    if isinstance(error, OSError) and error.strerror:
        return error.strerror.lower()
    return "its name cannot be that of a file"
