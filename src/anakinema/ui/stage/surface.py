"""What a tool may ask of the stage that it works on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt

from anakinema.authoring import PlacedSnap
from anakinema.ui.drafts import Drafts
from anakinema.ui.stage.bodies import BodyPainter
from anakinema.ui.stage.levels import Levels
from anakinema.ui.stage.view import View
from anakinema.ui.workbench import Selection, Workbench
from anakinema.units import UnitSystem


@dataclass(frozen=True, slots=True)
class Pointer:
    """Where the mouse is: pixels of the stage, mm of the plane, and the keys held with it."""

    pixel: QPointF
    x: float
    y: float
    keys: Qt.KeyboardModifier

    @property
    def shift(self) -> bool:
        """Whether Shift is held."""
        return bool(self.keys & Qt.KeyboardModifier.ShiftModifier)

    @property
    def control(self) -> bool:
        """Whether Ctrl is held."""
        return bool(self.keys & Qt.KeyboardModifier.ControlModifier)


class Surface(Protocol):
    """The stage, as far as tools know it: its view, what is under a point, and the drafts."""

    workbench: Workbench
    drafts: Drafts

    @property
    def view(self) -> View:
        """Where the plane lies on it."""

    @property
    def levels(self) -> Levels:
        """Where places are in the picture, by their height in the stack."""

    @property
    def bodies(self) -> BodyPainter | None:
        """What paints the bodies."""

    @property
    def units(self) -> UnitSystem | None:
        """Units that lengths are shown in."""

    def snapped(self, value: float) -> float:
        """mm, on a step of the grid."""

    def snapped_step(self) -> float:
        """mm, that step."""

    def to_pixels(self, x: float, y: float) -> QPointF:
        """Where a point of the plane is."""

    def snaps_at(self, at: Pointer, reach: float) -> tuple[PlacedSnap, ...]:
        """Places within ``reach`` pixels of the pointer, the nearest first."""

    def body_at(self, point: QPointF) -> str | None:
        """The body under a pixel."""

    def thing_at(self, point: QPointF) -> Selection:
        """What a click on a pixel means."""

    def bodies_in(self, box: QRectF) -> list[str]:
        """Bodies wholly within a box of pixels."""

    def update(self) -> None:
        """Paint anew."""
