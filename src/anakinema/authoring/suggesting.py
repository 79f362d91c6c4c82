"""What is worth asking of a mechanism that is asked nothing yet."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.authoring.asking import Present, first_wish, present, requirement_of
from anakinema.authoring.asking_wish import AskingWish
from anakinema.authoring.question_kinds import subjects
from anakinema.document import model
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation
from anakinema.units import LENGTH

CLOSE = 0.1
"""Share of the mechanism's size below which a gap is close."""


@dataclass(frozen=True, slots=True)
class Suggestion:
    """A requirement with today's value as its bound, in words and with that value."""

    words: str
    now: str
    requirement: model.Requirement


def suggested(evaluation: Evaluation) -> tuple[Suggestion, ...]:
    """The travel of the output, what comes close, limits, the loop's transmission angle, strokes.

    Nothing where nothing moves.
    """
    if not evaluation.motion.stages or not evaluation.motion.segments:
        return ()
    found: list[Suggestion] = []
    for wish, known_now in _wishes(evaluation):
        try:
            now = known_now or present(evaluation, wish)
            requirement = requirement_of(evaluation.resolved, wish, now.value)
        except AnakinemaError:
            continue
        if now.value is None or not _is_telling(wish, now):
            continue
        known = [each.requirement.id for each in found]
        if requirement.id in known:
            continue
        found.append(Suggestion(requirement.title, now.words, requirement))
    return tuple(found)


def _wishes(evaluation: Evaluation) -> list[tuple[AskingWish, Present | None]]:
    """What may be worth asking, with its answer where that is at hand."""
    resolved = evaluation.resolved
    output = first_wish(resolved)
    wishes: list[tuple[AskingWish, Present | None]] = [(output, None)]
    if output.kind == "travel":
        wishes.append((AskingWish("time_ratio", output.first), None))
    gap = evaluation.gaps.parts(frozenset())
    if gap is not None and not gap.overlaps and gap.most < CLOSE * evaluation.mechanism.size:
        ids = [body.id for body in evaluation.document.bodies]
        pair = AskingWish("gap", ids[gap.first_body], ids[gap.second_body])
        # Of all gaps the least: no two bodies need another search.
        now = Present(resolved.units.format(gap.most, LENGTH), gap.least)
        wishes.append((pair, now))
    driven = {driver.joint for driver in evaluation.document.program.drivers}
    fixed = {body.id for body in evaluation.document.bodies if body.fixed}
    joints = {joint.id: joint for joint in evaluation.document.joints}
    for name, _ in subjects(resolved, "reserve"):
        if name not in driven:
            wishes.append((AskingWish("reserve", name), None))
    # Where two moving links meet the push goes over: its angle decides.
    between = [
        name
        for name, _ in subjects(resolved, "transmission")
        if not {joints[name].first.body, joints[name].second.body} & fixed
    ]
    measured = [(present(evaluation, AskingWish("transmission", name)), name) for name in between]
    known = [(now.value, name) for now, name in measured if now.value is not None]
    # A link that turns right round its neighbour passes every angle: nothing to ask there.
    known = [each for each in known if each[0] > 0.05]
    if known:
        wishes.append((AskingWish("transmission", min(known)[1]), None))
    return wishes


def _is_telling(wish: AskingWish, now: Present) -> bool:
    """Whether a value says anything: no travel and a ratio of 1 do not."""
    assert now.value is not None
    if wish.kind == "time_ratio":
        return now.value > 1.02
    return now.value > 1e-6
