"""Median and spread of repeated runs."""

from __future__ import annotations

import gc
import math
import statistics
import time
from collections.abc import Callable

import numpy as np


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


WHOLE_SPEED = 12.8
"""ms that the reference loop takes on the machine that numbers are stated for."""


def _reference() -> float:
    """ms of a loop of small arrays and plain arithmetic, as ours is."""
    row, total = np.arange(600.0), 0.0
    begin = time.perf_counter()
    for k in range(1500):
        total += float((np.sin(row) + k).max())
    for k in range(60_000):
        total += k * 0.5
    return 1000.0 * (time.perf_counter() - begin)


BLOCK = 120.0
"""ms that runs go on at least before they are held against the reference loop again: a machine that
changes its pace many times a second, in step with the two, would else favour one of them."""
MOST_RUNS = 10


def scaled_ms(run: Callable[[], object], times: int = 7) -> float:
    """Median ms of runs, as they would be on a machine of the stated speed: blocks of them are held
    against the reference loop, timed before and after each."""
    first, _ = median_ms(run, 1)
    runs = min(MOST_RUNS, math.ceil(BLOCK / max(first, 1e-3)))
    found = []
    before = _reference()
    for _ in range(times):
        begin = time.perf_counter()
        for _ in range(runs):
            run()
        taken = 1000.0 * (time.perf_counter() - begin) / runs
        after = _reference()
        found.append(taken * 2.0 * WHOLE_SPEED / (before + after))
        before = after
    return statistics.median(found)


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
