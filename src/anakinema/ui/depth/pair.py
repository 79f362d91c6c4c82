"""The stage flat, in depth, or both side by side, looking at the same place as large."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter, QVBoxLayout, QWidget

from anakinema.ui.depth.bar import DepthBar
from anakinema.ui.depth.view import DepthView
from anakinema.ui.stage.stage import Stage


class StagePair(QSplitter):
    """What stands in the middle of the window while one builds, drives and checks."""

    def __init__(self, stage: Stage, depth: DepthView) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setObjectName("stage_pair")
        self.setChildrenCollapsible(False)
        self.setHandleWidth(4)
        self.stage, self.deep = stage, depth
        self._side = QWidget()
        column = QVBoxLayout(self._side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(depth, 1)
        column.addWidget(DepthBar(depth))
        self.addWidget(stage)
        self.addWidget(self._side)
        self._side.hide()
        self._was_fitted = False

    @property
    def in_depth(self) -> bool:
        """Whether it is seen in depth, alone or beside the flat stage."""
        return not self._side.isHidden()

    @property
    def is_both(self) -> bool:
        """Whether both are on show."""
        return self.in_depth and not self.stage.isHidden()

    @property
    def front(self) -> Stage | DepthView:
        """The one that commands for the view act on: what is on show, of both what has the keys."""
        if not self.in_depth:
            return self.stage
        return self.stage if self.is_both and self.stage.hasFocus() else self.deep

    def turn(self) -> None:
        """Into depth and back; place and size stay."""
        if self.in_depth and not self.is_both:
            self._show_flat()
        else:
            self._show_depth(alone=True)

    def turn_both(self) -> None:
        """Both side by side, or only the flat one again."""
        if self.is_both:
            self._show_flat()
        else:
            self._show_depth(alone=False)

    def _show_flat(self) -> None:
        """The flat stage alone."""
        if not self.is_both:
            self.stage.show_view(self.deep.view)
        self.stage.show()
        self._side.hide()
        self.stage.setFocus()

    def _show_depth(self, *, alone: bool) -> None:
        before = self.in_depth
        self._side.show()
        self.stage.setVisible(not alone)
        if not alone:
            half = self.width() // 2
            self.setSizes([half, half])
        if not before:
            self.deep.take_view(self.stage.view)
        self.deep.setFocus()
