"""What a tool may ask of the stage that it works on."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRectF

from anakinema.ui.drafts import Drafts
from anakinema.ui.stage.bodies import BodyPainter
from anakinema.ui.stage.view import View
from anakinema.ui.workbench import Selection, Workbench
from anakinema.units import UnitSystem


class Surface(Protocol):
    """The stage, as far as tools know it: its view, what is under a point, and the drafts."""

    workbench: Workbench
    drafts: Drafts
    in_relief: bool

    @property
    def view(self) -> View:
        """Where the plane lies on it."""

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

    def body_at(self, point: QPointF) -> str | None:
        """The body under a pixel."""

    def thing_at(self, point: QPointF) -> Selection:
        """What a click on a pixel means."""

    def bodies_in(self, box: QRectF) -> list[str]:
        """Bodies wholly within a box of pixels."""

    def update(self) -> None:
        """Paint anew."""
