"""The page of the plot: what is drawn, against what, the two cursors in numbers, out as a table."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from anakinema.errors import AnakinemaError
from anakinema.session import Plot, plot_csv, plot_text, plotted, ways_across
from anakinema.ui.fields import choice_box, fill_choice, label, row
from anakinema.ui.guarded import guarded
from anakinema.ui.plot.canvas import PlotCanvas
from anakinema.ui.workbench import Workbench
from anakinema.units import UnitSystem
from anakinema.writing import write_text

HEADER = ("Drawn", "at A", "at B", "B less A")
SIDE = 392
"""Pixels of the table beside the curves."""
NUMBER = 88
"""Pixels of a column of numbers."""
FIRST = 4
"""Curves that are drawn to begin with."""


@guarded
class PlotView(QWidget):
    """Everything that the strip shows, larger and against one another."""

    done = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("plot_view")
        self._bench = workbench
        self._hidden: set[str] = set()
        self._begun = False
        self._filling = False
        self._across = choice_box("plot_across", "what runs across")
        self._across.setMinimumContentsLength(18)
        self._across.activated.connect(lambda _: self._show())
        self.canvas = PlotCanvas(workbench)
        self.canvas.moved.connect(self._show_values)
        self._hint = label(
            "Click: cursor A. Shift and click: B. Arrows move them.", "quiet", wrap=True
        )
        self._hint.setObjectName("plot_hint")
        self._table = QTableWidget(0, len(HEADER))
        self._table.setObjectName("plot_table")
        self._table.setAccessibleName("curves and cursors")
        self._table.setHorizontalHeaderLabels(HEADER)
        self._table.verticalHeader().hide()
        self._table.setShowGrid(False)
        self._table.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        head = self._table.horizontalHeader()
        head.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        head.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column in range(1, len(HEADER)):
            self._table.setColumnWidth(column, NUMBER)
        self._table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._table.setWordWrap(True)
        self._table.itemChanged.connect(self._ticked)
        side = QWidget()
        side.setFixedWidth(SIDE)
        layout = QVBoxLayout(side)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addWidget(row("Against", self._across, width=SIDE - 90))
        layout.addWidget(self._table, 1)
        layout.addWidget(self._hint)
        ends = QHBoxLayout()
        for name, words, run in (
            ("plot_copy", "Copy as table", self.copy),
            ("plot_save", "Save as CSV…", self.save),
            ("plot_done", "To the stage", self.done.emit),
        ):
            button = QPushButton(words)
            button.setObjectName(name)
            button.setProperty("tight", True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(run)
            ends.addWidget(button)
        layout.addLayout(ends)
        page = QHBoxLayout(self)
        page.setContentsMargins(12, 8, 12, 8)
        page.setSpacing(10)
        page.addWidget(self.canvas, 1)
        page.addWidget(side)
        for happened in (
            workbench.evaluated,
            workbench.lanes_ready,
            workbench.theme_changed,
            workbench.document_changed,
        ):
            happened.connect(lambda *_: self._show())

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self._show()

    @property
    def plot(self) -> Plot | None:
        """All curves against what is chosen; None where nothing moves."""
        evaluation, lanes = self._bench.evaluation, self._bench.lanes
        if evaluation is None or not evaluation.motion.stages or not lanes:
            return None
        return plotted(evaluation, lanes, str(self._across.currentData() or ""))

    def _show(self) -> None:
        if not self.isVisible():
            return
        evaluation, lanes = self._bench.evaluation, self._bench.lanes
        if evaluation is not None and evaluation.motion.stages:
            fill_choice(self._across, ways_across(evaluation, lanes), 0)
        if not self._begun and lanes:
            self._begun = True
            self._hidden = {lane.title for lane in lanes[FIRST:]}
        plot = self.plot
        shown: tuple[int, ...] = ()
        if plot is not None:
            shown = tuple(k for k, each in enumerate(plot.series) if each.title not in self._hidden)
        units = self._bench.session.document.units
        self.canvas.show_plot(plot, shown, UnitSystem(units.length, units.angle))
        self._show_values()

    def _show_values(self) -> None:
        """The table: each curve with its values at the cursors."""
        plot, evaluation = self.canvas.plot, self._bench.evaluation
        self._filling = True
        rows = 0 if plot is None else len(plot.series) + 1
        self._table.setRowCount(rows)
        if plot is not None and evaluation is not None:
            units = evaluation.resolved.units
            cursors = [None if p is None else plot.at(p) for p in self.canvas.cursors]
            for line, each in enumerate((plot.across, *plot.series)):
                name = QTableWidgetItem(f"{line} {each.title}" if line else each.title)
                if line:
                    name.setFlags(name.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    is_shown = each.title not in self._hidden
                    state = Qt.CheckState.Checked if is_shown else Qt.CheckState.Unchecked
                    name.setCheckState(state)
                    name.setForeground(self.canvas.colour(line - 1))
                self._table.setItem(line, 0, name)
                values = [None if found is None else found[line] for found in cursors]
                one, two = values
                off = None if one is None or two is None else two - one
                for column, value in enumerate((one, two, off), 1):
                    words = "" if value is None else units.format(value, each.dimension)
                    cell = QTableWidgetItem(words)
                    cell.setTextAlignment(
                        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                    )
                    self._table.setItem(line, column, cell)
            self._table.resizeRowsToContents()
        self._filling = False

    def _ticked(self, item: QTableWidgetItem) -> None:
        plot = self.canvas.plot
        if self._filling or plot is None or item.column() != 0 or item.row() == 0:
            return
        title = plot.series[item.row() - 1].title
        if item.checkState() == Qt.CheckState.Checked:
            self._hidden.discard(title)
        else:
            self._hidden.add(title)
        self._show()

    def _drawn(self) -> Plot | None:
        """The plot of only what is drawn."""
        plot = self.plot
        if plot is None:
            return None
        kept = tuple(each for each in plot.series if each.title not in self._hidden)
        return Plot(plot.progress, plot.across, kept)

    def copy(self) -> None:
        """What is drawn into the clipboard, to be pasted into a spreadsheet."""
        plot, evaluation = self._drawn(), self._bench.evaluation
        if plot is not None and evaluation is not None:
            QGuiApplication.clipboard().setText(plot_text(plot, evaluation.resolved.units))
            self._hint.setText(f"Copied: {len(plot.progress)} rows, {len(plot.series)} curves.")

    def save(self) -> None:
        """What is drawn into a file."""
        plot, evaluation = self._drawn(), self._bench.evaluation
        if plot is None or evaluation is None:
            return
        name, _ = QFileDialog.getSaveFileName(self, "Save the curves", "curves.csv", "CSV (*.csv)")
        if not name:
            return
        try:
            write_text(plot_csv(plot, evaluation.resolved.units), Path(name))
        except AnakinemaError as error:
            self._bench.report(error)
            return
        self._hint.setText(f"Written to {Path(name).name}.")
