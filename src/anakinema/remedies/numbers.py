"""Numbers of a document that a designer may change: named, and following no other."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from anakinema.document import model
from anakinema.document.dimensions import By, dimensions_of
from anakinema.document.model import Document
from anakinema.document.reading import named_quantities
from anakinema.edits.base import Edit, Source
from anakinema.edits.values import SetDimension, SetParameter
from anakinema.expressions import parse
from anakinema.units import NUMBER, UNITS, Dimension, UnitSystem


@dataclass(frozen=True, slots=True)
class Number:
    """A parameter, or (with ``part``) a dimension of a part.

    value : in the unit that it is written in; ``unit`` is '' for a bare number.
    """

    part: str
    name: str
    title: str
    value: float
    unit: str
    dimension: Dimension

    def edit(self, value: float) -> Edit:
        """The edit that gives it another value, in its own unit."""
        text: Source = f"{value:.10g} {self.unit}" if self.unit else float(f"{value:.10g}")
        if self.part:
            return SetDimension(self.part, self.name, text)
        return SetParameter(self.name, text)

    def words(self, value: float) -> str:
        """A value with its unit: '118 mm'."""
        return f"{value:.10g} {self.unit}".strip()


def free_numbers(document: Document) -> tuple[Number, ...]:
    """All named numbers that follow no other name and are no counts.

    Raises an `AnakinemaError` where one cannot be read.
    """
    values, counts = named_quantities(document), frozenset(_counts(document, ""))
    units = UnitSystem(document.units.length, document.units.angle)
    found = []
    for part, entry in _named(document):
        key = f"{part.id}.{entry.id}" if part else entry.id
        source, quantity = entry.value, values[key]
        if isinstance(source, str) and parse(source).names:
            # Another value would cut what it follows.
            continue
        unit = _unit(source, quantity.dimension, units)
        if unit is None or (quantity.dimension == NUMBER and key in counts):
            continue
        title = entry.id.replace("_", " ")
        if part:
            title = f"{part.title}, {title}"
        value = quantity.value / (UNITS[unit][0] if unit else 1.0)
        if value != 0.0:
            found.append(
                Number(part.id if part else "", entry.id, title, value, unit, quantity.dimension)
            )
    return tuple(found)


def number_named(document: Document, part: str, name: str) -> Number | None:
    """The number of a name (``part`` '' for a parameter), as it is written; None if it is bound."""
    return next((n for n in free_numbers(document) if (n.part, n.name) == (part, name)), None)


def _named(document: Document) -> Iterator[tuple[model.Part | None, model.Parameter]]:
    for parameter in document.parameters:
        yield None, parameter
    for part in document.parts:
        for dimension in part.dimensions:
            yield part, dimension


def _unit(source: Source, dimension: Dimension, units: UnitSystem) -> str | None:
    """The unit to write it in: its own, else that of the document; None if it has none of them."""
    if dimension == NUMBER:
        return ""
    own = str(source).split()[-1]
    if own in UNITS and UNITS[own][1] == dimension:
        return own
    name = units.name(dimension)
    return name if name in UNITS else None


def _counts(node: Any, part: str) -> Iterator[str]:
    """Names used where a number is counted (teeth, copies), dimensions by their full ones."""
    if isinstance(node, tuple):
        for item in node:
            yield from _counts(item, part)
    elif isinstance(node, model.Model):
        here = node.id if isinstance(node, model.Part) else part
        own = {each.id for each in node.dimensions} if isinstance(node, model.Part) else set()
        measured = dimensions_of(type(node))
        for field in type(node).model_fields:
            value = getattr(node, field)
            if field not in measured:
                for name in _counts(value, here):
                    yield f"{here}.{name}" if name in own else name
            elif isinstance(value, str) and (
                measured[field].whole or measured[field].what in (By.FIRST, By.SECOND)
            ):
                yield from parse(value).names
