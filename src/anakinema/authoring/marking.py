"""Places that a part does not have yet: midway between two of its snaps, or a distance off one."""

from __future__ import annotations

import math

from anakinema.authoring.expression_text import middle_of, sum_of
from anakinema.authoring.snap_points import PlacedSnap
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.edits.base import fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.errors import ValueOutOfRangeError
from anakinema.expressions import parse
from anakinema.units import ANGLE

Source = float | str


def marked(
    resolved: Resolved, first: PlacedSnap, second: PlacedSnap | None, along: Source, across: Source
) -> tuple[AddPlaces, str]:
    """The edit that marks a place, and the place's id.

    It is midway between two snaps of one body, or at the first; then ``along`` the direction of
    the first snap and ``across`` to its left. Stated in the same expressions as the snaps, so that
    it follows them. Raises `ValueOutOfRangeError` if the snaps are on two bodies.
    """
    body = resolved.document.body(first.body)
    part = resolved.document.part(body.part)
    if second is not None and resolved.document.body(second.body).part != body.part:
        raise ValueOutOfRangeError(
            "the two places are on two parts.",
            where=f"body '{body.title}'",
            remedy="Pick both on one body; the place will be its own.",
        )
    base, unit = first.snap.place, resolved.units.length
    x, y = base.x, base.y
    words = f"off_{base.id}"
    if second is not None:
        other = second.snap.place
        x, y = middle_of(x, other.x, unit), middle_of(y, other.y, unit)
        words = f"mid_{base.id}"
    c, s = _cosine_and_sine(resolved, part, base.angle)
    x = _plus(x, ((c, 1.0, along), (s, -1.0, across)), unit)
    y = _plus(y, ((s, 1.0, along), (c, 1.0, across)), unit)
    place_id = fresh_id(words, [place.id for place in part.places])
    return AddPlaces(part.id, (model.Place(id=place_id, x=x, y=y, angle=base.angle),)), place_id


def _cosine_and_sine(resolved: Resolved, part: model.Part, angle: Source) -> tuple[Source, Source]:
    """Numbers where the direction is fixed, expressions where it follows something."""
    if isinstance(angle, str) and parse(angle).names:
        return f"cos({angle})", f"sin({angle})"
    turn = resolved.number(part, angle, ANGLE)
    return math.cos(turn), math.sin(turn)


def _plus(base: Source, terms: tuple[tuple[Source, float, Source], ...], unit: str) -> Source:
    for factor, sign, length in terms:
        if length in (0, 0.0, "0"):
            continue
        if isinstance(factor, str):
            stated = length if isinstance(length, str) else f"{length:.12g} {unit}"
            base = sum_of((1.0, base), (sign, f"{factor}*({stated})"), unit=unit)
        elif abs(factor) > 1e-12:
            base = sum_of((1.0, base), (sign * factor, length), unit=unit)
    return base
