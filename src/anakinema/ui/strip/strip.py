"""The travel strip: transport above, lanes below."""

from __future__ import annotations

import math

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from anakinema.errors import AnakinemaError
from anakinema.expressions import quantity_in
from anakinema.findings import joint_value_words
from anakinema.ui.fields import label
from anakinema.ui.strip.lanes import Lanes
from anakinema.ui.theme import icon
from anakinema.ui.workbench import Workbench
from anakinema.units import ANGLE, LENGTH

SPEEDS = (0.1, 0.25, 0.5, 1.0, 2.0, 4.0)


class Strip(QWidget):
    """Play, step exactly, type a driver value, jump to events, scrub."""

    plot_asked = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("stripPanel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._workbench = workbench
        self.lanes = Lanes(workbench)
        self._play = self._button("play", "Play or pause (Space)", accent=True)
        self._play.setFixedSize(32, 32)
        self._back = self._button("previous_event", "Event before (Ctrl+Left)")
        self._step_back = self._button("step_back", "One step back (Left)")
        self._step_on = self._button("step_on", "One step on (Right)")
        self._next = self._button("next_event", "Next event (Ctrl+Right)")
        self._loop = self._button("loop", "Begin anew at the end")
        self._loop.setCheckable(True)
        self._loop.setChecked(True)
        self._value = QLineEdit()
        self._value.setObjectName("driver_value")
        self._value.setAccessibleName("driver value")
        self._value.setFixedWidth(92)
        self._step = QLineEdit("1 deg")
        self._step.setObjectName("step_size")
        self._step.setAccessibleName("step size")
        self._step.setFixedWidth(72)
        self._speed = QPushButton("speed ×1")
        self._speed.setObjectName("speed")
        self._speed.setProperty("flat", True)
        self._axis = QPushButton("over progress")
        self._axis.setObjectName("strip_axis")
        self._axis.setProperty("flat", True)
        self._axis.setToolTip("Progress or time along the strip; on time, pauses have their length")
        plot = QPushButton("Plot")
        plot.setObjectName("strip_plot")
        plot.setProperty("flat", True)
        plot.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        plot.setToolTip("The curves large, against time, a driver or one another, with two cursors")
        plot.clicked.connect(self.plot_asked.emit)
        self._words = label("", "quiet")
        self._words.setObjectName("strip_words")
        self._driver_name = label("", "strong")
        bar = QHBoxLayout()
        bar.setContentsMargins(14, 6, 14, 4)
        bar.setSpacing(6)
        for widget in (self._play, self._back, self._step_back, self._step_on, self._next):
            bar.addWidget(widget)
        bar.addSpacing(8)
        bar.addWidget(self._driver_name)
        bar.addWidget(self._value)
        bar.addSpacing(8)
        bar.addWidget(label("step", "quiet"))
        bar.addWidget(self._step)
        bar.addWidget(self._speed)
        bar.addWidget(self._loop)
        bar.addWidget(self._axis)
        bar.addWidget(plot)
        bar.addStretch(1)
        bar.addWidget(self._words)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(bar)
        column.addWidget(self.lanes, 1)
        self._play.clicked.connect(lambda: workbench.play(not workbench.is_playing))
        self._back.clicked.connect(lambda: self.go_to_event(-1))
        self._next.clicked.connect(lambda: self.go_to_event(1))
        self._step_back.clicked.connect(lambda: self.step(-1))
        self._step_on.clicked.connect(lambda: self.step(1))
        self._loop.toggled.connect(self._set_loop)
        self._speed.clicked.connect(self._next_speed)
        self._axis.clicked.connect(self.switch_axis)
        self.lanes.axis_changed.connect(self._show_axis)
        self._value.returnPressed.connect(self._go_to_value)
        self._step.editingFinished.connect(self._check_step)
        workbench.playhead_moved.connect(self._show)
        workbench.playing_changed.connect(self._show_playing)
        workbench.busy_changed.connect(self._show)
        workbench.evaluated.connect(self._show)
        workbench.theme_changed.connect(self._show_icons)
        self._show_icons()

    def _button(self, name: str, tip: str, *, accent: bool = False) -> QPushButton:
        button = QPushButton()
        button.setObjectName(name)
        button.setAccessibleName(tip)
        button.setToolTip(tip)
        button.setProperty("accent" if accent else "flat", True)
        return button

    def _show_icons(self) -> None:
        for button, name in (
            (self._back, "chevron-first"),
            (self._step_back, "chevron-left"),
            (self._step_on, "chevron-right"),
            (self._next, "chevron-last"),
            (self._loop, "repeat"),
        ):
            button.setIcon(icon(name, self._workbench.theme.ink))
        self._show_playing(self._workbench.is_playing)

    def _show_playing(self, on: bool) -> None:
        self._play.setIcon(icon("pause" if on else "play", self._workbench.theme.on_accent))

    def switch_axis(self) -> None:
        """Time along the strip, or progress."""
        self.lanes.show_on_time(not self.lanes.on_time)

    def _show_axis(self) -> None:
        self._axis.setText("over time" if self.lanes.on_time else "over progress")

    def _set_loop(self, on: bool) -> None:
        self._workbench.loop = on

    def _next_speed(self) -> None:
        index = (SPEEDS.index(self._workbench.speed) + 1) % len(SPEEDS)
        self._workbench.speed = SPEEDS[index]
        self._speed.setText(f"speed ×{SPEEDS[index]:g}")

    def _show(self, *_: object) -> None:
        evaluation, playback = self._workbench.evaluation, self._workbench.playback
        if evaluation is None or playback is None:
            return
        progress = self._workbench.progress
        joint, value = playback.leader_joint(progress), playback.driver_value(progress)
        leader = playback.leader(progress)
        if joint is not None and value is not None and leader is not None:
            self._driver_name.setText(evaluation.document.program.drivers[leader].title)
            if not self._value.hasFocus() or not self._value.isModified():
                self._value.setText(joint_value_words(evaluation, joint, value))
            angular = bool(evaluation.mechanism.angular[joint])
            text = self._step.text()
            if angular != ("deg" in text or "rad" in text or "°" in text):
                self._step.setText("1 deg" if angular else "1 mm")
        seconds = playback.time_at(progress)
        words = f"{seconds:.2f} s of {playback.duration:.2f} s"
        if self._workbench.busy:
            words = f"computing…  {words}"
        self._words.setText(words)

    def _read(self, field: QLineEdit) -> float | None:
        """The value typed into a field, in rad or mm; a mistake is reported."""
        evaluation, playback = self._workbench.evaluation, self._workbench.playback
        if evaluation is None or playback is None:
            return None
        joint = playback.leader_joint(self._workbench.progress)
        if joint is None:
            return None
        dimension = ANGLE if evaluation.mechanism.angular[joint] else LENGTH
        try:
            text = field.text().replace("−", "-")
            value = quantity_in(
                text, dimension, evaluation.resolved.units, evaluation.resolved.names
            )
        except AnakinemaError as error:
            self._workbench.report(error)
            return None
        return value

    def _go_to_value(self) -> None:
        value, playback = self._read(self._value), self._workbench.playback
        self._value.setModified(False)
        if value is None or playback is None:
            return
        self._workbench.play(False)
        self._workbench.dismiss_trouble()
        self._workbench.move_playhead(playback.progress_of_value(value, self._workbench.progress))

    def _check_step(self) -> None:
        step = self._read(self._step)
        if step is None or not step > 0 or not math.isfinite(step):
            self._step.setText("1 deg")
        else:
            self._workbench.dismiss_trouble()

    def step(self, direction: int) -> None:
        """One exact step of the driver on or back."""
        step, playback = self._read(self._step), self._workbench.playback
        if step is None or playback is None:
            return
        self._workbench.play(False)
        self._workbench.move_playhead(playback.stepped(self._workbench.progress, step, direction))

    def go_to_event(self, direction: int) -> None:
        """Jump to the next event on or back."""
        playback = self._workbench.playback
        if playback is None:
            return
        place = playback.next_event(self._workbench.progress, direction)
        if place is not None:
            self._workbench.play(False)
            self._workbench.move_playhead(place)
