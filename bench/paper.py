"""Sheets of the 12-body transfer head, against one whole evaluation in the same run."""

from __future__ import annotations

import time

from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.record.sheets.sheet_set import SHEET_KINDS, leaves_of, sheet_set
from anakinema.record.sheets.writers import pdf
from anakinema.resources import demo_path
from bench.timing import median_ms


def sheets_of_the_transfer_head() -> list[str]:
    """A whole set as PDF, and each kind of sheet as the window draws it."""
    evaluation = evaluate(read_document(demo_path("transfer-head")))
    poses = evaluation.motion.poses[0]
    one, _ = median_ms(lambda: evaluate(evaluation.source), 5)
    begin = time.perf_counter()
    sheets = sheet_set(evaluation, poses)
    content = pdf(sheets, "head")
    whole = (time.perf_counter() - begin) * 1e3
    kinds = {
        kind.title: median_ms(lambda kind=kind: leaves_of(evaluation, poses, kind.id), 3)[0]  # type: ignore[misc]
        for kind in SHEET_KINDS
    }
    slowest = max(kinds, key=lambda title: kinds[title])
    return [
        f"{len(sheets)} sheets of 12 bodies as PDF, {len(content) / 1000:.0f} kB: {whole:.0f} ms"
        f" (at most 4000), {whole / one:.1f} times one evaluation of {one:.0f} ms",
        f"slowest kind to be shown anew, {slowest}: {kinds[slowest]:.0f} ms (at most 200 a sheet)",
    ]
