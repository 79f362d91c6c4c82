"""The verdict for people and for machines."""

from __future__ import annotations

from typing import Any

from anakinema.findings.cautions import cautions
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Finding
from anakinema.findings.wording import (
    event_words,
    finding_line,
    mobility_words,
    progress_words,
    verdict_words,
)
from anakinema.motion.motion import Event


def report_text(evaluation: Evaluation) -> str:
    """The verdict as plain lines."""
    lines = [f"{evaluation.document.name}: {verdict_words(evaluation)}"]
    lines += [f"  {finding_line(evaluation, f)}" for f in evaluation.verdict.findings]
    lines.append("mobility:")
    lines += [f"  {text}" for _, text in mobility_words(evaluation)]
    lines.append("events:")
    for event in evaluation.motion.events:
        place = progress_words(evaluation, event.progress)
        lines.append(f"  {place}: {event_words(evaluation, event)}")
    lines += [f"caution: {text}" for text in cautions(evaluation)]
    return "\n".join(lines)


def report_json(evaluation: Evaluation) -> dict[str, Any]:
    """The verdict for machines; mm and rad, progress along the program."""
    return {
        "name": evaluation.document.name,
        "verdict": evaluation.verdict.outcome.value,
        "summary": verdict_words(evaluation),
        "findings": [_finding(evaluation, f) for f in evaluation.verdict.findings],
        "mobility": {
            "freedoms": evaluation.course.mobility.freedoms,
            "count_by_formula": evaluation.course.mobility.count_by_formula,
            "repeated_conditions": evaluation.course.mobility.repeated,
            "groups": [
                {
                    "bodies": [evaluation.document.bodies[b].id for b in group.bodies],
                    "has_frame": group.has_frame,
                    "freedoms": group.freedoms,
                }
                for group in evaluation.course.mobility.groups
            ],
            "words": [text for _, text in mobility_words(evaluation)],
        },
        "events": [_event(evaluation, e) for e in evaluation.motion.events],
        "cautions": cautions(evaluation),
        "residual_mm": evaluation.motion.samples.residual,
    }


def _finding(evaluation: Evaluation, finding: Finding) -> dict[str, Any]:
    out: dict[str, Any] = {
        "id": finding.id,
        "kind": finding.kind,
        "title": finding.title,
        "outcome": finding.outcome.value,
        "value": finding.value,
        "least": finding.least,
        "greatest": finding.greatest,
        "margin": finding.margin,
        "progress": finding.progress,
        "reason": finding.reason,
        "words": finding_line(evaluation, finding),
    }
    gap = finding.gap
    if gap is not None:
        document = evaluation.document
        bodies, loops = document.bodies, document.loops
        first = bodies[gap.first_body].id if gap.loop is None else loops[gap.loop].id
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
    joints = evaluation.document.joints
    return {
        "kind": event.kind.value,
        "progress": event.progress,
        "joint": joints[event.joint].id if event.joint is not None else None,
        "value": event.value,
        "at": progress_words(evaluation, event.progress),
        "words": event_words(evaluation, event),
    }
