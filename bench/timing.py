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


def duel(
    ours: Callable[[], object], peer: Callable[[], object], rounds: int = 5
) -> tuple[float, float, float]:
    """Median ms of ours and of the peer, run in turns, and the median of peer over ours.

    In turns, because a machine that changes its pace would else favour one of them.
    """
    pairs = [(median_ms(ours, 1)[0], median_ms(peer, 1)[0]) for _ in range(rounds)]
    return (
        statistics.median(a for a, _ in pairs),
        statistics.median(b for _, b in pairs),
        statistics.median(b / a for a, b in pairs),
    )
