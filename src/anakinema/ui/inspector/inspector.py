"""The inspector: the selected thing, its few numbers editable in place, and why a finding is so."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from anakinema.authoring import made_one, use_of
from anakinema.document import model
from anakinema.edits import Edit, RemovePicture, SetName, SetPicture, SetUnits
from anakinema.errors import AnakinemaError
from anakinema.ui.drafts import Drafts
from anakinema.ui.fields import source_text
from anakinema.ui.inspector.body import build_body, build_parameter
from anakinema.ui.inspector.connections import build_belt, build_contact, build_coupling
from anakinema.ui.inspector.finding import build_finding
from anakinema.ui.inspector.form import Form
from anakinema.ui.inspector.instance import build_inner_joint, build_use
from anakinema.ui.inspector.join_panel import JoinPanel
from anakinema.ui.inspector.joint import build_joint
from anakinema.ui.inspector.mark_panel import MarkPanel
from anakinema.ui.inspector.plane import build_plane
from anakinema.ui.inspector.pose import build_pose
from anakinema.ui.inspector.program_stage import build_stage
from anakinema.ui.inspector.repeat_panel import RepeatPanel
from anakinema.ui.inspector.trial import build_trial
from anakinema.ui.later import Later
from anakinema.ui.workbench import Selection, Workbench

LENGTHS = ("mm", "cm", "m", "in", "thou")
ANGLES = ("deg", "rad")


class Inspector(QStackedWidget):
    """The form of what is selected, or of the join being made."""

    def __init__(self, workbench: Workbench, drafts: Drafts) -> None:
        super().__init__()
        self.setObjectName("inspector")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._workbench = workbench
        self._form = SelectionForm(workbench)
        self.addWidget(self._form)
        self.addWidget(self._scrolled(Later(lambda: JoinPanel(workbench, drafts.join))))
        self.addWidget(self._scrolled(Later(lambda: RepeatPanel(workbench, drafts.repeat))))
        self.addWidget(self._scrolled(Later(lambda: MarkPanel(workbench, drafts.mark))))
        workbench.tool_changed.connect(self._turn)

    def _scrolled(self, panel: QWidget) -> QScrollArea:
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(panel)
        return area

    def _turn(self) -> None:
        self.setCurrentIndex({"join": 1, "repeat": 2, "mark": 3}.get(self._workbench.tool, 0))


class SelectionForm(QScrollArea):
    """Rebuilt when another thing is selected; only its texts change while numbers change."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setAccessibleName("what is selected")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._workbench = workbench
        self._form: Form | None = None
        self._shape: object = None
        workbench.selection_changed.connect(self._build)
        workbench.document_changed.connect(self._document_changed)
        workbench.evaluated.connect(self._show_live)
        workbench.playhead_moved.connect(self._show_live)
        self._build()

    def _document_changed(self) -> None:
        if self._layout_shape() != self._shape:
            self._build()
        elif self._form is not None:
            self._form.refresh()

    def _layout_shape(self) -> object:
        """What must stay the same for the rows on show to stay valid."""
        document = self._workbench.session.document
        return (
            self._workbench.selection,
            self._workbench.has_document,
            tuple(p.id for p in document.parameters),
            tuple(
                (p.id, tuple(d.id for d in p.dimensions), tuple(q.id for q in p.places))
                for p in document.parts
            ),
            tuple((b.id, b.name, b.part) for b in document.bodies),
            tuple((u.id, u.name, u.subassembly) for u in document.instances),
            tuple((u.id, u.name, u.origin) for u in document.subassemblies),
            tuple((j.id, j.name, j.kind, j.first, j.second) for j in document.joints),
            tuple(d.joint for d in document.program.drivers),
            tuple((c.id, c.title, c.kind) for c in document.couplings),
            tuple((c.id, c.title, c.kind) for c in document.contacts),
            tuple((b.id, b.title, len(b.wheels)) for b in document.belts),
            tuple((tuple(m.driver for m in s.moves), s.step) for s in document.program.stages),
            tuple(p.id for p in document.pictures),
            tuple((t.id, t.title) for t in document.trials),
            tuple((p.id, p.title) for p in document.poses),
            tuple((p.id, p.title) for p in document.planes),
            self._workbench.plane,
        )

    def _show_live(self) -> None:
        if self._form is not None:
            self._form.show_live()

    def _build(self) -> None:
        self._shape = self._layout_shape()
        panel = QWidget()
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(2)
        form = self._form = Form(self._workbench, layout)
        selection, document = self._workbench.selection, self._workbench.session.document
        builders: dict[str, Callable[[Form, str], None]] = {
            "body": build_body,
            "joint": build_joint,
            "finding": build_finding,
            "stage": build_stage,
            "trial": build_trial,
            "pose": build_pose,
            "plane": build_plane,
            "coupling": build_coupling,
            "contact": build_contact,
            "belt": build_belt,
        }
        if len(selection.bodies) > 1:
            self._build_several(form, selection)
        elif selection.kind == "body" and use_of(selection.id) is not None:
            build_use(form, selection.id)
        elif selection.kind == "joint" and use_of(selection.id) is not None:
            build_inner_joint(form, selection.id)
        elif selection.kind in builders and _exists(selection, document):
            builders[selection.kind](form, selection.id)
        elif self._workbench.has_document:
            self._build_document(form)
        layout.addStretch(1)
        # A row of the old panel may be what asked for this: it must outlive its own signal.
        old = self.takeWidget()
        if old is not None:
            old.deleteLater()
        if self._form is not form:
            # What was typed in the old panel has gone out, and another was built for that.
            panel.deleteLater()
            return
        self.setWidget(panel)
        form.show_live()

    def _build_document(self, form: Form) -> None:
        document = self._workbench.session.document
        form.heading(document.name, document.note)
        form.text("Name", "document_name", lambda: self._workbench.session.document.name, SetName)
        for which, options in (("length", LENGTHS), ("angle", ANGLES)):
            form.choice(
                f"{which.capitalize()}s in",
                f"unit_{which}",
                [(u, u) for u in options],
                partial(lambda w: str(getattr(self._workbench.session.document.units, w)), which),
                partial(self._units, which),
            )
        if document.parameters:
            form.section("Parameters")
            for parameter in document.parameters:
                build_parameter(form, parameter)
        for picture in document.pictures:
            self._build_picture(form, picture.id)
        form.layout.addSpacing(10)
        form.quiet("Click a body on the stage, a gauge or a check to see its numbers.")

    def _build_picture(self, form: Form, picture_id: str) -> None:
        bench = self._workbench

        def number(field: str) -> str:
            found = next((p for p in bench.session.document.pictures if p.id == picture_id), None)
            return source_text(getattr(found, field, None))

        form.section(f"Picture {picture_id.replace('_', ' ')}")
        form.quantities(
            ("x", "y", "angle", ("pixel", "a pixel is")),
            "picture",
            number,
            lambda field, text: SetPicture(picture_id, ((field, text),)),
        )
        seen = [("0.25", "faint"), ("0.5", "half"), ("1", "fully")]
        form.choice(
            "Seen",
            "picture_opacity",
            seen,
            lambda: number("opacity"),
            lambda key: SetPicture(picture_id, (("opacity", float(key)),)),
        )
        form.buttons(
            ("picture_scale", "Scale by a length", lambda: bench.use_tool(f"scale:{picture_id}")),
            ("picture_drop", "Delete", lambda: form.once(RemovePicture(picture_id))),
        )

    def _units(self, which: str, unit: str) -> Edit | None:
        units = self._workbench.session.document.units
        chosen = {"length": units.length, "angle": units.angle, which: unit}
        edit = SetUnits(str(chosen["length"]), str(chosen["angle"]))
        try:
            edit.apply(self._workbench.session.document)
        except AnakinemaError as error:
            self._workbench.report(error)
            return None
        return edit

    def _build_several(self, form: Form, selection: Selection) -> None:
        bench = self._workbench
        bodies = bench.scene.resolved.document.bodies if bench.scene is not None else ()
        titles = [body.title for body in bodies if body.id in selection.bodies]
        form.heading(f"{len(selection.bodies)} bodies", ", ".join(titles))
        form.buttons(
            ("several_hold", "Hold", lambda: bench.hold(selection.bodies)),
            ("several_hide", "Hide", lambda: bench.hide(selection.bodies)),
            ("several_only", "Show only these", lambda: bench.show_only(selection.bodies)),
        )
        form.buttons(("several_one", "Make one piece", self._one_piece))
        form.quiet(
            "Ctrl+U makes a subassembly of them; a body inside one stands for the whole instance."
        )

    def _one_piece(self) -> None:
        scene = self._workbench.drawn_scene()
        if scene is not None and self._form is not None:
            self._form.once(made_one(scene, self._workbench.selection.bodies))


def _exists(selection: Selection, document: model.Document) -> bool:
    if selection.kind == "body":
        return any(body.id == selection.id for body in document.bodies)
    if selection.kind == "joint":
        return any(joint.id == selection.id for joint in document.joints)
    if selection.kind == "coupling":
        return any(each.id == selection.id for each in document.couplings)
    if selection.kind == "contact":
        return any(each.id == selection.id for each in document.contacts)
    if selection.kind == "belt":
        return any(each.id == selection.id for each in document.belts)
    if selection.kind == "trial":
        return any(t.id == selection.id for t in document.trials)
    if selection.kind == "plane":
        return any(plane.id == selection.id for plane in document.planes)
    if selection.kind == "pose":
        return any(pose.id == selection.id for pose in document.poses)
    if selection.kind == "stage":
        return selection.id.isdecimal() and int(selection.id) < len(document.program.stages)
    return True
