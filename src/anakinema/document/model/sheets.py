"""What drawings on paper say besides the mechanism, and what they said when last issued."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anakinema.bounded import MOST_ITEMS
from anakinema.document.model.fields import Identifier, Model, Words

PaperName = Literal["A4", "A3", "A2", "A1", "ANSI A", "ANSI B", "ANSI C"]
Projection = Literal["first", "third"]
Way = Literal["level", "upright"]
Key = Annotated[str, Field(max_length=400, pattern=r"^[^\x00-\x1f]*$")]
"""Of a sheet, or of a dimension on one: `part/lever/width`."""


class SheetDimension(Model):
    """A dimension drawn ``away`` mm farther from what it measures, on paper; or hidden."""

    key: Key
    away: Annotated[float, Field(ge=-2000.0, le=2000.0)] = 0.0
    hidden: bool = False


class AddedDimension(Model):
    """A dimension between two places of a part."""

    part: Identifier
    first: Identifier
    second: Identifier
    way: Way = "level"

    @property
    def key(self) -> str:
        """What it is known by on its sheet."""
        return f"part/{self.part}/{self.first} to {self.second}, {self.way}"


class IssuedSize(Model):
    """A dimension as issued, mm."""

    key: Key
    value: float


class IssuedSheet(Model):
    """A sheet as issued: its dimensions, and a digest of all that is drawn."""

    key: Key
    digest: Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]
    sizes: Annotated[tuple[IssuedSize, ...], Field(max_length=MOST_ITEMS)] = ()


class Issue(Model):
    """The sheets as they were given away under a revision."""

    revision: Words = ""
    date: Words = ""
    sheets: Annotated[tuple[IssuedSheet, ...], Field(max_length=4 * MOST_ITEMS)] = ()


class SheetSettings(Model):
    """``paper`` is the largest that may be taken; ``pose`` is the kept pose to draw, the one on
    show if there is none."""

    paper: PaperName = "A3"
    projection: Projection = "first"
    revision: Words = ""
    date: Words = ""
    drawn_by: Words = ""
    pose: Identifier | None = None
    dimensions: Annotated[tuple[SheetDimension, ...], Field(max_length=MOST_ITEMS)] = ()
    added: Annotated[tuple[AddedDimension, ...], Field(max_length=MOST_ITEMS)] = ()
    issued: Issue | None = None
