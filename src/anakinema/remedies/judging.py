"""Changed documents, judged over their whole motion within bounds."""

from __future__ import annotations

from anakinema.document.model import Document
from anakinema.edits.base import Edit
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.finding import Finding
from anakinema.remedies.numbers import Number
from anakinema.wanted import TooLongError, at_most

FIRST_STEP = 0.005
"""Share of its value by which the effect of a number is tried."""
LONGEST = 3.0
"""Processor seconds that one whole evaluation may take here."""


def applied(evaluation: Evaluation, edit: Edit) -> Document | None:
    """The document after an edit; None if that cannot be."""
    try:
        return edit.apply(evaluation.source)
    except AnakinemaError:
        return None


def changed(evaluation: Evaluation, number: Number, value: float) -> Document | None:
    """The document with another value of a number; None if that cannot be."""
    return applied(evaluation, number.edit(value))


def judged(evaluation: Evaluation, document: Document | None) -> Evaluation | None:
    """The whole answer of a document changed from an evaluated one; None if it has none.

    Raises `TooLongError` where it takes too long.
    """
    if document is None:
        return None
    try:
        with at_most(LONGEST):
            return evaluate(document, earlier=evaluation)
    except AnakinemaError:
        return None


def judged_in_time(evaluation: Evaluation, document: Document | None) -> Evaluation | None:
    """The same, None also where it takes too long."""
    try:
        return judged(evaluation, document)
    except TooLongError:
        return None


def found_in(evaluation: Evaluation, finding_id: str) -> Finding | None:
    """The finding of an id."""
    return next((f for f in evaluation.verdict.findings if f.id == finding_id), None)
