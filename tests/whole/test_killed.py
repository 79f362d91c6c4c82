"""The process is killed at any moment while editing: at most the last command is lost."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from anakinema.session import left_behind
from tests.conftest import share

EDITING = """
import sys
from pathlib import Path
from anakinema.edits.values import SetParameter
from anakinema.files.native import read_document
from anakinema.resources import demo_path
from anakinema.session.session import Session

session = Session(Path(sys.argv[1]))
session.start(read_document(demo_path("tray-shuttle")))
for k in range(100000):
    session.do(SetParameter("rod", f"{k} mm"))
    session.finish_gesture()
    session.wait_kept(60)
    print(k, flush=True)
"""


@pytest.mark.campaign
def test_killed_while_editing(tmp_path: Path) -> None:
    count = share(50, 3)
    random.seed(7)
    lost = 0
    for run in range(count):
        folder = tmp_path / f"run{run}"
        stated = tmp_path / f"stated{run}"
        with stated.open("wb") as out:
            process = subprocess.Popen([sys.executable, "-c", EDITING, str(folder)], stdout=out)
        deadline = time.monotonic() + 60
        while not stated.stat().st_size and time.monotonic() < deadline:
            time.sleep(0.005)
        time.sleep(random.uniform(0.0, 0.2))
        os.kill(process.pid, signal.SIGKILL)
        process.wait()
        # Only lines that were written whole were surely shown.
        shown = [int(line) for line in stated.read_text().split("\n")[:-1]]
        (found,) = left_behind(folder / "recovery")
        assert found.trouble in ("", "its last record was cut short")
        document = found.moment.past.document
        (rod,) = (p.value for p in document.parameters if p.id == "rod")
        kept = int(str(rod).split()[0])
        assert kept - shown[-1] in (0, 1)
        lost += kept < shown[-1]
    assert lost == 0
    print(f"\nkilled while editing: {count} times, nothing that was shown is lost")


def test_stopped_from_the_terminal_it_ends_quietly(tmp_path: Path) -> None:
    """Ctrl+C where the window was opened from, which may find the program anywhere."""
    state = tmp_path / "state"
    process = subprocess.Popen(
        [sys.executable, "-m", "anakinema", "open", "--demo", "tray-shuttle"],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen", "ANAKINEMA_STATE": str(state)},
        stderr=subprocess.PIPE,
        text=True,
    )
    while not list(state.glob("recovery/*.journal")) and process.poll() is None:
        time.sleep(0.02)
    process.send_signal(signal.SIGINT)
    _, said = process.communicate(timeout=120)
    assert process.returncode == -signal.SIGINT and said == ""
