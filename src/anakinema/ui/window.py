"""The main window: puts the regions together and holds the commands.

Long for the list of commands of files, views and stations, which belongs together.
"""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.model import Document
from anakinema.errors import AnakinemaError
from anakinema.resources import demo_lines, demo_path, guide_pages, install_for_user
from anakinema.session import GUIDES, TEXT_SIZES
from anakinema.ui.assembling import Assembling
from anakinema.ui.band_card import BandCard
from anakinema.ui.cams.studio import CamStudio
from anakinema.ui.collecting import Collector
from anakinema.ui.commands import Command, CommandSearch
from anakinema.ui.depth.pair import StagePair
from anakinema.ui.depth.view import DepthView
from anakinema.ui.drafts import Drafts
from anakinema.ui.drawers.assemble import AssembleDrawer
from anakinema.ui.drawers.check import CheckDrawer
from anakinema.ui.drawers.drive import DriveDrawer
from anakinema.ui.drawers.record import RecordDrawer
from anakinema.ui.faults import Faults
from anakinema.ui.filing import Filing
from anakinema.ui.guarded import guarded
from anakinema.ui.guide import GuideBar
from anakinema.ui.handbook import Handbook
from anakinema.ui.inspector.inspector import Inspector
from anakinema.ui.keys import KeysOverlay, bind
from anakinema.ui.later import Later
from anakinema.ui.menu import command_menu
from anakinema.ui.menus import menu_on
from anakinema.ui.messages import MessageLine
from anakinema.ui.notices import NoticeBar
from anakinema.ui.outline.editor import OutlineEditor
from anakinema.ui.parts_table import PartsTable
from anakinema.ui.plot.view import PlotView
from anakinema.ui.reviewing import ReviewFilm
from anakinema.ui.route import STATIONS, Route
from anakinema.ui.sheets.page import SheetsPage
from anakinema.ui.stage.stack import StackView
from anakinema.ui.stage.stage import Stage
from anakinema.ui.start import StartPage
from anakinema.ui.station_bar import StationBar
from anakinema.ui.strip.strip import Strip
from anakinema.ui.theme import set_text_size, style_sheet
from anakinema.ui.workbench import Selection, Workbench

LEAST = 1000, 640
"""Pixels; with its frame the window fits a screen of 1024 by 700."""
STRIP = 176, 300, 0.34
"""Least and most pixels of the strip and its share of the height, until it is drawn by hand."""


P = TypeVar("P", PlotView, PartsTable, SheetsPage)


