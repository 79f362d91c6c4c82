"""The main window: its front, which stands at once, and what its regions do together.

It opens with the route and the start page alone and imports nothing of the core; the rest is put
into it by `anakinema.ui.regions`, while the page can be read already.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QApplication,
    QMainWindow,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from anakinema.ui.collecting import Collector
from anakinema.ui.desk import Desk
from anakinema.ui.guarded import guarded
from anakinema.ui.later import Later
from anakinema.ui.route import STATIONS, Route
from anakinema.ui.start import StartPage
from anakinema.ui.theme import set_text_size, style_sheet

if TYPE_CHECKING:
    from anakinema.ui.assembling import Assembling
    from anakinema.ui.band_card import BandCard
    from anakinema.ui.cams.studio import CamStudio
    from anakinema.ui.commands import Command
    from anakinema.ui.depth.pair import StagePair
    from anakinema.ui.drafts import Drafts
    from anakinema.ui.drawers.assemble import AssembleDrawer
    from anakinema.ui.drawers.record import RecordDrawer
    from anakinema.ui.faults import Faults
    from anakinema.ui.filing import Filing
    from anakinema.ui.guide import GuideBar
    from anakinema.ui.inspector.inspector import Inspector
    from anakinema.ui.messages import MessageLine
    from anakinema.ui.notices import NoticeBar
    from anakinema.ui.outline.editor import OutlineEditor
    from anakinema.ui.parts_table import PartsTable
    from anakinema.ui.plot.view import PlotView
    from anakinema.ui.reviewing import ReviewFilm
    from anakinema.ui.route_state import RouteState
    from anakinema.ui.sheets.page import SheetsPage
    from anakinema.ui.stage.stack import StackView
    from anakinema.ui.stage.stage import Stage
    from anakinema.ui.station_bar import StationBar
    from anakinema.ui.strip.strip import Strip
    from anakinema.ui.workbench import Workbench

LEAST = 1000, 640
"""Pixels; with its frame the window fits a screen of 1024 by 700."""
STRIP = 176, 300, 0.34
"""Least and most pixels of the strip and its share of the height, until it is drawn by hand."""


@guarded
class MainWindow(QMainWindow):
    """Route above, drawer, stage and inspector side by side, the travel strip below.

    Every region keeps its place and size whatever is edited; only keys and the user fold them.
    """

    # All that `anakinema.ui.regions` puts in.
    workbench: Workbench
    route_state: RouteState
    faults: Faults
    filing: Filing
    drafts: Drafts
    assembling: Assembling
    commands: list[Command]
    stage: Stage
    pair: StagePair
    stack: StackView
    outline: OutlineEditor
    studio: CamStudio
    plot_page: Later[PlotView]
    parts_page: Later[PartsTable]
    sheets_page: Later[SheetsPage]
    record_page: Later[RecordDrawer]
    drawers: QStackedWidget
    left: QWidget
    assemble: AssembleDrawer
    bar: StationBar
    inspector: Inspector
    notices: NoticeBar
    guide: GuideBar
    messages: MessageLine
    strip: Strip
    splitter: QSplitter | None
    band: BandCard
    review: ReviewFilm

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("main_window")
        self.setWindowTitle("Anakinema")
        self.resize(1280, 800)
        self.setMinimumSize(*LEAST)
        # All goes with the window: what would stay keeps what it is connected to.
        desk.setParent(self)
        self.desk = desk
        self.is_furnished = False
        """Whether all regions are there."""
        self._folded: set[str] = set()
        # Before any other thread fills up what is to be collected.
        self._collector = Collector()
        self.route = Route(desk)
        self.start = StartPage(desk)
        self.middle = QStackedWidget()
        # Whatever stands in the middle, the window may be small; pages that need more scroll.
        self.middle.setMinimumSize(320, 200)
        self.middle.addWidget(self.start)
        front = QWidget()
        layout = QVBoxLayout(front)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.route)
        layout.addWidget(self.middle, 1)
        self.setCentralWidget(front)
        self.start.focus_first()

    def expect(self, path: Path) -> None:
        """Until all is there, say that a file is being opened; there is nothing to choose then."""
        self.route.name(path.stem, "is being opened")
        self.start.hold_back(True)

    def furnished(self) -> None:
        """All regions are there: show those that belong on the screen, and act on what is asked."""
        self.is_furnished = True
        workbench = self.workbench
        self.start.hold_back(False)
        self.start.blank.connect(self.new)
        self.start.guided.connect(self.new_guided)
        self.start.chosen.connect(self.open_path)
        self.start.browse.connect(self.open_dialog)
        self.middle.currentChanged.connect(self._turned)
        workbench.document_changed.connect(self._show_regions)
        workbench.station_changed.connect(self._show_station)
        self.desk.theme_changed.connect(self.dress)
        # Last, so that every widget is dressed once and not at each step of the layout.
        self.dress()
        self._show_station(workbench.station)
        self._share_height()
        self.notices.look_for_work(self.desk.folder / "recovery")
        self.start.draw_pictures()

    @property
    def frame(self) -> QWidget:
        """What dialogs stand before."""
        return self

    @property
    def plot(self) -> PlotView:
        """The page of curves."""
        return self.plot_page.page

    @property
    def parts(self) -> PartsTable:
        """The parts list."""
        return self.parts_page.page

    @property
    def sheets(self) -> SheetsPage:
        """The page of drawings on paper."""
        return self.sheets_page.page

    @property
    def record(self) -> RecordDrawer:
        """The drawer of what leaves the program."""
        return self.record_page.page

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().resizeEvent(event)
        self._share_height()

    def _share_height(self) -> None:
        """As much for the strip as it needs, until it is drawn by hand."""
        if self.is_furnished and self.splitter is not None:
            least, most, share = STRIP
            strip = round(min(max(share * self.height(), least), most))
            if self.middle.currentWidget() in self._wide:
                strip = self.strip.minimumSizeHint().height()
            self.splitter.setSizes([self.height() - strip, strip])

    def strip_drawn(self, *_: object) -> None:
        """From now on as high as it was drawn."""
        self.splitter = None

    def _show_station(self, station: str) -> None:
        self.drawers.setCurrentIndex(STATIONS.index(station))
        if station != "Assemble" and self.middle.currentWidget() is self.outline:
            self.middle.setCurrentWidget(self.pair)
        self._show_regions()

    @property
    def _has_own_panel(self) -> bool:
        """Whether what is in the middle brings numbers of its own and needs the room."""
        return self.middle.currentWidget() in (self.outline, self.studio, *self._wide)

    @property
    def _wide(self) -> tuple[QWidget, ...]:
        """Pages that need the room of the lanes."""
        return self.plot_page, self.parts_page, self.sheets_page

    def _show_regions(self) -> None:
        shown = self.workbench.has_document
        if not shown or self.middle.currentIndex() == 0:
            self.middle.setCurrentIndex(1 if shown else 0)
        listed = self.middle.currentWidget() is self.sheets_page
        self.left.setVisible(shown and not listed and "left" not in self._folded)
        right = shown and not self._has_own_panel
        self.inspector.setVisible(right and "right" not in self._folded)
        self.strip.setVisible(shown and "strip" not in self._folded)
        self.bar.setVisible(shown and not self._has_own_panel)
        # The plot shows the same curves, and a list needs the room: what plays and steps stays.
        self.strip.lanes.setVisible(self.middle.currentWidget() not in self._wide)
        session = self.workbench.session
        name = session.document.name if shown else ""
        star = "*" if session.is_changed else ""
        self.setWindowTitle(f"{name}{star} – Anakinema" if name else "Anakinema")

    def _turned(self, _: int) -> None:
        self._show_regions()
        self._share_height()
        self.messages.raise_()

    def turn_parts(self) -> None:
        """The parts list in the middle, or the stage again."""
        to = self.pair if self.middle.currentWidget() is self.parts_page else self.parts_page
        self.middle.setCurrentWidget(to)

    def turn_sheets(self) -> None:
        """The sheets in the middle, or the stage again."""
        to = self.pair if self.middle.currentWidget() is self.sheets_page else self.sheets_page
        self.middle.setCurrentWidget(to)

    def turn_plot(self) -> None:
        """The plot in the middle, or the stage again."""
        to = self.pair if self.middle.currentWidget() is self.plot_page else self.plot_page
        self.middle.setCurrentWidget(to)

    def fold_all(self, folded: frozenset[str] | None = None) -> frozenset[str]:
        """Fold all panels away, or just those; gives those that were folded before. The stage is
        on show then."""
        before = frozenset(self._folded)
        self._folded = set(("left", "right", "strip") if folded is None else folded)
        if folded is None:
            self.middle.setCurrentWidget(self.pair)
        self._show_regions()
        return before

    def fold(self, *regions: str) -> None:
        """Fold 'left', 'right' or 'strip' away, or all given at once; or bring them back."""
        chosen = set(regions)
        self._folded = self._folded - chosen if chosen <= self._folded else self._folded | chosen
        self._show_regions()

    # What is open -----------------------------------------------------------------------------

    def new(self) -> None:
        """An empty stage."""
        if self.filing.may_leave():
            self.workbench.begin_new()
            self.workbench.go_to_station("Assemble")
            self.assemble.show_page("Parts")

    def new_guided(self, name: str = "four-bar") -> None:
        """An empty stage, and a guide through a first build."""
        self.new()
        if self.workbench.has_document:
            self.guide.start(name)

    def show_shelf(self) -> None:
        """Turn to the shelf, with the keys in its search."""
        self.assemble.show_shelf()

    def open_dialog(self) -> None:
        """Choose a file to open."""
        path = self.filing.chosen_to_open()
        if path is not None:
            self.open_path(path)

    def open_path(self, path: Path) -> None:
        """Open a file, after asking about unsaved work."""
        if self.filing.may_leave():
            self.workbench.open(path)
            self.pair.front.setFocus()

    # Looks and end ----------------------------------------------------------------------------

    def dress(self) -> None:
        """All widgets in the present theme and size of text."""
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        set_text_size(self.desk.settings.text)
        sheet = style_sheet(self.desk.theme)
        if application.styleSheet() != sheet:
            application.setStyleSheet(sheet)
        # What paints itself is not painted anew by another style sheet.
        for widget in self.findChildren(QWidget):
            widget.update()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.is_furnished:
            self._collector.stop()
            event.accept()
            return
        if not self.filing.may_leave():
            event.ignore()
            return
        self.notices.release()
        self.workbench.session.close()
        self.start.stop()
        self.guide.stop()
        self.assemble.shelf.stop()
        self.bar.asking.stop()
        for page in (self.record_page.made, self.sheets_page.made):
            if page is not None:
                page.stop()
        self.pair.deep.stop()
        self.workbench.stop()
        self.drafts.join.stop()
        self._collector.stop()
        event.accept()
