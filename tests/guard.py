"""Ends a test that never ends, from outside its process.

Each process that runs tests starts one guard and tells it which test it begins and ends. One that
takes too much processor time, or makes no use of any for very long, is told by name and ended by a
signal on which it prints the stacks of all threads. Time on the clock alone ends nothing that
still works.
"""

from __future__ import annotations

import os
import select
import signal
import subprocess
import sys
import time
from pathlib import Path

MOST_WORK = 900.0
"""Seconds of processor time for a test (a part of a campaign may take it all)."""
MOST_IDLE = 600.0
"""Seconds on the clock in which a test uses less than `SOME` of processor time."""
SOME = 2.0
LOOK = 5.0


class Guard:
    """The end in the process that is guarded."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, str(Path(__file__)), str(os.getpid())],
            stdin=subprocess.PIPE,
            bufsize=0,
        )

    def tell(self, test: str) -> None:
        """A test begins; '' when it has ended."""
        assert self._process.stdin is not None
        self._process.stdin.write(test.encode("utf-8", "replace") + b"\n")

    def close(self) -> None:
        """No more tests."""
        assert self._process.stdin is not None
        self._process.stdin.close()
        self._process.wait()


def work_of(process: int) -> float:
    """Seconds of processor time of a process and the children it has waited for."""
    fields = Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()
    return sum(map(int, fields[11:15])) / os.sysconf("SC_CLK_TCK")


def watch(process: int) -> None:
    """Watch a process until it closes our input."""
    test, begun, mark, since = "", 0.0, 0.0, time.monotonic()
    while True:
        if select.select([sys.stdin], [], [], LOOK)[0]:
            line = os.read(sys.stdin.fileno(), 65536)
            if not line:
                return
            test = line.decode("utf-8", "replace").split("\n")[-2]
            begun = mark = work_of(process)
            since = time.monotonic()
            continue
        if not test:
            continue
        work = work_of(process)
        if work - mark > SOME:
            mark, since = work, time.monotonic()
        if work - begun > MOST_WORK or time.monotonic() - since > MOST_IDLE:
            why = f"{work - begun:.0f} s of work, idle for {time.monotonic() - since:.0f} s"
            print(f"\nENDED FROM OUTSIDE: {test} ({why})", file=sys.stderr, flush=True)
            os.kill(process, signal.SIGABRT)
            time.sleep(LOOK)
            os.kill(process, signal.SIGKILL)
            return


if __name__ == "__main__":
    try:
        watch(int(sys.argv[1]))
    except (ProcessLookupError, FileNotFoundError):
        sys.exit(0)
