"""The types of fields: quantities by what they measure, ids, words."""

from __future__ import annotations

import math
import re
from typing import Annotated, Literal, Protocol

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from anakinema.bounded import MOST_ITEMS as MOST_ITEMS
from anakinema.document.dimensions import By, Dimensioned
from anakinema.document.references import Names, Of
from anakinema.expressions import parse
from anakinema.units import ANGLE, LENGTH, NUMBER, TIME

FORMAT = "anakinema-mechanism"
VERSION = 2
MOST_BYTES = 20_000_000
"""Bytes of a file."""
MOST_PICTURE = 4_000_000
"""Characters of a picture's data."""


class Model(BaseModel):
    """Base: frozen, and strict about names it does not know."""

    # Built when first used: the window is there before the first document is read.
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)


_PLAIN = re.compile(r"-?\d{1,15}(\.\d{1,15})?( (mm|cm|m|in|thou|deg|rad|s|rpm))?")


def _check_quantity(value: object) -> object:
    if isinstance(value, bool) or not isinstance(value, (int, float, str)):
        raise ValueError("a number or an expression in quotes is needed")
    if isinstance(value, str):
        # Most are a plain number with a unit; large files would wait for the parser.
        if not _PLAIN.fullmatch(value):
            parse(value)
        return value
    try:
        number = float(value)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise ValueError("the number is not finite")
    return number


Quantity = Annotated[float | str, BeforeValidator(_check_quantity)]
Length = Annotated[Quantity, Dimensioned(LENGTH)]
Angle = Annotated[Quantity, Dimensioned(ANGLE)]
Time = Annotated[Quantity, Dimensioned(TIME)]
Ratio = Annotated[Quantity, Dimensioned(NUMBER)]
Count = Annotated[Quantity, Dimensioned(NUMBER, whole=True)]
JointValue = Annotated[Quantity, Dimensioned(By.JOINT)]
JointRate = Annotated[Quantity, Dimensioned(By.RATE)]
Lift = Annotated[Quantity, Dimensioned(By.FOLLOWER)]
RelationValue = Annotated[Quantity, Dimensioned(By.RELATION)]
FirstSize = Annotated[Quantity, Dimensioned(By.FIRST)]
SecondSize = Annotated[Quantity, Dimensioned(By.SECOND)]
RequiredValue = Annotated[Quantity, Dimensioned(By.REQUIREMENT)]
Given = Annotated[Quantity, Dimensioned(By.ITSELF)]
Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=160)]
BodyName = Annotated[Identifier, Names(Of.BODY)]
JointName = Annotated[Identifier, Names(Of.JOINT)]
Words = Annotated[str, Field(max_length=400, pattern=r"^[^\x00-\x08\x0b\x0c\x0e-\x1f]*$")]
"""Text for people, without control characters."""
PositiveCount = Annotated[int, Field(ge=2, le=20000, strict=True)]

Colour = Literal["blue", "clay", "sage", "plum", "ochre", "steel", "rose", "teal", "sand"]


class _Named(Protocol):
    @property
    def id(self) -> str: ...

    @property
    def name(self) -> str: ...


class Titled:
    """What has an id, and perhaps a name of its own."""

    @property
    def title(self: _Named) -> str:
        """Name for people."""
        return self.name or self.id.replace("_", " ")


class Units(Model):
    """Units that plain numbers of this document are in."""

    length: Literal["mm", "cm", "m", "in", "thou"] = "mm"
    angle: Literal["deg", "rad"] = "deg"


class Parameter(Model):
    """A named quantity that expressions may use."""

    id: Identifier
    value: Given
    note: Words = ""
