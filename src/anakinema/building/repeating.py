"""The same again: bodies with their joints copied, mirrored, in a row, round a centre, along the
stack, or as a chain in which each copy hangs on the one before.

Joints between copied bodies are copied. A joint to a body that is not copied is made anew where
that body has a place at the copied spot; those that find none are left open and listed.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from anakinema.building.mirroring import mirrored_joint, mirrored_part
from anakinema.building.spots import BodySpot, body_spot, spots_of
from anakinema.document import model
from anakinema.document.flatten import JOINT
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.structure import POSE_DIGITS, Add, AddPlaces
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.units import ANGLE, LENGTH

SAME = 1e-6
"""mm; places nearer than this coincide."""
MOST_COPIES = 400


@dataclass(frozen=True, slots=True)
class Shift:
    """Where a copy goes: turned about the origin by ``turn``, moved by ``x``, ``y``, lifted.

    ``mirror``, if given, is the angle (rad) of a line through the origin that the copy is
    mirrored about first.
    """

    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0
    lift: float = 0.0
    mirror: float | None = None

    def point(self, x: float, y: float) -> tuple[float, float]:
        """A point of the plane, moved."""
        if self.mirror is not None:
            c, s = math.cos(2 * self.mirror), math.sin(2 * self.mirror)
            x, y = c * x + s * y, s * x - c * y
        c, s = math.cos(self.turn), math.sin(self.turn)
        return self.x + c * x - s * y, self.y + s * x + c * y

    def angle(self, angle: float) -> float:
        """A direction, moved."""
        if self.mirror is not None:
            angle = 2 * self.mirror - angle
        return angle + self.turn


def about(x: float, y: float, turn: float, lift: float = 0.0) -> Shift:
    """A turn about a point."""
    c, s = math.cos(turn), math.sin(turn)
    return Shift(x - c * x + s * y, y - s * x - c * y, turn, lift)


def mirror_about(x: float, y: float, angle: float) -> Shift:
    """A mirror image about a line through a point."""
    plain = Shift(mirror=angle)
    px, py = plain.point(x, y)
    return Shift(x - px, y - py, mirror=angle)


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


def row_shifts(count: int, x: float, y: float) -> tuple[Shift, ...]:
    """Copies in a row."""
    return tuple(Shift(k * x, k * y) for k in range(1, checked_count(count)))


def ring_shifts(count: int, x: float, y: float, turn: float) -> tuple[Shift, ...]:
    """Copies round a centre."""
    return tuple(about(x, y, k * turn) for k in range(1, checked_count(count)))


def stack_shifts(count: int, lift: float) -> tuple[Shift, ...]:
    """Copies along the pins."""
    return tuple(Shift(lift=k * lift) for k in range(1, checked_count(count)))


def checked_count(count: int) -> int:
    """The count if it is sensible; raises an `AnakinemaError`."""
    if not 2 <= count <= MOST_COPIES:
        raise ValueOutOfRangeError(
            f"{count} is not between 2 and {MOST_COPIES}.",
            where="number of copies",
            remedy="It counts the first as well.",
        )
    return count


def repeated(
    resolved: Resolved,
    poses: Floats,
    bodies: Sequence[str],
    shifts: Sequence[Shift],
    *,
    connect: bool = True,
    label: str = "Repeat",
) -> Repeat:
    """Copies of bodies of the document at shifted poses; raises an `AnakinemaError`."""
    maker = _Maker(resolved, poses, bodies)
    for shift in shifts:
        maker.copy(shift, connect=connect)
    return maker.result(label)


def chained(
    resolved: Resolved, poses: Floats, bodies: Sequence[str], count: int, label: str = "Chain"
) -> Repeat:
    """Copies in a chain: each stands to the one before as the bodies stand to what they hang on.

    The bodies must hang, by one joint or more, on a body of the same part as one of them; that
    joint is repeated between a copy and the one before it.
    """
    maker = _Maker(resolved, poses, bodies)
    maker.chain(checked_count(count))
    return maker.result(label)


class _Maker:
    def __init__(self, resolved: Resolved, poses: Floats, bodies: Sequence[str]) -> None:
        self.resolved, self.poses = resolved, poses
        self.document = resolved.document
        self.index = {body.id: i for i, body in enumerate(self.document.bodies)}
        own = {body.id for body in resolved.source.bodies}
        if not bodies or any(body not in own for body in bodies):
            raise ValueOutOfRangeError(
                "only bodies of the document itself can be repeated.",
                where="repeat",
                remedy="Repeat a use of a unit as a whole.",
            )
        self.bodies = tuple(bodies)
        # Also what is switched off has its name.
        self.taken = {*own, *(use.id for use in resolved.source.uses)}
        self.joint_ids = {joint.id for joint in resolved.source.joints}
        self.part_ids = {part.id for part in resolved.source.parts}
        self.parts: list[model.Part] = []
        self.mirrored: dict[str, str] = {}
        self.new_bodies: list[model.Body] = []
        self.new_joints: list[model.Joint] = []
        self.places: list[AddPlaces] = []
        self.rows: list[tuple[float, float, float]] = []
        self.originals: list[int] = []
        self.open: list[str] = []
        chosen = set(self.bodies)
        sides = [(j, j.first.body in chosen, j.second.body in chosen) for j in self.document.joints]
        self.inner = [j for j, a, b in sides if a and b]
        self.outer = [j for j, a, b in sides if a != b]

    def copy(self, shift: Shift, *, connect: bool) -> None:
        names = {body: self._body(body, shift) for body in self.bodies}
        for joint in self.inner:
            self._join(joint, shift, names[joint.first.body], names[joint.second.body])
        for joint in self.outer if connect else ():
            self._connect(joint, shift, names)

    def _body(self, body_id: str, shift: Shift) -> str:
        index = self.index[body_id]
        body = self.document.bodies[index]
        x, y, angle = (float(v) for v in self.poses[index])
        units = self.resolved.units
        x, y = shift.point(x, y)
        angle = shift.angle(angle)
        new = fresh_id(body.id, self.taken)
        self.taken.add(new)
        part = body.part if shift.mirror is None else self._mirrored(body.part)
        height = float(self.resolved.heights[index]) + shift.lift
        self.new_bodies.append(
            body.model_copy(
                update={
                    "id": new,
                    "name": "",
                    "part": part,
                    "fixed": body.fixed,
                    "height": round(height / units.factor(LENGTH), 9),
                    "pose": model.Pose(
                        x=round(x / units.factor(LENGTH), POSE_DIGITS),
                        y=round(y / units.factor(LENGTH), POSE_DIGITS),
                        angle=round(angle / units.factor(ANGLE), POSE_DIGITS),
                    ),
                }
            )
        )
        self.rows.append((x, y, angle))
        self.originals.append(index)
        return new

    def _mirrored(self, part_id: str) -> str:
        """The part's mirror image: itself if it is its own, made once otherwise."""
        if part_id not in self.mirrored:
            part = self.document.part(part_id)
            image = mirrored_part(part)
            if image is None:
                self.mirrored[part_id] = part_id
            else:
                new = fresh_id(f"{part_id}_mirrored", self.part_ids)
                self.part_ids.add(new)
                self.parts.append(
                    image.model_copy(update={"id": new, "name": f"{part.title}, mirrored"})
                )
                self.mirrored[part_id] = new
        return self.mirrored[part_id]

    def _join(self, joint: model.Joint, shift: Shift, first: str, second: str) -> None:
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

    def _connect(self, joint: model.Joint, shift: Shift, names: dict[str, str]) -> None:
        """Make a joint to a body that is not copied, where it has a place for the copy."""
        is_first = joint.first.body in names
        there = joint.second if is_first else joint.first
        spot = self._spot_for(joint, there, shift)
        if spot is None:
            self.open.append(joint.title)
            return
        if not spot.spot.known:
            self.places.append(AddPlaces(self.document.body(there.body).part, (spot.spot.place,)))
        pieces = there.pieces if spot.spot.place.id == there.place else ()
        side = model.Side(body=there.body, place=spot.spot.place.id, pieces=pieces)
        moved = joint.model_copy(update={"second" if is_first else "first": side})
        mine = names[joint.first.body if is_first else joint.second.body]
        first, second = (mine, there.body) if is_first else (there.body, mine)
        self._join(moved, shift, first, second)

    def _spot_for(self, joint: model.Joint, side: model.Side, shift: Shift) -> BodySpot | None:
        """A spot of a body where a joint's place comes to lie once shifted."""
        here = body_spot(self.resolved, self.poses, side.body, side.place)
        x, y = shift.point(here.x, here.y)
        wanted = shift.angle(here.angle)
        along = joint.kind in ("prismatic", "pin_in_slot") and joint.first.body == side.body
        directed = along or joint.kind in ("prismatic", "rigid")
        part = self.document.body(side.body).part
        for spot in spots_of(self.resolved, self.document.part(part)):
            at = body_spot(self.resolved, self.poses, side.body, spot.place.id)
            turned = (at.angle - wanted + math.pi) % (2 * math.pi) - math.pi
            dx, dy = at.x - x, at.y - y
            if along:
                # A slide runs on the same line wherever its place stands on it.
                away = abs(-math.sin(wanted) * dx + math.cos(wanted) * dy)
                dx, dy = away, 0.0
            if math.hypot(dx, dy) < SAME and (not directed or abs(turned) < SAME):
                return at
        return None

    def chain(self, count: int) -> None:
        before, links = self._links()
        own = self.index[before[0]]
        mine = self.index[before[1]]
        step = between(self.poses[own], self.poses[mine])
        lift = float(self.resolved.heights[mine] - self.resolved.heights[own])
        last = {body: body for body in self.bodies}
        shift = Shift(lift=0.0)
        for k in range(1, count):
            shift = after(step, shift, lift * k)
            names = {body: self._body(body, shift) for body in self.bodies}
            for joint in self.inner:
                self._join(joint, shift, names[joint.first.body], names[joint.second.body])
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
            is_first = joint.first.body in self.bodies
            other = joint.second.body if is_first else joint.first.body
            part = self.document.body(other).part
            twin = next((b for b in self.bodies if self.document.body(b).part == part), None)
            if twin is not None:
                found.append((joint, is_first, twin))
                pair = (other, twin)
        if pair is None:
            raise ValueOutOfRangeError(
                "nothing that is chosen hangs on an equal body.",
                where="chain",
                remedy="Place the part twice, join the second to the first, then chain the second.",
            )
        return pair, found

    def result(self, label: str) -> Repeat:
        edits: list[Edit] = [*self.places]
        edits.append(
            Add(label, parts=tuple(self.parts), bodies=tuple(self.new_bodies),
                joints=tuple(self.new_joints))
        )  # fmt: skip
        return Repeat(
            Together(label, tuple(edits)),
            tuple(body.id for body in self.new_bodies),
            np.array(self.rows).reshape(-1, 3),
            tuple(self.originals),
            tuple(dict.fromkeys(self.open)),
        )


def between(one: Floats, two: Floats) -> Shift:
    """The shift that takes one pose to another."""
    turn = float(two[2] - one[2])
    c, s = math.cos(turn), math.sin(turn)
    x, y = float(one[0]), float(one[1])
    return Shift(float(two[0]) - c * x + s * y, float(two[1]) - s * x - c * y, turn)


def after(step: Shift, shift: Shift, lift: float) -> Shift:
    """A step made after a shift."""
    x, y = step.point(shift.x, shift.y)
    return replace(shift, x=x, y=y, turn=shift.turn + step.turn, lift=lift)
