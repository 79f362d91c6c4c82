"""What ties joints and bodies besides joints: couplings, belts, contacts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anakinema.document.model.fields import (
    BodyName,
    FirstSize,
    Identifier,
    JointName,
    Length,
    Model,
    SecondSize,
    Titled,
    Words,
)
from anakinema.document.model.joint import Joint, OutlinePiece, Side

CouplingKind = Literal[
    "gears",
    "internal_gears",
    "rack",
    "belt",
    "crossed_belt",
    "chain",
    "ratio",
    "angled_shafts",
    "bevel_gears",
]


class Coupling(Titled, Model):
    """The values of two joints depend on one another, as they stand when drawn.

    ``first_size`` and ``second_size`` are teeth for gears and chains, radii for belts; a rack has
    only the radius of its pinion, angled shafts only the angle between them, joined by one
    universal joint whose first fork stands in the plane of both shafts where the first joint is at
    zero; bevel wheels turn on shafts of two planes that meet; for a ratio, the second joint moves
    by ``second_size`` while the first moves by ``first_size``. Turns count against ``carrier``, the
    body that carries both wheels; without it, against the body that both joints hang on.
    ``pieces`` are what touches.
    """

    id: Identifier
    kind: CouplingKind
    name: Words = ""
    first: JointName
    second: JointName
    first_size: FirstSize
    second_size: SecondSize | None = None
    carrier: BodyName | None = None
    first_pieces: tuple[OutlinePiece, ...] = ()
    second_pieces: tuple[OutlinePiece, ...] = ()
    off: bool = False


class BeltWheel(Model):
    """A wheel that a loop runs over: the body on one ``side`` of a revolute joint.

    ``radius`` is that of the belt's middle, of a sprocket its pitch radius; ``back``: the loop
    passes it with its outside, as over an idler.
    """

    joint: JointName
    radius: Length
    back: bool = False
    side: Literal["first", "second"] = "second"

    def sides(self, joint: Joint) -> tuple[Side, Side]:
        """The wheel's side of its joint, and that of what carries it."""
        wheel, carrier = joint.second, joint.first
        return (carrier, wheel) if self.side == "first" else (wheel, carrier)


class Belt(Titled, Model):
    """A belt or chain of one length round wheels, in the order it meets them anticlockwise.

    It neither slips nor stretches; without a ``length`` it is as long as it is drawn. Half its
    ``thickness`` comes off the gaps of its runs.
    """

    id: Identifier
    name: Words = ""
    kind: Literal["belt", "chain"] = "belt"
    wheels: Annotated[tuple[BeltWheel, ...], Field(min_length=2, max_length=64)]
    length: Length | None = None
    thickness: Length | None = None
    off: bool = False


class Surface(Model):
    """What of a body may touch: some pieces of its outlines, or all of them."""

    body: BodyName
    pieces: tuple[OutlinePiece, ...] = ()


ContactKind = Literal["stop", "push", "keep"]


class Contact(Titled, Model):
    """Two bodies that cannot pass through each other, where they share heights.

    ``stop`` ends the motion where they touch; ``push``: a yielding joint gives way, see
    `Joint.yields`; ``keep``: they stay in touch, with ``rolling`` without slip. Without
    ``second`` any other body is meant.
    """

    id: Identifier
    kind: ContactKind
    name: Words = ""
    first: Surface
    second: Surface | None = None
    rolling: bool = False
    off: bool = False
