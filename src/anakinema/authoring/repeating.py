"""The same again: bodies and uses of units with their joints, mirrored, in a row, round a centre,
along the stack, onto chosen places, or as a chain in which each copy hangs on the one before.

Joints between what is copied are copied. A joint to a body that is not copied is made anew where
that body, or else another, has a place at the copied snap; those that find none are left open
and listed.

Long for one class that copies parts, bodies, joints and connections of one shift after another.
"""

from __future__ import annotations

import math
from collections.abc import Sequence, Set
from dataclasses import dataclass, replace

import numpy as np

from anakinema.authoring.mirroring import Images, mirrored_connection, mirrored_joint
from anakinema.authoring.shifts import Shift, about, after, between, checked_count
from anakinema.authoring.snap_points import PlacedSnap, all_snaps, placed_snap, snaps_of
from anakinema.authoring.touching import Feature, round_features
from anakinema.document import model
from anakinema.document.connections import (
    Connection,
    Connections,
    connections_of,
    connections_of_all,
)
from anakinema.document.flatten import JOINT, joint_kinds
from anakinema.document.kinds import spec_of
from anakinema.document.references import bodies_named, joints_named, renamed
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import POSE_DIGITS, Add
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.units import ANGLE, LENGTH

SAME = 1e-6
"""mm; places nearer than this coincide."""


NONE: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True, eq=False)
class Repeat:
    """What repeating would bring.

    edit : all of it as one step. bodies : ids of the copies. poses : (N, 3) mm, mm, rad, and
    originals (N,), the body index that each is a copy of, to show ghosts. open : titles of
    joints that found no place.
    """

    edit: Edit
    bodies: tuple[str, ...]
    poses: Floats
    originals: tuple[int, ...]
    open: tuple[str, ...]


def repeated(
    resolved: Resolved,
    poses: Floats,
    bodies: Sequence[str],
    shifts: Sequence[Shift],
    *,
    without: Set[str] = NONE,
    label: str = "Repeat",
) -> Repeat:
    """Copies at shifted poses; raises an `AnakinemaError`.

    bodies : flat ids; one inside a use stands for the whole use. without : joints to what is not
    copied that the copies shall not have.
    """
    maker = _Maker(resolved, poses, bodies)
    for shift in shifts:
        maker.copy(shift, without)
    return maker.result(label)


def joints_outward(resolved: Resolved, bodies: Sequence[str]) -> tuple[model.Joint, ...]:
    """Joints between what would be copied and the rest."""
    return tuple(_Maker(resolved, resolved.poses, bodies).outer)


def fitting_snaps(
    resolved: Resolved, poses: Floats, bodies: Sequence[str], joint_id: str
) -> tuple[PlacedSnap, ...]:
    """Places onto which a copy could come by one of its joints: those like the joint's own.

    Where the joint's place is a hole or a pin, all holes or pins of that size are offered, else
    all snaps of the same kind; not the joint's own, and none on what is copied.
    """
    maker = _Maker(resolved, poses, bodies)
    joint = next(j for j in maker.outer if j.id == joint_id)
    there = joint.second if joint.first.body in maker.chosen else joint.first
    here = placed_snap(resolved, poses, there.body, there.place)
    sizes = {(f.hole is None, round(f.half, 4)) for f in _features(resolved, here)}
    found = []
    for snap in all_snaps(resolved, poses):
        if snap.body in maker.chosen or math.hypot(snap.x - here.x, snap.y - here.y) < SAME:
            continue
        own = {(f.hole is None, round(f.half, 4)) for f in _features(resolved, snap)}
        if own & sizes if sizes else snap.snap.kind is here.snap.kind:
            found.append(snap)
    return tuple(found)


def _features(resolved: Resolved, snap: PlacedSnap) -> list[Feature]:
    solid = resolved.part_of(resolved.document.body(snap.body))
    return round_features(solid, snap.snap.x, snap.snap.y)


