"""Settings for all tests: no monitor, one fixed screen, no thread or window left behind."""

from __future__ import annotations

import json
import os
import shutil
import tempfile
import threading
import time
from collections.abc import Generator, Iterator, Sequence
from pathlib import Path
from typing import TypeVar

_SCREEN = Path(tempfile.mkdtemp(prefix="anakinema-screen-")) / "screen.json"
_SCREEN.write_text(
    json.dumps(
        {
            "screens": [
                {
                    "name": "s",
                    "x": 0,
                    "y": 0,
                    "width": 1920,
                    "height": 1080,
                    "logicalDpi": 96,
                    "logicalBaseDpi": 96,
                    "dpr": 1,
                }
            ]
        }
    )
)
if os.environ.get("QT_QPA_PLATFORM", "offscreen") == "offscreen":
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={_SCREEN}"

import pytest  # noqa: E402
from hypothesis import HealthCheck, settings  # noqa: E402

import anakinema  # noqa: E402, F401  (sets the linear algebra's threads before numpy comes)
from tests.guard import Guard  # noqa: E402

settings.register_profile(
    "house",
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow],
    derandomize=True,
    print_blob=True,
)
settings.load_profile("house")

STILL = 600
"""Looks in a row without work after which a thread is not waited for."""
FULL = os.environ.get("ANAKINEMA_CAMPAIGN") == "full"


def share(full: int, part: int) -> int:
    """How many cases of a campaign to run: all in `make prove`, a fixed part otherwise."""
    return full if FULL else part


Case = TypeVar("Case")


def some(cases: Sequence[Case], every: int) -> Sequence[Case]:
    """Cases of a campaign: all in `make prove`, else each ``every``-th of them."""
    return cases if FULL else cases[::every]


_guard: list[Guard] = []


def pytest_sessionstart(session: pytest.Session) -> None:
    """The process that runs tests is watched; one that only hands them out is not."""
    hands_out = session.config.option.dist != "no" and not hasattr(session.config, "workerinput")
    if not hands_out and not session.config.option.collectonly:
        _guard.append(Guard())


def pytest_sessionfinish() -> None:
    """Nobody is left to watch."""
    while _guard:
        _guard.pop().close()


def pytest_unconfigure() -> None:
    """Leave no file behind."""
    shutil.rmtree(_SCREEN.parent, ignore_errors=True)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Generator[None, object, object]:
    """Tell the guard which test runs."""
    if _guard:
        _guard[0].tell(item.nodeid)
    try:
        return (yield)
    finally:
        if _guard:
            _guard[0].tell("")


@pytest.fixture(autouse=True)
def nothing_left_behind() -> Iterator[None]:
    """A test that leaves one of our threads running fails; one told to stop may still end."""
    before = set(threading.enumerate())
    yield
    ours = ("evaluate", "reach", "journal", "import")
    left = [t for t in threading.enumerate() if t not in before and t.name in ours]
    assert not [t for t in left if not _ends(t)], f"threads left running: {left}"


def _ends(thread: threading.Thread) -> bool:
    """Whether a thread comes to its end; it does not once nothing of this process works."""
    idle = 0
    while thread.is_alive() and idle < STILL:
        before = time.process_time()
        thread.join(0.05)
        idle = 0 if time.process_time() - before > 0.002 else idle + 1
    return not thread.is_alive()
