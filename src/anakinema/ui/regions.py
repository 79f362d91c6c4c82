"""Puts the workbench and all regions into a window that shows its front."""

from __future__ import annotations

from typing import TypeVar

from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from anakinema.session import Calculator
from anakinema.ui.assembling import Assembling
from anakinema.ui.band_card import BandCard
from anakinema.ui.cams.studio import CamStudio
from anakinema.ui.depth.pair import StagePair
from anakinema.ui.depth.view import DepthView
from anakinema.ui.drafts import Drafts
from anakinema.ui.drawers.assemble import AssembleDrawer
from anakinema.ui.drawers.check import CheckDrawer
from anakinema.ui.drawers.drive import DriveDrawer
from anakinema.ui.drawers.record import RecordDrawer
from anakinema.ui.faults import Faults
from anakinema.ui.filing import Filing
from anakinema.ui.guide import GuideBar
from anakinema.ui.inspector.inspector import Inspector
from anakinema.ui.keys import bind
from anakinema.ui.later import Later
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
from anakinema.ui.window import MainWindow
from anakinema.ui.window_commands import WindowCommands
from anakinema.ui.workbench import Workbench

P = TypeVar("P", PlotView, PartsTable, SheetsPage)


def furnish(window: MainWindow, calculator: Calculator | None = None) -> None:
    """All regions; without a ``calculator`` everything is computed in a thread of the window."""
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    # What is put together under a style sheet is polished at every step, which takes four times
    # as long; nothing is painted before it is there again.
    application.setStyleSheet("")
    focused = window.focusWidget()
    bench = Workbench(window.desk, calculator)
    bench.setParent(window)
    window.workbench = bench
    window.faults = Faults(bench)
    window.filing = Filing(bench, window)
    window.drafts = Drafts(bench)
    window.assembling = Assembling(window)
    commands = WindowCommands(window)
    window.commands = commands.list
    _add_pages(window)
    _add_drawers(window)
    _lay_out(window)
    window.band = BandCard(bench, window)
    window.review = ReviewFilm(bench, window.stage, window.fold_all)
    window.route_state = RouteState(window.route, bench)
    window.route.search_asked.connect(commands.search)
    window.route.menu_button.clicked.connect(commands.open_menu)
    bench.menu_asked.connect(commands.menu_on)
    bind(window.commands, window)
    window.furnished()
    if window.isVisible():
        # At once, and not at the next turn of the event loop: what was on show stays so.
        window.centralWidget().show()  # type: ignore[union-attr]
    QApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest)
    window.start.settle()
    if focused is not None:
        # It lost the keys when its page was moved into the new layout.
        focused.setFocus()


def _add_pages(window: MainWindow) -> None:
    """What can stand in the middle, behind the start page."""
    bench, middle = window.workbench, window.middle
    window.stage = Stage(bench, window.drafts)
    window.pair = StagePair(window.stage, DepthView(bench, window.drafts, window.stage))
    window.stack = StackView(bench)
    window.outline = OutlineEditor(bench)
    window.studio = CamStudio(bench)
    for own in (window.outline, window.studio):
        own.done.connect(lambda: middle.setCurrentWidget(window.pair))
    window.plot_page = Later(lambda: _with_end(window, PlotView(bench)))
    window.parts_page = Later(lambda: _with_end(window, PartsTable(bench)))
    window.sheets_page = Later(lambda: _with_end(window, SheetsPage(bench)))
    for page in (
        window.pair,
        window.stack,
        window.outline,
        window.studio,
        window.plot_page,
        window.parts_page,
        window.sheets_page,
    ):
        middle.addWidget(page)


def _with_end(window: MainWindow, page: P) -> P:
    """A page that gives way to the stage once it is done with."""
    page.done.connect(lambda: window.middle.setCurrentWidget(window.pair))
    if isinstance(page, SheetsPage):
        page.write_asked.connect(lambda: window.record.export("sheets"))
    return page


def _add_drawers(window: MainWindow) -> None:
    """One drawer a station, in their order; and the bar above the stage, which asks for them."""
    bench = window.workbench
    window.assemble = AssembleDrawer(bench)
    window.bar = StationBar(bench, window.commands)
    check = CheckDrawer(bench)
    check.edit_asked.connect(window.bar.asking.edit)
    window.record_page = Later(lambda: _made_record(window))
    drive = Later(lambda: DriveDrawer(bench))
    window.drawers = QStackedWidget()
    for drawer in (window.assemble, drive, check, window.record_page):
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(drawer)
        window.drawers.addWidget(area)
    window.left = QWidget()
    window.left.setObjectName("drawer")
    window.left.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    window.left.setFixedWidth(252)
    left = QVBoxLayout(window.left)
    left.setContentsMargins(0, 0, 0, 0)
    left.addWidget(window.drawers)


def _made_record(window: MainWindow) -> RecordDrawer:
    made = RecordDrawer(
        window.workbench, lambda: (window.pair.front, window.strip), window.pair.deep.in_lines
    )
    made.parts_asked.connect(window.turn_parts)
    made.sheets_asked.connect(window.turn_sheets)
    return made


def _lay_out(window: MainWindow) -> None:
    """Route above; drawer, middle and inspector side by side; the strip below."""
    bench = window.workbench
    window.inspector = Inspector(bench, window.drafts)
    window.inspector.setFixedWidth(272)
    window.notices = NoticeBar(bench, window.filing.may_leave)
    window.guide = GuideBar(bench, window.stage)
    upper = QWidget()
    upper.setMinimumHeight(220)
    middle = QHBoxLayout(upper)
    middle.setContentsMargins(0, 0, 0, 0)
    middle.setSpacing(0)
    middle.addWidget(window.left)
    column = QVBoxLayout()
    column.setSpacing(0)
    column.addWidget(window.notices)
    column.addWidget(window.bar)
    column.addWidget(window.guide)
    column.addWidget(window.middle, 1)
    window.messages = MessageLine(bench, window.middle)
    middle.addLayout(column, 1)
    middle.addWidget(window.inspector)
    window.strip = Strip(bench)
    window.strip.plot_asked.connect(window.turn_plot)
    splitter = QSplitter(Qt.Orientation.Vertical)
    splitter.setChildrenCollapsible(False)
    splitter.setHandleWidth(4)
    splitter.addWidget(upper)
    splitter.addWidget(window.strip)
    splitter.setStretchFactor(0, 1)
    splitter.splitterMoved.connect(window.strip_drawn)
    window.splitter = splitter
    whole = QWidget()
    layout = QVBoxLayout(whole)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(0)
    layout.addWidget(window.route)
    layout.addWidget(splitter, 1)
    window.setCentralWidget(whole)
