"""The Drive drawer: motion program, reachable ranges, a travel gauge a joint, couplings."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from anakinema.edits.base import Edit
from anakinema.edits.values import (
    AddStage,
    RemoveStage,
    SetDriver,
    SetProgramOption,
    SetStage,
    SetStageTarget,
)
from anakinema.expressions import completed
from anakinema.session import Reach, gauges, reach_words
from anakinema.ui.drawers.couplings import CouplingList
from anakinema.ui.drawers.gauge_bar import GaugeBar
from anakinema.ui.fields import QuantityField, label, live_field, row, source_text
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Workbench
from anakinema.units import UnitSystem

LAWS = {
    "constant": "constant velocity", "parabolic": "constant acceleration",
    "harmonic": "harmonic", "cycloidal": "cycloidal",
    "modified_trapezoid": "modified trapezoid", "modified_sine": "modified sine",
    "polynomial_345": "3-4-5", "polynomial_4567": "4-5-6-7",
}  # fmt: skip


def _seconds(text: str) -> str:
    """A time as typed; a bare number is seconds."""
    return completed(text.strip(), "1 s", UnitSystem())


class DriveDrawer(QWidget):
    """Program fields above, gauges below, couplings last."""

    def __init__(self, workbench: Workbench, theme: Theme) -> None:
        super().__init__()
        self._workbench, self._theme = workbench, theme
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 10, 0, 10)
        self._layout.setSpacing(0)
        self._program = QWidget()
        self._layout.addWidget(self._program)
        heading = label("Travel gauges", "section")
        heading.setContentsMargins(14, 12, 12, 4)
        self._layout.addWidget(heading)
        self._bars: list[GaugeBar] = []
        self._layout.addWidget(CouplingList(workbench))
        self._layout.addStretch(1)
        self._fields: dict[str, QuantityField] = {}
        self._laws: list[QComboBox] = []
        self._shape: object = None
        self._reach = label("", "quiet", wrap=True)
        workbench.evaluated.connect(self._show)
        workbench.document_changed.connect(self._show_program)
        workbench.playhead_moved.connect(self._repaint_bars)
        workbench.selection_changed.connect(self._repaint_bars)
        workbench.reach_ready.connect(self._show_reach)
        self._show_program()
        self._show()

    def _show_program(self) -> None:
        document = self._workbench.session.document
        program = document.program
        shape = (
            tuple(d.id for d in program.drivers),
            tuple((tuple(m.driver for m in s.moves), s.step is None) for s in program.stages),
        )
        if shape != self._shape:
            self._shape = shape
            self._build_program()
        for key, source in self._sources().items():
            if key in self._fields:
                self._fields[key].show_source(source)
        for law, stage in zip(self._laws, program.stages, strict=True):
            law.setCurrentIndex(law.findData(stage.law))
        self._there_and_back.blockSignals(True)
        self._there_and_back.setChecked(program.there_and_back)
        self._there_and_back.blockSignals(False)
        self._run_past.blockSignals(True)
        self._run_past.setChecked(program.past_limits)
        self._run_past.blockSignals(False)

    def _sources(self) -> dict[str, str]:
        program = self._workbench.session.document.program
        out: dict[str, str] = {}
        for driver in program.drivers:
            out[f"start_{driver.id}"] = source_text(driver.start)
            out[f"rate_{driver.id}"] = source_text(driver.rate)
        for k, stage in enumerate(program.stages):
            for move in stage.moves:
                out[f"target_{k}_{move.driver}"] = source_text(move.to)
            out[f"step_{k}"] = source_text(stage.step)
            out[f"lasts_{k}"] = source_text(stage.lasts)
            out[f"pause_{k}"] = source_text(stage.pause)
        return out

    def _build_program(self) -> None:
        workbench = self._workbench
        panel = QWidget()
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(14, 0, 12, 0)
        layout.setSpacing(1)
        layout.addWidget(label("Motion program", "section"))
        self._fields, self._laws = {}, []

        def add(key: str, words: str, change) -> None:  # type: ignore[no-untyped-def]
            field = live_field(
                self._sources()[key], key, change, workbench.finish_gesture,
                workbench.cancel_gesture,
            )  # fmt: skip
            self._fields[key] = field
            layout.addWidget(row(words, field, width=104))

        document = workbench.session.document
        for driver in document.program.drivers:
            name = driver.id
            add(f"start_{name}", f"{driver.title} starts at",
                lambda text, n=name: workbench.do(SetDriver(n, "start", text)))  # fmt: skip
            add(f"rate_{name}", f"{driver.title} rate",
                lambda text, n=name: workbench.do(SetDriver(n, "rate", text)))  # fmt: skip
        for k, stage in enumerate(document.program.stages):
            for move in stage.moves:
                words = f"{k + 1}. {move.driver.replace('_', ' ')} to"

                def retarget(text: str, s: int = k, d: str = move.driver) -> None:
                    workbench.do(SetStageTarget(s, d, text))

                add(f"target_{k}_{move.driver}", words, retarget)
            if stage.step is not None:
                add(f"step_{k}", f"{k + 1}. step",
                    lambda text, s=k: workbench.do(SetStage(s, "step", text)))  # fmt: skip
            self._add_pace(layout, add, k)
        if document.program.stages:
            layout.addLayout(self._stage_buttons(len(document.program.stages)))
        if not document.program.drivers:
            layout.addWidget(label("No driver yet.", "quiet"))
        self._there_and_back = QCheckBox("There and back")
        self._there_and_back.setObjectName("there_and_back")
        self._run_past = QCheckBox("Run past limits")
        self._run_past.setObjectName("past_limits")
        self._there_and_back.toggled.connect(lambda on: self._option("there_and_back", on))
        self._run_past.toggled.connect(lambda on: self._option("past_limits", on))
        layout.addSpacing(4)
        layout.addWidget(self._there_and_back)
        layout.addWidget(self._run_past)
        self._reach = label("", "quiet", wrap=True)
        self._reach.setObjectName("reach")
        layout.addSpacing(6)
        layout.addWidget(self._reach)
        self._layout.replaceWidget(self._program, panel)
        self._program.hide()
        self._program.deleteLater()
        self._program = panel

    def _add_pace(self, layout: QVBoxLayout, add, k: int) -> None:  # type: ignore[no-untyped-def]
        """How a stage's way is spread over time, how long it takes, and the pause at its end."""
        bench = self._workbench
        law = QComboBox()
        law.setObjectName(f"law_{k}")
        law.setAccessibleName(f"law of stage {k + 1}")
        law.setMinimumContentsLength(8)
        law.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for key, words in LAWS.items():
            law.addItem(words, key)

        def chosen() -> None:
            bench.do(SetStage(k, "law", str(law.currentData())))
            bench.finish_gesture()

        law.activated.connect(lambda _: chosen())
        self._laws.append(law)
        layout.addWidget(row(f"{k + 1}. law", law, width=104))
        add(f"lasts_{k}", f"{k + 1}. lasts",
            lambda text: bench.do(SetStage(k, "lasts", _seconds(text) or None)))  # fmt: skip
        add(f"pause_{k}", f"{k + 1}. then waits",
            lambda text: bench.do(SetStage(k, "pause", _seconds(text) or "0 s")))  # fmt: skip
        self._fields[f"lasts_{k}"].setPlaceholderText("by rate")

    def _stage_buttons(self, count: int) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setContentsMargins(0, 2, 0, 2)
        entries: list[tuple[str, str, Edit]] = [("stage_add", "Add a stage", AddStage())]
        if count > 1:
            entries.append(("stage_remove", "Remove last", RemoveStage(count - 1)))
        for name, words, edit in entries:
            button = QPushButton(words)
            button.setObjectName(name)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, made=edit: self._once(made))
            line.addWidget(button)
        line.addStretch(1)
        return line

    def _once(self, edit: Edit) -> None:
        self._workbench.do(edit)
        self._workbench.finish_gesture()

    def _option(self, option: str, on: bool) -> None:
        self._once(SetProgramOption(option, on))

    def _show(self) -> None:
        evaluation = self._workbench.evaluation
        found = gauges(evaluation) if evaluation is not None else ()
        while len(self._bars) > len(found):
            bar = self._bars.pop()
            bar.hide()
            self._layout.removeWidget(bar)
            bar.deleteLater()
        for gauge in found[len(self._bars) :]:
            bar = GaugeBar(self._workbench, self._theme, gauge)
            self._layout.insertWidget(2 + len(self._bars), bar)
            self._bars.append(bar)
        for bar, gauge in zip(self._bars, found, strict=True):
            assert evaluation is not None
            bar.show_gauge(gauge, evaluation.document.joints[gauge.joint].id)

    def _repaint_bars(self) -> None:
        for bar in self._bars:
            bar.update()

    def _show_reach(self) -> None:
        evaluation = self._workbench.evaluation
        if evaluation is None:
            return
        lines = []
        for reach in self._workbench.reach:
            if isinstance(reach, Reach):
                title = evaluation.document.program.drivers[reach.driver].title
                low = reach_words(evaluation, reach.driver, reach.low)
                high = reach_words(evaluation, reach.driver, reach.high)
                lines.append(f"From here {title} reaches {low} to {high}.")
        self._reach.setText("\n".join(lines))
