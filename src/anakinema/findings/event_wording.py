"""What happens in a motion, in words: events, contact, the ends of guides and ranges."""

from __future__ import annotations

import numpy as np

from anakinema.analysis.reach import ReachEnd
from anakinema.document.strokes import Stroke
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.value_wording import joint_value_words, listed, progress_words
from anakinema.motion.motion import Event, EventKind
from anakinema.motion.windows import Window
from anakinema.units import LENGTH

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
            ends = f"comes to the end of its {ending_of(evaluation, event.joint)}"
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
        EventKind.UNDECIDED: "several assemblies meet here and it cannot be decided which goes on;"
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


def ending_of(evaluation: Evaluation, joint: int) -> str:
    """What of a joint comes to its end."""
    return "stroke" if evaluation.resolved.joints[joint].stroke is not None else "slot"


def guide_words(evaluation: Evaluation, joint: int) -> str:
    """Where the slot, fork, rail, curve or stroke of a joint ends, and what it does there; '' if it
    has no such end."""
    values = evaluation.resolved.joints[joint]
    ends = [(values.least, values.least_by), (values.greatest, values.greatest_by)]
    parts = []
    stops = f"stops at the end of its {ending_of(evaluation, joint)}"
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
    if yields is None or not motion.segments or joint in motion.driver_joints:
        return ""
    segment = motion.segment_at(progress)
    value = float(motion.at(np.array([progress])).values[0, joint])
    stated = joint_value_words(evaluation, joint, value)
    held = any(
        h.kind == "value" and h.index == joint for h in segment.branch_path.path.system.holds
    )
    if held:
        return f"On show: {stated}, {'where it was pushed' if yields == 'friction' else 'at rest'}."
    table, fixed = motion.mechanism.table, motion.mechanism.fixed
    own = {b for b in (int(table.first[joint]), int(table.second[joint])) if not fixed[b]}
    touches = segment.branch_path.path.system.touches
    pairs = dict.fromkeys((min(t.first, t.second), max(t.first, t.second)) for t in touches)
    near = [pair for pair in pairs if own & set(pair)] or list(pairs)
    on = "; ".join(
        f"{document.bodies[one].title} on {document.bodies[two].title}" for one, two in near
    )
    rest = evaluation.resolved.joints[joint].rest
    away = ""
    if rest is not None:
        away = f", {joint_value_words(evaluation, joint, value - rest)} from its rest"
    return f"On show: {stated}{away}, leaning: {on}."


def reach_words(evaluation: Evaluation, driver: int, end: ReachEnd) -> str:
    """One end of a reachable range: '78.3° (dead point)'."""
    joint = evaluation.resolved.program.joints[driver]
    value = joint_value_words(evaluation, joint, end.value)
    if end.joint is not None:
        title = evaluation.document.joints[end.joint].title
        ending = f"end of {ending_of(evaluation, end.joint)} of"
        why = {"limit": "limit of", "slot end": ending, "left": "leaves its guide:"}
        return f"{value} ({why[end.reason]} {title})"
    reasons = {
        "full turn": "turns fully",
        "dead point": "dead point",
        "blocked": "cannot move",
        "lost": "cannot close",
        "far": "nothing stops it",
        "contact": "stopped by contact",
        "undecided": "cannot be decided",
    }
    return f"{value} ({reasons[end.reason]})"


def stopping_words(evaluation: Evaluation) -> str:
    """What of which kind has ended a motion that came to the end of a guide."""
    last = [e.joint for e in evaluation.motion.events if e.kind is EventKind.SLOT_END]
    joint = last[-1] if last else None
    return "slot" if joint is None else ending_of(evaluation, joint)
