"""The lengths of a cylinder in numbers, and what they may be."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.reading import Reader
from anakinema.errors import ValueOutOfRangeError
from anakinema.units import LENGTH


@dataclass(frozen=True, slots=True)
class Stroke:
    """A cylinder in mm: pivot to pivot pushed in, how far it comes out, how long it is guided then.

    At a value v from 0 to ``stroke`` the rod is guided over ``guided + stroke - v``.
    """

    dead_length: float
    stroke: float
    guided: float

    def guided_at(self, value: float) -> float:
        """mm over which the rod is guided at a value."""
        return self.guided + self.stroke - value


def stroke_of(joint: model.Joint, reader: Reader, where: str) -> Stroke:
    """The lengths of a cylinder; raises an `AnakinemaError` that names the joint."""
    stated = []
    for name, words in (("dead_length", "dead length"), ("stroke", "stroke")):
        value = reader.optional(joint, name, where)
        if value is None or not value > 0:
            raise ValueOutOfRangeError(
                f"it has no {words}." if value is None else f"its {words} is not above zero.",
                where=where,
                remedy=f"Give its {words}, for instance 100 mm.",
            )
        stated.append(value)
    guided = reader.optional(joint, "guided", where) or 0.0
    if guided < 0:
        raise ValueOutOfRangeError(
            "its guided length is below zero.", where=where, remedy="Give zero or more."
        )
    dead, stroke = stated
    if dead < stroke + guided:
        show = [reader.units.format(v, LENGTH) for v in (stroke, guided, dead)]
        raise ValueOutOfRangeError(
            f"a stroke of {show[0]} with {show[1]} guided does not go into a dead length of"
            f" {show[2]}.",
            where=where,
            remedy="Lengthen the dead length, or shorten the stroke.",
        )
    return Stroke(dead, stroke, guided)
