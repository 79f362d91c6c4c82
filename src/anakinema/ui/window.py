"""The main window: puts the regions together and holds the commands.

Long for the list of commands of files, views and stations, which belongs together.
"""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QMainWindow,
    QMenu,
    QMessageBox,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.model import Document
from anakinema.errors import AnakinemaError
from anakinema.files import SUFFIX
from anakinema.resources import demo_names, demo_path
from anakinema.session import FileChangedError, beside
from anakinema.ui.assembling import Assembling
from anakinema.ui.cams.studio import CamStudio
from anakinema.ui.collecting import Collector
from anakinema.ui.commands import Command, CommandSearch
from anakinema.ui.drafts import Drafts
from anakinema.ui.drawers.assemble import AssembleDrawer
from anakinema.ui.drawers.check import CheckDrawer
from anakinema.ui.drawers.drive import DriveDrawer
from anakinema.ui.drawers.record import RecordDrawer
from anakinema.ui.faults import Faults
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.guide import GuideBar
from anakinema.ui.inspector.inspector import Inspector
from anakinema.ui.notices import NoticeBar
from anakinema.ui.outline.editor import OutlineEditor
from anakinema.ui.route import STATIONS, Route
from anakinema.ui.stage.stack import StackView
from anakinema.ui.stage.stage import Stage
from anakinema.ui.start import StartPage, centred
from anakinema.ui.strip.strip import Strip
from anakinema.ui.theme import style_sheet
from anakinema.ui.workbench import Workbench

FILES = f"Mechanism (*{SUFFIX});;All files (*)"


