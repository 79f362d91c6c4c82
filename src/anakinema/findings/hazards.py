"""The usual cautions where motion can hurt; local codes and licensed practice decide."""

from __future__ import annotations

from anakinema.document import model
from anakinema.document.coupling_kinds import coupling_spec
from anakinema.document.kinds import spec_of
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.value_wording import listed
from anakinema.units import LENGTH

CAUTION_GAP = 25.0
"""mm; least gap that does not crush a finger, ISO 13854 (recalled from memory)."""
MOST_NAMED = 3
DECIDES = "Local codes and a licensed engineer decide."


def cautions(evaluation: Evaluation) -> list[str]:
    """What can hurt in a mechanism that runs, each a sentence or two; the last says who decides."""
    if evaluation.motion.stages == 0:
        return []
    found = [*_pinch(evaluation), *_nips(evaluation.document), *_yielding(evaluation.document)]
    return [*found[:-1], f"{found[-1]} {DECIDES}"] if found else []


def _pinch(evaluation: Evaluation) -> list[str]:
    overlap = next((f for f in evaluation.verdict.findings if f.kind == "overlap"), None)
    if overlap is None or overlap.gap is None or overlap.gap.most >= CAUTION_GAP:
        return []
    gap, units, bodies = overlap.gap, evaluation.resolved.units, evaluation.document.bodies
    pair = f"{bodies[gap.first_body].title} and {bodies[gap.second_body].title}"
    return [
        f"Pinch point: {pair} come within {units.format(max(gap.most, 0.0), LENGTH)}; fingers need"
        f" {units.format(CAUTION_GAP, LENGTH, 0)} (ISO 13854). Guard it."
    ]


def _nips(document: model.Document) -> list[str]:
    """Where something runs on to a wheel it draws in what lies there (common practice)."""
    names = [c.title for c in document.couplings if coupling_spec(c.kind).draws_in]
    names += [belt.title for belt in document.belts]
    if not names:
        return []
    return [f"In-running nip: {_named(names)} draw in fingers, hair and sleeves. Enclose them."]


def _yielding(document: model.Document) -> list[str]:
    """What a spring, weight or pressure moves without any drive (common practice; the standards
    for hydraulics and pneumatics are named from memory)."""
    found = []
    sprung = [joint.title for joint in document.joints if joint.yields == "spring"]
    if sprung:
        found.append(
            f"Stored energy: a spring moves {_named(sprung)} even with the drive off. Let it down"
            " before reaching in."
        )
    falling = [joint.title for joint in document.joints if joint.yields == "gravity"]
    if falling:
        found.append(
            f"Falling part: its weight moves {_named(falling)} even with the drive off. Prop it"
            " before reaching in."
        )
    pressed = [j.title for j in document.joints if spec_of(j.kind).telescopes]
    if pressed:
        found.append(
            f"Stored pressure: {_named(pressed)} can move when a hose or valve fails. Block the"
            " load and let the pressure off before reaching in (ISO 4413, ISO 4414)."
        )
    return found


def _named(names: list[str]) -> str:
    more = len(names) - MOST_NAMED
    return f"{', '.join(names[:MOST_NAMED])} and {more} more" if more > 0 else listed(names)
