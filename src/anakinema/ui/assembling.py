"""The commands of assembling: what the keys, the bar above the stage and the menu do to bodies."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PySide6.QtWidgets import QDialog, QFileDialog, QStackedWidget, QWidget

from anakinema.authoring import (
    Repeat,
    RepeatWish,
    drawn_in_place,
    held_together,
    made_one,
    open_lender,
    outer_joints,
    rehanging,
    removal,
    repeat,
    square_plane,
    unit_again,
    unit_apart,
    unit_of,
    use_of,
)
from anakinema.document import Going, dependents
from anakinema.edits import AddPicture, Edit, Remove, SetPlane, Together
from anakinema.errors import AnakinemaError
from anakinema.ui.cams.studio import CamStudio
from anakinema.ui.commands import Command
from anakinema.ui.deleting import DeleteDialog
from anakinema.ui.depth.pair import StagePair
from anakinema.ui.depth.view import DepthView
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
    pair: StagePair
    stack: StackView
    outline: OutlineEditor
    studio: CamStudio

    @property
    def frame(self) -> QWidget:
        """What dialogs stand before."""

    def show_shelf(self) -> None:
        """Turn to the shelf of parts."""


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

        def scene() -> bool:
            return bench.scene is not None

        def some() -> bool:
            return bool(bench.selection.bodies)

        def meant() -> bool:
            return bool(self._meant())

        def in_unit() -> bool:
            return use_of(bench.selection.id) is not None

        def tool(name: str):  # type: ignore[no-untyped-def]
            return lambda: bench.use_tool(name)

        return [
            Command("delete", say("Delete what is selected"), self.delete, "Delete",
                    self._can_delete, "Edit", "Takes out bodies, joints, checks and connections;"
                    " names first what goes with them.", "remove drop erase"),
            Command("copy", say("Copy"), self.copy, "Ctrl+C", some, "Edit",
                    "Remembers the selected bodies with the joints among them."),
            Command("paste", say("Paste"), self.paste, "Ctrl+V", lambda: bool(self._copied),
                    "Edit", "Puts what was copied beside its original.", "duplicate"),
            Command("parts", say("Parts of the shelf"), self.show_parts, "A", scene, "Make",
                    "Choose a part, then click the stage to place it.", "add insert new body"),
            Command("stick", say("Stick"), tool("stick"), "S", scene, "Make",
                    "Draws links as sticks, to be dressed as parts later.",
                    "skeleton line link sketch"),
            Command("outline", say("Edit the outline"), self.edit_outline, "F",
                    lambda: len(bench.selection.bodies) == 1, "Make",
                    "Corners, arcs and holes of the selected body's part.", "shape contour form"),
            Command("draw", say("Draw a new part in place"), self.draw_part, "Shift+F", scene,
                    "Make", "A new part, drawn over what stands there.", "sketch"),
            Command("repeat", say("Repeat"), tool("repeat"), "G", scene, "Make",
                    "Rows, rings, mirror images and doubles of what is selected.",
                    "mirror pattern array double copy"),
            Command("cams", say("Cam studio"), self.open_cams, "C", scene, "Make",
                    "A cam by its lift, with its follower.", "eccentric follower lift"),
            Command("import", say("Import an outline…"), self.import_dialog, "Ctrl+I",
                    lambda: bench.has_document, "Make", "Takes outlines from a DXF or SVG file.",
                    "dxf svg drawing"),
            Command("plane_new", say("New plane"), self.new_plane, "Shift+A", scene, "Make",
                    "Square to the plane being worked on; carried by the selected body.",
                    "space 3d square turntable axis"),
            Command("plane_next", say("Work on the next plane"), bench.next_plane, "Shift+Q",
                    lambda: len(bench.session.document.planes) > 1, "",
                    "The stage shows it, new bodies lie on it.", "space 3d"),
            Command("picture", say("Lay a picture under the stage…"), self.picture_dialog, "",
                    lambda: bench.has_document, "Make", "Traces a photograph or a sketch.",
                    "image photo trace background"),
            Command("join", say("Join"), tool("join"), "D", scene, "Relate",
                    "Click two places: pin, slide, slot, curve or rigid.",
                    "connect pin hinge slide weld bolt mate"),
            Command("one_piece", say("Make one piece of what is selected"), self.one_piece, "",
                    lambda: len(bench.selection.bodies) > 1, "Relate",
                    "The selected bodies no longer move against each other.", "weld fix rigid"),
            Command("hold", say("Hold"), lambda: bench.hold(bench.selection.bodies), "T", some,
                    "Relate", "Keeps the selected bodies still while others are dragged.",
                    "freeze lock"),
            Command("keep_pose", say("Keep pose"), self._keep_pose, "V", scene, "Relate",
                    "Makes the pose that was dragged to the start pose.", "start pose"),
            Command("measure", say("Measure"), tool("measure"), "Z", scene, "Relate",
                    "Distance and angle of places, gap of bodies; can be kept.",
                    "distance dimension ruler"),
            Command("mark", say("Mark a place"), tool("mark"), "X", scene, "Relate",
                    "A named place on a body, to join or measure at.", "point"),
            Command("make_unit", say("Make a subassembly of what is selected"), self.make_unit,
                    "Ctrl+U", some, "Subassembly", "To be used several times and changed once.",
                    "unit group"),
            Command("unit_again", say("Use the subassembly again"), self.unit_again,
                    "Ctrl+Shift+U", in_unit, "Subassembly", "Another instance of it, beside it.",
                    "unit instance copy"),
            Command("take_unit", say("Take a subassembly from another document…"),
                    self.unit_dialog, "", scene, "Subassembly", "With its parts and sizes.",
                    "unit insert"),
            Command("unit_apart", say("Take the subassembly apart"), self.unit_apart, "", in_unit,
                    "Subassembly", "Its bodies become plain ones.", "unit ungroup explode"),
            Command("stack", say("Stack"), self._toggle_stack, "Q", scene, "Look",
                    "The section: who lies above whom; drag heights there.",
                    "section layers height"),
            Command("depth", say("Depth, or flat again"), self._turn_depth, "W", scene, "Look",
                    "The mechanism in three dimensions, to be turned and worked on.",
                    "3d orbit perspective corner view relief"),
            Command("depth_beside", say("Depth beside the stage"), self._turn_both, "Shift+W",
                    scene, "", "Both, side by side; again for the stage alone.", "3d split"),
            *self._depth_commands(),
            Command("see_through", say("See through bodies"), self._toggle_see_through, "E",
                    scene, "Look", "Shows joints and what lies below.", "transparent"),
            Command("mass", say("Centre of mass"), self._toggle_mass, "Shift+E", scene, "Relate",
                    "Of all that moves and has a material, and its way over the motion.",
                    "gravity weight balance"),
            Command("hide", say("Hide"), lambda: bench.hide(self._meant()), "B", meant,
                    "Look", "Takes the selected bodies out of sight, not out of the motion."),
            Command("show_only", say("Show only what is selected"),
                    lambda: bench.show_only(self._meant()), "Shift+B", meant, "Look",
                    "Hides all others; of a joint all that it holds together stays.", "isolate"),
            Command("show_all", say("Show all bodies"), lambda: bench.hide(()), "Ctrl+Shift+H",
                    lambda: bool(bench.hidden), "Look", "Brings back what was hidden."),
            Command("joints", say("Show or hide joint symbols"), self._toggle_joints, "", scene,
                    "Look", "For a quieter picture."),
            Command("each", say("Colour every body differently"), self._toggle_each, "", scene,
                    "", "To tell bodies of one part apart."),
        ]  # fmt: skip

    def new_plane(self) -> None:
        """A plane square to that being worked on, carried by the body that is selected."""
        scene, bench = self._bench.drawn_scene(), self._bench
        if scene is None:
            return
        edit, name = square_plane(scene.resolved, bench.plane)
        body = bench.selection.id if len(bench.selection.bodies) == 1 else ""
        carries = scene.index(body) is not None and not scene.resolved.document.body(body).fixed
        if carries:
            edit = Together("New plane", (edit, SetPlane(name, "on", body)))
        if bench.do_once(edit):
            bench.work_on(name)
            bench.select(Selection("plane", name))

    def _meant(self) -> frozenset[str]:
        """The bodies selected, or all that the selected joint holds together."""
        bench = self._bench
        scene, selection = bench.scene, bench.selection
        if selection.kind == "joint" and scene is not None:
            return held_together(scene.resolved, scene.poses, selection.id)
        return frozenset(selection.bodies)

    def _can_delete(self) -> bool:
        selection = self._bench.selection
        asked = {r.id for r in self._bench.session.document.requirements}
        return selection.kind in ("body", "joint", "coupling", "contact", "belt") or (
            selection.kind == "finding" and selection.id in asked
        )

    def show_parts(self) -> None:
        """Turn to the shelf, with the keys in its search."""
        self._bench.go_to_station("Assemble")
        self._room.show_shelf()

    def _keep_pose(self) -> None:
        tool = self._room.pair.front.tool
        if isinstance(tool, SelectTool) and not tool.keep():
            self._bench.report("Nothing to keep: drag a body first, then press V.")

    def _toggle_stack(self) -> None:
        room = self._room
        is_shown = room.middle.currentWidget() is room.stack
        room.middle.setCurrentWidget(room.pair if is_shown else room.stack)

    def _turn_depth(self) -> None:
        pair = self._room.pair
        is_shown = self._room.middle.currentWidget() is pair
        self._room.middle.setCurrentWidget(pair)
        if is_shown or not pair.in_depth:
            pair.turn()

    def _turn_both(self) -> None:
        self._room.middle.setCurrentWidget(self._room.pair)
        self._room.pair.turn_both()

    def _depth_commands(self) -> list[Command]:
        """What the depth view is looked at with; its keys are the figures."""

        def depth() -> DepthView:
            return self._room.pair.deep

        def shown() -> bool:
            return self._room.pair.in_depth and self._room.pair.isVisible()

        def say(words: str):  # type: ignore[no-untyped-def]
            return lambda: words

        looks = (
            ("above", "Look square down at the plane", lambda: depth().turn_to("square"), "1",
             "top plan"),
            ("edge", "Look along the plane", lambda: depth().turn_to("edge"), "2",
             "side front stack"),
            ("corner", "Look from a corner", lambda: depth().turn_to("corner"), "3",
             "isometric axonometric"),
            ("below", "Look from below", lambda: depth().turn_to("below"), "4", "far side bottom"),
            ("perspective", "Perspective or parallel", lambda: depth().switch_perspective(), "5",
             "projection orthographic"),
            ("section", "Cut open, or close again", lambda: depth().switch_section(), "6",
             "section plane cross cutaway"),
            ("apart", "Pull apart, or together again", lambda: depth().pull_apart(
                0.0 if depth().space.share_apart > 0.0 else 1.0), "7", "explode exploded"),
            ("hidden", "Hidden edges", lambda: depth().show_looks(
                hidden_edges=not depth().hidden_edges), "8", "dashed behind"),
            ("floor", "Floor", lambda: depth().show_looks(
                shows_floor=not depth().shows_floor), "9", "grid ground"),
            ("swept", "What the selected body sweeps", lambda: depth().show_looks(
                shows_swept=not depth().shows_swept), "0", "envelope space"),
        )  # fmt: skip
        return [
            Command(f"depth_{name}", say(words), run, key, shown, "", "In the depth view.", also)
            for name, words, run, key, also in looks
        ]

    def _toggle_joints(self) -> None:
        self._room.stage.look(shows_joints=not self._room.stage.shows_joints)

    def _toggle_see_through(self) -> None:
        self._room.stage.look(see_through=not self._room.stage.see_through)

    def _toggle_mass(self) -> None:
        mass = self._room.stage.notes.mass
        mass.on = not mass.on
        if mass.on and mass.path() is None:
            one = len(self._bench.session.document.planes) < 2
            words = "Nothing that moves has a material: state some in the parts list."
            self._bench.report(words if one else "It is known for one plane only so far.")
            mass.on = False
        self._room.stage.look()

    def one_piece(self) -> None:
        """The selected bodies no longer move against each other."""
        scene = self._bench.drawn_scene()
        if scene is not None:
            self._bench.do_once(made_one(scene, self._bench.selection.bodies))

    def _toggle_each(self) -> None:
        self._room.stage.look(each_its_own=not self._room.stage.each_its_own)

    def delete(self) -> None:
        """Take out what is selected; what depends on it is named first."""
        bench, selection = self._bench, self._bench.selection
        alone = {
            "finding": "requirements",
            "coupling": "couplings",
            "contact": "contacts",
            "belt": "belts",
        }.get(selection.kind)
        if alone is not None:
            chosen = Going(**{alone: frozenset((selection.id,))})
            bench.do_once(Remove(chosen, "Delete"))
            bench.select(Selection())
            return
        document, scene = bench.session.document, self._bench.drawn_scene()
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
        bench.do_once(edit)
        bench.select(Selection())

    def copy(self) -> None:
        """Remember the selected bodies."""
        self._copied = self._bench.selection.bodies

    def paste(self) -> None:
        """The bodies copied, with the joints among them, beside where they stand."""
        scene = self._bench.drawn_scene()
        bodies = (
            self._copied
            if scene is None
            else tuple(body for body in self._copied if scene.index(body) is not None)
        )
        if scene is None or not bodies:
            self._bench.report("What was copied is no longer there.")
            return
        joints = frozenset(joint for joint, _ in outer_joints(scene, bodies))
        wish = RepeatWish("row", 2, BESIDE, -BESIDE, without=joints)
        self._do_repeat(repeat(scene, bodies, wish))

    def _do_repeat(self, found: Repeat) -> None:
        self._bench.do_once(found.edit)
        self._bench.select(Selection("body", found.bodies[0], found.bodies[1:]))

    def make_unit(self) -> None:
        """The selected bodies, with the joints among them, become a unit."""
        bench, scene = self._bench, self._bench.drawn_scene()
        if scene is None:
            return
        try:
            edit, use = unit_of(scene, bench.selection.bodies)
        except AnakinemaError as error:
            bench.report(error)
            return
        inner = f"{use}__{bench.selection.id}"
        bench.do_once(edit)
        bench.select(Selection("body", inner))

    def unit_again(self) -> None:
        """Another use of the selected unit, beside it."""
        scene, use = self._bench.drawn_scene(), use_of(self._bench.selection.id)
        if scene is not None and use is not None:
            self._do_repeat(unit_again(scene, use, BESIDE, -BESIDE))

    def unit_apart(self) -> None:
        """The selected use becomes plain bodies."""
        scene, use = self._bench.drawn_scene(), use_of(self._bench.selection.id)
        if scene is not None and use is not None:
            self._bench.do_once(unit_apart(scene, use))
            self._bench.select(Selection())

    def unit_dialog(self) -> None:
        """Choose a document to take a unit from."""
        name, _ = QFileDialog.getOpenFileName(self._room.frame, "Take a subassembly", "", DOCUMENTS)
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
        scene = self._bench.drawn_scene()
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
        scene = self._bench.drawn_scene()
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
        scene = bench.drawn_scene()
        if scene is None:
            return
        edit, body = drawn_in_place(scene, stage.view.x, stage.view.y)
        bench.do_once(edit)
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
        self._bench.do_once(AddPicture(picture))
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
