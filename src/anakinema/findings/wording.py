"""Codes and numbers into sentences, in the designer's words and units."""

from __future__ import annotations

import numpy as np

from anakinema.analysis.reach import ReachEnd
from anakinema.document.kinds import spec_of
from anakinema.document.strokes import Stroke
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Finding, Outcome
from anakinema.motion.mobility import Freedom, Group
from anakinema.motion.motion import Event, EventKind
from anakinema.motion.windows import Window
from anakinema.units import LENGTH, NUMBER

APART = ("overlap", "belt")
"""Findings that ask for a gap, however small."""

TOUCHING = (
    EventKind.STOP,
    EventKind.JAM,
    EventKind.TOUCH,
    EventKind.RELEASE,
    EventKind.DROP,
    EventKind.TOOTH,
)


MOST_LOOPS = 4
"""Loops of a change point that are named."""


def progress_words(evaluation: Evaluation, progress: float) -> str:
    """A place on the motion, told by the drivers that move there: 'crank 214.6°'."""
    motion, resolved = evaluation.motion, evaluation.resolved
    if not motion.stages:
        return "start pose"
    stage = int(motion.stage_of(np.array([progress]))[0])
    values = evaluation.motion.at(np.array([progress])).values[0]
    words = []
    for driver, _ in resolved.program.stages[stage].moves:
        joint = resolved.program.joints[driver]
        title = evaluation.document.program.drivers[driver].title
        words.append(f"{title} {joint_value_words(evaluation, joint, float(values[joint]))}")
    return ", ".join(words)


def joint_value_words(evaluation: Evaluation, joint: int, value: float) -> str:
    """A joint value with its unit."""
    kind = evaluation.document.joints[joint].kind
    return evaluation.resolved.units.format(value, spec_of(kind).dimension)


def asked_words(evaluation: Evaluation, finding: Finding) -> str:
    """What a requirement asks: 'at least 3.00 mm'."""
    units = evaluation.resolved.units
    if finding.kind in APART:
        return "above 0"
    words = []
    if finding.least is not None:
        words.append(f"at least {units.format(finding.least, finding.dimension)}")
    if finding.greatest is not None:
        words.append(f"at most {units.format(finding.greatest, finding.dimension)}")
    return ", ".join(words)


def value_words(evaluation: Evaluation, finding: Finding) -> str:
    """The measured value in a few words."""
    units = evaluation.resolved.units
    if finding.reason in ("too many drivers", "too few drivers"):
        return _drivers_words(evaluation)
    if finding.kind == "program":
        return {
            "complete": "to its end",
            "no program": "no driver yet",
            "held": "stopped by a limit",
            "touched": "stopped by contact",
            "slot end": "stopped by the end of a slot or stroke",
            "left": "something leaves its guide",
            "dead point": "stopped at a dead point",
            "blocked": "the driver cannot move",
            "lost": "the loop cannot close",
            "undecided": "it cannot be told how it goes on",
        }[finding.reason]
    if finding.value is None:
        return {
            "nothing to compare": "nothing to compare",
            "nothing could meet": "nothing could meet: no two bodies that move against each other"
            " share heights with surfaces to compare",
            "all in contact": "all that could meet is in contact, which keeps it apart",
            "no limits": "the joint has no limits",
            "no single stroke and return": "no single stroke and return",
        }.get(finding.reason, finding.reason)
    if finding.gap is not None and finding.gap.overlaps:
        depth = -finding.gap.most
        if finding.gap.loop is not None:
            return "runs into it"
        if depth <= 0:
            return "touching"
        return f"overlap {units.format(depth, LENGTH)} deep"
    value = units.format(finding.value, finding.dimension)
    return f"{value} : 1" if finding.dimension == NUMBER else value


def _drivers_words(evaluation: Evaluation) -> str:
    """What is wrong between drivers and freedoms."""
    mobility = evaluation.course.mobility
    drivers = len(evaluation.resolved.program.joints)
    freedoms = "1 freedom" if mobility.freedoms == 1 else f"{mobility.freedoms} freedoms"
    driven = "1 driver" if drivers == 1 else f"{drivers} drivers"
    if mobility.useless_drivers:
        return f"{driven} for {freedoms}: {mobility.useless_drivers} too many, they fight"
    free = [freedom_words(evaluation, f) for f in mobility.undriven if not f.idle_spin]
    return f"to its end, but {driven} for {freedoms}: {listed(free[:3])}, and nothing drives that"


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
    if gap.loop is not None:
        first = evaluation.document.loops[gap.loop].title
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
        rows.append(("Margin", units.format(finding.margin, finding.dimension)))
    if finding.comfort is not None:
        rows.append(("Comfortable from", units.format(finding.comfort, finding.dimension)))
    gap = finding.gap
    if gap is not None:
        rows.append(("Between", _pair_words(evaluation, finding)))
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
        rows.append(("Between steps", certainty_words(evaluation, finding)))
    return rows


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
    return {
        "program": "The mechanism is followed through every stage of its program; limits, dead"
        " points and loops that cannot close end it.",
        "overlap": "All slabs that share heights are compared over the whole motion, except the"
        " outline pieces that a joint names.",
        "gap": "Least distance of the two exact outlines at shared heights. Between steps it can"
        " fall by no more than the path their points travel.",
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
        " where nothing guides it. It may leave if the joint is told so.",
        "off": "What is switched off takes no part in the motion, and requirements that name it are"
        " not judged. Switch it on in Assemble.",
        "reserve": "Distance from the used range of the joint to its nearer limit.",
    }[finding.kind]


