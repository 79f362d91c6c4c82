"""What a join would come to, in lines."""

from __future__ import annotations

from anakinema.authoring.closing_loops import TOUCHING
from anakinema.authoring.joining import Proposal
from anakinema.units import ANGLE, LENGTH

LOOSE = 0.15
"""Share of a pin's size from which its play is named as too much."""


def join_words(proposal: Proposal) -> list[str]:
    """What a join would come to, a line each: misfit, freedoms, repeats, play."""
    units, wish = proposal.resolved.units, proposal.wish
    lines = []
    if not proposal.is_closed:
        apart = units.format(proposal.apart, LENGTH)
        return [f"The loop cannot close: {apart} stay open. Change a length, or the kind of joint."]
    if wish.manner == "stand":
        apart = units.format(proposal.apart, LENGTH)
        if proposal.apart < TOUCHING and proposal.askew < TOUCHING:
            lines.append("The two places meet as they stand.")
        else:
            askew = units.format(proposal.askew, ANGLE)
            line = f", {askew} out of line" if proposal.askew > TOUCHING else ""
            lines.append(f"They stand {apart} apart{line}. Joining closes it exactly.")
    if proposal.turned:
        names = " and ".join(proposal.turned[:4])
        lines.append(f"{names} would be assembled the other way round.")
    if not proposal.is_continued:
        lines.append(
            "The loop closes only if other parts move first; the ghosts show where all would stand."
        )
    left = proposal.freedoms
    noun = "freedom" if left == 1 else "freedoms"
    lines.append(f"Leaves {left or 'no'} {noun} of motion, before {proposal.freedoms_before}.")
    if proposal.repeats:
        names = ", ".join(proposal.repeats[:4])
        lines.append(f"Repeats what is held already by {names}: it moves only if sizes match.")
    for fit in proposal.play:
        inner, outer = units.format(fit.inner, LENGTH), units.format(fit.outer, LENGTH)
        play = units.format(fit.play, LENGTH)
        diagnostic = "" if fit.play > 0 else ": too tight, open the hole"
        if fit.play > LOOSE * fit.inner:
            diagnostic = (
                f": loose; make the pin or block {outer} less its play, or the hole smaller"
            )
        lines.append(f"{inner} in {outer}, play {play}{diagnostic}.")
    if proposal.ghosts:
        lines.append("It can be assembled in two ways; both are shown.")
    return lines
