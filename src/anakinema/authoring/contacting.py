"""Let two bodies touch: what stops, pushes or stays in touch, and joints that give way."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.reach import where_it_touches
from anakinema.authoring.gauge import Bound, value_at
from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.contact_kinds import contact_spec
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.structure import Add, SetJoint
from anakinema.edits.values import SetLimit
from anakinema.errors import EditRefusedError, ValueOutOfRangeError
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.value_wording import joint_value_words
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import relative_poses
from anakinema.mechanism.compile import compile_mechanism
from anakinema.motion.standing import kept_in_touch
from anakinema.units import ANGLE, LENGTH


@dataclass(frozen=True, slots=True, eq=False)
class ContactDraft:
    """What a contact comes to: the edit, and what is to be said of it."""

    edit: Edit
    contact: model.Contact
    words: tuple[str, ...]


def contact_between(
    resolved: Resolved,
    poses: Floats,
    kind: model.ContactKind,
    first: str,
    second: str | None,
    *,
    rolling: bool = False,
) -> ContactDraft:
    """The contact of a body with another one, or with ``None`` for any other.

    Raises an `AnakinemaError` if the two cannot touch, or touch by another contact already.
    """
    document = resolved.document
    titles = {body.id: body.title for body in document.bodies}
    where = f"{titles[first]} and {'the others' if second is None else titles[second]}"
    pair = {first, second}
    for contact in document.contacts:
        other = None if contact.second is None else contact.second.body
        if {contact.first.body, other} == pair:
            raise ValueOutOfRangeError(
                f"they touch by '{contact.title}' already.",
                where=where,
                remedy="Change that contact, or delete it first.",
            )
    spec = contact_spec(kind)
    name = f"{titles[first]} {spec.verb} {'all' if second is None else titles[second]}"
    contact = model.Contact(
        id=fresh_id(name, (c.id for c in document.contacts)),
        kind=kind,
        name=name,
        first=model.Surface(body=first),
        second=None if second is None else model.Surface(body=second),
        rolling=rolling and spec.keeps,
    )
    trial = resolve(document.model_copy(update={"contacts": (*document.contacts, contact)}))
    mechanism = compile_mechanism(trial)
    index = len(document.contacts)
    facings = [facing for facing in mechanism.facings if facing.contact == index]
    if not facings:
        raise ValueOutOfRangeError(
            "they share no heights in the stack, or only in the pieces of a joint between them.",
            where=where,
            remedy="Move one of them in the stack, or choose other bodies.",
        )
    words: list[str] = []
    if spec.pushes:
        yielding = [document.joints[k].title for k, _ in mechanism.yields]
        words.append(
            f"can be pushed: {', '.join(yielding)}"
            if yielding
            else "nothing can be pushed yet: choose a spring or its weight for a joint"
        )
    if spec.keeps:
        standing = kept_in_touch(mechanism, poses)
        for f, pairing in standing.kept.items():
            facing = mechanism.facings[f]
            if facing.contact != index:
                continue
            a, b = facing.bodies
            gap, _ = facing.pairs.gaps(relative_poses(poses[None, a], poses[None, b]))
            apart = float(gap[0, pairing.pair])
            if abs(apart) > 1e-6:
                words.append(
                    f"now {resolved.units.format(abs(apart), LENGTH)}"
                    f" {'apart' if apart > 0 else 'inside each other'}: they are brought together"
                )
    return ContactDraft(Add(f"Let {name}", contacts=(contact,)), contact, tuple(words))


def giving_way(resolved: Resolved, joint_id: str, how: model.Yielding | None, value: float) -> Edit:
    """A joint that gives way and returns by spring or gravity, or no longer does.

    Without a rest value yet it takes ``value`` (rad or mm), the one on show.
    """
    joint = resolved.document.joint(joint_id)
    edit = SetJoint(joint_id, "yields", how)
    if how in (None, "friction") or joint.limits.rest is not None:
        return edit
    angular = spec_of(joint.kind).dimension == ANGLE
    shown = float(np.round(math.degrees(value) if angular else value, 6))
    rest = SetLimit(joint_id, "rest", f"{shown:.9g} {'deg' if angular else 'mm'}")
    return Together(f"Let {joint.title} give way", (rest, edit))


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
    value = value_at(evaluation, _moving(evaluation, joint_id), progress)
    return giving_way(evaluation.resolved, joint_id, how, value)


def _moving(evaluation: Evaluation, joint_id: str) -> int:
    """The index of a joint that takes part; raises an `EditRefusedError` for one that does not."""
    for index, joint in enumerate(evaluation.document.joints):
        if joint.id == joint_id:
            return index
    raise EditRefusedError(
        "it takes no part now: it or one of its bodies is switched off.",
        where=f"joint '{joint_id.replace('_', ' ')}'",
        remedy="Switch it on first.",
    )


def touch_limit(evaluation: Evaluation, joint_id: str, which: Bound, progress: float) -> TouchLimit:
    """The limit of a joint where moving it from the pose at ``progress`` first makes bodies touch.

    Raises an `AnakinemaError` if the mechanism cannot be moved from there.
    """
    joint = _moving(evaluation, joint_id)
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
