"""What a number of a document measures, told by the type of its field.

`model` gives every quantity one of these types. Reading, changing units and forms ask
`measures_of` and need no list of field names.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from functools import cache
from typing import Annotated, Any, get_args, get_origin

from pydantic import BaseModel

from anakinema.units import Dimension


class By(Enum):
    """What tells the dimension where the field alone does not."""

    JOINT = "the kind of its joint"
    RATE = "the kind of its joint, per second"
    FOLLOWER = "what the follower of its cam does"
    RELATION = "the kind of its relation"
    FIRST = "the kind of its coupling, for the first joint"
    SECOND = "the kind of its coupling, for the second joint"
    REQUIREMENT = "what its requirement asks"
    ITSELF = "whatever it is given in"


@dataclass(frozen=True, slots=True)
class Measures:
    """Stands in the type of a field: its dimension, or what tells it; ``whole`` for counts."""

    what: Dimension | By
    whole: bool = False


@cache
def measures_of(kind: type[BaseModel]) -> dict[str, Measures]:
    """The fields of a class that are quantities, and what they measure."""
    found = {}
    for name, field in kind.model_fields.items():
        measures = next(_measures(field.metadata), None) or _within(field.annotation)
        if measures is not None:
            found[name] = measures
    return found


def _measures(metadata: Any) -> Any:
    return (each for each in metadata if isinstance(each, Measures))


def _within(annotation: Any) -> Measures | None:
    """Of ``Length | None``."""
    if get_origin(annotation) is Annotated:
        return next(_measures(get_args(annotation)), None)
    if get_origin(annotation) is tuple:
        return None
    return next(filter(None, map(_within, get_args(annotation))), None)
