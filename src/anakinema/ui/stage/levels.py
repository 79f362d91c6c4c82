"""From places of the plane to pixels, wherever in the stack they lie."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF
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

    def spot(self, point: tuple[float, ...], poses: np.ndarray) -> QPointF:
        """A point of the plane that is worked on, or, of three numbers, in space, the mechanism at
        poses (B, 3)."""

    def plane_of(self, body: int, poses: np.ndarray) -> QTransform:
        """The plane that a body moves in, the mechanism at poses (B, 3)."""


@dataclass(frozen=True, slots=True)
class Flat:
    """Seen square from above all planes are one. ``planes`` gives at poses (B, 3) the frame (3, 4)
    of the plane that is shown, and those in which all bodies stand; None where there is one."""

    view: QTransform
    beyond: frozenset[int] = frozenset()
    planes: Callable[[np.ndarray], tuple[np.ndarray, list[np.ndarray]]] | None = None

    def of(self, body: int | None) -> QTransform:
        return self.view

    def between(self, one: int, other: int) -> QTransform:
        return self.view

    def at(self, snap: PlacedSnap) -> QTransform:
        return self.view

    def spot(self, point: tuple[float, ...], poses: np.ndarray) -> QPointF:
        if len(point) == 3 and self.planes is not None:
            here, _ = self.planes(poses)
            x, y = (np.array(point) - here[:, 3]) @ here[:, :2]
            return self.view.map(QPointF(float(x), float(y)))
        return self.view.map(QPointF(*point[:2]))

    def plane_of(self, body: int, poses: np.ndarray) -> QTransform:
        if body not in self.beyond or self.planes is None:
            return self.view
        here, frames = self.planes(poses)
        turned = here[:, :3].T @ frames[body][:, :3]
        x, y, _ = here[:, :3].T @ (frames[body][:, 3] - here[:, 3])
        over = QTransform(
            turned[0, 0], turned[1, 0], turned[0, 1], turned[1, 1], float(x), float(y)
        )
        return over * self.view
