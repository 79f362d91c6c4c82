"""Codes and numbers into sentences, in the designer's words and units."""

from __future__ import annotations

from anakinema.document.references import bodies_named, joints_named
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.event_wording import stopping_words
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.mobility_wording import drivers_words
from anakinema.findings.value_wording import progress_words
from anakinema.units import LENGTH, NUMBER, Dimension, UnitSystem

APART = ("overlap", "belt")
"""Findings that ask for a gap, however small."""

COUNTED = ("freedoms", "pinch", "rubbing")
"""Findings whose value is a number of things."""

UNANSWERED = {
    "no limits": "the joint has no limits at both ends",
    "no single stroke and return": "no single stroke and return",
    "singular": "not defined at a singular pose on the way",
    "no circle": "the path is no part of a circle",
    "no program": "nothing is driven",
    "stands still": "one of the two stands still",
    "no guide": "the joint names no walls that guide it",
    "no hole": "it has no hole",
    "outside at the start": "something is outside at the start",
    "refers to itself": "the formula refers to itself",
    "another unit": "the formula mixes units, or gives another one than is stated",
    "names nothing known": "the formula names what is not there",
    "no value at a pose": "the formula names what has no value at a pose",
    "never there": "the joint is never at that value",
    "not in part": "it can only be asked over the whole motion",
    "no such pose": "one of the two poses is kept no more",
    "pose not passed": "the motion does not pass one of the two poses",
    "one pose": "both poses are passed at the same place",
}
"""Why there is no answer, by the reason."""


def asked_words(evaluation: Evaluation, finding: Finding) -> str:
    """What a requirement asks: 'at least 3.00 mm'."""
    units = evaluation.resolved.units
    if finding.kind in APART:
        return "above 0"
    words = []
    for bound, before in ((finding.least, "at least"), (finding.greatest, "at most")):
        if bound is not None:
            words.append(f"{before} {amount_words(units, bound, finding.dimension, finding.kind)}")
    return ", ".join(words)


def value_words(evaluation: Evaluation, finding: Finding) -> str:
    """The measured value in a few words."""
    units = evaluation.resolved.units
    if finding.reason in ("too many drivers", "too few drivers"):
        return drivers_words(evaluation)
    if finding.kind == "program":
        return {
            "complete": "to its end",
            "no program": "no driver yet",
            "held": "stopped by a limit",
            "touched": "stopped by contact",
            "slot end": f"stopped by the end of a {stopping_words(evaluation)}",
            "left": "something leaves its guide",
            "dead point": "stopped at a dead point",
            "blocked": "the driver cannot move",
            "lost": "the loop cannot close",
            "undecided": "it cannot be decided how it goes on",
        }[finding.reason]
    if finding.value is None:
        return {
            "nothing to compare": "nothing to compare",
            "nothing could meet": "nothing could meet: no two bodies that move against each other"
            " share heights with surfaces to compare",
            "all in contact": "all that could meet is in contact, which keeps it apart",
            **UNANSWERED,
        }.get(finding.reason, finding.reason)
    if finding.gap is not None and finding.gap.overlaps:
        depth = -finding.gap.most
        if finding.gap.belt is not None:
            return "runs into it"
        if depth <= 0:
            return "touching"
        shown = units.format(depth, LENGTH)
        if not any(c in "123456789" for c in shown):
            return f"overlap, less than can be shown in {units.length}"
        return f"they overlap by {shown}"
    if finding.kind == "housing_least" and finding.value < 0:
        return f"comes out by {units.format(-finding.value, LENGTH)}"
    words = amount_words(units, finding.value, finding.dimension, finding.kind)
    return f"{words} : 1" if finding.kind.endswith("time_ratio") else words


def amount_words(units: UnitSystem, value: float, dimension: Dimension, kind: str) -> str:
    """A value of a kind of finding: '2.14 mm', '1.67', '82 %', '1'."""
    if kind.startswith(COUNTED) and dimension == NUMBER:
        return f"{value:.0f}"
    if kind.startswith("used"):
        return f"{100 * value:.1f} %"
    return units.format(value, dimension)


