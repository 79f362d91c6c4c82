"""Edits of joints: turned round, counted from another place."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.coupling_kinds import Sizes, coupling_spec
from anakinema.document.kinds import Way, spec_of
from anakinema.document.measured import measured_as
from anakinema.document.model import Document
from anakinema.document.references import joints_named
from anakinema.edits.base import Keyed, Source, changed, replaced
from anakinema.edits.structure import POSE_DIGITS
from anakinema.units import LENGTH, UnitSystem


@dataclass(frozen=True)
class ReverseJoint(Keyed):
    """Count a joint the other way round: sides change places, limits and drivers follow.

    Only for joints whose two sides mean the same: rigid, revolute, and prismatic without a twist
    (`can_reverse`); raises `KeyError` for others.
    """

    joint: str
    subject = ("joint",)

    @property
    def label(self) -> str:
        return f"Turn round {self.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        joint = document.joint(self.joint)
        if not can_reverse(joint):
            raise KeyError(self.joint)
        limits = joint.limits
        turned = changed(
            joint,
            first=joint.second,
            second=joint.first,
            twist=negative(joint.twist),
            offset=negative(joint.offset),
            zero=negative(joint.zero),
            rise=None if joint.rise is None else negative(joint.rise),
            limits=model.Limits(
                least=None if limits.greatest is None else negative(limits.greatest),
                greatest=None if limits.least is None else negative(limits.least),
                rest=None if limits.rest is None else negative(limits.rest),
            ),
        )
        document = document.model_copy(update={"joints": replaced(document.joints, turned)})
        program = document.program
        drivers = {d.id for d in program.drivers if d.joint == self.joint}
        program = _with_driven(program, drivers, negative)
        requirements = tuple(
            r.model_copy(update={"measure": measured_as(r.measure).turned(r.measure)})
            if self.joint in joints_named(r)
            else r
            for r in document.requirements
        )
        couplings = tuple(
            c.model_copy(
                update={
                    size: negative(getattr(c, size))
                    for side, size in (("first", "first_size"), ("second", "second_size"))
                    if coupling_spec(c.kind).sizes is Sizes.WAYS and getattr(c, side) == self.joint
                }
            )
            for c in document.couplings
        )
        belts = tuple(
            belt.model_copy(
                update={"wheels": tuple(_turned_round(w, self.joint) for w in belt.wheels)}
            )
            for belt in document.belts
        )
        return document.model_copy(
            update={
                "program": program,
                "requirements": requirements,
                "couplings": couplings,
                "belts": belts,
            }
        )


def _turned_round(wheel: model.BeltWheel, joint: str) -> model.BeltWheel:
    """A wheel of a loop after the sides of a joint have changed places."""
    if wheel.joint != joint:
        return wheel
    return wheel.model_copy(update={"side": "first" if wheel.side == "second" else "second"})


def can_reverse(joint: model.Joint) -> bool:
    """Whether the two sides of a joint mean the same, so that they can change places."""
    spec = spec_of(joint.kind)
    return spec.may_reverse and (spec.way is Way.POINT or joint.twist in (0, 0.0))


@dataclass(frozen=True)
class SetZero(Keyed):
    """Count a joint from another place: its limits and driver stay where they are.

    ``away`` is the value, now shown, that is to read 0: mm or rad.
    """

    joint: str
    away: float
    subject = ("joint",)

    @property
    def label(self) -> str:
        return f"Set zero of {self.joint.replace('_', ' ')}"

    def apply(self, document: Document) -> Document:
        joint = document.joint(self.joint)
        dimension = spec_of(joint.kind).dimension
        factor = UnitSystem(document.units.length, document.units.angle).factor(dimension)
        unit = "mm" if dimension == LENGTH else "rad"

        def less(source: Source | None, away: float) -> Source | None:
            if source is None:
                return None
            if isinstance(source, str):
                return f"{source} - ({away:.12g} {unit})"
            return round(source - away / factor, POSE_DIGITS)

        limits = joint.limits
        moved = changed(
            joint,
            zero=less(joint.zero, -self.away),
            limits=model.Limits(
                least=less(limits.least, self.away),
                greatest=less(limits.greatest, self.away),
                rest=less(limits.rest, self.away),
            ),
        )
        program = document.program
        drivers = {d.id for d in program.drivers if d.joint == self.joint}
        if drivers:
            program = _with_driven(program, drivers, lambda source: less(source, self.away))
        return document.model_copy(
            update={"joints": replaced(document.joints, moved), "program": program}
        )


def negative(source: Source) -> Source:
    """The same quantity with the other sign."""
    if not isinstance(source, str):
        return -source if source else source
    match = re.fullmatch(r"-\((.*)\)", source)
    # Only a bracket that spans the whole text may be dropped.
    if match is not None and match.group(1).count("(") == match.group(1).count(")") == 0:
        return match.group(1)
    return f"-({source})"


def _with_driven(
    program: model.Program, drivers: set[str], other: Callable[[Source], Source | None]
) -> model.Program:
    """The program with the start and every target of some drivers given otherwise."""
    stages = tuple(
        stage.model_copy(
            update={
                "moves": tuple(
                    move.model_copy(update={"to": other(move.to)})
                    if move.driver in drivers
                    else move
                    for move in stage.moves
                )
            }
        )
        for stage in program.stages
    )
    turned = tuple(
        d.model_copy(update={"start": other(d.start)}) if d.id in drivers else d
        for d in program.drivers
    )
    return program.model_copy(update={"drivers": turned, "stages": stages})
