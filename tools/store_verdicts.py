"""Store the verdicts of all ready mechanisms, which a test holds later ones against.

To be run only where a verdict is meant to change: the difference shows in the commit.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from anakinema.files.native import read_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.record.report import report_json
from anakinema.resources import demo_names, demo_path

FOLDER = Path(__file__).parents[1] / "tests" / "whole" / "verdicts"
RESIDUAL = "residual_mm"
"""How far loops are from closed: noise, of which only the size says something."""


def verdict(evaluation: Evaluation) -> dict[str, Any]:
    """The report of a ready mechanism, as a file would have it."""
    report = report_json(evaluation)
    del report[RESIDUAL]
    stated: dict[str, Any] = json.loads(json.dumps(report))
    return stated


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for each in demo_names():
        answer = verdict(evaluate(read_document(demo_path(each))))
        text = json.dumps(answer, indent=1, ensure_ascii=False, sort_keys=True)
        (FOLDER / f"{each}.json").write_text(text + "\n", "utf-8")
