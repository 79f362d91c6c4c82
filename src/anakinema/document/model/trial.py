"""Sets of numbers that were tried, what they gave, and what the designer made of it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anakinema.bounded import MOST_ITEMS
from anakinema.document.model.fields import Given, Identifier, Model, Titled, Words


class TrialNumber(Model):
    """A parameter, or a dimension of a part, and the value that was tried."""

    part: Identifier | None = None
    name: Identifier
    value: Given


class TrialResult(Model):
    """What a finding was then: its title, how it fared, and its value in words."""

    title: Words
    outcome: Literal["pass", "warn", "fail", "cannot be judged"]
    value: Words = ""


Decision = Literal["open", "taken", "rejected"]


class Trial(Titled, Model):
    """``when`` is a local time as ISO 8601 has it, to the minute."""

    id: Identifier
    name: Words = ""
    when: Words = ""
    numbers: Annotated[tuple[TrialNumber, ...], Field(max_length=MOST_ITEMS)] = ()
    results: Annotated[tuple[TrialResult, ...], Field(max_length=MOST_ITEMS)] = ()
    decision: Decision = "open"
    reason: Words = ""
