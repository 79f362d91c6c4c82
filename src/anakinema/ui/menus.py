"""What can be done to the thing under the pointer: the menu of everything that can be selected."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from anakinema.authoring import drive, plane_on_edge, plane_on_face, trace_place, traced_places
from anakinema.document import Going, spec_of
from anakinema.edits import (
    Edit,
    Remove,
    RemovePlane,
    RemoveStage,
    ReverseJoint,
    SetBody,
    can_reverse,
)
from anakinema.ui.commands import Command
from anakinema.ui.menu import add_command
from anakinema.ui.workbench import Face, Selection, Workbench

ON_BODY = (
    "outline",
    "repeat",
    "copy",
    "make_unit",
    "unit_again",
    "unit_apart",
    "hold",
    "hide",
    "show_only",
    "delete",
)
ON_JOINT = ("show_only", "hide", "delete")
ONLY = ("delete",)
ON_NOTHING = (
    "parts",
    "join",
    "stick",
    "paste",
    "measure",
    "fit",
    "see_through",
    "depth",
    "show_all",
)


def menu_on(
    workbench: Workbench, selection: Selection, commands: Sequence[Command], parent: QWidget
) -> QMenu:
    """The menu of what is selected; of the stage if nothing is."""
    menu = QMenu(parent)
    known = {command.id: command for command in commands}

    def do(edit: Edit | None) -> None:
        if edit is not None:
            workbench.do_once(edit)

    if selection.kind == "body":
        _add_body(menu, workbench, selection, do)
        face = workbench.face
        if face is not None and face.body == selection.id:
            menu.addAction("New plane on this face", partial(_lay_plane, workbench, face))
            if _on_edge(workbench, face) is not None:
                menu.addAction("New plane across this edge", partial(_across_edge, workbench, face))
    elif selection.kind == "plane":
        menu.addAction("Work on it", lambda: workbench.work_on(selection.id))
        menu.addAction("Delete", lambda: do(RemovePlane(selection.id)))
    elif selection.kind == "joint":
        _add_joint(menu, workbench, selection, do)
    elif selection.kind == "stage" and selection.id.isdecimal():
        menu.addAction(
            f"Remove stage {int(selection.id) + 1}", lambda: do(RemoveStage(int(selection.id)))
        )
    shown = {"body": ON_BODY, "joint": ON_JOINT, "": ON_NOTHING, "plane": ()}.get(
        selection.kind, ONLY
    )
    for name in shown:
        if known[name].is_enabled():
            add_command(menu, known[name])
    return menu


def _lay_plane(workbench: Workbench, face: Face) -> None:
    """A plane on a face, carried by its body."""
    scene = workbench.drawn_scene()
    index = scene.index(face.body) if scene is not None else None
    if scene is not None and index is not None:
        _lay(workbench, plane_on_face(scene.resolved, index, face.point, face.normal))


def _on_edge(workbench: Workbench, face: Face) -> tuple[Edit, str] | None:
    """The plane across the edge under the pointer, if there is one."""
    scene = workbench.drawn_scene()
    index = scene.index(face.body) if scene is not None else None
    if scene is None or index is None:
        return None
    return plane_on_edge(scene.resolved, index, face.point, face.normal, face.reach)


def _across_edge(workbench: Workbench, face: Face) -> None:
    """A plane for what turns about an edge."""
    made = _on_edge(workbench, face)
    if made is not None:
        _lay(workbench, made)


def _lay(workbench: Workbench, made: tuple[Edit, str]) -> None:
    """A new plane; it is worked on at once."""
    edit, name = made
    if workbench.do_once(edit):
        workbench.work_on(name)
        workbench.select(Selection("plane", name))


def _ask(workbench: Workbench, selection: Selection) -> None:
    """To Check, where what is selected fills the sentence."""
    workbench.go_to_station("Check")
    workbench.select(Selection())
    workbench.select(selection)


def _add_body(menu: QMenu, workbench: Workbench, selection: Selection, do) -> None:  # type: ignore[no-untyped-def]
    document = workbench.session.document
    own = next((body for body in document.bodies if body.id == selection.id), None)
    words = "Ask the gap of the two" if len(selection.bodies) == 2 else "Ask its gap to others"
    if len(selection.bodies) <= 2:
        menu.addAction(words, partial(_ask, workbench, selection))
    if own is not None and len(selection.bodies) == 1:
        words = "Let it move" if own.fixed else "Fix it"
        menu.addAction(words, lambda: do(SetBody(own.id, "fixed", not own.fixed)))
        if not own.fixed:
            _add_paths(menu, workbench, own.id, do)


def _add_paths(menu: QMenu, workbench: Workbench, body: str, do) -> None:  # type: ignore[no-untyped-def]
    """The places of a body, each to be traced, or no more."""
    scene = workbench.drawn_scene()
    if scene is None or scene.index(body) is None:
        return
    kept = traced_places(workbench.session.document, body)
    paths = menu.addMenu("Trace the path of")
    for place in scene.resolved.part_of(scene.resolved.document.body(body)).places:
        action = paths.addAction(place.replace("_", " "))
        action.setCheckable(True)
        action.setChecked(place in kept)
        if place in kept:
            gone = Going(measures=frozenset((kept[place],)))
            action.triggered.connect(lambda _=False, g=gone: do(Remove(g, "Trace no more")))
        else:
            edit = trace_place(scene.resolved, body, place)
            action.triggered.connect(lambda _=False, e=edit: do(e))


def _add_joint(menu: QMenu, workbench: Workbench, selection: Selection, do) -> None:  # type: ignore[no-untyped-def]
    document = workbench.session.document
    joint = next((each for each in document.joints if each.id == selection.id), None)
    driver = next((d.id for d in document.program.drivers if d.joint == selection.id), None)

    def begin() -> None:
        scene = workbench.drawn_scene()
        do(drive(scene, selection.id) if scene is not None else None)

    if joint is None or not spec_of(joint.kind).moves:
        return
    if driver is None:
        menu.addAction("Drive it", begin)
    else:
        gone = Going(drivers=frozenset((driver,)))
        menu.addAction("Drive it no more", lambda: do(Remove(gone, "Drive no more")))
    menu.addAction("Ask its travel", partial(_ask, workbench, selection))
    if can_reverse(joint):
        menu.addAction("Turn its sides round", lambda: do(ReverseJoint(joint.id)))
