"""What can leave the program as a file, for the Record drawer and the command line alike."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass

from anakinema.findings.evaluate import Evaluation
from anakinema.record.report import report_json, report_text
from anakinema.record.table import motion_csv


@dataclass(frozen=True, slots=True)
class Export:
    """A file that can be written of an evaluation.

    title, why : for people. suffix : of its name. text : makes its whole content.
    """

    id: str
    title: str
    why: str
    suffix: str
    text: Callable[[Evaluation], str]


def _json(evaluation: Evaluation) -> str:
    return json.dumps(report_json(evaluation), indent=1, ensure_ascii=False) + "\n"


EXPORTS = (
    Export(
        "table",
        "Motion table…",
        "Every step with poses, joint values, velocities and accelerations, as CSV.",
        "csv",
        motion_csv,
    ),
    Export(
        "report",
        "Verdict report…",
        "Findings, events and mobility, as JSON for other programs.",
        "json",
        _json,
    ),
    Export(
        "words",
        "Verdict in words…",
        "The same as lines of text, to be read or mailed.",
        "txt",
        lambda evaluation: report_text(evaluation) + "\n",
    ),
)
