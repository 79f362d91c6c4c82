"""Moves of the plane that copies are made by: rows, rings, stacks, mirrors."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried, turned

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
        return carried((self.x, self.y, self.turn), (x, y))

    def angle(self, angle: float) -> float:
        """A direction, moved."""
        if self.mirror is not None:
            angle = 2 * self.mirror - angle
        return angle + self.turn


def about(x: float, y: float, turn: float, lift: float = 0.0) -> Shift:
    """A turn about a point."""
    dx, dy = turned((x, y), turn)
    return Shift(x - dx, y - dy, turn, lift)


def mirror_about(x: float, y: float, angle: float) -> Shift:
    """A mirror image about a line through a point."""
    plain = Shift(mirror=angle)
    px, py = plain.point(x, y)
    return Shift(x - px, y - py, mirror=angle)


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


def between(one: Floats, two: Floats) -> Shift:
    """The shift that takes one pose to another."""
    turn = float(two[2] - one[2])
    dx, dy = turned(one, turn)
    return Shift(float(two[0]) - dx, float(two[1]) - dy, turn)


def after(step: Shift, shift: Shift, lift: float) -> Shift:
    """A step made after a shift."""
    x, y = step.point(shift.x, shift.y)
    return replace(shift, x=x, y=y, turn=shift.turn + step.turn, lift=lift)
