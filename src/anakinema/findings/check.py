"""Judge every requirement against the motion, each on its unfavourable end."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np

from anakinema.analysis.gap import Gap
from anakinema.analysis.gaps import Gaps
from anakinema.analysis.overrun import past_ends
from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.requirements import RequirementValues, requirement_dimension
from anakinema.document.resolve import Resolved
from anakinema.findings.finding import Finding, Outcome, Verdict
from anakinema.motion.events import find_roots, used_range
from anakinema.motion.motion import EventKind, Motion
from anakinema.motion.trail import End
from anakinema.units import LENGTH, NUMBER, Dimension

BUILT_IN = "built_in"
"""What ids of findings begin with that are asked of every mechanism. With the point behind it no
requirement can have such an id."""
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
    judges: Mapping[str, Callable[..., Finding]] = {
        "travel": _travel,
        "transmission": _transmission,
        "time_ratio": _time_ratio,
        "reserve": _reserve,
    }
    for requirement, values in zip(document.requirements, resolved.requirements, strict=True):
        if isinstance(requirement, model.GapRequirement):
            findings.append(_gap(resolved, requirement, values, gaps))
        else:
            judge = judges[requirement.kind]
            findings.append(judge(resolved, requirement, values, motion))
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
    for k, loop in enumerate(resolved.document.loops):
        gap = gaps.loop(k, frozenset())
        if gap is not None:
            title = f"{loop.title} clear of other parts"
            named = Finding(f"{BUILT_IN}.loop.{loop.id}", "belt", title, Outcome.UNKNOWN, LENGTH)
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


def named_bodies(document: model.Document, requirement: model.GapRequirement) -> frozenset[int]:
    """Indices of the bodies a gap requirement names: two, one, or none for any."""
    names = {requirement.first, requirement.second}
    return frozenset(i for i, body in enumerate(document.bodies) if body.id in names)


def _gap(
    resolved: Resolved, requirement: model.GapRequirement, values: RequirementValues, gaps: Gaps
) -> Finding:
    exact = gaps.exact
    gap = gaps.smallest(named_bodies(resolved.document, requirement), values.least)
    if gap is None:
        return _unknown(requirement, values, LENGTH, "nothing to compare")
    unfavourable = gap.least if exact else gap.most
    finding = _judged(requirement, values, LENGTH, unfavourable, gap.progress, gap=gap)
    if finding.outcome is Outcome.PASS and exact and _trust(gap) is Outcome.WARN:
        return replace(finding, outcome=Outcome.WARN, reason="sampled")
    return finding


def _title(requirement: model.Requirement) -> str:
    return requirement.name or requirement.id.replace("_", " ")


def _unknown(
    requirement: model.Requirement, values: RequirementValues, dimension: Dimension, reason: str
) -> Finding:
    return Finding(
        id=requirement.id,
        kind=requirement.kind,
        title=_title(requirement),
        outcome=Outcome.UNKNOWN,
        dimension=dimension,
        least=values.least,
        greatest=values.greatest,
        comfort=values.comfort,
        reason=reason,
    )


def _judged(
    requirement: model.Requirement,
    values: RequirementValues,
    dimension: Dimension,
    value: float,
    progress: float | None,
    *,
    joint: int | None = None,
    gap: Gap | None = None,
) -> Finding:
    margins = []
    if values.least is not None:
        margins.append(value - values.least)
    if values.greatest is not None:
        margins.append(values.greatest - value)
    margin = min(margins)
    outcome = Outcome.PASS
    if margin < 0:
        outcome = Outcome.FAIL
    elif values.comfort is not None and _beyond_comfort(value, values):
        outcome = Outcome.WARN
    return Finding(
        id=requirement.id,
        kind=requirement.kind,
        title=_title(requirement),
        outcome=outcome,
        dimension=dimension,
        value=value,
        least=values.least,
        greatest=values.greatest,
        comfort=values.comfort,
        margin=margin,
        progress=progress,
        joint=joint,
        gap=gap,
    )


def _beyond_comfort(value: float, values: RequirementValues) -> bool:
    comfort = values.comfort if values.comfort is not None else value
    return value < comfort if values.least is not None else value > comfort


def _travel(
    resolved: Resolved,
    requirement: model.TravelRequirement,
    values: RequirementValues,
    motion: Motion,
) -> Finding:
    joint = motion.mechanism.joint_index(requirement.joint)
    low, high, _, at_high = used_range(motion, joint)
    dimension = requirement_dimension(joint_kinds(resolved.document), requirement)
    return _judged(requirement, values, dimension, high - low, at_high, joint=joint)


def _reserve(
    resolved: Resolved,
    requirement: model.ReserveRequirement,
    values: RequirementValues,
    motion: Motion,
) -> Finding:
    joint = motion.mechanism.joint_index(requirement.joint)
    dimension = requirement_dimension(joint_kinds(resolved.document), requirement)
    limits = resolved.joints[joint]
    low, high, at_low, at_high = used_range(motion, joint)
    ends = []
    if limits.least is not None:
        ends.append((low - limits.least, at_low))
    if limits.greatest is not None:
        ends.append((limits.greatest - high, at_high))
    if not ends:
        return _unknown(requirement, values, dimension, "no limits")
    value, progress = min(ends)
    return _judged(requirement, values, dimension, value, progress, joint=joint)


def transmission_angle(
    resolved: Resolved, requirement: model.TransmissionRequirement, values: np.ndarray
) -> np.ndarray:
    """Unfolded transmission angle, rad, from values (...) of the joint (any whole turns)."""
    document = resolved.document
    joint = document.joint(requirement.joint)
    index = [j.id for j in document.joints].index(joint.id)
    turn = 0.0
    for side, place, sign in (
        (joint.first, requirement.first_place, -1.0),
        (joint.second, requirement.second_place, 1.0),
    ):
        places = resolved.part_of(document.body(side.body)).places
        here, there = places[side.place], places[place]
        direction = math.atan2(there[1] - here[1], there[0] - here[0])
        turn += sign * (direction - here[2])
    return np.asarray(values + resolved.joints[index].zero + turn)


def folded(angle: np.ndarray) -> np.ndarray:
    """Fold angles (rad) into 0 to a quarter turn."""
    return np.asarray(np.abs(np.mod(angle + np.pi / 2, np.pi) - np.pi / 2))


def _transmission(
    resolved: Resolved,
    requirement: model.TransmissionRequirement,
    values: RequirementValues,
    motion: Motion,
) -> Finding:
    joint = motion.mechanism.joint_index(requirement.joint)
    dimension = requirement_dimension(joint_kinds(resolved.document), requirement)
    events = [e for e in motion.events if e.kind is EventKind.EXTREME and e.joint == joint]
    progress = np.append(motion.progress, [e.progress for e in events])
    shown = np.append(motion.values[:, joint], [e.value or 0.0 for e in events])
    order = np.argsort(progress, kind="stable")
    progress = progress[order]
    angle = transmission_angle(resolved, requirement, shown[order])
    fold = folded(angle)
    best = int(np.argmin(fold))
    value, at = float(fold[best]), float(progress[best])
    crossed = np.flatnonzero(np.floor(angle[1:] / np.pi) != np.floor(angle[:-1] / np.pi))
    if len(crossed):
        k = int(crossed[0])
        aim = np.pi * np.round((angle[k] + angle[k + 1]) / (2 * np.pi))

        def offset(p: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
            state = motion.at(p)
            unfolded = transmission_angle(resolved, requirement, state.values[:, joint])
            return unfolded - aim, state.value_first[:, joint]

        value = 0.0
        ends = (progress[k : k + 1], progress[k + 1 : k + 2])
        sides = (angle[k : k + 1] - aim, angle[k + 1 : k + 2] - aim)
        at = float(find_roots(offset, ends, sides)[0])
    return _judged(requirement, values, dimension, value, at, joint=joint)


def _time_ratio(
    resolved: Resolved,
    requirement: model.TimeRatioRequirement,
    values: RequirementValues,
    motion: Motion,
) -> Finding:
    joint = motion.mechanism.joint_index(requirement.joint)
    extremes = [e for e in motion.events if e.kind is EventKind.EXTREME and e.joint == joint]
    shown = motion.values[:, joint]
    size = float(np.ptp(shown)) or 1.0
    closes = abs(shown[-1] - shown[0]) < 1e-6 * size and motion.end is End.COMPLETE
    # A stroke that ends where the cycle does has one extreme at both its ends.
    progress = [e.progress for e in extremes if e.progress < motion.last - 1e-9]
    if not closes or len(progress) != 2:
        return _unknown(requirement, values, NUMBER, "no single stroke and return")
    times = motion.time(np.array(progress))
    one = float(times[1] - times[0])
    other = motion.timing.total - one
    ratio = max(one, other) / min(one, other)
    return _judged(requirement, values, NUMBER, ratio, progress[0], joint=joint)
