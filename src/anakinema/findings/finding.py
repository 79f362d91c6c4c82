"""A finding: the answer to one requirement, with where it was found and how far to trust it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from anakinema.analysis.gap import Gap
from anakinema.units import Dimension


class Outcome(Enum):
    """How a requirement fares. Unknown is honest, and never a pass."""

    PASS = "pass"
    WARN = "warn"
    FAIL = "fail"
    UNKNOWN = "cannot be judged"


SEVERITY = (Outcome.FAIL, Outcome.UNKNOWN, Outcome.WARN, Outcome.PASS)


@dataclass(frozen=True, slots=True)
class Finding:
    """An answer. ``value`` and bounds are in inside units of ``dimension``.

    value : the measured quantity at its unfavourable end, None if there is none.
    margin : by how much the bound is kept (negative: missed), None where nothing was measured.
    progress : where on the motion the value was found.
    kind : of the requirement, or 'program' and 'overlap', which are always asked.
    reason : a code that `anakinema.findings.wording` turns into a sentence.
    """

    id: str
    kind: str
    title: str
    outcome: Outcome
    dimension: Dimension
    value: float | None = None
    least: float | None = None
    greatest: float | None = None
    comfort: float | None = None
    margin: float | None = None
    progress: float | None = None
    joint: int | None = None
    gap: Gap | None = None
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Verdict:
    """All findings of a mechanism and the worst of their outcomes."""

    findings: tuple[Finding, ...]

    @property
    def outcome(self) -> Outcome:
        """The worst outcome; a mechanism without findings passes nothing."""
        outcomes = {finding.outcome for finding in self.findings}
        return next((o for o in SEVERITY if o in outcomes), Outcome.UNKNOWN)

    def count(self, outcome: Outcome) -> int:
        """How many findings have an outcome."""
        return sum(finding.outcome is outcome for finding in self.findings)

    @property
    def exit_status(self) -> int:
        """0 for pass or warn, 1 if a requirement fails or cannot be judged."""
        return 0 if self.outcome in (Outcome.PASS, Outcome.WARN) else 1
