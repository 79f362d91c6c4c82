"""What a number of a document measures, stated by the type of its field.

`model` gives every quantity one of these types. Reading, changing units and forms ask
`dimensions_of` and need no list of field names.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from pydantic import BaseModel

from anakinema.document.marked import marks_of
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
class Dimensioned:
    """Stands in the type of a field: its dimension, or what tells it; ``whole`` for counts."""

    what: Dimension | By
    whole: bool = False


def dimensions_of(kind: type[BaseModel]) -> dict[str, Dimensioned]:
    """The fields of a class that are quantities, and what they measure."""
    return marks_of(kind, Dimensioned)
