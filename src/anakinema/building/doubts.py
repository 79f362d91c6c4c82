"""What is doubtful about an assembly, in words, each with what to show and, where there is one,
an edit that mends it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from anakinema.building.touching import Fit, joint_fits
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit
from anakinema.edits.structure import Remove, ReplacePart, SetBody
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.wording import freedom_words
from anakinema.units import LENGTH

SAME_PLACE = 1e-6
LEAST_PLAY = 0.2
"""mm on the diameter that the remedy for a tight hole gives: a common running fit of small pins
(common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Doubt:
    """kind : a code. words : what is doubtful. bodies, joints : ids to show. remedy : what the
    fix would do, in words; fix : the edit."""

    kind: str
    words: str
    bodies: tuple[str, ...] = ()
    joints: tuple[str, ...] = ()
    remedy: str = ""
    fix: Edit | None = None


def doubts(resolved: Resolved, evaluation: Evaluation | None) -> tuple[Doubt, ...]:
    """All doubts about a document, most pressing first.

    ``evaluation`` of the same document, if there is one, adds what only the motion tells.
    """
    found = [*_frame(resolved), *_unjoined(resolved), *_twins(resolved), *_tight(resolved)]
    if evaluation is not None:
        found += _freedoms(evaluation)
    return tuple(found)


def _frame(resolved: Resolved) -> Iterator[Doubt]:
    document = resolved.document
    fixed = [body for body in document.bodies if body.fixed]
    if document.bodies and not fixed:
        first = document.bodies[0]
        yield Doubt(
            "no frame", "nothing is fixed", (first.id,), (), f"Fix {first.title}",
            SetBody(first.id, "fixed", True),
        )  # fmt: skip
    joined = {side.body for j in document.joints for side in (j.first, j.second)}
    for body in fixed[1:]:
        if body.id in joined:
            yield Doubt(
                "second frame", f"{body.title} is fixed as well: intended?", (body.id,), (),
                f"Free {body.title}", SetBody(body.id, "fixed", False),
            )  # fmt: skip


def _unjoined(resolved: Resolved) -> Iterator[Doubt]:
    document = resolved.document
    joined = {side.body for j in document.joints for side in (j.first, j.second)}
    loose = [body for body in document.bodies if body.id not in joined and not body.fixed]
    if len(document.bodies) > 1 and loose:
        count = len(loose)
        words = (
            f"{loose[0].title} is not joined yet" if count == 1 else f"{count} parts not joined yet"
        )
        yield Doubt("not joined", words, tuple(body.id for body in loose))


def _twins(resolved: Resolved) -> Iterator[Doubt]:
    bodies, poses, heights = resolved.document.bodies, resolved.poses, resolved.heights
    for i, one in enumerate(bodies):
        for j in range(i + 1, len(bodies)):
            other = bodies[j]
            if one.part != other.part or abs(heights[i] - heights[j]) > SAME_PLACE:
                continue
            apart = np.abs(poses[i, :2] - poses[j, :2]).max()
            turn = (poses[i, 2] - poses[j, 2] + math.pi) % (2 * math.pi) - math.pi
            if apart < SAME_PLACE and abs(turn) < SAME_PLACE and not _is_inner(other):
                yield Doubt(
                    "twins", f"{one.title} and {other.title}: two equal bodies in the same place",
                    (one.id, other.id), (), f"Delete {other.title}",
                    Remove(frozenset((other.id,)), f"Delete {other.title}"),
                )  # fmt: skip


def _is_inner(body: model.Body) -> bool:
    return "__" in body.id


def _tight(resolved: Resolved) -> Iterator[Doubt]:
    """Pins without play in their holes, and blocks without play in their slots."""
    units = resolved.units
    for joint in resolved.document.joints:
        for fit in joint_fits(resolved, joint):
            if joint.kind == "rigid" or fit.play > 1e-9:
                continue
            inner, outer = units.format(fit.inner, LENGTH), units.format(fit.outer, LENGTH)
            manner = "no play" if fit.play > -1e-9 else "less than no play"
            words = f"{joint.title}: {inner} in {outer}, {manner}"
            fix = _opened(resolved, joint, fit)
            remedy = (
                f"Open the hole to {units.format(fit.inner + LEAST_PLAY, LENGTH)}" if fix else ""
            )
            yield Doubt("tight", words, (), (joint.id,), remedy, fix)


def _opened(resolved: Resolved, joint: model.Joint, fit: Fit) -> Edit | None:
    """The hole of a tight fit opened by the least play; None where it is no circle."""
    side, feature = (joint.first, fit.first) if fit.first.hole else (joint.second, fit.second)
    part = resolved.document.part(resolved.document.body(side.body).part)
    radius = (fit.inner + LEAST_PLAY) / 2 / resolved.units.factor(LENGTH)
    slabs = []
    changed = False
    for slab in part.slabs:
        holes = []
        for hole in slab.holes:
            if slab.id == feature.slab and hole.id == feature.hole:
                if not isinstance(hole.outline, model.Circle):
                    return None
                outline = hole.outline.model_copy(update={"radius": radius})
                hole, changed = hole.model_copy(update={"outline": outline}), True
            holes.append(hole)
        slabs.append(slab.model_copy(update={"holes": tuple(holes)}))
    if not changed:
        return None
    return ReplacePart(part.model_copy(update={"slabs": tuple(slabs)}), "Open the hole")


def _freedoms(evaluation: Evaluation) -> Iterator[Doubt]:
    mobility, document = evaluation.course.mobility, evaluation.document
    joined = {side.body for j in document.joints for side in (j.first, j.second)}
    ids = [body.id for body in document.bodies]
    free = [f for f in mobility.undriven if not f.idle_spin and joined & {ids[b] for b in f.bodies}]
    if free:
        words = ", ".join(freedom_words(evaluation, freedom) for freedom in free[:3])
        more = f" and {len(free) - 3} more" if len(free) > 3 else ""
        noun = "1 free motion" if len(free) == 1 else f"{len(free)} free motions"
        bodies = tuple(ids[b] for b in free[0].bodies)
        yield Doubt("free", f"{noun}: {words}{more}", bodies)
    if mobility.repeated:
        titles = [document.joints[j].title for j in mobility.repeated_joints]
        shown = ", ".join(titles[:4]) + (f" and {len(titles) - 4} more" if len(titles) > 4 else "")
        joints = tuple(document.joints[j].id for j in mobility.repeated_joints)
        moves = "it still moves" if mobility.freedoms else "nothing can move"
        words = f"{mobility.repeated} repeated among {shown}; {moves}"
        yield Doubt("repeated", words, (), joints)
    elif not mobility.freedoms and len(document.joints) > 1:
        yield Doubt("stiff", "nothing can move: there is no freedom left", ())