def onto_shifts(
    resolved: Resolved,
    poses: Floats,
    bodies: Sequence[str],
    joint_id: str,
    targets: Sequence[PlacedSnap],
) -> tuple[Shift, ...]:
    """The shifts that bring a copy onto each target by one of its joints.

    A joint with a direction turns the copy with its place; a pin keeps the copy's attitude.
    """
    maker = _Maker(resolved, poses, bodies)
    joint = next(j for j in maker.outer if j.id == joint_id)
    there = joint.second if joint.first.body in maker.chosen else joint.first
    here = placed_snap(resolved, poses, there.body, there.place)
    out = []
    for target in targets:
        turn = target.angle - here.angle if spec_of(joint.kind).is_aligned else 0.0
        plain = about(here.x, here.y, turn)
        rise = resolved.heights[maker.index[target.body]] - resolved.heights[maker.index[here.body]]
        out.append(
            replace(
                plain,
                x=plain.x + target.x - here.x,
                y=plain.y + target.y - here.y,
                lift=float(rise),
            )
        )
    return tuple(out)


def chained(
    resolved: Resolved, poses: Floats, bodies: Sequence[str], count: int, label: str = "Chain"
) -> Repeat:
    """Copies in a chain: each stands to the one before as the bodies stand to what they hang on.

    They must hang, by one joint or more, on a body of the same part as one of them, or on a use
    of the same unit; those joints are repeated between a copy and the one before it.
    """
    maker = _Maker(resolved, poses, bodies)
    maker.chain(checked_count(count))
    return maker.result(label)