@guarded
class MainWindow(QMainWindow):
    """Route above, drawer, stage and inspector side by side, the travel strip below.

    Every region keeps its place and size whatever is edited; only keys and the user fold them.
    """

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("main_window")
        self.resize(1280, 800)
        self.workbench = workbench
        # All goes with the window: what would stay keeps what it is connected to.
        workbench.setParent(self)
        self.faults = Faults(workbench)
        self.filing = Filing(workbench, self)
        self._collector = Collector()
        self.drafts = Drafts(workbench)
        self.assembling = Assembling(self)
        self.commands = self._make_commands()
        self._folded: set[str] = set()
        self._build()
        self._keys = bind(self.commands, self)
        workbench.document_changed.connect(self._show_regions)
        workbench.station_changed.connect(self._show_station)
        workbench.theme_changed.connect(self._dress)
        workbench.menu_asked.connect(self._menu_on)
        self._show_regions()
        self.notices.look_for_work(workbench.folder / "recovery")
        self._start.focus_first()

    # Layout ----------------------------------------------------------------------------------

    @property
    def frame(self) -> QWidget:
        """What dialogs stand before."""
        return self

    def _build(self) -> None:
        """Lay out all regions."""
        workbench = self.workbench
        self.route = Route(workbench)
        self.route.search_asked.connect(self.search)
        self.route.menu_button.clicked.connect(self._open_menu)
        self.stage = Stage(workbench, self.drafts)
        self._start = StartPage(workbench)
        self._start.blank.connect(self.new)
        self._start.guided.connect(self.new_guided)
        self._start.chosen.connect(self.open_path)
        self._start.browse.connect(self.open_dialog)
        self.middle = QStackedWidget()
        # Whatever stands in the middle, the window may be small; pages that need more scroll.
        self.middle.setMinimumSize(320, 200)
        self.middle.addWidget(self._start)
        self.pair = StagePair(self.stage, DepthView(workbench, self.drafts, self.stage))
        self.middle.addWidget(self.pair)
        self.stack = StackView(workbench)
        self.middle.addWidget(self.stack)
        self.outline = OutlineEditor(workbench)
        self.outline.done.connect(lambda: self.middle.setCurrentWidget(self.pair))
        self.middle.addWidget(self.outline)
        self.studio = CamStudio(workbench)
        self.studio.done.connect(lambda: self.middle.setCurrentWidget(self.pair))
        self.middle.addWidget(self.studio)
        self._plot = Later(lambda: self._with_end(PlotView(workbench)))
        self._parts = Later(lambda: self._with_end(PartsTable(workbench)))
        self._sheets = Later(lambda: self._with_end(SheetsPage(workbench)))
        for page in (self._plot, self._parts, self._sheets):
            self.middle.addWidget(page)
        self._drawers = QStackedWidget()
        self.assemble = AssembleDrawer(workbench)
        self.bar = StationBar(workbench, self.commands)
        check = CheckDrawer(workbench)
        check.edit_asked.connect(self.bar.asking.edit)
        self._record = Later(self._make_record)
        drive = Later(lambda: DriveDrawer(workbench))
        for drawer in (self.assemble, drive, check, self._record):
            area = QScrollArea()
            area.setWidgetResizable(True)
            area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            area.setWidget(drawer)
            self._drawers.addWidget(area)
        self._left = QWidget()
        self._left.setObjectName("drawer")
        self._left.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._left.setFixedWidth(252)
        left = QVBoxLayout(self._left)
        left.setContentsMargins(0, 0, 0, 0)
        left.addWidget(self._drawers)
        self.inspector = Inspector(workbench, self.drafts)
        self.inspector.setFixedWidth(272)
        self.middle.currentChanged.connect(self._turned)
        upper = QWidget()
        upper.setMinimumHeight(220)
        middle = QHBoxLayout(upper)
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self._left)
        column = QVBoxLayout()
        column.setSpacing(0)
        self.notices = NoticeBar(workbench, self.filing.may_leave)
        column.addWidget(self.notices)
        column.addWidget(self.bar)
        self.guide = GuideBar(workbench, self.stage)
        column.addWidget(self.guide)
        column.addWidget(self.middle, 1)
        self.messages = MessageLine(workbench, self.middle)
        middle.addLayout(column, 1)
        middle.addWidget(self.inspector)
        self.strip = Strip(workbench)
        self.strip.plot_asked.connect(self.turn_plot)
        splitter = QSplitter(Qt.Orientation.Vertical)
        splitter.setChildrenCollapsible(False)
        splitter.setHandleWidth(4)
        splitter.addWidget(upper)
        splitter.addWidget(self.strip)
        splitter.setStretchFactor(0, 1)
        splitter.splitterMoved.connect(self._strip_drawn)
        self._splitter: QSplitter | None = splitter
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.route)
        layout.addWidget(splitter, 1)
        self.setCentralWidget(whole)
        self.band = BandCard(workbench, self)
        self.review = ReviewFilm(workbench, self.stage, self.fold_all)
        self.setMinimumSize(*LEAST)
        # Last, so that every widget is dressed once and not at each step of the layout.
        self._dress()
        self._show_station(workbench.station)

    def _with_end(self, page: P) -> P:
        """A page that gives way to the stage once it is done with."""
        page.done.connect(lambda: self.middle.setCurrentWidget(self.pair))
        if isinstance(page, SheetsPage):
            page.write_asked.connect(lambda: self.record.export("sheets"))
        return page

    def _make_record(self) -> RecordDrawer:
        made = RecordDrawer(
            self.workbench, lambda: (self.pair.front, self.strip), self.pair.deep.in_lines
        )
        made.parts_asked.connect(self.turn_parts)
        made.sheets_asked.connect(self.turn_sheets)
        return made

    @property
    def plot(self) -> PlotView:
        """The page of curves."""
        return self._plot.page

    @property
    def parts(self) -> PartsTable:
        """The parts list."""
        return self._parts.page

    @property
    def sheets(self) -> SheetsPage:
        """The page of drawings on paper."""
        return self._sheets.page

    @property
    def record(self) -> RecordDrawer:
        """The drawer of what leaves the program."""
        return self._record.page

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().resizeEvent(event)
        self._share_height()

    def _share_height(self) -> None:
        """As much for the strip as it needs, until it is drawn by hand."""
        if self._splitter is not None:
            least, most, share = STRIP
            strip = round(min(max(share * self.height(), least), most))
            if self.middle.currentWidget() in self._wide:
                strip = self.strip.minimumSizeHint().height()
            self._splitter.setSizes([self.height() - strip, strip])

    def _strip_drawn(self, *_: object) -> None:
        """From now on as high as it was drawn."""
        self._splitter = None

    def _show_station(self, station: str) -> None:
        self._drawers.setCurrentIndex(STATIONS.index(station))
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
        return self._plot, self._parts, self._sheets

    def _show_regions(self) -> None:
        shown = self.workbench.has_document
        if not shown or self.middle.currentIndex() == 0:
            self.middle.setCurrentIndex(1 if shown else 0)
        listed = self.middle.currentWidget() is self._sheets
        self._left.setVisible(shown and not listed and "left" not in self._folded)
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
        to = self.pair if self.middle.currentWidget() is self._parts else self._parts
        self.middle.setCurrentWidget(to)

    def turn_sheets(self) -> None:
        """The sheets in the middle, or the stage again."""
        to = self.pair if self.middle.currentWidget() is self._sheets else self._sheets
        self.middle.setCurrentWidget(to)

    def turn_plot(self) -> None:
        """The plot in the middle, or the stage again."""
        to = self.pair if self.middle.currentWidget() is self._plot else self._plot
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

    # Commands --------------------------------------------------------------------------------

    def _make_commands(self) -> list[Command]:
        bench = self.workbench

        def ready() -> bool:
            return bench.evaluation is not None

        def has() -> bool:
            return bench.has_document

        def say(words: str):  # type: ignore[no-untyped-def]
            return lambda: words

        def undo_words() -> str:
            return f"Undo {bench.session.undo_label or ''}".rstrip()

        def redo_words() -> str:
            return f"Redo {bench.session.redo_label or ''}".rstrip()

        commands = [
            Command("new", say("New mechanism"), self.new, "Ctrl+N", group="File",
                    tip="An empty stage.", also="blank create"),
            Command("open", say("Open…"), self.open_dialog, "Ctrl+O", group="File", also="load"),
            Command("save", say("Save"), self.filing.save, "Ctrl+S", has, "File",
                    "Writes the file; autosaved steps are kept besides.", "write store"),
            Command("save_as", say("Save as…"), self.filing.save_as, "Ctrl+Shift+S", has, "File"),
            Command("desktop", say("Put Anakinema among the desktop's programs"),
                    self.install_desktop, "", group="File",
                    tip="An entry, an icon and the kind of file, for this user only.",
                    also="install icon mime entry"),
            Command("quit", say("Quit"), self.close, "Ctrl+Q", group="File", also="exit close"),
            Command("undo", undo_words, bench.undo, "Ctrl+Z",
                    lambda: bench.session.undo_label is not None, "Edit", also="back revert"),
            Command("redo", redo_words, bench.redo, "Ctrl+Shift+Z",
                    lambda: bench.session.redo_label is not None, "Edit", also="again"),
            *self.assembling.commands(),
            Command("fit", say("Show the whole motion"), lambda: self.pair.front.fit(), "R", ready,
                    "Look", "Everything that is passed over the motion fits the stage.",
                    "zoom all extents"),
            Command("theme", say("Light or dark"), bench.switch_theme, "Ctrl+D", group="Look",
                    also="theme night colours"),
            Command("zoom_in", say("Zoom in"), lambda: self.pair.front.zoom(1.25), "Ctrl++",
                    ready),
            Command("zoom_out", say("Zoom out"), lambda: self.pair.front.zoom(0.8), "Ctrl+-",
                    ready),
            Command("fold_left", say("Fold the left panel"), lambda: self.fold("left"), "F6",
                    has, tip="Again to bring it back.", also="hide panel drawer"),
            Command("fold_right", say("Fold the right panel"), lambda: self.fold("right"), "F7",
                    has, tip="Again to bring it back.", also="hide panel inspector"),
            Command("fold_strip", say("Fold the strip"), lambda: self.fold("strip"), "F8", has,
                    tip="Again to bring it back.", also="hide panel time"),
            Command("alone", say("The stage alone"), lambda: self.fold("left", "right", "strip"),
                    "F9", has, tip="All panels fold away; again to bring them back.",
                    also="full screen maximise"),
            Command("text_larger", say("Larger text"), partial(self.scale_text, 1), "Ctrl+Alt++",
                    also="font size zoom"),
            Command("text_smaller", say("Smaller text"), partial(self.scale_text, -1),
                    "Ctrl+Alt+-", also="font size zoom"),
            Command("still", self._still_words, self.switch_still,
                    tip="Nothing moves that need not: miniatures stand still.",
                    also="animation motion reduce"),
            Command("play", say("Play or pause"), self._toggle_play, "Space", ready, "Move",
                    also="run animate start stop"),
            Command("review", say("Review the motion"), lambda: self.review.turn(), "Shift+R",
                    ready, "Move", "Runs once, stops at every event and worst value and says what"
                    " it is; any key ends it.", "film present show meeting slow caption"),
            Command("step_on", say("One step on"), lambda: self.strip.step(1), "Right", ready,
                    "Move"),
            Command("step_back", say("One step back"), lambda: self.strip.step(-1), "Left", ready,
                    "Move"),
            Command("plot", say("Plot, or the stage again"), self.turn_plot, "F10", has, "Move",
                    "Curves against time, a driver or one another, with two cursors.",
                    "graph chart diagram curve compare"),
            Command("parts_list", say("Parts list, or the stage again"), self.turn_parts, "F11",
                    has, also="bom bill of materials item numbers mass weight quantity"),
            Command("sheets", say("Sheets, or the stage again"), self.turn_sheets, "F12", has,
                    tip="Drawings on paper as they will be printed.",
                    also="drawing pdf print paper section exploded assembly steps dimension"),
            Command("next_event", say("Next event"), lambda: self.strip.go_to_event(1),
                    "Ctrl+Right", ready, "Move", "Limits, stops, contacts, dead points, extremes."),
            Command("previous_event", say("Event before"), lambda: self.strip.go_to_event(-1),
                    "Ctrl+Left", ready, "Move"),
            Command("to_start", say("Go to the start"), lambda: bench.move_playhead(0.0), "Home",
                    ready, "Move"),
            Command("time_axis", self.strip_words, lambda: self.strip.switch_axis(), "Ctrl+T",
                    ready, "", "On time, pauses have their length.", "progress seconds axis"),
            Command("cancel", say("Stop computing"), bench.cancel, "Ctrl+.", lambda: bench.busy,
                    "Move"),
            Command("handbook", say("The guide"), lambda: self.open_guide(), "F1", group="Help",
                    tip="Pages by task, with pictures, searchable.", also="help manual docs"),
            Command("keys", say("All keys"), self.show_keys, "F2", group="Help",
                    also="shortcuts keyboard overlay"),
            Command("search", say("Find"), lambda: self.search(), "Ctrl+K", group="Help",
                    tip="Commands, bodies, joints, checks, sizes, pages of the guide."),
            *(
                Command(f"guided_{name}", say(f"Guided build: {words}"),
                        partial(self.new_guided, name), group="Help", also="learn tutorial")
                for name, words in GUIDES.items()
            ),
        ]  # fmt: skip
        for k, station in enumerate(STATIONS):
            commands.append(
                Command(
                    f"station_{station.lower()}",
                    say(f"Go to {station}"),
                    partial(bench.go_to_station, station),
                    f"Ctrl+{k + 1}",
                    has,
                )
            )
        for name, title, line in demo_lines():
            commands.append(
                Command(
                    f"demo_{name}",
                    say(f"Open ready mechanism: {title.lower()}"),
                    partial(self.open_path, demo_path(name)),
                    tip=line,
                    also="example",
                )
            )
        return commands

    def _found_things(self) -> list[Command]:
        """What else can be found: bodies, joints, checks, sizes, pages of the guide."""
        bench, document = self.workbench, self.workbench.session.document
        things: list[Command] = []

        def add(key: str, words: str, selection: Selection, station: str = "") -> None:
            def go() -> None:
                if station:
                    bench.go_to_station(station)
                bench.select(selection)

            things.append(Command(key, lambda: words, go, also=selection.kind))

        if bench.has_document:
            for body in document.bodies:
                add(f"body:{body.id}", f"{body.title} (body)", Selection("body", body.id))
            for joint in document.joints:
                add(f"joint:{joint.id}", f"{joint.title} (joint)", Selection("joint", joint.id))
            for asked in document.requirements:
                chosen = Selection("finding", asked.id)
                add(f"finding:{asked.id}", f"{asked.title} (check)", chosen, "Check")
            for parameter in document.parameters:
                words = f"{parameter.id.replace('_', ' ')} (parameter)"
                things.append(Command(f"size:{parameter.id}", partial(str, words), self._to_sizes))
            for part in document.parts:
                for size in part.dimensions:
                    words = f"{size.id.replace('_', ' ')} of {part.title} (size)"
                    key = f"size:{part.id}.{size.id}"
                    user = next((b.id for b in document.bodies if b.part == part.id), None)
                    if user is not None:
                        add(key, words, Selection("body", user))
        for page in guide_pages():
            go = partial(self.open_guide, page.name)
            things.append(Command(f"page:{page.name}", partial(str, f"{page.title} (guide)"), go))
        return things

    def _to_sizes(self) -> None:
        self.workbench.go_to_station("Assemble")
        self.assemble.show_page("Sizes")

    def new(self) -> None:
        """An empty stage."""
        if self.filing.may_leave():
            self.workbench.session.start(Document(name="New mechanism"))
            self.workbench.begin()
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

    def _toggle_play(self) -> None:
        self.workbench.play(not self.workbench.is_playing)

    def strip_words(self) -> str:
        """What switching the strip would show."""
        return f"Strip over {'progress' if self.strip.lanes.on_time else 'time'}"

    def search(self) -> None:
        """Open the search."""
        CommandSearch([*self.commands, *self._found_things()], self).open()

    def show_keys(self) -> None:
        """Open the overlay of all keys."""
        KeysOverlay(self.commands, self).open()

    def open_guide(self, page: str = "") -> None:
        """Open the guide, at the page for what is being done if none is named."""
        wanted = (
            page
            or {"Assemble": "build", "Drive": "drive", "Check": "check", "Record": "record"}[
                self.workbench.station if self.workbench.has_document else "Assemble"
            ]
        )
        Handbook(wanted, self.workbench.theme, self).open()

    def _open_menu(self) -> None:
        recent = self.workbench.settings.recent
        menu = command_menu(self.commands, recent, self.open_path, self)
        menu.popup(self.route.menu_button.mapToGlobal(QPoint(0, self.route.menu_button.height())))

    def _menu_on(self, selection: Selection, at: QPoint) -> None:
        """The menu of what was clicked, which is selected with it."""
        if selection.id not in self.workbench.selection.bodies:
            self.workbench.select(selection)
        menu_on(self.workbench, self.workbench.selection, self.commands, self).popup(at)

    def _still_words(self) -> str:
        return "Let small pictures move" if self.workbench.settings.still else "Keep all still"

    def switch_still(self) -> None:
        """Let small pictures move, or not."""
        self.workbench.change_settings(still=not self.workbench.settings.still)

    def scale_text(self, steps: int) -> None:
        """All words larger or smaller by a step, from 100 to 200 per cent."""
        now = TEXT_SIZES.index(self.workbench.settings.text)
        size = TEXT_SIZES[min(max(now + steps, 0), len(TEXT_SIZES) - 1)]
        self.workbench.change_settings(text=size)
        self.workbench.theme_changed.emit()

    def install_desktop(self) -> None:
        """Entry, icon and kind of file for this user; says where, or why not."""
        try:
            self.workbench.written(install_for_user())
        except AnakinemaError as error:
            self.workbench.report(error)

    def _dress(self) -> None:
        """All widgets in the present theme and size of text."""
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        set_text_size(self.workbench.settings.text)
        sheet = style_sheet(self.workbench.theme)
        if application.styleSheet() != sheet:
            application.setStyleSheet(sheet)
        # What paints itself is not painted anew by another style sheet.
        for widget in self.findChildren(QWidget):
            widget.update()

    # Files -----------------------------------------------------------------------------------

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

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.filing.may_leave():
            event.ignore()
            return
        self.notices.release()
        self.workbench.session.close()
        self._start.stop()
        self.guide.stop()
        self.bar.asking.stop()
        for page in (self._record.made, self._sheets.made):
            if page is not None:
                page.stop()
        self.pair.deep.stop()
        self.workbench.stop()
        self.drafts.join.stop()
        self._collector.stop()
        event.accept()
