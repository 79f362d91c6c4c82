"""Reading quantities: every name of a document evaluated, every number checked at its place."""

from __future__ import annotations

import graphlib
from collections import ChainMap
from collections.abc import Mapping

from anakinema.document import model
from anakinema.document.dimensions import By, dimensions_of
from anakinema.errors import ExpressionError, GeometryError, ValueOutOfRangeError
from anakinema.expression_functions import Quantity
from anakinema.expressions import Expression, evaluate, parse, quantity_in
from anakinema.units import NUMBER, Dimension, UnitSystem

GLOBAL_LIMIT = 1e6
"""mm; coordinates beyond this are refused, double precision could not hold the tolerances."""


class Reader:
    """Reads quantities at a place, so that an error can name it; ``part`` is the one it knows."""

    def __init__(
        self, units: UnitSystem, names: Mapping[str, Quantity], part: model.Part | None = None
    ) -> None:
        self.units = units
        self.names = names
        self.part = part

    def within(self, part: model.Part) -> Reader:
        """A reader that knows a part's own dimensions by their bare names."""
        local = {d.id: self.names[f"{part.id}.{d.id}"] for d in part.dimensions}
        names = ChainMap(local, dict(self.names)) if local else self.names
        return Reader(self.units, names, part)

    def read(self, source: float | str, dimension: Dimension, where: str, field: str) -> float:
        """Value in mm, rad or s; raises an `AnakinemaError` that names the place."""
        try:
            value = quantity_in(source, dimension, self.units, self.names)
        except ExpressionError as error:
            raise ExpressionError(
                f"{error.where}: {error.what}", where=f"{where}, {field}", remedy=error.remedy
            ) from error
        if not abs(value) < GLOBAL_LIMIT:
            raise ValueOutOfRangeError(
                f"{value:g} is far outside what a mechanism needs.",
                where=f"{where}, {field}",
                remedy="Check the number and its unit.",
            )
        return value

    def field(self, node: model.Model, name: str, where: str) -> float:
        """Value of a field whose type tells what it measures; a count is whole (`round` it)."""
        measured, source = dimensions_of(type(node))[name], getattr(node, name)
        if isinstance(measured.what, By):
            raise TypeError(f"what '{name}' measures is stated by {measured.what.value}")
        if type(source) is float and not measured.whole:
            # Most are plain numbers; thousands are read at every edit.
            value = source * self.units.factor(measured.what)
            if abs(value) < GLOBAL_LIMIT:
                return value
        words = name.replace("_", " ")
        value = self.read(source, measured.what, where, words)
        if measured.whole:
            if abs(value - round(value)) > 1e-9:
                raise GeometryError(
                    f"{value:g} is no number of {words}.",
                    where=where,
                    remedy="Give a whole number.",
                )
            return round(value)
        return value

    def fields(self, node: model.Model, names: str, where: str) -> tuple[float, ...]:
        """Values of several such fields, their names apart by blanks."""
        return tuple(self.field(node, name, where) for name in names.split())

    def optional(self, node: model.Model, name: str, where: str) -> float | None:
        """The same of a field that may be left open: None then."""
        return None if getattr(node, name) is None else self.field(node, name, where)

    def pose(self, pose: model.Pose, where: str) -> tuple[float, float, float]:
        """x, y in mm and the angle in rad."""
        x, y, angle = self.fields(pose, "x y angle", where)
        return x, y, angle

    def maybe(
        self, source: float | str | None, dimension: Dimension, where: str, field: str
    ) -> float | None:
        """The same, None where nothing is given."""
        return None if source is None else self.read(source, dimension, where, field)


def named_quantities(document: model.Document) -> dict[str, Quantity]:
    """All parameters, and dimensions as ``part.dimension``; raises `ExpressionError`."""
    sources: dict[str, tuple[float | str, str, frozenset[str]]] = {}
    for parameter in document.parameters:
        sources[parameter.id] = (parameter.value, f"parameter '{parameter.id}'", frozenset())
    for part in document.parts:
        local = frozenset(d.id for d in part.dimensions)
        for dimension in part.dimensions:
            where = f"part '{part.title}', dimension '{dimension.id}'"
            sources[f"{part.id}.{dimension.id}"] = (dimension.value, where, local)

    def full(name: str, owner: str, local: frozenset[str]) -> str:
        return f"{owner.partition('.')[0]}.{name}" if name in local else name

    graph: dict[str, set[str]] = {}
    for key, (source, where, local) in sources.items():
        needed = _parse_at(source, where).names if isinstance(source, str) else frozenset()
        graph[key] = {full(n, key, local) for n in needed} & sources.keys()
    try:
        order = list(graphlib.TopologicalSorter(graph).static_order())
    except graphlib.CycleError as error:
        ring = " → ".join(reversed(error.args[1]))
        raise ExpressionError(
            f"the values depend on each other in a ring: {ring}.",
            where=sources[error.args[1][0]][1],
            remedy="Give one of them a number.",
        ) from error
    values: dict[str, Quantity] = {}
    for key in order:
        source, where, local = sources[key]
        if not isinstance(source, str):
            values[key] = Quantity(float(source), NUMBER)
            continue
        scope: Mapping[str, Quantity] = values
        if local:
            owner = key.partition(".")[0]
            known = {n: values[f"{owner}.{n}"] for n in local if f"{owner}.{n}" in values}
            scope = ChainMap(known, values)
        try:
            values[key] = evaluate(parse(source), scope)
        except ExpressionError as error:
            raise ExpressionError(
                f"{error.where}: {error.what}", where=where, remedy=error.remedy
            ) from error
    return values


def _parse_at(source: str, where: str) -> Expression:
    try:
        return parse(source)
    except ExpressionError as error:
        raise ExpressionError(
            f"{error.where}: {error.what}", where=where, remedy=error.remedy
        ) from error
