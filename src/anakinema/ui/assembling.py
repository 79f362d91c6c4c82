"""The commands of assembling: what the keys, the bar above the stage and the menu do to bodies."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PySide6.QtWidgets import QDialog, QFileDialog, QStackedWidget, QWidget

from anakinema.authoring import (
    Repeat,
    RepeatWish,
    drawn_in_place,
    made_one,
    open_lender,
    outer_joints,
    rehanging,
    removal,
    repeat,
    unit_again,
    unit_apart,
    unit_of,
    use_of,
)
from anakinema.document import Going, dependents
from anakinema.edits import AddPicture, Edit, Remove
from anakinema.errors import AnakinemaError
from anakinema.ui.cams.studio import CamStudio
from anakinema.ui.commands import Command
from anakinema.ui.deleting import DeleteDialog
from anakinema.ui.importing import ImportDialog
from anakinema.ui.outline.editor import OutlineEditor
from anakinema.ui.stage.pictures import picture_from
from anakinema.ui.stage.stack import StackView
from anakinema.ui.stage.stage import Stage
from anakinema.ui.stage.tools.select import SelectTool
from anakinema.ui.taking import TakeDialog
from anakinema.ui.workbench import Selection, Workbench

OUTLINES = "Outlines (*.dxf *.svg);;All files (*)"
DOCUMENTS = "Mechanisms (*.anakinema);;All files (*)"
PICTURES = "Pictures (*.png *.jpg *.jpeg)"
MOST_PICTURES = 4
BESIDE = 30.0
"""mm that what is pasted stands beside its original."""


class Room(Protocol):
    """The window, as far as assembling knows it: what can be shown in its middle."""

    workbench: Workbench
    middle: QStackedWidget
    stage: Stage
    stack: StackView
    outline: OutlineEditor
    studio: CamStudio

    @property
    def frame(self) -> QWidget:
        """What dialogs stand before."""

    def new_guided(self) -> None:
        """Begin the guided first build."""


class Assembling:
    """Acts on the window's work; every change is an edit of the document."""

    def __init__(self, room: Room) -> None:
        self._room = room
        self._bench = room.workbench
        self._copied: tuple[str, ...] = ()

    def commands(self) -> list[Command]:
        """Rows of the window's table of commands."""
        bench = self._bench

        def say(words: str):  # type: ignore[no-untyped-def]
            return lambda: words

        return [
            Command("delete", say("Delete what is selected"), self.delete, "Delete",
                    lambda: bench.selection.kind in ("body", "joint")),
            Command("join", say("Join"), lambda: bench.use_tool("join"), "J",
                    lambda: bench.scene is not None),
            Command("repeat", say("Repeat"), lambda: bench.use_tool("repeat"), "Ctrl+R",
                    lambda: bench.scene is not None),
            Command("copy", say("Copy"), self.copy, "Ctrl+C",
                    lambda: bool(bench.selection.bodies)),
            Command("paste", say("Paste"), self.paste, "Ctrl+V", lambda: bool(self._copied)),
            Command("make_unit", say("Make a unit of what is selected"), self.make_unit, "Ctrl+U",
                    lambda: bool(bench.selection.bodies)),
            Command("unit_again", say("Use the unit again"), self.unit_again, "Ctrl+Shift+U",
                    lambda: use_of(bench.selection.id) is not None),
            Command("take_unit", say("Take a unit from another document…"), self.unit_dialog, "",
                    lambda: bench.scene is not None),
            Command("unit_apart", say("Take the unit apart"), self.unit_apart, "",
                    lambda: use_of(bench.selection.id) is not None),
            Command("import", say("Import an outline…"), self.import_dialog, "Ctrl+I",
                    lambda: bench.has_document),
            Command("picture", say("Lay a picture under the stage…"), self.picture_dialog, "",
                    lambda: bench.has_document),
            Command("outline", say("Edit the outline"), self.edit_outline, "E",
                    lambda: len(bench.selection.bodies) == 1),
            Command("draw", say("Draw a new part in place"), self.draw_part, "Shift+E",
                    lambda: bench.scene is not None),
            Command("cams", say("Cam studio"), self.open_cams, "Y",
                    lambda: bench.scene is not None),
            Command("stick", say("Stick"), lambda: bench.use_tool("stick"), "L",
                    lambda: bench.scene is not None),
            Command("guide", say("Guided first build"), self._room.new_guided, "", in_menu=True),
            Command("measure", say("Measure"), lambda: bench.use_tool("measure"), "M",
                    lambda: bench.scene is not None),
            Command("mark", say("Mark a place"), lambda: bench.use_tool("mark"), "P",
                    lambda: bench.scene is not None),
            Command("stack", say("Stack"), self._toggle_stack, "S",
                    lambda: bench.scene is not None),
            Command("relief", say("Relief"), self._toggle_relief, "A",
                    lambda: bench.scene is not None),
            Command("keep_pose", say("Keep pose"), self._keep_pose, "K",
                    lambda: bench.scene is not None, in_menu=False),
            Command("hold", say("Hold"), lambda: bench.hold(bench.selection.bodies), "H",
                    lambda: bool(bench.selection.bodies), in_menu=False),
            Command("hide", say("Hide"), lambda: bench.hide(bench.selection.bodies), "Shift+H",
                    lambda: bool(bench.selection.bodies), in_menu=False),
            Command("show_only", say("Show only what is selected"),
                    lambda: bench.show_only(bench.selection.bodies), "",
                    lambda: bool(bench.selection.bodies)),
            Command("see_through", say("See through bodies"), self._toggle_see_through, "T",
                    lambda: bench.scene is not None),
            Command("one_piece", say("Make one piece of what is selected"), self.one_piece, "",
                    lambda: len(bench.selection.bodies) > 1),
            Command("show_all", say("Show all bodies"), lambda: bench.hide(()), "Ctrl+Shift+H",
                    lambda: bool(bench.hidden)),
            Command("joints", say("Show or hide joint symbols"), self._toggle_joints, "",
                    lambda: bench.scene is not None),
            Command("each", say("Colour every body differently"), self._toggle_each, "",
                    lambda: bench.scene is not None),
        ]  # fmt: skip

    def _keep_pose(self) -> None:
        tool = self._room.stage.tool
        if isinstance(tool, SelectTool) and not tool.keep():
            self._bench.report("Nothing to keep: drag a body first, then press K.")

    def _toggle_stack(self) -> None:
        room = self._room
        is_shown = room.middle.currentWidget() is room.stack
        room.middle.setCurrentWidget(room.stage if is_shown else room.stack)

    def _toggle_relief(self) -> None:
        self._room.middle.setCurrentWidget(self._room.stage)
        self._room.stage.show_relief(not self._room.stage.in_relief)

    def _toggle_joints(self) -> None:
        self._room.stage.shows_joints = not self._room.stage.shows_joints
        self._room.stage.update()

    def _toggle_see_through(self) -> None:
        self._room.stage.see_through = not self._room.stage.see_through
        self._room.stage.update()

    def one_piece(self) -> None:
        """The selected bodies no longer move against each other."""
        scene = self._bench.rest()
        if scene is not None:
            self._bench.do(made_one(scene, self._bench.selection.bodies))
            self._bench.finish_gesture()

    def _toggle_each(self) -> None:
        self._room.stage.each_its_own = not self._room.stage.each_its_own
        self._room.stage.update()

    def delete(self) -> None:
        """Take out what is selected; what depends on it is named first."""
        bench, selection = self._bench, self._bench.selection
        document, scene = bench.session.document, self._bench.rest()
        bodies = frozenset(use_of(name) or name for name in selection.bodies)
        joints = frozenset((selection.id,)) if selection.kind == "joint" else frozenset()
        chosen = Going(bodies=bodies, joints=joints)
        titles = dependents(document, chosen).titles(document, chosen)
        edit: Edit = Remove(chosen, "Delete")
        if titles and scene is not None:
            offers = rehanging(scene, bodies) if bodies else {}
            dialog = DeleteDialog(titles, offers, scene.resolved.document, self._room.frame)
            if dialog.exec() != QDialog.DialogCode.Accepted:
                return
            if bodies:
                edit = removal(scene, bodies, dialog.hung())
        bench.do(edit)
        bench.finish_gesture()
        bench.select(Selection())

    def copy(self) -> None:
        """Remember the selected bodies."""
        self._copied = self._bench.selection.bodies

    def paste(self) -> None:
        """The bodies copied, with the joints among them, beside where they stand."""
        scene = self._bench.rest()
        bodies = self._copied if scene is None else tuple(
            body for body in self._copied if scene.index(body) is not None
        )  # fmt: skip
        if scene is None or not bodies:
            self._bench.report("What was copied is no longer there.")
            return
        joints = frozenset(joint for joint, _ in outer_joints(scene, bodies))
        wish = RepeatWish("row", 2, BESIDE, -BESIDE, without=joints)
        self._do_repeat(repeat(scene, bodies, wish))

    def _do_repeat(self, found: Repeat) -> None:
        self._bench.do(found.edit)
        self._bench.finish_gesture()
        self._bench.select(Selection("body", found.bodies[0], found.bodies[1:]))

    def make_unit(self) -> None:
        """The selected bodies, with the joints among them, become a unit."""
        bench, scene = self._bench, self._bench.rest()
        if scene is None:
            return
        try:
            edit, use = unit_of(scene, bench.selection.bodies)
        except AnakinemaError as error:
            bench.report(error)
            return
        inner = f"{use}__{bench.selection.id}"
        bench.do(edit)
        bench.finish_gesture()
        bench.select(Selection("body", inner))

    def unit_again(self) -> None:
        """Another use of the selected unit, beside it."""
        scene, use = self._bench.rest(), use_of(self._bench.selection.id)
        if scene is not None and use is not None:
            self._do_repeat(unit_again(scene, use, BESIDE, -BESIDE))

    def unit_apart(self) -> None:
        """The selected use becomes plain bodies."""
        scene, use = self._bench.rest(), use_of(self._bench.selection.id)
        if scene is not None and use is not None:
            self._bench.do(unit_apart(scene, use))
            self._bench.finish_gesture()
            self._bench.select(Selection())

    def unit_dialog(self) -> None:
        """Choose a document to take a unit from."""
        name, _ = QFileDialog.getOpenFileName(self._room.frame, "Take a unit", "", DOCUMENTS)
        if name:
            self.take_unit(Path(name))

    def take_unit(self, path: Path) -> None:
        """Show what a document has to take; a faulty one is reported."""
        try:
            lender = open_lender(path)
        except AnakinemaError as error:
            self._bench.report(error)
            return
        self._bench.go_to_station("Assemble")
        stage = self._room.stage
        dialog = TakeDialog(self._bench, lender, stage.view, self._room.frame)
        dialog.accepted.connect(stage.fit_soon)
        dialog.open()

    def edit_outline(self) -> None:
        """Show the selected body's part alone, with every corner and number."""
        scene = self._bench.rest()
        bodies = self._bench.selection.bodies
        index = scene.index(bodies[0]) if scene is not None and bodies else None
        if scene is None or index is None:
            return
        part = scene.resolved.document.bodies[index].part
        self._bench.go_to_station("Assemble")
        self._room.middle.setCurrentWidget(self._room.outline)
        self._room.outline.edit_part(part, bodies[0])

    def open_cams(self) -> None:
        """The cam of the selected body, or the first there is, or a form for a new one."""
        scene = self._bench.rest()
        bodies = self._bench.selection.bodies
        index = scene.index(bodies[0]) if scene is not None and bodies else None
        part = ""
        if scene is not None and index is not None:
            part = scene.resolved.document.bodies[index].part
        self._room.middle.setCurrentWidget(self._room.studio)
        self._room.studio.open_cam(part)

    def draw_part(self) -> None:
        """A new part in the middle of the stage, drawn over what stands there."""
        bench, stage = self._bench, self._room.stage
        scene = bench.rest()
        if scene is None:
            return
        edit, body = drawn_in_place(scene, stage.view.x, stage.view.y)
        bench.do(edit)
        bench.finish_gesture()
        bench.select(Selection("body", body))
        self.edit_outline()

    def picture_dialog(self) -> None:
        """Choose a picture to trace."""
        name, _ = QFileDialog.getOpenFileName(self._room.frame, "Lay a picture", "", PICTURES)
        if name:
            self.lay_picture(Path(name))

    def lay_picture(self, path: Path) -> None:
        """Lay a picture under the stage; a faulty file is reported."""
        try:
            picture = picture_from(path, self._bench.session.document)
        except AnakinemaError as error:
            self._bench.report(error)
            return
        if len(self._bench.session.document.pictures) >= MOST_PICTURES:
            self._bench.report(f"At most {MOST_PICTURES} pictures lie under the stage.")
            return
        self._bench.do(AddPicture(picture))
        self._bench.finish_gesture()
        self._bench.select(Selection())

    def import_dialog(self) -> None:
        """Choose a DXF or SVG file with an outline."""
        name, _ = QFileDialog.getOpenFileName(self._room.frame, "Import an outline", "", OUTLINES)
        if name:
            self.import_path(Path(name))

    def import_path(self, path: Path) -> None:
        """Show a preview of an outline; a faulty file is reported."""
        if not self._bench.has_document:
            return
        self._bench.go_to_station("Assemble")
        ImportDialog(self._bench, path, self._bench.theme, self._room.frame).open()
