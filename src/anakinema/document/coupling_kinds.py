"""What is particular to each kind of coupling; whatever asks by kind asks here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum

from anakinema.document.kinds import spec_of
from anakinema.document.model import CouplingKind, JointKind
from anakinema.units import ANGLE, LENGTH, NUMBER, Dimension


class Couples(Enum):
    """What of two joints a coupling couples."""

    TURNS = "the turns of two wheels against their carrier"
    RIM = "the turn of a wheel and the slide that its rim moves along"
    VALUES = "the values of two joints, whatever they are"
    SHAFTS = "the turns of two shafts at an angle"
    BEVELS = "the turns of two wheels whose shafts meet"


class Sizes(Enum):
    """What the sizes of a coupling are."""

    TEETH = "teeth"
    RADII = "radius"
    RIM = "pitch radius"
    WAYS = "what each joint moves by"
    ANGLE = "angle between the shafts"


@dataclass(frozen=True, slots=True)
class CouplingSpec:
    """A kind of coupling.

    words : in lists. against : wheels turn against each other. meshes : toothed outlines touch.
    ring : the second wheel is a ring round the first. draws_in : what lies where it runs together.
    """

    words: str
    couples: Couples
    sizes: Sizes
    against: bool = False
    meshes: bool = False
    ring: bool = False
    draws_in: bool = True

    @property
    def has_carrier(self) -> bool:
        """Whether its turns count against a body that carries both joints."""
        return self.couples in (Couples.TURNS, Couples.RIM)

    @property
    def has_second_size(self) -> bool:
        """Whether it has two sizes."""
        return self.sizes not in (Sizes.RIM, Sizes.ANGLE)

    @property
    def joints(self) -> tuple[JointKind, JointKind] | None:
        """The kinds of joints that it needs, None for any that move."""
        if self.couples is Couples.VALUES:
            return None
        return "revolute", "prismatic" if self.couples is Couples.RIM else "revolute"

    def dimensions(self, first: JointKind, second: JointKind) -> tuple[Dimension, Dimension | None]:
        """What its sizes measure between joints of two kinds; None for no second size."""
        if self.sizes is Sizes.WAYS:
            return spec_of(first).dimension, spec_of(second).dimension
        one = {Sizes.TEETH: NUMBER, Sizes.ANGLE: ANGLE}.get(self.sizes, LENGTH)
        return one, one if self.has_second_size else None


_SPECS: Mapping[CouplingKind, CouplingSpec] = {
    "gears": CouplingSpec("wheels in mesh", Couples.TURNS, Sizes.TEETH, against=True, meshes=True),
    "internal_gears": CouplingSpec(
        "wheel in a ring", Couples.TURNS, Sizes.TEETH, meshes=True, ring=True
    ),
    "rack": CouplingSpec("pinion and rack", Couples.RIM, Sizes.RIM, meshes=True),
    "belt": CouplingSpec("open belt", Couples.TURNS, Sizes.RADII),
    "crossed_belt": CouplingSpec("crossed belt", Couples.TURNS, Sizes.RADII, against=True),
    "chain": CouplingSpec("chain", Couples.TURNS, Sizes.TEETH),
    "ratio": CouplingSpec("fixed ratio (screw, cable)", Couples.VALUES, Sizes.WAYS, draws_in=False),
    "angled_shafts": CouplingSpec("universal joint", Couples.SHAFTS, Sizes.ANGLE, draws_in=False),
    "bevel_gears": CouplingSpec("bevel wheels", Couples.BEVELS, Sizes.TEETH, meshes=True),
}


def coupled_by(first: JointKind, second: JointKind) -> tuple[CouplingKind, ...]:
    """Kinds of coupling that two kinds of joints that move can have."""
    return tuple(k for k, spec in _SPECS.items() if spec.joints in (None, (first, second)))


def coupling_spec(kind: CouplingKind) -> CouplingSpec:
    """What is particular to a kind of coupling."""
    return _SPECS[kind]
