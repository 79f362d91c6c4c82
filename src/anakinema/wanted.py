"""Whether the work under way is still wanted, and what it is: asked from anywhere in the core.

Who starts a long computation says `under_watch` once; what computes says `still_wanted` wherever
it may take long, without having to be handed anything. The watch belongs to its thread.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager


class _Watch(threading.local):
    def __init__(self) -> None:
        self.ask: Callable[[], None] | None = None
        self.tell: Callable[[str], None] | None = None


_watch = _Watch()


def still_wanted() -> None:
    """Raises whatever the watch of this thread raises if the work is not wanted any more."""
    if _watch.ask is not None:
        _watch.ask()


def doing(words: str) -> None:
    """Tell what the work is at: 'following the motion'. Asks whether it is still wanted, too."""
    if _watch.tell is not None:
        _watch.tell(words)
    still_wanted()


@contextmanager
def under_watch(
    ask: Callable[[], None], tell: Callable[[str], None] | None = None
) -> Iterator[None]:
    """Within it `still_wanted` calls ``ask`` and `doing` tells ``tell``, in this thread."""
    before = _watch.ask, _watch.tell
    _watch.ask, _watch.tell = ask, tell
    try:
        yield
    finally:
        _watch.ask, _watch.tell = before


class TooLongError(Exception):
    """Work was given up because it took more than it was allowed."""


@contextmanager
def at_most(seconds: float) -> Iterator[None]:
    """Within it work is also given up (`TooLongError`) after so much processor time of this thread,
    which no other work beside it uses up."""
    ask, until = _watch.ask, time.thread_time() + seconds

    def both() -> None:
        if ask is not None:
            ask()
        if time.thread_time() > until:
            raise TooLongError

    with under_watch(both, _watch.tell):
        yield