def finding_line(evaluation: Evaluation, finding: Finding) -> str:
    """One line: outcome, title, value, what was asked, and where."""
    words = f"{finding.outcome.value}: {finding.title}: {value_words(evaluation, finding)}"
    asked = asked_words(evaluation, finding)
    if asked and finding.kind not in APART:
        words += f", {asked}"
    if finding.gap is not None:
        words += f" ({_pair_words(evaluation, finding)})"
    if finding.progress is not None:
        words += f", at {progress_words(evaluation, finding.progress)}"
    return words


def _pair_words(evaluation: Evaluation, finding: Finding) -> str:
    assert finding.gap is not None
    bodies, gap = evaluation.document.bodies, finding.gap
    first = bodies[gap.first_body].title
    if gap.belt is not None:
        first = evaluation.document.belts[gap.belt].title
    elif gap.rod is not None:
        first = evaluation.document.joints[gap.rod].title
    return f"{first} and {bodies[gap.second_body].title}"


def finding_facts(evaluation: Evaluation, finding: Finding) -> list[tuple[str, str]]:
    """Rows (label, value) that explain a finding."""
    units = evaluation.resolved.units
    rows: list[tuple[str, str]] = [("Outcome", finding.outcome.value)]
    rows.append(("Measured", value_words(evaluation, finding)))
    asked = asked_words(evaluation, finding)
    if asked:
        rows.append(("Asked", asked))
    if finding.margin is not None and finding.kind not in APART:
        margin = amount_words(units, finding.margin, finding.dimension, finding.kind)
        rows.append(("Margin", margin))
    if finding.comfort is not None:
        comfort = amount_words(units, finding.comfort, finding.dimension, finding.kind)
        rows.append(("Comfortable from", comfort))
    gap = finding.gap
    if gap is not None:
        rows.append(("Between", _pair_words(evaluation, finding)))
    moment = next((r.at for r in evaluation.document.requirements if r.id == finding.id), None)
    if moment is not None:
        joint = next(j for j in evaluation.document.joints if j.id == moment.joint)
        rows.append(("Only where", f"{joint.title} is {moment.value}"))
    between = next(
        (r.between for r in evaluation.document.requirements if r.id == finding.id), None
    )
    if between is not None:
        poses = {pose.id: pose.title for pose in evaluation.source.poses}
        first, last = (poses.get(each, each) for each in (between.first, between.last))
        rows.append(("Only", f"from {first} to {last}"))
    if finding.progress is not None:
        rows.append(("Found at", progress_words(evaluation, finding.progress)))
    if finding.joint is not None:
        rows.append(("Joint", evaluation.document.joints[finding.joint].title))
    if gap is not None:
        if not gap.overlaps and evaluation.is_exact:
            spread = f"{units.format(gap.least, LENGTH, 3)} to {units.format(gap.most, LENGTH, 3)}"
            rows.append(("True gap lies in", spread))
        for low, high in gap.below[:3]:
            span = f"{progress_words(evaluation, low)} to {progress_words(evaluation, high)}"
            rows.append(("Too small from", span))
    trust = trust_words(evaluation, finding)
    if trust:
        rows.append(("How sure", trust))
    return rows


def finding_inputs(evaluation: Evaluation, finding: Finding) -> list[tuple[str, str, str]]:
    """(kind, id, title) of the bodies and joints that a finding is about."""
    document = evaluation.document
    requirement = next((r for r in document.requirements if r.id == finding.id), None)
    bodies: list[str] = []
    joints: list[str] = []
    if requirement is not None:
        bodies += bodies_named(requirement)
        joints += joints_named(requirement)
    if finding.gap is not None:
        pair = (finding.gap.first_body, finding.gap.second_body)
        bodies += [document.bodies[k].id for k in pair]
    if finding.joint is not None:
        joints.append(document.joints[finding.joint].id)
    titles = {body.id: body.title for body in document.bodies}
    found = [("body", name, titles[name]) for name in dict.fromkeys(bodies) if name in titles]
    named = {joint.id: joint.title for joint in document.joints}
    return found + [("joint", name, named[name]) for name in dict.fromkeys(joints) if name in named]


def trust_words(evaluation: Evaluation, finding: Finding) -> str:
    """How far a value can be trusted, in one word of ours and what it means."""
    if not evaluation.is_exact:
        return "first look: at few steps only"
    if finding.gap is not None:
        certainty = certainty_words(evaluation, finding)
        return certainty if certainty != "certified" else "certified: bounded between all steps"
    requirement = next((r for r in evaluation.document.requirements if r.id == finding.id), None)
    if requirement is None or finding.value is None:
        return ""
    if requirement.at is not None:
        return "located: the moments are roots of the joint's value"
    return _TRUST.get(requirement.measure.kind, "located: its extremes are roots of exact rates")


