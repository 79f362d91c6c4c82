"""What the panels of the outline editor may ask of it."""

from __future__ import annotations

from typing import Protocol

from anakinema.authoring import Way
from anakinema.document import model
from anakinema.edits import Edit
from anakinema.ui.fields import QuantityField
from anakinema.ui.outline.canvas import OutlineCanvas
from anakinema.ui.workbench import Workbench


class Desk(Protocol):
    """The editor, as far as its panels know it."""

    workbench: Workbench
    canvas: OutlineCanvas
    ways: tuple[Way, ...]

    def part(self) -> model.Part | None:
        """The part on show."""

    def do(self, edit: Edit) -> None:
        """An edit that is a step of its own."""

    def operate(self, name: str, *values: object) -> None:
        """Make the outline anew by an operation of that name."""

    def offer(self, edit: Edit, index: int) -> None:
        """Show the ways in which an edit can be kept."""

    def take(self, way: Way) -> None:
        """Take one of the ways."""

    def leave(self) -> None:
        """Take none of them."""

    def use_size(self, expression: str) -> None:
        """Let the number in hand follow another."""

    def field(self, name: str) -> QuantityField | None:
        """A number of the panel by its name."""

    def rebuild(self) -> None:
        """Build the panel anew."""
