"""Changes that would pass, and safe bands, against one whole evaluation in the same run."""

from __future__ import annotations

import time

from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.remedies import free_numbers, remedies, safe_band
from anakinema.resources import demo_path
from bench.timing import median_ms


def of_the_tray_shuttle() -> list[str]:
    """Single remedies of its failing gap; the band of a length foreseen and certified."""
    evaluation = evaluate(read_document(demo_path("tray-shuttle")))
    one, _ = median_ms(lambda: evaluate(evaluation.source), 5)
    begin = time.perf_counter()
    found = list(remedies(evaluation, "post_gap", pairs=False))
    took = (time.perf_counter() - begin) * 1e3
    whole = sum(remedy.evaluations for remedy in found)
    lines = [
        f"{len(found)} changes of one number: {whole} whole evaluations (five in at most 10),"
        f" {took:.0f} ms, {took / one:.0f} times one evaluation of {one:.0f} ms"
    ]
    for number in free_numbers(evaluation.source):
        begin = time.perf_counter()
        bands = safe_band(evaluation, number)
        next(bands)
        foreseen = (time.perf_counter() - begin) * 1e3
        list(bands)
        certified = (time.perf_counter() - begin) * 1e3
        lines.append(
            f"safe band of {number.title}: foreseen in {foreseen:.0f} ms (at most 100),"
            f" certified in {certified:.0f} ms"
        )
    return lines
