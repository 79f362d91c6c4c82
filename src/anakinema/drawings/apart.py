"""Work on files from strangers in a process of its own, held to a time and a memory.

Libraries that read such files cannot be asked to stop; a process can be ended.
"""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile

from anakinema.wanted import still_wanted

MEMORY = 1_000_000_000
"""Bytes of address space."""
SECONDS = 9
"""Of processor time."""
LOOK = 0.02
"""Seconds between looks whether the answer is still wanted."""


class GaveUpError(Exception):
    """The process was ended by a limit or failed; it says by which in words."""


def run_apart(module: str, argument: str, content: bytes) -> bytes:
    """What ``python -m module argument`` makes of the content given as its input.

    Raises `GaveUpError`, or what the watch of this thread raises (`anakinema.wanted`).
    """
    with tempfile.TemporaryFile() as given, tempfile.TemporaryFile() as made:
        given.write(content)
        given.seek(0)
        process = subprocess.Popen(
            [sys.executable, "-m", module, argument],
            stdin=given,
            stdout=made,
            stderr=subprocess.DEVNULL,
        )
        try:
            while True:
                still_wanted()
                try:
                    status = process.wait(LOOK)
                    break
                except subprocess.TimeoutExpired:
                    continue
        finally:
            if process.poll() is None:
                process.kill()
                process.wait()
        if status:
            raise GaveUpError(f"within {SECONDS} s and {MEMORY // 10**6:,} MB of memory")
        made.seek(0)
        return made.read()


def hold_to_limits() -> None:
    """Hold this process, the one that was started, to the limits."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
