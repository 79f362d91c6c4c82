"""Spots: places on a body that something can be joined to or measured from, each with a reason.

Besides the places a part names, every hole centre, slot axis, rounding, corner and middle of a
straight edge is one. A snap that is no place yet carries the place it would become, stated in the
same expressions as the outline, so that it follows when the part is edited.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from enum import Enum
from functools import lru_cache
from typing import Any

from anakinema.authoring.expression_text import beside, middle_of, times
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.edits.base import fresh_id
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried
from anakinema.units import ANGLE, LENGTH, NUMBER

SAME = 1e-6
"""mm or rad; nearer snaps are one."""
Source = float | str


class SnapKind(Enum):
    """Why a place is one; what it suggests is decided by this and never by its words."""

    PLACE = "named"
    HOLE = "hole"
    ROUND = "round"
    SLOT = "middle of a slot"
    SLOT_END = "end of a slot"
    ROUNDING = "centre of a rounding"
    OPENING = "middle of an opening"
    RECTANGLE = "middle of a rectangle"
    EDGE = "middle of an edge"
    CORNER = "corner"
    ARC = "centre of an arc"
    CAM = "axis of a cam"
    WHEEL = "centre of a wheel"

    @property
    def is_straight(self) -> bool:
        """Whether something could slide along there."""
        return self in (SnapKind.OPENING, SnapKind.RECTANGLE, SnapKind.EDGE)

    @property
    def is_lengthwise(self) -> bool:
        """Whether its direction is that of something long."""
        return self in (SnapKind.SLOT, SnapKind.SLOT_END, SnapKind.EDGE)


@dataclass(frozen=True, slots=True)
class SnapPoint:
    """A place on a part: x, y (mm) and angle (rad) in the part, and why it is one.

    place : the place it is or would become; known : whether the part has it already.
    rank : lower ones are offered first where several lie together.
    """

    place: model.Place
    x: float
    y: float
    angle: float
    words: str
    known: bool
    rank: int
    kind: SnapKind = SnapKind.PLACE


@dataclass(frozen=True, slots=True)
class PlacedSnap:
    """A snap of a body, at x, y (mm) and angle (rad) in the plane.

    rise : mm above the body's datum, where it was picked at a height; None where it was not.
    rim : what was picked there, in words.
    """

    body: str
    snap: SnapPoint
    x: float
    y: float
    angle: float
    rise: float | None = None
    rim: str = ""


@lru_cache(maxsize=256)
def snaps_of(resolved: Resolved, part: model.Part) -> tuple[SnapPoint, ...]:
    """All snaps of a part, named places first, no two that mean the same."""
    solid = resolved.parts[part.id]
    part = solid.source
    derived = list(_derived(resolved, part))
    found: list[SnapPoint] = []
    for place in part.places:
        x, y, angle = solid.places[place.id]
        here = [d for d in derived if math.hypot(d.x - x, d.y - y) < SAME]
        words, kind = place.id.replace("_", " "), SnapKind.PLACE
        if here:
            best = min(here, key=lambda d: d.rank)
            words, kind = f"{words}, {best.words}", best.kind
        found.append(SnapPoint(place, x, y, angle, words, True, 0, kind))
    taken = {place.id for place in part.places}
    for snap in derived:
        if any(_same(snap, other) for other in found):
            continue
        place = snap.place.model_copy(update={"id": fresh_id(snap.place.id, taken)})
        taken.add(place.id)
        found.append(replace(snap, place=place))
    return tuple(found)


def _same(one: SnapPoint, other: SnapPoint) -> bool:
    turn = (one.angle - other.angle + math.pi) % (2 * math.pi) - math.pi
    near = math.hypot(one.x - other.x, one.y - other.y) < SAME
    return near and (abs(turn) < SAME or other.rank > 0 or one.rank > 1)


def snaps_at(
    resolved: Resolved, poses: Floats, x: float, y: float, reach: float
) -> tuple[PlacedSnap, ...]:
    """Spots of all bodies within ``reach`` mm of a point of the plane, nearest first.

    Of those as near as one another, named places come first and higher bodies before lower.
    """
    found: list[tuple[float, int, float, PlacedSnap]] = []
    for index, body in enumerate(resolved.document.bodies):
        for snap in snaps_of(resolved, resolved.document.part(body.part)):
            at = _placed(body.id, snap, poses[index])
            away = math.hypot(at.x - x, at.y - y)
            if away <= reach:
                height = -float(resolved.heights[index])
                found.append((round(away / max(reach, 1e-9), 1), snap.rank, height, at))
    return tuple(entry[3] for entry in sorted(found, key=lambda entry: entry[:3]))


def all_snaps(resolved: Resolved, poses: Floats) -> tuple[PlacedSnap, ...]:
    """Every snap of every body, in the order of the document."""
    return tuple(
        _placed(body.id, snap, poses[index])
        for index, body in enumerate(resolved.document.bodies)
        for snap in snaps_of(resolved, resolved.document.part(body.part))
    )


def placed_snap(resolved: Resolved, poses: Floats, body_id: str, place_id: str) -> PlacedSnap:
    """The snap of that place on a body; raises `KeyError`."""
    for index, body in enumerate(resolved.document.bodies):
        if body.id != body_id:
            continue
        for snap in snaps_of(resolved, resolved.document.part(body.part)):
            if snap.place.id == place_id:
                return _placed(body_id, snap, poses[index])
    raise KeyError(f"{body_id}.{place_id}")


def _placed(body: str, snap: SnapPoint, pose: Floats) -> PlacedSnap:
    """A snap of a body that stands at a pose."""
    x, y = carried(pose, (snap.x, snap.y))
    return PlacedSnap(body, snap, x, y, float(pose[2]) + snap.angle)


def _derived(resolved: Resolved, part: model.Part) -> Iterator[SnapPoint]:
    """Spots of every outline and hole, in the expressions that shape it."""
    snaps = _Snaps(resolved, part)
    for slab in part.slabs:
        yield from snaps.of_outline(slab.id, slab.outline, is_hole=False)
        for hole in slab.holes:
            yield from snaps.of_outline(hole.id, hole.outline, is_hole=True)


class _Snaps:
    def __init__(self, resolved: Resolved, part: model.Part) -> None:
        self._resolved, self._part = resolved, part

    def _number(self, source: Source) -> float:
        return self._resolved.number(self._part, source, LENGTH)

    def _count(self, source: Source) -> int:
        return round(self._resolved.number(self._part, source, NUMBER))

    def _size(self, source: Source) -> str:
        return self._resolved.units.format(self._number(source), LENGTH)

    def _snap(
        self,
        key: str,
        x: Source,
        y: Source,
        words: str,
        kind: SnapKind,
        rank: int,
        angle: float = 0.0,
        turned: Source | None = None,
    ) -> SnapPoint:
        """A snap; ``angle`` in rad, ``turned`` the same as the document would tell it."""
        shown = turned if turned is not None else f"{math.degrees(angle):.12g} deg"
        place = model.Place(id=fresh_id(key, ()), x=x, y=y, angle=shown if angle else 0.0)
        return SnapPoint(place, self._number(x), self._number(y), angle, words, False, rank, kind)

    def of_outline(
        self, name: str, outline: model.Outline, *, is_hole: bool
    ) -> Iterator[SnapPoint]:
        """All snaps of an outline, by its shape."""
        yield from _OF_SHAPE[type(outline)](self, name, outline, is_hole=is_hole)

    def of_circle(self, name: str, outline: model.Circle, *, is_hole: bool) -> Iterator[SnapPoint]:
        noun = "hole" if is_hole else "round"
        words = f"{noun} {self._size(times(outline.radius, 2))}"
        kind, rank = (SnapKind.HOLE, 1) if is_hole else (SnapKind.ROUND, 2)
        yield self._snap(name, outline.x, outline.y, words, kind, rank)

    def of_curved_slot(
        self, name: str, outline: model.SlotAlong, *, is_hole: bool
    ) -> Iterator[SnapPoint]:
        for k, end in ((1, outline.vertices[0]), (2, outline.vertices[-1])):
            words = f"end {k} of curved slot {self._size(outline.width)}"
            yield self._snap(f"{name}_end_{k}", end.x, end.y, words, SnapKind.SLOT_END, 1)

    def of_cam(self, name: str, outline: model.CamOutline, *, is_hole: bool) -> Iterator[SnapPoint]:
        yield self._snap(name, 0.0, 0.0, "axis of cam", SnapKind.CAM, 1)

    def of_wheel(self, name: str, outline: Any, *, is_hole: bool) -> Iterator[SnapPoint]:
        """The middle of a shape that has one, and is turned."""
        what, counted = _WHEELS[type(outline)]
        count = "" if counted is None else str(self._count(getattr(outline, counted)))
        turn = self._resolved.number(self._part, outline.turned, ANGLE)
        at = outline.x, outline.y
        words = what.format(count)
        yield self._snap(name, *at, words, SnapKind.WHEEL, 1, turn, outline.turned)

    def of_hull(self, name: str, outline: model.Hull, *, is_hole: bool) -> Iterator[SnapPoint]:
        rounds, unit = outline.rounds, self._resolved.units.length
        is_slot = is_hole and len(rounds) == 2
        if is_slot:
            one, two = rounds
            ax, ay, bx, by = (self._number(v) for v in (one.x, one.y, two.x, two.y))
            angle = math.atan2(by - ay, bx - ax)
            words = f"middle of slot {self._size(times(one.radius, 2))}"
            x, y = middle_of(one.x, two.x, unit), middle_of(one.y, two.y, unit)
            yield self._snap(name, x, y, words, SnapKind.SLOT, 1, angle)
        for k, each in enumerate(rounds):
            words, kind, rank = "centre of rounding", SnapKind.ROUNDING, 2
            if is_slot:
                words, kind, rank = "end of slot", SnapKind.SLOT_END, 3
            yield self._snap(f"{name}_{k + 1}", each.x, each.y, words, kind, rank)

    def of_rectangle(
        self, name: str, outline: model.Rectangle, *, is_hole: bool
    ) -> Iterator[SnapPoint]:
        unit = self._resolved.units.length
        turn = self._resolved.number(self._part, outline.turned, ANGLE)
        words, kind = "middle of rectangle", SnapKind.RECTANGLE
        if is_hole:
            words, kind = "middle of opening", SnapKind.OPENING
        yield self._snap(name, outline.x, outline.y, words, kind, 2, turn, outline.turned)
        if turn:
            return
        for side, sx, sy in (("right", 1, 0), ("top", 0, 1), ("left", -1, 0), ("bottom", 0, -1)):
            x = beside(outline.x, outline.width, sx, unit)
            y = beside(outline.y, outline.height, sy, unit)
            angle = math.pi / 2 if sx else 0.0
            yield self._snap(f"{name}_{side}", x, y, "middle of edge", SnapKind.EDGE, 3, angle)

    def of_path(self, name: str, outline: model.Path, *, is_hole: bool) -> Iterator[SnapPoint]:
        """Corners, middles of straight edges, and centres of arcs (these as plain numbers)."""
        corners, unit = outline.vertices, self._resolved.units.length
        for k, (one, two) in enumerate(zip(corners, (*corners[1:], corners[0]), strict=True)):
            yield self._snap(f"{name}_corner_{k + 1}", one.x, one.y, "corner", SnapKind.CORNER, 4)
            ax, ay, bx, by = (self._number(v) for v in (one.x, one.y, two.x, two.y))
            bulge = self._resolved.number(self._part, one.bulge, NUMBER)
            if abs(bulge) < 1e-12:
                x, y = middle_of(one.x, two.x, unit), middle_of(one.y, two.y, unit)
                angle = math.atan2(by - ay, bx - ax)
                yield self._snap(
                    f"{name}_edge_{k + 1}", x, y, "middle of edge", SnapKind.EDGE, 3, angle
                )
            else:
                reach = (1.0 - bulge * bulge) / (4.0 * bulge)
                x = f"{(ax + bx) / 2 - reach * (by - ay):.12g} mm"
                y = f"{(ay + by) / 2 + reach * (bx - ax):.12g} mm"
                yield self._snap(f"{name}_arc_{k + 1}", x, y, "centre of arc", SnapKind.ARC, 3)


_WHEELS: Mapping[type[model.Model], tuple[str, str | None]] = {
    model.GenevaWheel: ("Geneva wheel of {} slots", "slots"),
    model.LockingDisc: ("locking disc", None),
    model.ToothedWheel: ("wheel of {} teeth", "teeth"),
    model.RatchetWheel: ("wheel of {} teeth", "teeth"),
    model.ToothedRack: ("first tooth of rack of {}", "teeth"),
    model.Sprocket: ("sprocket of {} teeth", "teeth"),
}
"""What their middles are called, and what of them is counted."""
_OF_SHAPE: Mapping[type[model.Model], Callable[..., Iterator[SnapPoint]]] = {
    model.Circle: _Snaps.of_circle,
    model.Hull: _Snaps.of_hull,
    model.Rectangle: _Snaps.of_rectangle,
    model.Path: _Snaps.of_path,
    model.SlotAlong: _Snaps.of_curved_slot,
    model.CamOutline: _Snaps.of_cam,
    **dict.fromkeys(_WHEELS, _Snaps.of_wheel),
}
