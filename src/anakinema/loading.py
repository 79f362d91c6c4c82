"""Loading modules without the collector walking what they make."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def loading() -> Iterator[None]:
    """Around imports: what modules make when they load stays for good, so nothing is collected.

    A tenth of the time to a usable window went into walking it again and again.
    """
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        if was_on:
            gc.enable()