def event_words(evaluation: Evaluation, event: Event) -> str:
    """An event in a few words."""
    joints = evaluation.document.joints
    title = joints[event.joint].title if event.joint is not None else ""
    if event.kind is EventKind.LIMIT:
        assert event.joint is not None and event.value is not None
        side = "greatest" if event.side > 0 else "least"
        value = joint_value_words(evaluation, event.joint, event.value)
        return f"{title} at its {side} value {value}"
    if event.kind in (EventKind.SLOT_END, EventKind.LEAVES):
        assert event.joint is not None and event.value is not None
        value = joint_value_words(evaluation, event.joint, event.value)
        ends = "leaves its guide by an open end"
        if event.kind is EventKind.SLOT_END:
            ends = f"comes to the end of its {_ending(evaluation, event.joint)}"
        return f"{title} {ends} at {value}"
    if event.kind is EventKind.EXTREME:
        assert event.joint is not None and event.value is not None
        value = joint_value_words(evaluation, event.joint, event.value)
        return f"{title} {'highest' if event.side > 0 else 'lowest'} {value}"
    if event.kind in TOUCHING:
        return _touch_words(evaluation, event, title)
    if event.kind is EventKind.CHANGE_POINT:
        return _change_words(evaluation, event)
    beyond = f", beyond it the loop opens at {title}" if title else ""
    return {
        EventKind.DEAD_POINT: f"dead point: the driver cannot go on{beyond}",
        EventKind.BLOCKED: "the driver cannot move",
        EventKind.LOST: f"the loop cannot close any more{beyond}",
        EventKind.UNDECIDED: "several assemblies meet here and it cannot be told which goes on;"
        " change a length a little, or draw the start pose elsewhere",
    }[event.kind]


def _change_words(evaluation: Evaluation, event: Event) -> str:
    """A change point, with the loops that could go another way."""
    bodies = evaluation.document.bodies
    named = ["–".join(bodies[b].title for b in loop) for loop in event.loops[:MOST_LOOPS]]
    more = len(event.loops) - len(named)
    loops = "; ".join(named) + (f" and {more} more" if more > 0 else "")
    of = f" of {loops}" if named else ""
    return (
        f"change point{of}: a real mechanism may flip here; a second crank at an angle, a guide"
        " or enough momentum carries it through"
    )


def _touch_words(evaluation: Evaluation, event: Event, title: str) -> str:
    """An event of contact: who, on whom, and how far."""
    bodies = evaluation.document.bodies
    one, two = (bodies[b].title for b in event.bodies) if event.bodies else ("", "")
    value = ""
    if event.joint is not None and event.value is not None:
        value = joint_value_words(evaluation, event.joint, event.value)
    after = f": {title} can move no farther, {value} after its stage began" if value else ""
    onto = f" between {one} and {two}" if event.bodies else " to its rest"
    return {
        EventKind.STOP: f"{one} stops at {two}{after}",
        EventKind.JAM: f"{one} and {two} jam{after}",
        EventKind.TOUCH: f"{one} touches {two}",
        EventKind.RELEASE: f"{one} and {two} part",
        EventKind.DROP: f"{title} drops {value}{onto}",
        EventKind.TOOTH: f"tooth passed{onto}, {title} drops {value}",
    }[event.kind]