class _Maker:
    def __init__(self, resolved: Resolved, poses: Floats, bodies: Sequence[str]) -> None:
        self.resolved, self.poses = resolved, poses
        self.document, self.source = resolved.document, resolved.source
        self.index = {body.id: i for i, body in enumerate(self.document.bodies)}
        if not bodies or any(body not in self.index for body in bodies):
            raise ValueOutOfRangeError(
                "there is nothing to repeat.",
                where="repeat",
                remedy="Select bodies that are there, and not switched off.",
            )
        heads = dict.fromkeys(body.partition(JOINT)[0] for body in bodies if JOINT in body)
        self.instances = tuple(heads)
        self.bodies = tuple(dict.fromkeys(body for body in bodies if JOINT not in body))
        self.inside = {
            use: [name for name in self.index if name.startswith(f"{use}{JOINT}")]
            for use in self.instances
        }
        self.chosen = {*self.bodies, *(name for names in self.inside.values() for name in names)}
        self.images = Images(self.source)
        # Also what is switched off has its name.
        self.taken = {*(b.id for b in self.source.bodies), *(u.id for u in self.source.instances)}
        self.joint_ids = {joint.id for joint in self.source.joints}
        self.new_bodies: list[model.Body] = []
        self.new_uses: list[model.Instance] = []
        self.new_joints: list[model.Joint] = []
        self.made: list[str] = []
        self.places: list[AddPlaces] = []
        self.rows: list[tuple[float, float, float]] = []
        self.originals: list[int] = []
        self.open: list[str] = []
        # Joints inside a use come with it; those of the document itself are copied here.
        own = [j for j in self.document.joints if j.id in self.joint_ids]
        sides = [(j, j.first.body in self.chosen, j.second.body in self.chosen) for j in own]
        self.inner = [j for j, a, b in sides if a and b]
        self.outer = [j for j, a, b in sides if a != b]
        self.connections = connections_of(self.source).kept(self._is_whole)
        self.connection_ids = [connection.id for connection in connections_of(self.source)]
        self.new_connections = Connections()

    def _is_whole(self, connection: Connection) -> bool:
        """Whether all that is tied is chosen, so that a copy has a tie of its own."""
        joints = {joint.id for joint in self.inner}
        return self.chosen.issuperset(bodies_named(connection)) and all(
            name in joints or name.partition(JOINT)[0] in self.instances
            for name in joints_named(connection)
        )

    def copy(self, shift: Shift, without: Set[str]) -> None:
        names = self._copies(shift)
        self._copy_inner(shift, names)
        for joint in self.outer:
            if joint.id not in without:
                self._connect(joint, shift, names)

    def _copy_inner(self, shift: Shift, names: dict[str, str]) -> None:
        """The joints between what is copied, and what ties those and the bodies together."""
        joints = {
            joint.id: self._join(joint, shift, names[joint.first.body], names[joint.second.body])
            for joint in self.inner
        }
        instances = {
            name.partition(JOINT)[0]: new.partition(JOINT)[0] for name, new in names.items()
        }

        def called(name: str) -> str:
            use, mark, rest = name.partition(JOINT)
            return joints[name] if name in joints else f"{instances[use]}{mark}{rest}"

        kinds = joint_kinds(self.source)
        for connection in self.connections:
            image = connection if shift.mirror is None else mirrored_connection(connection, kinds)
            copy = renamed(image, names.__getitem__, called)
            new = fresh_id(connection.id, self.connection_ids)
            self.connection_ids.append(new)
            self.new_connections += connections_of_all(
                [copy.model_copy(update={"id": new, "name": ""})]
            )

    def _copies(self, shift: Shift) -> dict[str, str]:
        """Copies of all that is chosen; their flat ids by those of the originals."""
        names = {body: self._body(body, shift) for body in self.bodies}
        for use in self.instances:
            names |= self._use(use, shift)
        return names

    def _pose(self, index: int, shift: Shift) -> model.Pose:
        """Where a copy of a body stands, noted down to be drawn as well."""
        x, y, angle = (float(v) for v in self.poses[index])
        units = self.resolved.units
        x, y = shift.point(x, y)
        angle = shift.angle(angle)
        self.rows.append((x, y, angle))
        self.originals.append(index)
        return model.Pose(
            x=round(x / units.factor(LENGTH), POSE_DIGITS),
            y=round(y / units.factor(LENGTH), POSE_DIGITS),
            angle=round(angle / units.factor(ANGLE), POSE_DIGITS),
        )

    def _fresh(self, wanted: str) -> str:
        new = fresh_id(wanted, self.taken)
        self.taken.add(new)
        return new

    def _body(self, body_id: str, shift: Shift) -> str:
        index = self.index[body_id]
        body = self.document.bodies[index]
        new = self._fresh(body.id)
        part = body.part if shift.mirror is None else self.images.part(body.part)
        height = float(self.resolved.heights[index]) + shift.lift
        self.new_bodies.append(
            body.model_copy(
                update={
                    "id": new,
                    "name": "",
                    "part": part,
                    "height": round(height / self.resolved.units.factor(LENGTH), 9),
                    "pose": self._pose(index, shift),
                }
            )
        )
        self.made.append(new)
        return new

    def _use(self, use_id: str, shift: Shift) -> dict[str, str]:
        """A copy of a use, every body of it placed."""
        use = model.next_by_id(self.source.instances, use_id)
        new = self._fresh(use.id)
        names = {name: new + name.removeprefix(use_id) for name in self.inside[use_id]}
        placements = tuple(
            model.Placement(
                body=name.removeprefix(f"{use_id}{JOINT}"), pose=self._pose(self.index[name], shift)
            )
            for name in names
        )
        unit, settings = use.subassembly, use.settings
        if shift.mirror is not None:
            unit, settings = self.images.unit(use.subassembly), self.images.settings(use)
        height = self.resolved.use_heights[use_id] + shift.lift
        self.new_uses.append(
            use.model_copy(
                update={
                    "id": new,
                    "name": "",
                    "subassembly": unit,
                    "placements": placements,
                    "settings": settings,
                    "height": round(height / self.resolved.units.factor(LENGTH), 9),
                }
            )
        )
        self.made += names.values()
        return names

    def _join(self, joint: model.Joint, shift: Shift, first: str, second: str) -> str:
        """A copy of a joint between two bodies; its id."""
        new = fresh_id(f"{second}_on_{first}".replace(JOINT, "_"), self.joint_ids)
        self.joint_ids.add(new)
        if shift.mirror is not None:
            joint = mirrored_joint(joint)
        self.new_joints.append(
            joint.model_copy(
                update={
                    "id": new,
                    "name": "",
                    "rise": None,
                    "first": joint.first.model_copy(update={"body": first}),
                    "second": joint.second.model_copy(update={"body": second}),
                }
            )
        )
        return new

    def _connect(self, joint: model.Joint, shift: Shift, names: dict[str, str]) -> None:
        """Make a joint to a body that is not copied, where it has a place for the copy."""
        is_first = joint.first.body in names
        there = joint.second if is_first else joint.first
        snap = self._snap_for(joint, there, shift)
        if snap is None:
            self.open.append(joint.title)
            return
        part = self.document.body(snap.body).part
        if not snap.snap.known:
            self.places.append(AddPlaces(part, (snap.snap.place,)))
        is_same = (part, snap.snap.place.id) == (self.document.body(there.body).part, there.place)
        side = model.Side(
            body=snap.body, place=snap.snap.place.id, pieces=there.pieces if is_same else ()
        )
        moved = joint.model_copy(update={"second" if is_first else "first": side})
        mine = names[joint.first.body if is_first else joint.second.body]
        first, second = (mine, snap.body) if is_first else (snap.body, mine)
        self._join(moved, shift, first, second)

    def _snap_for(self, joint: model.Joint, side: model.Side, shift: Shift) -> PlacedSnap | None:
        """A snap where a joint's place comes to lie once shifted: of its body, or else of another.

        Of others, one that stands as high in the stack as the joint's own body, lifted, goes first.
        """
        here = placed_snap(self.resolved, self.poses, side.body, side.place)
        x, y = shift.point(here.x, here.y)
        wanted = shift.angle(here.angle)
        along = spec_of(joint.kind).is_straight and joint.first.body == side.body
        height = self.resolved.heights[self.index[side.body]] + shift.lift

        def rank(body: str) -> tuple[bool, float]:
            return body != side.body, abs(float(self.resolved.heights[self.index[body]] - height))

        for body in sorted(self.index.keys() - self.chosen, key=rank):
            part = self.document.part(self.document.body(body).part)
            for snap in snaps_of(self.resolved, part):
                at = placed_snap(self.resolved, self.poses, body, snap.place.id)
                turned = (at.angle - wanted + math.pi) % (2 * math.pi) - math.pi
                dx, dy = at.x - x, at.y - y
                if along:
                    # A slide runs on the same line wherever its place stands on it.
                    if body != side.body and math.hypot(dx, dy) > SAME:
                        continue
                    dx, dy = -math.sin(wanted) * dx + math.cos(wanted) * dy, 0.0
                directed = along or spec_of(joint.kind).is_aligned
                if math.hypot(dx, dy) < SAME and (not directed or abs(turned) < SAME):
                    return at
        return None

    def chain(self, count: int) -> None:
        before, links = self._links()
        own = self.index[before[0]]
        mine = self.index[before[1]]
        step = between(self.poses[own], self.poses[mine])
        lift = float(self.resolved.heights[mine] - self.resolved.heights[own])
        last = {body: body for body in self.chosen}
        shift = Shift(lift=0.0)
        for k in range(1, count):
            shift = after(step, shift, lift * k)
            names = self._copies(shift)
            self._copy_inner(shift, names)
            for joint, is_first, twin in links:
                mine_id = names[joint.first.body if is_first else joint.second.body]
                other = last[twin]
                first, second = (mine_id, other) if is_first else (other, mine_id)
                self._join(joint, shift, first, second)
            last = names
        chained_joints = {joint.id for joint, _, _ in links}
        self.open += [joint.title for joint in self.outer if joint.id not in chained_joints]

    def _links(self) -> tuple[tuple[str, str], list[tuple[model.Joint, bool, str]]]:
        """The body hung on and its twin among those repeated, and the joints between."""
        found: list[tuple[model.Joint, bool, str]] = []
        pair: tuple[str, str] | None = None
        for joint in self.outer:
            is_first = joint.first.body in self.chosen
            other = joint.second.body if is_first else joint.first.body
            twin = self._twin(other)
            if twin is not None:
                found.append((joint, is_first, twin))
                pair = (other, twin)
        if pair is None:
            raise ValueOutOfRangeError(
                "nothing that is chosen hangs on its equal.",
                where="chain",
                remedy="Place it twice, join the second to the first, then chain the second.",
            )
        return pair, found

    def _twin(self, other: str) -> str | None:
        """Which of what is chosen is the same thing as another body: the part, or the unit."""
        head, mark, inner = other.partition(JOINT)
        if not mark:
            part = self.document.body(other).part
            return next((b for b in self.bodies if self.document.body(b).part == part), None)
        units = {use.id: use.subassembly for use in self.source.instances}
        return next(
            (f"{use}{JOINT}{inner}" for use in self.instances if units[use] == units[head]), None
        )

    def result(self, label: str) -> Repeat:
        edits: list[Edit] = [*self.places]
        edits.append(
            Add(
                label,
                parts=tuple(self.images.parts),
                bodies=tuple(self.new_bodies),
                joints=tuple(self.new_joints),
                units=tuple(self.images.units),
                instances=tuple(self.new_uses),
                couplings=self.new_connections.couplings,
                belts=self.new_connections.belts,
                contacts=self.new_connections.contacts,
            )
        )
        return Repeat(
            Together(label, tuple(edits)),
            tuple(self.made),
            np.array(self.rows).reshape(-1, 3),
            tuple(self.originals),
            tuple(dict.fromkeys(self.open)),
        )
