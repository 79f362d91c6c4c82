"""The commands of the window, and the doors to them: the menu, the search and the keys.

Long for their list, which belongs together.
"""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint

from anakinema.errors import AnakinemaError
from anakinema.resources import demo_lines, demo_path, guide_pages, install_for_user
from anakinema.session import GUIDES
from anakinema.ui.commands import Command, CommandSearch
from anakinema.ui.handbook import Handbook
from anakinema.ui.keys import KeysOverlay
from anakinema.ui.menu import command_menu
from anakinema.ui.menus import menu_on
from anakinema.ui.route import STATIONS
from anakinema.ui.window import MainWindow
from anakinema.ui.workbench import Selection


class WindowCommands:
    """What can be asked of a window, and where it is asked."""

    def __init__(self, window: MainWindow) -> None:
        self._window, self._bench = window, window.workbench
        self.list = self._all()

    def _all(self) -> list[Command]:
        window, bench = self._window, self._bench

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
            Command("new", say("New mechanism"), window.new, "Ctrl+N", group="File",
                    tip="An empty stage.", also="blank create"),
            Command("open", say("Open…"), window.open_dialog, "Ctrl+O", group="File", also="load"),
            Command("save", say("Save"), window.filing.save, "Ctrl+S", has, "File",
                    "Writes the file; autosaved steps are kept besides.", "write store"),
            Command("save_as", say("Save as…"), window.filing.save_as, "Ctrl+Shift+S", has, "File"),
            Command("desktop", say("Put Anakinema among the desktop's programs"),
                    self._install_desktop, "", group="File",
                    tip="An entry, an icon and the kind of file, for this user only.",
                    also="install icon mime entry"),
            Command("quit", say("Quit"), window.close, "Ctrl+Q", group="File", also="exit close"),
            Command("undo", undo_words, bench.undo, "Ctrl+Z",
                    lambda: bench.session.undo_label is not None, "Edit", also="back revert"),
            Command("redo", redo_words, bench.redo, "Ctrl+Shift+Z",
                    lambda: bench.session.redo_label is not None, "Edit", also="again"),
            *window.assembling.commands(),
            Command("fit", say("Show the whole motion"), lambda: window.pair.front.fit(), "R",
                    ready, "Look", "Everything that is passed over the motion fits the stage.",
                    "zoom all extents"),
            Command("theme", say("Light or dark"), bench.desk.switch_theme, "Ctrl+D", group="Look",
                    also="theme night colours"),
            Command("zoom_in", say("Zoom in"), lambda: window.pair.front.zoom(1.25), "Ctrl++",
                    ready),
            Command("zoom_out", say("Zoom out"), lambda: window.pair.front.zoom(0.8), "Ctrl+-",
                    ready),
            Command("fold_left", say("Fold the left panel"), lambda: window.fold("left"), "F6",
                    has, tip="Again to bring it back.", also="hide panel drawer"),
            Command("fold_right", say("Fold the right panel"), lambda: window.fold("right"), "F7",
                    has, tip="Again to bring it back.", also="hide panel inspector"),
            Command("fold_strip", say("Fold the strip"), lambda: window.fold("strip"), "F8", has,
                    tip="Again to bring it back.", also="hide panel time"),
            Command("alone", say("The stage alone"), lambda: window.fold("left", "right", "strip"),
                    "F9", has, tip="All panels fold away; again to bring them back.",
                    also="full screen maximise"),
            Command("text_larger", say("Larger text"), partial(bench.desk.scale_text, 1),
                    "Ctrl+Alt++", also="font size zoom"),
            Command("text_smaller", say("Smaller text"), partial(bench.desk.scale_text, -1),
                    "Ctrl+Alt+-", also="font size zoom"),
            Command("still", self._still_words, bench.desk.switch_still,
                    tip="Nothing moves that need not: miniatures stand still.",
                    also="animation motion reduce"),
            Command("play", say("Play or pause"), self._toggle_play, "Space", ready, "Move",
                    also="run animate start stop"),
            Command("review", say("Review the motion"), lambda: window.review.turn(), "Shift+R",
                    ready, "Move", "Runs once, stops at every event and worst value and says what"
                    " it is; any key ends it.", "film present show meeting slow caption"),
            Command("step_on", say("One step on"), lambda: window.strip.step(1), "Right", ready,
                    "Move"),
            Command("step_back", say("One step back"), lambda: window.strip.step(-1), "Left", ready,
                    "Move"),
            Command("plot", say("Plot, or the stage again"), window.turn_plot, "F10", has, "Move",
                    "Curves against time, a driver or one another, with two cursors.",
                    "graph chart diagram curve compare"),
            Command("parts_list", say("Parts list, or the stage again"), window.turn_parts, "F11",
                    has, also="bom bill of materials item numbers mass weight quantity"),
            Command("sheets", say("Sheets, or the stage again"), window.turn_sheets, "F12", has,
                    tip="Drawings on paper as they will be printed.",
                    also="drawing pdf print paper section exploded assembly steps dimension"),
            Command("next_event", say("Next event"), lambda: window.strip.go_to_event(1),
                    "Ctrl+Right", ready, "Move", "Limits, stops, contacts, dead points, extremes."),
            Command("previous_event", say("Event before"), lambda: window.strip.go_to_event(-1),
                    "Ctrl+Left", ready, "Move"),
            Command("to_start", say("Go to the start"), lambda: bench.move_playhead(0.0), "Home",
                    ready, "Move"),
            Command("time_axis", self._strip_words, lambda: window.strip.switch_axis(), "Ctrl+T",
                    ready, "", "On time, pauses have their length.", "progress seconds axis"),
            Command("cancel", say("Stop computing"), bench.cancel, "Ctrl+.", lambda: bench.busy,
                    "Move"),
            Command("handbook", say("The guide"), self.open_guide, "F1", group="Help",
                    tip="Pages by task, with pictures, searchable.", also="help manual docs"),
            Command("keys", say("All keys"), self.show_keys, "F2", group="Help",
                    also="shortcuts keyboard overlay"),
            Command("search", say("Find"), self.search, "Ctrl+K", group="Help",
                    tip="Commands, bodies, joints, checks, sizes, pages of the guide."),
            *(
                Command(f"guided_{name}", say(f"Guided build: {words}"),
                        partial(window.new_guided, name), group="Help", also="learn tutorial")
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
                    partial(window.open_path, demo_path(name)),
                    tip=line,
                    also="example",
                )
            )
        return commands

    def _found_things(self) -> list[Command]:
        """What else can be found: bodies, joints, checks, sizes, pages of the guide."""
        bench, document = self._bench, self._bench.session.document
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
        self._bench.go_to_station("Assemble")
        self._window.assemble.show_page("Sizes")

    def _toggle_play(self) -> None:
        self._bench.play(not self._bench.is_playing)

    def _strip_words(self) -> str:
        return f"Strip over {'progress' if self._window.strip.lanes.on_time else 'time'}"

    def _still_words(self) -> str:
        return "Let small pictures move" if self._bench.settings.still else "Keep all still"

    def _install_desktop(self) -> None:
        """Entry, icon and kind of file for this user; says where, or why not."""
        try:
            self._bench.written(install_for_user())
        except AnakinemaError as error:
            self._bench.report(error)

    def search(self) -> None:
        """Open the search."""
        CommandSearch([*self.list, *self._found_things()], self._window).open()

    def show_keys(self) -> None:
        """Open the overlay of all keys."""
        KeysOverlay(self.list, self._window).open()

    def open_guide(self, page: str = "") -> None:
        """Open the guide, at the page for what is being done if none is named."""
        wanted = (
            page
            or {"Assemble": "build", "Drive": "drive", "Check": "check", "Record": "record"}[
                self._bench.station if self._bench.has_document else "Assemble"
            ]
        )
        Handbook(wanted, self._bench.theme, self._window).open()

    def open_menu(self) -> None:
        """The menu of all commands, under its button."""
        recent, button = self._bench.settings.recent, self._window.route.menu_button
        menu = command_menu(self.list, recent, self._window.open_path, self._window)
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))

    def menu_on(self, selection: Selection, at: QPoint) -> None:
        """The menu of what was clicked, which is selected with it."""
        bench = self._bench
        if selection.id not in bench.selection.bodies:
            bench.select(selection)
        menu_on(bench, bench.selection, self.list, self._window).popup(at)
