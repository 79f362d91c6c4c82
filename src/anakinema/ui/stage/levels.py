"""From places of the plane to pixels, wherever in the stack they lie."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from PySide6.QtGui import QTransform

from anakinema.authoring import PlacedSnap


class Levels(Protocol):
    """Where the level planes through bodies are in the picture."""

    @property
    def beyond(self) -> frozenset[int]:
        """Bodies of which nothing is said in it: they lie on planes that it does not show."""

    def of(self, body: int | None) -> QTransform:
        """The plane at a body's middle; None for what lies at no body."""

    def between(self, one: int, other: int) -> QTransform:
        """The plane at which two bodies can touch."""

    def at(self, snap: PlacedSnap) -> QTransform:
        """The plane at which a place was picked."""


@dataclass(frozen=True, slots=True)
class Flat:
    """Seen square from above all planes are one."""

    view: QTransform
    beyond: frozenset[int] = frozenset()

    def of(self, body: int | None) -> QTransform:
        return self.view

    def between(self, one: int, other: int) -> QTransform:
        return self.view

    def at(self, snap: PlacedSnap) -> QTransform:
        return self.view
