"""Units: made of bodies and uses that stand on the stage, and taken apart again."""

from __future__ import annotations

from collections.abc import Sequence

from anakinema.document import model
from anakinema.document.flatten import JOINT, flatten
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.structure import SetPoses
from anakinema.edits.subassemblies import Dissolve, MakeSubassembly
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.units import LENGTH


def made_unit(resolved: Resolved, bodies: Sequence[str], name: str) -> tuple[Edit, str]:
    """The edit that makes a unit of bodies and uses, and the id of its first use.

    A body inside a use stands for the whole use: units may be made of units.
    """
    source = resolved.source
    own = {body.id for body in source.bodies}
    instances = tuple(dict.fromkeys(name.partition(JOINT)[0] for name in bodies if JOINT in name))
    bodies = [name for name in bodies if JOINT not in name]
    if not (bodies or instances) or any(body not in own for body in bodies):
        raise ValueOutOfRangeError(
            "there is nothing to make a subassembly of.",
            where="subassembly",
            remedy="Select one or more bodies first.",
        )
    unit = fresh_id(name, [u.id for u in source.subassemblies])
    use = fresh_id(unit, _taken(source))
    factor = resolved.units.factor(LENGTH)
    heights = {
        body.id: round(float(resolved.heights[i]) / factor, 9)
        for i, body in enumerate(resolved.document.bodies)
        if body.id in set(bodies)
    }
    edit = MakeSubassembly(tuple(bodies), unit, use, heights, instances)
    # Units of units of units: what would be nested too deep is refused before it is made.
    flatten(edit.apply(source))
    return edit, use


def _taken(source: model.Document) -> set[str]:
    return {body.id for body in source.bodies} | {use.id for use in source.instances}


def taken_apart(resolved: Resolved, poses: Floats, use_id: str) -> Edit:
    """A use becomes what its unit is made of, where that stands; units inside stay units."""
    rows = []
    for index, body in enumerate(resolved.document.bodies):
        if body.id.startswith(f"{use_id}{JOINT}"):
            x, y, angle = (float(v) for v in poses[index])
            rows.append((body.id, x, y, angle))
    factor = resolved.units.factor(LENGTH)
    heights = {
        body.id.removeprefix(f"{use_id}{JOINT}"): round(float(resolved.heights[i]) / factor, 9)
        for i, body in enumerate(resolved.document.bodies)
        if body.id.startswith(f"{use_id}{JOINT}")
    }
    return Together("Take apart", (SetPoses(tuple(rows), "Place"), Dissolve(use_id, heights)))
