"""What is doubtful about an assembly, in words, each with what to show and, where there is one,
an edit that mends it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from anakinema.authoring.touching import Fit, joint_fits, round_features
from anakinema.document import model
from anakinema.document.depending import Going
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Keyed, Together, replaced
from anakinema.edits.structure import Remove, SetBody
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.mobility_wording import freedom_words
from anakinema.units import LENGTH

SAME_PLACE = 1e-6
LEAST_PLAY = 0.2
"""mm on the diameter that the remedy for a tight hole gives: a common running fit of small pins
(common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Diagnostic:
    """kind : a code. words : what is doubtful; short : where there is little room. bodies,
    joints : ids to show. remedy : what the fix would do, in words; fix : the edit."""

    kind: str
    words: str
    bodies: tuple[str, ...] = ()
    joints: tuple[str, ...] = ()
    remedy: str = ""
    fix: Edit | None = None
    short: str = ""


def diagnostics(resolved: Resolved, evaluation: Evaluation | None) -> tuple[Diagnostic, ...]:
    """All doubts about a document, most pressing first.

    ``evaluation`` of the same document, if there is one, adds what only the motion tells.
    """
    found = _of_document(resolved)
    return found if evaluation is None else (*found, *_freedoms(evaluation))


@lru_cache(maxsize=2)
def _of_document(resolved: Resolved) -> tuple[Diagnostic, ...]:
    """What the newest document alone tells, asked by every panel that shows some of it."""
    return (
        *_frame(resolved),
        *_unjoined(resolved),
        *_twins(resolved),
        *_tight(resolved),
        *_planes(resolved),
    )


def _frame(resolved: Resolved) -> Iterator[Diagnostic]:
    document = resolved.document
    fixed = [body for body in document.bodies if body.fixed]
    if document.bodies and not fixed:
        first = document.bodies[0]
        yield Diagnostic(
            "no frame",
            "nothing is fixed",
            (first.id,),
            (),
            f"Fix {first.title}",
            SetBody(first.id, "fixed", True),
            short="nothing is fixed",
        )
    joined = {side.body for j in document.joints for side in (j.first, j.second)}
    seen: set[str] = set()
    for body in fixed:
        if body.plane not in seen:
            # Each plane has a frame of its own.
            seen.add(body.plane)
            continue
        if body.id in joined:
            yield Diagnostic(
                "second frame",
                f"{body.title} is fixed as well: intended?",
                (body.id,),
                (),
                f"Free {body.title}",
                SetBody(body.id, "fixed", False),
            )


def _planes(resolved: Resolved) -> Iterator[Diagnostic]:
    """Planes on which nothing stands still."""
    document = resolved.document
    used = {body.plane for body in document.bodies}
    if len(used) < 2:
        return
    fixed = {body.plane for body in document.bodies if body.fixed}
    for plane in document.planes:
        if plane.id in used - fixed and fixed:
            first = next(body for body in document.bodies if body.plane == plane.id)
            yield Diagnostic(
                "no frame",
                f"nothing is fixed on {plane.title}",
                (first.id,),
                (),
                f"Fix {first.title}",
                SetBody(first.id, "fixed", True),
            )


def _unjoined(resolved: Resolved) -> Iterator[Diagnostic]:
    document = resolved.document
    joined = {side.body for j in document.joints for side in (j.first, j.second)}
    loose = [body for body in document.bodies if body.id not in joined and not body.fixed]
    if len(document.bodies) > 1 and loose:
        count = len(loose)
        words = (
            f"{loose[0].title} is not joined yet" if count == 1 else f"{count} parts not joined yet"
        )
        yield Diagnostic(
            "not joined", words, tuple(body.id for body in loose), short=f"{count} not joined"
        )


def _twins(resolved: Resolved) -> Iterator[Diagnostic]:
    bodies, poses, heights = resolved.document.bodies, resolved.poses, resolved.heights
    for i, one in enumerate(bodies):
        for j in range(i + 1, len(bodies)):
            other = bodies[j]
            if one.part != other.part or abs(heights[i] - heights[j]) > SAME_PLACE:
                continue
            apart = np.abs(poses[i, :2] - poses[j, :2]).max()
            turn = (poses[i, 2] - poses[j, 2] + math.pi) % (2 * math.pi) - math.pi
            if apart < SAME_PLACE and abs(turn) < SAME_PLACE and not _is_inner(other):
                yield Diagnostic(
                    "twins",
                    f"{one.title} and {other.title}: two equal bodies in the same place",
                    (one.id, other.id),
                    (),
                    f"Delete {other.title}",
                    Remove(Going(bodies=frozenset((other.id,))), f"Delete {other.title}"),
                    short="two in one place",
                )


def _is_inner(body: model.Body) -> bool:
    return "__" in body.id


def _tight(resolved: Resolved) -> Iterator[Diagnostic]:
    """Pins without play in their holes, and blocks without play in their slots, stated together."""
    units = resolved.units
    stated: list[str] = []
    joints: list[str] = []
    fixes: list[Edit] = []
    for joint in resolved.document.joints:
        for fit in joint_fits(resolved, joint):
            if not spec_of(joint.kind).moves or fit.play > 1e-9:
                continue
            inner, outer = units.format(fit.inner, LENGTH), units.format(fit.outer, LENGTH)
            manner = "no play" if fit.play > -1e-9 else "less than no play"
            stated.append(f"{joint.title}: {inner} in {outer}, {manner}")
            joints.append(joint.id)
            fix = _opened(resolved, joint, fit)
            fixes += [fix] if fix else []
    if not stated:
        return
    words = stated[0] if len(stated) == 1 else f"{len(stated)} joints without play, as {stated[0]}"
    play = units.format(LEAST_PLAY, LENGTH)
    noun = "hole" if len(fixes) == 1 else "holes"
    remedy = f"Give {play} of play" if fixes else ""
    fix = Together(f"Open the {noun}", tuple(fixes)) if fixes else None
    yield Diagnostic("tight", words, (), tuple(dict.fromkeys(joints)), remedy, fix)


@dataclass(frozen=True)
class OpenHole(Keyed):
    """Give a round hole of a part another radius (document units)."""

    part: str
    slab: str
    hole: str
    radius: float
    label = "Open the hole"
    subject = ("part", "slab", "hole")

    def apply(self, document: model.Document) -> model.Document:
        part = document.part(self.part)
        slabs = []
        for slab in part.slabs:
            holes = tuple(
                hole.model_copy(
                    update={"outline": hole.outline.model_copy(update={"radius": self.radius})}
                )
                if slab.id == self.slab and hole.id == self.hole
                else hole
                for hole in slab.holes
            )
            slabs.append(slab.model_copy(update={"holes": holes}))
        part = part.model_copy(update={"slabs": tuple(slabs)})
        return document.model_copy(update={"parts": replaced(document.parts, part)})


def _opened(resolved: Resolved, joint: model.Joint, fit: Fit) -> Edit | None:
    """The hole of a tight fit opened by the least play; None where it is no circle."""
    side, feature = (joint.first, fit.first) if fit.first.hole else (joint.second, fit.second)
    part = resolved.document.part(resolved.document.body(side.body).part)
    for slab in part.slabs:
        for hole in slab.holes:
            if (slab.id, hole.id) == (feature.slab, feature.hole):
                if not isinstance(hole.outline, model.Circle):
                    return None
                radius = (fit.inner + LEAST_PLAY) / 2 / resolved.units.factor(LENGTH)
                return OpenHole(part.id, slab.id, hole.id, radius)
    return None


def _is_round(evaluation: Evaluation, body: int) -> bool:
    """Whether a body looks the same however it is turned about its only pin."""
    solid = evaluation.resolved.part_of(evaluation.document.bodies[body])
    name = evaluation.document.bodies[body].id
    sides = [side for joint in evaluation.document.joints for side in (joint.first, joint.second)]
    place = next(side.place for side in sides if side.body == name)
    x, y, _ = solid.places[place]
    rims = {feature.slab for feature in round_features(solid, x, y) if feature.hole is None}
    return rims == {slab.id for slab in solid.slabs}


def _freedoms(evaluation: Evaluation) -> Iterator[Diagnostic]:
    mobility, document = evaluation.followed.mobility, evaluation.document
    joined = {side.body for j in document.joints for side in (j.first, j.second)}
    ids = [body.id for body in document.bodies]
    free = [
        f
        for f in mobility.undriven
        if joined & {ids[b] for b in f.bodies}
        and not (f.idle_spin and _is_round(evaluation, f.bodies[0]))
    ]
    if free:
        words = ", ".join(freedom_words(evaluation, freedom, hangs=False) for freedom in free[:3])
        more = f" and {len(free) - 3} more" if len(free) > 3 else ""
        noun = "1 free motion" if len(free) == 1 else f"{len(free)} free motions"
        bodies = tuple(ids[b] for b in free[0].bodies)
        yield Diagnostic("free", f"{noun}: {words}{more}", bodies, short=noun)
    if mobility.repeated:
        titles = [document.joints[j].title for j in mobility.repeated_joints]
        shown = ", ".join(titles[:4]) + (f" and {len(titles) - 4} more" if len(titles) > 4 else "")
        joints = tuple(document.joints[j].id for j in mobility.repeated_joints)
        moves = "it still moves" if mobility.freedoms else "nothing can move"
        words = f"{mobility.repeated} repeated among {shown}; {moves}"
        yield Diagnostic("repeated", words, (), joints)
    elif not mobility.freedoms and len(document.joints) > 1:
        yield Diagnostic(
            "stiff", "nothing can move: there is no freedom left", short="nothing moves"
        )
