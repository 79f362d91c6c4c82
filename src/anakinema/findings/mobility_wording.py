"""Freedoms, drivers and the program, in words."""

from __future__ import annotations

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Outcome
from anakinema.findings.value_wording import listed
from anakinema.motion.mobility import Freedom, Group


def drivers_words(evaluation: Evaluation) -> str:
    """What is wrong between drivers and freedoms."""
    mobility = evaluation.followed.mobility
    drivers = len(evaluation.resolved.program.joints)
    freedoms = "1 freedom" if mobility.freedoms == 1 else f"{mobility.freedoms} freedoms"
    driven = "1 driver" if drivers == 1 else f"{drivers} drivers"
    if mobility.useless_drivers:
        return f"{driven} for {freedoms}: {mobility.useless_drivers} too many, they fight"
    free = [freedom_words(evaluation, f) for f in mobility.undriven if not f.idle_spin]
    return f"to its end, but {driven} for {freedoms}: {listed(free[:3])}, and nothing drives that"


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
    mobility, document = evaluation.followed.mobility, evaluation.document
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
