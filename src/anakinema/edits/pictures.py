"""Edits of reference pictures: they come, are placed and scaled, and go."""

from __future__ import annotations

import math
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.model import Document
from anakinema.edits.base import Keyed


@dataclass(frozen=True)
class AddPicture(Keyed):
    """Lay a picture under the stage."""

    picture: model.Picture
    label = "Add picture"
    subject = ()

    def apply(self, document: Document) -> Document:
        if any(old.id == self.picture.id for old in document.pictures):
            raise KeyError(self.picture.id)
        return document.model_copy(update={"pictures": (*document.pictures, self.picture)})


@dataclass(frozen=True)
class SetPicture(Keyed):
    """Set numbers of a picture: x, y, angle, pixel, opacity."""

    picture: str
    values: tuple[tuple[str, object], ...]
    label = "Place picture"

    @property
    def merge_key(self) -> tuple[object, ...]:
        return (type(self), self.picture, *(name for name, _ in self.values))

    def apply(self, document: Document) -> Document:
        old = next((p for p in document.pictures if p.id == self.picture), None)
        if old is None:
            raise KeyError(self.picture)
        current = {name: getattr(old, name) for name in type(old).model_fields}
        new = type(old).model_validate({**current, **dict(self.values)})
        pictures = tuple(new if p.id == new.id else p for p in document.pictures)
        return document.model_copy(update={"pictures": pictures})


@dataclass(frozen=True)
class RemovePicture(Keyed):
    """Take a picture away."""

    picture: str
    label = "Delete picture"
    subject = ("picture",)

    def apply(self, document: Document) -> Document:
        kept = tuple(p for p in document.pictures if p.id != self.picture)
        if len(kept) == len(document.pictures):
            raise KeyError(self.picture)
        return document.model_copy(update={"pictures": kept})


def scaled_by(
    picture: str,
    now: tuple[float, float, float],
    one: tuple[float, float],
    two: tuple[float, float],
    length: float,
) -> SetPicture:
    """The edit that makes two points of the plane (mm) ``length`` mm apart on a picture.

    ``now`` is its x, y (mm) and pixel width (mm). The first point stays where it is.
    Raises `ZeroDivisionError` if the points are one.
    """
    x, y, pixel = now
    factor = length / math.dist(one, two)
    return SetPicture(
        picture,
        (
            ("pixel", f"{pixel * factor:.9g} mm"),
            ("x", f"{one[0] + (x - one[0]) * factor:.9g} mm"),
            ("y", f"{one[1] + (y - one[1]) * factor:.9g} mm"),
        ),
    )
