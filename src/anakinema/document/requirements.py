"""What requirements ask, in numbers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.flatten import joint_kinds
from anakinema.document.measured import requirement_dimension
from anakinema.document.reading import Reader
from anakinema.errors import ValueOutOfRangeError


@dataclass(frozen=True, slots=True)
class RequirementValues:
    """Bounds of a requirement in inside units."""

    least: float | None
    greatest: float | None
    comfort: float | None


def requirement_values(document: model.Document, reader: Reader) -> tuple[RequirementValues, ...]:
    """The bounds of all requirements; raises an `AnakinemaError` that names the place."""
    kinds = joint_kinds(document)
    return tuple(_requirement(kinds, each, reader) for each in document.requirements)


def _requirement(
    kinds: Mapping[str, model.JointKind], requirement: model.Requirement, reader: Reader
) -> RequirementValues:
    where = f"requirement '{requirement.title}'"
    dimension = requirement_dimension(kinds, requirement)
    least = reader.maybe(requirement.least, dimension, where, "least")
    greatest = reader.maybe(requirement.greatest, dimension, where, "greatest")
    comfort = reader.maybe(requirement.comfort, dimension, where, "comfort")
    if least is None and greatest is None:
        raise ValueOutOfRangeError(
            "it asks for nothing.", where=where, remedy="Give a least or a greatest value."
        )
    if least is not None and greatest is not None and least > greatest:
        raise ValueOutOfRangeError(
            "its least value is above its greatest.", where=where, remedy="Swap the two."
        )
    return RequirementValues(least, greatest, comfort)
