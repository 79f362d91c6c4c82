"""Skeleton first: bare lengths between pivots that already move, dressed with bodies later."""

from __future__ import annotations

import math
from dataclasses import dataclass

from anakinema.authoring.jointing import is_stacked
from anakinema.authoring.snap_points import PlacedSnap
from anakinema.authoring.touching import fits, seated_rise
from anakinema.document import model
from anakinema.document.resolve import Resolved, resolve
from anakinema.document.solids import SolidPart
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import Add, SetBody, SetJoint
from anakinema.errors import ValueOutOfRangeError
from anakinema.parts.shelf import recipe, stick
from anakinema.units import LENGTH

SHORTEST = 1.0
"""mm; a shorter stick is a slip of the hand."""


@dataclass(frozen=True, slots=True)
class Dress:
    """How a recipe fits on a stick: its dimension for the length, its places for both ends."""

    recipe: str
    length: str
    start: str
    end: str


DRESSES = (
    Dress("link", "length", "a", "b"),
    Dress("slotted_link", "length", "a", "b"),
    Dress("long_link", "length", "a", "c"),
    Dress("crank", "throw", "shaft", "pin"),
    Dress("disc", "throw", "centre", "a"),
    Dress("base", "spacing", "a", "b"),
    Dress("eared_base", "spacing", "a", "b"),
)


def stick_between(
    resolved: Resolved,
    start: tuple[float, float],
    end: tuple[float, float],
    start_snap: PlacedSnap | None,
    end_snap: PlacedSnap | None,
) -> tuple[Edit, str]:
    """A stick from one point (mm) to another, pinned to the snaps it begins and ends on.

    Gives the edit and the id of the new body; raises `ValueOutOfRangeError` if it is too short.
    """
    length = math.dist(start, end)
    if length < SHORTEST:
        raise ValueOutOfRangeError(
            "a stick needs two points.", where="stick", remedy="Drag from one pivot to the other."
        )
    source, units = resolved.source, resolved.units
    taken = {body.id for body in source.bodies} | {use.id for use in source.instances}
    parts = {part.id for part in source.parts}
    body_id = fresh_id("stick", taken | parts)
    factor = units.factor(LENGTH)
    part = stick(body_id, f"{length / factor:.12g} {units.length}")
    pose = model.Pose(
        x=start[0] / factor,
        y=start[1] / factor,
        angle=f"{math.degrees(math.atan2(end[1] - start[1], end[0] - start[0])):.12g} deg",
    )
    body = model.Body(id=body_id, part=body_id, pose=pose)
    edits: list[Edit] = []
    joints = []
    ids = {joint.id for joint in source.joints}
    for place, snap in (("a", start_snap), ("b", end_snap)):
        if snap is None:
            continue
        if not snap.snap.known:
            owner = resolved.document.body(snap.body).part
            edits.append(AddPlaces(owner, (snap.snap.place,)))
        joint_id = fresh_id(f"{body_id}_{place}_on_{snap.body}", ids)
        ids.add(joint_id)
        title = resolved.document.body(snap.body).title
        joints.append(
            model.Joint(
                id=joint_id,
                kind="revolute",
                name=f"{body_id.replace('_', ' ')} on {title}",
                first=model.Side(body=snap.body, place=snap.snap.place.id),
                second=model.Side(body=body_id, place=place),
            )
        )
    edits.append(Add("Stick", parts=(part,), bodies=(body,), joints=tuple(joints)))
    return Together("Draw a stick", tuple(edits)), body_id


def is_stick(part: model.Part) -> bool:
    """Whether a part is a bare length."""
    return not part.slabs and any(d.id == "length" for d in part.dimensions)


def dressed(resolved: Resolved, body_id: str, recipe_id: str, colour: model.Colour) -> Edit:
    """The edit that gives a stick a body from the shelf: same length, same joints."""
    source = resolved.source
    body = source.body(body_id)
    old = source.part(body.part)
    dress = next(d for d in DRESSES if d.recipe == recipe_id)
    length = model.next_by_id(old.dimensions, "length").value
    new_id = fresh_id(recipe_id, [part.id for part in source.parts])
    made = recipe(recipe_id)
    part = made.part(new_id, colour, **{dress.length: str(length)})
    renamed = {"a": dress.start, "b": dress.end}
    edits: list[Edit] = [Add("Dress", parts=(part,)), SetBody(body_id, "part", new_id)]
    joints = []
    for joint in source.joints:
        sides = {}
        for name in ("first", "second"):
            side: model.Side = getattr(joint, name)
            if side.body == body_id:
                place = renamed.get(side.place, side.place)
                sides[name] = model.Side(body=body_id, place=place)
        for name, side in sides.items():
            edits.append(SetJoint(joint.id, name, side))
        if sides:
            joints.append(joint.id)
    after = Together("Dress", tuple(edits)).apply(source)
    edits += _seated(resolve(after), joints)
    return Together(f"Dress {body.title}", tuple(edits))


def _seated(resolved: Resolved, joint_ids: list[str]) -> list[Edit]:
    """Touching pieces and places in the stack of joints whose both bodies are dressed."""
    edits: list[Edit] = []
    document = resolved.document
    for joint_id in joint_ids:
        joint = next((j for j in document.joints if j.id == joint_id), None)
        if joint is None:
            continue
        sides: list[tuple[SolidPart, float, float, float]] = []
        for side in (joint.first, joint.second):
            solid = resolved.part_of(document.body(side.body))
            sides.append((solid, *solid.places[side.place]))
        if not all(side[0].slabs for side in sides):
            continue
        found = fits(joint.kind, sides[0], sides[1])
        for name, pick in (("first", 0), ("second", 1)):
            pieces = tuple(dict.fromkeys((fit.first, fit.second)[pick].piece for fit in found))
            edits.append(
                SetJoint(joint_id, name, getattr(joint, name).model_copy(update={"pieces": pieces}))
            )
        trial = Together("Dress", tuple(edits)).apply(resolved.source)
        if joint.rise is None and not is_stacked(trial, joint.first.body, joint.second.body):
            rise = seated_rise(found, sides[0][:3], sides[1][:3])
            edits.append(SetJoint(joint_id, "rise", round(rise / resolved.units.factor(LENGTH), 9)))
    return edits
