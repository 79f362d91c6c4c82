"""The Drive drawer: program, reachable ranges, travel gauges, couplings, contacts, events."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from anakinema.authoring import gauges
from anakinema.findings import reach_words
from anakinema.ui.drawers.belts import BeltList
from anakinema.ui.drawers.contacts import ContactList
from anakinema.ui.drawers.couplings import CouplingList
from anakinema.ui.drawers.events import EventList
from anakinema.ui.drawers.gauge_bar import GaugeBar
from anakinema.ui.drawers.program import ProgramPanel
from anakinema.ui.fields import label
from anakinema.ui.workbench import Workbench


class DriveDrawer(QWidget):
    """Program fields above, gauges below, then what ties bodies together, and what happens."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 10, 0, 10)
        self._layout.setSpacing(0)
        self._program = ProgramPanel(workbench)
        self._layout.addWidget(self._program)
        heading = label("Travel gauges", "section")
        heading.setContentsMargins(14, 12, 8, 4)
        self._layout.addWidget(heading)
        self._bars: list[GaugeBar] = []
        self._layout.addWidget(CouplingList(workbench))
        self._layout.addWidget(BeltList(workbench))
        self._layout.addWidget(ContactList(workbench))
        self._layout.addWidget(EventList(workbench))
        self._layout.addStretch(1)
        workbench.evaluated.connect(self._show)
        workbench.evaluated.connect(self._show_reach)
        workbench.playhead_moved.connect(self._repaint_bars)
        workbench.selection_changed.connect(self._repaint_bars)
        workbench.reach_ready.connect(self._show_reach)
        self._show()
        self._show_reach()

    def _show(self) -> None:
        evaluation = self._workbench.evaluation
        found = gauges(evaluation) if evaluation is not None else ()
        while len(self._bars) > len(found):
            bar = self._bars.pop()
            bar.hide()
            self._layout.removeWidget(bar)
            bar.deleteLater()
        for gauge in found[len(self._bars) :]:
            bar = GaugeBar(self._workbench, gauge)
            self._layout.insertWidget(2 + len(self._bars), bar)
            self._bars.append(bar)
        for bar, gauge in zip(self._bars, found, strict=True):
            assert evaluation is not None
            bar.show_gauge(gauge, evaluation.document.joints[gauge.joint].id)

    def _repaint_bars(self) -> None:
        for bar in self._bars:
            bar.update()

    def _show_reach(self) -> None:
        found = self._workbench.reach
        lines = []
        if found is not None:
            # What is found lags behind edits: drivers may have come and gone since.
            drivers = found.evaluation.document.program.drivers
            left = {d.id for d in self._workbench.session.document.program.drivers}
            for reach in found.ranges:
                driver = drivers[reach.driver]
                low, high = (
                    reach_words(found.evaluation, reach.driver, end)
                    for end in (reach.low, reach.high)
                )
                if driver.id in left:
                    lines.append(f"From here {driver.title} reaches {low} to {high}.")
        self._program.show_reach("\n".join(lines))
