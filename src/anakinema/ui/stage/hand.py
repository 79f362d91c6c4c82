"""The tool in hand on a surface, whichever the workbench says."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from anakinema.ui.stage.pictures import ScaleTool
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import Tool
from anakinema.ui.stage.tools.join import JoinTool
from anakinema.ui.stage.tools.mark import MarkTool
from anakinema.ui.stage.tools.place import PlaceTool
from anakinema.ui.stage.tools.repeat import RepeatTool
from anakinema.ui.stage.tools.select import SelectTool
from anakinema.ui.stage.tools.stick import StickTool


class ToolHand:
    """Makes the tool when another is wanted, and lets it know what else happens."""

    def __init__(
        self, surface: Surface, widget: QWidget, measure: Callable[[Surface], Tool]
    ) -> None:
        """``measure`` : what measures on this surface."""
        self._surface, self._widget, self._measure = surface, widget, measure
        self.tool: Tool = SelectTool(surface)
        self.last: Pointer | None = None
        """Where the pointer was last."""
        bench = surface.workbench
        bench.tool_changed.connect(self._take)
        for happened in (
            bench.document_changed,
            bench.selection_changed,
            bench.station_changed,
            bench.playhead_moved,
        ):
            happened.connect(lambda *_: self.tool.interrupt())

    def _take(self) -> None:
        self.tool.leave()
        surface = self._surface
        kind, _, rest = surface.workbench.tool.partition(":")
        makers: dict[str, Callable[[], Tool]] = {
            "place": lambda: PlaceTool(surface, rest),
            "join": lambda: JoinTool(surface),
            "repeat": lambda: RepeatTool(surface),
            "measure": lambda: self._measure(surface),
            "mark": lambda: MarkTool(surface),
            "stick": lambda: StickTool(surface),
            "scale": lambda: ScaleTool(surface, rest),
        }
        self.tool = makers.get(kind, lambda: SelectTool(surface))()
        if self.last is not None:
            # The pointer may already stand where the tool is wanted.
            self.tool.move(self.last)
        shape = Qt.CursorShape.CrossCursor if kind else Qt.CursorShape.ArrowCursor
        self._widget.setCursor(shape)
        surface.update()