def certainty_words(evaluation: Evaluation, finding: Finding) -> str:
    """How far a gap can be trusted between the steps."""
    gap = finding.gap
    if gap is None:
        return ""
    if not evaluation.is_exact:
        return "first look, at the steps only"
    if gap.is_certified:
        return "certified"
    if len(gap.sampled) == 1:
        low, high = gap.sampled[0]
        return f"certified, but sampled near {progress_words(evaluation, (low + high) / 2)}"
    return f"certified, but sampled near {len(gap.sampled)} singular poses"


def finding_why(evaluation: Evaluation, finding: Finding) -> str:
    """How the value is defined and where it comes from."""
    requirement = next((r for r in evaluation.document.requirements if r.id == finding.id), None)
    if requirement is None or (finding.kind in _WHY and requirement.at is None):
        if finding.kind == "gap" and finding.gap is not None and len(finding.gap.first_point) == 3:
            return IN_SPACE_GAP
        apart = finding.kind == "overlap" and len(set(evaluation.resolved.planes.of.tolist())) > 1
        return _WHY[finding.kind] + (f" {IN_SPACE}" if apart else "")
    measured = _MEASURED[requirement.measure.kind]
    if requirement.at is not None:
        return f"{_AT[requirement.reduce]} {measured}"
    made = _MADE[requirement.reduce]
    if requirement.measure.kind not in _TRUST:
        made = f"{made.removesuffix('.')}, located exactly."
    return f"{made} {measured}"