def listed(names: list[str]) -> str:
    """'crank, rod and slide'."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def freedom_words(evaluation: Evaluation, freedom: Freedom, *, hangs: bool = True) -> str:
    """A freedom no driver commands: 'the drip tray can turn'.

    ``hangs`` says of a body on one pin that it hangs free.
    """
    bodies = evaluation.document.bodies
    names = [bodies[b].title for b in freedom.bodies[:3]]
    more = len(freedom.bodies) - len(names)
    who = f"{', '.join(names)} and {more} more" if more else listed(names)
    if freedom.idle_spin and hangs:
        return f"{who} hangs free: it can turn about its pin"
    manner = {"turn": "can turn", "slide": "can slide", "move": "can move"}[freedom.manner]
    return f"{who} {manner}"


def mobility_words(evaluation: Evaluation) -> list[tuple[Outcome, str]]:
    """What is free, repeated or held, each a sentence with its weight."""
    mobility, document = evaluation.course.mobility, evaluation.document
    rows: list[tuple[Outcome, str]] = []
    fixed = [body.title for body in document.bodies if body.fixed]
    if not fixed:
        rows.append((Outcome.WARN, "Nothing is fixed: fix the frame."))
    drivers = len(document.program.drivers)
    freedoms = mobility.freedoms
    noun = "freedom" if freedoms == 1 else "freedoms"
    driven = "one driver" if drivers == 1 else f"{drivers or 'no'} drivers"
    rows.append((Outcome.PASS, f"{freedoms or 'No'} {noun} of motion, {driven}."))
    if len(mobility.groups) > 1:
        rows += [_group_words(evaluation, group) for group in mobility.groups]
    for freedom in mobility.undriven:
        outcome = Outcome.PASS if freedom.idle_spin else Outcome.WARN
        held = "; it is kept still." if not freedom.idle_spin else "; its attitude is kept."
        rows.append((outcome, freedom_words(evaluation, freedom) + held))
    if mobility.useless_drivers:
        rows.append((Outcome.FAIL, "More drivers than freedoms: remove a driver."))
    if mobility.repeated:
        names = [document.joints[j].title for j in mobility.repeated_joints]
        listed = ", ".join(names[:6]) + (f" and {len(names) - 6} more" if len(names) > 6 else "")
        noun = "condition" if mobility.repeated == 1 else "conditions"
        rows.append(
            (
                Outcome.PASS,
                f"{mobility.repeated} {noun} repeated among: {listed}. It moves because"
                " the sizes match; wear or tolerance would bind it.",
            )
        )
    if mobility.count_by_formula != freedoms:
        rows.append(
            (
                Outcome.PASS,
                f"Counting by formula gives {mobility.count_by_formula}; the rank of"
                f" the equations gives {freedoms}.",
            )
        )
    if mobility.special_pose:
        rows.append(
            (
                Outcome.WARN,
                "The start pose is a change point: of the ways it can go on"
                " the one with fewest different turns is taken.",
            )
        )
    return rows


def program_notes(evaluation: Evaluation) -> list[str]:
    """What of the program is not as plain as it looks: steps that do not divide the travel, and
    which of several drivers sets how long a stage lasts."""
    resolved, document = evaluation.resolved, evaluation.document
    program, units = resolved.program, resolved.units
    notes = []
    values = list(program.starts)
    for k, stage in enumerate(program.stages):
        ways = [abs(target - values[driver]) for driver, target in stage.moves]
        lead = stage.moves[0][0]
        dimension = spec_of(document.joints[program.joints[lead]].kind).dimension
        if stage.asked is not None and ways[0] > 0.0:
            notes.append(
                f"Stage {k + 1}: steps of {units.format(stage.asked, dimension)} do not divide"
                f" {units.format(ways[0], dimension)}; {stage.count} steps of"
                f" {units.format(ways[0] / stage.count, dimension)} are made."
            )
        times = [way / program.rates[d] for way, (d, _) in zip(ways, stage.moves, strict=True)]
        if len(times) > 1 and stage.lasts is None:
            slowest = stage.moves[int(np.argmax(times))][0]
            title = document.program.drivers[slowest].title
            notes.append(
                f"Stage {k + 1} lasts {max(times):.4g} s: the rate of {title} sets its time, the"
                " others keep to it."
            )
        for driver, target in stage.moves:
            values[driver] = target
    return notes


def window_words(evaluation: Evaluation, window: Window) -> str:
    """A contact window: who, from where to where."""
    bodies = evaluation.document.bodies
    one, two = (bodies[b].title for b in window.bodies)
    begin = progress_words(evaluation, window.begin)
    motion = evaluation.motion
    if window.begin <= motion.progress[0] + 1e-9 and window.end >= motion.last - 1e-9:
        return f"{one} and {two} in touch all along"
    if window.end - window.begin <= 1e-9:
        return f"{one} and {two} touch at {begin}"
    return f"{one} and {two} in touch from {begin} to {progress_words(evaluation, window.end)}"


def _ending(evaluation: Evaluation, joint: int) -> str:
    """What of a joint comes to its end."""
    return "stroke" if evaluation.resolved.joints[joint].stroke is not None else "slot"


def guide_words(evaluation: Evaluation, joint: int) -> str:
    """Where the slot, fork, rail, curve or stroke of a joint ends, and what it does there; '' if it
    has no such end."""
    values = evaluation.resolved.joints[joint]
    ends = [(values.least, values.least_by), (values.greatest, values.greatest_by)]
    parts = []
    stops = f"stops at the end of its {_ending(evaluation, joint)}"
    for by, words in (("stop", stops), ("leaves", "leaves its guide")):
        at = [joint_value_words(evaluation, joint, v) for v, b in ends if b == by and v is not None]
        if at:
            parts.append(f"{words} at {listed(at)}")
    exits = [joint_value_words(evaluation, joint, value) for value, _ in values.exits]
    if exits:
        parts.append(f"may leave its guide at {listed(exits)}")
    words = f"It {', and '.join(parts)}." if parts else ""
    return words if values.stroke is None else f"{_stroke_words(evaluation, values.stroke)} {words}"


def _stroke_words(evaluation: Evaluation, stroke: Stroke) -> str:
    """How long a cylinder is and how far its rod is guided."""

    def length(value: float) -> str:
        return evaluation.resolved.units.format(value, LENGTH)

    long = stroke.dead_length + stroke.stroke
    return (
        f"{length(stroke.dead_length)} from pivot to pivot pushed in, {length(long)} out; its rod"
        f" is guided over {length(stroke.guided_at(0.0))} to {length(stroke.guided)}."
    )


def standing_words(evaluation: Evaluation, joint: int, progress: float) -> str:
    """What a joint that gives way stands by at a progress; '' of one that does not."""
    document, motion = evaluation.document, evaluation.motion
    yields = document.joints[joint].yields
    if yields is None or not motion.legs or joint in motion.driver_joints:
        return ""
    leg = motion.leg_at(progress)
    value = float(motion.at(np.array([progress])).values[0, joint])
    told = joint_value_words(evaluation, joint, value)
    held = any(h.kind == "value" and h.index == joint for h in leg.trail.path.system.holds)
    if held:
        return f"On show: {told}, {'where it was pushed' if yields == 'friction' else 'at rest'}."
    table, fixed = motion.mechanism.table, motion.mechanism.fixed
    own = {b for b in (int(table.first[joint]), int(table.second[joint])) if not fixed[b]}
    touches = leg.trail.path.system.touches
    pairs = dict.fromkeys((min(t.first, t.second), max(t.first, t.second)) for t in touches)
    near = [pair for pair in pairs if own & set(pair)] or list(pairs)
    on = "; ".join(
        f"{document.bodies[one].title} on {document.bodies[two].title}" for one, two in near
    )
    rest = evaluation.resolved.joints[joint].rest
    away = ""
    if rest is not None:
        away = f", {joint_value_words(evaluation, joint, value - rest)} from its rest"
    return f"On show: {told}{away}, leaning: {on}."


def _group_words(evaluation: Evaluation, group: Group) -> tuple[Outcome, str]:
    """A set of bodies that no joint connects to the others: 'Drip tray: 1 freedom, on its own'."""
    names = [evaluation.document.bodies[b].title for b in group.bodies[:3]]
    more = len(group.bodies) - len(names)
    who = ", ".join(names) + (f" and {more} more" if more else "")
    noun = "freedom" if group.freedoms == 1 else "freedoms"
    words = f"{who}: {group.freedoms or 'no'} {noun}"
    if group.has_frame:
        return Outcome.PASS, f"{words}, connected with the rest only through what is fixed."
    return Outcome.WARN, f"{words}; not joined to anything fixed."


def reach_words(evaluation: Evaluation, driver: int, end: ReachEnd) -> str:
    """One end of a reachable range: '78.3° (dead point)'."""
    joint = evaluation.resolved.program.joints[driver]
    value = joint_value_words(evaluation, joint, end.value)
    if end.joint is not None:
        title = evaluation.document.joints[end.joint].title
        ending = f"end of {_ending(evaluation, end.joint)} of"
        why = {"limit": "limit of", "slot end": ending, "left": "leaves its guide:"}
        return f"{value} ({why[end.reason]} {title})"
    reasons = {
        "full turn": "turns fully",
        "dead point": "dead point",
        "blocked": "cannot move",
        "lost": "cannot close",
        "far": "nothing stops it",
        "contact": "stopped by contact",
        "undecided": "cannot be told",
    }
    return f"{value} ({reasons[end.reason]})"


def verdict_words(evaluation: Evaluation) -> str:
    """The verdict in one phrase: '1 of 7 fails'."""
    verdict = evaluation.verdict
    total = len(verdict.findings)
    failed, unknown = verdict.count(Outcome.FAIL), verdict.count(Outcome.UNKNOWN)
    if failed:
        return f"{failed} of {total} {'fails' if failed == 1 else 'fail'}"
    if unknown:
        return f"{unknown} of {total} cannot be judged"
    warned = verdict.count(Outcome.WARN)
    if warned:
        return f"all {total} pass, {warned} {'doubt' if warned == 1 else 'doubts'}"
    return f"all {total} pass"
