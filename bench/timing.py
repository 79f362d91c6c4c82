"""Median and spread of repeated runs."""

from __future__ import annotations

import gc
import statistics
import time
from collections.abc import Callable


def median_ms(run: Callable[[], object], times: int = 7) -> tuple[float, float]:
    """Median and half the spread (ms) of ``times`` runs after one to warm up.

    The garbage collector rests meanwhile, for us and for the peer, as it does under timeit.
    """
    run()
    taken = []
    gc.collect()
    gc.disable()
    try:
        for _ in range(times):
            begin = time.perf_counter()
            run()
            taken.append(1000.0 * (time.perf_counter() - begin))
    finally:
        gc.enable()
    return statistics.median(taken), (max(taken) - min(taken)) / 2.0
