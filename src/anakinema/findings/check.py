"""Judge every requirement against the motion, each on its unfavourable end."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from anakinema.analysis.gap import Gap
from anakinema.analysis.gaps import Gaps
from anakinema.analysis.overrun import past_ends
from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.measured import kind_of, requirement_dimension
from anakinema.document.requirements import RequirementValues
from anakinema.document.resolve import Resolved
from anakinema.findings.finding import Finding, Outcome, Verdict
from anakinema.measures import Answer, Subject, Unanswered, answered
from anakinema.motion.branch_path import End
from anakinema.motion.motion import Motion
from anakinema.units import LENGTH, NUMBER, Dimension

BUILT_IN = "built_in"
"""What ids of findings begin with that are asked of every mechanism. With the point behind it no
requirement can have such an id."""
ROUNDING = 1e-12
"""Share of a value that is nothing but the rounding of its bound's unit."""
NEGLIGIBLE_STRETCH = 3e-3
"""Progress; so little of a motion may be sampled only without a warning."""


def check(resolved: Resolved, motion: Motion, gaps: Gaps, whole: Motion) -> Verdict:
    """Findings for the whole program, for shared space, and for each requirement.

    ``whole`` is the motion run past all limits: what those permit between them shows there.
    """
    document = resolved.document
    findings = [
        _program(resolved, motion),
        _overlap(gaps, bool(motion.mechanism.facings)),
        *_fighting_limits(resolved, whole),
    ]
    findings += [*_belts(resolved, gaps), *_left_guides(resolved, motion)]
    subject, kinds = Subject(resolved, motion, gaps), joint_kinds(document)
    for requirement, values in zip(document.requirements, resolved.requirements, strict=True):
        dimension = requirement_dimension(kinds, requirement)
        findings.append(_asked(subject, requirement, values, dimension))
    titles = {each.id: each.title for each in resolved.source.requirements}
    findings += [
        Finding(name, "unjudged", titles[name], Outcome.UNKNOWN, NUMBER, reason=words)
        for name, words in resolved.unjudged.items()
        if name in titles
    ]
    if resolved.off:
        findings.append(
            Finding(
                f"{BUILT_IN}.off",
                "off",
                "Switched off for the moment",
                Outcome.WARN,
                NUMBER,
                reason=", ".join(resolved.off),
            )
        )
    return Verdict(tuple(findings))


def _program(resolved: Resolved, motion: Motion) -> Finding:
    mobility, complete = motion.mobility, motion.end is End.COMPLETE
    reason = motion.end.value
    outcome = Outcome.PASS if complete else Outcome.FAIL
    if not motion.stages:
        outcome, reason = Outcome.UNKNOWN, "no program"
    elif mobility.useless_drivers:
        outcome, reason = Outcome.FAIL, "too many drivers"
    elif complete and any(not freedom.idle_spin for freedom in mobility.undriven):
        outcome, reason = Outcome.WARN, "too few drivers"
    last = next((e for e in reversed(motion.events) if e.progress >= motion.last - 1e-9), None)
    return Finding(
        id=f"{BUILT_IN}.program",
        kind="program",
        title="Runs the whole program",
        outcome=outcome,
        dimension=NUMBER,
        progress=None if complete else motion.last,
        joint=last.joint if last and not complete else None,
        reason=reason,
    )


def _left_guides(resolved: Resolved, motion: Motion) -> list[Finding]:
    """Joints that are run past the open end of their fork, rail or curve, and by how much."""
    joints = resolved.document.joints
    return [
        Finding(
            f"{BUILT_IN}.guide.{joints[k].id}",
            "guide",
            f"{joints[k].title} stays in its guide",
            Outcome.FAIL,
            spec_of(joints[k].kind).dimension,
            value=-amount,
            least=0.0,
            margin=-amount,
            progress=progress,
            joint=k,
        )
        for k, amount, progress in past_ends(motion, "leaves")
    ]


def _belts(resolved: Resolved, gaps: Gaps) -> list[Finding]:
    """For every belt or chain what its runs come nearest to."""
    found = []
    for k, belt in enumerate(resolved.document.belts):
        gap = gaps.belt(k, frozenset())
        if gap is not None:
            title = f"{belt.title} clear of other parts"
            named = Finding(f"{BUILT_IN}.loop.{belt.id}", "belt", title, Outcome.UNKNOWN, LENGTH)
            found.append(_apart(named, gap, gaps.exact))
    return found


