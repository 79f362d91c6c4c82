"""The row under the depth view: from where, in which projection, cut, pulled apart."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QSlider, QWidget

from anakinema.ui.depth import plumb
from anakinema.ui.depth.view import DepthView
from anakinema.ui.fields import label

HIGH = 38
STEPS = 100
WIDE, MIDDLING, SMALL = 720, 430, 220
"""Pixels from which on all stands in the row; words are short and looks left to the plumb; only the
cut and the slider stand; below the last only the slider."""
SHORT = {"perspective": "Persp.", "hidden": "Hidden"}
"""Words of buttons where there is little room."""
LOOKS = (
    (plumb.SQUARE, "Above", "Look square down at the plane (1)"),
    (plumb.EDGE, "Edge", "Look along the plane, at the stack from its side (2)"),
    (plumb.CORNER, "Corner", "Look from a corner (3)"),
    (plumb.BELOW, "Below", "Look square at the far side (4)"),
)


class DepthBar(QWidget):
    """Buttons for all that the plumb and the keys do as well, and the slider that pulls apart."""

    def __init__(self, view: DepthView) -> None:
        super().__init__()
        self.setObjectName("depth_bar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(HIGH)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setMinimumWidth(1)
        self._view = view
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 3, 8, 3)
        row.setSpacing(3)
        self._looks: list[QPushButton] = []
        for look, words, why in LOOKS:
            self._looks.append(self._button(look, words, why, partial(view.turn_to, look)))
        self._switches: dict[str, QPushButton] = {}
        self._words: dict[str, str] = {}
        for name, words, why, run in (
            (
                "perspective",
                "Perspective",
                "Nearer things larger, or parallel (5)",
                view.switch_perspective,
            ),
            (
                "section",
                "Section",
                "Cut it open through the selected joint or the middle (6);"
                " drag the square to move the cut, its ball to turn it",
                view.switch_section,
            ),
            (
                "hidden",
                "Hidden edges",
                "Draw what lies behind faintly (8)",
                lambda: view.show_looks(hidden_edges=not view.hidden_edges),
            ),
            (
                "floor",
                "Floor",
                "The grid under all that stands (9)",
                lambda: view.show_looks(shows_floor=not view.shows_floor),
            ),
            (
                "swept",
                "Swept",
                "All that the selected body passes over the motion, as a sheet (0)",
                lambda: view.show_looks(shows_swept=not view.shows_swept),
            ),
        ):
            button = self._button(name, words, why, run)
            button.setCheckable(True)
            self._switches[name], self._words[name] = button, words
        row.addSpacing(8)
        self._label = label("Apart", "quiet")
        row.addWidget(self._label)
        self._apart = QSlider(Qt.Orientation.Horizontal)
        self._apart.setObjectName("depth_apart")
        self._apart.setAccessibleName("how far bodies are pulled apart")
        self._apart.setToolTip("Pull bodies apart along the pins (7)")
        self._apart.setRange(0, STEPS)
        self._apart.setMinimumWidth(70)
        self._apart.setMaximumWidth(180)
        self._apart.valueChanged.connect(lambda value: view.pull_apart(value / STEPS))
        row.addWidget(self._apart, 1)
        row.addStretch(1)
        view.changed.connect(self._show)
        self._show()

    def _button(self, name: str, words: str, why: str, run: Callable[[], object]) -> QPushButton:
        button = QPushButton(words)
        button.setObjectName(f"depth_{name}")
        button.setToolTip(why)
        button.setAccessibleDescription(why)
        # A click must leave the keys to the view.
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.setProperty("tight", True)
        button.clicked.connect(lambda *_: run())
        button.clicked.connect(lambda *_: self._show())
        layout = self.layout()
        assert layout is not None
        layout.addWidget(button)
        return button

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        width = self.width()
        for button in self._looks:
            button.setVisible(width >= WIDE)
        for name, button in self._switches.items():
            least = SMALL if name == "section" else MIDDLING
            button.setVisible(width >= least)
            words = self._words[name]
            button.setText(words if width >= WIDE else SHORT.get(name, words))
        self._label.setVisible(width >= MIDDLING)

    def _show(self) -> None:
        view = self._view
        for name, on in (
            ("perspective", view.camera.is_perspective),
            ("section", view.section is not None),
            ("hidden", view.hidden_edges),
            ("floor", view.shows_floor),
            ("swept", view.shows_swept),
        ):
            self._switches[name].setChecked(on)
        painted = view.drawer.is_painted
        for name in ("perspective", "section", "hidden"):
            self._switches[name].setEnabled(not painted)
        value = round(view.space.share_apart * STEPS)
        if value != self._apart.value():
            self._apart.blockSignals(True)
            self._apart.setValue(value)
            self._apart.blockSignals(False)
