"""Rods with balls at both ends, in numbers."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.reading import Reader
from anakinema.errors import ValueOutOfRangeError
from anakinema.units import LENGTH


@dataclass(frozen=True, slots=True)
class RodValues:
    """A rod in mm: its ``length`` between the middles of its balls, its radius, and how high these
    stand above the datums of both bodies. A ball has twice the radius of the rod."""

    length: float
    radius: float
    first_height: float
    second_height: float

    @property
    def ball(self) -> float:
        """mm, the radius of its balls."""
        return 2.0 * self.radius


def rod_of(joint: model.Joint, reader: Reader, where: str) -> RodValues:
    """The rod of a joint; raises a `ValueOutOfRangeError` if it can be none."""
    length = reader.optional(joint, "length", where)
    if length is None:
        raise ValueOutOfRangeError(
            "its rod has no length.", where=where, remedy="Give the length between its balls."
        )
    thickness = reader.field(joint, "thickness", where)
    if not thickness > 0:
        raise ValueOutOfRangeError(
            "its rod has no thickness.", where=where, remedy="For instance 6 mm."
        )
    if not length > 2 * thickness:
        words = [reader.units.format(each, LENGTH) for each in (length, 2 * thickness)]
        raise ValueOutOfRangeError(
            f"its rod is {words[0]} long, too short for its balls: more than {words[1]}.",
            where=where,
            remedy="Make it longer or thinner.",
        )
    heights = (reader.field(joint, name, where) for name in ("first_height", "second_height"))
    return RodValues(length, thickness / 2, *heights)
