"""Units: made of bodies that stand on the stage, used again, chained, and taken apart."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anakinema.building.repeating import Repeat, Shift, after, between, checked_count
from anakinema.document import model
from anakinema.document.flatten import JOINT
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.structure import Add, Poses, SetPoses
from anakinema.edits.units import Dissolve, MakeUnit
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.units import LENGTH


def made_unit(resolved: Resolved, bodies: Sequence[str], name: str) -> tuple[Edit, str]:
    """The edit that makes a unit of bodies of the document, and the id of its first use."""
    source = resolved.source
    own = {body.id for body in source.bodies}
    if len(bodies) < 1 or any(body not in own for body in bodies):
        raise ValueOutOfRangeError(
            "only bodies of the document itself can become a unit.",
            where="unit",
            remedy="Select one or more of them first.",
        )
    unit = fresh_id(name, [u.id for u in source.subassemblies])
    use = fresh_id(unit, _taken(source))
    factor = resolved.units.factor(LENGTH)
    heights = {
        body.id: round(float(resolved.heights[i]) / factor, 9)
        for i, body in enumerate(resolved.document.bodies)
        if body.id in set(bodies)
    }
    return MakeUnit(tuple(bodies), unit, use, heights), use


def _taken(source: model.Document) -> set[str]:
    return {body.id for body in source.bodies} | {use.id for use in source.uses}


def used_again(
    resolved: Resolved, poses: Floats, use_id: str, shift: Shift
) -> tuple[Edit, str, Poses]:
    """Another use of the unit that a use is of, its bodies shifted from where those stand."""
    source = resolved.source
    use = model.next_by_id(source.uses, use_id)
    new = fresh_id(use.id, _taken(source))
    rows = []
    for index, body in enumerate(resolved.document.bodies):
        if body.id.startswith(f"{use_id}{JOINT}"):
            x, y, angle = (float(v) for v in poses[index])
            inner = body.id.removeprefix(f"{use_id}{JOINT}")
            rows.append((f"{new}{JOINT}{inner}", *shift.point(x, y), shift.angle(angle)))
    copy = use.model_copy(update={"id": new, "name": "", "placements": ()})
    placed = SetPoses(tuple(rows), "Place")
    return Together(f"Use {use.title} again", (Add("Use", uses=(copy,)), placed)), new, tuple(rows)


def taken_apart(resolved: Resolved, poses: Floats, use_id: str) -> Edit:
    """A use becomes plain bodies where they stand."""
    rows = []
    for index, body in enumerate(resolved.document.bodies):
        if body.id.startswith(f"{use_id}{JOINT}"):
            x, y, angle = (float(v) for v in poses[index])
            rows.append((body.id, x, y, angle))
    return Together("Take apart", (SetPoses(tuple(rows), "Place"), Dissolve(use_id)))


def chained_uses(resolved: Resolved, poses: Floats, use_id: str, count: int) -> Repeat:
    """Uses in a chain: each stands to the one before as this one stands to the use it hangs on.

    The use must be joined to another use of the same unit; those joints are made again between
    every new use and the one before it.
    """
    source = resolved.source
    use = model.next_by_id(source.uses, use_id)
    links = []
    other = None
    for joint in source.joints:
        owners = [side.body.partition(JOINT)[0] for side in (joint.first, joint.second)]
        if use_id not in owners or owners[0] == owners[1]:
            continue
        its = owners[1] if owners[0] == use_id else owners[0]
        twin = next((u for u in source.uses if u.id == its and u.unit == use.unit), None)
        if twin is not None:
            links.append(joint)
            other = twin.id
    if other is None:
        raise ValueOutOfRangeError(
            "this use hangs on no other use of the same unit.",
            where=f"use '{use.title}'",
            remedy="Use the unit twice, join the second use to the first, then chain the second.",
        )
    ids = [body.id for body in resolved.document.bodies]
    inner = [name.removeprefix(f"{use_id}{JOINT}") for name in ids
             if name.startswith(f"{use_id}{JOINT}")]  # fmt: skip
    carrier = inner[0]
    before, mine = (ids.index(f"{u}{JOINT}{carrier}") for u in (other, use_id))
    step = between(poses[before], poses[mine])
    lift = float(resolved.heights[mine] - resolved.heights[before])
    taken, joint_ids = _taken(source), {joint.id for joint in source.joints}
    uses: list[model.UnitUse] = []
    joints: list[model.Joint] = []
    rows: list[tuple[str, float, float, float]] = []
    originals: list[int] = []
    last, shift = use_id, Shift()
    factor = resolved.units.factor(LENGTH)
    for k in range(1, checked_count(count)):
        shift = after(step, shift, 0.0)
        new = fresh_id(use.id, taken)
        taken.add(new)
        height = float(resolved.use_heights[use_id]) + k * lift
        uses.append(
            use.model_copy(
                update={"id": new, "name": "", "placements": (), "height": height / factor}
            )
        )
        for name in inner:
            index = ids.index(f"{use_id}{JOINT}{name}")
            x, y, angle = (float(v) for v in poses[index])
            rows.append((f"{new}{JOINT}{name}", *shift.point(x, y), shift.angle(angle)))
            originals.append(index)
        for joint in links:
            joint_id = fresh_id(joint.id, joint_ids)
            joint_ids.add(joint_id)
            renamed = {use_id: new, other: last}
            sides = []
            for side in (joint.first, joint.second):
                owner, mark, rest = side.body.partition(JOINT)
                sides.append(side.model_copy(update={"body": f"{renamed[owner]}{mark}{rest}"}))
            joints.append(
                joint.model_copy(
                    update={"id": joint_id, "name": "", "first": sides[0], "second": sides[1],
                            "rise": None}
                )
            )  # fmt: skip
        last = new
    edit = Together(
        f"Chain of {count}",
        (Add("Chain", uses=tuple(uses), joints=tuple(joints)), SetPoses(tuple(rows), "Place")),
    )
    poses_of = np.array([row[1:] for row in rows]).reshape(-1, 3)
    return Repeat(edit, tuple(u.id for u in uses), poses_of, tuple(originals), ())