@guarded
class MainWindow(QMainWindow):
    """Route above, drawer, stage and inspector side by side, the travel strip below."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("main_window")
        self.resize(1280, 800)
        self.workbench = workbench
        self.faults = Faults(workbench)
        self._collector = Collector()
        self.drafts = Drafts(workbench)
        self.assembling = Assembling(self)
        self.commands = self._make_commands()
        self._keys: list[QShortcut] = []
        self._build()
        for command in self.commands:
            if command.shortcut:
                self._bind(command)
        workbench.trouble_changed.connect(self._show_trouble)
        workbench.document_changed.connect(self._show_regions)
        workbench.station_changed.connect(self._show_station)
        workbench.theme_changed.connect(self._dress)
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
        self.middle.addWidget(centred(self._start))
        self.middle.addWidget(self.stage)
        self.stack = StackView(workbench)
        self.middle.addWidget(self.stack)
        self.outline = OutlineEditor(workbench)
        self.outline.done.connect(lambda: self.middle.setCurrentWidget(self.stage))
        self.middle.addWidget(self.outline)
        self.studio = CamStudio(workbench)
        self.studio.done.connect(lambda: self.middle.setCurrentWidget(self.stage))
        self.middle.addWidget(self.studio)
        self._drawers = QStackedWidget()
        self.assemble = AssembleDrawer(workbench)
        for drawer in (
            self.assemble, DriveDrawer(workbench), CheckDrawer(workbench),
            RecordDrawer(workbench),
        ):  # fmt: skip
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
        self.middle.currentChanged.connect(lambda _: self._show_regions())
        upper = QWidget()
        middle = QHBoxLayout(upper)
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self._left)
        column = QVBoxLayout()
        column.setSpacing(0)
        column.addWidget(self._trouble_bar())
        self.notices = NoticeBar(workbench, self._may_leave)
        column.addWidget(self.notices)
        self.guide = GuideBar(workbench)
        column.addWidget(self.guide)
        column.addWidget(self._assemble_bar())
        column.addWidget(self.middle, 1)
        middle.addLayout(column, 1)
        middle.addWidget(self.inspector)
        self.strip = Strip(workbench)
        splitter = QSplitter(Qt.Orientation.Vertical)
        splitter.setChildrenCollapsible(False)
        splitter.setHandleWidth(4)
        splitter.addWidget(upper)
        splitter.addWidget(self.strip)
        splitter.setStretchFactor(0, 1)
        splitter.setSizes([500, 236])
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.route)
        layout.addWidget(splitter, 1)
        self.setCentralWidget(whole)
        # Last, so that every widget is dressed once and not at each step of the layout.
        self._dress()
        self._show_station(workbench.station)

    def _trouble_bar(self) -> QWidget:
        self._trouble = QWidget()
        self._trouble.setObjectName("trouble")
        row = QHBoxLayout(self._trouble)
        row.setContentsMargins(14, 6, 8, 6)
        self._trouble_words = label("", "trouble", wrap=True)
        self._trouble_words.setObjectName("trouble_words")
        row.addWidget(self._trouble_words, 1)
        close = QPushButton("Close")
        close.setObjectName("trouble_close")
        close.clicked.connect(self.workbench.dismiss_trouble)
        row.addWidget(close)
        self._trouble.hide()
        return self._trouble

    def _assemble_bar(self) -> QWidget:
        """What assembling does most, above the stage."""
        self._bar = QWidget()
        self._bar.setObjectName("assemble_bar")
        # Narrow windows cut the bar rather than grow for it; all is in the menu as well.
        self._bar.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(self._bar)
        row.setContentsMargins(10, 5, 10, 5)
        row.setSpacing(5)
        for name in (
            "join",
            "repeat",
            "stick",
            "measure",
            "outline",
            "stack",
            "relief",
            "keep_pose",
        ):
            command = next((c for c in self.commands if c.id == name), None)
            if command is None:
                continue
            words = {"outline": "Outline", "keep_pose": "Keep"}.get(name, command.label())
            key = command.shortcut.replace("Ctrl+", "^")
            button = QPushButton(f"{words}  {key}")
            button.setToolTip(f"{command.label()} ({command.shortcut})")
            button.setObjectName(f"bar_{name}")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, c=command: c.run() if c.is_enabled() else None)
            row.addWidget(button)
        row.addStretch(1)
        return self._bar

    def _show_station(self, station: str) -> None:
        self._drawers.setCurrentIndex(STATIONS.index(station))
        if station != "Assemble" and self.middle.currentWidget() is self.outline:
            self.middle.setCurrentWidget(self.stage)
        self._show_regions()

    @property
    def _has_own_panel(self) -> bool:
        """Whether what is in the middle brings numbers of its own and needs the room."""
        return self.middle.currentWidget() in (self.outline, self.studio)

    def _show_regions(self) -> None:
        shown = self.workbench.has_document
        if not shown or self.middle.currentIndex() == 0:
            self.middle.setCurrentIndex(1 if shown else 0)
        self._left.setVisible(shown)
        self.inspector.setVisible(shown and not self._has_own_panel)
        # Without a program there is no motion to show, and the stage can have the room.
        has_program = bool(self.workbench.session.document.program.stages)
        self.strip.setVisible(shown and has_program)
        assembles = shown and self.workbench.station == "Assemble"
        self._bar.setVisible(assembles and not self._has_own_panel)
        name = self.workbench.session.document.name if self.workbench.has_document else ""
        star = "*" if self.workbench.session.is_changed else ""
        self.setWindowTitle(f"{name}{star} – Anakinema" if name else "Anakinema")

    def _show_trouble(self) -> None:
        trouble = self.workbench.trouble
        self._trouble.setVisible(trouble is not None)
        if isinstance(trouble, AnakinemaError):
            where = trouble.where[:1].upper() + trouble.where[1:]
            self._trouble_words.setText(f"{where}: {trouble.what} {trouble.remedy}".strip())
        elif trouble is not None:
            self._trouble_words.setText(str(trouble))

    # Commands --------------------------------------------------------------------------------

    def _make_commands(self) -> list[Command]:
        bench = self.workbench

        def ready() -> bool:
            return bench.evaluation is not None

        def say(words: str):  # type: ignore[no-untyped-def]
            return lambda: words

        def undo_words() -> str:
            return f"Undo {bench.session.undo_label or ''}".rstrip()

        def redo_words() -> str:
            return f"Redo {bench.session.redo_label or ''}".rstrip()

        commands = [
            Command("new", say("New mechanism"), self.new, "Ctrl+N"),
            Command("open", say("Open…"), self.open_dialog, "Ctrl+O"),
            Command("save", say("Save"), self.save, "Ctrl+S", lambda: bench.has_document),
            Command("save_as", say("Save as…"), self.save_as, "Ctrl+Shift+S",
                    lambda: bench.has_document),
            Command("undo", undo_words, bench.undo, "Ctrl+Z",
                    lambda: bench.session.undo_label is not None),
            Command("redo", redo_words, bench.redo, "Ctrl+Shift+Z",
                    lambda: bench.session.redo_label is not None),
            Command("play", say("Play or pause"), self._toggle_play, "Space", ready),
            Command("step_on", say("One step on"), lambda: self.strip.step(1), "Right", ready),
            Command("step_back", say("One step back"), lambda: self.strip.step(-1), "Left", ready),
            Command("next_event", say("Next event"), lambda: self.strip.go_to_event(1),
                    "Ctrl+Right", ready),
            Command("previous_event", say("Event before"), lambda: self.strip.go_to_event(-1),
                    "Ctrl+Left", ready),
            Command("to_start", say("Go to the start"), lambda: bench.move_playhead(0.0), "Home",
                    ready, in_menu=False),
            Command("fit", say("Show the whole motion"), lambda: self.stage.fit(), "F", ready),
            Command("zoom_in", say("Zoom in"), lambda: self.stage.zoom(1.25), "Ctrl++", ready,
                    in_menu=False),
            Command("zoom_out", say("Zoom out"), lambda: self.stage.zoom(0.8), "Ctrl+-", ready,
                    in_menu=False),
            Command("cancel", say("Stop computing"), bench.cancel, "Ctrl+.", lambda: bench.busy),
            Command("theme", say("Light or dark"), self.workbench.switch_theme, "Ctrl+D"),
            Command("search", say("Find a command"), lambda: self.search(), "Ctrl+K",
                    in_menu=False),
            Command("quit", say("Quit"), self.close, "Ctrl+Q"),
        ]  # fmt: skip
        # Behind undo and redo in the menu, as in the order of the work.
        commands[6:6] = self.assembling.commands()
        for k, station in enumerate(STATIONS):
            commands.append(
                Command(f"station_{station.lower()}", say(f"Go to {station}"),
                        partial(bench.go_to_station, station), f"Ctrl+{k + 1}", in_menu=False)
            )  # fmt: skip
        for name in demo_names():
            words = name.replace("-", " ")
            commands.append(
                Command(f"demo_{name}", say(f"Open ready mechanism: {words}"),
                        partial(self.open_path, demo_path(name)), in_menu=False)
            )  # fmt: skip
        return commands

    def new(self) -> None:
        """An empty stage."""
        if self._may_leave():
            self.workbench.session.start(Document(name="New mechanism"))
            self.workbench.begin()
            self.workbench.go_to_station("Assemble")
            self.assemble.show_page("Parts")

    def new_guided(self) -> None:
        """An empty stage, and a guide through the first build."""
        self.new()
        if self.workbench.has_document:
            self.guide.start()

    def _bind(self, command: Command) -> None:
        key = QShortcut(QKeySequence(command.shortcut), self)
        plain = ("Space", "Left", "Right", "Home", "Delete")
        is_letter = len(command.shortcut.removeprefix("Shift+")) == 1
        typing = command.shortcut in plain or is_letter

        def run() -> None:
            focused = QApplication.focusWidget()
            if typing and isinstance(focused, QLineEdit):
                return
            if command.shortcut == "Space" and isinstance(focused, QAbstractButton):
                # A key that presses the button in focus must not start the play instead.
                focused.click()
                return
            if command.shortcut == "Space" and isinstance(focused, QListWidget):
                item = focused.currentItem()
                if item is not None and item.data(Qt.ItemDataRole.CheckStateRole) is not None:
                    is_on = item.checkState() == Qt.CheckState.Checked
                    item.setCheckState(Qt.CheckState.Unchecked if is_on else Qt.CheckState.Checked)
                    return
            if command.is_enabled():
                command.run()

        key.activated.connect(run)
        self._keys.append(key)

    def _toggle_play(self) -> None:
        self.workbench.play(not self.workbench.is_playing)

    def search(self) -> None:
        """Open the command search."""
        CommandSearch(self.commands, self).open()

    def _open_menu(self) -> None:
        menu = QMenu(self)
        for command in self.commands:
            if not command.in_menu:
                continue
            action = QAction(f"{command.label()}\t{command.shortcut}".rstrip(), menu)
            action.setEnabled(command.is_enabled())
            action.triggered.connect(lambda _=False, c=command: c.run())
            menu.addAction(action)
        recent = menu.addMenu("Recent")
        for item in self.workbench.settings.recent:
            recent.addAction(Path(item).name, partial(self.open_path, Path(item)))
        recent.setEnabled(bool(self.workbench.settings.recent))
        ready = menu.addMenu("Ready mechanisms")
        for name in demo_names():
            words = name.replace("-", " ").capitalize()
            ready.addAction(words, partial(self.open_path, demo_path(name)))
        menu.popup(self.route.menu_button.mapToGlobal(QPoint(0, self.route.menu_button.height())))

    def _dress(self) -> None:
        """All widgets in the present theme."""
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        if application.styleSheet() != style_sheet(self.workbench.theme):
            application.setStyleSheet(style_sheet(self.workbench.theme))
        # What paints itself is not painted anew by another style sheet.
        for widget in self.findChildren(QWidget):
            widget.update()

    # Files -----------------------------------------------------------------------------------

    def open_dialog(self) -> None:
        """Choose a file to open."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a mechanism", "", FILES)
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        """Open a file, after asking about unsaved work."""
        if self._may_leave():
            self.workbench.open(path)
            self.stage.setFocus()

    def save(self) -> bool:
        """Save under the present name; a ready mechanism is saved under a new one."""
        path = self.workbench.session.path
        if path is None or path.parent == demo_path(demo_names()[0]).parent:
            return self.save_as()
        return self._save_to(path)

    def _save_to(self, path: Path) -> bool:
        try:
            return self.workbench.save(path)
        except FileChangedError as error:
            return self._settle(path, error)

    def _settle(self, path: Path, error: FileChangedError) -> bool:
        """The file is not what it was: whose is to stay?"""
        box = QMessageBox(self)
        box.setObjectName("changed_box")
        box.setText(f"{error.where[:1].upper()}{error.where[1:]}: {error.what}")
        box.setInformativeText("Keeping yours writes over theirs. Taking theirs can be undone.")
        mine = box.addButton("Keep mine", QMessageBox.ButtonRole.AcceptRole)
        theirs = box.addButton("Take theirs", QMessageBox.ButtonRole.DestructiveRole)
        both = box.addButton(f"Save beside, as {beside(path).name}", QMessageBox.ButtonRole.YesRole)
        cancel = box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        theirs.setEnabled(path.exists())
        box.setEscapeButton(cancel)
        box.exec()
        if box.clickedButton() is mine:
            return self.workbench.save(path, over=True)
        if box.clickedButton() is theirs:
            self.workbench.take_theirs()
        # Theirs is to be looked at before anything is closed.
        return box.clickedButton() is both and self.workbench.save(beside(path))

    def save_as(self) -> bool:
        """Save under a chosen name."""
        stem = self.workbench.session.document.name.lower().replace(" ", "-")
        name, _ = QFileDialog.getSaveFileName(self, "Save the mechanism", f"{stem}{SUFFIX}", FILES)
        if not name:
            return False
        path = Path(name)
        return self._save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def _may_leave(self) -> bool:
        """Undo cannot bring back a closed document, so here we do ask."""
        session = self.workbench.session
        if not (self.workbench.has_document and (session.is_changed or session.is_gone)):
            return True
        box = QMessageBox(self)
        box.setObjectName("leave_box")
        gone = f"The file {session.path.name} has been deleted" if session.path else ""
        box.setText(
            f"“{session.document.name}” has unsaved changes."
            if session.is_changed
            else f"{gone}. What is open here is all there is of it."
        )
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Drop changes", QMessageBox.ButtonRole.DestructiveRole)
        cancel = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is cancel:
            return False
        return self.save() if box.clickedButton() is save else True

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        self.notices.release()
        self.workbench.session.close()
        self.workbench.stop()
        self.drafts.join.stop()
        self._collector.stop()
        event.accept()