def _fighting_limits(resolved: Resolved, whole: Motion) -> list[Finding]:
    """Pairs of joints whose limits are never kept at once, though each is somewhere."""
    kept: list[tuple[int, np.ndarray]] = []
    for k, values in enumerate(resolved.joints):
        low = -math.inf if values.least is None else values.least
        high = math.inf if values.greatest is None else values.greatest
        noise = 1e-9 * (1.0 if whole.mechanism.angular[k] else whole.mechanism.size)
        shown = whole.values[:, k]
        inside = (shown >= low - noise) & (shown <= high + noise)
        if inside.any() and not inside.all():
            kept.append((k, inside))
    titles = [joint.title for joint in resolved.document.joints]
    return [
        Finding(
            id=f"{BUILT_IN}.limits.{one}.{two}",
            kind="limits",
            title="Limits that can be kept together",
            outcome=Outcome.FAIL,
            dimension=NUMBER,
            joint=one,
            reason=f"those of {titles[one]} and {titles[two]} fight",
        )
        for n, (one, a) in enumerate(kept)
        for two, b in kept[n + 1 :]
        if not (a & b).any()
    ]


def _trust(gap: Gap) -> Outcome:
    """Pass, or warn where more than a sliver of the motion could only be sampled."""
    total = sum(high - low for low, high in gap.sampled)
    return Outcome.PASS if total <= NEGLIGIBLE_STRETCH else Outcome.WARN


def _overlap(gaps: Gaps, in_contact: bool) -> Finding:
    gap = gaps.parts(frozenset())
    # The one question that passes without anything to compare: nothing could ever meet.
    named = Finding(
        id=f"{BUILT_IN}.overlap",
        kind="overlap",
        title="No parts share space",
        outcome=Outcome.PASS,
        dimension=LENGTH,
        reason="nothing could meet" if not in_contact else "all in contact",
    )
    return named if gap is None else _apart(named, gap, gaps.exact)


def _apart(named: Finding, gap: Gap, exact: bool) -> Finding:
    """A finding that asks for no more than some gap, however small."""
    return replace(
        named,
        outcome=Outcome.FAIL if gap.overlaps else _trust(gap) if exact else Outcome.PASS,
        value=gap.least if exact and not gap.overlaps else gap.most,
        least=0.0,
        margin=gap.most,
        progress=gap.progress,
        gap=gap,
        reason="" if exact else "coarse",
    )


def _asked(
    subject: Subject,
    requirement: model.Requirement,
    values: RequirementValues,
    dimension: Dimension,
) -> Finding:
    """The answer to a requirement, judged."""
    found = answered(subject, requirement, values.least)
    named = Finding(
        id=requirement.id,
        kind=kind_of(requirement),
        title=requirement.title,
        outcome=Outcome.UNKNOWN,
        dimension=dimension,
        least=values.least,
        greatest=values.greatest,
        comfort=values.comfort,
    )
    if isinstance(found, Unanswered):
        return replace(named, reason=found.reason)
    judged = _judged(named, found, values)
    passes = judged.outcome is Outcome.PASS and subject.gaps.exact
    if passes and found.gap is not None and _trust(found.gap) is Outcome.WARN:
        return replace(judged, outcome=Outcome.WARN, reason="sampled")
    return judged


def _judged(named: Finding, found: Answer, values: RequirementValues) -> Finding:
    """A finding on the unfavourable end of its answer."""
    margins = []
    if values.least is not None:
        margins.append((found.low - values.least, found.low))
    if values.greatest is not None:
        margins.append((values.greatest - found.high, found.high))
    margin, value = min(margins)
    outcome = Outcome.PASS
    if margin < -ROUNDING * max(abs(value), 1.0):
        outcome = Outcome.FAIL
    elif values.comfort is not None and _beyond_comfort(value, values):
        outcome = Outcome.WARN
    return replace(
        named,
        outcome=outcome,
        value=value,
        margin=margin,
        progress=found.progress,
        joint=found.joint,
        gap=found.gap,
    )


def _beyond_comfort(value: float, values: RequirementValues) -> bool:
    comfort = values.comfort if values.comfort is not None else value
    return value < comfort if values.least is not None else value > comfort