_TRUST = {
    "joint_rate": "closed in on: greatest of exact values, no proof that none is missed",
    "place_rate": "closed in on: greatest of exact values, no proof that none is missed",
    "path": "summed: to the interval that a coarser sum gives",
    "dwell": "closed in on: between exact values",
    "freedoms": "exact: counted at assembled poses",
    "pressure": "closed in on: greatest of exact values, no proof that none is missed",
    "driver_share": "closed in on: least of exact values, no proof that none is missed",
    "formula": "closed in on: greatest of exact values, no proof that none is missed",
    "pinch": "sampled: where it closes is located, a gap that opens between two steps is missed",
    "rubbing": "sampled: outlines are laid over one another at 25 poses",
    "faces": "exact: it does not depend on the pose",
    "wall": "exact: it does not depend on the pose",
    "guided": "located: where ends of walls are passed counts too",
    "overhang": "located: where ends of walls are passed counts too",
    "phase": "located: extremes are roots of exact rates",
}
IN_SPACE = "Parts of different planes are compared as solids in space."
"""Said where there are several planes."""
IN_SPACE_GAP = (
    "Least distance of the two as solids in space. Between steps it can fall by no more than the"
    " path their points travel."
)
_WHY = {
    "program": "The mechanism is followed through every stage of its program; limits, dead"
    " points and loops that cannot close end it.",
    "overlap": "All parts that lie at the same height are compared over the whole motion, except"
    " where a joint lets them touch.",
    "gap": "Least distance of the two exact outlines at the heights that both have. Between steps"
    " it can fall by no more than the path their points travel.",
    "travel": "Greatest less least value of the joint over the program; extremes are"
    " located exactly.",
    "transmission": "Angle between the two links at the joint, folded into 0 to 90°. At a"
    " small angle the push becomes a squeeze on the pins.",
    "time_ratio": "Time of the slower stroke over the quicker one, between the two extreme"
    " positions.",
    "belt": "Least distance of its runs, half its thickness off their middle, to a part that"
    " shares heights with all its wheels. Between steps it can fall by no more than the path"
    " the ends of the run travel.",
    "limits": "Run past all limits, there is no place at which both joints are within theirs:"
    " the motion can never satisfy the two. Widen one of them, or take it away.",
    "guide": "How far the pin or block is run past the open end of its fork, rail or curve,"
    " where nothing guides it. Allow the joint to leave its guide.",
    "unjudged": "What it is asked of is not in the document. Ask it of something else, or delete"
    " it.",
    "off": "What is switched off takes no part in the motion, and requirements that name it are"
    " not judged. Switch it on in Assemble.",
    "reserve": "Distance from the used range of the joint to its nearer limit.",
}
"""Of what is asked of every mechanism, and of requirements that have a name in the trade."""
_MADE = {
    "least": "The least over the program.",
    "greatest": "The greatest over the program.",
    "size": "The greatest over the program, whatever its sign.",
    "range": "The greatest less the least over the program.",
    "time_ratio": "Time of the slower stroke over the quicker one, between its two extremes.",
}
_AT = {
    "least": "The least of all moments at which the joint is there; they are roots of its value.",
    "greatest": "The greatest of all moments at which the joint is there; they are roots of its"
    " value.",
    "size": "The greatest, whatever its sign, of all moments at which the joint is there; they are"
    " roots of its value.",
}
_MEASURED = {
    "joint": "It is the value of the joint.",
    "used": "It is the joint's value as a share of the way between its limits: 0 at the least, 1 at"
    " the greatest.",
    "joint_rate": "It is how fast the joint's value changes in time, from its exact rates along"
    " the program and the law of the stage. Between steps it is closed in on.",
    "place_rate": "It is the size of the place's speed or acceleration in the plane, from exact"
    " rates along the program and the law of the stage. Between steps it is closed in on.",
    "path": "It is the length of the path of the place, summed by Simpson's rule over every step;"
    " the interval is how far a coarser sum is off.",
    "straight": "It is how far the place is off the middle of the narrowest strip that holds its"
    " path (minimum zone); the strip is that of the steps, the extremes against it are located.",
    "round": "It is how far the place is from the centre of the narrowest ring that holds its path"
    " (minimum zone); the ring is that of the steps, the extremes against it are located.",
    "dwell": "It is the longest time in which the joint's value stays within a band of that width,"
    " wherever the band lies; both ends are located, and a closed cycle has no seam.",
    "angle": "It is the angle from the direction of one place to that of the other.",
    "freedoms": "It is the number of independent ways in which the assembled mechanism can move.",
    "gap": "It is the least distance of the two outlines.",
    "phase": "It is the longest time between an extreme of the first joint and the nearest one of"
    " the second: 0 where they turn back together.",
    "pressure": "It is the angle between the common normal where the pin or roller is pushed and"
    " the way it can go: along its slide, or square to the arm from its pivot (J. E. Shigley,"
    " J. J. Uicker, Theory of Machines and Mechanisms, 1980).",
    "guided": "It is the length of the block or rod that lies between the walls of its guide; the"
    " side that guides less counts, and what a crossing slot takes away does not.",
    "overhang": "It is how far an end of the block stands out of its guide.",
    "driver_share": "It is the driver's rate as a share of the greatest rate of all joints, lengths"
    " as shares of the mechanism's size: 1 where nothing moves faster, 0 at its dead point.",
    "housing": "It is the least distance from inside to the housing's outline, whatever the"
    " heights. Between steps it can fall by no more than the path their points travel.",
    "pinch": "A gap that was open further closes through the size (sizes: ISO 13854). What a"
    " machine needs is for local codes and licensed practice to say.",
    "faces": "It is the distance of the nearest faces along the pins, below zero by as much as"
    " they share heights.",
    "rubbing": "It is how many pairs of bodies have faces that lie on one another and move against"
    " each other.",
    "wall": "It is the least distance of two outlines of a slab of the body, or its least"
    " thickness along the pins.",
    "formula": "It is the value of the formula at every pose.",
    "reserve": "It is the distance to the nearer limit.",
    "transmission": "It is the angle between the two links at the joint, folded into 0 to 90°.",
    "distance": "It is the straight distance of the two places.",
    "way": "It is how far the place has come along the direction.",
}


def verdict_words(evaluation: Evaluation, *, short: bool = False) -> str:
    """The verdict in one phrase: '1 of 7 fails'; in at most 15 characters where ``short``."""
    verdict = evaluation.verdict
    total = len(verdict.findings)
    failed, unknown = verdict.count(Outcome.FAIL), verdict.count(Outcome.UNKNOWN)
    if failed:
        return f"{failed} of {total} {'fails' if failed == 1 else 'fail'}"
    if unknown:
        return f"{unknown} of {total} {'open' if short else 'cannot be judged'}"
    warned = verdict.count(Outcome.WARN)
    if warned:
        warnings = f"{warned} {'warning' if warned == 1 else 'warnings'}"
        return warnings if short else f"all {total} pass, {warnings}"
    return f"all {total} pass"
