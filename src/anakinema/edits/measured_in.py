"""Another unit for a document: every plain number is converted, every stated unit stays."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.document.quantities import Place, Source, measured_anew
from anakinema.document.resolve import resolve
from anakinema.edits.base import Keyed
from anakinema.errors import ExpressionError, ValueOutOfRangeError
from anakinema.expressions import evaluate, is_plain, parse
from anakinema.units import NUMBER, UnitSystem


@dataclass(frozen=True)
class SetUnits(Keyed):
    """Read and type lengths and angles in other units; nothing changes its size.

    Plain numbers are converted. Expressions keep their words: what has units in it means the
    same. Where one leans on a number without a unit, a size would change, and the edit is refused
    with a `ValueOutOfRangeError` that names the place.
    """

    length: str
    angle: str
    label = "Change units"
    subject = ()

    def apply(self, document: Document) -> Document:
        new = model.Units.model_validate({"length": self.length, "angle": self.angle})
        if new == document.units:
            return document
        reader = resolve(document).reader
        old_system = UnitSystem(document.units.length, document.units.angle)
        system = UnitSystem(new.length, new.angle)

        def stated_anew(source: Source, place: Place) -> Source:
            dimension = place.dimension
            factor = 1.0 if dimension is None else old_system.factor(dimension)
            if dimension is None or factor == system.factor(dimension):
                return source
            if not isinstance(source, str):
                return round(source * factor / system.factor(dimension), 12)
            if is_plain(source):
                # A bare number in quotes is given the unit it was meant in.
                return f"{source.strip()} {old_system.name(dimension)}"
            local = reader if place.part is None else reader.within(place.part)
            try:
                meant = evaluate(parse(source), local.names)
            except ExpressionError:
                # What is switched off may name what is gone: it means nothing in any unit.
                return source
            if meant.dimension == NUMBER and meant.value != 0.0:
                raise ValueOutOfRangeError(
                    f"'{source}' has no unit and would change its size.",
                    where=place.words,
                    remedy="Give its dimensions, or the parameters they use, a unit first.",
                )
            return source

        return measured_anew(document, stated_anew).model_copy(update={"units": new})
