"""The guided first build: what to do next, judged by what is really there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from anakinema.document import model


@dataclass(frozen=True, slots=True)
class GuideState:
    """What the guide looks at. freedoms : None while not known. tried, played : so far."""

    document: model.Document
    freedoms: int | None = None
    tried: bool = False
    played: bool = False


@dataclass(frozen=True, slots=True)
class GuideStep:
    """One thing to do, and how it is known to be done."""

    words: str
    is_done: Callable[[GuideState], bool]


def _has_part(document: model.Document, start: str, count: int = 1) -> bool:
    return sum(body.part.startswith(start) for body in document.bodies) >= count


def _joined(document: model.Document, one: str, other: str) -> bool:
    """Whether a body of one kind of part is joined to one of another kind."""
    parts = {body.id: body.part for body in document.bodies}
    return any(
        {one, other}
        == {
            next((k for k in (one, other) if parts.get(side.body, "").startswith(k)), "")
            for side in (joint.first, joint.second)
        }
        for joint in document.joints
    )


def _joints(document: model.Document) -> int:
    return len(document.joints)


STEPS: tuple[GuideStep, ...] = (
    GuideStep(
        "Click “base with two pins” under Parts, then click the stage: it becomes the frame.",
        lambda s: _has_part(s.document, "base") and any(b.fixed for b in s.document.bodies),
    ),
    GuideStep(
        "Place a “crank with pin” beside it the same way.", lambda s: _has_part(s.document, "crank")
    ),
    GuideStep("Place a “link”.", lambda s: _has_part(s.document, "link")),
    GuideStep("Place another “link”.", lambda s: _has_part(s.document, "link", 2)),
    GuideStep(
        "Press J. Click the big hole of the crank, then the left pin of the base, then Enter:"
        " the crank comes to the base.",
        lambda s: _joined(s.document, "crank", "base"),
    ),
    GuideStep(
        "Press J. Click a hole of one link, then the right pin of the base, then Enter.",
        lambda s: _joined(s.document, "link", "base"),
    ),
    GuideStep(
        "Press J. Click a hole of the other link, then the pin of the crank, then Enter.",
        lambda s: _joined(s.document, "link", "crank"),
    ),
    GuideStep(
        "Close the loop: press J, click the free holes of both links, then Enter. O shows the"
        " other way to assemble it.",
        lambda s: _joints(s.document) >= 4 and s.freedoms == 1,
    ),
    GuideStep("Drag the crank with the mouse: everything follows. Let go.", lambda s: s.tried),
    GuideStep(
        "Click the pin where the crank meets the base, then Drive on the right.",
        lambda s: bool(s.document.program.drivers),
    ),
    GuideStep("Press Space to see it run.", lambda s: s.played),
)


def next_step(state: GuideState) -> tuple[int, GuideStep] | None:
    """The first step not yet done and its number from 1; None if all are."""
    for number, step in enumerate(STEPS, start=1):
        if not step.is_done(state):
            return number, step
    return None
