"""Contact, as the views ask for it: who can touch, what would come of it, where things touch."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.reach import where_it_touches
from anakinema.building.contacting import ContactDraft, contact_between, giving_way
from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.edits.base import Edit
from anakinema.edits.values import SetLimit
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.value_wording import joint_value_words
from anakinema.session.assembling import Scene
from anakinema.session.gauges import Bound, value_at
from anakinema.units import ANGLE

INWARDS = 1e8
"""A limit from contact is kept to this part of a degree or mm, on the side that is clear."""


@dataclass(frozen=True, slots=True, eq=False)
class TouchLimit:
    """A limit taken from contact: the edit that sets it, None if nothing touches; and words."""

    edit: Edit | None
    words: str


def touchable(scene: Scene) -> tuple[tuple[str, str], ...]:
    """(id, title) of all bodies that have something to touch with."""
    document = scene.resolved.document
    return tuple((b.id, b.title) for b in document.bodies if scene.resolved.part_of(b).slabs)


def contact(
    scene: Scene, kind: model.ContactKind, first: str, second: str | None, *, rolling: bool
) -> ContactDraft:
    """The edit that lets two bodies touch, and what is to be said of it."""
    return contact_between(scene.resolved, scene.poses, kind, first, second, rolling=rolling)


def yielding(
    evaluation: Evaluation, joint_id: str, how: model.Yielding | None, progress: float
) -> Edit:
    """The edit by which a joint gives way or no longer does, at rest as it stands on show."""
    ids = [joint.id for joint in evaluation.document.joints]
    value = value_at(evaluation, ids.index(joint_id), progress)
    return giving_way(evaluation.resolved, joint_id, how, value)


def touch_limit(evaluation: Evaluation, joint_id: str, which: Bound, progress: float) -> TouchLimit:
    """The limit of a joint where moving it from the pose at ``progress`` first makes bodies touch.

    Raises an `AnakinemaError` if the mechanism cannot be moved from there.
    """
    joint = [each.id for each in evaluation.document.joints].index(joint_id)
    at = evaluation.motion.at(np.array([progress]))
    side = -1 if which == "least" else 1
    found = where_it_touches(evaluation.mechanism, at.poses[0], at.values[0], joint, side)
    title = evaluation.document.joints[joint].title
    if found is None:
        way = "down" if side < 0 else "up"
        return TouchLimit(None, f"Nothing touches as {title} goes {way} from here.")
    one, two = (evaluation.document.bodies[b].title for b in found.bodies)
    value = joint_value_words(evaluation, joint, found.value)
    words = f"{title} {which} {value}, where {one} touches {two}."
    angular = spec_of(evaluation.document.joints[joint].kind).dimension == ANGLE
    shown = (math.degrees(found.value) if angular else found.value) * INWARDS
    inwards = math.ceil(shown) if side < 0 else math.floor(shown)
    text = f"{inwards / INWARDS:.14g} {'deg' if angular else 'mm'}"
    return TouchLimit(SetLimit(joint_id, which, text), words)
