"""Where bodies in contact stand: what leans on what, and what is kept in touch by what."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from anakinema.errors import AssemblyError
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import relative_poses
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.contacts import Facing
from anakinema.mechanism.system import System
from anakinema.mechanism.touch import Touch
from anakinema.motion.contact_events import Pairing


@dataclass(eq=False)
class Standing:
    """Where a walk stands: what leans on what.

    leaning : what each pushed yielding joint leans on; kept : the pair that each facing that is
    kept is in touch by, and rolled what makes those roll that do; pushed : the side (+1, -1) of
    its rest that a joint was pushed to.
    """

    leaning: dict[int, Pairing] = field(default_factory=dict)
    kept: dict[int, Pairing] = field(default_factory=dict)
    rolled: dict[int, Touch] = field(default_factory=dict)
    pushed: dict[int, float] = field(default_factory=dict)

    @property
    def active(self) -> tuple[Pairing, ...]:
        """All pairs in touch by conditions."""
        return (*self.leaning.values(), *self.kept.values())


def kept_in_touch(mechanism: Mechanism, poses: Floats) -> Standing:
    """What is kept in touch at a pose: of each facing the pair that is nearest.

    Raises `AssemblyError` if no two surfaces of a contact face each other.
    """
    standing = Standing()
    for f, facing in enumerate(mechanism.facings):
        if not facing.spec.keeps:
            continue
        gap, margin = gaps_now(facing, poses)
        able = [
            k
            for k in np.argsort(np.abs(gap)).tolist()
            if margin[k] >= -1e-6 and facing.touch(k) is not None
        ]
        if not able:
            contact = mechanism.resolved.document.contacts[facing.contact]
            raise AssemblyError(
                "the two bodies do not face each other with surfaces that can stay in touch.",
                where=f"contact '{contact.title}'",
                remedy="Bring them near each other, round on round or round on flat.",
            )
        keep_by(mechanism, standing, f, able[0], poses)
    return standing


def keep_by(
    mechanism: Mechanism, standing: Standing, facing: int, pair: int, poses: Floats
) -> None:
    """Keep a facing in touch by a pair from this pose on; if it rolls, without slip."""
    standing.kept[facing] = Pairing(facing, pair)
    chosen = mechanism.facings[facing]
    roll = chosen.roll(pair, mechanism.size) if chosen.rolls else None
    if roll is not None:
        system = System(mechanism, touches=(roll,))
        so_far = system.residual(poses, np.zeros(system.rows))[-1]
        standing.rolled[facing] = replace(roll, target=float(so_far))


def kept_touches(mechanism: Mechanism, standing: Standing) -> tuple[Touch, ...]:
    """The conditions of what is kept in touch."""
    found = (mechanism.facings[a.facing].touch(a.pair) for a in standing.kept.values())
    return (*(t for t in found if t is not None), *standing.rolled.values())


def gaps_now(facing: Facing, poses: Floats) -> tuple[Floats, Floats]:
    """(P,) mm each: gaps of all feature pairs of two bodies at poses (B, 3), and their margins."""
    a, b = facing.bodies
    gap, margin = facing.pairs.gaps(relative_poses(poses[None, a], poses[None, b]))
    return gap[0], margin[0]
