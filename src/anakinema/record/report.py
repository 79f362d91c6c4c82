"""The verdict for people and for machines."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.event_wording import event_words, window_words
from anakinema.findings.finding import Finding
from anakinema.findings.hazards import cautions
from anakinema.findings.mobility_wording import mobility_words, program_notes
from anakinema.findings.value_wording import progress_words
from anakinema.findings.wording import finding_line, verdict_words
from anakinema.motion.motion import Event
from anakinema.motion.windows import Window, contact_windows
from anakinema.units import NUMBER, Dimension, UnitSystem

WRITTEN = UnitSystem("mm", "deg")
"""Units of values for machines, those of the CSV."""


def report_text(evaluation: Evaluation) -> str:
    """The verdict as plain lines."""
    lines = [f"{evaluation.document.name}: {verdict_words(evaluation)}"]
    lines += [f"  {finding_line(evaluation, f)}" for f in evaluation.verdict.findings]
    lines.append("mobility:")
    lines += [f"  {text}" for _, text in mobility_words(evaluation)]
    notes = program_notes(evaluation)
    lines += ["program:", *(f"  {note}" for note in notes)] if notes else []
    lines.append("events:")
    for event in evaluation.motion.events:
        place = progress_words(evaluation, event.progress)
        lines.append(f"  {place}: {event_words(evaluation, event)}")
    windows = contact_windows(evaluation.motion)
    lines += ["contact:"] if windows else []
    lines += [f"  {window_words(evaluation, window)}" for window in windows]
    lines += [f"caution: {text}" for text in cautions(evaluation)]
    return "\n".join(lines)


def report_json(evaluation: Evaluation) -> dict[str, Any]:
    """The verdict for machines: mm, deg and s as in the CSV, progress along the program."""
    mobility, bodies = evaluation.followed.mobility, evaluation.document.bodies
    return {
        "name": evaluation.document.name,
        "units": {"length": "mm", "angle": "deg", "time": "s", "progress": "stages"},
        "verdict": evaluation.verdict.outcome.value,
        "summary": verdict_words(evaluation),
        "findings": [_finding(evaluation, f) for f in evaluation.verdict.findings],
        "mobility": {
            "freedoms": mobility.freedoms,
            "count_by_formula": mobility.count_by_formula,
            "repeated_conditions": mobility.repeated,
            "groups": [
                {
                    "bodies": [bodies[b].id for b in group.bodies],
                    "has_frame": group.has_frame,
                    "freedoms": group.freedoms,
                }
                for group in mobility.groups
            ],
            "words": [text for _, text in mobility_words(evaluation)],
        },
        "program_notes": program_notes(evaluation),
        "events": [_event(evaluation, e) for e in evaluation.motion.events],
        "contact": [_window(evaluation, w) for w in contact_windows(evaluation.motion)],
        "cautions": cautions(evaluation),
        "residual_mm": evaluation.motion.samples.residual,
    }


def unit_name(dimension: Dimension) -> str:
    """'mm', 'deg/s', '1' for a plain number."""
    return WRITTEN.name(dimension) or "1"


def _stated(value: float | None, dimension: Dimension) -> float | None:
    if value is None or not math.isfinite(value):
        return None
    return value / WRITTEN.factor(dimension)


def _place(evaluation: Evaluation, progress: float) -> dict[str, Any]:
    """A place on the motion: progress, time, and the value of every driver there."""
    resolved, motion = evaluation.resolved, evaluation.motion
    at = np.array([progress])
    values = motion.at(at).values[0]
    drivers = []
    for driver, joint in zip(
        evaluation.document.program.drivers, resolved.program.joints, strict=True
    ):
        dimension = spec_of(evaluation.document.joints[joint].kind).dimension
        stated = _stated(float(values[joint]), dimension)
        drivers.append({"driver": driver.id, "value": stated, "unit": unit_name(dimension)})
    return {
        "progress": progress,
        "time_s": float(motion.time(at)[0]) if motion.stages else 0.0,
        "drivers": drivers,
        "words": progress_words(evaluation, progress),
    }


def _finding(evaluation: Evaluation, finding: Finding) -> dict[str, Any]:
    dimension = finding.dimension
    out: dict[str, Any] = {
        "id": finding.id,
        "kind": finding.kind,
        "title": finding.title,
        "outcome": finding.outcome.value,
        "unit": unit_name(dimension),
        "value": _stated(finding.value, dimension),
        "least": _stated(finding.least, dimension),
        "greatest": _stated(finding.greatest, dimension),
        "margin": _stated(finding.margin, dimension),
        "progress": finding.progress,
        "at": None if finding.progress is None else _place(evaluation, finding.progress),
        "reason": finding.reason,
        "words": finding_line(evaluation, finding),
    }
    gap = finding.gap
    if gap is not None:
        document = evaluation.document
        bodies, belts = document.bodies, document.belts
        first = bodies[gap.first_body].id if gap.belt is None else belts[gap.belt].id
        if gap.rod is not None:
            first = document.joints[gap.rod].id
        out["gap"] = {
            "between": [first, bodies[gap.second_body].id],
            "least": gap.least,
            "most": gap.most,
            "points": [gap.first_point, gap.second_point],
            "below": gap.below,
            "certified": gap.is_certified,
            "sampled_stretches": gap.sampled,
        }
    return out


def _event(evaluation: Evaluation, event: Event) -> dict[str, Any]:
    document = evaluation.document
    joint = None if event.joint is None else document.joints[event.joint]
    dimension = spec_of(joint.kind).dimension if joint is not None else NUMBER
    return {
        "kind": event.kind.value,
        "progress": event.progress,
        "joint": joint.id if joint is not None else None,
        "value": _stated(event.value, dimension),
        "unit": unit_name(dimension) if event.value is not None else None,
        "side": {1: "highest", -1: "lowest"}.get(event.side),
        "bodies": [document.bodies[b].id for b in event.bodies or ()],
        "loops": [[document.bodies[b].id for b in loop] for loop in event.loops],
        "at": _place(evaluation, event.progress),
        "words": event_words(evaluation, event),
    }


def _window(evaluation: Evaluation, window: Window) -> dict[str, Any]:
    bodies = evaluation.document.bodies
    return {
        "between": [bodies[b].id for b in window.bodies],
        "from": _place(evaluation, window.begin),
        "to": _place(evaluation, window.end),
        "words": window_words(evaluation, window),
    }
