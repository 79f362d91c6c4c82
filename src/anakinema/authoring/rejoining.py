"""A joint that is there already takes another place or another body, or is turned round.

It is worked out like a new join in a document without it, so that loops close and the stack
follows in the same way; then the joint itself is changed, and all that belongs to it stays.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from anakinema.authoring.joining import Proposal, propose
from anakinema.authoring.snap_points import PlacedSnap, placed_snap
from anakinema.authoring.wishes import Wish
from anakinema.document import model
from anakinema.document.depending import Going, without
from anakinema.document.kinds import spec_of
from anakinema.document.measured import sides_of
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.base import Edit, Together
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import Remove, SetJoint, SetPoses
from anakinema.errors import EditRefusedError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import compile_mechanism
from anakinema.motion.assemblies import turned_over
from anakinema.units import ANGLE

NEAR = 1e-9


@dataclass(frozen=True, slots=True, eq=False)
class Rejoining:
    """What it comes to: the edit, how it would stand, and titles of what no longer fits."""

    edit: Edit
    proposal: Proposal
    misfits: tuple[str, ...]


def rejoined(
    resolved: Resolved,
    poses: Floats,
    joint_id: str,
    *,
    first: PlacedSnap | None = None,
    second: PlacedSnap | None = None,
    flip: bool = False,
) -> Rejoining:
    """A joint with other sides, or turned by half a turn; what is None stays.

    Limits, driver and requirements stay, except requirements that name places which the new
    bodies have not: these are taken out and named, as are limits that the new pose is outside of.
    Raises an `AnakinemaError` if the two cannot be joined.
    """
    source = resolved.source
    joint = source.joint(joint_id)
    if all(each.id != joint_id for each in resolved.document.joints):
        raise EditRefusedError(
            "it takes no part now: it or one of its bodies is switched off.",
            where=f"joint '{joint.title}'",
            remedy="Switch it on first.",
        )
    values = resolved.joint_values(joint_id)
    bare = resolve(without(source, Going(joints=frozenset((joint_id,)))))
    ids = [body.id for body in resolved.document.bodies]
    there = poses[[ids.index(body.id) for body in bare.document.bodies]]
    carrier = first or placed_snap(bare, there, joint.first.body, joint.first.place)
    rider = second or placed_snap(bare, there, joint.second.body, joint.second.place)
    angular = spec_of(joint.kind).turns_over
    turn = values.twist + (math.pi if flip else 0.0) if angular else 0.0
    wish = Wish(
        first=rider,
        second=carrier,
        kind=joint.kind,
        turn=turn,
        offset=values.offset,
        radius=values.radius if spec_of(joint.kind).has_radius else None,
        curve=joint.curve,
        length=values.rod.length if values.rod is not None else None,
    )
    proposal = propose(bare, there, wish)
    made = proposal.joint
    edits: list[Edit] = [
        AddPlaces(bare.document.body(snap.body).part, (snap.snap.place,))
        for snap in (carrier, rider)
        if not snap.snap.known
    ]
    edits += [SetJoint(joint_id, name, getattr(made, name)) for name in ("first", "second", "rise")]
    if flip and angular:
        edits.append(SetJoint(joint_id, "twist", round(turn / resolved.units.factor(ANGLE), 10)))
    misfits: list[str] = []
    lost = _without_places(source, joint_id, made)
    if lost:
        edits.append(Remove(Going(requirements=frozenset(lost))))
        misfits += lost.values()
    after = proposal.resolved.document.bodies
    rows = []
    for b, body in enumerate(after):
        if float(abs(proposal.poses[b] - bare.poses[b]).max()) > NEAR:
            x, y, angle = proposal.poses[b].tolist()
            rows.append((body.id, x, y, angle))
    if rows:
        edits.append(SetPoses(tuple(rows), "Join"))
    index = [j.id for j in proposal.resolved.document.joints].index(made.id)
    value = float(compile_mechanism(proposal.resolved).values(proposal.poses)[index]) - values.zero
    low = -math.inf if values.least is None else values.least
    high = math.inf if values.greatest is None else values.greatest
    if not low - NEAR <= value <= high + NEAR:
        misfits.append("its limits, which it now starts outside of")
    turned: tuple[int, ...] = ()
    if proposal.is_closed and len(proposal.poses) == len(poses):
        turned = turned_over(compile_mechanism(resolved), poses, proposal.poses)
    if turned:
        names = " and ".join(resolved.document.bodies[b].title for b in turned)
        misfits.append(f"the side that {names} are assembled on")
    if not proposal.is_continued:
        misfits.append("where the parts stand: the loop closes only if others move first")
    label = f"Turn {joint.title} round" if flip else f"Join {joint.title} elsewhere"
    return Rejoining(Together(label, tuple(edits)), proposal, tuple(misfits))


def _without_places(document: model.Document, joint_id: str, made: model.Joint) -> dict[str, str]:
    """Requirements of the joint that name places which its bodies have not; their titles."""
    lost = {}
    parts = {body.id: body.part for body in document.bodies}
    for requirement in document.requirements:
        for side in sides_of(requirement.measure, {joint_id: made}):
            part = parts.get(side.body)
            if part is None or all(p.id != side.place for p in document.part(part).places):
                lost[requirement.id] = requirement.title
    return lost
