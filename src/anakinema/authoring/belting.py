"""Lay a belt or chain round wheels: radii read off the wheels, its length stated."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from anakinema.authoring.scene import Scene
from anakinema.document import model
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.structure import Add
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.belts import belt_runs, drawn_length, lay, wheels_on_axles
from anakinema.mechanism.compile import compile_mechanism
from anakinema.units import LENGTH

BeltKind = Literal["belt", "chain"]


@dataclass(frozen=True, slots=True, eq=False)
class BeltDraft:
    """What a loop comes to: the edit, and what is to be said of it."""

    edit: Edit
    belt: model.Belt
    words: tuple[str, ...]


def wheel_radius(resolved: Resolved, wheel: model.Side) -> float | str:
    """The radius of a wheel where a belt or chain lies on it, as an expression of its part."""
    document = resolved.document
    part = document.part(document.body(wheel.body).part)
    names = {d.id for d in part.dimensions}
    if {"pitch", "teeth"} <= names:
        return f"{part.id}.pitch/(2*sin(180 deg/{part.id}.teeth))"
    if {"module", "teeth"} <= names:
        return f"{part.id}.module*{part.id}.teeth/2"
    if "diameter" in names:
        return f"{part.id}.diameter/2"
    return "20 mm"


def belt_round(resolved: Resolved, wheels: Sequence[tuple[str, bool]], kind: BeltKind) -> BeltDraft:
    """A loop over the wheels of joints (id, whether on its back) in the order it meets them.

    Raises an `AnakinemaError` if it cannot be laid so.
    """
    document = resolved.document
    joints = [document.joint(name) for name, _ in wheels]
    if len(joints) < 2 or len({joint.id for joint in joints}) < len(joints):
        raise ValueOutOfRangeError(
            "a loop runs over two wheels or more, each once.",
            where="belt",
            remedy="Add the wheels in the order the belt meets them, anticlockwise.",
        )
    belt = model.Belt(
        id=fresh_id(kind, (each.id for each in resolved.source.belts)),
        kind=kind,
        name=f"{kind} round {len(joints)} wheels",
        wheels=tuple(
            _wheel(resolved, joint, back) for joint, (_, back) in zip(joints, wheels, strict=True)
        ),
    )
    edit = Add("Lay a loop", belts=(belt,))
    after = resolve(edit.apply(resolved.source))
    compile_mechanism(after).belts  # noqa: B018  (raises if it cannot be laid)
    return BeltDraft(edit, belt, belt_words(after, belt.id))


def _wheel(resolved: Resolved, joint: model.Joint, back: bool) -> model.BeltWheel:
    """The wheel that a joint turns: its second body, or its first if the second stands still."""
    still = {body.id for body in resolved.document.bodies if body.fixed}
    turned = joint.second.body in still and joint.first.body not in still
    return model.BeltWheel(
        joint=joint.id,
        back=back,
        side="first" if turned else "second",
        radius=wheel_radius(resolved, joint.first if turned else joint.second),
    )


def belt_words(resolved: Resolved, belt_id: str) -> tuple[str, ...]:
    """What there is to know of a loop: its length as drawn, and in links if all pitches agree."""
    document = resolved.document
    index = [each.id for each in document.belts].index(belt_id)
    belt = document.belts[index]
    drawn = drawn_length(wheels_on_axles(resolved), belt_runs(resolved)[index])
    words = [f"{resolved.units.format(drawn, LENGTH)} long as drawn"]
    if belt.kind == "chain":
        pitches = set()
        for wheel in belt.wheels:
            turning, _ = wheel.sides(document.joint(wheel.joint))
            part = document.part(document.body(turning.body).part)
            if any(d.id == "pitch" for d in part.dimensions):
                pitches.add(round(resolved.number(part, "pitch", LENGTH), 9))
        if len(pitches) == 1:
            links = drawn / pitches.pop()
            even = 2 * math.ceil(links / 2 - 1e-9)
            words.append(f"{links:.2f} links; {even} is the next even number")
        elif pitches:
            words.append("its sprockets have different pitches")
    return tuple(words)


STEP = math.radians(4)


def turning_joints(scene: Scene) -> tuple[tuple[str, str], ...]:
    """(id, title) of all joints that turn a wheel."""
    joints = scene.resolved.document.joints
    return tuple((joint.id, joint.title) for joint in joints if joint.kind == "revolute")


def belt(scene: Scene, wheels: Sequence[tuple[str, bool]], kind: BeltKind) -> BeltDraft:
    """The edit that lays a loop, and what is to be said of it."""
    return belt_round(scene.resolved, wheels, kind)


def stated_of_belt(scene: Scene, belt_id: str) -> tuple[str, ...]:
    """What there is to know of a loop that is in force; nothing if it is not."""
    if all(each.id != belt_id for each in scene.resolved.document.belts):
        return ()
    try:
        return belt_words(scene.resolved, belt_id)
    except ValueOutOfRangeError as error:
        return (error.advice,)


def belt_lines(resolved: Resolved, poses: Floats) -> list[tuple[Floats, float]]:
    """Closed lines (N, 2) mm along which loops lie at poses (B, 3), and their thickness.

    None while the wheels of one leave it no room, which the evaluation tells.
    """
    out: list[tuple[Floats, float]] = []
    try:
        all_runs = belt_runs(resolved)
    except ValueOutOfRangeError:
        return []
    for runs, values in zip(all_runs, resolved.belts, strict=True):
        laid = lay(runs, poses[None])
        points = []
        for k, wrap in enumerate(laid.wraps[0]):
            steps = np.linspace(0.0, 1.0, max(2, math.ceil(abs(wrap) / STEP)))
            at = laid.directions[0, k - 1] + wrap * steps - math.pi / 2
            around = np.stack([np.cos(at), np.sin(at)], axis=1)
            points += [laid.centres[0, k] + laid.radii[k] * around, laid.ends[0, k]]
        out.append((np.concatenate([*points, points[0][:1]]), values.thickness))
    return out
