"""Another unit for a document: every plain number is converted, every stated unit stays."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from anakinema.document import model
from anakinema.document.couplings import coupling_dimensions
from anakinema.document.flatten import JOINT, joint_kinds
from anakinema.document.keeping import VALUED
from anakinema.document.kinds import value_dimension
from anakinema.document.model import Document
from anakinema.document.resolve import Resolved, requirement_dimension, resolve
from anakinema.edits.base import Keyed
from anakinema.errors import ValueOutOfRangeError
from anakinema.expressions import completed
from anakinema.units import ANGLE, ANGULAR_SPEED, LENGTH, SPEED, Dimension, UnitSystem

LENGTHS = frozenset(
    (
        "x",
        "y",
        "radius",
        "pixel",
        "width",
        "height",
        "corner",
        "fillet",
        "bottom",
        "top",
        "offset",
        "rise",
        "module",
        "backlash",
        "depth",
        "tip",
        "root",
        "centres",
        "slot",
        "lock",
        "play",
        "pitch",
        "roller",
        "length",
        "thickness",
        "arm",
        "beyond",
    )
)
ANGLES = frozenset(("angle", "turned", "twist", "pressure_angle", "lean"))


@dataclass(frozen=True)
class SetUnits(Keyed):
    """Read and type lengths and angles in other units; nothing changes its size.

    Plain numbers are converted. Expressions keep their words: what has units in it means the
    same. Where one leans on a number without a unit, a size would change, and the edit is refused
    with a `ValueOutOfRangeError` that names the part.
    """

    length: str
    angle: str
    label = "Change units"
    subject = ()

    def apply(self, document: Document) -> Document:
        new = model.Units.model_validate({"length": self.length, "angle": self.angle})
        if new == document.units:
            return document
        old_system = UnitSystem(document.units.length, document.units.angle)
        system = UnitSystem(new.length, new.angle)

        def number(value: Any, dimension: Dimension) -> Any:
            if isinstance(value, bool) or value is None:
                return value
            if isinstance(value, str):
                # A bare number in quotes is given the unit it was meant in.
                like = f"1 {old_system.length if dimension == LENGTH else old_system.angle}"
                return completed(value, like, old_system)
            return round(value * old_system.factor(dimension) / system.factor(dimension), 12)

        def walked(node: Any) -> Any:
            if isinstance(node, tuple):
                return tuple(walked(item) for item in node)
            if isinstance(node, model.Joint):
                return _with_joint(node, number, walked)
            if isinstance(node, model.Relation):
                told = number(node.value, VALUED.get(node.kind, LENGTH))
                return node.model_copy(update={"value": told})
            if isinstance(node, model.Cam):
                return _with_cam(node, number, walked)
            if isinstance(node, (model.Parameter, model.Program, model.Units)):
                return node
            if not isinstance(node, model.Model):
                return node
            update: dict[str, Any] = {}
            for name in type(node).model_fields:
                value = getattr(node, name)
                if name in LENGTHS:
                    update[name] = number(value, LENGTH)
                elif name in ANGLES:
                    update[name] = number(value, ANGLE)
                else:
                    update[name] = walked(value)
            return node.model_copy(update=update)

        kinds = joint_kinds(document)
        changed: Document = walked(document)
        program = _with_program(document, kinds, number)
        requirements = tuple(
            r.model_copy(
                update={
                    name: number(getattr(r, name), requirement_dimension(kinds, r))
                    for name in ("least", "greatest", "comfort")
                    if hasattr(r, name)
                }
            )
            for r in document.requirements
        )
        units = tuple(
            unit.model_copy(update=_by_joints(unit, joint_kinds(document, unit), number))
            for unit in changed.subassemblies
        )
        after = changed.model_copy(
            update={
                "units": new, "program": program, "requirements": requirements,
                "subassemblies": units, **_by_joints(changed, kinds, number),
            }
        )  # fmt: skip
        _check_same(resolve(document), resolve(after))
        return after


def _check_same(before: Resolved, after: Resolved) -> None:
    """Every size, place and limit is what it was."""
    for name, solid in before.parts.items():
        other = after.parts[name]
        areas = [[s.region.polygon.area for s in part.slabs] for part in (solid, other)]
        heights = [[(s.bottom, s.top) for s in part.slabs] for part in (solid, other)]
        places = [list(part.places.values()) for part in (solid, other)]
        same = all(np.allclose(a, b, rtol=1e-9, atol=1e-9) for a, b in (areas, heights, places))
        if not same:
            raise ValueOutOfRangeError(
                "some of its numbers have no unit and would change their size.",
                where=f"part '{before.document.part(name).title}'",
                remedy="Give its dimensions, or the parameters they use, a unit first.",
            )
    same = np.allclose(before.poses, after.poses) and np.allclose(before.heights, after.heights)
    values = [
        [(j.twist, j.offset, j.zero, j.least or 0.0, j.greatest or 0.0) for j in each.joints]
        for each in (before, after)
    ]
    if not (same and np.allclose(values[0], values[1])):
        raise ValueOutOfRangeError(
            "some numbers of bodies or joints have no unit and would change.",
            where="units",
            remedy="Give the parameters they use a unit first.",
        )


def _by_joints(
    holder: model.Document | model.Unit, kinds: Mapping[str, model.JointKind], number: Any
) -> dict[str, Any]:
    """What of a document or unit is measured by the kind of a joint: sizes of couplings, and
    limits that its uses set inside."""
    couplings = tuple(
        coupling.model_copy(
            update={
                name: number(getattr(coupling, name), dimension)
                for name, dimension in zip(
                    ("first_size", "second_size"), coupling_dimensions(kinds, coupling), strict=True
                )
                if dimension in (LENGTH, ANGLE)
            }
        )
        for coupling in holder.couplings
    )

    def setting(use: model.UnitUse, old: model.JointSetting) -> model.JointSetting:
        dimension = value_dimension(kinds[f"{use.id}{JOINT}{old.joint}"])
        return old.model_copy(update={"limits": _with_limits(old.limits, dimension, number)})

    uses = tuple(
        use.model_copy(update={"settings": tuple(setting(use, each) for each in use.settings)})
        for use in holder.uses
    )
    return {"couplings": couplings, "uses": uses}


def _with_limits(limits: model.Limits, dimension: Dimension, number: Any) -> model.Limits:
    return limits.model_copy(
        update={n: number(getattr(limits, n), dimension) for n in ("least", "greatest", "rest")}
    )


def _with_joint(joint: model.Joint, number: Any, walked: Any) -> model.Joint:
    dimension = value_dimension(joint.kind)
    return joint.model_copy(
        update={
            "limits": _with_limits(joint.limits, dimension, number),
            "zero": number(joint.zero, dimension),
            "twist": number(joint.twist, ANGLE),
            "offset": number(joint.offset, LENGTH),
            "radius": number(joint.radius, LENGTH),
            "rise": number(joint.rise, LENGTH),
            "first": walked(joint.first),
            "second": walked(joint.second),
        }
    )


def _with_cam(cam: model.Cam, number: Any, walked: Any) -> model.Cam:
    lifted = ANGLE if cam.follower.moves == "swinging" else LENGTH
    segments = tuple(
        s.model_copy(update={"turn": number(s.turn, ANGLE), "to": number(s.to, lifted)})
        for s in cam.segments
    )
    points = tuple(
        p.model_copy(update={"angle": number(p.angle, ANGLE), "lift": number(p.lift, lifted)})
        for p in cam.points
    )
    return cam.model_copy(
        update={
            "base": number(cam.base, LENGTH), "ease": number(cam.ease, ANGLE),
            "follower": walked(cam.follower), "segments": segments, "points": points,
        }
    )  # fmt: skip


def _with_program(
    document: Document, kinds: Mapping[str, model.JointKind], number: Any
) -> model.Program:
    dimensions: Mapping[str, Dimension] = {
        driver.id: value_dimension(kinds[driver.joint]) for driver in document.program.drivers
    }
    drivers = []
    for driver in document.program.drivers:
        dimension = dimensions[driver.id]
        rate = SPEED if dimension == LENGTH else ANGULAR_SPEED
        drivers.append(
            driver.model_copy(
                update={"start": number(driver.start, dimension), "rate": number(driver.rate, rate)}
            )
        )
    stages = []
    for stage in document.program.stages:
        lead = dimensions[stage.moves[0].driver]
        moves = tuple(
            move.model_copy(update={"to": number(move.to, dimensions[move.driver])})
            for move in stage.moves
        )
        stages.append(stage.model_copy(update={"moves": moves, "step": number(stage.step, lead)}))
    return document.program.model_copy(update={"drivers": tuple(drivers), "stages": tuple(stages)})
